"""Peak heat: darker is hotter, the sun's side hotter, metal hotter than wood; a sol-air bound."""

from amber_gable.core.air.sun import Place, Shade
from amber_gable.core.wall.climate import ClimateSurface
from amber_gable.core.wall.peak_heat import HIGH_C, peak_surface_temp_c

PLACE = Place(43.8, -91.25, 205.0)


def peak(absorptance=0.8, azimuth=240.0, tilt=90.0, capacity=4.0, place=PLACE, **more) -> float:
    return float(peak_surface_temp_c(place, [ClimateSurface("s", azimuth, tilt, absorptance, capacity, **more)])[0])


def test_darker_sunnier_and_thinner_are_hotter():
    assert peak(0.9) > peak(0.6) + 5 > peak(0.3) + 10
    assert peak(azimuth=240) > peak(azimuth=0) + 5
    assert peak(capacity=4) > peak(capacity=150)
    assert peak(0.9, tilt=20) > peak(0.9, azimuth=0, tilt=90)
    assert peak(shades=(Shade(0.0, 360.0, 89.0),)) < peak() - 8


def test_it_is_above_the_air_and_below_the_sol_air_bound():
    # ASHRAE sol-air: air + a I / h, with I at most about 1050 W/m2 and h at least 9 W/m2K in still air (5 to the air by
    # convection, the rest radiated).
    for absorptance in (0.1, 0.5, 0.95):
        assert HIGH_C - 3 < peak(absorptance) < HIGH_C + absorptance * 1050 / 9


def test_the_southern_summer_is_half_a_year_later():
    north, south = peak(azimuth=270), peak(azimuth=270, place=Place(-43.8, -91.25, 205.0))
    # The sun is 3.4 % nearer in January and its light 7 % stronger: some 35 K above the air become 38 to 41.
    assert north < south < HIGH_C + 1.25 * (north - HIGH_C)

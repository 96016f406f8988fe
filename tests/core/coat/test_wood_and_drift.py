"""Wood moisture against the published table; droplets against measured falls and the handbook's own law."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.coat.drift import flight, life_s, terminal_velocity_m_s
from amber_gable.core.wall.wood_moisture import equilibrium_moisture_pct

# Wood Handbook (FPL-GTR-190), table 4-2: equilibrium moisture [%] at 21.1 °C (70 °F) by relative humidity.
AT_70F = {5: 1.3, 10: 2.5, 20: 4.5, 30: 6.2, 40: 7.7, 50: 9.2, 60: 11.0, 65: 12.0, 70: 13.1, 80: 16.0, 90: 20.5, 95: 23.9}


def test_equilibrium_moisture_is_that_of_the_wood_handbook():
    found = equilibrium_moisture_pct(21.1, list(AT_70F))
    # The table has one decimal; half of it and a hair.
    np.testing.assert_allclose(found, list(AT_70F.values()), atol=0.06)


@given(st.floats(15, 60), st.floats(2, 99), st.floats(0.5, 20))
def test_damper_air_never_makes_drier_wood_and_warmer_never_wetter(temp, humidity, more):
    assert equilibrium_moisture_pct(temp, min(humidity + more, 100)) >= equilibrium_moisture_pct(temp, humidity)
    assert equilibrium_moisture_pct(temp + more, humidity) <= equilibrium_moisture_pct(temp, humidity) + 1e-9
    assert np.isnan(equilibrium_moisture_pct(np.nan, humidity))


# Gunn and Kinzer (1949), measured fall of water drops in air at 20 °C, 1013 hPa [m/s] by diameter [µm].
MEASURED = {100: 0.27, 200: 0.72, 300: 1.17, 500: 2.06, 800: 3.27, 1000: 4.03}


@pytest.mark.parametrize("droplet", MEASURED)
def test_droplets_fall_as_measured(droplet):
    # Schiller and Naumann's drag is within some 5 % of a sphere's, the measurements within a few.
    assert terminal_velocity_m_s(droplet, 20.0) == pytest.approx(MEASURED[droplet], rel=0.09)


def test_a_fine_droplet_falls_by_stokes():
    # d² g (ρ - ρa) / 18 µ for 10 µm at 20 °C: 3.0 mm/s.
    assert terminal_velocity_m_s(10, 20.0) == pytest.approx((10e-6) ** 2 * 9.80665 * (998 - 1.204) / (18 * 1.814e-5), rel=5e-3)


def test_life_by_the_handbook_and_how_it_lands():
    # 100 µm at a depression of 6 °C: 10,000 / 480 = 20.8 s; it falls 5 m in about 20.
    assert life_s(100, 6.0) == pytest.approx(10_000 / 480)
    assert life_s(100, 0.0) is None
    high, low = (flight("waterborne", 60, h, 3.0, 25.0, 15.0) for h in (6.0, 0.2))
    assert (high.lands, low.lands) == ("dry", "wet")
    assert high.distance_m == pytest.approx(3.0 * high.fall_s)
    oil = flight("oil", 60, 6.0, 3.0, 25.0, 15.0)
    assert (oil.lands, oil.dry_s, oil.fall_s) == ("wet", None, high.fall_s)


@given(st.floats(5, 1500), st.floats(0.2, 30), st.floats(0, 20), st.floats(-5, 45))
def test_larger_drops_fall_faster_and_more_wind_carries_farther(droplet, height, wind, temp):
    small, large = (flight("waterborne", d, height, wind, temp, temp - 3) for d in (droplet, droplet * 1.2))
    assert large.fall_s < small.fall_s
    assert flight("waterborne", droplet, height, wind + 1, temp, temp - 3).distance_m > small.distance_m

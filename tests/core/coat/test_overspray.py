"""Overspray against the flight of its droplets: downwind or not, near or far, wet or as dust."""

import pytest

from amber_gable.core.coat.drift import terminal_velocity_m_s
from amber_gable.core.coat.overspray import Near, overspray
from amber_gable.core.knowledge.shipped import shipped

SPRAY = shipped().spray
BOATS = Near("boats", 90.0, 9.0)


def blown(around=(BOATS,), *, kind="waterborne", wind=4.0, from_deg=270.0, top=5.0, air=25.0, wet_bulb=18.0):
    return overspray(kind, top, wind, from_deg, air, wet_bulb, around, SPRAY)


def test_paint_goes_as_far_as_its_droplets_fall_slowly():
    found = blown()
    for flight, um in ((found.paint, SPRAY.coarse_um), (found.mist, SPRAY.droplet_um)):
        assert flight.distance_m == pytest.approx(4.0 * 5.0 / terminal_velocity_m_s(um, 25.0))
    assert found.mist.distance_m > 2 * found.paint.distance_m
    assert found.blows_to_deg == 90


@pytest.mark.parametrize(("bearing", "is_reached"), [(90, True), (140, True), (31, True), (151, False), (29, False), (270, False)])
def test_what_stands_within_sixty_degrees_of_downwind_is_reached(bearing, is_reached):
    reached = blown([Near("car", float(bearing), 3.0)]).reached[0]
    assert (reached.by != "clear") == is_reached


def test_over_north_the_angle_is_the_short_one():
    assert blown([Near("car", 350.0, 3.0)], from_deg=190.0).reached[0].by == "paint"
    assert blown([Near("car", 10.0, 3.0)], from_deg=170.0).reached[0].by == "paint"


def test_near_by_paint_farther_by_mist_beyond_by_neither():
    found = blown()
    between = (found.paint.distance_m + found.mist.distance_m) / 2
    around = [Near("far", 90.0, found.mist.distance_m + 1), Near("middle", 90.0, between), Near("near", 90.0, found.paint.distance_m - 0.1)]
    assert [(r.near.name, r.by) for r in blown(around).reached] == [("near", "paint"), ("middle", "mist"), ("far", "clear")]


def test_what_stands_nobody_knows_where_is_taken_as_downwind():
    assert blown([Near("pond", None, 2.0)], from_deg=0.0).reached[0].by == "paint"
    assert blown([Near("car", 0.0, None)], from_deg=180.0).reached[0].by == "paint", "no distance: at the wall"
    assert blown([BOATS], from_deg=None).reached[0].by != "clear", "and in a wind from nobody knows where"


def test_water_dries_on_a_hot_dry_day_and_oil_never_does():
    # d²/(80 x 14) s: the mist of 60 µm lives 3 s and falls for longer.
    hot = blown([Near("car", 90.0, 100.0)], air=32.0, wet_bulb=18.0)
    assert hot.mist.lands == "dry"
    assert hot.reached[0].lands == "dry"
    oil = blown([Near("car", 90.0, 100.0)], kind="oil", air=32.0, wet_bulb=18.0)
    assert {oil.mist.lands, oil.paint.lands, oil.reached[0].lands} == {"wet"}
    assert blown(air=15.0, wet_bulb=15.0).mist.lands == "wet", "in saturated air nothing dries"


def test_more_wind_never_spares_what_less_wind_reached():
    order = {"clear": 0, "mist": 1, "paint": 2}
    reached = [order[blown([Near("car", 90.0, 25.0)], wind=w).reached[0].by] for w in (0.0, 0.5, 1, 2, 4, 8)]
    assert reached == sorted(reached)
    assert reached[0] == 0
    assert reached[-1] == 2

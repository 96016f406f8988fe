"""Light on planes: low sun warms, shade cools and darkens, and nothing is lost on the way to a screen."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.air.sun import Place, on_planes, sky
from amber_gable.core.coat.colour import hex_of, linear_rgb, lrv_pct
from amber_gable.core.coat.light import air_mass, lights_at, seen_hex, sky_tint, sun_tint
from amber_gable.core.systems.zones import board_plan, looks

GREY = "#808080"
PLACE = Place(43.80, -91.25, 205)
# 15 September 2026 at Heron Ferry: 08:50, 13:00 and 17:10 local.
MORNING, NOON, EVENING = 1789480200.0, 1789495200.0, 1789510200.0


def warmth(rgb) -> float:
    return rgb[0] / rgb[2]


@pytest.mark.parametrize(
    ("elevation", "published"),
    # Kasten and Young 1989, table; overhead 1 by definition.
    [(90, 1.0), (30, 1.9939), (10, 5.5841), (5, 10.3164), (0, 37.9196)],
)
def test_air_mass_is_as_published(elevation, published):
    assert air_mass(elevation) == pytest.approx(published, rel=3e-3)


def test_low_sun_is_warm_a_clear_sky_is_cool_and_each_has_luminance_one():
    heights = [2, 5, 10, 20, 40, 60]
    warm = [warmth(sun_tint(h)) for h in heights]
    assert warm == sorted(warm, reverse=True)
    # 42 degrees up is what is called neutral here.
    assert sun_tint(41.8) == pytest.approx([1, 1, 1], abs=0.01)
    assert all(warmth(sky_tint(h)) < warmth(sun_tint(h)) for h in heights)
    for tint in (sun_tint(5), sky_tint(50)):
        assert tint @ [0.2126, 0.7152, 0.0722] == pytest.approx(1)


def test_a_house_through_a_day():
    when = sky(PLACE, np.array([MORNING, NOON, EVENING]), 0)
    facing = {"north": 0, "east": 90, "south": 180, "west": 270}
    planes = on_planes(when, list(facing.values()), [90] * 4)
    at = [dict(zip(facing, lights_at(when, planes, i), strict=True)) for i in range(3)]
    lit = [{name for name, light in hour.items() if light.is_direct} for hour in at]
    assert "east" in lit[0] - lit[2] and "south" in lit[1] and "west" in lit[2] - lit[0] and not any("north" in hour for hour in lit)  # noqa: PT018
    for hour, lit, shaded in ((at[0], "east", "west"), (at[1], "south", "north"), (at[2], "west", "east")):
        assert hour[lit].level == 1.0 > hour[shaded].level
        assert warmth(hour[lit].tint) > warmth(hour[shaded].tint)
        # Shade is judged by eyes that are used to it: dimmer, not black.
        assert hour[shaded].level > 0.25
    assert warmth(at[0]["east"].tint) > warmth(at[1]["south"].tint)
    assert lrv_pct(seen_hex(GREY, at[1]["north"])) < lrv_pct(seen_hex(GREY, at[1]["south"]))
    # Early and late are mirror images of each other.
    assert warmth(at[2]["west"].tint) == pytest.approx(warmth(at[0]["east"].tint), rel=0.05)


@given(st.integers(0, 0xFFFFFF))
def test_a_code_survives_the_way_to_light_and_back(number):
    code = f"#{number:06x}"
    assert hex_of(linear_rgb(code)) == code


def test_when_to_look_and_what_to_make():
    light = np.zeros(96, dtype=bool)
    light[28:76] = True
    sun = np.zeros(96, dtype=bool)
    sun[28:52] = True
    assert [(look.step, look.light) for look in looks(sun, light)] == [
        (32, "early in its sun"),
        (47, "late in its sun"),
        (64, "in its shade"),
    ]
    dark = np.zeros(96, dtype=bool)
    assert [look.light for look in looks(dark, light)] == ["in its shade"]
    assert looks(sun, dark) == []
    sun[34:] = False
    assert [look.light for look in looks(sun, light)] == ["early in its sun", "in its shade"]
    plan = board_plan(3, 2, 9.0)
    # Two boards of 2 ft, two coats, nine square metres from a litre.
    assert (plan.boards, plan.litres_each, plan.too_few, plan.too_many) == (6, pytest.approx(0.165, abs=0.001), False, False)
    assert board_plan(2, 2, 9.0).too_few
    assert board_plan(5, 2, 9.0).too_many

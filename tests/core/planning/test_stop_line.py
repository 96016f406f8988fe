"""Stop line: areas by hand, joints in order, never past what is reached; rain that is seen; the wet edge."""

from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.air.humid import vapour_pressure_pa
from amber_gable.core.air.weather import SEEN_RAIN_MM, Weather, with_rain
from amber_gable.core.coat.drying import open_time_min
from amber_gable.core.geometry import Rect, Region
from amber_gable.core.planning.stop_line import SPARE_H, Joint, joints_of, net_area_between, section_m2, stop_line

# A wall of 10 m by 4 m with two windows of 1 m by 1.5 m and a door of 1 m by 2 m.
WALL = Region(((0, 0), (10, 0), (10, 4), (0, 4)))
WINDOWS = (Rect(2, 1, 1, 1.5), Rect(7, 1, 1, 1.5))
DOOR = Rect(4.5, 0, 1, 2)
OPENINGS = [("window", WINDOWS[0]), ("window", WINDOWS[1]), ("door", DOOR)]
RECTS = [*WINDOWS, DOOR]
GABLE = Region(((0, 0), (8, 0), (4, 3)))


def test_areas_by_hand():
    assert net_area_between(WALL, RECTS, 0, 10) == pytest.approx(40 - 2 * 1.5 - 2)
    assert net_area_between(WALL, RECTS, 0, 3) == pytest.approx(12 - 1.5)
    assert net_area_between(WALL, RECTS, 5, 3) == pytest.approx(8 - 0.5 * 2)
    # Of a gable 8 m wide and 3 m high the first quarter of the width holds an eighth of the area.
    assert net_area_between(GABLE, [], 0, 2) == pytest.approx(12 / 8)


def test_joints_are_called_as_one_calls_them_and_come_in_working_order():
    downspout = Joint(8.5, "the downspout")
    names = [j.name for j in joints_of(WALL, OPENINGS, [downspout], "left")]
    assert names == ["the left side of the first window", "the right side of the first window", "the left side of the door",
                     "the right side of the door", "the left side of the second window", "the right side of the second window",
                     "the downspout", "the right corner"]  # fmt: skip
    back = joints_of(WALL, OPENINGS, [downspout], "right")
    assert (back[0].name, back[-1].name) == ("the downspout", "the left corner")
    # The side of a lower window that runs under an upper one is no place to stop.
    over = [("window", Rect(2, 0.5, 1, 1)), ("window", Rect(2.5, 2, 1, 1))]
    assert [j.x_m for j in joints_of(WALL, over, [], "left")] == [2, 3.5, 10]


@pytest.mark.parametrize(
    ("pace", "hours", "stop"),
    [
        # Up to the left of the door: 18 - 1.5 = 16.5 m2, at 10 m2/h 1 h 39 min; the right of the window 10.5 m2, 1 h 3 min.
        (10.0, 1.75, "the left side of the door"), (10.0, 1.70, "the right side of the first window"), (10.0, 0.5, None),
        (10.0, 9.0, "the right corner"), (20.0, 1.0, "the left side of the door"),
    ],
)  # fmt: skip
def test_the_last_joint_in_time(pace, hours, stop):
    found = stop_line(WALL, RECTS, joints_of(WALL, OPENINGS, [], "left"), 0.0, "left", pace, hours)
    assert (found.stop.joint.name if found.stop else None) == stop
    assert found.is_whole == (stop == "the right corner")


@given(st.floats(0.1, 9.9), st.floats(1, 80), st.floats(0, 8), st.floats(0, 2), st.sampled_from(["left", "right"]))
def test_more_time_or_hands_never_stops_sooner_and_nothing_is_promised_late(at, pace, hours, more, begins):
    joints = joints_of(WALL, OPENINGS, [], begins)
    found, longer, faster = (
        stop_line(WALL, RECTS, joints, at, begins, p, h) for p, h in ((pace, hours), (pace, hours + more), (pace * (1 + more), hours))
    )
    for other in (longer, faster):
        assert (found.stop.area_m2 if found.stop else 0) <= (other.stop.area_m2 if other.stop else 0) + 1e-9
    if found.stop:
        assert found.stop.at_h <= hours - SPARE_H + 1e-6
    areas = [r.area_m2 for r in found.ahead]
    assert areas == sorted(areas)


def test_rain_that_is_seen_begins_and_ends_to_the_minute():
    start = datetime.fromisoformat("2026-09-15T06:00:00+00:00")
    times = [start + timedelta(hours=n) for n in range(12)]
    calm = Weather(times, *(np.full(12, v) for v in (18.0, 60.0, 2.0, 30.0)), rain_probability_pct=np.full(12, 10.0))
    a, b = (datetime.fromisoformat(f"2026-09-15T{t}:00+00:00").timestamp() for t in ("10:20", "11:20"))
    seen = with_rain(calm, a, b)
    assert len(seen.times) == 14
    assert seen.epoch_s[list(seen.rain_mm > 0)].tolist() == [a, datetime.fromisoformat("2026-09-15T11:00:00+00:00").timestamp()]
    assert set(seen.rain_probability_pct[seen.rain_mm > 0]) == {100.0}
    assert set(seen.rain_probability_pct[seen.rain_mm == 0]) == {10.0}
    assert seen.rain_mm.max() == SEEN_RAIN_MM["light"]
    assert with_rain(calm, a, b, "heavy").rain_mm.max() == SEEN_RAIN_MM["heavy"]
    assert set(seen.air_temp_c) == {18.0}
    # What lies outside what is known changes nothing.
    assert with_rain(calm, b + 1e6, b + 2e6) is calm


def test_the_edge_goes_off_sooner_in_heat_wind_and_dry_air():
    damp, dry = (float(vapour_pressure_pa(25.0, rh)) for rh in (80.0, 25.0))
    usual = float(vapour_pressure_pa(25.0, 50.0))
    assert open_time_min("waterborne", 12.0, 25.0, usual, 1.0) == pytest.approx(12.0)
    hot = open_time_min("waterborne", 12.0, 45.0, dry, 4.0)
    assert hot < 6 < 12 < open_time_min("waterborne", 12.0, 15.0, damp, 0.5) <= 48
    # Twenty painter-minutes at 12 m2/h are 4 m2.
    assert section_m2(20.0, 12.0) == pytest.approx(4.0)

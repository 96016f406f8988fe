"""Ladder plan: sets by the handbook's formula, numbered round the house, never under a wire; days laid out hour by hour."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.takeoff.days import day_by_day, days_of
from amber_gable.core.takeoff.ways_up import Wall, compare, hire_of, ladder_sets, moving_h, plan
from amber_gable.units import in_both


def wall(knowledge, **over) -> Wall:
    facts = {
        "key": "e",
        "name": "East",
        "left_m": 0.0,
        "width_m": 11.6,
        "top_m": 5.6,
        "access": "ladder",
        "ground": knowledge.grounds["firm"],
    }
    return Wall(**(facts | over))


@pytest.mark.parametrize(
    ("width", "reach", "extension", "sets"), [(11.6, 0.6, 0.0, 10), (11.6, 0.6, 0.6, 5), (12.0, 0.6, 0.6, 5), (0.5, 0.6, 0, 1)]
)
def test_sets_from_width_reach_and_extension(width, reach, extension, sets):
    # 11.6 / 1.2 = 9.67, rounded up; with an extension as long as the reach half as many (handbook 8).
    assert ladder_sets(width, reach, extension) == sets


def test_sets_are_numbered_in_walking_order_and_stand_beside_windows(knowledge):
    walls = [wall(knowledge, openings=((5.5, 6.3),)), wall(knowledge, key="s", name="South", width_m=4.8)]
    east, south = plan(walls, knowledge.access, knowledge.practice)
    assert [s.number for p in (east, south) for s in p.sets] == list(range(1, 8))
    assert not any(5.5 < s.x_m < 6.3 for s in east.sets)
    assert all(0 < s.x_m < 11.6 for s in east.sets)


def test_wires_porches_slopes_plants_and_soft_ground_are_minded(knowledge):
    bad = wall(
        knowledge, line_distance_m=2.0, slope_pct=12.0, ground=knowledge.grounds["soft"], plants=("Lilac",), before=((2.0, 6.0, "Porch"),),
    )  # fmt: skip
    (found,) = plan([bad], knowledge.access, knowledge.practice)
    assert "3 m" in found.barred
    assert [m.split(":")[0] for m in found.minds] == ["2 and 3 over the porch", "falls 12 %", "soft, soil, chips, lawn", "lilac"]
    (far,) = plan([replace(bad, line_distance_m=4.0)], knowledge.access, knowledge.practice)
    assert not far.barred
    assert any("a wire at 4.0 m (13 ft)" in in_both(m) for m in far.minds)


def test_moving_hire_and_the_comparison_by_hand(knowledge):
    high = wall(knowledge, high_h=10.0, passes=3)
    by_ladder = plan([high], knowledge.access, knowledge.practice)
    # Five sets of ten minutes, three times along.
    assert moving_h(by_ladder, knowledge.access, knowledge.practice) == pytest.approx(5 * 3 * 0.1667)
    ways = {w.access: w for w in compare([high], knowledge.access, knowledge.practice, 2, 55.0)}
    tower = ways["tower"]
    # 11.6 / 3.2 = 4 sets of half an hour three times and two hours to put it up; 10 h x 1.15; (11.5 + 8) / 13.5 = 2 days at 48 and 90.
    assert (tower.sets, tower.moving_h, tower.high_h) == (4, pytest.approx(8.0), pytest.approx(11.5))
    assert (tower.hire_days, tower.hire, tower.lead_days) == (2, 186.0, 14)
    assert tower.cost == pytest.approx(186.0 + 19.5 * 55)
    assert "reaches 3.0 m (10 ft)" in in_both(ways["step-ladder"].faults[0])
    assert list(ways)[-1] == "step-ladder", "what does not serve comes last"
    assert not hire_of(by_ladder, knowledge.access, knowledge.practice, 2)


@given(st.dictionaries(st.sampled_from(["Wash", "Prime", "Coats"]), st.floats(0.1, 60), min_size=1), st.floats(0, 20), st.integers(1, 4))
def test_days_hold_all_hours_and_none_more_than_fit(by_task, ladder_h, painters):
    from amber_gable.core.knowledge.shipped import shipped

    practice = shipped().practice
    days = days_of(sum(by_task.values()), ladder_h, painters, practice)
    laid = day_by_day(by_task, days, practice)
    assert len(laid) == days.days
    assert sum(h for d in laid for _, h in d.hours) == pytest.approx(days.work_h + days.ladder_h + days.slack_h)
    assert all(sum(h for _, h in d.hours) <= (practice.day_h - practice.setup_h) * painters + 1e-6 for d in laid)

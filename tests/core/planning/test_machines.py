"""Machines: how many there are when, which stretches are hired, and that nobody takes what is not there."""

from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from pydantic import ValidationError

from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.planning.crew.dispatch import dispatched
from amber_gable.core.planning.crew.machines import Machine, Reserved, gear_key, hires, units_in, usual_fleet
from amber_gable.core.planning.crew.values import CrewTask, Painter

TODAY = date(2026, 9, 15)
TOWER = Machine(
    label="Tower", is_hired=True, per_day=50.0, delivery=120.0, lead_days=14,
    reserved=(Reserved(first=date(2026, 9, 16), last=date(2026, 9, 18), job="A"),),
)  # fmt: skip


def test_what_is_hired_is_there_while_reserved_for_the_job_and_after_its_lead_time():
    there = {day: TOWER.units_on(date(2026, 9, day), TODAY, "A") for day in range(15, 31)}
    assert there == {day: int(16 <= day <= 18 or day >= 29) for day in range(15, 31)}
    assert TOWER.units_on(date(2026, 9, 17), TODAY, "B") == 0
    gone = TOWER.model_copy(update={"not_until": date(2026, 10, 5)})
    assert gone.units_on(date(2026, 10, 4), TODAY, "A") == 0
    assert gone.units_on(date(2026, 10, 5), TODAY, "A") == 1
    assert Machine(label="Sprayer", units=2).units_on(TODAY, TODAY, "A") == 2


def test_days_are_those_of_the_place():
    zone = ZoneInfo("America/Chicago")
    start = datetime(2026, 9, 15, 20, tzinfo=zone)
    units = units_in(TOWER, "A", start.timestamp(), 24, zone)
    # Four hours to midnight there, though it is past it in UTC.
    assert start.astimezone(UTC).day == 16
    assert units.tolist() == [0] * 16 + [1] * 8


def test_a_hire_is_kept_over_idle_days_where_that_is_cheaper_than_to_fetch_it_twice():
    terms = TOWER.model_copy(update={"reserved": ()})
    # Two idle days cost 100, fetching it anew 120; three cost 150.
    near, far = [date(2026, 10, 5), date(2026, 10, 8)], [date(2026, 10, 5), date(2026, 10, 9)]
    (one,) = hires(near, terms, "A")
    assert (one.first, one.last, one.cost) == (near[0], near[1], 4 * 50 + 120)
    assert one.reserve_by == date(2026, 9, 21)
    assert [(h.first, h.cost) for h in hires(far, terms, "A")] == [(far[0], 170), (far[1], 170)]


def test_a_reserved_hire_stands_for_the_days_within_it_of_its_job():
    days = [date(2026, 9, 17), date(2026, 9, 30)]
    own, other = hires(days, TOWER, "A"), hires(days, TOWER, "B")
    assert [(h.first, h.last, h.is_reserved) for h in own] == [
        (date(2026, 9, 16), date(2026, 9, 18), True), (days[1], days[1], False),
    ]  # fmt: skip
    assert not any(h.is_reserved for h in other)


def test_a_hire_that_ends_before_it_begins_is_refused():
    with pytest.raises(ValidationError, match="before it begins"):
        Reserved(first=date(2026, 9, 18), last=date(2026, 9, 17), job="A")


def test_hired_ways_up_take_their_terms_from_the_firms_rates():
    fleet = usual_fleet(shipped())
    row = shipped().access["tower"]
    assert (fleet["tower"].per_day, fleet["tower"].lead_days) == (row.hire_per_day, row.lead_days)
    assert gear_key("tower", fleet["tower"], "A") == "tower@A"
    assert gear_key("sprayer", fleet["sprayer"], "A") == "sprayer"


def _task(name: str, gear: str) -> CrewTask:
    return CrewTask(name, "A", "north", 1.0, (1, 1), (gear,), np.ones(40, dtype=bool))


def test_no_more_machines_are_at_work_at_once_than_there_are():
    crew, tasks = [Painter(n) for n in "XYZ"], [_task(f"t{n}", "sprayer") for n in range(6)]
    works = np.ones(40, dtype=bool)
    for units in (1, 2):
        plan = dispatched(tasks, crew, ["A"], 40, works, fleet={"sprayer": np.full(40, units, dtype=np.int16)})
        used = np.zeros(40, dtype=int)
        for at in plan.values():
            used[at.start : at.end] += 1
        assert len(plan) == 6
        assert used.max() == units
        assert max(at.end for at in plan.values()) == 24 // units
    late = np.array([0] * 10 + [1] * 30, dtype=np.int16)
    plan = dispatched(tasks[:1], crew, ["A"], 40, works, fleet={"sprayer": late})
    assert plan["t0"].start == 10
    assert plan["t0"].set_by == "the sprayer is to be had"

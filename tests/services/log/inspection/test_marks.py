"""Inspection: judged dry, marked on the wall, mended as work of the plan, looked at again when dry; nothing closes with open marks."""

from datetime import datetime, timedelta

import numpy as np
import pytest

from amber_gable.core.planning.state import State, Told
from amber_gable.errors import FieldErrors
from amber_gable.services.log import record
from amber_gable.services.log.inspection import marks, ownerwalk
from amber_gable.services.log.inspection.looking import (
    check_dry_again,
    check_markable,
    look_over,
    refuse_open,
    sides_to_look,
)
from amber_gable.services.log.inspection.marks import Mended, Sighted
from amber_gable.services.log.record import Said
from amber_gable.services.log.standing import standing_work
from amber_gable.services.office import stock
from amber_gable.services.office.stock import StockFacts
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import schedules
from amber_gable.services.takeoff.tasks import tasks_of

pytestmark = pytest.mark.small

LOOKS = ("left", "right", "off", "above")
STROKES = "10,10 40,60 90,20;100,20 120,70"


@pytest.fixture
def wall(job):
    return next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")


def ahead_of(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


def put_on(opened, job, wall, *steps: str) -> None:
    """Record steps of a wall as done within the hour before now."""
    now = opened.clock.now()
    tasks = [t for t in tasks_of(opened, job) if t.id in {f"{wall.id}:{step}" for step in steps}]
    assert len(tasks) == len(steps)
    record.enter(opened, job, tasks, Said(Told.DONE, now - timedelta(hours=1), now, painters=("Ines",), batch="R-7"))


def side(opened, job, wall):
    return next(s for s in sides_to_look(opened, job, ahead_of(opened, job)) if s.elevation.id == wall.elevation_id)


def refused(match: str):
    return pytest.raises(FieldErrors, match=match)


def test_a_film_is_judged_dry_and_a_coat_before_the_last_only_for_runs_and_misses(opened, job, wall):
    opened.clock.set(datetime.fromisoformat("2026-09-15T11:00:00-05:00"))
    put_on(opened, job, wall, "coat 1")
    wet = side(opened, job, wall)
    mine = next(w for w in wet.walls if w.surface.id == wall.id)
    assert (mine.coat, mine.of, mine.batch) == (2, 3, "R-7"), "a primer lies under it, a coat is to come"
    assert not wet.is_dry
    with refused("judged dry, from"):
        check_markable(job, wet, wall.id, "run")
    check_markable(job, wet, wall.id, "damage")
    with refused("judged dry"):
        look_over(opened, job, wet, LOOKS, ["Ines"])
    opened.clock.set(wet.dry_at + timedelta(minutes=1))
    dry = side(opened, job, wall)
    assert dry.is_dry
    with refused("from the right end"):
        look_over(opened, job, dry, ("left", "off", "above"), ["Ines"])
    look_over(opened, job, dry, LOOKS, ["Ines"])
    # Looked over so far: the inspection of the finished wall is still to be done.
    assert not side(opened, job, wall).is_done


def test_a_mark_is_work_of_the_plan_until_it_is_mended_and_looked_at_dry(opened, job, wall):
    opened.clock.set(datetime.fromisoformat("2026-09-15T11:00:00-05:00"))
    put_on(opened, job, wall, "coat 1", "coat 2", "tape-off")
    before = {t.id for t in tasks_of(opened, job)}
    task = f"{wall.id}:coat 2"
    run = marks.add_mark(opened, job, wall.id, Sighted("run", 2.0, 1.5, text="under the sill", task=task))
    miss = marks.add_mark(opened, job, wall.id, Sighted("miss", 3.0, 1.5, task=task))
    asked = [t for t in tasks_of(opened, job) if t.id not in before]
    assert [t.step for t in asked] == ["touch-up-sand", "touch-up"]
    # A run takes 0.3 h, half of it sanding; a miss 0.1 h; nobody comes for less than half an hour.
    assert asked[0].hours == pytest.approx(0.15)
    assert asked[1].hours == pytest.approx(0.35)
    states = standing_work(opened, job, ahead_of(opened, job)).states
    assert states[asked[0].id].state is State.TO_DO, "not before the film is dry"
    assert states[f"{wall.id}:inspect"].waits_for == asked[1].id
    plan = schedules.make(opened, job)
    planned = next(s for s in plan.stints if asked[1].id in s.tasks)
    # A film is ready at a fraction of a second.
    assert planned.starts_at.timestamp() > states[asked[0].id].ready_s - 1e-3
    with refused("Marks are open"):
        refuse_open(opened, job, [t for t in tasks_of(opened, job) if t.id == f"{wall.id}:inspect"])

    opened.clock.set(planned.ends_at)
    marks.mend(opened, job, run, Mended("sanded flat"))
    mended = next(m for m in marks.marks_of(opened, job) if m.entry == run)
    with refused("judged dry, from"):
        check_dry_again(opened, job, ahead_of(opened, job), mended)
    marks.look_again(opened, job, run, is_good=False, text="still to be seen")
    again = next(m for m in marks.marks_of(opened, job) if m.entry == run)
    assert (again.state, again.looks) == ("open", 1)
    # Done as work of My day, every mark of the wall is mended.
    opened.clock.set(opened.clock.now() + timedelta(hours=1))
    now = opened.clock.now()
    record.enter(
        opened, job, [t for t in tasks_of(opened, job) if t.step.startswith("touch-up")], Said(Told.DONE, now, now, painters=("Ines",))
    )
    assert [m.state for m in marks.marks_of(opened, job) if m.entry == miss] == ["mended"]
    for entry in (run, miss):
        if next(m for m in marks.marks_of(opened, job) if m.entry == entry).state == "open":
            marks.mend(opened, job, entry, Mended())
        marks.look_again(opened, job, entry, is_good=True)
    assert marks.open_on(opened, job) == []
    # A new mark later is a new round of work, not the old one that is done.
    opened.clock.set(opened.clock.now() + timedelta(hours=1))
    marks.add_mark(opened, job, wall.id, Sighted("thin", 1.0, 1.0, task=task))
    newest = next(t for t in tasks_of(opened, job) if t.step == "touch-up")
    assert newest.id.endswith(" 2")
    assert not standing_work(opened, job, ahead_of(opened, job)).states[newest.id].state.is_over


def test_a_mark_in_an_early_coat_is_mended_before_the_next_one(opened, job, wall):
    put_on(opened, job, wall, "coat 1")
    marks.add_mark(opened, job, wall.id, Sighted("run", 2.0, 1.5, task=f"{wall.id}:coat 1"))
    chain = [t.step for t in tasks_of(opened, job) if t.id.startswith(f"{wall.id}:")]
    assert chain.index("coat 1") < chain.index("touch-up-sand") < chain.index("touch-up") < chain.index("coat 2")


def test_paint_for_a_touch_up_comes_out_of_its_can(opened, job, wall):
    product = next(t.product for t in tasks_of(opened, job) if t.id == f"{wall.id}:coat 1")
    stock.add(opened, StockFacts(product, "#b8742f", 2.0, "R-7", "van"), job.id)
    can = next(row for row in stock.rows(opened) if row.batch == "R-7")
    mark = marks.add_mark(opened, job, wall.id, Sighted("miss", 2.0, 1.5))
    with refused("in this can"):
        marks.mend(opened, job, mark, Mended(litres=3.0, stock_id=can.id))
    marks.mend(opened, job, mark, Mended(litres=0.5, stock_id=can.id))
    assert next(row for row in stock.rows(opened) if row.id == can.id).litres == pytest.approx(1.5)
    line = next(m for m in marks.marks_of(opened, job) if m.entry == mark).last
    assert (line.details["batch"], line.details["litres"]) == ("R-7", 0.5)


@pytest.mark.parametrize(("seen", "field"), [
    (Sighted("ghost", 2.0, 1.5), "mark"), (Sighted("other", 2.0, 1.5), "text"), (Sighted("run", 200.0, 1.5), "spot"),
    (Sighted("run", 2.0, 1.5, 99.0), "size"),
])  # fmt: skip
def test_a_mark_that_cannot_be_is_refused(opened, job, wall, seen, field):
    with pytest.raises(FieldErrors) as fault:
        marks.add_mark(opened, job, wall.id, seen)
    assert set(fault.value.errors) == {field}


def test_the_owner_signs_one_list_by_daylight_and_the_work_when_nothing_is_open(opened, job, wall):
    opened.clock.set(datetime.fromisoformat("2026-09-15T22:00:00-05:00"))
    with refused("too dark"):
        ownerwalk.add_owners_mark(opened, job, wall.id, Sighted("lap", 2.0, 1.5, is_owners=True))
    with refused("too dark"):
        ownerwalk.sign(opened, job, "list", "M. Thorn", STROKES)
    opened.clock.set(datetime.fromisoformat("2026-09-16T10:00:00-05:00"))
    mark = ownerwalk.add_owners_mark(opened, job, wall.id, Sighted("lap", 2.0, 1.5, is_owners=True))
    with pytest.raises(FieldErrors) as fault:
        ownerwalk.sign(opened, job, "list", " ", "<script>")
    assert {"name", "strokes"} <= set(fault.value.errors)
    with refused("still to be coated"):
        ownerwalk.sign(opened, job, "list", "M. Thorn", STROKES)
    now, coats = opened.clock.now(), [t for t in tasks_of(opened, job) if t.is_coat and t.hours]
    record.enter(opened, job, coats, Said(Told.LEFT_OUT, now, now, remark="the owner paints them"))
    ownerwalk.sign(opened, job, "list", "M. Thorn", STROKES)
    with refused("there is one list"):
        ownerwalk.add_owners_mark(opened, job, wall.id, Sighted("run", 2.5, 1.5, is_owners=True))
    with refused("Marks are open"):
        ownerwalk.sign(opened, job, "final", "M. Thorn", STROKES)
    with pytest.raises(FieldErrors) as fault:
        marks.accept(opened, job, mark, "", "")
    assert set(fault.value.errors) == {"name", "text"}
    marks.accept(opened, job, mark, "M. Thorn", "hardly seen from the path")
    ownerwalk.sign(opened, job, "final", "M. Thorn", STROKES)
    walk = ownerwalk.owner_walk(opened, job)
    assert (walk.listed.details["marks"], walk.final.details["name"]) == (1, "M. Thorn")


def test_the_best_light_grazes_the_wall_from_a_low_sun(opened, job, wall):
    put_on(opened, job, wall, "coat 1")
    south = next(e for e in job.building.elevations if 150 < e.azimuth_deg < 210)
    ahead = ahead_of(opened, job)
    from amber_gable.services.log.inspection.looking import best_light

    light = best_light(ahead, south, opened.clock.now(), opened.clock.now())
    assert light is not None
    assert light.is_sun
    # By hand: the angle between the sun and the wall's normal, from the sun's place at the middle of that stretch.
    climate, middle = ahead.windows.climate, light.starts_at + (light.ends_at - light.starts_at) / 2
    step = ahead.step_at(middle)
    up, round_ = np.radians(climate.sky.elevation_deg[step]), np.radians(climate.sky.azimuth_deg[step] - south.azimuth_deg)
    assert 60 < np.degrees(np.arccos(np.cos(up) * np.cos(round_))) < 90
    assert climate.sky.elevation_deg[step] < 36

"""Stop joints: how much of a wall is done by where the wet edge is, what goes on from there; the day of one painter."""

from datetime import timedelta

import pytest

from amber_gable.core.planning.state import Told
from amber_gable.errors import FieldErrors
from amber_gable.services.jobs import jobs
from amber_gable.services.log import record
from amber_gable.services.log.coats import joints
from amber_gable.services.log.coats.joints import Paused
from amber_gable.services.log.record import Said
from amber_gable.services.planning import schedules
from amber_gable.services.planning.myday import my_day
from amber_gable.services.takeoff.tasks import tasks_of

pytestmark = pytest.mark.small


@pytest.fixture
def coat(opened, job):
    """The first coat that is planned, its steps and its wall; an hour after its beginning."""
    kept = schedules.make(opened, job)
    stint = next(s for s in kept.stints if s.coat)
    opened.clock.set(stint.starts_at + timedelta(hours=1))
    by_id = {t.id: t for t in tasks_of(opened, job)}
    walls = {s.id: s for e in job.building.elevations for s in e.surfaces}
    return stint, [by_id[i] for i in stint.tasks], walls[stint.tasks[0].rpartition(":")[0]]


def piece_of(opened, stint):
    return next(p for p in my_day(opened, stint.painters[0]) if p.one.stint.id == stint.id)


def width(surface):
    left, right = min(x for x, _ in surface.outline), max(x for x, _ in surface.outline)
    return right - left


def test_a_share_is_that_of_the_outline_up_to_the_edge(job):
    gable = next(s for e in job.building.elevations for s in e.surfaces if s.name == "North gable top")
    wide = width(gable)
    # A triangle: up to a quarter of its width lies a similar one of half its height, an eighth of the whole.
    assert joints.done_frac(gable, Paused(wide / 2)) == pytest.approx(0.5)
    assert joints.done_frac(gable, Paused(wide / 4)) == pytest.approx(0.125)
    assert joints.done_frac(gable, Paused(wide / 4, "right")) == pytest.approx(0.875)
    with pytest.raises(FieldErrors, match="m wide"):
        joints.done_frac(gable, Paused(wide + 1))


def test_work_is_paused_at_a_joint_gone_on_with_and_done(opened, job, coat):
    stint, tasks, wall = coat
    wide, began = width(wall), opened.clock.now()
    record.enter(opened, job, tasks, Said(Told.BEGAN, began, began, painters=stint.painters))
    assert piece_of(opened, stint).running_since == began
    opened.clock.set(began + timedelta(hours=1))
    joints.pause(opened, job, tasks, began, Paused(wide / 2), stint.painters)
    paused = piece_of(opened, stint)
    assert paused.is_paused
    assert paused.done_frac == pytest.approx(joints.done_frac(wall, Paused(wide / 2)))
    joint = joints.joints_of(opened, job)[0]
    assert (joint.surface_id, joint.at_m) == (wall.id, round(wide / 2, 2))
    # Behind the edge nothing more is done; at the far corner it is all of it.
    for at in (wide / 3, wide):
        with pytest.raises(FieldErrors) as caught:
            joints.pause(opened, job, tasks, None, Paused(at), stint.painters)
        assert set(caught.value.errors) == {"joint"}
    with pytest.raises(FieldErrors, match="Tap the wall"):
        joints.pause(opened, job, tasks, None, Paused(None), stint.painters)
    again = opened.clock.now() + timedelta(minutes=30)
    opened.clock.set(again)
    record.enter(opened, job, tasks, Said(Told.BEGAN, again, again, painters=stint.painters))
    assert piece_of(opened, stint).running_since == again
    opened.clock.set(again + timedelta(hours=1))
    record.enter(opened, job, tasks, Said(Told.DONE, again, opened.clock.now(), painters=stint.painters))
    assert piece_of(opened, stint).one.state == "done"
    assert joints.joints_of(opened, job) == [], "painted over"


def test_a_joint_goes_when_its_entry_is_taken_back(opened, job, coat):
    stint, tasks, wall = coat
    entry = joints.pause(opened, job, tasks, None, Paused(width(wall) / 2), stint.painters)
    line = next(row for row in record.rows_of(opened, job) if row.entry == entry)
    record.take_back(opened, job, line.id)
    assert joints.joints_of(opened, job) == []
    assert piece_of(opened, stint).done_frac == 0


def test_a_day_is_that_of_one_painter_over_all_jobs(opened, job, coat):
    every = [s for row in jobs.list_jobs(opened) if (kept := schedules.saved(opened, jobs.whole(opened, row.id))) for s in kept.stints]
    day = opened.clock.now().date()
    for painter in opened.owner.painters:
        mine = {p.one.stint.id for p in my_day(opened, painter)}
        assert mine == {s.id for s in every if painter in s.painters and s.starts_at.date() == day}

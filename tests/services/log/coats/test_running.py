"""Work begun on record of whose end nobody spoke: a bare "yes, done" gives it the hours it had, and the night ends it."""

from datetime import datetime, timedelta

import pytest

from amber_gable.core.planning.state import Told
from amber_gable.services.log import record
from amber_gable.services.log.coats import joints
from amber_gable.services.log.coats.running import begun_at, hours_of, left_at
from amber_gable.services.log.record import Said
from amber_gable.services.log.timesheet import timesheet
from amber_gable.services.planning import morning, schedules
from amber_gable.services.planning.onwalls import coats_on
from amber_gable.services.takeoff.tasks import tasks_of

# The clock of the tests runs on.
A_MOMENT = timedelta(minutes=2)


def at(text: str) -> datetime:
    return datetime.fromisoformat(f"2026-09-{text}:00-05:00")


@pytest.fixture
def coat(job, opened):
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    return next(t for t in tasks_of(opened, job) if t.id == f"{wall.id}:coat 1")


def last_stroke(opened, job, coat) -> datetime:
    return next(v.ends_at for v in coats_on(opened, job) if coat.id in v.tasks)


def begin(opened, job, coat, when: str) -> None:
    opened.clock.set(at(when))
    record.enter(opened, job, [coat], Said(Told.BEGAN, at(when), at(when), painters=("Tobias",)))


@pytest.mark.parametrize(
    ("began", "now", "planned_h", "left"),
    [
        ("15T12:50", "15T23:50", 3, None),  # the same day it may be going on
        ("15T12:50", "16T07:00", 3, "15T15:50"),
        ("15T12:50", "16T07:00", None, "15T18:00"),  # no plan: the end of the day's work by the job's rules
        ("15T12:50", "18T07:00", 9, "15T18:00"),  # never past it
        ("15T18:30", "16T07:00", 3, "15T21:30"),  # begun after it
        ("15T22:30", "16T07:00", 3, "16T00:00"),  # within its date
    ],
)
def test_the_night_ends_what_nobody_ended(job, began, now, planned_h, left):
    planned = timedelta(hours=planned_h) if planned_h else None
    assert left_at(job, at(began), at(now), planned) == (at(left) if left else None)


def test_a_bare_yes_has_the_hours_since_it_was_begun(opened, job, coat):
    planned = (at("15T09:15"), at("15T12:30"))
    assert hours_of(opened, job, [coat.id], planned, at("15T17:00")) == planned, "nothing was begun: as planned"
    begin(opened, job, coat, "15T12:50")
    # 3 h 15 min from when it was begun, and not past now; the next day the same, not a day and night of it.
    assert hours_of(opened, job, [coat.id], planned, at("15T17:00")) == (at("15T12:50"), at("15T16:05"))
    assert hours_of(opened, job, [coat.id], planned, at("15T14:00")) == (at("15T12:50"), at("15T14:00"))
    assert hours_of(opened, job, [coat.id], planned, at("16T09:00")) == (at("15T12:50"), at("15T16:05"))


def test_all_as_planned_counts_what_was_begun_late_from_its_beginning(opened, job):
    schedules.make(opened, job)
    first = next(s for s in schedules.saved(opened, job).stints if s.coat and s.starts_at.date() == at("15T12:00").date())
    late = first.starts_at + timedelta(minutes=90)
    steps = [t for t in tasks_of(opened, job) if t.id in first.tasks]
    opened.clock.set(late)
    record.enter(opened, job, steps, Said(Told.BEGAN, late, late, painters=first.painters))
    opened.clock.set(at("16T08:50"))
    morning.record_as_planned(opened, job)
    day = at("15T12:00").date()
    line = next(one for one in timesheet(opened, day, day) if one.starts_at == late)
    assert line.ends_at - late == min(first.ends_at - first.starts_at, at("15T18:00") - late)
    assert begun_at(opened, job, first.tasks) is None, "it is no longer going on"


def test_a_coat_goes_on_after_its_pause_and_is_not_taken_for_left(opened, job, coat):
    begin(opened, job, coat, "15T15:00")
    opened.clock.set(at("15T16:30"))
    joints.pause(opened, job, [coat], None, joints.Paused(None, share_pct=40.0), ("Tobias",))
    assert begun_at(opened, job, [coat.id]) is None
    opened.clock.set(at("16T09:00"))
    # Paused overnight, its film is as old as its last stroke; gone on with, it is under way.
    assert abs(last_stroke(opened, job, coat) - at("15T16:30")) < A_MOMENT
    begin(opened, job, coat, "16T09:00")
    opened.clock.set(at("16T10:00"))
    assert abs(last_stroke(opened, job, coat) - at("16T10:00")) < A_MOMENT
    # A pause that was forgotten and is entered the next day ends in the day it belongs to.
    opened.clock.set(at("17T07:30"))
    joints.pause(opened, job, [coat], None, joints.Paused(None, share_pct=80.0), ("Tobias",))
    last = record.rows_of(opened, job)[-1]
    assert (last.from_at, last.until_at, last.share_frac) == (at("16T09:00"), at("16T18:00"), pytest.approx(0.4))

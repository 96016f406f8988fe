"""What is said and planned leaves standing what is known of a house, and nothing kept is stale; anything else makes it new."""

import pytest
from sqlalchemy import inspect, select

from amber_gable.core.planning.state import Told
from amber_gable.core.windows.readings import InstrumentReading
from amber_gable.errors import ConflictError
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.log import entries, record, sitelog
from amber_gable.services.log.entries import Written
from amber_gable.services.log.record import Said
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import schedules
from amber_gable.services.survey.evidence import findings, site_tests
from amber_gable.services.survey.evidence.findings import FindingFacts
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.services.systems.specs import specs_of
from amber_gable.services.takeoff import alternatives
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store.models import Job

pytestmark = pytest.mark.small


def known(opened, job) -> list:
    job = jobs.whole(opened, job.id)
    rows = [(s.id, s.version, s.name) for e in job.building.elevations for s in e.surfaces]
    return [rows, specs_of(opened, job), coatings_of(opened, job), job_takeoff(opened, job), tasks_of(opened, job)]


def anew(opened, job) -> list:
    """What an application would say that has just begun."""
    opened.app.cache._kept.clear()
    opened.app.jobs_read._kept.clear()
    return known(opened, job)


def revisions(opened, job) -> tuple[int, int]:
    with opened.reading() as session:
        return tuple(session.execute(select(Job.revision, Job.house_revision).where(Job.id == job.id)).one())


def wall(job):
    return next(s for e in job.building.elevations for s in e.surfaces if s.is_painted)


def write_note(opened, job):
    entries.write(opened, job, Written("note", "The gate stood open"))


def read_instruments(opened, job):
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    sitelog.log_reading(opened, job, ahead, wall(job).id, InstrumentReading(15.0, 60.0, 15.0), "Ines")


def begin_work(opened, job):
    now = opened.clock.now()
    record.enter(opened, job, [tasks_of(opened, job)[0]], Said(Told.BEGAN, now, now))


def plan(opened, job):
    schedules.make(opened, job)


@pytest.mark.parametrize("say", [write_note, read_instruments, begin_work, plan])
def test_what_is_said_leaves_the_house_as_it_is_known(opened, job, say):
    before = revisions(opened, job)
    kept = specs_of(opened, jobs.whole(opened, job.id))
    say(opened, job)
    after = revisions(opened, job)
    assert after[0] > before[0]
    assert after[1] == before[1]
    assert specs_of(opened, jobs.whole(opened, job.id)) is kept
    assert repr(known(opened, job)) == repr(anew(opened, job))


def find_peeling(opened, job):
    findings.add_finding(opened, job.id, wall(job).elevation_id, FindingFacts("peeling", "to-30", 1.0, 1.5))


def rub(opened, job):
    site_tests.record(opened, job, wall(job).id, "rub", {"rating": 2}, "Ines")


@pytest.mark.parametrize("change", [find_peeling, rub])
def test_what_is_found_is_known_at_once_and_gone_when_it_is_undone(opened, job, change):
    before, was = revisions(opened, job), repr(known(opened, job))
    change(opened, job)
    assert revisions(opened, job)[1] > before[1]
    now = repr(known(opened, job))
    assert now != was
    assert now == repr(anew(opened, job))
    changes.undo(opened, changes.undoable(opened, job.id).set_id)
    assert repr(known(opened, job)) == was == repr(anew(opened, job))


def test_what_counts_as_said_is_there(opened):
    assert set(inspect(opened.app.engine).get_table_names()) >= changes._SAID


def test_a_way_is_taken_although_something_was_said_meanwhile_and_not_where_the_house_changed(opened, job):
    seen = jobs.whole(opened, job.id)
    write_note(opened, job)
    alternatives.take(opened, jobs.whole(opened, job.id), "one-more")
    assert jobs.rules_of(jobs.whole(opened, job.id)).coats == 3
    with pytest.raises(ConflictError):
        # Reckoned of the house as it was before.
        alternatives.take(opened, seen, "one-less")

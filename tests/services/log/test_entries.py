"""Entries of the log: kept once however often they are sent, at the hour they were made, corrected by others that refer to them."""

from datetime import timedelta

import pytest

from amber_gable.core.planning.state import Told, void_ids
from amber_gable.core.windows.readings import InstrumentReading
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import undo, undoable
from amber_gable.services.log import entries, record, sitelog
from amber_gable.services.log.disputes import disputes_of
from amber_gable.services.log.entries import Written
from amber_gable.services.log.record import Said
from amber_gable.services.log.siteerrors import belief_of
from amber_gable.services.log.timesheet import timesheet
from amber_gable.services.office import extras
from amber_gable.services.outlook import outlook
from amber_gable.services.takeoff.tasks import tasks_of


def kinds(scope: Scope, job) -> list[str]:
    return [row.kind for row in entries.standing_lines(scope, job)]


def test_sent_twice_it_is_one_entry_and_an_extra_is_asked_for_once(opened, job):
    written = Written("extra", "Paint the mailbox post too, asked by the owner", {"hours": 1.5}, entry="made-on-the-phone")
    assert entries.write(opened, job, written) == entries.write(opened, job, written) == "made-on-the-phone"
    assert kinds(opened, job) == ["extra"]
    asked = [row for row in extras.extras_of(opened, job.id) if row.what == written.text]
    assert [(row.what, row.hours, row.signed_by) for row in asked] == [(written.text, 1.5, "")]


def test_an_entry_counts_from_when_it_was_made_and_says_that_it_came_late(opened, job):
    made = opened.clock.now() - timedelta(hours=3)
    opened.made_at(made, phone_now=opened.clock.now() + timedelta(minutes=90))
    entries.write(opened, job, Written("note", "Neighbour's car moved"))
    row = entries.standing_lines(opened, job)[0]
    assert row.at == made
    assert row.said_at >= made + timedelta(hours=3)
    assert row.details["sent_at"]
    assert row.details["clock_off_min"] == 90
    # A moment that lies ahead is not believed.
    other = Scope(opened.app, "Tobias", opened.contractor_id)
    other.made_at(opened.clock.now() + timedelta(hours=2))
    assert abs(other.said_at() - opened.clock.now()) < timedelta(seconds=5)


@pytest.mark.parametrize(
    ("written", "field"),
    [
        (Written("note", "  "), "text"), (Written("gossip", "x"), "kind"), (Written("injury", "", {"harm": "bored"}), "harm"),
        (Written("delay", "late", {"why": "moon"}), "why"), (Written("extra", "more", {"hours": -1.0}), "hours"),
        (Written("note", "x" * 2000), "text"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_at_its_field(opened, job, written, field):
    with pytest.raises(FieldErrors) as fault:
        entries.write(opened, job, written)
    assert set(fault.value.errors) == {field}
    assert kinds(opened, job) == []


def test_undo_takes_back_and_both_stay_readable(opened, job):
    entries.write(opened, job, Written("delivery", "Four cans", {"batch": "R-7"}))
    undo(opened, undoable(opened, job.id).set_id)
    assert kinds(opened, job) == []
    assert [row.kind for row in entries.lines_of(opened, job)] == ["delivery", "withdrawn"]


def a_coat(opened, job):
    """A finish coat of which nothing is on record."""
    known = record.recorded(opened, job)
    return next(t for t in tasks_of(opened, job) if t.step == "coat 1" and not t.held_by and t.id not in known)


def done(opened, job, task, by: str, hours: float = 2.0, entry: str = "", share: float = 100.0) -> str:
    now = opened.clock.now()
    return record.enter(opened, job, [task], Said(Told.DONE, now - timedelta(hours=hours), now, share, (by,), litres=6.0, entry=entry))


def test_a_correction_stands_for_the_old_entry_and_taking_it_back_restores_it(opened, job):
    task = a_coat(opened, job)
    entry = done(opened, job, task, "Tobias", hours=5.0)
    line = next(row for row in record.rows_of(opened, job) if row.entry == entry)
    record.correct(opened, job, line.id, Said(Told.DONE, line.from_at + timedelta(hours=3), line.until_at, 50.0, ("Ines",), litres=4.0))
    rows = record.rows_of(opened, job)
    assert [row.entry for row in rows if row.entry in record.void_of(rows)] == [line.entry]
    assert record.recorded(opened, job)[task.id].done_frac == pytest.approx(0.5)
    day = line.until_at.astimezone().date()
    spent = {
        one.painter: one.hours
        for one in timesheet(opened, day - timedelta(days=1), day + timedelta(days=1))
        if f"{task.name}: {task.label}" in one.what
    }
    assert spent == {"Ines": pytest.approx(2.0)}
    # Corrected once already: the newer one is corrected, not the old one again.
    with pytest.raises(FieldErrors, match="newer one"):
        record.correct(opened, job, line.id, Said(Told.DONE, line.from_at, line.until_at))
    record.take_back(opened, job, next(row.id for row in rows if row.corrects == entry))
    assert record.recorded(opened, job)[task.id].done_frac == pytest.approx(1.0)


def test_void_ids_follow_chains():
    assert void_ids([("b", "a")]) == {"a"}
    assert void_ids([("b", "a"), ("c", "b")]) == {"b"}
    assert void_ids([("b", "a"), ("c", "b"), ("d", "c")]) == {"a", "c"}
    assert void_ids([("b", "a"), ("x", "a"), ("c", "b")]) == {"a", "b"}


def test_two_who_say_the_same_work_are_a_dispute_until_one_is_corrected(opened, job):
    task = a_coat(opened, job)
    assert disputes_of(opened, job) == []
    done(opened, job, task, "Ines", share=40.0)
    done(opened, job, task, "Tobias", share=60.0)
    assert disputes_of(opened, job) == [], "two shares of one whole"
    done(opened, job, task, "Marlow")
    said_twice = disputes_of(opened, job)
    assert len(said_twice) == 1
    assert len(said_twice[0].lines) == 3
    record.take_back(opened, job, said_twice[0].lines[-1].id)
    assert disputes_of(opened, job) == []


def test_a_reading_that_is_taken_back_stays_readable_and_teaches_nothing(opened, job):
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    answer = sitelog.log_reading(opened, job, ahead, wall.id, InstrumentReading(15.0, 60.0, 15.0), "Ines")
    taught = belief_of(opened, job, ahead, ahead.row(wall.id)).hours
    sitelog.take_back(opened, job, answer.reading_id)
    sitelog.take_back(opened, job, answer.reading_id)
    assert [row.id for row in sitelog.latest(opened, job)] == [answer.reading_id]
    assert belief_of(opened, job, ahead, ahead.row(wall.id)).hours == taught - 1
    # Undone, it counts again; and undo of a reading itself is such a line too.
    undo(opened, undoable(opened, job.id).set_id)
    assert belief_of(opened, job, ahead, ahead.row(wall.id)).hours == taught
    undo(opened, undoable(opened, job.id).set_id)
    assert belief_of(opened, job, ahead, ahead.row(wall.id)).hours == taught - 1
    assert [row.id for row in sitelog.latest(opened, job)] == [answer.reading_id]

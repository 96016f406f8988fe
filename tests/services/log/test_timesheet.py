"""Timesheets: hours by the record alone, reckoned by hand; nobody works twice at once; page, CSV and paper say the same."""

import csv
import io
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from amber_gable.core.planning.state import Told
from amber_gable.services.log import record
from amber_gable.services.log.record import Said
from amber_gable.services.log.timesheet import hours_by_day, timesheet
from amber_gable.services.takeoff.tasks import tasks_of

CHICAGO = ZoneInfo("America/Chicago")
# The week after the demonstration's: nothing is on record there.
MONDAY = date(2026, 9, 21)


def at(day: int, hour: float) -> datetime:
    return datetime(2026, 9, day, tzinfo=CHICAGO) + timedelta(hours=hour)


@pytest.fixture
def week(opened, job):
    opened.clock.set(at(26, 12))
    tasks = tasks_of(opened, job)[:5]

    def said(task, start, end, *painters, told=Told.DONE):
        return record.enter(opened, job, [task], Said(told, start, end, 10.0, painters, remark="hail" if told is Told.AGAIN else ""))

    said(tasks[0], at(21, 8), at(21, 10.5), "Ines", "Tobias")
    # Half an hour of it lies within the entry before.
    said(tasks[1], at(21, 10), at(21, 12), "Ines")
    # A beginning and a spoilt coat are no hours of their own; the evening before the week is another week's.
    said(tasks[2], at(22, 9), at(22, 9), "Ines", told=Told.BEGAN)
    said(tasks[2], at(22, 9), at(22, 10), "Ines", told=Told.AGAIN)
    said(tasks[3], at(20, 22), at(20, 23), "Ines")
    wrong = said(tasks[4], at(23, 8), at(23, 16), "Tobias")
    line = next(row for row in record.rows_of(opened, job) if row.entry == wrong)
    record.take_back(opened, job, line.id)
    # Nearly midnight of the last day, at the place of the job: the day after in Greenwich.
    said(tasks[4], at(27, 22.5) - timedelta(days=7), at(27, 23.5) - timedelta(days=7), "Marlow")
    return job


def test_hours_are_those_of_the_record_each_counted_once(opened, week):
    lines = timesheet(opened, MONDAY, MONDAY + timedelta(days=6))
    assert hours_by_day(lines) == {"Ines": {MONDAY: 4.0}, "Tobias": {MONDAY: 2.5}}
    assert [line.overlaps for line in lines if line.painter == "Ines"] == [False, True]
    before = timesheet(opened, MONDAY - timedelta(days=1), MONDAY - timedelta(days=1))
    assert hours_by_day(before) == {"Ines": {date(2026, 9, 20): 1.0}, "Marlow": {date(2026, 9, 20): 1.0}}


@pytest.mark.takes(5)
def test_page_file_and_paper_say_the_same(client, opened, week):
    page = client.get(f"/crew/hours?week={MONDAY.isoformat()}").text
    assert "6.5 hours in the week of Mon 21 Sep" in page
    rows = list(csv.DictReader(io.StringIO(client.get("/crew/hours.csv?week=2026-09-24").text)))
    assert [(r["painter"], r["day"], r["from"], r["until"], float(r["hours"])) for r in rows] == [
        ("Ines", "2026-09-21", "08:00", "10:30", 2.5), ("Ines", "2026-09-21", "10:00", "12:00", 1.5),
        ("Tobias", "2026-09-21", "08:00", "10:30", 2.5),
    ]  # fmt: skip
    paper = client.get("/crew/hours.pdf?week=2026-09-21")
    assert paper.content[:5] == b"%PDF-"
    assert "No work of this week is on record" in client.get("/crew/hours?week=2027-01-01").text
    assert client.get("/crew/hours?week=soon").status_code == 200

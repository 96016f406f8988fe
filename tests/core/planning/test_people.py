"""People: hours, days off and skills as quarter-hours of a plan, through both changes of the clock."""

from datetime import date, datetime
from zoneinfo import ZoneInfo

import pytest
from pydantic import ValidationError

from amber_gable.core.planning.crew.people import DaysOff, Person, works_in

CHICAGO = ZoneInfo("America/Chicago")


def worked(person: Person, day: datetime) -> float:
    """Return the hours that a person works in the 24 hours from a local midnight on."""
    return works_in(person, day.timestamp(), 25 * 4, CHICAGO).sum() / 4


# A Tuesday, the Sunday on which the clock goes back, and the Monday after it.
@pytest.mark.parametrize(
    ("day", "hours"),
    [
        (datetime(2026, 9, 15, tzinfo=CHICAGO), 9.0), (datetime(2026, 11, 1, tzinfo=CHICAGO), 0.0),
        (datetime(2026, 11, 2, tzinfo=CHICAGO), 9.0),
    ],
)  # fmt: skip
def test_hours_are_those_of_the_local_clock(day, hours):
    assert worked(Person(starts_h=7.5, ends_h=16.5), day) == hours


def test_days_off_count_both_ends_and_weekdays_are_ones_own():
    person = Person(off=(DaysOff(first=date(2026, 9, 16), last=date(2026, 9, 17), why="leave"),), weekdays=(1, 2, 3, 5))
    off = {d: person.is_off(date(2026, 9, d)) for d in range(14, 21)}
    assert off == {14: True, 15: False, 16: True, 17: True, 18: True, 19: False, 20: True}


def test_a_skill_runs_out_and_a_missing_one_is_missing():
    person = Person(skills={"lift": date(2027, 3, 1), "ladder": None})
    assert person.skills_on(date(2027, 3, 1)) == {"lift", "ladder"}
    assert person.skills_on(date(2027, 3, 2)) == {"ladder"}
    assert "lead" in Person().skills_on(date(2030, 1, 1)), "of whom nothing was entered may do everything"


@pytest.mark.parametrize("wrong", [{"starts_h": 18, "ends_h": 7}, {"ends_h": 25}, {"off": [{"first": "2026-09-17", "last": "2026-09-16"}]}])
def test_what_cannot_be_is_refused(wrong):
    with pytest.raises(ValidationError):
        Person.model_validate(wrong)

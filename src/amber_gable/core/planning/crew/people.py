"""People of a crew: hours, days off, skills with the day they run out; and the quarter-hours in which each works.

Not here: who does what (dispatch), names alone (the contractor's list).
"""

from collections.abc import Mapping
from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, model_validator

# What a painter may be asked to have, with its words.
SKILLS: Mapping[str, str] = {"ladder": "Ladders and towers", "lift": "Lift ticket", "sprayer": "Sprayer", "lead": "Lead training"}
WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


class DaysOff(BaseModel):
    """A stretch of days, both ends included, on which somebody does not work."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    first: date
    last: date
    why: str = Field(default="", max_length=80)

    @model_validator(mode="after")
    def _in_order(self) -> "DaysOff":
        if self.last < self.first:
            raise ValueError("The last day off lies before the first.")
        return self


class Person(BaseModel):
    """A painter.

    Parameters
    ----------
    starts_h, ends_h : float
        Hours of the day, local.
    weekdays : tuple of int
        0 for Monday.
    off : tuple of DaysOff
    skills : dict of str to date or None
        What this one may do, and the last day on which it holds; None for good. A skill that is not in it is missing.
    feed : str
        Secret part of the address of this one's calendar.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    starts_h: float = Field(default=7.0, ge=0, le=24)
    ends_h: float = Field(default=18.0, ge=0, le=24)
    weekdays: tuple[int, ...] = (0, 1, 2, 3, 4, 5)
    off: tuple[DaysOff, ...] = ()
    skills: dict[str, date | None] = Field(default_factory=lambda: dict.fromkeys(SKILLS))
    feed: str = ""

    @model_validator(mode="after")
    def _in_order(self) -> "Person":
        if self.ends_h <= self.starts_h:
            raise ValueError("The day must end after it starts.")
        return self

    def is_off(self, day: date) -> bool:
        """Return whether this one does not work on a day."""
        return day.weekday() not in self.weekdays or any(o.first <= day <= o.last for o in self.off)

    def skills_on(self, day: date) -> frozenset[str]:
        """Return what this one may do on a day."""
        return frozenset(name for name, until in self.skills.items() if until is None or day <= until)


def works_in(person: Person, start_s: float, count: int, zone: ZoneInfo, step_s: float = 900.0) -> NDArray[np.bool_]:
    """Return the steps in which a person works, shape (count,).

    Parameters
    ----------
    person : Person
    start_s : float
        Of the first step [s since 1970].
    count : int
    zone : ZoneInfo
        Whose clock and days count.
    step_s : float
        [s]
    """
    out = np.zeros(count, dtype=bool)
    for n in range(count):
        local = datetime.fromtimestamp(start_s + n * step_s, UTC).astimezone(zone)
        hour = local.hour + local.minute / 60
        out[n] = person.starts_h <= hour < person.ends_h and not person.is_off(local.date())
    return out

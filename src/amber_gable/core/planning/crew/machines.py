"""Machines and ways up of which a firm has few: how many there are when, what hire costs, by when it has to be reserved.

Own machines are there; what is hired is there while it is reserved, or so many days from now as it has to be asked for ahead.
Not here: which work takes which (stints), who works when (dispatch).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, model_validator

from amber_gable.core.knowledge import Knowledge

Units = NDArray[np.int16]
# Machines that painters share, with their words; of brushes, sanders and ladders everybody has his own.
OWN: Mapping[str, str] = {"sprayer": "Sprayer", "pressure-washer": "Pressure washer", "rotating-washer": "Rotating roof washer"}
MOST_UNITS = 20


class Reserved(BaseModel):
    """Days for which one machine is reserved, both included, for a job by its id."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    first: date
    last: date
    job: str

    @model_validator(mode="after")
    def _in_order(self) -> "Reserved":
        if self.last < self.first:
            raise ValueError("The hire ends before it begins.")
        return self


class Machine(BaseModel):
    """A kind of machine.

    Parameters
    ----------
    units : int
        How many there are of our own, or are hired for a job at once; 0 for none.
    is_hired : bool
    per_day, delivery : float
        What hire costs, in the contractor's money.
    lead_days : int
        So many days ahead it has to be reserved.
    reserved : tuple of Reserved
    not_until : date or None
        Before this day it is not to be had: at the workshop, let out to somebody else.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    label: str = Field(min_length=1, max_length=60)
    units: int = Field(default=1, ge=0, le=MOST_UNITS)
    is_hired: bool = False
    per_day: float = Field(default=0.0, ge=0, le=20_000)
    delivery: float = Field(default=0.0, ge=0, le=20_000)
    lead_days: int = Field(default=0, ge=0, le=365)
    reserved: tuple[Reserved, ...] = ()
    not_until: date | None = None

    def units_on(self, day: date, today: date, job: str) -> int:
        """Return how many there are for a job on a day, as it stands today."""
        if self.not_until is not None and day < self.not_until:
            return 0
        if not self.is_hired or day >= today + timedelta(days=self.lead_days):
            return self.units
        return sum(1 for r in self.reserved if r.job == job and r.first <= day <= r.last)


def usual_fleet(knowledge: Knowledge) -> dict[str, Machine]:
    """Return one of each machine that painters share, and the ways up that are hired, by the contractor's rates."""
    own = {key: Machine(label=label) for key, label in OWN.items()}
    hired = {
        key: Machine(label=row.label, is_hired=True, per_day=row.hire_per_day, delivery=row.delivery, lead_days=row.lead_days)
        for key, row in knowledge.access.items()
        if row.hire_per_day
    }
    return own | hired


def gear_key(key: str, machine: Machine, job: str) -> str:
    """Return under which name work takes a machine: all jobs share our own, what is hired stands at one."""
    return f"{key}@{job}" if machine.is_hired else key


def units_in(machine: Machine, job: str, start_s: float, count: int, zone: ZoneInfo, step_s: float = 900.0) -> Units:
    """Return how many of a machine there are for a job at each step, shape (count,).

    Parameters
    ----------
    job : str
    start_s : float
        Of the first step [s since 1970]; its day is today.
    zone : ZoneInfo
        Whose days count.
    """
    today = datetime.fromtimestamp(start_s, UTC).astimezone(zone).date()
    out = np.empty(count, dtype=np.int16)
    day, there = date.min, 0
    for n in range(count):
        on = datetime.fromtimestamp(start_s + n * step_s, UTC).astimezone(zone).date()
        if on != day:
            day, there = on, machine.units_on(on, today, job)
        out[n] = there
    return out


@dataclass(frozen=True)
class Hire:
    """A stretch of days for which a machine is hired.

    Parameters
    ----------
    first, last : date
    cost : float
    reserve_by : date
    is_reserved : bool
    """

    first: date
    last: date
    cost: float
    reserve_by: date
    is_reserved: bool


def hires(days: Sequence[date], machine: Machine, job: str) -> list[Hire]:
    """Return the stretches for which a hired machine is needed: kept over idle days where that is cheaper than to fetch it twice.

    One hire that is reserved stands for all that is needed within it.

    Parameters
    ----------
    days : sequence of date
        On which it is used, in any order.
    """
    needed = [r for r in machine.reserved if r.job == job and any(r.first <= day <= r.last for day in days)]
    agreed = [_hire(r.first, r.last, machine, is_reserved=True) for r in needed]
    out: list[list[date]] = []
    for day in sorted({day for day in days if not any(r.first <= day <= r.last for r in needed)}):
        idle = (day - out[-1][-1]).days - 1 if out else 0
        if out and idle * machine.per_day <= machine.delivery:
            out[-1].append(day)
        else:
            out.append([day])
    return agreed + [_hire(run[0], run[-1], machine, is_reserved=False) for run in out]


def _hire(first: date, last: date, machine: Machine, *, is_reserved: bool) -> Hire:
    cost = ((last - first).days + 1) * machine.per_day + machine.delivery
    return Hire(first, last, cost, first - timedelta(days=machine.lead_days), is_reserved)

"""A typical year of a job's place, month by month: how many hours hold a coat, and which months are worth waiting for."""

from calendar import month_abbr, month_name
from dataclasses import dataclass
from typing import Any

from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.weather import year
from amber_gable.store.models import Job


@dataclass(frozen=True)
class MonthRow:
    """One month: hours a surface in the mean, its share of the best month, and the surfaces with most and fewest."""

    name: str
    hours: float
    share_pct: float
    best: str
    worst: str


def values_of(scope: Scope, job: Job) -> dict[str, Any]:
    """Return what the page of a typical year shows; no months where none was read in."""
    found = year.year_of(scope, job)
    if found is None:
        return {"year": None, "months": [], "lead": "No typical year is read in for this place."}
    most = max(max(found.mean_h), 1.0)
    months = [_row(found, number, most) for number in range(12)]
    ranked = sorted(range(12), key=lambda m: -found.mean_h[m])
    first, second = (month_name[m + 1] for m in sorted(ranked[:2]))
    lead = f"Most hours hold a coat in {first} and {second}." if most > 1 else "No month of this year holds a coat here."
    return {"year": found, "months": months, "lead": lead}


def _row(found: year.YearOfJob, number: int, most: float) -> MonthRow:
    of = found.hours[number]
    hours = found.mean_h[number]
    names = found.surfaces
    best, worst = (f"{names[int(pick)]}, {of[int(pick)]:.0f} h" for pick in (of.argmax(), of.argmin()))
    return MonthRow(month_abbr[number + 1], hours, 100 * hours / most, best, worst)

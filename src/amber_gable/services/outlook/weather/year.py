"""A typical year for a job's place: kept as it was read, and what its months come to on the job's surfaces."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.planning.months import MONTHS, hours_by_month
from amber_gable.exchange.typicalyear import YEAR, read_typical_year
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.weather.forecasts import place_key
from amber_gable.store import queries
from amber_gable.store.models import Job, TypicalYear
from amber_gable.store.types import new_id

# A station farther off than this has another climate: it is said.
_FAR_DEG = 3.0


@dataclass(frozen=True)
class YearOfJob:
    """Typical year of a job.

    Parameters
    ----------
    taken_at : datetime
    is_far : bool
        It was measured far from the job.
    rain_missing : int
        Hours of it that say nothing of rain.
    surfaces : tuple of str
        Names, length S; those that something holds up are left out.
    hours : ndarray, shape (12, S)
        In which a coat may go on, within the crew's day.
    """

    taken_at: datetime
    is_far: bool
    rain_missing: int
    surfaces: tuple[str, ...]
    hours: Array

    @property
    def mean_h(self) -> list[float]:
        """Return the hours of each month, a surface in the mean."""
        return [float(month.mean()) if len(month) else 0.0 for month in self.hours]

    @property
    def best(self) -> int:
        """Return the month with the most hours, 0 for January."""
        return int(np.argmax(self.mean_h))


def take(scope: Scope, job: Job, content: bytes) -> None:
    """Read a year in for a job's place, in place of the one before.

    Raises
    ------
    FieldErrors
    """
    year = read_typical_year(content)
    key = place_key(outlooks.place_of(job))
    with scope.writing() as session:
        before = queries.typical_year(session, scope.contractor_id, key)
        if before is not None:
            session.delete(before)
            session.flush()
        columns = {name: [None if np.isnan(v) else round(float(v), 3) for v in values] for name, values in year.columns.items()}
        session.add(
            TypicalYear(
                id=new_id(), contractor_id=scope.contractor_id, place=key, taken_at=scope.clock.now(), latitude_deg=year.latitude_deg,
                longitude_deg=year.longitude_deg, utc_offset_h=year.utc_offset_h, rain_missing=year.rain_missing, columns=columns,
            )
        )  # fmt: skip


def forget(scope: Scope, job: Job) -> None:
    """Take the year of a job's place out again; nothing happens where there is none."""
    with scope.writing() as session:
        row = queries.typical_year(session, scope.contractor_id, place_key(outlooks.place_of(job)))
        if row is not None:
            session.delete(row)


def year_of(scope: Scope, job: Job) -> YearOfJob | None:
    """Return what the months of a typical year come to on a job; None where none was read in, or nothing is painted."""
    place = outlooks.place_of(job)
    with scope.reading() as session:
        row = queries.typical_year(session, scope.contractor_id, place_key(place))
    rows = outlooks.judged_rows(scope, job)
    if row is None or not rows:
        return None
    names = {s.id: s.name for s in outlooks.painted_surfaces(job)}
    own = rules_of(job)
    surfaces, products, rules = (tuple(getattr(r, part) for r in rows) for part in ("surface", "product", "rules"))
    day_h = (float(own.day_starts_h), float(own.day_ends_h))
    columns = {name: np.array([np.nan if v is None else v for v in values], dtype=float) for name, values in row.columns.items()}

    def reckoned() -> Array:
        return scope.calculated(hours_by_month, place, columns, row.utc_offset_h, YEAR, surfaces, products, rules, day_h)

    hours = scope.cached(("typical year", row.id, place, surfaces, products, rules, day_h), reckoned)
    far = max(abs(row.latitude_deg - job.latitude_deg), abs(row.longitude_deg - job.longitude_deg)) > _FAR_DEG
    assert hours.shape[0] == MONTHS, "a year has twelve"
    return YearOfJob(row.taken_at, far, row.rain_missing, tuple(names[r.surface_id] for r in rows), hours)

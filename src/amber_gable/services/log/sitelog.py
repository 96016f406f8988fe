"""The site log: readings taken at a wall, answered at once and kept."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from amber_gable.core.windows.readings import InstrumentReading as Measured
from amber_gable.core.windows.readings import Verdict, bias_c, judge
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.log.siteerrors import told_at
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.store import queries
from amber_gable.store.models import Job, Reading, Surface
from amber_gable.store.types import new_id

SHOWN = 30


@dataclass(frozen=True)
class ReadingAnswer:
    """A verdict with the moment it ends, in local time, and whose wall it is."""

    surface: Surface
    verdict: Verdict
    until: datetime | None
    taken_at: datetime
    reading_id: str


def log_reading(scope: Scope, job: Job, ahead: Outlook, surface_id: str, measured: Measured, painter: str) -> ReadingAnswer:
    """Judge a reading and keep it.

    Raises
    ------
    FieldErrors
        If a value cannot be, or the wall is not one that is painted.
    """
    measured.check()
    painted = {s.id: s for s in outlooks.painted_surfaces(job)}
    surface = painted.get(surface_id)
    row = ahead.row(surface_id)
    if surface is None or row is None:
        raise FieldErrors({"surface_id": "Choose the wall you measured."})
    now = scope.clock.now()
    step = ahead.step_at(now)
    bias = bias_c(measured, float(ahead.windows.climate.surface_temp_c[row, step]))
    verdict = judge(measured, outlooks.shifted(scope, job, ahead, row, bias), 0, step, bias, scope.knowledge.limits, scope.knowledge.tight)
    until = None if verdict.until_step is None else ahead.local(verdict.until_step)
    reading = Reading(
        id=new_id(),
        version=1,
        job_id=job.id,
        surface_id=surface.id,
        surface_name=surface.name,
        taken_at=now,
        painter=painter,
        air_temp_c=measured.air_temp_c,
        rel_humidity_pct=measured.rel_humidity_pct,
        surface_temp_c=measured.surface_temp_c,
        verdict={
            "may_paint": verdict.may_paint,
            "is_tight": verdict.is_tight,
            "dew_point_c": verdict.dew_point_c,
            "dew_margin_c": verdict.dew_margin_c,
            "until": until.isoformat() if until else None,
            "rules": [r.rule for r in verdict.reasons],
            "bias_c": verdict.bias_c,
            "told": told_at(ahead, row, step),
            "forecast_issued_at": ahead.issued_at.isoformat(),
        },
    )
    with changing(scope.acting_as(painter), f"log the reading at {surface.name}", job.id) as change:
        change.add(reading)
    return ReadingAnswer(surface, verdict, until, now, reading.id)


def latest(scope: Scope, job_id: str) -> Sequence[Reading]:
    """Return the newest readings of a job."""
    with scope.reading() as session:
        return queries.readings(session, job_id, SHOWN)


def remove_reading(scope: Scope, job_id: str, reading_id: str) -> None:
    """Take a reading out of the log; undo brings it back."""
    with changing(scope, "remove the reading", job_id) as change:
        change.delete(change.find(Reading, reading_id, "reading"))

"""The site log: readings taken at a wall, answered at once and kept."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from amber_gable.core.planning.coats import recoat_steps
from amber_gable.core.planning.state import OnRecord
from amber_gable.core.windows import LimitReason
from amber_gable.core.windows.readings import InstrumentReading as Measured
from amber_gable.core.windows.readings import Verdict, bias_c, judge
from amber_gable.errors import FieldErrors, check_all
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.log.entries import void_in
from amber_gable.services.log.record import recorded
from amber_gable.services.log.siteerrors import told_at
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.outlook.sightings import insert_meter, stock_of
from amber_gable.services.systems.coatings import Turn, coatings_of
from amber_gable.store import queries
from amber_gable.store.models import Job, Reading, Surface
from amber_gable.store.types import new_id
from amber_gable.units import both_of

SHOWN = 30
_MOST_WIND_M_S = 60.0
_MOST_MOISTURE_PCT = 60.0


@dataclass(frozen=True)
class ReadingAnswer:
    """What follows from a reading, in local time.

    Parameters
    ----------
    surface : Surface
    verdict : Verdict
    until : datetime or None
        Last stroke of a coat begun now; None where none may begin.
    taken_at : datetime
    reading_id : str
    coat : str
        Which coat it was judged for.
    margin_until : datetime or None
        When the wall's margin to the dew point falls under the label's, by the corrected forecast; None where it does not within it.
    margin_least_c : float
        What the label asks of the margin.
    next_coat_at : datetime or None
        When the next coat may follow one that is finished at the last stroke.
    """

    surface: Surface
    verdict: Verdict
    until: datetime | None
    taken_at: datetime
    reading_id: str
    coat: str = ""
    margin_until: datetime | None = None
    margin_least_c: float = 0.0
    next_coat_at: datetime | None = None


@dataclass(frozen=True)
class Beside:
    """What is measured beside air, humidity and surface, and by what.

    Parameters
    ----------
    moisture_pct, wind_m_s : float or None
        By meter in the wall; gusts where one stands.
    instrument : str
        Its name or number; empty where it is not said.
    is_by_gauge : bool
        Sent by the instrument itself.
    """

    moisture_pct: float | None = None
    wind_m_s: float | None = None
    instrument: str = ""
    is_by_gauge: bool = False

    def check(self) -> None:
        """Refuse what no instrument shows.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        if self.moisture_pct is not None and not 0 < self.moisture_pct <= _MOST_MOISTURE_PCT:
            faults["moisture_pct"] = f"Above 0 and at most {_MOST_MOISTURE_PCT:g} %, as the meter for this material shows it."
        if self.wind_m_s is not None and not 0 <= self.wind_m_s <= _MOST_WIND_M_S:
            faults["wind"] = f"0 to {both_of(_MOST_WIND_M_S, 'speed')}."
        if faults:
            raise FieldErrors(faults)

    def reasons(self, ahead: Outlook, row: int) -> list[LimitReason]:
        """Return the limits of moisture and wind that are broken."""
        out, rules, product = [], ahead.rules[row], ahead.windows.products[row]
        if self.wind_m_s is not None and self.wind_m_s > rules.max_wind_m_s:
            out.append(_broken("wind", self.wind_m_s, rules.max_wind_m_s))
        most = ahead.windows.climate.moisture_max_pct
        limit = product.max_moisture_pct if most is None else float(most[row])
        if self.moisture_pct is not None and limit is not None and self.moisture_pct > limit:
            out.append(_broken("moisture", self.moisture_pct, limit))
        return out


def _broken(rule: str, value: float, limit: float) -> LimitReason:
    return LimitReason(rule, value, limit, limit - value, True, -math.inf)


def log_reading(
    scope: Scope, job: Job, ahead: Outlook, surface_id: str, measured: Measured, painter: str, beside: Beside | None = None
) -> ReadingAnswer:  # fmt: skip
    """Judge a reading for the coat that is due, and keep it; a moisture that was measured corrects the windows too.

    Raises
    ------
    FieldErrors
        If a value cannot be, or the wall is not one that is painted.
    """
    beside = beside or Beside()
    check_all(measured.check, beside.check)
    painted = {s.id: s for s in outlooks.painted_surfaces(job)}
    surface = painted.get(surface_id)
    if surface is None or ahead.row(surface_id) is None:
        raise FieldErrors({"surface_id": "Choose the wall you measured."})
    if beside.moisture_pct is not None and stock_of(surface, scope.knowledge) is None:
        raise FieldErrors({"moisture_pct": "This surface takes up no water: there is nothing to measure."})
    coat, turn = _due(scope, job, surface_id)
    if turn is not None:
        judged = outlooks.of_turn(scope, job, ahead, turn)
        ahead = judged if judged.row(surface_id) is not None else ahead
    row = ahead.row(surface_id)
    assert row is not None, "every painted surface has later coats"
    now = scope.said_at()
    step = ahead.step_at(now)
    bias = bias_c(measured, float(ahead.windows.climate.surface_temp_c[row, step]))
    shifted = outlooks.shifted(scope, job, ahead, row, bias)
    verdict = judge(measured, shifted, 0, step, bias, scope.knowledge.limits, scope.knowledge.tight)
    against = beside.reasons(ahead, row)
    if against:
        verdict = replace(verdict, may_paint=False, is_tight=False, until_step=None, reasons=[*against, *verdict.reasons])
    until = None if verdict.until_step is None else ahead.local(verdict.until_step)
    least = ahead.windows.products[row].min_dew_margin_c
    short = np.flatnonzero(shifted.climate.dew_margin_c[0, step:] < least)
    recoat = recoat_steps(shifted)[0]
    ends = min(verdict.until_step or step, len(recoat) - 1)
    next_coat = ahead.local(math.ceil(recoat[ends])) if verdict.may_paint and math.isfinite(recoat[ends]) else None
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
        details={
            **{name: value for name in ("moisture_pct", "wind_m_s") if (value := getattr(beside, name)) is not None},
            **({"instrument": beside.instrument} if beside.instrument else {}),
            **({"is_by_gauge": True} if beside.is_by_gauge else {}),
            **scope.on_its_way(),
        },
    )
    with changing(scope.acting_as(painter), f"log the reading at {surface.name}", job.id) as change:
        change.add(reading)
        if beside.moisture_pct is not None:
            insert_meter(change, job, surface, beside.moisture_pct, now, painter)
    margin_until = ahead.local(step + int(short[0])) if len(short) and verdict.dew_margin_c >= least else None
    return ReadingAnswer(surface, verdict, until, now, reading.id, coat, margin_until, least, next_coat)


def _due(scope: Scope, job: Job, surface_id: str) -> tuple[str, Turn | None]:
    """Return which coat of a surface comes next by the record, in words and as it is judged; touching up where all are on."""
    coating, record = coatings_of(scope, job).get(surface_id), recorded(scope, job)
    each = coating.each if coating is not None else ()
    finish = [coat for coat in each if coat.turn in ("coats", "later")]
    coming = next((c for c in each if not record.get(f"{surface_id}:{c.step}", OnRecord()).is_done), None)
    if coming is None:
        return ("touching up", each[-1].turn) if each else ("", None)
    number = finish.index(coming) + 1 if coming in finish else 0
    return (f"coat {number} of {len(finish)}" if number else coming.turn), coming.turn


def latest(scope: Scope, job: Job) -> Sequence[Reading]:
    """Return the newest readings of a job, those among them that were taken back."""
    return scope.once(("readings shown", job.id), lambda session: queries.readings(session, job.id, SHOWN))


def take_back(scope: Scope, job: Job, reading_id: str) -> None:
    """Take a reading back: it no longer counts, and stays readable beside the line that says so.

    Raises
    ------
    NotFoundError
    """
    with changing(scope, "take the reading back", job.id) as change:
        row = change.find(Reading, reading_id, "reading")
        if row.id not in void_in(queries.log_entries(change.session, job.id)):
            change.add(row.taken_back(change.at, scope.actor))

"""Cans: how they stand and what threatens them, boxed together, opened, wrongly tinted, returned; paint that was used is taken out.

Not here: what is bought (takeoff), or the list itself (stock).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from amber_gable.core.air.sun import Place
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.takeoff.mixing import Box, boxes_of
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook.weather import forecasts
from amber_gable.store import queries
from amber_gable.store.models import StockRow, TipChange
from amber_gable.store.queries import JobHead
from amber_gable.store.types import new_id

STANDS = {"indoors": "indoors, frost-free", "vehicle": "in a vehicle", "outdoors": "outdoors, in the shade"}
WRONG, RETURNED = "wrong-tint", "returned"
_LOOKS_AHEAD = timedelta(hours=48)
_WARMEST_H = (11, 17)
_MONTH_DAYS = 30.4
# A tip is worn before its life is over where flats are sprayed; it is looked at from then on.
_SOON_SHARE = 0.8


@dataclass(frozen=True)
class Can:
    """A can, and what is to be said of it."""

    row: StockRow
    warnings: tuple[str, ...]


@dataclass(frozen=True)
class Tip:
    """A spray tip and what went through it since it was new [L]."""

    name: str
    litres: float
    life_l: float
    since: datetime | None

    @property
    def is_worn(self) -> bool:
        return self.litres >= self.life_l

    @property
    def is_soon(self) -> bool:
        return self.litres >= _SOON_SHARE * self.life_l


def cans_of(scope: Scope) -> list[Can]:
    """Return the cans in stock, those that something threatens first."""
    with scope.reading() as session:
        rows = queries.stock(session, scope.contractor_id)
        heads = {head.id: head for head in queries.running_jobs(session, scope.contractor_id, jobs.RUNNING)}
    # What is kept for no job stands where the first running one is.
    home = next(iter(heads.values()), None)
    air = {job_id: _air(scope, heads.get(job_id or "", home)) for job_id in {row.job_id for row in rows}}
    out = [Can(row, tuple(_warnings(row, scope, air[row.job_id]))) for row in rows]
    return sorted(out, key=lambda can: (not can.warnings, can.row.product, can.row.colour))


def _air(scope: Scope, head: JobHead | None) -> tuple[np.ndarray, np.ndarray, ZoneInfo] | None:
    """Return the air that is forecast for the next days at a job's place: instants, temperatures, zone."""
    if head is None:
        return None
    place = Place(head.latitude_deg, head.longitude_deg, head.altitude_m)
    try:
        weather = forecasts.weather_of(scope, place, forecasts.standing(scope, place))
    except PlanError:
        return None
    now_s = scope.clock.now().timestamp()
    ahead = (weather.epoch_s >= now_s - 3600) & (weather.epoch_s <= now_s + _LOOKS_AHEAD.total_seconds())
    return weather.epoch_s[ahead], weather.air_temp_c[ahead], ZoneInfo(head.time_zone)


def _warnings(row: StockRow, scope: Scope, air: tuple[np.ndarray, np.ndarray, ZoneInfo] | None) -> list[str]:
    product, today = scope.knowledge.products.get(row.product), scope.clock.now().date()
    out = []
    if row.state == WRONG:
        out.append("wrong tint: it goes back, and is not counted")
    if row.state == RETURNED:
        out.append("returned to the shop")
    if air is not None and row.stands != "indoors" and not row.state:
        out += _by_weather(row.stands, air, is_waterborne=product is None or product.kind == "waterborne")
    for since, name, verb in ((row.opened_on, "opened_keeps_months", "opened"), (row.received_on, "paint_keeps_months", "here")):
        if since and (kept := (today - date.fromisoformat(since)).days / _MONTH_DAYS) > assumed(name):
            out.append(f"{verb} for {kept:.0f} months: stir, strain, try it on a board before it goes on a wall")
            break
    return out


def _by_weather(stands: str, air: tuple[np.ndarray, np.ndarray, ZoneInfo], *, is_waterborne: bool) -> list[str]:
    epoch_s, temp_c, zone = air
    out = []
    cold = np.flatnonzero(temp_c <= assumed("paint_frost_c"))
    if len(cold) and is_waterborne:
        at = datetime.fromtimestamp(float(epoch_s[cold[0]]), zone)
        out.append(f"frost from {at:%a %H:%M}: bring it indoors before")
    if stands == "vehicle":
        hours = np.array([datetime.fromtimestamp(float(s), zone).hour for s in epoch_s])
        inside = temp_c + np.where((hours >= _WARMEST_H[0]) & (hours < _WARMEST_H[1]), assumed("vehicle_sun_k"), 0.0)
        hot = np.flatnonzero(inside >= assumed("paint_heat_c"))
        if len(hot):
            at = datetime.fromtimestamp(float(epoch_s[hot[0]]), zone)
            out.append(f"the vehicle grows too hot from {at:%a %H:%M}: into the shade")
    return out


def tend(scope: Scope, row_id: str, verb: str, job_id: str | None = None) -> None:
    """Say that a can was opened, is wrongly tinted, was returned, is good after all; or where it stands.

    Raises
    ------
    FieldErrors, NotFoundError
    """
    today = scope.clock.now().date().isoformat()
    values = {
        "opened": {"opened_on": today}, "closed": {"opened_on": ""}, "good": {"state": ""},
        WRONG: {"state": WRONG}, RETURNED: {"state": RETURNED},
        **{place: {"stands": place} for place in STANDS},
    }.get(verb)  # fmt: skip
    if values is None:
        raise FieldErrors({"form": "Opened, wrong tint, returned, or where it stands."})
    with changing(scope, f"can: {verb.replace('-', ' ')}", job_id) as change:
        change.update(change.find_own(StockRow, row_id, "can"), values)


def draw(change: ChangeSet, job_id: str, product: str, batch: str, litres: float) -> None:
    """Take paint that a coat used out of the cans of its batch that are kept for the job or for nobody, as far as they go."""
    left = litres
    for row in queries.stock(change.session, change.contractor_id):
        if left > 0 and batch and row.batch == batch and row.product == product and row.job_id in (None, job_id) and not row.state:
            used = min(left, row.litres)
            left -= used
            change.follow(row, {"litres": round(row.litres - used, 4)})


def boxing(scope: Scope, rows: Sequence[StockRow]) -> list[Box]:
    """Return how cans are boxed in the firm's largest bucket.

    Raises
    ------
    FieldErrors
        If they are not of one product and tint.
    """
    if len({(row.product, row.colour) for row in rows}) > 1:
        raise FieldErrors({"cans": "Only cans of one product and one tint are boxed."})
    if any(row.state for row in rows):
        raise FieldErrors({"cans": "A can of a wrong tint is not boxed: it would spoil the others."})
    return boxes_of([row.litres for row in rows], scope.knowledge.practice.box_l, assumed("box_carried_share"))


def box(scope: Scope, row_ids: Sequence[str]) -> None:
    """Make one of several cans that were boxed: its batch names them all.

    Raises
    ------
    FieldErrors, NotFoundError
    """
    if len(set(row_ids)) < 2:
        raise FieldErrors({"cans": "Choose at least two cans."})
    with changing(scope, f"box {len(set(row_ids))} cans") as change:
        rows = [change.find_own(StockRow, row_id, "can") for row_id in dict.fromkeys(row_ids)]
        boxing(scope, rows)
        first, *others = rows
        batch = " + ".join(dict.fromkeys(row.batch for row in rows if row.batch))[:60]
        litres, today = round(sum(row.litres for row in rows), 4), scope.clock.now().date().isoformat()
        for row in others:
            change.delete(row)
        change.follow(first, {"litres": litres, "batch": batch, "opened_on": first.opened_on or today})


def tips_of(scope: Scope) -> list[Tip]:
    """Return the tips that were sprayed with, by what went through each since it was changed, the most worn first."""
    with scope.reading() as session:
        entries, changes = queries.sprayed(session, scope.contractor_id), queries.tip_changes(session, scope.contractor_id)
        gone = {e.corrects for e in entries if e.corrects}
    since = {change.tip: change.at for change in changes}
    through: dict[str, float] = {}
    for entry in entries:
        tip = str(entry.details.get("tip", "")).strip()
        if tip and entry.entry not in gone and (tip not in since or entry.until_at > since[tip]):
            through[tip] = through.get(tip, 0.0) + (entry.litres or 0.0)
    life = scope.knowledge.practice.tip_life_l
    tips = [Tip(tip, through.get(tip, 0.0), life, since.get(tip)) for tip in {*through, *since}]
    return sorted(tips, key=lambda tip: (-tip.litres, tip.name))


def change_tip(scope: Scope, tip: str) -> None:
    """Say that a tip was changed for a new one.

    Raises
    ------
    FieldErrors
    """
    if not 1 <= len(tip.strip()) <= 20:
        raise FieldErrors({"tip": "Which tip? As it stands on it: 517."})
    with changing(scope, f"tip {tip.strip()} changed") as change:
        change.add(
            TipChange(id=new_id(), version=1, contractor_id=scope.contractor_id, tip=tip.strip(), at=scope.said_at(), said_by=scope.actor)
        )


@dataclass(frozen=True)
class LeftAt:
    """Something of the truck that has not come home: what, at which job, since which day."""

    label: str
    job: str
    day: str


def left_elsewhere(scope: Scope) -> list[LeftAt]:
    """Return tools, ladders and covers that were loaded and not counted back."""
    knowledge = scope.knowledge
    with scope.reading() as session:
        out = [row for row in queries.all_loaded(session, scope.contractor_id) if not row.is_back]
        names = {job.id: job.name for job in queries.jobs(session, scope.contractor_id)}
    labels = {f"tool:{key}": tool.label for key, tool in knowledge.systems.tools.items()}
    labels |= {f"access:{key}": way.label for key, way in knowledge.access.items()}
    today = scope.clock.now().date().isoformat()
    return [LeftAt(labels[row.key], names.get(row.job_id, ""), row.day) for row in out if row.key in labels and row.day < today]

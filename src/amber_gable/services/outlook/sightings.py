"""What somebody finds or does on one surface: dry, damp or wet by palm, moisture by meter, washed. It overrules what was computed."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from amber_gable.core.knowledge import Knowledge, Phase, Stock
from amber_gable.core.planning.state import Told, standing
from amber_gable.core.systems.facts import Facts
from amber_gable.core.wall.climate import Observation
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.services.log.record import entries_of
from amber_gable.services.outlook.skywatch import REACH, moment_of, seen_on
from amber_gable.store import queries
from amber_gable.store.models import Job, Sighting, SiteTest, Surface
from amber_gable.store.types import new_id

Palm = Literal["dry", "damp", "wet"]
PALMS: tuple[Palm, ...] = ("dry", "damp", "wet")
WASHED = "washed"
# What was found longer ago is in the weather by now.
REACHES_BACK = timedelta(hours=48)
_MOST_PCT = 60.0
# Older than this it is no longer news to whoever stands before the wall.
_FRESH = timedelta(hours=12)


def stock_of(surface: Surface | Facts, knowledge: Knowledge) -> Stock | None:
    """Return how a surface takes up water: under a film more slowly than bare; None for what takes up none."""
    substrate = knowledge.substrates[surface.substrate]
    coating = knowledge.coatings.get(surface.coating)
    key = substrate.stock_open if coating is not None and coating.film in ("none", "stain") else substrate.stock
    return knowledge.stocks[key] if key else None


def _painted(job: Job, surface_id: str) -> Surface:
    surface = next((s for e in job.building.elevations for s in e.surfaces if s.id == surface_id and s.is_painted), None)
    if surface is None:
        raise FieldErrors({"surface_id": "Choose one of the surfaces that are painted."})
    return surface


def _note(
    scope: Scope, job: Job, surfaces: Sequence[Surface], kind: str, words: str, at: str, who: str, value: float | None = None
) -> None:
    now = scope.said_at().astimezone(ZoneInfo(job.time_zone))
    found_at = moment_of(at, now, "found_at", REACH, timedelta(0))
    called = surfaces[0].name if len(surfaces) == 1 else f"{len(surfaces)} surfaces"
    with changing(scope.acting_as(who), f"{called} {words}", job.id) as change:
        for surface in surfaces:
            change.add(
                Sighting(
                    id=new_id(), version=1, job_id=job.id, kind=kind, said_at=change.at, from_at=found_at, until_at=found_at,
                    surface_id=surface.id, value=value, said_by=who,
                )
            )  # fmt: skip


def _each(job: Job, surface_ids: Sequence[str]) -> list[Surface]:
    if not surface_ids:
        raise FieldErrors({"surface_id": "Choose at least one."})
    return [_painted(job, i) for i in dict.fromkeys(surface_ids)]


def feel(scope: Scope, job: Job, surface_ids: Sequence[str], palm: str, at: str = "", who: str = "") -> None:
    """Write down what a palm felt on surfaces.

    Parameters
    ----------
    surface_ids : sequence of str
        One, or all that felt the same.
    palm : str
        "dry", "damp" or "wet".
    at : str
        A clock time of the site that is past; now where it is empty.
    who : str

    Raises
    ------
    FieldErrors
    """
    if palm not in PALMS:
        raise FieldErrors({"palm": "Dry, damp or wet."})
    _note(scope, job, _each(job, surface_ids), f"palm-{palm}", f"felt {palm}", at, who)


def measure(scope: Scope, job: Job, surface_id: str, moisture_pct: float, at: str = "", who: str = "") -> None:
    """Write down what a meter shows on a surface.

    Raises
    ------
    FieldErrors
    """
    surface = _painted(job, surface_id)
    if stock_of(surface, scope.knowledge) is None:
        raise FieldErrors({"moisture_pct": "This surface takes up no water: there is nothing to measure."})
    if not 0 < moisture_pct <= _MOST_PCT:
        raise FieldErrors({"moisture_pct": f"Above 0 and at most {_MOST_PCT:g} %, as the meter for this material shows it."})
    _note(scope, job, [surface], "meter", f"at {moisture_pct:g} % by meter", at, who, moisture_pct)


def insert_meter(change: ChangeSet, job: Job, surface: Surface, moisture_pct: float, at: datetime, who: str) -> None:
    """Write within a change what a meter showed."""
    change.add(
        Sighting(
            id=new_id(), version=1, job_id=job.id, kind="meter", said_at=change.at, from_at=at, until_at=at, surface_id=surface.id,
            value=moisture_pct, said_by=who,
        )
    )  # fmt: skip


def wash(scope: Scope, job: Job, surface_ids: Sequence[str], at: str = "", who: str = "") -> None:
    """Write down that surfaces were washed: they are wet, and they must dry; what a palm said before is over.

    Raises
    ------
    FieldErrors
    """
    _note(scope, job, _each(job, surface_ids), WASHED, "washed", at, who)


def _on_surfaces(scope: Scope, job: Job, now: datetime) -> Sequence[Sighting]:
    """Return what was found or done on the surfaces of a job for as far back as it matters."""
    return scope.once(("found", job.id), lambda session: queries.found_on_surfaces(session, job.id, now - REACHES_BACK))


def rows_of(scope: Scope, job: Job) -> Sequence[Sighting]:
    """Return what was found on surfaces lately, the newest last."""
    return _on_surfaces(scope, job, scope.clock.now())


def observations_of(scope: Scope, job: Job, surface_ids: list[str], now: datetime) -> tuple[Observation, ...]:
    """Return what was found, as the engine takes it: rows by the order of `surface_ids`."""
    since = now - REACHES_BACK
    rows = _on_surfaces(scope, job, now)
    tests = scope.once(("moisture tests", job.id), lambda session: queries.site_tests_since(session, job.id, "moisture", since))
    knowledge = scope.knowledge
    surfaces = {s.id: s for e in job.building.elevations for s in e.surfaces}
    out = [t for test in tests if (t := _of_test(test, surface_ids)) is not None]
    for row in rows:
        if row.surface_id not in surface_ids or row.said_at > now:
            continue
        at, index = row.from_at.timestamp(), surface_ids.index(row.surface_id)
        stock = stock_of(surfaces[row.surface_id], knowledge)
        if row.kind == WASHED:
            out.append(Observation(index, at, knowledge.limits.palm_wet_mm, stock.washed_pct if stock else None))
        elif row.kind == "meter":
            out.append(Observation(index, at, None, row.value))
        else:
            felt = {"palm-dry": 0.0, "palm-damp": knowledge.limits.palm_damp_mm, "palm-wet": knowledge.limits.palm_wet_mm}
            out.append(Observation(index, at, felt[row.kind]))
    out += _washed_by_record(scope, job, surface_ids, since, now)
    return tuple(sorted(out, key=lambda t: (t.at_s, t.surface)))


def _washed_by_record(scope: Scope, job: Job, surface_ids: list[str], since: datetime, now: datetime) -> list[Observation]:
    """Return the surfaces that the record says were washed lately: wet since the end of it."""
    knowledge, out = scope.knowledge, []
    surfaces = {s.id: s for e in job.building.elevations for s in e.surfaces}
    for entry in standing(entries_of(scope, job)):
        place, _, step = entry.task.rpartition(":")
        row = knowledge.systems.steps.get(step)
        if place not in surface_ids or row is None or not row.wets or row.phase is not Phase.CLEAN:
            continue
        if entry.told is Told.DONE and since.timestamp() <= entry.until_s <= now.timestamp():
            stock = stock_of(surfaces[place], knowledge)
            water_mm = knowledge.limits.palm_wet_mm
            out.append(Observation(surface_ids.index(place), entry.until_s, water_mm, stock.washed_pct if stock else None))
    return out


def _of_test(test: SiteTest, surface_ids: list[str]) -> Observation | None:
    """Return a site test by meter: its wettest reading, since paint fails there first."""
    shown = test.values.get("readings_pct")
    if test.surface_id not in surface_ids or not shown:
        return None
    return Observation(surface_ids.index(test.surface_id), test.taken_at.timestamp(), None, float(max(shown)))


@dataclass(frozen=True)
class Felt:
    """The last that was said of a surface: "dry", "damp", "wet" or "washed"; when, and by whom."""

    word: str
    at: datetime
    said_by: str = ""


def latest_palms(scope: Scope, job: Job, now: datetime) -> dict[str, Felt]:
    """Return what was last felt or done on each surface today, by its id; nothing where it rained on it since.

    A later wash ends what a palm said, and so does rain that somebody saw: neither is dry any more.
    """
    out: dict[str, Felt] = {}
    for row in _on_surfaces(scope, job, now):
        if not row.surface_id or not now - _FRESH <= row.from_at <= now or row.said_at > now or row.kind == "meter":
            continue
        out[row.surface_id] = Felt(row.kind.removeprefix("palm-"), row.from_at, row.said_by)
    rained = max((r.from_s for r in seen_on(scope, job, now).rain if r.from_s <= now.timestamp()), default=0.0)
    return {surface_id: felt for surface_id, felt in out.items() if felt.at.timestamp() > rained}

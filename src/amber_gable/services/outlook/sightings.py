"""What somebody finds or does on one surface: dry, damp or wet by palm, moisture by meter, washed. It overrules what was computed."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Literal, cast

from amber_gable.core.knowledge import Knowledge, Stock
from amber_gable.core.systems.facts import Facts
from amber_gable.core.wall.climate import Observation
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.store import queries
from amber_gable.store.models import Job, Sighting, SiteTest, Surface
from amber_gable.store.types import new_id

Palm = Literal["dry", "damp", "wet"]
PALMS: tuple[Palm, ...] = ("dry", "damp", "wet")
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


def _note(scope: Scope, job: Job, surface: Surface, kind: str, label: str, value: float | None = None) -> None:
    with changing(scope, label, job.id) as change:
        change.add(
            Sighting(
                id=new_id(), version=1, job_id=job.id, kind=kind, said_at=change.at, from_at=change.at, until_at=change.at,
                surface_id=surface.id, value=value,
            )
        )  # fmt: skip


def feel(scope: Scope, job: Job, surface_id: str, palm: str) -> None:
    """Write down what a palm felt on a surface.

    Raises
    ------
    FieldErrors
    """
    if palm not in PALMS:
        raise FieldErrors({"palm": "Dry, damp or wet."})
    surface = _painted(job, surface_id)
    _note(scope, job, surface, f"palm-{palm}", f"{surface.name} felt {palm}")


def measure(scope: Scope, job: Job, surface_id: str, moisture_pct: float) -> None:
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
    _note(scope, job, surface, "meter", f"{surface.name} at {moisture_pct:g} % by meter", moisture_pct)


def wash(scope: Scope, job: Job, surface_id: str) -> None:
    """Write down that a surface was washed just now: it is wet, and it must dry.

    Raises
    ------
    FieldErrors
    """
    surface = _painted(job, surface_id)
    _note(scope, job, surface, "washed", f"{surface.name} washed")


def _on_surfaces(scope: Scope, job: Job, now: datetime) -> Sequence[Sighting]:
    """Return what was found or done on the surfaces of a job for as far back as it matters."""
    return scope.once(("found", job.id), lambda session: queries.found_on_surfaces(session, job.id, now - REACHES_BACK))


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
        at, index = row.said_at.timestamp(), surface_ids.index(row.surface_id)
        stock = stock_of(surfaces[row.surface_id], knowledge)
        if row.kind == "washed":
            out.append(Observation(index, at, knowledge.limits.palm_wet_mm, stock.washed_pct if stock else None))
        elif row.kind == "meter":
            out.append(Observation(index, at, None, row.value))
        else:
            felt = {"palm-dry": 0.0, "palm-damp": knowledge.limits.palm_damp_mm, "palm-wet": knowledge.limits.palm_wet_mm}
            out.append(Observation(index, at, felt[row.kind]))
    return tuple(sorted(out, key=lambda t: (t.at_s, t.surface)))


def _of_test(test: SiteTest, surface_ids: list[str]) -> Observation | None:
    """Return a site test by meter: its wettest reading, since paint fails there first."""
    shown = test.values.get("readings_pct")
    if test.surface_id not in surface_ids or not shown:
        return None
    return Observation(surface_ids.index(test.surface_id), test.taken_at.timestamp(), None, float(max(shown)))


def latest_palms(scope: Scope, job: Job, now: datetime) -> dict[str, tuple[Palm, datetime]]:
    """Return what a palm felt last on each surface today, by its id."""
    rows = [row for row in _on_surfaces(scope, job, now) if row.said_at >= now - _FRESH]
    return {
        row.surface_id: (cast(Palm, row.kind.removeprefix("palm-")), row.said_at)
        for row in rows
        if row.surface_id and row.kind.startswith("palm-") and row.said_at <= now
    }

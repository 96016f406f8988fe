"""Sides: which elevations a part lies on, and how much of it on each. Windows, shutters and trim go round the house.

Not here: what is done to a part (systems), or how long it takes (takeoff).
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.takeoff.items import item_area_m2
from amber_gable.store.models import Elevation, Item, Job

WINDOWS, SHUTTERS, TRIM = "windows", "shutters", "trim"
# What such a part is called on one side.
NAMES: Mapping[str, str] = {WINDOWS: "Windows", SHUTTERS: "Shutters", TRIM: "Trim"}


@dataclass(frozen=True)
class OnSide:
    """A part of a job on one side.

    Parameters
    ----------
    key : str
        Of a surface, its id; of what goes round the house, its part and side.
    elevation : Elevation
    share_frac : float
        Of the whole part; the shares of its sides are 1 together.
    """

    key: str
    name: str
    elevation: Elevation
    share_frac: float


def sides_of(job: Job, part: str, knowledge: Knowledge) -> tuple[OnSide, ...]:
    """Return a part side by side, in walking order; nothing where it lies on no side.

    Parameters
    ----------
    part : str
        A surface's id, or "windows", "shutters", "trim".
    """
    for elevation in job.building.elevations:
        surface = next((s for s in elevation.surfaces if s.id == part), None)
        if surface is not None:
            return (OnSide(part, surface.name, elevation, 1.0),)
    weights = _WEIGHTS[part](job, knowledge) if part in _WEIGHTS else {}
    whole = sum(weights.values())
    return tuple(
        OnSide(f"{part}@{e.id}", f"{NAMES[part]}, {e.name}", e, weights[e.id] / whole)
        for e in job.building.elevations
        if weights.get(e.id, 0.0) > 0
    )


def named(job: Job, knowledge: Knowledge) -> dict[str, tuple[str, str]]:
    """Return name and elevation of every surface by its id, and of windows, shutters and trim by their side."""
    names = {s.id: (s.name, e.id) for e in job.building.elevations for s in e.surfaces}
    return names | {side.key: (side.name, side.elevation.id) for part in NAMES for side in sides_of(job, part, knowledge)}


def _windows(job: Job, knowledge: Knowledge) -> dict[str, float]:
    return {e.id: float(sum(knowledge.openings[o.kind].has_panes for o in e.openings)) for e in job.building.elevations}


def _shutters(job: Job, knowledge: Knowledge) -> dict[str, float]:
    return {e.id: float(sum(o.kind == "shutter" for o in e.openings)) for e in job.building.elevations}


def _trim(job: Job, knowledge: Knowledge) -> dict[str, float]:
    """Weigh the painted trim of each side by its area: what follows from a block lies round that block."""
    out: dict[str, float] = {}
    for item in job.building.items:
        shares = _round(job, item, knowledge) if item.is_painted else {}
        whole = sum(shares.values())
        area = item_area_m2(knowledge.items[item.kind], item.count, item.length_m, item.girth_m)
        for side, share in shares.items():
            out[side] = out.get(side, 0.0) + area * share / whole if whole else 0.0
    return out


def _width(elevation: Elevation) -> float:
    xs = [x for x, _ in elevation.outline]
    return float(max(xs) - min(xs))


def _is_gable(elevation: Elevation) -> bool:
    return elevation.gable_from_m > 0


# On which walls of its block a kind of trim runs, and by what it is shared; by their width where nothing is said (our assumption).
_RUNS: Mapping[str, Callable[[Elevation], float]] = {
    "fascia": lambda e: 0.0 if _is_gable(e) else _width(e),
    "verge": lambda e: _width(e) if _is_gable(e) else 0.0,
    "corner-board": lambda e: 1.0,
}
_AT_WINDOWS = ("window-trim", "stone-sill")


def _round(job: Job, item: Item, knowledge: Knowledge) -> dict[str, float]:
    block = item.key.partition("/")[0] if item.is_derived else None
    walls: Sequence[Elevation] = [e for e in job.building.elevations if e.kind == "wall" and block in (None, e.block_id)]
    painted = [e for e in job.building.elevations if any(s.is_painted for s in e.surfaces)]
    # Posts and rails of a deck are on the deck, not on the walls that nobody paints.
    walls = [e for e in walls if e in painted] or painted
    if item.kind in _AT_WINDOWS:
        counts = _windows(job, knowledge)
        if any(counts.values()):
            return counts
    shares = {e.id: _RUNS.get(item.kind, _width)(e) for e in walls}
    return shares if any(shares.values()) else {e.id: _width(e) for e in walls}


_WEIGHTS: Mapping[str, Callable[[Job, Knowledge], dict[str, float]]] = {WINDOWS: _windows, SHUTTERS: _shutters, TRIM: _trim}

"""Rebuilding: after a block came, went or was measured again, elevations, surfaces and trim follow.

What is known of an elevation or surface stays with it: an elevation by its key, a surface by what it
shares with the one before. An opening keeps its distance from the block's corner, and moves to
whichever part of the wall it now stands in.
"""

from collections import defaultdict
from collections.abc import Sequence
from typing import Any

from amber_gable.core import geometry
from amber_gable.core.geometry import ElevationShape, Rect
from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import FieldErrors
from amber_gable.services.changes.changes import ChangeSet
from amber_gable.services.survey.building.matching import let_go, match_surfaces
from amber_gable.services.survey.building.rows import block_of, elevation_columns, shape_of
from amber_gable.store import queries
from amber_gable.store.models import Building, Elevation, Item, Opening
from amber_gable.store.types import new_id


def rebuild(change: ChangeSet, building: Building, knowledge: Knowledge) -> None:
    """Bring a building's elevations, openings, surfaces and trim in line with its blocks.

    Raises
    ------
    FieldErrors
        If a block cannot stand, or an opening would be left without a wall.
    """
    blocks, rows, items = queries.building_parts(change.session, building.id)
    alone = [shape_of(row) for row in rows if row.block_id is None]
    made = geometry.build([block_of(b) for b in blocks], building.front_azimuth_deg, alone)
    by_key = {row.key: row for row in rows}
    kept = {shape.key for shape in made.elevations}
    openings = _openings_by_edge(rows)
    present = []
    for position, shape in enumerate(made.elevations):
        row = by_key.get(shape.key)
        if row is None:
            row = _new_elevation(building.id, position, shape)
            change.add(row)
        else:
            _shift_marks(change, row, shape)
            change.follow(row, elevation_columns(position, shape))
        present.append((row, shape))
    _move_openings(change, openings, present, knowledge)
    surfaces = [s for row in rows for s in row.surfaces]
    standing = queries.openings_of(change.session, building.id)
    for row, shape in present:
        here = [o for o in standing if o.elevation_id == row.id]
        match_surfaces(change, row, shape, here, [s for s in surfaces if s.elevation_id == row.id], surfaces, knowledge)
    for row in rows:
        if row.key not in kept:
            _drop(change, row)
    _match_trim(change, building, made.trim, items, knowledge)


def _new_elevation(building_id: str, position: int, shape: ElevationShape) -> Elevation:
    return Elevation(
        id=new_id(), version=1, building_id=building_id, cuts=[], access=None, ground="firm", ground_slope_pct=0.0,
        **elevation_columns(position, shape),
    )  # fmt: skip


def _edge(key: str) -> str:
    """Return the block's side that an elevation is a part of: "main/front 2" is on "main/front"."""
    stem, _, number = key.rpartition(" ")
    return stem if stem and number.isdigit() and not stem.endswith(("edge", "roof")) else key


def _openings_by_edge(rows: Sequence[Elevation]) -> dict[str, list[tuple[Opening, Elevation, float, float]]]:
    """Return openings with their distance from the block's corner and their sill above the ground."""
    by_edge = defaultdict(list)
    for row in rows:
        for opening in row.openings:
            by_edge[_edge(row.key)].append((opening, row, opening.left_m + row.edge_m, opening.sill_m + row.base_m))
    return by_edge


def _move_openings(
    change: ChangeSet,
    by_edge: dict[str, list[tuple[Opening, Elevation, float, float]]],
    present: Sequence[tuple[Elevation, ElevationShape]],
    knowledge: Knowledge,
) -> None:
    for edge, openings in by_edge.items():
        parts = [(row, shape) for row, shape in present if _edge(shape.key) == edge]
        for opening, old, along, up in openings:
            _move(change, opening, old, along, up, parts, knowledge)


def _move(
    change: ChangeSet,
    opening: Opening,
    old: Elevation,
    along: float,
    up: float,
    parts: Sequence[tuple[Elevation, ElevationShape]],
    knowledge: Knowledge,
) -> None:
    fault: FieldErrors | None = None
    for row, shape in parts:
        rect = Rect(along - shape.place.edge_m, up - shape.place.base_m, opening.width_m, opening.height_m)
        try:
            geometry.check_opening(shape.region, rect, [])
        except FieldErrors as found:
            fault = found
            continue
        change.follow(opening, {"elevation_id": row.id, "left_m": round(rect.left, 6), "sill_m": round(rect.bottom, 6)})
        return
    label = knowledge.openings[opening.kind].label.lower()
    message = f"The {label} on the {old.name} side would no longer fit. Move or remove it first, or measure again."
    raise FieldErrors({"form": message}, fault.on(old.id).spots if fault else ()) from fault


def _shift_marks(change: ChangeSet, row: Elevation, shape: ElevationShape) -> None:
    """Keep drawn divisions and pins where they are on the wall when its left edge or foot moved."""
    dx, dy = row.edge_m - shape.place.edge_m, row.base_m - shape.place.base_m
    if abs(dx) + abs(dy) < 1e-9:
        return
    change.follow(row, {"cuts": [[[x + dx, y + dy] for x, y in cut] for cut in row.cuts]})
    for finding in queries.findings_on(change.session, row.id):
        change.follow(finding, {"x_m": finding.x_m + dx, "y_m": finding.y_m + dy})


def _drop(change: ChangeSet, row: Elevation) -> None:
    """Delete an elevation that is no longer there, with its surfaces; its openings have moved on."""
    if any(o.elevation_id == row.id for o in row.openings):
        raise FieldErrors({"form": f"The {row.name} side would be hidden, with openings in it. Move or remove them first."})
    detach(change, row)
    for surface in row.surfaces:
        change.delete(surface)
    change.delete(row)


def detach(change: ChangeSet, row: Elevation) -> None:
    """Let go of everything that points to an elevation, so that undo can bring the links back."""
    let_go(change, row.id, {s.id for s in row.surfaces})


def _match_trim(change: ChangeSet, building: Building, trim: Sequence[Any], items: Sequence[Item], knowledge: Knowledge) -> None:
    by_key = {item.key: item for item in items if item.is_derived}
    for run in trim:
        row = by_key.pop(run.key, None)
        if row is not None:
            width = {"girth_m": round(run.width_m, 4)} if run.width_m else {}
            change.follow(row, {"length_m": round(run.length_m, 4), "name": run.name} | width)
            continue
        kind = knowledge.items[run.kind]
        change.add(
            Item(
                id=new_id(), version=1, building_id=building.id, elevation_id=None, key=run.key, kind=run.kind, name=run.name, count=1,
                length_m=round(run.length_m, 4), girth_m=round(run.width_m, 4) or kind.girth_m, substrate=kind.substrate,
                is_painted=run.kind not in ("foundation-strip",), is_derived=True,
            )
        )  # fmt: skip
    for row in by_key.values():
        change.delete(row)

"""Matching: the surfaces of an elevation after it was divided or measured anew, facts kept."""

from collections.abc import Sequence
from typing import Any

from amber_gable.core.geometry import ElevationShape, divide
from amber_gable.core.geometry.divide import Piece, best_match
from amber_gable.core.knowledge import Knowledge
from amber_gable.services.changes.changes import ChangeSet
from amber_gable.services.survey.building.rows import cuts_of, rect_of, region_columns, region_of
from amber_gable.store import queries
from amber_gable.store.models import Elevation, Opening, Sighting, Surface
from amber_gable.store.types import new_id

# kind: substrate, LRV, painted. Masonry feet, chimneys and roofs usually stay as they are.
_FIRST_FACTS: dict[str, tuple[str, float, bool]] = {
    "wall": ("wood-siding", 50.0, True),
    "gable": ("wood-siding", 50.0, True),
    "plinth": ("brick", 25.0, False),
    "chimney": ("brick", 25.0, False),
    "roof": ("shingle-roof", 15.0, False),
    "door": ("wood-door", 20.0, True),
    "deck": ("deck-wood", 30.0, True),
    "railing": ("wood-trim", 50.0, True),
    "steps": ("deck-wood", 30.0, True),
}
# Notes of water on a surface, which follow to the surface that takes it in.
FOLLOWS = ("palm-damp", "palm-wet", "washed", "meter")
_WORDS = {"wall": "wall", "gable": "gable top", "plinth": "plinth"}
_KEPT = (
    "substrate", "lies_on", "profile", "profile_mm", "texture", "lrv_pct", "hex", "coating", "coated_year", "coated_month",
    "old_lrv_pct", "old_hex",
    "is_painted",
)  # fmt: skip


def surface_name(shape: ElevationShape, piece: Piece) -> str:
    """Return what a surface is called: "East wall", "East gable top", "Wing north wall"."""
    stem = shape.name
    if piece.kind == "gable":
        return f"{stem.removesuffix(' gable')} gable top"
    if piece.kind == "plinth":
        return f"{stem.removesuffix(' gable')} plinth"
    return f"{stem} {_WORDS[piece.kind]}" if piece.kind in _WORDS else stem


def _first_facts(kind: str, knowledge: Knowledge, like: Sequence[Surface]) -> dict[str, Any]:
    """Return the facts a new surface starts with: those of its likes on the building, else the usual."""
    model = next((s for s in like if s.kind == kind and s.opening_id is None), None)
    if model is None and kind == "gable":
        model = next((s for s in like if s.kind == "wall"), None)
    if model is not None:
        return {name: getattr(model, name) for name in _KEPT}
    substrate, lrv, painted = _FIRST_FACTS[kind]
    row = knowledge.substrates[substrate]
    profile = "balusters" if kind == "railing" else row.profile
    return {
        "substrate": substrate, "lies_on": "", "profile": profile, "profile_mm": {}, "texture": row.texture, "lrv_pct": lrv, "hex": None,
        "coating": "unknown" if painted else "none", "coated_year": None, "coated_month": None, "old_lrv_pct": None,
        "old_hex": None, "is_painted": painted,
    }  # fmt: skip


def _paired(pieces: Sequence[Piece], existing: Sequence[Surface]) -> dict[int, Surface]:
    """Return which existing surface each piece continues: the largest shares first, one piece each."""
    regions = [region_of(row) for row in existing]
    shares = []
    for index, piece in enumerate(pieces):
        for other, row in enumerate(existing):
            if row.kind == piece.kind:
                shared = piece.region.polygon.intersection(regions[other].polygon).area
                union = piece.region.area_m2 + regions[other].area_m2 - shared
                if shared > 0 and union > 0:
                    shares.append((shared / union, index, other))
    pairs: dict[int, Surface] = {}
    taken: set[int] = set()
    for _, index, other in sorted(shares, key=lambda s: (-s[0], s[1], s[2])):
        if index not in pairs and other not in taken:
            pairs[index] = existing[other]
            taken.add(other)
    return pairs


def match_surfaces(
    change: ChangeSet,
    elevation: Elevation,
    shape: ElevationShape,
    openings: Sequence[Opening],
    existing: Sequence[Surface],
    like: Sequence[Surface],
    knowledge: Knowledge,
) -> None:
    """Bring an elevation's surfaces in line with its outline, divisions and doors, keeping what is known.

    Parameters
    ----------
    existing : sequence of Surface
        The elevation's surfaces as they are in the tables.
    like : sequence of Surface
        Surfaces of the building, from which new ones take their facts.
    """
    pieces = divide(shape, cuts_of(elevation))
    walls = [row for row in existing if row.opening_id is None]
    pairs = _paired(pieces, walls)
    names: dict[str, int] = {}
    for position, piece in enumerate(pieces):
        name = surface_name(shape, piece)
        names[name] = names.get(name, 0) + 1
        columns = {"kind": piece.kind, "position": position, **region_columns(piece.region)}
        numbered = f"{name} {names[name]}" if names[name] > 1 else name
        row = pairs.get(position)
        if row is not None:
            change.follow(row, columns | ({} if row.is_named else {"name": numbered}))
            continue
        parent = best_match(piece.region, [region_of(s) for s in walls])
        facts = {key: getattr(walls[parent], key) for key in _KEPT} if parent is not None else _first_facts(piece.kind, knowledge, like)
        change.add(
            Surface(id=new_id(), version=1, elevation_id=elevation.id, opening_id=None, name=numbered, is_named=False, **columns, **facts)
        )
    _match_doors(change, elevation, shape, openings, existing, len(pieces), knowledge)
    for row in walls:
        if row not in pairs.values():
            taken_in_by = best_match(region_of(row), [piece.region for piece in pieces])
            let_go(change, None, {row.id}, pairs.get(taken_in_by) if taken_in_by is not None else None)
            change.delete(row)


def let_go(change: ChangeSet, elevation_id: str | None, surface_ids: set[str], heir: Surface | None = None) -> None:
    """Let go of everything that points to an elevation or to surfaces, so that undo can bring the links back.

    Parameters
    ----------
    heir : Surface, optional
        The surface that takes the old one in. Water that a palm, a meter or a hose found on the old one is on the new one now;
        a dry palm says nothing of the rest of it.
    """
    for row, pointing in queries.pointing_to(change.session, elevation_id, surface_ids):
        values: dict[str, str | None] = dict(pointing)
        if heir is not None and isinstance(row, Sighting) and row.kind in FOLLOWS:
            values["surface_id"] = heir.id
        change.follow(row, values)


def _match_doors(
    change: ChangeSet,
    elevation: Elevation,
    shape: ElevationShape,
    openings: Sequence[Opening],
    existing: Sequence[Surface],
    first: int,
    knowledge: Knowledge,
) -> None:
    """An opening that is painted as a surface of its own, such as a door, has one."""
    by_opening = {row.opening_id: row for row in existing if row.opening_id is not None}
    alike: dict[str, int] = {}
    for position, opening in enumerate(openings, start=first):
        kind = knowledge.openings[opening.kind]
        if not kind.substrate:
            continue
        outline = [[x, y] for x, y in rect_of(opening).outline]
        columns: dict[str, Any] = {"position": position, "outline": outline, "elevation_id": elevation.id}
        row = by_opening.get(opening.id)
        name = f"{shape.name} {kind.label.lower()}"
        alike[name] = alike.get(name, 0) + 1
        name = f"{name} {alike[name]}" if alike[name] > 1 else name
        if row is None:
            # The door has moved here from another part of the wall, and its surface with it.
            row = queries.surface_of_opening(change.session, opening.id)
        if row is not None:
            change.follow(row, columns | ({} if row.is_named else {"name": name}))
            continue
        substrate = knowledge.substrates[kind.substrate]
        facts = _first_facts("door", knowledge, ()) | {
            "substrate": kind.substrate,
            "profile": substrate.profile,
            "texture": substrate.texture,
        }
        change.add(
            Surface(id=new_id(), version=1, opening_id=opening.id, kind="door", name=name, is_named=False, holes=[], **columns, **facts)
        )
    doors = {o.id for o in openings if knowledge.openings[o.kind].substrate}
    for opening_id, row in by_opening.items():
        now = queries.opening(change.session, opening_id)
        # A door that now stands in another part of the wall takes its surface along.
        has_moved = now is not None and now.elevation_id != elevation.id
        if opening_id not in doors and not has_moved:
            let_go(change, None, {row.id})
            change.delete(row)

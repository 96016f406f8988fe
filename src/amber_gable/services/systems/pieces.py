"""The pieces of a job whose order of strokes is drawn: each size of opening once, every painted wall, the decks."""

from dataclasses import dataclass

from amber_gable.core.geometry import Rect
from amber_gable.core.systems import sequences
from amber_gable.core.systems.sequences import StrokeOrder
from amber_gable.services.app.scope import Scope
from amber_gable.services.survey.building.rows import rect_of, region_of
from amber_gable.store.models import Job, Opening


@dataclass(frozen=True)
class PaintedPiece:
    """A piece, how many there are of it, and its order of strokes."""

    key: str
    name: str
    count: int
    order: StrokeOrder


def pieces_of(scope: Scope, job: Job) -> list[PaintedPiece]:
    """Return the pieces of a job: openings by size, then walls and decks in walking order."""
    return [*_openings(scope, job), *_faces(job)]


def _openings(scope: Scope, job: Job) -> list[PaintedPiece]:
    alike: dict[tuple[object, ...], list[Opening]] = {}
    for elevation in job.building.elevations:
        for o in elevation.openings:
            if o.kind in sequences.OPENINGS:
                alike.setdefault((o.kind, round(o.width_m, 2), round(o.height_m, 2), o.panes_across, o.panes_up), []).append(o)
    pieces = []
    for number, group in enumerate(alike.values(), start=1):
        first = group[0]
        order = sequences.OPENINGS[first.kind](first.width_m, first.height_m, first.panes_across, first.panes_up)
        pieces.append(PaintedPiece(f"opening-{number}", scope.knowledge.openings[first.kind].label, len(group), order))
    return pieces


def _faces(job: Job) -> list[PaintedPiece]:
    pieces = []
    for elevation in job.building.elevations:
        for s in elevation.surfaces:
            if not s.is_painted or s.opening_id or s.kind not in ("wall", "deck"):
                continue
            left, bottom, right, top = region_of(s).bounds
            if s.kind == "deck":
                order = sequences.deck(right - left, top - bottom)
            else:
                inside = [rect_of(o) for o in elevation.openings]
                moved = [Rect(r.left - left, r.bottom - bottom, r.width, r.height) for r in inside]
                order = sequences.wall(right - left, top - bottom, moved)
            pieces.append(PaintedPiece(s.id, s.name, 1, order))
    return pieces

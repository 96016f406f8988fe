"""Division: the surfaces of an elevation, by its plinth and gable and by the lines that were drawn.

A line or ring is kept, not the pieces: when the building is measured again the same lines divide
the new outline. A line divides the one surface in which its middle lies, from edge to edge.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from shapely.geometry import LineString, Polygon, box
from shapely.geometry import Point as ShapelyPoint
from shapely.geometry.base import BaseGeometry
from shapely.ops import split

from amber_gable.core.geometry.elevations import ElevationShape, SurfaceKind
from amber_gable.core.geometry.outlines import SLIVER_M2, Point, Region, check_outline, regions
from amber_gable.errors import FieldErrors, Spot

_FAR_M = 1000.0
# The narrowest surface that is one: a bead of trim.
_STRIP_M = 0.01


@dataclass(frozen=True)
class Cut:
    """A drawn division: a line of two points, or a ring of three and more that becomes a surface."""

    points: tuple[Point, ...]

    @property
    def is_ring(self) -> bool:
        return len(self.points) > 2


@dataclass(frozen=True)
class Piece:
    """A surface as division finds it; `part` is what of the elevation it belongs to."""

    kind: SurfaceKind
    region: Region


def _base(shape: ElevationShape) -> list[Piece]:
    """Return plinth, wall and gable of a wall; anything else is one piece."""
    whole = shape.region.polygon
    if shape.kind != "wall" or shape.surface == "chimney":
        return [Piece(shape.surface, shape.region)]
    pieces: list[Piece] = []
    levels: list[tuple[SurfaceKind, float, float]] = []
    low = -1.0
    if shape.plinth_m > 0:
        levels.append(("plinth", low, shape.plinth_m))
        low = shape.plinth_m
    if shape.gable_from_m > 0:
        levels.append(("wall", low, shape.gable_from_m))
        levels.append(("gable", shape.gable_from_m, _FAR_M))
    else:
        levels.append(("wall", low, _FAR_M))
    for kind, bottom, top in levels:
        pieces += [Piece(kind, region) for region in regions(whole.intersection(box(-_FAR_M, bottom, _FAR_M, top)))]
    # The wall first: it is what an elevation is known by.
    return sorted(pieces, key=lambda p: ("wall", "gable", "plinth").index(p.kind) if p.kind in ("wall", "gable", "plinth") else 0)


def _through(cut: Cut) -> LineString:
    """Return the line drawn on far beyond both its ends."""
    (x1, y1), (x2, y2) = cut.points
    length = math.hypot(x2 - x1, y2 - y1)
    dx, dy = (x2 - x1) / length * _FAR_M, (y2 - y1) / length * _FAR_M
    return LineString([(x1 - dx, y1 - dy), (x2 + dx, y2 + dy)])


def _divided(polygon: Polygon, cut: Cut) -> list[BaseGeometry]:
    if cut.is_ring:
        ring = Polygon(cut.points)
        return [polygon.difference(ring), polygon.intersection(ring)]
    return list(split(polygon, _through(cut)).geoms)


def _aim(cut: Cut, pieces: Sequence[Piece]) -> int | None:
    """Return which piece a line divides: the one with its middle, else the one most of it crosses."""
    line = LineString(cut.points)
    middle = line.interpolate(0.5, normalized=True)
    for index, piece in enumerate(pieces):
        if piece.region.polygon.buffer(1e-6).contains(middle):
            return index
    shares = [line.intersection(p.region.polygon).length for p in pieces]
    return shares.index(max(shares)) if shares and max(shares) > 0 else None


def divide(shape: ElevationShape, cuts: Sequence[Cut] = ()) -> tuple[Piece, ...]:
    """Return the surfaces of an elevation; together they are its outline.

    Parameters
    ----------
    shape : ElevationShape
    cuts : sequence of Cut
        In the order they were drawn; one that no longer meets anything divides nothing.
    """
    pieces = _base(shape)
    for cut in cuts:
        if cut.is_ring:
            pieces = [Piece(p.kind, region) for p in pieces for part in _divided(p.region.polygon, cut) for region in regions(part)]
            continue
        index = _aim(cut, pieces)
        if index is not None:
            aimed = pieces[index]
            parts_of_aimed = (region for part in _divided(aimed.region.polygon, cut) for region in regions(part))
            # Lower and left parts come first, so that names do not depend on how a line was drawn.
            parts = [Piece(aimed.kind, region) for region in sorted(parts_of_aimed, key=lambda r: (r.bounds[1], r.bounds[0]))]
            # A hair along an edge is no part: rounded, its outline would cross itself.
            if all(part.region.polygon.is_valid for part in parts):
                pieces[index : index + 1] = parts
    return tuple(pieces)


def check_cut(shape: ElevationShape, cuts: Sequence[Cut], cut: Cut) -> None:
    """Refuse a division that divides nothing, or a ring that is none.

    Parameters
    ----------
    shape : ElevationShape
    cuts : sequence of Cut
        That divide it already.
    cut : Cut
        A line across it, or a ring within it, in its metres.

    Raises
    ------
    FieldErrors
        With what was drawn, for the drawing.
    """
    drawn = (Spot("", outline=cut.points),)
    if len(cut.points) < 2 or (len(cut.points) == 2 and math.dist(*cut.points) < 0.05):
        raise FieldErrors({"points": "Draw the line from one edge of the surface to another."}, spots=drawn)
    if cut.is_ring:
        check_outline(cut.points, "points")
        if not shape.region.polygon.buffer(1e-6).intersects(Polygon(cut.points)):
            raise FieldErrors({"points": "The part lies outside this elevation. Draw it on the wall."}, spots=drawn)
    elif not any(p.region.polygon.intersects(LineString(cut.points)) for p in divide(shape, cuts)):
        raise FieldErrors({"points": "The line misses the wall. Draw it across a surface."}, spots=drawn)
    before, after = divide(shape, cuts), divide(shape, (*cuts, cut))
    if len(after) <= len(before):
        raise FieldErrors({"points": "This line divides nothing: it runs along an edge. Draw it across a surface."}, spots=drawn)
    if _slivers(after) > _slivers(before):
        raise FieldErrors({"points": "This would leave a sliver. Draw the line further from the edge."}, spots=drawn)


def _slivers(pieces: Sequence[Piece]) -> int:
    """Return how many pieces are nowhere as wide as a strip that somebody could paint by itself."""
    return sum(p.region.polygon.buffer(-_STRIP_M / 2).is_empty for p in pieces)


def at_point(pieces: Sequence[Piece], point: Point) -> int | None:
    """Return which piece a point lies in."""
    where = ShapelyPoint(point)
    return next((i for i, p in enumerate(pieces) if p.region.polygon.buffer(1e-6).contains(where)), None)


def best_match(piece: Region, candidates: Sequence[Region]) -> int | None:
    """Return which known region a new one continues: the one it shares most with, if anything.

    Shares are of the union, so that a small part does not claim the whole it was cut from before
    its larger half does.
    """
    best, most = None, 0.0
    for index, region in enumerate(candidates):
        shared = piece.polygon.intersection(region.polygon).area
        share = shared / max(piece.area_m2 + region.area_m2 - shared, SLIVER_M2)
        if share > most:
            best, most = index, share
    return best

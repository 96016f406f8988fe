"""Outlines: closed polygons in metres on the plane of an elevation, their arithmetic and their faults.

x runs to the right as seen from outside, y up from the foot. Areas come from outlines, never from
formulas per shape. Polygon arithmetic is Shapely's.
Not here: where outlines come from (walls, roofs, alone), or what stands in them (openings).
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from shapely import make_valid
from shapely.geometry import GeometryCollection, LineString, MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient
from shapely.validation import explain_validity

from amber_gable.errors import FieldErrors, Spot

Point = tuple[float, float]
Outline = tuple[Point, ...]

# A tape read twice differs by this much; smaller overlaps and gaps are not faults.
TOLERANCE_M = 0.005
# Slivers that polygon arithmetic leaves behind.
SLIVER_M2 = 5e-4
# Corners are kept to a tenth of a millimetre, so that neighbours share them exactly.
_GRID_DIGITS = 4


@dataclass(frozen=True)
class Rect:
    """An axis-aligned rectangle on an elevation [m]."""

    left: float
    bottom: float
    width: float
    height: float

    @property
    def right(self) -> float:
        return self.left + self.width

    @property
    def top(self) -> float:
        return self.bottom + self.height

    @property
    def outline(self) -> Outline:
        return ((self.left, self.bottom), (self.right, self.bottom), (self.right, self.top), (self.left, self.top))

    def overlaps(self, other: "Rect") -> bool:
        t = TOLERANCE_M
        across = self.left < other.right - t and other.left < self.right - t
        return across and self.bottom < other.top - t and other.bottom < self.top - t


@dataclass(frozen=True)
class Region:
    """A part of an elevation: its outline, and what is cut out of its middle."""

    outline: Outline
    holes: tuple[Outline, ...] = ()

    @property
    def polygon(self) -> Polygon:
        return Polygon(self.outline, self.holes)

    @property
    def area_m2(self) -> float:
        return float(self.polygon.area)

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top."""
        xs, ys = [x for x, _ in self.outline], [y for _, y in self.outline]
        return min(xs), min(ys), max(xs), max(ys)

    def top_at(self, x_m: float) -> float:
        """Return how high the outline reaches at a place along it: a gable is lower at its ends; 0 beside it."""
        tops = [
            y0 if x1 == x0 else y0 + (y1 - y0) * (x_m - x0) / (x1 - x0)
            for (x0, y0), (x1, y1) in pairwise((*self.outline, self.outline[0]))
            if min(x0, x1) <= x_m <= max(x0, x1)
        ]
        return max(tops, default=0.0)

    def from_corner(self, left: float, bottom: float) -> "Region":
        """Return the region as measured from another corner."""

        def moved(ring: Outline) -> Outline:
            return tuple((round(x - left, _GRID_DIGITS) + 0.0, round(y - bottom, _GRID_DIGITS) + 0.0) for x, y in ring)

        return Region(moved(self.outline), tuple(moved(hole) for hole in self.holes))


def _ring(coordinates: Iterable[tuple[float, ...]]) -> Outline:
    points: list[Point] = []
    for x, y, *_ in coordinates:
        point = (round(x, _GRID_DIGITS) + 0.0, round(y, _GRID_DIGITS) + 0.0)
        if not points or point != points[-1]:
            points.append(point)
    if len(points) > 1 and points[0] == points[-1]:
        points.pop()
    return tuple(points)


def regions(shape: BaseGeometry) -> tuple[Region, ...]:
    """Return the polygons in a shape, slivers left out, from left to right and up."""
    outlines: list[Region] = []
    parts: Iterable[BaseGeometry] = shape.geoms if isinstance(shape, MultiPolygon | GeometryCollection) else (shape,)
    for part in parts:
        if isinstance(part, MultiPolygon | GeometryCollection):
            outlines += regions(part)
        elif isinstance(part, Polygon) and part.area > SLIVER_M2:
            # Points that lie on a straight edge are left over from cutting; they hide nothing.
            plain = orient(part.simplify(1e-6))
            outline = _ring(plain.exterior.coords)
            # A sliver may be long enough to have an area and too thin to keep its corners apart.
            if len(outline) >= 3 and Polygon(outline).area > SLIVER_M2:
                holes = (_ring(hole.coords) for hole in plain.interiors)
                outlines.append(Region(outline, tuple(h for h in holes if len(h) >= 3)))
    return tuple(sorted(outlines, key=lambda r: (r.bounds[0], r.bounds[1])))


def area_m2(outline: Sequence[Point]) -> float:
    """Return the area of a closed outline [m2]; corners in order, either way round."""
    return float(Polygon(outline).area) if len(outline) >= 3 else 0.0


def length_m(points: Sequence[Point]) -> float:
    """Return the length of an open line [m]."""
    return float(LineString(points).length) if len(points) >= 2 else 0.0


def check_outline(outline: Sequence[Point], field: str = "outline") -> None:
    """Refuse an outline that is not one closed area.

    Raises
    ------
    FieldErrors
        With the place where it crosses itself, for the drawing.
    """
    if len(outline) < 3:
        raise FieldErrors({field: "An outline needs at least three corners."})
    shape = Polygon(outline)
    if not shape.is_valid:
        reason = explain_validity(shape)
        at = _point_in(reason)
        where = f" near {at[0]:.2f} m from the left, {at[1]:.2f} m up" if at else ""
        parts = make_valid(shape)
        marks = (Spot("", outline=tuple(outline)),) + ((Spot("", point=at),) if at else ())
        if parts.area <= SLIVER_M2:
            raise FieldErrors({field: "These corners enclose no area. Type them in order round the outline."}, spots=marks)
        raise FieldErrors({field: f"The outline crosses itself{where}. Put its corners in order round it."}, spots=marks)
    if shape.area <= SLIVER_M2:
        raise FieldErrors({field: "These corners enclose no area. Type them in order round the outline."})


def _point_in(reason: str) -> Point | None:
    """Return the place that the validity message names, as in "Self-intersection[1.5 2]"."""
    if "[" not in reason:
        return None
    x, y, *_ = reason.partition("[")[2].rstrip("]").split()
    return float(x), float(y)

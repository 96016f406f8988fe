"""Walls: from blocks, the walls that can be seen, less what touching blocks hide.

A wall is a vertical strip over an edge of the footprint, up to the roof above it. What lies within
another block, a thumb's breadth before the wall, is hidden: the notch where a wing meets a house,
the foot of a dormer under the roof.
"""

import math
from collections.abc import Iterable, Mapping
from itertools import pairwise

from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from amber_gable.core.geometry.blocks import BURIED, OPEN, SIDES, Plane, Solid, azimuth_of
from amber_gable.core.geometry.elevations import ElevationPlace, ElevationShape, compass_name
from amber_gable.core.geometry.outlines import Point, Region, regions

# Just outside a wall: near enough to feel what touches it, far enough for rounding.
_NUDGE_M = 0.0005


def _on_line(planes: Iterable[Plane], start: Point, along: Point, low: float, high: float) -> list[tuple[float, float]]:
    """Return the roof's height along a line as corners (s, height), from `low` to `high`.

    The lowest of straight lines bends only where two of them cross.
    """
    lines = [(p.a * along[0] + p.b * along[1], p.at(*start)) for p in planes]
    bends = {low, high}
    for i, (slope_i, height_i) in enumerate(lines):
        for slope_j, height_j in lines[i + 1 :]:
            if abs(slope_i - slope_j) > 1e-9:
                s = (height_j - height_i) / (slope_i - slope_j)
                if low < s < high:
                    bends.add(s)
    return [(s, min(slope * s + height for slope, height in lines)) for s in sorted(bends)]


def hidden_by(solid: Solid, start: Point, along: Point, length: float) -> Polygon | None:
    """Return what a block hides of the vertical strip over a line on the plan, as (s, height).

    Parameters
    ----------
    solid : Solid
        The block that hides.
    start, along : (x, y)
        Where the line begins on the plan, and its unit vector.
    length : float
        Of the line [m].
    """
    line = LineString([start, (start[0] + along[0] * length, start[1] + along[1] * length)])
    inside = solid.footprint.intersection(line)
    if inside.is_empty or inside.length < _NUDGE_M:
        return None
    reaches = [(x - start[0]) * along[0] + (y - start[1]) * along[1] for x, y in inside.coords]
    low, high = min(reaches), max(reaches)
    # A hair wider: the strip's own edge would stay as a sliver.
    roof = _on_line(solid.planes, start, along, low - _NUDGE_M, high + _NUDGE_M)
    base = solid.block.base_m - (0.001 if solid.block.base_m == 0 else 0)
    return Polygon([(roof[0][0], base), *roof, (roof[-1][0], base)])


def _edges(solid: Solid) -> list[tuple[Point, Point]]:
    return [*pairwise(solid.corners), (solid.corners[-1], solid.corners[0])]


def _wall_name(solid: Solid, azimuth: float, is_gable: bool) -> str:
    facing = compass_name(azimuth)
    if solid.block.kind == "house":
        return f"{facing} gable" if is_gable else facing
    return f"{solid.block.name} {facing.lower()}"


def walls_of(solid: Solid, others: Mapping[str, Solid], front_azimuth_deg: float) -> list[ElevationShape]:
    """Return the walls of one block that are seen.

    Parameters
    ----------
    solid : Solid
    others : mapping of str to Solid
        All blocks by key, itself among them.
    front_azimuth_deg : float
        Where the main block's front faces.
    """
    block = solid.block
    if block.kind in OPEN:
        return []
    elevations = []
    for index, (a, b) in enumerate(_edges(solid)):
        along, roof, seen = _seen(solid, others, a, b)
        out = (along[1], -along[0])
        azimuth = azimuth_of(out, front_azimuth_deg)
        rises = max(h for _, h in roof) > block.eaves_height_m + 0.01
        # On a wall that climbs to a point the triangle is a surface of its own; a slope is not.
        is_gable = rises and block.roof == "gable" and block.kind not in BURIED
        side = SIDES[(-index) % 4] if len(solid.corners) == 4 and not block.splay_m else f"edge {index}"
        for number, region in enumerate(regions(seen)):
            key = f"{block.key}/{side}" + (f" {number + 1}" if number else "")
            elevations.append(_wall(solid, region, azimuth, is_gable, key, a, along, out))
    return elevations


def _seen(solid: Solid, others: Mapping[str, Solid], a: Point, b: Point) -> tuple[Point, list[tuple[float, float]], BaseGeometry]:
    """Return an edge's direction, its roof line, and what is seen of the strip below it, as (s, height)."""
    block = solid.block
    length = math.dist(a, b)
    along = ((b[0] - a[0]) / length, (b[1] - a[1]) / length)
    roof = _on_line(solid.planes, a, along, 0.0, length)
    whole = Polygon([(0.0, block.base_m), (length, block.base_m), *reversed(roof)])
    before = (a[0] + along[1] * _NUDGE_M, a[1] - along[0] * _NUDGE_M)
    closed = (o for o in others.values() if o.block.key != block.key and o.block.kind not in OPEN)
    hidden = [h for o in closed if (h := hidden_by(o, before, along, length)) is not None]
    return along, roof, whole.difference(unary_union(hidden)) if hidden else whole


def corner_boards_m(solid: Solid, others: Mapping[str, Solid]) -> float:
    """Return the height of the block's corners at which both its walls are seen, plinth left out [m]."""
    ends = []
    for a, b in _edges(solid):
        _, _, seen = _seen(solid, others, a, b)
        # Just inside the corner, so that a notch beside it counts and rounding does not.
        lines = (LineString([(s, -1), (s, 200)]) for s in (0.01, math.dist(a, b) - 0.01))
        ends.append([float(seen.intersection(line).length) for line in lines])
    foot = solid.block.plinth_height_m
    return sum(max(min(ends[i - 1][1], ends[i][0]) - foot, 0.0) for i in range(len(ends)))


def _wall(solid: Solid, region: Region, azimuth: float, is_gable: bool, key: str, start: Point, along: Point, out: Point) -> ElevationShape:
    block = solid.block
    left, bottom, _, top = region.bounds
    foot = block.base_m + block.plinth_height_m if block.plinth_height_m else 0.0
    return ElevationShape(
        key=key,
        block=block.key,
        kind="wall",
        name=_wall_name(solid, azimuth, is_gable),
        azimuth_deg=azimuth,
        tilt_deg=90.0,
        region=region.from_corner(left, bottom),
        place=ElevationPlace(start[0] * along[0] + start[1] * along[1] + left, bottom, start[0] * out[0] + start[1] * out[1], left),
        plinth_m=max(foot - bottom, 0.0) if block.kind not in BURIED else 0.0,
        gable_from_m=block.eaves_height_m - bottom if is_gable and top > block.eaves_height_m + 0.05 else 0.0,
        surface="chimney" if block.kind == "chimney" else "wall",
    )

"""Roofs: from blocks, the roof planes on the slope, and the lengths of eaves, verges, soffit and corners.

A plane covers what of the plan, overhang included, it is the lowest roof of and no other block
stands above. Its area is that of the plan by its slope.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from shapely.affinity import affine_transform, translate
from shapely.geometry import LineString, Point, Polygon, box
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient
from shapely.ops import unary_union

from amber_gable.core.geometry.blocks import BURIED, Plane, Solid, azimuth_of
from amber_gable.core.geometry.elevations import ElevationPlace, ElevationShape, compass_name
from amber_gable.core.geometry.outlines import Region, regions
from amber_gable.core.geometry.walls import corner_boards_m

_FAR_M = 1000.0
_EVEN = 1e-7
# Eaves where another block's wall stands carry no fascia; this near counts as there.
_NEAR_M = 0.001
# Heights that differ by less are rounding's: which side they fall on must not depend on how the building is turned.
_TIE_M = 1e-6


def _below(lower: Plane, upper: Plane) -> BaseGeometry:
    """Return the part of the plan where one plane lies below another, as a large polygon."""
    a, b, c = upper.a - lower.a, upper.b - lower.b, upper.c - lower.c
    size = math.hypot(a, b)
    if size < _EVEN:
        return box(-_FAR_M, -_FAR_M, _FAR_M, _FAR_M) if c > _EVEN else Polygon()
    # The half-plane a x + b y + c > 0, as a square on that side of its line.
    nx, ny, at = a / size, b / size, -c / size
    x0, y0 = nx * at, ny * at
    tx, ty = -ny, nx
    return Polygon(
        [
            (x0 + tx * _FAR_M, y0 + ty * _FAR_M),
            (x0 - tx * _FAR_M, y0 - ty * _FAR_M),
            (x0 - tx * _FAR_M + nx * 2 * _FAR_M, y0 - ty * _FAR_M + ny * 2 * _FAR_M),
            (x0 + tx * _FAR_M + nx * 2 * _FAR_M, y0 + ty * _FAR_M + ny * 2 * _FAR_M),
        ]
    )


def _met(solid: Solid, others: Mapping[str, Solid]) -> BaseGeometry:
    """Return the part of the plan where another block stands as high as this one's roof or higher."""
    parts: list[BaseGeometry] = []
    for key, other in others.items():
        block = other.block
        if key == solid.block.key or block.kind in ("porch", "deck", "chimney") or block.base_m >= solid.block.eaves_height_m:
            continue
        higher: BaseGeometry = Polygon()
        for plane in solid.planes:
            above: BaseGeometry = other.footprint.buffer(_NEAR_M)
            for roof in other.planes:
                above = above.intersection(_below(plane, replace(roof, c=roof.c + _NEAR_M - _TIE_M)))
            higher = higher.union(above)
        parts.append(higher)
    return unary_union(parts)


def _covers(solid: Solid, others: Mapping[str, Solid]) -> tuple[BaseGeometry, BaseGeometry]:
    """Return what a roof covers of the plan, its footprint and the overhang before its free sides, and the rim of that.

    An overhang stops at the corner of the house that it meets: it turns round no corner behind which a wall stands.
    """
    out, met = solid.block.overhang_m, _met(solid, others)
    ring = list(orient(solid.footprint).exterior.coords)[:-1]
    sides = list(zip(ring, ring[1:] + ring[:1], strict=True))
    normals = [((b[1] - a[1]) / math.dist(a, b), (a[0] - b[0]) / math.dist(a, b)) for a, b in sides]
    free = [LineString(side).difference(met) for side in sides]
    strips: list[BaseGeometry] = [solid.footprint]
    rims: list[BaseGeometry] = []
    for line, (x, y) in zip(free, normals, strict=True):
        for part in getattr(line, "geoms", [line]):
            if part.length > _EVEN:
                moved = translate(part, x * out, y * out)
                rims.append(moved)
                strips.append(Polygon([*part.coords, *reversed(moved.coords)]) if out > _TIE_M else part.buffer(0))
    for index, corner in enumerate(ring):
        before, after = index - 1, index
        (px, py), (qx, qy) = normals[before], normals[after]
        turn = 1 + px * qx + py * qy
        # Both sides are free up to the corner, and it stands out: the overhang goes round it.
        is_free = all(line.distance(Point(corner)) < _TIE_M for line in (free[before], free[after]) if not line.is_empty)
        if out > _TIE_M and turn > _EVEN and is_free and not (free[before].is_empty or free[after].is_empty) and px * qy - py * qx > _EVEN:
            tip = (corner[0] + out * (px + qx) / turn, corner[1] + out * (py + qy) / turn)
            first, last = (corner[0] + out * px, corner[1] + out * py), (corner[0] + out * qx, corner[1] + out * qy)
            rims += [LineString([first, tip]), LineString([tip, last])]
            strips.append(Polygon([corner, first, tip, last]))
    return unary_union(strips), unary_union(rims)


def roof_planes(solid: Solid, others: Mapping[str, Solid]) -> list[tuple[Plane, BaseGeometry]]:
    """Return the planes of a block's roof, each with the part of the plan where it is seen.

    Parameters
    ----------
    solid : Solid
        The block.
    others : mapping of Solid
        All blocks of the house by key, this one too: of two equal roofs the earlier keeps the place.

    Returns
    -------
    list of (Plane, geometry)
        In the plan of the house [m]; an empty part where others hide the whole plane.
    """
    if solid.block.roof == "none" or solid.block.kind == "chimney":
        return []
    planes = []
    order = {key: index for index, key in enumerate(others)}
    covered, _ = _covers(solid, others)
    for index, plane in enumerate(solid.planes):
        part = covered
        for other in (*solid.planes[:index], *solid.planes[index + 1 :]):
            part = part.intersection(_below(plane, other))
        for key, o in others.items():
            if key == solid.block.key or o.block.kind in ("porch", "deck"):
                continue
            over = o.footprint
            for p in o.planes:
                higher = _below(plane, p)
                if higher.is_empty and abs(p.c - plane.c) < _EVEN and order[key] < order[solid.block.key]:
                    # Two roofs in one plane: the earlier block has what both cover.
                    higher = o.footprint
                over = over.intersection(higher)
            part = part.difference(over)
        planes.append((plane, part))
    return planes


def roof_elevations(solid: Solid, others: Mapping[str, Solid], front_azimuth_deg: float) -> list[ElevationShape]:
    """Return a block's roof planes, unfolded: x along the eaves, y up the slope [m]."""
    elevations = []
    for number, (plane, part) in enumerate(roof_planes(solid, others), start=1):
        pieces = regions(part)
        for piece_number, piece in enumerate(pieces):
            elevations.append(
                _unfolded(
                    solid,
                    plane,
                    piece,
                    f"{solid.block.key}/roof {number}" + (f".{piece_number}" if piece_number else ""),
                    front_azimuth_deg,
                )
            )
    return elevations


def _unfolded(solid: Solid, plane: Plane, part: Region, key: str, front_azimuth_deg: float) -> ElevationShape:
    flat = plane.slope < 1e-6
    out = solid.out if flat else (-plane.a / plane.slope, -plane.b / plane.slope)
    along = (-out[1], out[0])
    stretch = math.hypot(1, plane.slope)
    # Rows of the map: along the eaves, and against the fall stretched to the slope.
    laid = affine_transform(part.polygon, [along[0], along[1], -out[0] * stretch, -out[1] * stretch, 0, 0])
    left, foot, _, _ = laid.bounds
    region = regions(affine_transform(laid, [1, 0, 0, 1, -left, -foot]))[0]
    azimuth = azimuth_of(out, front_azimuth_deg)
    base = plane.slope * foot / stretch + plane.c
    main = solid.block.kind == "house"
    label = "Roof" if flat else f"{compass_name(azimuth)} roof" if main else f"{compass_name(azimuth).lower()} roof"
    return ElevationShape(
        key=key,
        block=solid.block.key,
        kind="roof",
        name=label if main else f"{solid.block.name} {label.lower()}",
        azimuth_deg=azimuth,
        tilt_deg=math.degrees(math.atan(plane.slope)),
        region=region,
        place=ElevationPlace(left, base, foot / stretch * -1),
        surface="roof",
    )


# What is as wide as its block says: it is changed there.
WIDTH_FROM = {"soffit": "overhang", "foundation-strip": "plinth height"}


@dataclass(frozen=True)
class Trim:
    """A run of trim that follows from the blocks [m]; `width_m` too where its kind is in `WIDTH_FROM`, else 0."""

    key: str
    kind: str
    name: str
    length_m: float
    width_m: float


def _free_length(line: BaseGeometry, height: float, solid: Solid, others: Mapping[str, Solid]) -> float:
    """Return how much of an eaves line no other block covers at its height."""
    covered = [
        o.footprint.buffer(_NEAR_M)
        for key, o in others.items()
        if key != solid.block.key
        and o.block.kind not in ("porch", "deck", "chimney")
        and o.block.base_m < height < o.block.top_m + _NEAR_M - _TIE_M
    ]
    return float(line.difference(unary_union(covered)).length) if covered else float(line.length)


def trim_of(solid: Solid, others: Mapping[str, Solid], walls: Sequence[ElevationShape]) -> list[Trim]:
    """Return eaves fascia and soffit, verges, corner boards and foundation strip of one block.

    Parameters
    ----------
    walls : sequence of ElevationShape
        The block's walls that are seen.
    """
    block = solid.block
    trims: list[Trim] = []
    if block.roof != "none" and block.kind not in ("chimney", "deck"):
        eaves, verges = _edges_of_roof(solid, others)
        for kind, name, length, width in (
            ("fascia", "fascia", eaves, 0.0),
            ("verge", "verge boards", verges, 0.0),
            ("soffit", "soffit", eaves + verges if block.overhang_m > 0 else 0.0, block.overhang_m),
        ):
            if length > 0.05:
                trims.append(Trim(f"{block.key}/{kind}", kind, f"{block.name} {name}", length, width))
    if block.kind in BURIED or not walls:
        return trims
    corners = corner_boards_m(solid, others)
    if corners > 0.05:
        trims.append(Trim(f"{block.key}/corner-board", "corner-board", f"{block.name} corner boards", corners, 0.0))
    # A hair above the foot: where a wall stands on the ground, not where it hangs over a wing.
    level = LineString([(-1, 0.01), (1000, 0.01)])
    foot = sum(float(w.region.polygon.intersection(level).length) for w in walls if w.place.base_m < 0.05)
    if block.plinth_height_m > 0 and foot > 0.05:
        trims.append(Trim(f"{block.key}/foundation", "foundation-strip", f"{block.name} foundation strip", foot, block.plinth_height_m))
    return trims


def _edges_of_roof(solid: Solid, others: Mapping[str, Solid]) -> tuple[float, float]:
    """Return the free lengths of level and of sloping roof edges, on the slope [m]."""
    level = sloping = 0.0
    _, rim = _covers(solid, others)
    near_rim = rim.buffer(_NEAR_M)
    for plane, part in roof_planes(solid, others):
        for region in regions(part):
            ring = (*region.outline, region.outline[0])
            for a, b in pairwise(ring):
                on_rim = LineString([a, b]).intersection(near_rim)
                middle = LineString([a, b]).interpolate(0.5, normalized=True)
                if on_rim.length <= 2 * _NEAR_M:
                    continue
                length = _free_length(on_rim, plane.at(middle.x, middle.y), solid, others)
                rise = abs(plane.at(*b) - plane.at(*a)) / max(math.dist(a, b), 1e-9)
                if rise < 0.01:
                    level += length
                else:
                    sloping += length * math.hypot(1, rise)
    return level, sloping

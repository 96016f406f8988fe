"""Decks: boards seen from above, railings along the free edges, steps down from the front.

Railings and steps are elevations too: they face somewhere, get wet and are painted.
"""

import math
from collections.abc import Mapping
from typing import Any

from shapely.geometry import LineString
from shapely.ops import unary_union

from amber_gable.core.geometry.blocks import SIDES, Solid, azimuth_of
from amber_gable.core.geometry.elevations import ElevationPlace, ElevationShape, compass_name
from amber_gable.core.geometry.outlines import Rect, Region, regions

_NEAR_M = 0.002
_SHORTEST_M = 0.1


def deck_elevations(solid: Solid, others: Mapping[str, Solid], front_azimuth_deg: float) -> list[ElevationShape]:
    """Return a deck's floor, railings and steps; nothing for other blocks."""
    block = solid.block
    if block.kind != "deck":
        return []
    front = azimuth_of(solid.out, front_azimuth_deg)
    stand = [o.footprint for key, o in others.items() if key != block.key and o.block.kind not in ("porch", "deck")]
    elevations = []
    floor = solid.footprint.difference(unary_union(stand)) if stand else solid.footprint
    for number, region in enumerate(regions(floor)):
        left, low, _, _ = region.bounds
        key = f"{block.key}/floor" + (f" {number + 1}" if number else "")
        place = ElevationPlace(left, block.eaves_height_m, -low)
        elevations.append(
            ElevationShape(key, block.key, "deck", f"{block.name} boards", front, 0.0, region.from_corner(left, low), place, surface="deck")
        )
    if block.rail_height_m > 0:
        elevations += _railings(solid, stand, front_azimuth_deg)
    if block.steps:
        elevations.append(_steps(solid, front))
    return elevations


def _railings(solid: Solid, stand: list[Any], front_azimuth_deg: float) -> list[ElevationShape]:
    block = solid.block
    walls = unary_union([s.buffer(_NEAR_M) for s in stand]) if stand else None
    elevations = []
    corners = solid.corners
    for index, a in enumerate(corners):
        b = corners[(index + 1) % len(corners)]
        length = math.dist(a, b)
        along = ((b[0] - a[0]) / length, (b[1] - a[1]) / length)
        out = (along[1], -along[0])
        edge = LineString([a, b])
        if index == 0 and block.steps:
            # The way down stays open, in the middle of the front.
            gap = edge.interpolate(0.5, normalized=True).buffer(block.steps_width_m / 2)
            edge = edge.difference(gap)
        free = edge.difference(walls) if walls is not None else edge
        for number, part in enumerate(p for p in getattr(free, "geoms", [free]) if p.length > _SHORTEST_M):
            start = part.coords[0]
            azimuth = azimuth_of(out, front_azimuth_deg)
            side = SIDES[(-index) % 4]
            outline = Rect(0, 0, round(part.length, 4), block.rail_height_m).outline
            place = ElevationPlace(start[0] * along[0] + start[1] * along[1], block.eaves_height_m, start[0] * out[0] + start[1] * out[1])
            elevations.append(
                ElevationShape(
                    f"{block.key}/railing {side}" + (f" {number + 1}" if number else ""), block.key, "railing",
                    f"{block.name} {compass_name(azimuth).lower()} railing", azimuth, 90.0, Region(outline), place, surface="railing",
                )
            )  # fmt: skip
    return elevations


def _steps(solid: Solid, front: float) -> ElevationShape:
    block = solid.block
    # Unfolded: every tread and riser is a face to be coated.
    girth = block.steps * (block.tread_m + block.riser_m)
    middle = (solid.corners[0][0] + solid.corners[1][0]) / 2 * solid.along[0] + (
        solid.corners[0][1] + solid.corners[1][1]
    ) / 2 * solid.along[1]
    depth = solid.corners[0][0] * solid.out[0] + solid.corners[0][1] * solid.out[1]
    base = max(block.eaves_height_m - block.steps * block.riser_m, 0.0)
    tilt = math.degrees(math.atan2(block.riser_m, block.tread_m))
    outline = Rect(0, 0, block.steps_width_m, round(girth, 4)).outline
    place = ElevationPlace(middle - block.steps_width_m / 2, base, depth)
    return ElevationShape(
        f"{block.key}/steps", block.key, "steps", f"{block.name} steps", front, tilt, Region(outline), place, surface="steps"
    )

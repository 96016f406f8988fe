"""Extents: how much of everything a part of a job has, from its survey: area, joints, edges, height."""

import math
from collections.abc import Sequence
from itertools import pairwise

import shapely

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.systems.work import Extent
from amber_gable.core.takeoff import Measured, measure
from amber_gable.core.takeoff.items import item_area_m2, opening_area_m2
from amber_gable.services.survey.building.areas import SMALL_OPENING_M2, face_of
from amber_gable.services.survey.building.rows import rect_of, shape_of
from amber_gable.store.models import Elevation, Item, Opening, Surface

_ON_WALLS = ("wall", "gable", "plinth")
_NEAR_GROUND_M = assumed("near_ground_m")
# A side that rises by less than this share of its length is level; this near is on the outline.
_LEVEL, _ON_LINE_M = 0.02, 0.002


def measured_of(surface: Surface, elevation: Elevation, knowledge: Knowledge, leaves_small: bool) -> Measured:
    """Return the areas of a surface; small openings stay in where the house rule says so (handbook 11.13)."""
    return measure(face_of(surface, elevation, knowledge, SMALL_OPENING_M2 if leaves_small else 0.0))


def surface_extent(measured: Measured, surface: Surface, elevation: Elevation, knowledge: Knowledge) -> Extent:
    """Return the extent of a painted surface."""
    region, face = measured.face.region, measured.face
    around = float(region.polygon.exterior.length)
    left, low, right, _ = region.bounds
    inside = [
        o for o in elevation.openings if knowledge.openings[o.kind].deducts and surface.opening_id is None and _stands_in(o, region.bounds)
    ]
    edge = sum(2 * (o.width_m + o.height_m) for o in inside)
    drape = knowledge.practice.mask_drape_m
    joints = _joints_m(measured, elevation) if surface.kind in _ON_WALLS else around
    is_foot = surface.kind in _ON_WALLS and low + elevation.base_m < _NEAR_GROUND_M
    return Extent(
        area_m2=measured.net_area_m2,
        profile=face.profile.value,
        texture=face.texture_factor,
        joints_m=edge + joints,
        openings=len(inside) or 1,
        pieces=1,
        run_m=right - left if surface.kind == "railing" else around,
        edge_m=edge or around,
        cover_m2=sum((o.width_m + 2 * drape) * (o.height_m + 2 * drape) for o in inside),
        foot_m=right - left if is_foot else 0.0,
        high_share=_high_share(measured, elevation, knowledge.practice.storey_m),
        shape=knowledge.profiles[surface.profile].shape,
    )


def _joints_m(measured: Measured, elevation: Elevation) -> float:
    """Return the length of a wall's joints up corners and along rakes.

    Eaves and ground line are not caulked, and a line by which somebody divided the wall is no joint.
    """
    outline = shape_of(elevation).region.polygon.boundary.buffer(_ON_LINE_M)
    ring = list(measured.face.region.polygon.exterior.coords)
    sides = (shapely.LineString(side) for side in pairwise(ring) if abs(side[1][1] - side[0][1]) > _LEVEL * math.dist(*side))
    return float(sum(side.intersection(outline).length for side in sides))


def _stands_in(opening: Opening, bounds: tuple[float, float, float, float]) -> bool:
    left, low, right, high = bounds
    across, up = opening.left_m + opening.width_m / 2, opening.sill_m + opening.height_m / 2
    return left <= across <= right and low <= up <= high


def _high_share(measured: Measured, elevation: Elevation, storey_m: float) -> float:
    """Return the share of a surface above the first storey."""
    rises = math.sin(math.radians(elevation.tilt_deg))
    left, low, right, high = measured.face.region.bounds
    if rises < 1e-3:
        return 1.0 if elevation.base_m > storey_m else 0.0
    line = (storey_m - elevation.base_m) / rises
    if high <= line:
        return 0.0
    if low >= line:
        return 1.0
    polygon = measured.face.region.polygon
    above = shapely.clip_by_rect(polygon, left, line, right, high)
    return float(above.area / polygon.area)


def openings_extent(openings: Sequence[tuple[Elevation, Opening]], knowledge: Knowledge) -> Extent:
    """Return the extent of windows or shutters, taken together."""
    kinds = knowledge.openings
    area = sum(opening_area_m2(kinds[o.kind], rect_of(o), o.panes_across, o.panes_up) for _, o in openings)
    edge = sum(2 * (o.width_m + o.height_m) for _, o in openings)
    high = sum(shape_of(e).place.base_m + o.sill_m + o.height_m / 2 > knowledge.practice.storey_m for e, o in openings)
    count = len(openings)
    glass = sum(o.width_m * o.height_m for _, o in openings)
    return Extent(area, openings=count, pieces=count, run_m=edge, edge_m=edge, cover_m2=glass, high_share=high / count)


def items_extent(items: Sequence[Item], knowledge: Knowledge, has_walls: bool = True) -> Extent:
    """Return the extent of trim and soffits, taken together.

    Parameters
    ----------
    has_walls : bool
        Walls are painted too, and count the joints along their corners, rakes and openings.
    """
    rows = knowledge.items
    lengths = [(rows[i.kind], i.length_m * (i.count if rows[i.kind].measure == "piece" else 1)) for i in items]
    area = sum(item_area_m2(knowledge.items[i.kind], i.count, i.length_m, i.girth_m) for i in items)
    length = sum(m for _, m in lengths)
    joints = sum(m * (row.joints if has_walls else row.joints_alone) for row, m in lengths)
    return Extent(area, joints_m=joints, openings=1, pieces=len(items), run_m=length, edge_m=length)

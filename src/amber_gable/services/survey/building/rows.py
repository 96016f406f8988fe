"""Between the tables and geometry: rows as the values that core computes with."""

from typing import Any

from amber_gable.core.geometry import Block, Cut, ElevationShape, Outline, Rect, Region
from amber_gable.core.geometry.elevations import ElevationPlace
from amber_gable.store.models import BlockRow, Elevation, Opening, Surface

_BLOCK_COLUMNS = tuple(name for name in Block.__dataclass_fields__ if name not in ("key", "parent"))
_PLACE_COLUMNS = tuple(ElevationPlace.__dataclass_fields__)


def block_of(row: BlockRow) -> Block:
    return Block(key=row.id, parent=row.parent_id or "", **{name: getattr(row, name) for name in _BLOCK_COLUMNS})


def block_columns(block: Block) -> dict[str, Any]:
    return {"parent_id": block.parent or None} | {name: getattr(block, name) for name in _BLOCK_COLUMNS}


def outline_of(points: list[Any]) -> Outline:
    return tuple((float(x), float(y)) for x, y in points)


def region_of(row: Elevation | Surface) -> Region:
    return Region(outline_of(row.outline), tuple(outline_of(hole) for hole in row.holes))


def inside(region: Region) -> tuple[float, float]:
    """Return a point well inside a region [m]: where what covers all of it is pinned."""
    point = region.polygon.representative_point()
    return round(float(point.x), 3), round(float(point.y), 3)


def rect_of(opening: Opening) -> Rect:
    return Rect(opening.left_m, opening.sill_m, opening.width_m, opening.height_m)


def cuts_of(row: Elevation) -> tuple[Cut, ...]:
    return tuple(Cut(outline_of(points)) for points in row.cuts)


def points(outline: Outline) -> list[list[float]]:
    return [[x, y] for x, y in outline]


def region_columns(region: Region) -> dict[str, Any]:
    return {"outline": points(region.outline), "holes": [points(hole) for hole in region.holes]}


def shape_of(row: Elevation) -> ElevationShape:
    """Return an elevation as geometry knows it."""
    return ElevationShape(
        key=row.key,
        block=row.block_id or "",
        kind=row.kind,
        name=row.name,
        azimuth_deg=row.azimuth_deg,
        tilt_deg=row.tilt_deg,
        region=region_of(row),
        place=ElevationPlace(**{name: getattr(row, name) for name in _PLACE_COLUMNS}),
        plinth_m=row.plinth_m,
        gable_from_m=row.gable_from_m,
        surface=row.surface_kind,
        view=row.view,
    )


def elevation_columns(position: int, shape: ElevationShape) -> dict[str, Any]:
    return {
        "key": shape.key,
        "block_id": shape.block or None,
        "kind": shape.kind,
        "view": shape.view,
        "position": position,
        "name": shape.name,
        "azimuth_deg": shape.azimuth_deg,
        "tilt_deg": shape.tilt_deg,
        "plinth_m": shape.plinth_m,
        "gable_from_m": shape.gable_from_m,
        "surface_kind": shape.surface,
        **region_columns(shape.region),
        **{name: getattr(shape.place, name) for name in _PLACE_COLUMNS},
    }

"""Elevations: a plane of the building that is seen, painted and walked past as one.

Here: what an elevation is, its name, and how elevations that face the same way stand side by side
in one view. Not here: where they come from (walls, roofs, decks, alone).
"""

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from shapely.affinity import translate
from shapely.geometry import Polygon

from amber_gable.core.geometry.outlines import Outline, Region
from amber_gable.errors import FieldErrors

ElevationKind = Literal["wall", "roof", "deck", "railing", "steps"]
SurfaceKind = Literal["wall", "gable", "plinth", "door", "chimney", "roof", "soffit", "deck", "railing", "steps"]

_COMPASS = ("North", "North-east", "East", "South-east", "South", "South-west", "West", "North-west")
# Walls whose projections overlap by more than this do not share a view.
_OVERLAP_M2 = 0.05


@dataclass(frozen=True)
class ElevationPlace:
    """Place of an elevation in the building, for the drawing.

    Parameters
    ----------
    start_m : float
        Of its left edge along the direction to the right, on the plan.
    base_m : float
        Height of its foot above the ground.
    depth_m : float
        How far out it stands; the larger, the nearer to whoever looks.
    edge_m : float
        Of its left edge from the corner of the block it belongs to; more than 0 where what is left of
        it is hidden.
    """

    start_m: float = 0.0
    base_m: float = 0.0
    depth_m: float = 0.0
    edge_m: float = 0.0


@dataclass(frozen=True)
class ElevationShape:
    """One plane of the building.

    Parameters
    ----------
    key : str
        Stays the same while its block stays: "main/front", "dormer/roof 1".
    kind : {"wall", "roof", "deck", "railing", "steps"}
    azimuth_deg, tilt_deg : float
        Where it faces, clockwise from north; 90 a wall, 0 flat.
    region : Region
        On its own plane [m]: a roof's y runs up the slope.
    plinth_m, gable_from_m : float
        Where its masonry foot ends and, on a wall with a gable, where the triangle begins; 0 for none.
    view : str
        The view it is drawn in; set by `arranged`.
    """

    key: str
    block: str
    kind: ElevationKind
    name: str
    azimuth_deg: float
    tilt_deg: float
    region: Region
    place: ElevationPlace
    plinth_m: float = 0.0
    gable_from_m: float = 0.0
    surface: SurfaceKind = "wall"
    view: str = ""

    @property
    def outline(self) -> Outline:
        return self.region.outline

    @property
    def width_m(self) -> float:
        return self.region.bounds[2]

    @property
    def top_m(self) -> float:
        """Height of its highest point above the ground."""
        return self.place.base_m + self.region.bounds[3] * math.sin(math.radians(self.tilt_deg))


def check_azimuth(azimuth_deg: float, field: str = "front_azimuth_deg") -> None:
    """Refuse a direction that is none.

    Raises
    ------
    FieldErrors
    """
    if not 0 <= azimuth_deg <= 360:
        raise FieldErrors({field: "The direction must be 0 to 360 degrees: 0 north, 90 east, 180 south, 270 west."})


def compass_name(azimuth_deg: float) -> str:
    """Return the nearest of the eight winds, as painters name walls."""
    return _COMPASS[round(azimuth_deg % 360 / 45) % 8]


def walking_order(azimuth_deg: float) -> float:
    """Return a sort key that walks round from north: north first, then east, south, west."""
    return (azimuth_deg + 45) % 360


def _projected(shape: ElevationShape) -> Polygon:
    return translate(shape.region.polygon, shape.place.start_m, shape.place.base_m)


def _collide(a: ElevationShape, b: ElevationShape) -> bool:
    """Return whether two walls cover one another in the view, so that one could not be clicked.

    Roofs rise behind walls and railings are seen through: those may overlap.
    """
    return a.kind == b.kind == "wall" and _projected(a).intersection(_projected(b)).area > _OVERLAP_M2


def arranged(shapes: Sequence[ElevationShape]) -> tuple[ElevationShape, ...]:
    """Return elevations in walking order, each with the view it is drawn in.

    What faces one way shares a view, nearer before farther, as one sees it from outside. A wall that
    another one covers in that view gets a view of its own, so that none is hidden. Flat planes are
    seen from above.
    """
    by_way: dict[int, list[ElevationShape]] = defaultdict(list)
    for shape in shapes:
        by_way[-1 if shape.tilt_deg < 10 else round(shape.azimuth_deg) % 360].append(shape)
    out: list[ElevationShape] = []
    for way in sorted(by_way, key=lambda w: 999 if w < 0 else walking_order(w)):
        views: list[list[ElevationShape]] = []
        for shape in sorted(by_way[way], key=lambda s: (s.kind == "roof", -s.place.depth_m, s.place.start_m)):
            fits = next((v for v in views if not any(_collide(o, shape) for o in v)), None)
            if fits is None:
                views.append([shape])
            else:
                fits.append(shape)
        for index, view in enumerate(views):
            name = f"{'above' if way < 0 else way}-{index}"
            out += [replace(s, view=name) for s in sorted(view, key=lambda s: (s.kind == "roof", s.place.start_m, -s.place.depth_m))]
    return _named(out)


def _named(shapes: Sequence[ElevationShape]) -> tuple[ElevationShape, ...]:
    """Return elevations with names that differ: a number where two would be called alike."""
    counts: dict[str, int] = defaultdict(int)
    out = []
    for shape in shapes:
        counts[shape.name] += 1
        out.append(replace(shape, name=f"{shape.name} {counts[shape.name]}") if counts[shape.name] > 1 else shape)
    return tuple(out)

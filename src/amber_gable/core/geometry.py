"""Geometry: a rectangular gabled building, its elevations, outlines, openings and areas.

Every surface is a closed outline in metres on its elevation: x to the right as seen from outside,
y up from the ground. Areas come from outlines, never from formulas per shape.
Not here: profile and texture (profiles, takeoff), or drawing.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from amber_gable.errors import FieldErrors
from amber_gable.units import show

Point = tuple[float, float]
Outline = tuple[Point, ...]

_COMPASS = ("North", "North-east", "East", "South-east", "South", "South-west", "West", "North-west")
# A tape read twice differs by this much; smaller overlaps are not faults.
TOLERANCE_M = 0.005

SurfaceKind = Literal["wall", "gable", "plinth", "door"]


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
class GabledBlock:
    """A rectangle in plan under a ridged roof; the ridge runs along `length_m`.

    Parameters
    ----------
    length_m, width_m : float
        Along and across the ridge, wall to wall.
    eaves_height_m, ridge_height_m : float
        Above the ground.
    front_azimuth_deg : float
        Where the front faces, clockwise from north.
    front_is : {"long side", "gable end"}
    overhang_m : float
        Of the roof beyond the walls.
    plinth_height_m : float
        Masonry foot below the siding; 0 for none.
    """

    length_m: float
    width_m: float
    eaves_height_m: float
    ridge_height_m: float
    front_azimuth_deg: float
    front_is: Literal["long side", "gable end"] = "long side"
    overhang_m: float = 0.0
    plinth_height_m: float = 0.0

    def check(self) -> None:
        """Refuse what cannot stand.

        Raises
        ------
        FieldErrors
            Every fault at once, by field.
        """
        faults: dict[str, str] = {}
        for name, words in (("length_m", "length"), ("width_m", "width"), ("eaves_height_m", "eaves height")):
            value = getattr(self, name)
            if not 1.0 <= value <= 100.0:
                faults[name] = f"A {words} of {value:.2f} m? It must be between 1 and 100 m (3 and 328 ft). Measure again."
        if "eaves_height_m" not in faults and self.ridge_height_m <= self.eaves_height_m:
            faults["ridge_height_m"] = "The ridge must lie above the eaves. Check both heights; measure from the ground."
        elif self.ridge_height_m > 60:
            faults["ridge_height_m"] = "A ridge above 60 m (197 ft)? Measure again."
        if not 0.0 <= self.overhang_m <= 3.0:
            faults["overhang_m"] = "The overhang must be between 0 and 3 m (10 ft)."
        if not 0.0 <= self.plinth_height_m < max(self.eaves_height_m, 0.01):
            faults["plinth_height_m"] = "The plinth must end below the eaves; 0 if there is none."
        if not 0.0 <= self.front_azimuth_deg <= 360.0:
            faults["front_azimuth_deg"] = "The direction must be 0 to 360 degrees: 0 north, 90 east, 180 south, 270 west."
        if faults:
            raise FieldErrors(faults)


@dataclass(frozen=True)
class SurfaceShape:
    """A part of an elevation that is painted as one."""

    kind: SurfaceKind
    name: str
    outline: Outline


@dataclass(frozen=True)
class ElevationShape:
    """One side of the building, seen from outside; `side` counts quarter turns from the front."""

    side: int
    name: str
    azimuth_deg: float
    is_gable: bool
    outline: Outline
    surfaces: tuple[SurfaceShape, ...]

    @property
    def width_m(self) -> float:
        return max(x for x, _ in self.outline)


def compass_name(azimuth_deg: float) -> str:
    """Return the nearest of the eight winds, as painters name walls."""
    return _COMPASS[round(azimuth_deg % 360 / 45) % 8]


def walking_order(azimuth_deg: float) -> float:
    """Return a sort key that walks round from north: north first, then east, south, west."""
    return (azimuth_deg + 45) % 360


def elevations(block: GabledBlock) -> tuple[ElevationShape, ...]:
    """Return the four elevations in walking order, with their surfaces.

    Raises
    ------
    FieldErrors
        If the block cannot stand.
    """
    block.check()
    sides = []
    for turn in range(4):
        azimuth = (block.front_azimuth_deg + 90 * turn) % 360
        along_ridge = (turn % 2 == 0) == (block.front_is == "long side")
        sides.append(_elevation(block, turn, azimuth, is_gable=not along_ridge))
    return tuple(sorted(sides, key=lambda side: walking_order(side.azimuth_deg)))


def _elevation(block: GabledBlock, side: int, azimuth: float, *, is_gable: bool) -> ElevationShape:
    w = block.width_m if is_gable else block.length_m
    eaves, foot, ridge = block.eaves_height_m, block.plinth_height_m, block.ridge_height_m
    facing = compass_name(azimuth)
    name = f"{facing} gable" if is_gable else facing
    surfaces = [SurfaceShape("wall", f"{name} wall", Rect(0, foot, w, eaves - foot).outline)]
    outline: Outline = Rect(0, 0, w, eaves).outline
    if is_gable:
        surfaces.append(SurfaceShape("gable", f"{facing} gable top", ((0, eaves), (w, eaves), (w / 2, ridge))))
        outline = ((0, 0), (w, 0), (w, eaves), (w / 2, ridge), (0, eaves))
    if foot > 0:
        surfaces.append(SurfaceShape("plinth", f"{facing} plinth", Rect(0, 0, w, foot).outline))
    return ElevationShape(side, name, azimuth, is_gable, outline, tuple(surfaces))


def area_m2(outline: Sequence[Point]) -> float:
    """Return the area of a closed outline [m2], by the shoelace formula.

    Parameters
    ----------
    outline : sequence of (x, y)
        Corners in order, either way round [m].
    """
    if len(outline) < 3:
        return 0.0
    total = 0.0
    for (x1, y1), (x2, y2) in zip(outline, (*outline[1:], outline[0]), strict=True):
        total += x1 * y2 - x2 * y1
    return abs(total) / 2


def clipped(outline: Outline, rect: Rect) -> Outline:
    """Return the part of a convex outline inside a rectangle (Sutherland and Hodgman, 1974)."""
    points = list(outline)
    edges = (
        (0, rect.left, 1.0),
        (0, rect.right, -1.0),
        (1, rect.bottom, 1.0),
        (1, rect.top, -1.0),
    )
    for axis, limit, sign in edges:
        kept: list[Point] = []
        for here, there in zip(points, points[1:] + points[:1], strict=True):
            a, b = sign * (here[axis] - limit), sign * (there[axis] - limit)
            if a >= 0:
                kept.append(here)
            if a * b < 0:
                share = a / (a - b)
                kept.append((here[0] + share * (there[0] - here[0]), here[1] + share * (there[1] - here[1])))
        points = kept
        if not points:
            return ()
    return tuple(points)


def openings_area_m2(outline: Outline, openings: Iterable[Rect]) -> float:
    """Return how much of a surface its elevation's openings take [m2]; openings must not overlap."""
    return sum(area_m2(part) for rect in openings if (part := clipped(outline, rect)))


def _say(length_m: float) -> str:
    return f"{show(length_m, 'length', 'us')} ({length_m:.2f} m)"


def check_opening(elevation: Outline, opening: Rect, others: Iterable[tuple[str, Rect]]) -> None:
    """Refuse an opening that does not fit its wall or lies over another.

    Raises
    ------
    FieldErrors
        By field: width_m, height_m, left_m, sill_m.
    """
    faults: dict[str, str] = {}
    wall_width = max(x for x, _ in elevation)
    wall_top = max(y for _, y in elevation)
    for name, value in (("width_m", opening.width), ("height_m", opening.height)):
        if not value > 0:
            faults[name] = "Give a size above zero."
    if opening.width > wall_width + TOLERANCE_M:
        faults["width_m"] = f"Wider than the wall, which is {_say(wall_width)}. Measure the opening again."
    elif opening.left < 0 or opening.right > wall_width + TOLERANCE_M:
        faults["left_m"] = f"It would stick out of the wall. The left edge can be 0 to {_say(wall_width - opening.width)} from the corner."
    if opening.height > wall_top + TOLERANCE_M:
        faults["height_m"] = f"Taller than the wall, which is {_say(wall_top)}. Measure the opening again."
    elif opening.bottom < 0:
        faults["sill_m"] = "The sill cannot lie below the ground; 0 for a door."
    if not faults and area_m2(clipped(elevation, opening)) < area_m2(opening.outline) - TOLERANCE_M * (opening.width + opening.height):
        faults["sill_m"] = "It would stick out above the wall here. Lower the sill or move it toward the middle."
    if not faults:
        for label, other in others:
            if opening.overlaps(other):
                faults["left_m"] = f"It would lie over the {label} that starts {_say(other.left)} from the left corner."
                break
    if faults:
        raise FieldErrors(faults)

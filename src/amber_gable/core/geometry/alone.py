"""Elevations entered by themselves: from corner points, or from a rectangle, a gable and a triangle.

For who paints one wall, or a building that no blocks describe.
"""

import re
from collections.abc import Sequence
from typing import Literal

from shapely.affinity import translate
from shapely.geometry import Polygon
from shapely.ops import unary_union

from amber_gable.core.geometry.elevations import ElevationPlace, ElevationShape
from amber_gable.core.geometry.outlines import Outline, Point, Region, check_outline, regions
from amber_gable.errors import FieldErrors

_MOST_M = 200.0


def from_shapes(width_m: float, height_m: float, gable_rise_m: float = 0.0, side_rise_m: float = 0.0) -> Outline:
    """Return the outline of a rectangle with a gable on top, or with a slope that rises to the right.

    Parameters
    ----------
    width_m, height_m : float
        Of the rectangle.
    gable_rise_m : float
        How far the middle rises above it.
    side_rise_m : float
        How far the right corner rises above the left; a triangle where `height_m` is 0.

    Raises
    ------
    FieldErrors
    """
    faults = {}
    if not 0 < width_m <= _MOST_M:
        faults["width_m"] = f"The width must be above 0 and at most {_MOST_M:g} m."
    if not 0 <= height_m <= _MOST_M:
        faults["height_m"] = f"The height must be 0 to {_MOST_M:g} m."
    if gable_rise_m < 0 or side_rise_m < 0:
        faults["gable_rise_m"] = "A rise is measured upward; mirror the elevation where it falls to the right."
    if not faults and height_m + gable_rise_m + side_rise_m <= 0:
        faults["height_m"] = "Give a height, or the rise of a triangle."
    if faults:
        raise FieldErrors(faults)
    bottom: Sequence[Point] = ((0.0, 0.0), (width_m, 0.0))
    right, left = height_m + side_rise_m, height_m
    top: list[Point] = [(width_m, right)] if right > 0 else []
    if gable_rise_m > 0:
        top.append((width_m / 2, (left + right) / 2 + gable_rise_m))
    if left > 0:
        top.append((0.0, left))
    return (*bottom, *top)


def parse_corners(text: str) -> list[tuple[str, str]]:
    """Return the pairs of lengths, still as typed, from lines or semicolons: "0, 0; 24', 0; 24', 9' 6\\"".

    Raises
    ------
    FieldErrors
    """
    pairs = []
    for line in (part.strip() for part in re.split(r"[;\n]", text)):
        if not line:
            continue
        halves = (
            [h.strip() for h in re.split(r",\s|\s*\|\s*|\t", line, maxsplit=1)] if re.search(r",\s|\||\t", line) else line.split(",", 1)
        )
        if len(halves) != 2 or not all(halves):
            raise FieldErrors({"corners": f"“{line}” is not a corner. Type its distance from the left, a comma, its height: 24', 9' 6\"."})
        pairs.append((halves[0], halves[1]))
    return pairs


def standing(key: str, name: str, azimuth_deg: float, outline: Outline, tilt_deg: float = 90.0, start_m: float = 0.0) -> ElevationShape:
    """Return an elevation that stands alone, its outline moved to its left foot.

    Parameters
    ----------
    azimuth_deg : float
        It faces, clockwise from north.
    outline : sequence of (x, y)
        In metres, seen from outside.
    tilt_deg : float
        90 for a wall.
    start_m : float
        Its place in the band, from the left.

    Raises
    ------
    FieldErrors
        If the outline is not one closed area, or too large.
    """
    check_outline(outline, "corners")
    shape = Polygon(outline)
    left, low, right, high = shape.bounds
    if max(right - left, high - low) > _MOST_M:
        raise FieldErrors({"corners": f"An elevation of more than {_MOST_M:g} m? Check the units of its corners."})
    region: Region = regions(translate(unary_union([shape]), -left, -min(low, 0.0) if low < 0 else 0.0))[0]
    kind: Literal["wall", "roof"] = "wall" if tilt_deg > 80 else "roof"
    return ElevationShape(
        key,
        "",
        kind,
        name,
        azimuth_deg % 360,
        tilt_deg,
        region,
        ElevationPlace(start_m, 0.0, 0.0),
        surface="wall" if kind == "wall" else "roof",
    )

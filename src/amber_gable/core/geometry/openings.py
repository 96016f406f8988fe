"""Openings: what stands in or on an elevation, whether it fits, and copying it along.

Not here: what kinds there are (knowledge) or how they are painted.
"""

from collections.abc import Iterable, Sequence
from dataclasses import replace

from shapely.geometry import Polygon
from shapely.ops import unary_union

from amber_gable.core.geometry.outlines import TOLERANCE_M, Rect, Region
from amber_gable.errors import FieldErrors, Spot
from amber_gable.units import show


def openings_area_m2(region: Region, openings: Iterable[Rect]) -> float:
    """Return how much of a surface the openings of its elevation take [m2]; overlaps count once."""
    left, low, right, top = region.bounds
    near = [r for r in openings if r.left < right and r.right > left and r.bottom < top and r.top > low]
    if not near:
        return 0.0
    polygon = region.polygon
    if any(a.overlaps(b) for i, a in enumerate(near) for b in near[i + 1 :]):
        return float(polygon.intersection(unary_union([Polygon(r.outline) for r in near])).area)
    return sum(float(polygon.intersection(Polygon(r.outline)).area) for r in near)


def _say(length_m: float) -> str:
    return f"{show(length_m, 'length', 'us')} ({length_m:.2f} m)"


def check_opening(region: Region, opening: Rect, others: Iterable[tuple[str, Rect]]) -> None:
    """Refuse an opening that does not fit its elevation or lies over another.

    Parameters
    ----------
    region : Region
        What the elevation covers, in its own plane [m].
    opening : Rect
        In the same plane [m].
    others : iterable of (str, Rect)
        Openings already there, with the names that a message gives them.

    Raises
    ------
    FieldErrors
        By field: width_m, height_m, left_m, sill_m; with the places, for the drawing.
    """
    faults: dict[str, str] = {}
    _, _, wall_width, wall_top = region.bounds
    for name, value in (("width_m", opening.width), ("height_m", opening.height)):
        if not value > 0:
            faults[name] = "Give a size above zero."
    if opening.width > wall_width + TOLERANCE_M:
        faults["width_m"] = f"Wider than the wall, which is {_say(wall_width)}. Measure the opening again."
    elif opening.left < -TOLERANCE_M or opening.right > wall_width + TOLERANCE_M:
        faults["left_m"] = f"It would stick out of the wall. The left edge can be 0 to {_say(wall_width - opening.width)} from the corner."
    if opening.height > wall_top + TOLERANCE_M:
        faults["height_m"] = f"Taller than the wall, which is {_say(wall_top)}. Measure the opening again."
    elif opening.bottom < -TOLERANCE_M:
        faults["sill_m"] = "The sill cannot lie below the foot of the wall; 0 for a door."
    spots = [Spot("", outline=opening.outline)]
    if not faults:
        outside = Polygon(opening.outline).difference(region.polygon).area
        if outside > TOLERANCE_M * (opening.width + opening.height):
            faults["sill_m"] = (
                "Part of it would lie outside the wall here, which is not a rectangle. Lower the sill or move it toward the middle."
            )
    if not faults:
        for label, other in others:
            if opening.overlaps(other):
                faults["left_m"] = f"It would lie over the {label} that starts {_say(other.left)} from the left corner."
                spots.append(Spot("", outline=other.outline))
                break
    if faults:
        raise FieldErrors(faults, spots=tuple(spots))


def spread(wall_width_m: float, width_m: float, count: int, lefts_m: Sequence[float]) -> tuple[float, ...]:
    """Return the left edges of equal openings along a wall [m].

    Parameters
    ----------
    wall_width_m, width_m : float
        Of the wall, and of one opening.
    count : int
        How many.
    lefts_m : sequence of float
        Left edges that were measured: as many as there are; or the first alone, the last standing as far from the right corner; or none:
        all gaps are equal.

    Raises
    ------
    FieldErrors
        If they do not fit beside one another, or the edges are not as many as the openings.
    """
    if not 1 <= count <= 40:
        raise FieldErrors({"count": "1 to 40 at once."})
    if len(lefts_m) > 1 and count not in (1, len(lefts_m)):
        raise FieldErrors({"left_m": f"{len(lefts_m)} distances for {count} openings. Give one for each, the first alone, or none."})
    if len(lefts_m) > 1 or (lefts_m and count == 1):
        return tuple(lefts_m)
    gap = lefts_m[0] if lefts_m else (wall_width_m - count * width_m) / (count + 1)
    # One alone stands in the middle.
    apart = (wall_width_m - 2 * gap - width_m) / (count - 1) if count > 1 else width_m
    if gap < -TOLERANCE_M or apart < width_m - TOLERANCE_M:
        raise FieldErrors({"count": f"{count} of them, each {_say(width_m)} wide, do not fit side by side on {_say(wall_width_m)}."})
    return tuple(gap + apart * n for n in range(count))


def along(opening: Rect, count: int, apart_m: float) -> tuple[Rect, ...]:
    """Return copies of an opening beside it, `apart_m` from left edge to left edge; negative to the left.

    Parameters
    ----------
    count : int
        Of copies.
    apart_m : float
        From left edge to left edge [m]; negative to the left.

    Raises
    ------
    FieldErrors
    """
    if not 1 <= count <= 40:
        raise FieldErrors({"count": "Copy it 1 to 40 times."})
    if abs(apart_m) < opening.width - TOLERANCE_M:
        raise FieldErrors({"apart_m": f"The copies would overlap: they are {_say(opening.width)} wide, from left edge to left edge."})
    return tuple(replace(opening, left=opening.left + apart_m * n) for n in range(1, count + 1))


def storey_up(openings: Sequence[Rect], rise_m: float) -> tuple[Rect, ...]:
    """Return openings repeated a storey higher (or lower).

    Parameters
    ----------
    openings : sequence of Rect
    rise_m : float
        From storey to storey [m]; negative downward.
    """
    return tuple(replace(o, bottom=o.bottom + rise_m) for o in openings)


def mirrored_opening(opening: Rect, width_m: float) -> Rect:
    """Return an opening mirrored across the middle of a wall of this width."""
    return replace(opening, left=width_m - opening.right)

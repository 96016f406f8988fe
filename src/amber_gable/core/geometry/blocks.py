"""Blocks: the rectangles in plan that a building is made of, with their roofs.

The plan has x to the right along the front and y away from whoever stands before it. A block hangs
on a side of its parent and moves with it; the main block hangs on nothing. A roof is the lower
envelope of planes, so that heights along any line, valleys and what lies buried follow exactly.
Not here: walls and roof planes as elevations (walls, roofs).
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from shapely.geometry import Polygon

from amber_gable.core.geometry.outlines import Point
from amber_gable.errors import FieldErrors
from amber_gable.units import both, both_of

BlockKind = Literal["house", "wing", "lean-to", "porch", "dormer", "bay", "chimney", "deck"]
RoofForm = Literal["gable", "hip", "shed", "flat", "none"]
RidgeRuns = Literal["along", "to back"]

KINDS: tuple[BlockKind, ...] = ("house", "wing", "lean-to", "porch", "dormer", "bay", "chimney", "deck")
# Quarter turns clockwise from the front, as one walks round.
SIDES = ("front", "left", "back", "right")
# What stands within another block and shows only what comes out of it.
BURIED: frozenset[str] = frozenset({"dormer", "chimney"})
# What has no walls of its own.
OPEN: frozenset[str] = frozenset({"porch", "deck"})


@dataclass(frozen=True)
class Block:
    """One rectangle in plan and what stands on it. Lengths in metres, heights above the ground.

    Parameters
    ----------
    key, parent : str
        Its name among the blocks, and on which it hangs ("" for the main one).
    side : int
        Of the parent, in quarter turns clockwise from the front; its own front faces the same way.
    from_left_m : float
        From the parent's left corner on that side, as seen from outside.
    projects_m : float
        How far its front stands before the parent's wall; negative for a dormer set back.
    across_m, deep_m : float
        Along its front, and behind it. What is `BURIED`, and a gable roof against a slope, runs on
        inward by itself until the parent's roof covers it.
    roof, ridge_runs
        Form; a gable's ridge runs "along" its front or from front "to back". A shed falls to the front.
    splay_m : float
        By how much each front corner of a bay is cut back.
    rail_height_m, steps, steps_width_m, tread_m, riser_m
        Of a deck: railing round its free edges, steps down from the middle of its front.
    """

    key: str
    name: str
    kind: BlockKind
    across_m: float
    deep_m: float
    eaves_height_m: float
    ridge_height_m: float = 0.0
    roof: RoofForm = "gable"
    ridge_runs: RidgeRuns = "along"
    parent: str = ""
    side: int = 0
    from_left_m: float = 0.0
    projects_m: float = 0.0
    base_m: float = 0.0
    overhang_m: float = 0.0
    plinth_height_m: float = 0.0
    splay_m: float = 0.0
    rail_height_m: float = 0.0
    steps: int = 0
    steps_width_m: float = 0.0
    tread_m: float = 0.28
    riser_m: float = 0.18

    @property
    def top_m(self) -> float:
        return self.eaves_height_m if self.roof in ("flat", "none") else self.ridge_height_m


def _range(low: float, high: float, words: str, value: float) -> str | None:
    if low <= value <= high:
        return None
    if not math.isfinite(value):
        return f"{words} cannot be read. Measure again."
    return f"{words} of {both_of(value, 'length')}? It must be {both_of(low, 'length')} to {both_of(high, 'length')}. Measure again."


def check_block(block: Block, keys: Sequence[str] = ()) -> None:
    """Refuse what cannot stand.

    Parameters
    ----------
    keys : sequence of str
        Of the blocks it may hang on.

    Raises
    ------
    FieldErrors
        Every fault at once, by field.
    """
    small = block.kind in ("chimney", "dormer", "bay", "deck", "porch")
    low = 0.2 if small else 1.0
    ranges: dict[str, str | None] = {
        "across_m": _range(low, 100, "A width", block.across_m),
        "deep_m": None if block.kind == "dormer" else _range(low, 100, "A depth", block.deep_m),
        "eaves_height_m": _range(0.05 if block.kind == "deck" else 0.5, 60, "An eaves height", block.eaves_height_m),
        "overhang_m": _range(0, 3, "An overhang", block.overhang_m),
        "from_left_m": _range(-100, 100, "A distance", block.from_left_m),
        "projects_m": _range(-100, 100, "A projection", block.projects_m),
        "base_m": _range(0, 60, "A height of its underside", block.base_m),
        "rail_height_m": _range(0, 2, "A railing", block.rail_height_m),
        "steps_width_m": _range(0.3, 30, "A width of steps", block.steps_width_m) if block.steps else None,
        "tread_m": _range(0.1, 1, "A tread", block.tread_m) if block.steps else None,
        "riser_m": _range(0.05, 0.4, "A riser", block.riser_m) if block.steps else None,
    }
    faults = {name: fault for name, fault in ranges.items() if fault}
    if block.roof in ("gable", "hip", "shed") and "eaves_height_m" not in faults:
        if block.ridge_height_m <= block.eaves_height_m:
            faults["ridge_height_m"] = "The ridge must lie above the eaves. Check both heights; measure from the ground."
        elif block.ridge_height_m > 80:
            faults["ridge_height_m"] = both("A ridge above 80 m (262 ft)? Measure again.")
    if block.plinth_height_m < 0 or (block.plinth_height_m > 0 and block.plinth_height_m >= block.eaves_height_m):
        faults["plinth_height_m"] = "The plinth must end below the eaves; 0 if there is none."
    if block.base_m >= block.eaves_height_m:
        faults["base_m"] = "Its underside must lie below its eaves; 0 where it stands on the ground."
    if block.splay_m and not 0 <= block.splay_m < min(block.across_m / 2, block.deep_m + 1e-9):
        faults["splay_m"] = "The corners can be cut back by less than half the width, and no more than it projects."
    if block.kind == "house" and block.parent:
        faults["parent"] = "The main block hangs on nothing."
    if block.kind != "house" and keys and block.parent not in keys:
        faults["parent"] = "Choose the block that it stands against."
    if block.kind in BURIED and block.projects_m > 0:
        faults["projects_m"] = "A dormer or chimney stands within the walls; its setback cannot be negative."
    if not 0 <= block.steps <= 40:
        faults["steps"] = "Between 0 and 40 steps."
    if faults:
        raise FieldErrors(faults)


@dataclass(frozen=True)
class Plane:
    """A roof plane over the plan: height = a x + b y + c [m]."""

    a: float
    b: float
    c: float

    def at(self, x: float, y: float) -> float:
        return self.a * x + self.b * y + self.c

    @property
    def slope(self) -> float:
        """Rise over run."""
        return math.hypot(self.a, self.b)


@dataclass(frozen=True)
class Solid:
    """A block in its place: footprint, roof planes, and the way it faces on the plan.

    Parameters
    ----------
    corners : tuple of points
        Counter-clockwise, from its own front left corner.
    planes : tuple of Plane
        The roof is the lowest of them at every point.
    along, out : points
        Unit vectors on the plan: to the right along its front, and out of it.
    """

    block: Block
    corners: tuple[Point, ...]
    planes: tuple[Plane, ...]
    along: Point
    out: Point
    footprint: Polygon = field(compare=False)

    def height_at(self, x: float, y: float) -> float:
        return min(plane.at(x, y) for plane in self.planes)


def _place(block: Block, parent: Solid | None) -> tuple[Point, Point, Point]:
    """Return the front left corner, and the unit vectors along and out of the front."""
    if parent is None:
        return (0.0, 0.0), (1.0, 0.0), (0.0, -1.0)
    out, along = parent.out, parent.along
    for _ in range(block.side):
        # A quarter turn clockwise, as one walks round the building.
        out, along = (out[1], -out[0]), (along[1], -along[0])
    width, depth = parent.block.across_m, parent.block.deep_m
    p, a, o = parent.corners[0] if not parent.block.splay_m else _square_corner(parent), parent.along, parent.out
    corner = {
        0: p,
        1: (p[0] - o[0] * depth, p[1] - o[1] * depth),
        2: (p[0] + a[0] * width - o[0] * depth, p[1] + a[1] * width - o[1] * depth),
        3: (p[0] + a[0] * width, p[1] + a[1] * width),
    }[block.side]
    left, forward = block.from_left_m, block.projects_m
    front_left = (corner[0] + along[0] * left + out[0] * forward, corner[1] + along[1] * left + out[1] * forward)
    return front_left, along, out


def _square_corner(solid: Solid) -> Point:
    """Return the front left corner that a splayed bay would have without its splay."""
    x, y = solid.corners[-1]
    cut = solid.block.splay_m
    return x + solid.out[0] * cut, y + solid.out[1] * cut


def _planes(block: Block, origin: Point, along: Point, out: Point) -> tuple[Plane, ...]:
    """Return the roof's planes; u runs along the front from the left corner, v inward from it."""
    w, d, eaves = block.across_m, block.deep_m, block.eaves_height_m
    rise = block.top_m - eaves

    def plane(per_u: float, per_v: float, start: float) -> Plane:
        a = per_u * along[0] - per_v * out[0]
        b = per_u * along[1] - per_v * out[1]
        return Plane(a, b, start - a * origin[0] - b * origin[1])

    if block.roof in ("flat", "none"):
        return (plane(0, 0, eaves),)
    if block.roof == "shed":
        return (plane(0, rise / d, eaves),)
    if block.roof == "gable":
        if block.ridge_runs == "along":
            k = rise / (d / 2)
            return plane(0, k, eaves), plane(0, -k, eaves + k * d)
        k = rise / (w / 2)
        return plane(k, 0, eaves), plane(-k, 0, eaves + k * w)
    k = rise / (min(w, d) / 2)
    return plane(0, k, eaves), plane(k, 0, eaves), plane(0, -k, eaves + k * d), plane(-k, 0, eaves + k * w)


def _corners(block: Block, origin: Point, along: Point, out: Point) -> tuple[Point, ...]:
    def at(u: float, v: float) -> Point:
        return origin[0] + along[0] * u - out[0] * v, origin[1] + along[1] * u - out[1] * v

    w, d, cut = block.across_m, block.deep_m, block.splay_m
    if cut > 0:
        front = (at(cut, 0), at(w - cut, 0), at(w, cut))
        back = (at(w, d), at(0, d)) if d > cut + 1e-9 else (at(0, d),)
        return (*front, *back, at(0, cut)) if d > cut + 1e-9 else (*front, *back)
    return at(0, 0), at(w, 0), at(w, d), at(0, d)


def solid_of(block: Block, parent: Solid | None) -> Solid:
    """Return a block in its place; one that runs into its parent's roof is as deep as that needs."""
    origin, along, out = _place(block, parent)
    deep = _depth(block, parent, origin, out, along)
    full = replace(block, deep_m=deep)
    corners = _corners(full, origin, along, out)
    return Solid(full, corners, _planes(full, origin, along, out), along, out, Polygon(corners))


def _depth(block: Block, parent: Solid | None, origin: Point, out: Point, along: Point) -> float:
    """Return how deep a block is, so that its roof ends where the parent's covers it."""
    runs_in = block.kind == "dormer" or (
        block.kind in ("wing", "porch", "house") and block.roof == "gable" and block.ridge_runs == "to back" and block.projects_m > 0
    )
    if parent is None or not runs_in:
        return block.deep_m
    middle = (origin[0] + along[0] * block.across_m / 2, origin[1] + along[1] * block.across_m / 2)
    reach = parent.block.across_m + parent.block.deep_m
    start = max(block.projects_m, 0.0)
    # Where the parent's roof rises to the ridge: its planes are straight, so the first is exact.
    depths = []
    for plane in parent.planes:
        rise = -(plane.a * out[0] + plane.b * out[1])
        if rise > 1e-9:
            depths.append((block.top_m - plane.at(*middle)) / rise)
    deep = max(depths, default=math.inf)
    inside = (middle[0] - out[0] * deep, middle[1] - out[1] * deep) if deep < reach else None
    if inside is None or parent.height_at(*inside) < block.top_m - 0.01:
        if block.kind == "dormer":
            raise FieldErrors(
                {"ridge_height_m": "This dormer is higher than the roof it stands in. Measure its height from the ground again."}
            )
        return block.deep_m
    return max(deep, start, 0.2)


def solids(blocks: Sequence[Block]) -> dict[str, Solid]:
    """Return every block in its place, by key, parents first.

    Raises
    ------
    FieldErrors
        If one hangs on a block that is not there, or on itself.
    """
    waiting = list(blocks)
    placed: dict[str, Solid] = {}
    while waiting:
        ready = [b for b in waiting if not b.parent or b.parent in placed]
        if not ready:
            raise FieldErrors({"parent": f"“{waiting[0].name}” hangs on a block that is not there or hangs on itself."})
        for block in ready:
            placed[block.key] = solid_of(block, placed.get(block.parent))
            waiting.remove(block)
    return placed


def azimuth_of(out: Point, front_azimuth_deg: float) -> float:
    """Return where a direction on the plan points, clockwise from north [°], 0 to 360.

    Parameters
    ----------
    out : (x, y)
        Direction on the plan, y toward the back of the house.
    front_azimuth_deg : float
        The front faces, clockwise from north.
    """
    turn = math.degrees(math.atan2(-out[0], -out[1]))
    return round((front_azimuth_deg + turn) % 360, 6) % 360


def check_blocks(blocks: Sequence[Block]) -> Mapping[str, Solid]:
    """Check every block and return them placed.

    Raises
    ------
    FieldErrors
    """
    for block in blocks:
        check_block(block, [b.key for b in blocks if b.key != block.key])
    return solids(blocks)

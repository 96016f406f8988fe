"""Stop line: how far along a wall a crew gets before it must stop, and at which joint it then stops.

A wall is worked from one side to the other, top to bottom in strips, and never left in its middle: work stops at a
corner, beside an opening, at a downspout or where boards end (handbook 2.10).
Not here: until when paint may go on (windows), or how fast a painter is (labour).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import shapely

from amber_gable.core.geometry import Rect, Region
from amber_gable.core.knowledge.assumptions import assumed

Side = Literal["left", "right"]
# Joints nearer to each other than this are one [m].
_SAME_M = 0.05
SPARE_H = assumed("spare_min") / 60


@dataclass(frozen=True)
class Joint:
    """A place where work may stop.

    Parameters
    ----------
    x_m : float
        Along the wall, from its own zero.
    name : str
        As one would call it: "the left side of the second window".
    is_corner : bool
        The far end of the wall: it stays whatever else lies there.
    """

    x_m: float
    name: str
    is_corner: bool = False


@dataclass(frozen=True)
class StopReach:
    """A joint with what lies before it.

    Parameters
    ----------
    area_m2 : float
        Net, from where work stands now.
    at_h : float
        Hours from now when it is reached.
    """

    joint: Joint
    area_m2: float
    at_h: float


@dataclass(frozen=True)
class StopLine:
    """The stop line of a wall.

    Parameters
    ----------
    stop : StopReach or None
        The last joint that is reached in time; None where not even the first is: do not begin.
    ahead : tuple of StopReach
        Every joint still to come, in working order.
    limit_h : float
        Hours from now until the last stroke.
    """

    stop: StopReach | None
    ahead: tuple[StopReach, ...]
    limit_h: float

    @property
    def is_whole(self) -> bool:
        """Return whether the whole wall is finished in time."""
        return self.stop is not None and bool(self.ahead) and self.stop == self.ahead[-1]

    @property
    def spare_h(self) -> float:
        return self.limit_h - self.stop.at_h if self.stop else 0.0


def net_area_between(region: Region, openings: Sequence[Rect], first_m: float, last_m: float) -> float:
    """Return the area of a surface between two places along it, openings taken out [m2].

    Parameters
    ----------
    region : Region
        Of the surface, in metres of its elevation.
    first_m, last_m : float
        Along the wall [m], in either order.
    """
    left, low, right, high = region.bounds
    a, b = sorted((min(max(first_m, left), right), min(max(last_m, left), right)))
    if b - a < 1e-9:
        return 0.0
    holes = [shapely.box(o.left, o.bottom, o.right, o.top) for o in openings]
    strip = shapely.clip_by_rect(region.polygon, a, low - 1, b, high + 1)
    return float(strip.difference(shapely.union_all(holes)).area) if holes else float(strip.area)


_ORDINAL = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")


def _columns(rects: Sequence[Rect]) -> list[tuple[float, float]]:
    """Return what stands above one another as one: the left and right of each column, from the left."""
    columns: list[tuple[float, float]] = []
    for rect in sorted(rects, key=lambda r: r.left):
        if columns and rect.left < columns[-1][1]:
            columns[-1] = (columns[-1][0], max(columns[-1][1], rect.right))
        else:
            columns.append((rect.left, rect.right))
    return columns


def joints_of(region: Region, openings: Sequence[tuple[str, Rect]], extra: Sequence[Joint], begins: Side) -> list[Joint]:
    """Return where one may stop on a surface, in working order; the far corner is the last.

    Parameters
    ----------
    region : Region
        Of the surface.
    openings : sequence of (word, Rect)
        "window", "door", ...: what stands in it.
    extra : sequence of Joint
        Downspouts, ends of boards.
    begins : {"left", "right"}
        The corner that work starts from, as one stands before the wall.
    """
    left, _, right, _ = region.bounds
    inside = [j for j in extra if left + _SAME_M < j.x_m < right - _SAME_M]
    columns = {word: _columns([r for w, r in openings if w == word]) for word, _ in openings}
    for word, rect in openings:
        n = next(i for i, (a, b) in enumerate(columns[word]) if a <= rect.left <= b)
        called = f"the {_ORDINAL[n] + ' ' if 1 < len(columns[word]) <= len(_ORDINAL) else ''}{word}"
        for x, side in ((rect.left, "left"), (rect.right, "right")):
            # A side that cuts through another opening is no place to stop.
            cuts = any(o is not rect and o.left + _SAME_M < x < o.right - _SAME_M for _, o in openings)
            if left + _SAME_M < x < right - _SAME_M and not cuts:
                inside.append(Joint(x, f"the {side} side of {called}"))
    end, called = (right, "the right corner") if begins == "left" else (left, "the left corner")
    inside.append(Joint(end, called, is_corner=True))
    ordered = sorted(inside, key=lambda j: j.x_m if begins == "left" else -j.x_m)
    out: list[Joint] = []
    for joint in ordered:
        # Of two in one place the first named stays, a corner always.
        if out and abs(out[-1].x_m - joint.x_m) < _SAME_M:
            if joint.is_corner:
                out[-1] = joint
        else:
            out.append(joint)
    return out


def stop_line(
    region: Region, openings: Sequence[Rect], joints: Sequence[Joint], at_m: float, begins: Side, pace_m2_h: float, limit_h: float
) -> StopLine:  # fmt: skip
    """Return the last joint that a crew reaches before it must stop.

    Parameters
    ----------
    region, openings : Region, sequence of Rect
    joints : sequence of Joint
        In working order, from `joints_of`.
    at_m : float
        Where the wet edge stands now.
    begins : {"left", "right"}
    pace_m2_h : float
        Of the whole crew, above 0.
    limit_h : float
        Hours until the last stroke.
    """
    onward = [j for j in joints if (j.x_m > at_m + _SAME_M if begins == "left" else j.x_m < at_m - _SAME_M)]
    ahead = []
    for joint in onward:
        area = net_area_between(region, openings, at_m, joint.x_m)
        ahead.append(StopReach(joint, area, area / pace_m2_h))
    in_time = [r for r in ahead if r.at_h <= limit_h - SPARE_H + 1e-9]
    return StopLine(in_time[-1] if in_time else None, tuple(ahead), limit_h)


def section_m2(open_time_min: float, pace_m2_h: float) -> float:
    """Return how much a crew may lay on before its edge goes off (handbook 8: open time x rate).

    Parameters
    ----------
    open_time_min : float
        How long an edge stays wet [min].
    pace_m2_h : float
        Of the whole crew [m2/h].
    """
    return open_time_min / 60 * pace_m2_h

"""The time axis: quarter-hours to percent of the width, with nights squeezed to a sliver.

Nobody paints at night, so it need not take half of the width; it stays visible, since dew falls
then.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array

# A night quarter-hour is drawn this much narrower than one by day.
NIGHT_SHARE = 0.12
# Dawn and dusk at full width: dew and last strokes are decided there.
_EDGE_STEPS = 4
_HOUR_MARKS = (6, 9, 12, 15, 18)


@dataclass(frozen=True)
class Axis:
    """Quarter-hours `first` to `last` (exclusive) on a line of 0 to 100 percent.

    Parameters
    ----------
    first, last : int
        Steps of the grid.
    x : ndarray, shape (last - first + 1,)
        Percent at each step's beginning, and at the end.
    """

    first: int
    last: int
    x: Array

    def at(self, step: float) -> float:
        return float(np.interp(step - self.first, np.arange(len(self.x)), self.x))

    def clip(self, start: int, end: int) -> tuple[int, int] | None:
        a, b = max(start, self.first), min(end, self.last)
        return (a, b) if b > a else None


def squeezed(is_day: NDArray[np.bool_], first: int, last: int) -> Axis:
    """Return an axis over steps `first` to `last` of a grid.

    Parameters
    ----------
    is_day : ndarray of bool, shape (Q,)
        Sun above the horizon.
    """
    wide = is_day.copy()
    for shift in range(1, _EDGE_STEPS + 1):
        wide[:-shift] |= is_day[shift:]
        wide[shift:] |= is_day[:-shift]
    weights = np.where(wide[first:last], 1.0, NIGHT_SHARE)
    if not wide[first:last].any():
        weights[:] = 1.0  # polar night: nothing to squeeze against
    x = np.concatenate([[0.0], np.cumsum(weights)])
    return Axis(first, last, 100 * x / x[-1])


@dataclass(frozen=True)
class Mark:
    """An hour on the axis."""

    x: float
    label: str


@dataclass(frozen=True)
class AxisDay:
    """A day on the axis: where its name stands, its hours, where its nights lie."""

    label: str
    x: float
    marks: Sequence[Mark]


def days(axis: Axis, times: Sequence[datetime]) -> list[AxisDay]:
    """Return the days of an axis.

    Parameters
    ----------
    axis : Axis
    times : sequence of datetime, length last - first
        Local time of each step on the axis.
    """
    by_day: dict[object, list[int]] = {}
    for offset, moment in enumerate(times):
        by_day.setdefault(moment.date(), []).append(offset)
    out = []
    for offsets in by_day.values():
        marks = [Mark(float(axis.x[o]), str(times[o].hour)) for o in offsets if times[o].minute == 0 and times[o].hour in _HOUR_MARKS]
        # Too little of a day left on the axis to carry a name.
        noon = next((float(axis.x[o]) for o in offsets if times[o].hour == 12 and times[o].minute == 0), None)
        if noon is not None:
            out.append(AxisDay(f"{times[offsets[0]]:%a} {times[offsets[0]].day} {times[offsets[0]]:%b}", noon, marks))
        else:
            out.append(AxisDay("", 0.0, marks))
    return out


def nights(axis: Axis, is_day: NDArray[np.bool_]) -> list[tuple[float, float]]:
    """Return (x, width) of the dark stretches, in percent."""
    return spans(axis, ~is_day)


def spans(axis: Axis, flags: NDArray[np.bool_]) -> list[tuple[float, float]]:
    """Return (x, width) in percent of every run of true flags, shape (Q,)."""
    part = np.concatenate([[False], flags[axis.first : axis.last], [False]]).astype(np.int8)
    edges = np.flatnonzero(np.diff(part))
    return [(float(axis.x[a]), float(axis.x[b] - axis.x[a])) for a, b in zip(edges[::2], edges[1::2], strict=True)]

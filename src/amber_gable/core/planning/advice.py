"""Advice: the one thing a crew should do next, as data for one sentence.

Pure: looks at states from a moment on. Words are written where they are shown (web, calendar).
Not here: saved schedules (services.morning joins them).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from amber_gable.core.windows import OPEN, SHUT, Windows


@dataclass(frozen=True)
class NextRun:
    """The next stretch in which a surface may be painted.

    Parameters
    ----------
    surface : int
        Row of the windows.
    first, last : int
        First quarter-hour and the end (exclusive) of the stretch.
    is_open_now : bool
        The stretch holds the moment asked about.
    open_share : float
        Share of it that is fully open.
    """

    surface: int
    first: int
    last: int
    is_open_now: bool
    open_share: float


def next_run(windows: Windows, surface: int, now: int, at_least: int = 4) -> NextRun | None:
    """Return a surface's next stretch of at least `at_least` quarter-hours, or None.

    Parameters
    ----------
    surface : int
        Row of the windows.
    now : int
        Quarter-hour to look from.
    at_least : int
        Quarter-hours that a stretch must have.
    """
    states = windows.states[surface]
    paintable = np.concatenate([[False], states[now:] != SHUT, [False]]).astype(np.int8)
    edges = np.flatnonzero(np.diff(paintable))
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        if b - a >= at_least:
            first, last = now + int(a), now + int(b)
            share = float(np.mean(states[first:last] == OPEN))
            return NextRun(surface, first, last, int(a) == 0, share)
    return None


def best_next(windows: Windows, now: int, rows: Sequence[int] | None = None) -> NextRun | None:
    """Return the surface to start with: the earliest to open, the longest of those within an hour.

    Parameters
    ----------
    rows : sequence of int, optional
        Surfaces that work may start on; all where it is not given.
    """
    runs = [run for row in (range(windows.states.shape[0]) if rows is None else rows) if (run := next_run(windows, row, now)) is not None]
    if not runs:
        return None
    first = min(run.first for run in runs)
    return max((run for run in runs if run.first <= first + 4), key=lambda r: (r.last - r.first, -r.surface))


def dry_from(windows: Windows, now: int, horizon: int = 48) -> tuple[int | None, list[int]]:
    """Return when the last wet surface is dry, and which rows are wet now.

    Parameters
    ----------
    windows : Windows
    now : int
    horizon : int
        How many quarter-hours to look ahead.

    Returns
    -------
    (step, rows)
        `step` is None where nothing is wet, or nothing dries within the horizon.
    """
    wet = windows.climate.wet
    rows = [row for row in range(wet.shape[0]) if wet[row, now]]
    latest: int | None = None
    for row in rows:
        dry = np.flatnonzero(~wet[row, now : now + horizon])
        if not len(dry):
            return None, rows
        latest = max(latest or 0, now + int(dry[0]))
    return latest, rows


def first_dry(windows: Windows, rows: list[int], now: int) -> tuple[int, int | None]:
    """Return the row that dries first of those given, and when; None where none dries in the data.

    Parameters
    ----------
    rows : list of int
        That are wet now.
    now : int
        Quarter-hour to look from.
    """
    wet = windows.climate.wet
    waits = [int(np.argmin(wet[row, now:])) if not wet[row, now:].all() else wet.shape[1] for row in rows]
    least = min(waits)
    return rows[waits.index(least)], None if least == wet.shape[1] else now + least

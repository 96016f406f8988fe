"""Schedule: who paints which coat when, under the windows and the drying of the coat before.

A list scheduler: takes the task that can start earliest, within two hours' grace the one in
the shade, and finishes a side before leaving it. The task model (permitted starts; ready-at by the
start of the coat before) is what a later optimiser takes as well.
Not here: where permitted starts come from (windows), or how they are stored (services).
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array

# How many quarter-hours a crew may wait for a wall in the shade before taking one in the sun: there
# is always something to scrape, sand or mask meanwhile.
GRACE_STEPS = 8


@dataclass(frozen=True)
class After:
    """One task waits for another.

    Parameters
    ----------
    task : str
        Id of the earlier task.
    ready_at : ndarray of int, shape (Q,)
        By the start step of the earlier task, the earliest step this one may start; Q or more
        where that lies beyond the data.
    why : str
        "recoat", "body first".
    """

    task: str
    ready_at: NDArray[np.int64]
    why: str


@dataclass(frozen=True)
class Task:
    """One coat on one surface, not to be interrupted.

    Parameters
    ----------
    id : str
    group : str
        Elevation; a side begun is finished first.
    rank : int
        Top before bottom: lower goes first when all else is equal.
    duration_steps : int
    allowed : ndarray of bool, shape (Q,)
        Permitted starts.
    unease : ndarray, shape (Q,)
        0 where a start is in the shade and open, up to 1 in full sun or tight.
    after : sequence of After
    """

    id: str
    group: str
    rank: int
    duration_steps: int
    allowed: NDArray[np.bool_]
    unease: Array
    after: Sequence[After] = field(default_factory=tuple)
    # Its work may not start yet: a gate or a test patch holds its part up, so that it is not planned at all.
    is_held: bool = False


@dataclass(frozen=True)
class PlacedTask:
    """A task placed: steps from `start` to `end` (exclusive) and what set its start."""

    task: str
    start: int
    end: int
    set_by: str


@dataclass(frozen=True)
class Unplaced:
    """A task for which the data hold no place, and why in one word.

    `why`: "no window" (no permitted start at all), "too long" (windows, but none long enough is
    decided by the caller, who knows durations), "waits" (the coat before is not placed or not
    dry in time), "crew busy", "held" (its part is held up, whatever the weather).
    """

    task: str
    why: str


@dataclass(frozen=True)
class Plan:
    visits: list[PlacedTask]
    unplaced: list[Unplaced]


def _earliest(task: Task, placed: dict[str, PlacedTask], free: int) -> tuple[int | None, str, str]:
    """Return the earliest start, what set it, and why there is none."""
    earliest, set_by = free, "crew"
    for wait in task.after:
        before = placed.get(wait.task)
        if before is None:
            return None, "", "waits"
        ready = int(wait.ready_at[before.start])
        if ready > earliest:
            earliest, set_by = ready, wait.why
    if earliest >= len(task.allowed):
        return None, "", "waits" if set_by != "crew" else "crew busy"
    later = np.flatnonzero(task.allowed[earliest:])
    if not len(later):
        return None, "", "no window" if not task.allowed.any() else ("waits" if set_by != "crew" else "crew busy")
    start = earliest + int(later[0])
    return start, set_by if start == earliest else "window", ""


def plan(tasks: Sequence[Task], now_step: int) -> Plan:
    """Place tasks one after another for one crew.

    Parameters
    ----------
    tasks : sequence of Task
        Ids unique; `after` names ids in the sequence.
    now_step : int
        No task starts before it.

    Returns
    -------
    Plan
        Deterministic: same input, same plan.
    """
    waiting = [task for task in tasks if not task.is_held]
    placed: dict[str, PlacedTask] = {}
    visits: list[PlacedTask] = []
    free, last_group = now_step, ""
    while waiting:
        options = []
        for task in waiting:
            start, set_by, _ = _earliest(task, placed, free)
            if start is not None:
                options.append((start, task, set_by))
        if not options:
            break
        first = min(start for start, _, _ in options)
        near = [option for option in options if option[0] <= first + GRACE_STEPS]
        # Shade first, then the side already begun, then top before bottom.
        start, task, set_by = min(
            near,
            key=lambda o: (round(float(o[1].unease[o[0]]), 2), o[1].group != last_group, o[1].rank, o[0], o[1].id),
        )
        visit = PlacedTask(task.id, start, start + task.duration_steps, set_by)
        placed[task.id] = visit
        visits.append(visit)
        waiting.remove(task)
        free, last_group = visit.end, task.group
    unplaced = [Unplaced(task.id, "held" if task.is_held else _earliest(task, placed, free)[2]) for task in tasks if task.id not in placed]
    return Plan(visits, unplaced)

"""The problem of a plan: tasks with permitted starts and waits, a crew and its equipment, on a grid of steps.

Not here: how a plan is found (listing, cpsat), or what a step of time means (the caller).
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from amber_gable.errors import PlanError

Steps = NDArray[np.int64]
CREW = "crew"


class CycleError(PlanError):
    """Tasks that wait for one another."""

    def __init__(self, ids: Sequence[str], path: str) -> None:
        self.ids = tuple(ids)
        chain = " waits for ".join([*ids, ids[0]])
        super().__init__(f"These tasks wait for one another: {chain}. Take one of the waits out.", path)


@dataclass(frozen=True)
class Wait:
    """One task waits for another.

    Parameters
    ----------
    task : str
        Id of the earlier task.
    lag_steps : int
        From its end; where `ready_at` is not given.
    ready_at : ndarray of int, optional
        By its start step, the earliest step the later task may start; -1 for never. A start beyond the list is never ready.
    why : str
        A word for the reader: "recoat", "top first".
    """

    task: str
    lag_steps: int = 0
    ready_at: Steps | None = None
    why: str = ""


@dataclass(frozen=True)
class PlanTask:
    """A task, not to be interrupted.

    Parameters
    ----------
    id : str
    duration_steps : int
        0 for a milestone, which takes nothing of anybody.
    crew : int
        People at once.
    equipment : mapping of str to int
        Units at once.
    allowed : ndarray of bool, shape (horizon + 1,)
        Permitted starts.
    after : sequence of Wait
    release : int
        No start before it.
    due : int, optional
        Step by which it should have ended.
    weight : float
        Of a step late.
    """

    id: str
    duration_steps: int
    crew: int
    equipment: Mapping[str, int]
    allowed: NDArray[np.bool_]
    after: Sequence[Wait] = ()
    release: int = 0
    due: int | None = None
    weight: float = 1.0

    @property
    def demands(self) -> dict[str, int]:
        """Return what it takes while it lasts, by resource; a milestone takes nothing."""
        if not self.duration_steps:
            return {}
        wanted = {CREW: self.crew} | {f"equipment {name}": units for name, units in self.equipment.items()}
        return {name: units for name, units in wanted.items() if units}


@dataclass(frozen=True)
class Problem:
    """Tasks, crew, equipment and horizon.

    Parameters
    ----------
    horizon : int
        Steps; every task ends within it.
    crew : int
    equipment : mapping of str to int
        Units by name.
    tasks : sequence of PlanTask
        Ids unique; waits name ids in the sequence, without circles.
    keep : mapping of str to int
        Starts that are fixed.
    """

    horizon: int
    crew: int
    equipment: Mapping[str, int]
    tasks: Sequence[PlanTask]
    keep: Mapping[str, int] = field(default_factory=dict)

    @cached_property
    def by_id(self) -> dict[str, PlanTask]:
        return {task.id: task for task in self.tasks}

    @cached_property
    def capacity(self) -> dict[str, int]:
        return {CREW: self.crew} | {f"equipment {name}": units for name, units in self.equipment.items()}

    @cached_property
    def starts(self) -> dict[str, Steps]:
        """Return, by task, the starts that its own limits permit: windows, release, horizon, what is kept. Ascending."""
        out = {}
        # Most tasks may start anywhere: they share one array, of which each has a part.
        every = np.arange(self.horizon + 1, dtype=np.int64)
        for task in self.tasks:
            last = max(self.horizon - task.duration_steps + 1, 0)
            if task.allowed[:last].all():
                own = every[min(task.release, last) : last]
            else:
                own = np.flatnonzero(task.allowed[:last])
                own = own[own >= task.release]
            if task.id in self.keep:
                own = own[own == self.keep[task.id]]
            out[task.id] = own.astype(np.int64)
        return out

    @cached_property
    def in_order(self) -> tuple[PlanTask, ...]:
        """Return the tasks so that each stands behind those that it waits for.

        Raises
        ------
        CycleError
        """
        return tuple(_ordered(self.tasks))

    def only(self, ids: Sequence[str]) -> "Problem":
        """Return the problem of some of its tasks, with the waits among them."""
        wanted = set(ids)
        tasks = [replace(t, after=tuple(w for w in t.after if w.task in wanted)) for t in self.tasks if t.id in wanted]
        return Problem(self.horizon, self.crew, self.equipment, tasks, {i: s for i, s in self.keep.items() if i in wanted})

    def earliest_after(self, task: PlanTask, starts: Mapping[str, int]) -> int | None:
        """Return the earliest step that a task's waits leave it; None where one of them is never over, or not placed.

        Parameters
        ----------
        task : PlanTask
        starts : mapping of str to int
            Of the tasks that are placed.
        """
        earliest = task.release
        for wait in task.after:
            if wait.task not in starts:
                return None
            ready = ready_step(wait, self.by_id[wait.task], starts[wait.task])
            if ready is None:
                return None
            earliest = max(earliest, ready)
        return earliest


def ready_step(wait: Wait, before: PlanTask, start: int) -> int | None:
    """Return the earliest step after a wait, by the start of the task before; None for never."""
    if wait.ready_at is None:
        return start + before.duration_steps + wait.lag_steps
    ready = int(wait.ready_at[start]) if start < len(wait.ready_at) else -1
    return None if ready < 0 else ready


def ready_steps(wait: Wait, before: PlanTask, starts: Steps) -> Steps:
    """Return `ready_step` for many starts; -1 for never."""
    if wait.ready_at is None:
        return starts + before.duration_steps + wait.lag_steps
    padded = np.append(wait.ready_at, -1)
    result: Steps = padded[np.minimum(starts, len(wait.ready_at))]
    return result


def _ordered(tasks: Sequence[PlanTask]) -> Iterator[PlanTask]:
    by_id = {task.id: task for task in tasks}
    done: set[str] = set()
    for first in tasks:
        # A stack of our own: a chain of thousands of tasks is deeper than calls may nest.
        path = [(first, iter(first.after))] if first.id not in done else []
        on_path = {first.id} if path else set()
        while path:
            task, waits = path[-1]
            wait = next(waits, None)
            if wait is None:
                path.pop()
                on_path.discard(task.id)
                if task.id not in done:
                    done.add(task.id)
                    yield task
            elif wait.task in on_path:
                ids = [t.id for t, _ in path]
                at = next(n for n, t in enumerate(tasks) if t.id == task.id)
                nth = next(n for n, w in enumerate(task.after) if w is wait)
                raise CycleError(list(reversed(ids[ids.index(wait.task) :])), f"tasks.{at}.after.{nth}.task")
            elif wait.task not in done:
                before = by_id[wait.task]
                path.append((before, iter(before.after)))
                on_path.add(before.id)


@dataclass(frozen=True)
class Unplaced:
    """A task without a place, and why in words."""

    task: str
    why: str


@dataclass(frozen=True)
class Solution:
    """A plan.

    Parameters
    ----------
    starts : dict of str to int
        Of the tasks that are placed.
    unplaced : tuple of str
    is_optimal : bool
        Proved: no plan leaves out fewer, ends sooner, or is less late.
    bound : int
        No plan of as many tasks ends before it.
    is_complete_proof : bool
        Proved: no plan leaves out fewer.
    """

    starts: dict[str, int]
    unplaced: tuple[str, ...] = ()
    is_optimal: bool = False
    bound: int = 0
    is_complete_proof: bool = False

    def makespan(self, problem: Problem) -> int:
        return max((start + problem.by_id[i].duration_steps for i, start in self.starts.items()), default=0)

    def lateness(self, problem: Problem) -> float:
        """Return the weighted steps late of the tasks that are placed."""
        late = ((problem.by_id[i], start) for i, start in self.starts.items())
        return sum(t.weight * max(0, start + t.duration_steps - t.due) for t, start in late if t.due is not None)

    def rank(self, problem: Problem) -> tuple[int, int, float]:
        """Return what a plan is compared by: less is better."""
        return len(self.unplaced), self.makespan(problem), self.lateness(problem)

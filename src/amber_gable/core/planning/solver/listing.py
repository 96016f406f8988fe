"""List scheduling: a plan in milliseconds, each task at its earliest place in some order; the solver's first answer and its fallback.

Serial schedule generation under several orders, the best of them kept; then each task is drawn to an earlier place if there is one.
Not here: proofs (cpsat).

References
----------
Kolisch and Hartmann (1999), Heuristic algorithms for the resource-constrained project scheduling problem: serial generation,
latest finish and most work to come as orders.
"""

import heapq
from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.planning.solver.problem import PlanTask, Problem, Solution, Wait, ready_steps

_FIRST_LOOK = 64

Order = Callable[[PlanTask], tuple[float, ...]]


class Board:
    """What is taken of the crew and of each piece of equipment, step by step."""

    def __init__(self, problem: Problem) -> None:
        self._horizon = problem.horizon
        self._free = {name: np.full(problem.horizon, units, dtype=np.int64) for name, units in problem.capacity.items()}

    def earliest(self, task: PlanTask, starts: NDArray[np.int64], from_step: int) -> int | None:
        """Return the earliest of some starts, from a step on, at which all that the task takes is free; None where there is none."""
        at, look = int(np.searchsorted(starts, from_step)), _FIRST_LOOK
        # Most tasks find a place near the front: look at few starts first, then at more and more.
        while at < len(starts):
            options = self._free_of(task, starts[at : at + look])
            if len(options):
                return int(options[0])
            at, look = at + look, look * 4
        return None

    def _free_of(self, task: PlanTask, options: NDArray[np.int64]) -> NDArray[np.int64]:
        length, first, last = task.duration_steps, int(options[0]), int(options[-1])
        for name, units in task.demands.items():
            lacking = np.concatenate([[0], np.cumsum(self._free[name][first : last + length] < units)])
            options = options[lacking[options + length - first] == lacking[options - first]]
            if not len(options):
                break
        return options

    def take(self, task: PlanTask, start: int, sign: int = 1) -> None:
        """Take what a task takes from its start to its end, or give it back by -1."""
        for name, units in task.demands.items():
            self._free[name][start : start + task.duration_steps] -= sign * units


def least_gap(wait: Wait, before: PlanTask, problem: Problem) -> int:
    """Return the shortest time from the start of the task before to the start of the task that waits [steps]."""
    own = problem.starts[before.id]
    ready = ready_steps(wait, before, own)
    gaps = (ready - own)[ready >= 0]
    return int(gaps.min()) if len(gaps) else before.duration_steps


def tails(problem: Problem) -> dict[str, int]:
    """Return, by task, the steps from its start to the end of the plan by its longest chain, were the crew without limit."""
    tail = {task.id: task.duration_steps for task in problem.tasks}
    for task in reversed(problem.in_order):
        for wait in task.after:
            before = problem.by_id[wait.task]
            tail[before.id] = max(tail[before.id], least_gap(wait, before, problem) + tail[task.id])
    return tail


def heads(problem: Problem) -> dict[str, int | None]:
    """Return, by task, the earliest start that windows and waits leave, were the crew without limit; None for none at all."""
    head: dict[str, int | None] = {}
    for task in problem.in_order:
        earliest: int | None = task.release
        for wait in task.after:
            before, own = problem.by_id[wait.task], problem.starts[wait.task]
            first = head[wait.task]
            options = own[own >= first] if first is not None else own[:0]
            ready = ready_steps(wait, before, options)
            ready = ready[ready >= 0]
            if not len(ready) or earliest is None:
                earliest = None
                break
            # Where a later start is ready sooner, the least of them bounds.
            earliest = max(earliest, int(ready.min()))
        own = problem.starts[task.id]
        later = own[own >= earliest] if earliest is not None else own[:0]
        head[task.id] = int(later[0]) if len(later) else None
    return head


def lower_bound(problem: Problem) -> int:
    """Return a step before which no plan of all tasks ends: by chains, and by the work of each resource."""
    head, tail = heads(problem), tails(problem)
    chain = max((first + tail[i] for i, first in head.items() if first is not None), default=0)
    work = {name: sum(t.duration_steps * t.demands.get(name, 0) for t in problem.tasks) for name in problem.capacity}
    return max([chain, *(-(-work[name] // units) for name, units in problem.capacity.items() if units)])


def _orders(problem: Problem, hint: Mapping[str, int]) -> list[Order]:
    tail, head = tails(problem), heads(problem)
    last = {i: int(own[-1]) if len(own) else problem.horizon for i, own in problem.starts.items()}
    far = problem.horizon
    soon = {i: far if first is None else first for i, first in head.items()}
    orders: list[Order] = [
        lambda t: (-tail[t.id],),
        lambda t: (last[t.id], -tail[t.id]),
        lambda t: (soon[t.id], -tail[t.id]),
        lambda t: (far if t.due is None else t.due - tail[t.id], -t.weight, -tail[t.id]),
        lambda t: (len(problem.starts[t.id]), -tail[t.id]),
    ]
    if hint:
        orders.insert(0, lambda t: (hint.get(t.id, far), -tail[t.id]))
    return orders


def placed_in(problem: Problem, order: Order, hint: Mapping[str, int] | None = None) -> Solution:
    """Return the plan that takes tasks in an order, each as soon as what it waits for is placed, at its earliest place.

    Parameters
    ----------
    problem : Problem
    order : callable
        Key of a task; less goes first. Ties by the tasks' own order.
    hint : mapping, optional
        Starts that are taken as they are where they still fit.
    """
    board, place = Board(problem), {task.id: n for n, task in enumerate(problem.tasks)}
    left = {task.id: len({w.task for w in task.after}) for task in problem.tasks}
    waiting: dict[str, list[PlanTask]] = {}
    for task in problem.tasks:
        for before in {w.task for w in task.after}:
            waiting.setdefault(before, []).append(task)
    kept = _kept(problem, board)
    keys = {task.id: (order(task), place[task.id]) for task in problem.tasks}
    heap = [(keys[t.id], t.id) for t in problem.tasks if not left[t.id]]
    heapq.heapify(heap)
    starts: dict[str, int] = {}
    while heap:
        _, i = heapq.heappop(heap)
        task = problem.by_id[i]
        earliest = problem.earliest_after(task, starts)
        start = None if earliest is None else _start_of(problem, board, task, earliest, kept, (hint or {}).get(i))
        if start is not None:
            starts[i] = start
        if start is not None and i not in kept:
            board.take(task, start)
        elif start is None and i in kept:
            board.take(task, kept[i], -1)
        for after in waiting.get(i, ()):
            left[after.id] -= 1
            if not left[after.id]:
                heapq.heappush(heap, (keys[after.id], after.id))
    return Solution(starts, tuple(t.id for t in problem.tasks if t.id not in starts))


def _kept(problem: Problem, board: Board) -> dict[str, int]:
    """Return the fixed starts that fit; each takes its place on the board before anything else does."""
    kept = {}
    for i, start in problem.keep.items():
        if board.earliest(problem.by_id[i], problem.starts[i], start) == start:
            board.take(problem.by_id[i], start)
            kept[i] = start
    return kept


def _start_of(
    problem: Problem, board: Board, task: PlanTask, earliest: int, kept: Mapping[str, int], hinted: int | None
) -> int | None:  # fmt: skip
    if task.id in problem.keep:
        return kept[task.id] if kept.get(task.id, -1) >= earliest else None
    own = problem.starts[task.id]
    if hinted is not None and hinted >= earliest and board.earliest(task, own[own == hinted], hinted) is not None:
        return hinted
    return board.earliest(task, own, earliest)


def listed(problem: Problem, hint: Mapping[str, int] | None = None, most_orders: int = 9) -> Solution:
    """Return the best plan of several orders, with a bound.

    Parameters
    ----------
    problem : Problem
    hint : mapping of str to int, optional
        Starts of an earlier plan: its order is tried as well, and the plan as it stands.
    most_orders : int
        How many orders are tried at most.
    """
    given = dict(hint or {})
    plans = [placed_in(problem, order) for order in _orders(problem, given)[: max(most_orders, 1)]]
    if given:
        far = problem.horizon
        plans.append(placed_in(problem, lambda t: (given.get(t.id, far),), given))
    best = min(plans, key=lambda plan: plan.rank(problem))
    bound = lower_bound(problem) if not best.unplaced else 0
    made = best.makespan(problem)
    no_lateness = best.lateness(problem) == 0
    is_optimal = not best.unplaced and made == bound and no_lateness
    return Solution(best.starts, best.unplaced, is_optimal, bound, not best.unplaced)

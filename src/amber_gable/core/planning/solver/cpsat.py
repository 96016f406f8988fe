"""CP-SAT: the same problem as a constraint model, for better plans than a list gives and for proofs.

Deterministic: one worker, and a limit of the solver's own deterministic time, so that a busy machine gives the same answer.
Not here: first answers (listing), the order of the aims (solve).

References
----------
OR-Tools CP-SAT: interval variables, cumulative constraints, element constraints as pieces.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from amber_gable.core.planning.solver.listing import heads
from amber_gable.core.planning.solver.problem import Problem, Solution, Steps, Wait, ready_steps

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

# Whole numbers for weights that are not: a thousandth of a step late is nothing to anybody.
_WEIGHT_SCALE = 1000
_PROVED_FROM_BELOW = 60


@dataclass(frozen=True)
class Piece:
    """A run of starts of the task before over which the wait ends at one step, or always as long after the start.

    Parameters
    ----------
    first, last : int
        Starts of the task before.
    base : int
        The later task's earliest step; with `moves` it counts from the start of the task before.
    moves : bool
    """

    first: int
    last: int
    base: int
    moves: bool


def pieces_of(starts: Steps, ready: Steps) -> list[Piece]:
    """Return a wait as pieces.

    Parameters
    ----------
    starts, ready : ndarray of int, same shape
        Starts of the task before, ascending, and the earliest start of the later one for each.
    """
    out: list[Piece] = []
    at, count = 0, len(starts)
    while at < count:
        still = int(np.argmax(np.append(ready[at:] != ready[at], True)))
        gap = ready - starts
        moving = int(np.argmax(np.append(gap[at:] != gap[at], True)))
        moves = moving > still
        length = max(still, moving)
        out.append(Piece(int(starts[at]), int(starts[at + length - 1]), int(gap[at] if moves else ready[at]), moves))
        at += length
    return out


def warm_up() -> None:
    """Load the solver's library: the first time takes a second, which no limit should pay for."""
    from ortools.sat.python import cp_model  # noqa: F401


class Model:
    """The problem as a CP-SAT model.

    Parameters
    ----------
    problem : Problem
    leaves_out : bool
        Whether tasks may be left out; otherwise each has to be placed.
    """

    def __init__(self, problem: Problem, *, leaves_out: bool = False) -> None:
        from ortools.sat.python import cp_model

        self.problem, self.leaves_out = problem, leaves_out
        self.model = cp_model.CpModel()
        self._domains = dict(_pruned(problem, leaves_out))
        self.start: dict[str, Any] = {}
        self.present: dict[str, Any] = {}
        self.is_hopeless = not leaves_out and any(not len(own) for own in self._domains.values())
        if self.is_hopeless:
            return
        for task in problem.tasks:
            own = self._domains[task.id]
            if not len(own):
                continue
            # The name of a variable is of no use to anybody here, and costs time.
            self.start[task.id] = self.model.new_int_var_from_domain(_domain(own), "")
            if leaves_out:
                self.present[task.id] = self.model.new_bool_var("")
        self._add_waits()
        self._add_resources()
        self.makespan = self.model.new_int_var(0, problem.horizon, "")
        for task in problem.tasks:
            if task.id in self.start:
                ends = self.model.add(self.makespan >= self.start[task.id] + task.duration_steps)
                self._if_present(ends, task.id)

    def _if_present(self, constraint: Any, *ids: str) -> None:
        if self.leaves_out:
            constraint.only_enforce_if([self.present[i] for i in ids])

    def _add_waits(self) -> None:
        for task in self.problem.tasks:
            if task.id not in self.start:
                continue
            for wait in task.after:
                if wait.task not in self.start:
                    self.model.add(self.present[task.id] == 0)
                    continue
                if self.leaves_out:
                    self.model.add_implication(self.present[task.id], self.present[wait.task])
                self._add_wait(task.id, wait)

    def _add_wait(self, later: str, wait: Wait) -> None:
        before = self.problem.by_id[wait.task]
        x, y = self.start[wait.task], self.start[later]
        if wait.ready_at is None:
            self._if_present(self.model.add(y >= x + before.duration_steps + wait.lag_steps), later, wait.task)
            return
        own, options = self._domains[wait.task], self._domains[later]
        ready = ready_steps(wait, before, own)
        place = np.searchsorted(options, ready)
        is_ever = (ready >= 0) & (place < len(options))
        # The next start that is permitted at all says the same in fewer pieces.
        after = options[np.minimum(place, len(options) - 1)]
        if not is_ever.all():
            bad = own[~is_ever]
            barred = self.model.add_linear_expression_in_domain(x, _domain(bad).complement())
            self._if_present(barred, later, wait.task)
        pieces = pieces_of(own[is_ever], after[is_ever])
        chosen = [self.model.new_bool_var("") for _ in pieces] if len(pieces) > 1 else []
        for nth, piece in enumerate(pieces):
            soonest = self.model.add(y >= (x + piece.base if piece.moves else piece.base))
            if not chosen:
                self._if_present(soonest, later, wait.task)
                continue
            enforced = [chosen[nth], *([self.present[later], self.present[wait.task]] if self.leaves_out else [])]
            soonest.only_enforce_if(enforced)
            self.model.add_linear_constraint(x, piece.first, piece.last).only_enforce_if(enforced)
        if chosen:
            self.model.add_exactly_one(chosen)

    def _add_resources(self) -> None:
        users: dict[str, list[tuple[Any, int]]] = {}
        self._is_shared = False
        for task in self.problem.tasks:
            demands = task.demands
            if not demands or task.id not in self.start:
                continue
            x, length = self.start[task.id], task.duration_steps
            if self.leaves_out:
                span = self.model.new_optional_fixed_size_interval_var(x, length, self.present[task.id], "")
            else:
                span = self.model.new_fixed_size_interval_var(x, length, "")
            for name, units in demands.items():
                users.setdefault(name, []).append((span, units))
        for name, spans in users.items():
            capacity = self.problem.capacity[name]
            if sum(units for _, units in spans) <= capacity:
                continue
            if all(2 * units > capacity for _, units in spans):
                self.model.add_no_overlap([span for span, _ in spans])
            else:
                self._is_shared = True
                self.model.add_cumulative([span for span, _ in spans], [units for _, units in spans], capacity)

    def lateness(self) -> Any:
        """Return the weighted lateness as an expression, in thousandths."""
        terms = []
        for task in self.problem.tasks:
            if task.due is None or task.id not in self.start or not task.weight:
                continue
            late = self.model.new_int_var(0, self.problem.horizon, "")
            self._if_present(self.model.add(late >= self.start[task.id] + task.duration_steps - task.due), task.id)
            terms.append(round(task.weight * _WEIGHT_SCALE) * late)
        return sum(terms)

    def left_out(self) -> Any:
        """Return the number of tasks that are left out as an expression."""
        return len(self.problem.tasks) - sum(self.present.values())

    def hint(self, starts: Mapping[str, int]) -> None:
        """Start the search from a plan."""
        self.model.clear_hints()  # type: ignore[no-untyped-call]
        for i, x in self.start.items():
            if i in starts:
                self.model.add_hint(x, starts[i])
            if i in self.present:
                self.model.add_hint(self.present[i], i in starts)

    def solve(self, work_limit: float, time_limit_s: float, seed: int) -> "Found":
        """Solve it for the objective that was set.

        Parameters
        ----------
        work_limit : float
            Of the solver's deterministic time.
        time_limit_s : float
            By the clock; only a machine much slower than ours comes to it.
        seed : int
        """
        from ortools.sat.python import cp_model

        solver = cp_model.CpSolver()
        parameters = solver.parameters
        parameters.num_workers = 1
        # Plans have next to nothing that linear relaxations see: without them 10x10 job shops are proved in seconds.
        parameters.linearization_level = 0
        # Small projects with shared resources are proved from below in half of the work; others have to be made better first.
        parameters.use_objective_lb_search = self._is_shared and len(self.problem.tasks) <= _PROVED_FROM_BELOW
        parameters.use_dynamic_precedence_in_disjunctive = not parameters.use_objective_lb_search
        parameters.max_deterministic_time, parameters.max_time_in_seconds = work_limit, max(time_limit_s, 0.05)
        parameters.random_seed = seed
        status = solver.solve(self.model)
        if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            placed = {i: solver.value(x) for i, x in self.start.items() if not self.leaves_out or solver.value(self.present[i])}
            value, bound = solver.objective_value, solver.best_objective_bound
            return Found(placed, status == cp_model.OPTIMAL, False, value, bound)
        return Found(None, False, status == cp_model.INFEASIBLE, 0.0, solver.best_objective_bound)


@dataclass(frozen=True)
class Found:
    """Answer of one search: starts or None, whether it is proved best, whether it is proved that there is none, value and bound."""

    starts: dict[str, int] | None
    is_optimal: bool
    is_impossible: bool
    value: float
    bound: float

    def as_solution(self, problem: Problem) -> Solution:
        starts = self.starts or {}
        return Solution(starts, tuple(t.id for t in problem.tasks if t.id not in starts))


def _pruned(problem: Problem, leaves_out: bool) -> Iterator[tuple[str, Steps]]:
    """Yield the starts of each task that its chain of waits leaves; what has none stays out."""
    head = heads(problem)
    for task in problem.tasks:
        own, first = problem.starts[task.id], head[task.id]
        yield task.id, own[:0] if first is None else own[own >= first]


def _domain(values: Steps) -> "cp_model.Domain":
    from ortools.sat.python import cp_model

    breaks = np.flatnonzero(np.diff(values) > 1)
    firsts, lasts = values[np.append(0, breaks + 1)], values[np.append(breaks, len(values) - 1)]
    return cp_model.Domain.from_intervals(np.stack([firsts, lasts], axis=1).tolist())

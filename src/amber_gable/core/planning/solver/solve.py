"""Solving: first a list, then CP-SAT where a list proves nothing; fewest tasks left out, then soonest end, then least late.

Not here: the model (cpsat), why tasks do not fit (conflict).
"""

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from amber_gable.core.planning.solver.cpsat import Model, warm_up
from amber_gable.core.planning.solver.listing import listed, lower_bound
from amber_gable.core.planning.solver.problem import Problem, Solution

# Deterministic time a second of the limit: a machine a third as fast, or as free, as ours still ends by its work, not by the clock.
_WORK_A_SECOND = 0.05
# The clock stops only what is far slower than that: a search cut by the clock is another answer each time.
_CLOCK_SHARE, _CLOCK_SPARE_S = 2.0, 2.0
# A model takes about a millisecond a task to build: where that is half of the limit, the list has to do.
_TASKS_A_SECOND = 500
# Tasks that a list places in a second, all orders together.
_LISTED_A_SECOND = 3000
# How much of what is left the end of the plan gets; the rest is for lateness.
_END_SHARE = 0.7


@dataclass
class _Budget:
    """What is left of the work and of the time."""

    work: float
    ends_at_s: float

    def part(self, share: float) -> tuple[float, float]:
        """Return a share of the work, and all of the time that is left: the clock is only there for a machine that is much slower."""
        return self.work * share, max(self.ends_at_s - time.monotonic(), 0.0)


def solve(
    problem: Problem, time_limit_s: float, seed: int = 0, hint: Mapping[str, int] | None = None,
    told: Callable[[Solution], None] | None = None,
) -> Solution:  # fmt: skip
    """Return the best plan that the limit leaves time for.

    Parameters
    ----------
    problem : Problem
    time_limit_s : float
        Stands for an amount of work, the same on every machine, which takes ours about half of it. By the clock a search ends after
        twice the limit and 2 s.
    seed : int
    hint : mapping of str to int, optional
        Starts of an earlier plan.
    told : callable, optional
        Is given each plan that is better than the one before.

    Raises
    ------
    CycleError
        If tasks wait for one another.
    """
    best = listed(problem, hint, int(_LISTED_A_SECOND * time_limit_s / max(len(problem.tasks), 1)))
    if told:
        told(best)
    if best.is_optimal or len(problem.tasks) > _TASKS_A_SECOND * time_limit_s:
        return best
    warm_up()
    budget = _Budget(time_limit_s * _WORK_A_SECOND, time.monotonic() + _CLOCK_SHARE * time_limit_s + _CLOCK_SPARE_S)
    best = _all_placed(problem, best, budget, seed)
    if best.unplaced and not best.is_complete_proof:
        best = _most_placed(problem, best, budget, seed)
    if told:
        told(best)
    return best


def _better(problem: Problem, one: Solution, other: Solution) -> Solution:
    return min((one, other), key=lambda plan: plan.rank(problem))


def _all_placed(problem: Problem, first: Solution, budget: _Budget, seed: int) -> Solution:
    """Return the soonest, then least late plan of all tasks; the first one where there is none, or none was found."""
    model = Model(problem)
    if model.is_hopeless:
        return first
    bound = lower_bound(problem)
    model.model.add(model.makespan >= bound)
    model.model.minimize(model.makespan)
    if not first.unplaced:
        model.model.add(model.makespan <= first.makespan(problem))
        model.hint(first.starts)
    has_dates = any(task.due is not None and task.weight for task in problem.tasks)
    found = model.solve(*budget.part(_END_SHARE if has_dates else 1.0), seed)
    if found.starts is None:
        return first if found.is_impossible else replace(first, bound=bound)
    best = _better(problem, first, found.as_solution(problem))
    made = best.makespan(problem)
    proved = max(bound, round(found.bound)) if not found.is_optimal else made
    best = replace(best, bound=proved, is_optimal=found.is_optimal, is_complete_proof=True)
    return _less_late(problem, model, best, budget, seed)


def _less_late(problem: Problem, model: Model, best: Solution, budget: _Budget, seed: int) -> Solution:
    """Return the least late of the plans that leave out no more and end no later."""
    if not best.lateness(problem):
        return best
    model.model.add(model.makespan <= best.makespan(problem))
    model.model.minimize(model.lateness())
    model.hint(best.starts)
    found = model.solve(*budget.part(1 - _END_SHARE), seed)
    if found.starts is None:
        return replace(best, is_optimal=False)
    better = _better(problem, best, found.as_solution(problem))
    return replace(better, bound=best.bound, is_optimal=best.is_optimal and found.is_optimal, is_complete_proof=best.is_complete_proof)


def _most_placed(problem: Problem, first: Solution, budget: _Budget, seed: int) -> Solution:
    """Return the plan that leaves out fewest, then ends soonest, then is least late."""
    model = Model(problem, leaves_out=True)
    model.hint(first.starts)
    left_out = model.left_out()
    model.model.add(left_out <= len(first.unplaced))
    model.model.minimize(left_out)
    found = model.solve(*budget.part(0.4), seed)
    if found.starts is None:
        return first
    best = _better(problem, first, found.as_solution(problem))
    best = replace(best, is_complete_proof=found.is_optimal)
    model.model.add(left_out <= len(best.unplaced))
    model.model.minimize(model.makespan)
    model.hint(best.starts)
    ended = model.solve(*budget.part(0.4), seed)
    if ended.starts is not None:
        proved_fewest = best.is_complete_proof
        best = _better(problem, best, ended.as_solution(problem))
        best = replace(best, bound=round(ended.bound), is_optimal=proved_fewest and ended.is_optimal, is_complete_proof=proved_fewest)
    return _less_late(problem, model, best, budget, seed)

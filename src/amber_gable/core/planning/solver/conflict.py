"""Conflicts: why a task has no place, with a smallest set of tasks that we can find which do not fit together.

Not here: finding plans (solve).
"""

from collections.abc import Callable, Iterator, Sequence

from amber_gable.core.planning.solver.cpsat import Model
from amber_gable.core.planning.solver.listing import heads
from amber_gable.core.planning.solver.problem import PlanTask, Problem, Solution, Unplaced

# Each trial is a small search of its own; so many at most for all reasons of a plan.
_TRIAL_WORK = 0.02
_TRIAL_TIME_S = 1.0
_MOST_TRIALS = 60
# Of so many tasks at most it is proved what stands in their way, and among so many tasks at most.
_MOST_PROVED = 6
_MOST_TASKS = 400


def reasons(problem: Problem, plan: Solution) -> tuple[Unplaced, ...]:
    """Return why each task that a plan leaves out has no place.

    Parameters
    ----------
    problem : Problem
    plan : Solution
        Of it, with tasks left out.
    """
    head, trials = heads(problem), _Trials(len(problem.tasks))
    return tuple(Unplaced(i, _reason(problem, plan, problem.by_id[i], head[i], trials)) for i in plan.unplaced)


def _reason(problem: Problem, plan: Solution, task: PlanTask, head: int | None, trials: "_Trials") -> str:
    own = problem.starts[task.id]
    if not len(own):
        return _no_start(problem, task)
    missing = [w.task for w in task.after if w.task not in plan.starts]
    if missing:
        return f"It waits for {_listed(missing)}, which {'has' if len(missing) == 1 else 'have'} no place."
    if head is None:
        chain = _smallest(problem, _ancestors(problem, task), task.id, lambda part: heads(part)[task.id] is None)
        return f"It does not fit together with {_listed(chain)}: its last permitted start, step {own[-1]}, is over before the wait is."
    clash = trials.smallest_clash(problem, [*plan.starts], task)
    if clash is None:
        return "No place was found for it beside the tasks that are placed."
    return f"It does not fit together with {_listed(clash)} before step {problem.horizon}: {_scarce(problem, [*clash, task.id])}."


def _no_start(problem: Problem, task: PlanTask) -> str:
    if task.id in problem.keep:
        return f"It is kept at step {problem.keep[task.id]}, where its own limits do not permit a start."
    if not task.allowed.any():
        return "It has no permitted start."
    if task.release + task.duration_steps > problem.horizon or not task.allowed[: problem.horizon - task.duration_steps + 1].any():
        return f"It takes {task.duration_steps} steps and would end after the horizon of {problem.horizon}."
    return f"It has no permitted start from its release, step {task.release}, on."


def _scarce(problem: Problem, ids: Sequence[str]) -> str:
    shared: dict[str, int] = {}
    for i in ids:
        for name in problem.by_id[i].demands:
            shared[name] = shared.get(name, 0) + 1
    names = [name.removeprefix("equipment ") for name, count in shared.items() if count > 1]
    return f"they share {_listed(names)}" if names else "their waits take longer than is left"


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def _ancestors(problem: Problem, task: PlanTask) -> list[str]:
    out: list[str] = []
    open_ids = [w.task for w in task.after]
    while open_ids:
        i = open_ids.pop()
        if i not in out:
            out.append(i)
            open_ids += [w.task for w in problem.by_id[i].after]
    return out


def _smallest(problem: Problem, others: Sequence[str], task: str, is_clash: Callable[[Problem], bool]) -> list[str]:
    """Return a set of the others from which none can be taken without the clash ending."""
    kept = list(others)
    size = max(len(kept) // 2, 1)
    while True:
        at = 0
        while at < len(kept):
            fewer = kept[:at] + kept[at + size :]
            if fewer and is_clash(problem.only([*fewer, task])):
                kept = fewer
            else:
                at += size
        if size == 1:
            return kept
        size //= 2


class _Trials:
    """Small proofs that tasks do not fit together, counted."""

    def __init__(self, tasks: int) -> None:
        self._left = _MOST_TRIALS if tasks <= _MOST_TASKS else 0
        self._proved = 0

    def is_impossible(self, part: Problem) -> bool:
        """Return whether it is proved that some tasks do not fit together; False where that is not known."""
        if not self._left:
            return False
        self._left -= 1
        model = Model(part)
        return model.is_hopeless or model.solve(_TRIAL_WORK, _TRIAL_TIME_S, 0).is_impossible

    def smallest_clash(self, problem: Problem, placed: Sequence[str], task: PlanTask) -> list[str] | None:
        """Return a smallest set of placed tasks that leaves no room for one more; None where that is not proved."""
        self._proved += 1
        for others in _growing(problem, placed, task) if self._proved <= _MOST_PROVED else ():
            if self.is_impossible(problem.only([*others, task.id])):
                return _smallest(problem, others, task.id, self.is_impossible)
        return None


def _growing(problem: Problem, placed: Sequence[str], task: PlanTask) -> Iterator[list[str]]:
    """Yield more and more of the placed tasks: first what shares most with a task, in the narrowest windows."""
    wanted, family = set(task.demands), {w.task for w in task.after}

    def key(i: str) -> tuple[int, int]:
        other = problem.by_id[i]
        near = i in family or any(w.task == task.id for w in other.after)
        return -(len(wanted & set(other.demands)) + 2 * near), len(problem.starts[i])

    nearest = sorted(placed, key=key)
    count = 1
    while count < len(nearest):
        yield nearest[:count]
        count *= 2
    if nearest:
        yield nearest

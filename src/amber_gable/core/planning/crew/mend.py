"""Mending a plan: all stays that may; where something cannot, some of what could is set free where that saves more than its moves cost.

Not here: dispatching (dispatch), what plans cost (money), better plans from nothing (search).
"""

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import replace

from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.planning.crew.dispatch import TRAVEL_STEPS
from amber_gable.core.planning.crew.search import Given, Tried, Way, tried
from amber_gable.core.planning.crew.values import CrewTask, Painter, Stretch

# What a move costs: somebody is told, something is loaded again. How many days after one that is touched are looked at.
_MOVE_H, _NEXT_DAYS = assumed("move_h"), 2
# So often a mended plan is looked at again at most.
_SETTLES = 3


def mended(given: Given, way: Way, known: int | None = None) -> Tried:
    """Return the plan that mends an earlier one, `given.keep`; the same plan where nothing forbids any of it.

    Parameters
    ----------
    given : Given
    way : Way
        How what finds another place is dispatched.
    known : int, optional
        Steps that the forecast reaches: beyond, nothing is kept the next time. All where it is not given.
    """
    tasks = {task.id: task for task in given.tasks}
    best = tried(given, way)
    stirred = [k for k in given.keep if k.task in tasks and not _stays(k, best.plan)]
    for keep in _choices(given, tasks, stirred) if stirred else ():
        found = tried(replace(given, keep=keep), way)
        if found.cost.missing <= best.cost.missing + 1e-9 and _with_moves(found, given) < _with_moves(best, given):
            best = found
    return _settled(given, best, way, given.count if known is None else known)


def _settled(given: Given, mended_plan: Tried, way: Way, known: int) -> Tried:
    """Return a plan as it is once it is mended again: what only then finds a sooner place has it at once."""
    for _ in range(_SETTLES):
        keep = [k for k in mended_plan.plan.values() if k.start < known or k.is_pinned]
        again = tried(replace(given, keep=keep), way)
        if again.plan == mended_plan.plan or again.cost.total > mended_plan.cost.total:
            break
        mended_plan = again
    return mended_plan


def _stays(was: Stretch, plan: Mapping[str, Stretch]) -> bool:
    at = plan.get(was.task)
    return at is not None and (at.start, at.painters) == (was.start, was.painters)


def _with_moves(one: Tried, given: Given) -> float:
    """Return what a plan costs, its moves counted; what has no place lies weeks ahead and is left to what the weather brings."""
    moves = sum(not _stays(k, one.plan) for k in given.keep)
    return one.cost.total - one.cost.missing + moves * _MOVE_H * given.terms.wage_per_h


def _choices(given: Given, tasks: Mapping[str, CrewTask], stirred: Sequence[Stretch]) -> Iterator[list[Stretch]]:
    """Yield what may be kept instead of all: coats with other painters, and less and less of the days that are touched."""
    days = given.terms.days
    touched = {days[k.start] for k in stirred}
    # What is being worked at, and what was put somewhere by hand, is not set free.
    loose = [k for k in given.keep if k.task in tasks and k.start > 0 and not k.is_pinned]
    keep = _with_others(given, tasks, stirred, loose)
    given_over = {k.task for k in keep if k not in given.keep}
    dry = {k.task for k in loose if days[k.start] in touched and not tasks[k.task].is_wet}
    tried_already = [list(given.keep)]
    for free in (
        set[str](),
        dry,
        {k.task for k in loose if days[k.start] in touched},
        {k.task for k in loose if any(0 <= (days[k.start] - day).days <= _NEXT_DAYS for day in touched)},
        {k.task for k in loose if days[k.start] >= min(touched)},
    ):
        for choice in ([k for k in keep if k.task not in free - given_over], [k for k in given.keep if k.task not in free]):
            if choice not in tried_already:
                tried_already.append(choice)
                yield choice


def _with_others(given: Given, tasks: Mapping[str, CrewTask], stirred: Sequence[Stretch], loose: Sequence[Stretch]) -> list[Stretch]:
    """Return what is kept with coats that cannot stay given to other painters at their hours, whose dry work then is set free."""
    order = {task: n for n, task in enumerate(tasks)}
    keep, free = list(given.keep), {k.task for k in loose if not tasks[k.task].is_wet}
    for was in sorted((k for k in stirred if tasks[k.task].is_wet and not k.is_pinned), key=lambda k: (k.start, order[k.task])):
        task = tasks[was.task]
        others = [k for k in keep if k.task != was.task]
        able = [p for p in given.painters if _may(p, task, was) and not _is_taken(p, task, was, others, tasks, free)]
        # Those who are at nothing then come first.
        able.sort(key=lambda p: (bool(_at_then(p, task, was, others, tasks)), p.name not in was.painters, p.name))
        crew = tuple(sorted(p.name for p in able[: len(was.painters)]))
        if len(crew) < max(task.crew[0], 1):
            continue
        gone = {k.task for p in able[: len(was.painters)] for k in _at_then(p, task, was, others, tasks)}
        keep = [k for k in others if k.task not in gone] + [replace(was, painters=crew)]
    return keep


def _may(painter: Painter, task: CrewTask, was: Stretch) -> bool:
    works = painter.works
    return (
        bool(task.may[was.start : was.end].all())
        and painter.has((*task.needs, *task.one_with), was.end)
        and (works is None or bool(works[was.start : was.end].all()))
    )


def _at_then(painter: Painter, task: CrewTask, was: Stretch, others: Sequence[Stretch], tasks: Mapping[str, CrewTask]) -> list[Stretch]:
    """Return what a painter is kept at while a coat goes on, the way from and to another house counted."""
    out = []
    for k in others:
        if painter.name in k.painters and k.task in tasks:
            way = 0 if tasks[k.task].job == task.job else TRAVEL_STEPS
            if k.start < was.end + way and was.start < k.end + way:
                out.append(k)
    return out


def _is_taken(
    painter: Painter, task: CrewTask, was: Stretch, others: Sequence[Stretch], tasks: Mapping[str, CrewTask], free: Collection[str]
) -> bool:  # fmt: skip
    return any(k.task not in free for k in _at_then(painter, task, was, others, tasks))

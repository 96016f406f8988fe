"""Reckoning `schedule`: tasks, crew, equipment and waits that are given in the request, placed by the same solver as the plan of a job."""

import threading
from collections.abc import Iterator, Sequence
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from amber_gable.core.planning.solver.conflict import reasons
from amber_gable.core.planning.solver.problem import PlanTask, Problem, Wait
from amber_gable.core.planning.solver.solve import solve
from amber_gable.errors import PlanError
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import TimeLimitS, Weight

_MOST_STEPS = 20_000
_MOST_TASKS = 5_000
# Two searches at once use up a small machine; more would only take from each other.
_TURNS = threading.BoundedSemaphore(2)


def _whole(low: int, high: int, words: str) -> tuple[AfterValidator, Any]:
    """Return what makes a whole number one of a range, whose message says what to do."""

    def check(value: int) -> int:
        if low <= value <= high:
            return value
        raise PydanticCustomError("range", "{message}", {"message": f"{words} must be {low} to {high}, got {value}."})

    return AfterValidator(check), Field(json_schema_extra={"minimum": low, "maximum": high})


Horizon = Annotated[int, *_whole(1, _MOST_STEPS, "The horizon")]
StepMin = Annotated[int, *_whole(1, 1440, "A step in minutes")]
Crew = Annotated[int, *_whole(0, 10_000, "The number of people")]
Units = Annotated[int, *_whole(0, 10_000, "The number of units")]
Lag = Annotated[int, *_whole(0, _MOST_STEPS, "A wait in steps")]
Ready = Annotated[int, *_whole(-1, 10_000_000, "The earliest step (-1 for never)")]
Step = Annotated[int, *_whole(0, 10_000_000, "A step")]
Seed = Annotated[int, *_whole(0, 2**31 - 1, "The seed")]
Name = Annotated[str, Field(min_length=1, max_length=200)]


class AfterIn(Strict):
    task: Name
    lag_steps: Lag | None = None
    ready_at: list[Ready] | None = None


class PlanTaskIn(Strict):
    id: Name
    duration_steps: Step
    crew: Crew = 0
    # A list of names, or units by name; checked below, where the fault's path is known.
    equipment: Any = Field(default_factory=dict)
    # Steps, or pairs of a first and a last one.
    allowed_starts: Any = None
    after: list[AfterIn] = Field(default_factory=list)
    release: Step = 0
    due: Step | None = None
    weight: Weight = 1.0


class ScheduleIn(Strict):
    step_min: StepMin
    horizon_steps: Horizon
    crew: Crew
    equipment: dict[Name, Units] = Field(default_factory=dict)
    tasks: Annotated[list[PlanTaskIn], Field(max_length=_MOST_TASKS)]
    time_limit_s: TimeLimitS
    seed: Seed
    hint: dict[str, Step] | None = None
    keep: dict[str, Step] | None = None


class UnplacedOut(Answer):
    id: str
    why: str


class ScheduleOut(Answer):
    status: Literal["optimal", "feasible", "infeasible"]
    starts: dict[str, int]
    makespan_steps: int
    bound_steps: int
    unplaced: list[UnplacedOut]


def _is_step(value: Any) -> bool:
    return isinstance(value, int) and not isinstance(value, bool) and value >= 0


def _allowed(given: Any, everywhere: NDArray[np.bool_], path: str) -> NDArray[np.bool_]:
    """Return the permitted starts as a mask, shape (horizon + 1,); `everywhere` itself where nothing is given."""
    if given is None:
        return everywhere
    horizon = len(everywhere) - 1
    if not isinstance(given, list):
        raise PlanError("allowed_starts must be a list of steps, or of pairs [first, last].", path)
    mask = np.zeros(horizon + 1, dtype=bool)
    for nth, entry in enumerate(given):
        first, last = entry if isinstance(entry, list) and len(entry) == 2 else (entry, entry)
        if not (_is_step(first) and _is_step(last)):
            raise PlanError("A permitted start must be a whole step of 0 or more, or a pair [first, last].", f"{path}.{nth}")
        if first > last:
            raise PlanError(f"The first step of this pair, {first}, lies after its last, {last}.", f"{path}.{nth}")
        mask[first : last + 1] = True
    return mask


def _equipment(given: Any, there: dict[str, int], path: str) -> dict[str, int]:
    """Return the units that a task takes by name."""
    if isinstance(given, list):
        if len(set(map(str, given))) < len(given):
            raise PlanError('One name stands twice in this list. For several units write them as an object, like {"lift": 2}.', path)
        wanted = [(name, 1, f"{path}.{nth}") for nth, name in enumerate(given)]
    elif isinstance(given, dict):
        wanted = [(name, units, f"{path}.{name}") for name, units in given.items()]
    else:
        raise PlanError("equipment must be a list of names, or an object of units by name.", path)
    for name, units, at in wanted:
        if not isinstance(name, str) or name not in there:
            raise PlanError(f"There is no equipment named {name!r}. There is: {', '.join(there) or 'none'}.", at)
        if not _is_step(units):
            raise PlanError("The number of units must be a whole number of 0 or more.", at)
        if units > there[name]:
            raise PlanError(f"This task takes {units} of {name}; there {'is' if there[name] == 1 else 'are'} {there[name]}.", at)
    return {name: units for name, units, _ in wanted}


def _waits(task: PlanTaskIn, known: set[str], path: str) -> Iterator[Wait]:
    for nth, after in enumerate(task.after):
        at = f"{path}.after.{nth}"
        if after.task not in known:
            raise PlanError(f"There is no task named {after.task!r}.", f"{at}.task")
        if after.lag_steps is not None and after.ready_at is not None:
            raise PlanError("Give either lag_steps or ready_at, not both.", f"{at}.ready_at")
        ready = None if after.ready_at is None else np.array(after.ready_at, dtype=np.int64)
        yield Wait(after.task, after.lag_steps or 0, ready)


def _named(starts: dict[str, int] | None, known: set[str], horizon: int, field: str) -> dict[str, int]:
    for name, start in (starts or {}).items():
        if name not in known:
            raise PlanError(f"There is no task named {name!r}.", f"{field}.{name}")
        if start > horizon:
            raise PlanError(f"Step {start} lies beyond the horizon of {horizon}.", f"{field}.{name}")
    return dict(starts or {})


def _problem(given: ScheduleIn) -> Problem:
    ids = [task.id for task in given.tasks]
    known: set[str] = set()
    for nth, name in enumerate(ids):
        if name in known:
            raise PlanError(f"Two tasks are named {name!r}; give each a name of its own.", f"tasks.{nth}.id")
        known.add(name)
    tasks = []
    everywhere = np.ones(given.horizon_steps + 1, dtype=bool)
    for nth, task in enumerate(given.tasks):
        path = f"tasks.{nth}"
        if task.crew > given.crew:
            raise PlanError(f"This task takes {task.crew} people; the crew has {given.crew}.", f"{path}.crew")
        tasks.append(
            PlanTask(
                task.id, task.duration_steps, task.crew, _equipment(task.equipment, given.equipment, f"{path}.equipment"),
                _allowed(task.allowed_starts, everywhere, f"{path}.allowed_starts"), tuple(_waits(task, known, path)),
                task.release, task.due, task.weight,
            )
        )  # fmt: skip
    return Problem(given.horizon_steps, given.crew, given.equipment, tasks, _named(given.keep, known, given.horizon_steps, "keep"))


def schedule(given: ScheduleIn) -> ScheduleOut:
    problem = _problem(given)
    hint = _named(given.hint, set(problem.by_id), given.horizon_steps, "hint")
    with _TURNS:
        plan = solve(problem, given.time_limit_s, given.seed, hint)
        left_out = reasons(problem, plan)
    made = plan.makespan(problem)
    return ScheduleOut(
        status="infeasible" if plan.unplaced else "optimal" if plan.is_optimal else "feasible",
        starts=_in_order(plan.starts, problem.tasks), makespan_steps=made, bound_steps=min(plan.bound, made),
        unplaced=[UnplacedOut(id=one.task, why=one.why) for one in left_out],
    )  # fmt: skip


def _in_order(starts: dict[str, int], tasks: Sequence[PlanTask]) -> dict[str, int]:
    return {task.id: starts[task.id] for task in tasks if task.id in starts}


SCHEDULE = Reckoning(
    "schedule", "Schedule", "Which task starts when, so that all is done soonest?", ScheduleIn, ScheduleOut, schedule,
    {
        "step_min": 30, "horizon_steps": 96, "crew": 2, "equipment": {"tower": 1},
        "tasks": [
            {"id": "wash", "duration_steps": 4, "crew": 2},
            {"id": "first coat", "duration_steps": 6, "crew": 2, "equipment": ["tower"], "allowed_starts": [[20, 30], [68, 78]],
             "after": [{"task": "wash", "lag_steps": 12}]},
            {"id": "second coat", "duration_steps": 5, "crew": 2, "equipment": ["tower"], "allowed_starts": [[20, 30], [68, 78]],
             "after": [{"task": "first coat", "lag_steps": 8}]},
            {"id": "door", "duration_steps": 3, "crew": 1, "after": [{"task": "first coat"}], "due": 60},
        ],
        "time_limit_s": 2.0, "seed": 0,
    },
    "makespan_steps",
    ("Plans leave out as few tasks as can be, then end as soon as can be, then are late as little as can be.",),
)  # fmt: skip

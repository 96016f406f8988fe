"""State of work: what the record says of each step, and what follows from it. State is derived, never typed.

Not here: the record's rows (services.work), when what dries is ready (the caller's laws), when a step is to be done (the plan).
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from amber_gable.core.planning.work import WaitsFor, WorkTask

# What is left of a step that nobody counts any more.
_WHOLE = 0.995


class Told(StrEnum):
    """What an entry of the record says of a step."""

    BEGAN = "began"
    DONE = "done"
    AGAIN = "again"
    LEFT_OUT = "left-out"
    WITHDRAWN = "withdrawn"


class State(StrEnum):
    """Where a step stands."""

    TO_DO = "to do"
    READY = "ready"
    HELD = "held"
    UNDER_WAY = "under way"
    DRYING = "drying"
    DONE = "done"
    AGAIN = "to do again"
    LEFT_OUT = "left out"

    @property
    def is_over(self) -> bool:
        """Whether nothing is left to do of it."""
        return self in (State.DRYING, State.DONE, State.LEFT_OUT)


@dataclass(frozen=True)
class Entry:
    """One entry of the record of one step.

    Parameters
    ----------
    id : str
    task : str
        Id of the step's task.
    told : Told
    from_s, until_s : float
        When it was worked at [s since 1970]; equal where only a moment is known.
    share_frac : float
        How much of the step was done in it.
    said_s : float
        When it was entered; of two entries of one moment the later said counts.
    corrects : str
        Id of the entry that it takes back.
    remark : str
    """

    id: str
    task: str
    told: Told
    from_s: float
    until_s: float
    share_frac: float = 1.0
    said_s: float = 0.0
    corrects: str = ""
    remark: str = ""


@dataclass(frozen=True)
class OnRecord:
    """What the record says of one step by now.

    Parameters
    ----------
    done_frac : float
        How much of it is done since it last had to be done anew.
    began_s, ended_s : float or None
        First and last moment of that work.
    is_again : bool
        Somebody said that it has to be done again.
    left_out : str
        Why it is left out; empty where it is not.
    """

    done_frac: float = 0.0
    began_s: float | None = None
    ended_s: float | None = None
    is_again: bool = False
    left_out: str = ""

    @property
    def is_done(self) -> bool:
        return self.done_frac >= _WHOLE


@dataclass(frozen=True)
class TaskState:
    """State of a step.

    Parameters
    ----------
    state : State
    done_frac : float
    since_s : float or None
        When it was begun or ended, by its state.
    ready_s : float or None
        DRYING: when what follows may go on; TO_DO behind something that dries: when it is ready.
    waits_for : str
        Id of the task that it waits for.
    why : str
        What holds it, or why it is left out.
    """

    state: State
    done_frac: float = 0.0
    since_s: float | None = None
    ready_s: float | None = None
    waits_for: str = ""
    why: str = ""


def void_ids(corrections: Iterable[tuple[str, str]]) -> set[str]:
    """Return the ids of entries that no longer count: those that a correction takes back which is not taken back itself.

    Parameters
    ----------
    corrections : iterable of (id, corrects)
        Of the entries that correct another one.
    """
    correctors: dict[str, list[str]] = {}
    for entry, corrects in dict.fromkeys(corrections):
        correctors.setdefault(corrects, []).append(entry)
    known: dict[str, bool] = {}
    return {entry for entry in correctors if _is_void(entry, correctors, known)}


def _is_void(entry: str, correctors: Mapping[str, Sequence[str]], known: dict[str, bool]) -> bool:
    if entry not in known:
        # Nothing corrects itself; until it is known better, it counts.
        known[entry] = False
        known[entry] = any(not _is_void(by, correctors, known) for by in correctors.get(entry, ()))
    return known[entry]


def standing(entries: Iterable[Entry]) -> list[Entry]:
    """Return the entries that no later one takes back, in the order in which things happened."""
    every = list(entries)
    gone = void_ids((e.id, e.corrects) for e in every if e.corrects)
    kept = [e for e in every if e.id not in gone and e.told is not Told.WITHDRAWN]
    return sorted(kept, key=lambda e: (e.until_s, e.said_s, e.id))


def on_record(entries: Iterable[Entry]) -> dict[str, OnRecord]:
    """Return what the record says of each step that it names."""
    out: dict[str, OnRecord] = {}
    for entry in standing(entries):
        now = out.get(entry.task, OnRecord())
        if entry.told is Told.AGAIN:
            now = OnRecord(is_again=True)
        elif entry.told is Told.LEFT_OUT:
            now = OnRecord(left_out=entry.remark or "left out")
        elif entry.told is Told.BEGAN:
            now = OnRecord(now.done_frac, entry.from_s if now.began_s is None else now.began_s, now.ended_s, now.is_again)
        else:
            began = entry.from_s if now.began_s is None else min(now.began_s, entry.from_s)
            done = min(now.done_frac + entry.share_frac, 1.0)
            now = OnRecord(done, began, entry.until_s, now.is_again and done < _WHOLE)
        out[entry.task] = now
    return out


Ready = Callable[[WorkTask, WaitsFor, float], float]


def states_of(tasks: Sequence[WorkTask], record: Mapping[str, OnRecord], now_s: float, ready_s: Ready) -> dict[str, TaskState]:
    """Return the state of each task.

    Parameters
    ----------
    tasks : sequence of WorkTask
        Of one job; each behind those that it waits for.
    record : mapping of str to OnRecord
    now_s : float
    ready_s : callable
        Of a task, a wait after it and the moment the task ended: the moment the wait is over; infinite where the weather does not say.

    Notes
    -----
    A step that takes no hours (until dry) is over with the one before it. What nobody recorded is not done.
    """
    out: dict[str, TaskState] = {}
    ended: dict[str, float | None] = {}
    by_id = {task.id: task for task in tasks}
    for task in tasks:
        told = record.get(task.id, OnRecord())
        waits, waits_for = _over_at(task, by_id, out, ended, ready_s)
        ended[task.id] = told.ended_s
        if told.left_out:
            out[task.id], ended[task.id] = TaskState(State.LEFT_OUT, why=told.left_out), waits
        elif told.is_done:
            out[task.id] = TaskState(State.DONE, 1.0, told.ended_s)
        elif told.began_s is not None:
            out[task.id] = TaskState(State.UNDER_WAY, told.done_frac, told.began_s)
        elif not task.hours and waits is not None and not waits_for:
            # Nobody works at it: it is over with what comes before it.
            out[task.id], ended[task.id] = TaskState(State.DONE, 1.0, waits), waits
        elif task.held_by:
            out[task.id] = TaskState(State.HELD, why=" and ".join(task.held_by))
        elif told.is_again:
            out[task.id] = TaskState(State.AGAIN, ready_s=waits, waits_for=waits_for)
        elif waits_for or (waits is not None and waits > now_s):
            out[task.id] = TaskState(State.TO_DO, ready_s=waits, waits_for=waits_for)
        else:
            out[task.id] = TaskState(State.READY)
    return _drying(tasks, out, ended, now_s, ready_s)


def _over_at(
    task: WorkTask, by_id: Mapping[str, WorkTask], states: Mapping[str, TaskState], ended: Mapping[str, float | None], ready_s: Ready
) -> tuple[float | None, str]:  # fmt: skip
    """Return when the waits of a task are over as far as they run already, and the first task that is still to be done."""
    latest: float | None = -float("inf")
    for wait in task.after:
        before = states.get(wait.task)
        if before is None:
            continue
        if not before.state.is_over:
            # Nobody works at "until dry": what is waited for is the work before it.
            return None, wait.task if by_id[wait.task].hours else before.waits_for or wait.task
        end = ended[wait.task]
        if end is not None and before.state is not State.LEFT_OUT:
            latest = max(latest if latest is not None else end, ready_s(by_id[wait.task], wait, end))
        elif end is not None:
            latest = max(latest if latest is not None else end, end)
    return latest, ""


def _drying(
    tasks: Sequence[WorkTask], states: dict[str, TaskState], ended: Mapping[str, float | None], now_s: float, ready_s: Ready
) -> dict[str, TaskState]:  # fmt: skip
    """Return the states, those of steps that are done and still dry before what follows named as drying."""
    by_id = {task.id: task for task in tasks}
    for task in tasks:
        for wait in task.after:
            before, end = states.get(wait.task), ended.get(wait.task)
            if before is None or end is None or before.state not in (State.DONE, State.DRYING) or states[task.id].state.is_over:
                continue
            ready = ready_s(by_id[wait.task], wait, end)
            if ready > now_s and ready > (before.ready_s or 0):
                states[wait.task] = TaskState(State.DRYING, 1.0, end, ready)
    return states

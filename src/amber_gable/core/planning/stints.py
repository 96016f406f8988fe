"""Stints: the steps that a crew does in one go on one side, as the pieces that a plan is made of.

Painters wash a side, then scrape it; nobody is sent up a ladder for each of twelve steps of each board. A stint ends where something
has to dry, where another coat begins, or where a gate holds up what follows.
Not here: when a stint may start (services), who does it and when (solver).
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from amber_gable.core.geometry import SurfaceKind
from amber_gable.core.knowledge import Phase, Wait
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.planning.work import WaitsFor, WorkTask

STAGE_OF: Mapping[Phase, str] = {
    Phase.CLEAR: "clear", Phase.CLEAN: "wash", Phase.PROVE: "prepare", Phase.MEND: "prepare", Phase.CAULK: "prepare", Phase.MASK: "mask",
    Phase.PRIME: "prime", Phase.COAT: "coat", Phase.SEAL: "seal", Phase.UNMASK: "finish", Phase.INSPECT: "finish", Phase.PUT_BACK: "finish",
}  # fmt: skip
# Stages that are done for all of a side at once, whatever lies on it.
_FOR_A_SIDE = ("clear", "wash")
_WETS = ("prime", "coat", "seal")
# Less than this before work that is held up [painter-hours] waits with it.
_WITH_HELD_H = assumed("with_held_h")
ALL = "all"
BODY, DOORS, WINDOWS, SHUTTERS, TRIM, FOUNDATION = "walls", "doors", "windows", "shutters", "trim", "foundation"
_FAMILY: Mapping[SurfaceKind, str] = {
    "wall": BODY, "gable": BODY, "soffit": "soffits", "door": DOORS, "plinth": FOUNDATION, "roof": "roof", "chimney": "chimney",
    "railing": "railings", "deck": "deck", "steps": "deck",
}  # fmt: skip
# Roof and chimney drip on what is below; then the body from its top; what is trodden on and the foundation come last.
_RANK: Mapping[str, int] = {"roof": 0, "chimney": 0, "soffits": 1, BODY: 2, "railings": 3, "deck": 4, FOUNDATION: 5}
_AFTER_BODY = (DOORS, WINDOWS, SHUTTERS, TRIM)
_BEFORE = Wait(law="clock")


@dataclass(frozen=True)
class Place:
    """What a plan has to know of the place of a task: the kind of surface and whether it is the top of its side."""

    kind: SurfaceKind | None = None
    part: str = ""

    @property
    def family(self) -> str:
        return _FAMILY[self.kind] if self.kind else self.part

    @property
    def is_top(self) -> bool:
        return self.kind == "gable"


@dataclass(frozen=True)
class After:
    """A wait of a stint: for all of another one, by the law of a step of it."""

    stint: str
    task: WorkTask | None
    wait: Wait
    why: str = "in order"


@dataclass(frozen=True)
class Stint:
    """Steps in one go.

    Parameters
    ----------
    id : str
        Side, family, stage and number.
    side, family, stage : str
        `stage` is one of the values of `STAGE_OF`.
    tasks : tuple of WorkTask
        In their order.
    coat : int
        Of a stage "coat", from 1; otherwise 0.
    after : tuple of After
    """

    id: str
    side: str
    family: str
    stage: str
    tasks: tuple[WorkTask, ...]
    coat: int = 0
    after: tuple[After, ...] = ()

    @property
    def hours(self) -> float:
        return sum(task.hours for task in self.tasks)

    @property
    def held_by(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(why for task in self.tasks for why in task.held_by))

    @property
    def equipment(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(name for task in self.tasks for name in task.equipment))

    @property
    def ways_up(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(task.way_up for task in self.tasks))

    @property
    def wets(self) -> bool:
        return self.stage in _WETS

    @property
    def raises_dust(self) -> bool:
        return any(task.raises_dust for task in self.tasks)

    def painters(self, there: int, each_h: float) -> int:
        """Return how many of the painters that are there work at it, each for about `each_h` hours at least."""
        low = max((t.crew[0] for t in self.tasks if t.hours), default=1)
        high = max((t.crew[1] for t in self.tasks if t.hours), default=1)
        return max(1, min(there, high, max(low, math.floor(self.hours / each_h))))


@dataclass
class _Draft:
    id: str
    side: str
    family: str
    stage: str
    coat: int
    # Behind a step that is held up, or such a step itself.
    is_held: bool
    tasks: list[WorkTask] = field(default_factory=list)
    after: dict[tuple[str, str], After] = field(default_factory=dict)


class _Drafts:
    """Stints while they are put together; a wait that would close a circle is left out."""

    def __init__(self) -> None:
        self.by_id: dict[str, _Draft] = {}
        self.of_task: dict[str, str] = {}

    def leads_to(self, first: str, last: str) -> bool:
        """Return whether a stint waits, by however many others, for another one."""
        seen, open_ids = set(), [first]
        while open_ids:
            at = open_ids.pop()
            if at == last:
                return True
            if at not in seen:
                seen.add(at)
                open_ids += [after.stint for after in self.by_id[at].after.values()]
        return False

    def wait(self, later: str, before: str, task: WorkTask | None, wait: Wait, why: str = "in order") -> bool:
        if later == before or self.leads_to(before, later):
            return False
        key = (before, task.id if task else "")
        self.by_id[later].after.setdefault(key, After(before, task, wait, why))
        return True


def _family(task: WorkTask, places: Mapping[str, Place]) -> str:
    return places[_place_key(task)].family


def _place_key(task: WorkTask) -> str:
    return task.id.rsplit(":", 1)[0]


def _runs(tasks: Sequence[WorkTask]) -> list[list[WorkTask]]:
    """Return the tasks of one place cut where something has to dry, the stage changes, or a gate begins to hold."""
    runs: list[list[WorkTask]] = []
    for task in tasks:
        last = runs[-1][-1] if runs else None
        stage = STAGE_OF[task.phase]
        waits = any(w.wait.law != "clock" or w.wait.hours for w in task.after)
        is_new = last is None or STAGE_OF[last.phase] != stage or waits or stage in _WETS or bool(last.held_by) != bool(task.held_by)
        if is_new:
            # Nobody climbs to a wall to measure it while the work that the measure is for is held up: it waits with that work.
            small = last is not None and task.held_by and STAGE_OF[last.phase] == stage == "prepare" and not last.held_by
            if not (small and sum(t.hours for t in runs[-1]) < _WITH_HELD_H):
                runs.append([])
        runs[-1].append(task)
    return runs


def stints_of(tasks: Sequence[WorkTask], places: Mapping[str, Place], *, trim_first: bool = False) -> tuple[Stint, ...]:
    """Return the stints of a job, each behind those that it waits for.

    Parameters
    ----------
    tasks : sequence of WorkTask
        Of one job.
    places : mapping of str to Place
        By the part of a task's id before its step: a surface's id, or part and side.
    trim_first : bool
        School 12 of the handbook: doors, windows and trim are coated before the body of their side.

    References
    ----------
    Handbook 2: clear, clean, dry, scrape, sand, caulk, mask, prime; body from the top, then trim, windows and doors; foundation last.
    """
    drafts = _Drafts()
    by_place: dict[str, list[WorkTask]] = {}
    for task in tasks:
        by_place.setdefault(_place_key(task), []).append(task)
    for key, chain in by_place.items():
        numbers: dict[str, int] = {}
        held: set[str] = set()
        for task in chain:
            if task.held_by or any(wait.task in held for wait in task.after):
                held.add(task.id)
        for run in _runs([t for t in chain if t.hours or t.held_by]):
            # What comes after a step that is held up is kept apart: it does not hold up the walls beside it.
            _add(drafts, run, places[key], numbers, is_held=any(t.id in held for t in run))
    _chain_waits(drafts, tasks)
    _side_rules(drafts, places, trim_first)
    return _ordered(drafts)


def _add(drafts: _Drafts, run: Sequence[WorkTask], place: Place, numbers: dict[str, int], *, is_held: bool) -> None:
    """Put a run of steps into the stint of its side, or into one of its own."""
    stage, first = STAGE_OF[run[0].phase], run[0]
    numbers[stage] = number = numbers.get(stage, 0) + 1
    family = ALL if stage in _FOR_A_SIDE else place.family
    # A coat is one wall's: it is tied to that wall's hours.
    own = _place_key(first) if stage in _WETS else ""
    held = "!" if is_held else ""
    name = "|".join((first.side, family, stage, f"{number}{held}", own))
    coat = number if stage == "coat" else 0
    draft = drafts.by_id.setdefault(name, _Draft(name, first.side, family, stage, coat, is_held))
    draft.tasks += run
    drafts.of_task.update({task.id: name for task in run})


def _chain_waits(drafts: _Drafts, tasks: Sequence[WorkTask]) -> None:
    by_id = {task.id: task for task in tasks}
    for task in tasks:
        later = drafts.of_task.get(task.id)
        if later is None:
            continue
        for wait in _through_idle(task.after, by_id, drafts):
            before = drafts.of_task[wait.task]
            drafts.wait(later, before, by_id[wait.task], wait.wait)


def _through_idle(after: Iterable[WaitsFor], by_id: Mapping[str, WorkTask], drafts: _Drafts) -> list[WaitsFor]:
    """Return waits for work: what takes nobody's time (until dry) hands on its wait to the step before it."""
    out = []
    for wait in after:
        if wait.task in drafts.of_task:
            out.append(wait)
            continue
        idle = by_id[wait.task]
        for before in _through_idle(idle.after, by_id, drafts):
            longer = wait.wait if wait.wait.law != "clock" or wait.wait.hours > before.wait.hours else before.wait
            out.append(WaitsFor(before.task, longer))
    return out


def _side_rules(drafts: _Drafts, places: Mapping[str, Place], trim_first: bool) -> None:
    """Add what painters keep to on one side: washed before anything else, dust before paint, top before bottom, body before trim."""
    by_side: dict[str, list[_Draft]] = {}
    for draft in drafts.by_id.values():
        by_side.setdefault(draft.side, []).append(draft)
    for of_side in by_side.values():
        washes = [d for d in of_side if d.stage == "wash"]
        dusty = [d for d in of_side if d.stage == "prepare" and any(t.raises_dust for t in d.tasks) and not d.is_held]
        for draft in of_side:
            if draft.stage not in (*_FOR_A_SIDE, "finish"):
                for wash in washes:
                    drafts.wait(draft.id, wash.id, None, _BEFORE, "the side is washed first")
            if draft.stage in _WETS:
                for before in dusty:
                    drafts.wait(draft.id, before.id, None, _BEFORE, "dust before paint")
        _order_of_coats(drafts, [d for d in of_side if d.stage in _WETS], places, trim_first)


def _order_of_coats(drafts: _Drafts, coats: Sequence[_Draft], places: Mapping[str, Place], trim_first: bool) -> None:
    def top(draft: _Draft) -> bool:
        return places[_place_key(draft.tasks[0])].is_top

    for later in coats:
        for before in coats:
            # What is held up does not hold up the rest of its side: the crew paints round it.
            if later is before or before.is_held:
                continue
            if later.family == before.family == BODY and later.stage == before.stage and later.coat == before.coat:
                if top(before) and not top(later):
                    drafts.wait(later.id, before.id, None, _BEFORE, "top first")
            elif later.family in _RANK and before.family in _RANK and _RANK[before.family] < _RANK[later.family]:
                drafts.wait(later.id, before.id, None, _BEFORE, "nothing wet under work overhead")
            elif before.family == BODY and later.family in _AFTER_BODY and later.stage == "coat" and not trim_first:
                drafts.wait(later.id, before.id, None, _BEFORE, "body first")
            elif trim_first and later.family == BODY and before.family in _AFTER_BODY and later.stage == "coat":
                drafts.wait(later.id, before.id, None, _BEFORE, "trim first")


def _ordered(drafts: _Drafts) -> tuple[Stint, ...]:
    out: dict[str, Stint] = {}
    for draft in drafts.by_id.values():
        _put(draft, drafts, out)
    return tuple(out.values())


def _put(draft: _Draft, drafts: _Drafts, out: dict[str, Stint]) -> None:
    if draft.id in out:
        return
    for after in draft.after.values():
        _put(drafts.by_id[after.stint], drafts, out)
    out[draft.id] = Stint(draft.id, draft.side, draft.family, draft.stage, tuple(draft.tasks), draft.coat, tuple(draft.after.values()))


def left_of(stints: Sequence[Stint], done_frac: Mapping[str, float], over: Iterable[str]) -> tuple[Stint, ...]:
    """Return the stints with what is left of them: without steps that are over, hours of begun ones cut to the rest.

    Parameters
    ----------
    stints : sequence of Stint
    done_frac : mapping of str to float
        Of tasks that are begun, how much of each is done.
    over : iterable of str
        Ids of tasks of which nothing is left.
    """
    gone = set(over)
    rest = []
    for stint in stints:
        tasks = [replace(t, hours=t.hours * (1 - done_frac.get(t.id, 0.0))) for t in stint.tasks if t.id not in gone]
        if tasks:
            rest.append(replace(stint, tasks=tuple(tasks)))
    return tuple(rest)


def tails_h(hours: Mapping[str, float], after: Mapping[str, Sequence[str]]) -> dict[str, float]:
    """Return, by task, the hours of the longest chain that begins with it.

    Parameters
    ----------
    hours : mapping of str to float
        In an order in which each task stands behind those that it waits for.
    after : mapping of str to sequence of str
        What each waits for.
    """
    tail = dict(hours)
    for task in reversed(list(hours)):
        for before in after.get(task, ()):
            if before in tail:
                tail[before] = max(tail[before], hours[before] + tail[task])
    return tail

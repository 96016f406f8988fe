"""Starting work that something speaks against: a shut wall, a gate, a coat before that is not ready. It needs a reason, which stays.

Not here: what else is recorded (record).
"""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from amber_gable.core.planning.state import State, Told
from amber_gable.core.planning.work import WorkTask
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.words import short_name
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.record import Said, enter
from amber_gable.services.log.standing import standing_work
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.store.models import Job


def against_start(scope: Scope, job: Job, tasks: Sequence[WorkTask], at: datetime) -> tuple[str, ...]:
    """Return in words what speaks against beginning some steps at a moment; empty where nothing does, or nobody knows the weather."""
    try:
        ahead = outlooks.outlook(scope, job, outlooks.status(scope, job))
    except PlanError:
        return ()
    standing, own = standing_work(scope, job, ahead), {task.id for task in tasks}
    why: dict[str, None] = {}
    for task in tasks:
        state = standing.states[task.id]
        if state.state is State.HELD:
            why[state.why] = None
        elif state.state is State.TO_DO and state.ready_s is not None and state.ready_s > at.timestamp() and state.waits_for not in own:
            ready = datetime.fromtimestamp(state.ready_s, at.tzinfo).astimezone(ahead.zone)
            why[f"{task.name} is not ready before {ready:%A %H:%M}"] = None
        if task.is_coat:
            why |= dict.fromkeys(_shut(scope, job, ahead, task, at))
    return tuple(why)


def _shut(scope: Scope, job: Job, ahead: Outlook, task: WorkTask, at: datetime) -> list[str]:
    place = task.id.rpartition(":")[0]
    coating = coatings_of(scope, job).get(place)
    turn = next((coat.turn for coat in coating.each if coat.step == task.step), None) if coating else None
    judged = outlooks.of_turn(scope, job, ahead, turn) if turn is not None else ahead
    row, step = judged.row(place), judged.step_at(at)
    if row is None or not 0 <= step < judged.windows.states.shape[1] or judged.windows.states[row, step] != SHUT:
        return []
    broken = dict.fromkeys(short_name(r.rule) for r in judged.windows.reasons(row, step) if r.broken)
    return [f"{task.name} is shut now: {', '.join(broken)}"]


def begin(scope: Scope, job: Job, tasks: Sequence[WorkTask], said: Said) -> str:
    """Record that work was begun; return the entry's id. What spoke against it, and the reason, stay on record.

    Raises
    ------
    FieldErrors
        If something speaks against it and no reason is given.
    NotFoundError
    """
    assert said.told is Told.BEGAN, "only a beginning is asked for its reason"
    why = against_start(scope, job, tasks, said.from_at)
    if why and not said.remark.strip():
        raise FieldErrors({"remark": f"{'; '.join(why)[:1].upper()}{'; '.join(why)[1:]}. Wait, or write why you begin all the same."})
    return enter(scope, job, tasks, replace(said, details={**said.details, "against": list(why)} if why else said.details))

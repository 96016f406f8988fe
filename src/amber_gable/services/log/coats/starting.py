"""Starting work that something speaks against: a shut wall, a gate, a coat before that is not ready. It needs a reason, which stays.

Not here: what else is recorded (record).
"""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from amber_gable.core.planning.state import State, Told
from amber_gable.core.planning.work import WorkTask
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.words import short_name
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.coats.fresh import FreshFilm, fresh_films
from amber_gable.services.log.entries import lines_of, void_in
from amber_gable.services.log.inspection.looking import is_looked_over
from amber_gable.services.log.record import Said, enter
from amber_gable.services.log.standing import standing_work
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.store import queries
from amber_gable.store.models import Job

_READ_LATELY, _LOOKS_BACK = timedelta(hours=3), 10


def against_start(scope: Scope, job: Job, tasks: Sequence[WorkTask], at: datetime) -> tuple[str, ...]:
    """Return in words what speaks against beginning some steps at a moment; empty where nothing does, or nobody knows the weather."""
    try:
        ahead = outlooks.outlook(scope, job, outlooks.status(scope, job))
    except PlanError:
        return ()
    standing, own = standing_work(scope, job, ahead), {task.id for task in tasks}
    why: dict[str, None] = {}
    films = {film.surface.id: film for film in fresh_films(scope, job, ahead)}
    for task in tasks:
        state = standing.states[task.id]
        if state.state is State.HELD:
            why[state.why] = None
        elif state.state is State.TO_DO and state.ready_s is not None and state.ready_s > at.timestamp() and state.waits_for not in own:
            ready = datetime.fromtimestamp(state.ready_s, at.tzinfo).astimezone(ahead.zone)
            why[f"{task.name} is not ready before {ready:%A %H:%M}"] = None
        if task.is_coat:
            why |= dict.fromkeys(_shut(scope, job, ahead, task, at))
            why |= dict.fromkeys(_unseen(scope, job, films.get(task.id.rpartition(":")[0]), task, at))
    return tuple(why)


def _shut(scope: Scope, job: Job, ahead: Outlook, task: WorkTask, at: datetime) -> list[str]:
    place = task.id.rpartition(":")[0]
    coating = coatings_of(scope, job).get(place)
    turn = coating.turn_of(task.step) if coating else None
    judged = outlooks.of_turn(scope, job, ahead, turn) if turn is not None else ahead
    row, step = judged.row(place), judged.step_at(at)
    if row is None or not 0 <= step < judged.windows.states.shape[1] or judged.windows.states[row, step] != SHUT:
        return []
    broken = dict.fromkeys(short_name(r.rule) for r in judged.windows.reasons(row, step) if r.broken)
    return [f"{task.name} is shut now: {', '.join(broken)}"]


def _unseen(scope: Scope, job: Job, film: FreshFilm | None, task: WorkTask, at: datetime) -> list[str]:
    """Return what came upon the film below, where nobody has looked it over since."""
    met = film.met(at) if film is not None and film.task != task.id else None
    if film is None or met is None or is_looked_over(scope, job, film):
        return []
    return [f"{met.kind} at {met.at:%a %H:%M} met the coat below while it was {met.stage}, and nobody has looked it over"]


def weather_then(scope: Scope, job: Job, tasks: Sequence[WorkTask], at: datetime) -> dict[str, Any]:
    """Return the weather of a coat as it was believed and read at a moment: what stands behind the guarantee. Empty where nobody knows it.

    Of several walls it is that of the first. A reading of that wall within the last three hours stands beside it.
    """
    coat = next((task for task in tasks if task.is_coat), None)
    if coat is None:
        return {}
    try:
        ahead = outlooks.outlook(scope, job, outlooks.status(scope, job))
    except PlanError:
        return {}
    place = coat.id.rpartition(":")[0]
    row, step = ahead.row(place), ahead.step_at(at)
    climate = ahead.windows.climate
    if row is None or not 0 <= step < climate.surface_temp_c.shape[1]:
        return {}
    told = {
        "air_temp_c": climate.air_temp_c[step], "rel_humidity_pct": climate.rel_humidity_pct[step], "wind_m_s": climate.wind_m_s[step],
        "surface_temp_c": climate.surface_temp_c[row, step], "dew_margin_c": climate.dew_margin_c[row, step],
    }  # fmt: skip
    with scope.reading() as session:
        readings = queries.readings(session, job.id, _LOOKS_BACK)
    gone = void_in(lines_of(scope, job))
    read = next(
        (r for r in readings if r.id not in gone and r.surface_id == place and timedelta(0) <= at - r.taken_at <= _READ_LATELY), None
    )
    out: dict[str, Any] = {name: round(float(value), 1) for name, value in told.items()}
    out["forecast_issued_at"] = ahead.issued_at.isoformat()
    if read is not None:
        out["reading"] = read.id
    return {"weather": out}


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
    # What was begun without a signal is begun: it is kept with what spoke against it, and without a reason.
    if why and not said.remark.strip() and not scope.waited:
        raise FieldErrors({"remark": f"{'; '.join(why)[:1].upper()}{'; '.join(why)[1:]}. Wait, or write why you begin all the same."})
    return enter(scope, job, tasks, replace(said, details={**said.details, "against": list(why)} if why else said.details))

"""When a piece of work may begin on a day: the hours that its weather, its waits and its painters leave, the rest of the plan as it is.

Not here: putting it there (schedules.put), which also moves what is in its way.
"""

import math
from collections.abc import Iterable, Mapping
from datetime import date, datetime, time

import numpy as np

from amber_gable.core.planning.crew.values import CrewTask
from amber_gable.errors import NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.planning.kept import SavedStint
from amber_gable.services.planning.making.crewplan import asked_of, crew_of, frame_of, running_outlooks
from amber_gable.services.planning.making.laying import Frame
from amber_gable.store.models import Job

_DAY = 96


def permitted_starts(scope: Scope, job: Job, stints: Iterable[SavedStint], stint_id: str, day: date) -> list[tuple[float, float]]:
    """Return the spans of a day in which a piece of work may begin: hours of the first and of the last start.

    Parameters
    ----------
    stints : iterable of SavedStint
        Of the job's plan.
    stint_id : str
        Of the piece.

    Raises
    ------
    NotFoundError
        If it is not in the plan, or nothing is left of it.
    """
    planned = {s.id: s for s in stints}
    frame, there = frame_of(scope.clock.now()), running_outlooks(scope)
    own = planned.get(stint_id)
    task = next((t for t in asked_of(scope, there, frame, ()).given.tasks if t.id == stint_id), None) if own else None
    if own is None or task is None:
        raise NotFoundError("This piece of work is not in the plan (any more).")
    zone = there[0][1].zone
    length = max(1, round((own.ends_at - own.starts_at).total_seconds() / frame.step_s))
    fits = np.concatenate([[0], np.cumsum(~task.may[: frame.count], dtype=np.int64)])
    for painter in crew_of(scope, frame, zone):
        if painter.name in own.painters and painter.works is not None:
            fits = fits + np.concatenate([[0], np.cumsum(~painter.works, dtype=np.int64)])
    midnight = round((datetime.combine(day, time(0), zone).timestamp() - frame.start_s) / frame.step_s)
    first = max(midnight, 0, _ready(task, planned, frame))
    starts = [s for s in range(first, min(midnight + _DAY, frame.count - length)) if fits[s + length] == fits[s]]
    spans: list[tuple[float, float]] = []
    for at in starts:
        hour = (at - midnight) / 4
        if spans and spans[-1][1] == hour - 0.25:
            spans[-1] = (spans[-1][0], hour)
        else:
            spans.append((hour, hour))
    return spans


def _ready(task: CrewTask, planned: Mapping[str, SavedStint], frame: Frame) -> int:
    """Return the step at which all is over that a task waits for, as it is planned."""
    ready = task.release
    for after in task.after:
        before = planned.get(after.task)
        if before is None:
            return frame.count
        end = max(math.ceil((before.ends_at.timestamp() - frame.start_s) / frame.step_s), 0)
        ready = max(ready, end if after.ready_at is None else max(end, int(after.ready_at[min(end, len(after.ready_at) - 1)])))
    return ready

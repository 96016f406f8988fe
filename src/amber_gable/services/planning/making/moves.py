"""What moved from one plan to the next, each move with its reason."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

import numpy as np

from amber_gable.core.planning.crew.values import CrewTask
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.words import short_name
from amber_gable.services.app.scope import Scope
from amber_gable.services.office.fleet import fleet_of
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.making.laying import Frame, Laid
from amber_gable.store.models import Job


@dataclass(frozen=True)
class Was:
    """A piece of work as the plan before had it."""

    id: str
    starts_at: datetime
    ends_at: datetime
    painters: tuple[str, ...]
    tasks: tuple[str, ...]
    coat: int


@dataclass(frozen=True)
class Move:
    """A piece of work that begins at another time than before or is done by others, or has no place any more (`to_at` is None).

    Parameters
    ----------
    painters : tuple of str
        Who does it now, where these are others than before.
    """

    id: str
    from_at: datetime
    to_at: datetime | None
    why: str
    painters: tuple[str, ...] = ()


def moves(
    scope: Scope, job: Job, ahead: Outlook, laid: Laid, frame: Frame, before: Sequence[Was], starts: Mapping[str, datetime],
    recoloured: Collection[str] = (), crews: Mapping[str, tuple[str, ...]] | None = None,
) -> list[Move]:  # fmt: skip
    """Return the work that moved, by the plan before.

    Parameters
    ----------
    starts : mapping of str to datetime
        Of the pieces of the new plan.
    recoloured : collection of str
        Places whose colour is another than it was when the plan before was made.
    crews : mapping of str to tuple of str, optional
        Who does each piece by the new plan; where it is not said, as before.
    """
    tasks, moved = {task.id: task for task in laid.tasks}, set[str]()
    out = []
    for was in before:
        new = starts.get(was.id)
        crew = (crews or {}).get(was.id, was.painters)
        others = crew if set(crew) != set(was.painters) else ()
        stint = laid.stints.get(was.id.rsplit("#", 1)[0])
        if stint is None and not all(i in laid.standing.states for i in was.tasks):
            out.append(Move(was.id, was.starts_at, None, "the system has no such step any more"))
            continue
        if was.id not in laid.pieces or (new == was.starts_at and not others):
            # Done by now, or where it was.
            continue
        assert stint is not None, "a piece is one of its stint"
        if new != was.starts_at:
            moved.add(was.id)
        if stint.held_by:
            out.append(Move(was.id, was.starts_at, None, f"held up: {' and '.join(stint.held_by)}"))
            continue
        task = tasks.get(was.id)
        step = round((was.starts_at.timestamp() - frame.start_s) / frame.step_s)
        waits = [a.task for a in task.after if a.task in moved] if task else []
        if step < 0:
            why = "it was not recorded as done in its time"
        elif off := who_is_away(scope, was.painters, was.starts_at.astimezone(ahead.zone).date()):
            why = f"{off} {'is' if ' and ' not in off else 'are'} off"
        elif was.coat and any(_place(i) in recoloured for i in was.tasks):
            why = "its colour is another now: another colour warms and dries otherwise"
        elif task is not None and not task.may[step : step + 1].all():
            why = _weather(scope, job, ahead, was) or "the weather does not permit it then"
        elif task is not None and (none_left := _not_there(scope, task, was.starts_at, ahead)):
            why = f"the {none_left} is not to be had then"
        elif waits or (task is not None and task.release > step):
            why = "what it waits for is ready later"
        else:
            why = "the crew is at other work then"
        out.append(Move(was.id, was.starts_at, new, why, others))
    return out


def _place(task: str) -> str:
    return task.rsplit(":", 1)[0]


def opened_and_shut(before: Sequence[Mapping[str, Any]], now: Sequence[Mapping[str, Any]]) -> list[str]:
    """Return in words what came into the plan since nothing holds it up any more, and what fell out of it since something does now.

    Parameters
    ----------
    before, now : sequence of mapping
        What had and has no place: "held_by" and "hours" of each.
    """
    was, held = _held_h(before), _held_h(now)
    out = [
        f"{why[:1].upper()}{why[1:]} no longer holds work up: {hours:.1f} h may be planned now"
        for why, hours in was.items()
        if why not in held
    ]
    return out + [f"{why[:1].upper()}{why[1:]} holds {hours:.1f} h up now" for why, hours in held.items() if why not in was]


def _held_h(unplaced: Sequence[Mapping[str, Any]]) -> dict[str, float]:
    out: dict[str, float] = {}
    for row in unplaced:
        for why in row.get("held_by", ()):
            out[why] = out.get(why, 0.0) + float(row.get("hours") or 0.0)
    return out


def who_is_away(scope: Scope, painters: Sequence[str], day: date) -> str:
    """Return who of some painters is off on a day or has left, in words."""
    crew, names = scope.owner.crew, scope.owner.painters
    return " and ".join(name for name in painters if name not in names or (name in crew and crew[name].is_off(day)))


def _not_there(scope: Scope, task: CrewTask, moment: datetime, ahead: Outlook) -> str:
    """Return which machine of a task is not to be had on the day of a moment, in words; empty where all are."""
    fleet = fleet_of(scope)
    day, today = (at.astimezone(ahead.zone).date() for at in (moment, scope.clock.now()))
    taken = [fleet[key.split("@")[0]] for key in task.gear]
    return next((machine.label.lower() for machine in taken if not machine.units_on(day, today, task.job)), "")


def _weather(scope: Scope, job: Job, ahead: Outlook, was: Was) -> str:
    """Return what the newest forecast has against a coat at the hours that it had: "rain on Wednesday"."""
    place = was.tasks[0].rsplit(":", 1)[0] if was.tasks else ""
    if not was.coat or ahead.row(place) is None or was.starts_at.timestamp() > ahead.windows.climate.grid.epoch_s[-1]:
        return ""
    judged = ahead if was.coat == 1 else outlooks.of_turn(scope, job, ahead, "later")
    row = judged.row(place)
    first, last = judged.step_at(was.starts_at), max(judged.step_at(was.ends_at), judged.step_at(was.starts_at) + 1)
    if row is None or not np.any(judged.windows.states[row, first:last] == SHUT):
        return ""
    reasons = judged.windows.reasons(row, first, last)
    local = was.starts_at.astimezone(ahead.zone)
    return f"{short_name(reasons[0].rule)} by the newest forecast for {local:%A}" if reasons else ""

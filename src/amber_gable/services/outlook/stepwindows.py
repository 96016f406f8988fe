"""Windows of steps that are no coat, on a job: washing, stripping, sanding, caulking, masking, filling, putty, render."""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import cast

import numpy as np

from amber_gable.core.knowledge import StepWeather
from amber_gable.core.wall.climate import Observation, simulate
from amber_gable.core.wall.moisture import first_dry
from amber_gable.core.windows.steps import ready_after, step_windows
from amber_gable.errors import NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.systems.coatings import TURNS, Turn, coatings_of
from amber_gable.store.models import Job

COATS: Turn = "coats"


def kinds(scope: Scope, job: Job, ahead: Outlook) -> dict[str, str]:
    """Return what an outlook can be judged for: coats that its surfaces have, in their order, then steps that are none."""
    coatings = coatings_of(scope, job)
    there = {coat.turn for i in ahead.surface_ids for coat in coatings[i].each} | {COATS}
    coats: dict[str, str] = {turn: label for turn, label in TURNS.items() if turn in there}
    return {**coats, **{key: row.label for key, row in scope.knowledge.step_weather.items()}}


def outlook_for(scope: Scope, job: Job, ahead: Outlook, work: str) -> Outlook:
    """Return the outlook judged for another work than first coats; itself for these.

    Raises
    ------
    NotFoundError
    """
    if work == COATS:
        return ahead
    if work in TURNS:
        return outlooks.of_turn(scope, job, ahead, cast(Turn, work))
    if work not in scope.knowledge.step_weather:
        raise NotFoundError("There are no windows of such work.")
    step, rules = scope.knowledge.step_weather[work], outlooks.rules_for(scope, job, by_hand=True)
    key = (*ahead.key, work, step, rules)

    def judge() -> Outlook:
        windows = step_windows(ahead.windows.climate, step, rules)
        return replace(ahead, key=key, windows=replace(windows, products=ahead.windows.products))

    return scope.cached(key, judge)


@dataclass(frozen=True)
class StepCard:
    """A step at an hour: what it is, and when what follows may go on.

    Parameters
    ----------
    ready_at : datetime or None
        By its own drying; None beyond the forecast.
    face_dry_at, sound_at : datetime or None
        After a wash: when the face is dry, and when what lies under it may be painted by its meter.
    """

    step: StepWeather
    ready_at: datetime | None
    face_dry_at: datetime | None = None
    sound_at: datetime | None = None


def step_card(scope: Scope, job: Job, ahead: Outlook, surface_id: str, work: str, step: int) -> StepCard:
    """Return what a step done at an hour comes to on one surface."""
    row = ahead.row(surface_id)
    if row is None:
        raise NotFoundError("This surface is not painted (any more).")
    weather = scope.knowledge.step_weather[work]
    ready = ready_after(ahead.windows.climate.of_surfaces([row]), weather)[0, step]
    at = None if np.isinf(ready) else ahead.local(int(np.ceil(ready)))
    if work != "wash":
        return StepCard(weather, at)
    return StepCard(weather, at, *_washed(scope, ahead, row, step))


def _washed(scope: Scope, ahead: Outlook, row: int, step: int) -> tuple[datetime | None, datetime | None]:
    """Return when a surface washed at an hour is dry on its face, and when what lies under it may be painted."""
    surface = ahead.surfaces[row]
    stock = surface.stock
    observations = Observation(0, ahead.local(step).timestamp(), scope.knowledge.limits.palm_wet_mm, stock.washed_pct if stock else None)
    climate = simulate(ahead.place, ahead.weather, [surface], observations=[observations])
    dry = np.flatnonzero(~climate.wet[0, step:])
    face = ahead.local(step + int(dry[0])) if len(dry) else None
    if stock is None or climate.moisture_pct is None:
        return face, face
    sound = first_dry(climate.moisture_pct[0], stock.max_pct, step)
    return face, None if sound is None else ahead.local(sound)

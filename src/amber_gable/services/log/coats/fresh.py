"""Films that are still fresh: how far each coat on record has come, and what the weather may yet do to it.

Not here: how a film dries (core.coat), what is said of it and to whom (alarms).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

import numpy as np

from amber_gable.core.coat.after_coat import after_coat
from amber_gable.core.knowledge import Phase
from amber_gable.core.planning.state import OnRecord
from amber_gable.core.windows import SHUT
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.coats.running import put_on_until
from amber_gable.services.log.record import recorded
from amber_gable.services.log.standing import UNSEEN_PACE
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store.models import Job, Surface

FilmStage = Literal["young", "tender", "ready"]
HarmKind = Literal["rain", "dew", "frost"]
# Longer ago no film is young any more.
_FRESH = timedelta(days=5)
_LABEL_HOURS = ("touch_h", "rain_free_h", "recoat_h", "cure_h")
_WET_AFTER_RAIN = timedelta(hours=4)


@dataclass(frozen=True)
class Harm:
    """What comes upon a film, or came: rain or dew, when, and whether it is young then or tender; the chance where it is only likely."""

    kind: HarmKind
    at: datetime
    stage: FilmStage
    chance_pct: float | None = None


@dataclass(frozen=True)
class FreshFilm:
    """A coat that is on and not yet rain-ready, or was a moment ago.

    Parameters
    ----------
    surface : Surface
    task : str
        Id of the coat's task.
    label : str
        "First coat: ..."
    ended_at : datetime
        Of its last stroke; for a coat under way, now.
    stage : FilmStage
    tender_at, ready_at, dry_at : datetime or None
        When it is young no longer, rain-ready, dry enough to inspect and recoat; None beyond the forecast.
    harms : tuple of Harm
        That come before it is ready, or came, the first of each kind.
    """

    surface: Surface
    task: str
    label: str
    ended_at: datetime
    stage: FilmStage
    tender_at: datetime | None
    ready_at: datetime | None
    dry_at: datetime | None
    harms: tuple[Harm, ...]
    is_under_way: bool = False
    # Of a coat under way: when its wall shuts for it; None where it does not within the forecast.
    last_stroke_at: datetime | None = None

    def met(self, now: datetime) -> Harm | None:
        """Return what came upon it while it could not bear it; None where nothing did."""
        return next((harm for harm in self.harms if harm.chance_pct is None and harm.at <= now), None)


def fresh_films(scope: Scope, job: Job, ahead: Outlook) -> list[FreshFilm]:
    """Return the newest coat of each surface that was put on in the last days, by the record, with what becomes of it."""
    record, now, coatings = recorded(scope, job), scope.clock.now(), coatings_of(scope, job)
    surfaces = {s.id: s for e in job.building.elevations for s in e.surfaces if s.is_painted}
    newest: dict[str, tuple[str, str, str, OnRecord]] = {}
    for task in tasks_of(scope, job):
        place = task.id.rpartition(":")[0]
        told = record.get(task.id)
        if place in surfaces and task.is_coat and task.phase is not Phase.INSPECT and told is not None and told.began_s is not None:
            newest[place] = (task.id, task.step, task.label, told)
    out = []
    for place, (task_id, step, label, told) in newest.items():
        is_under_way, ended = put_on_until(scope, job, task_id, told, now)
        turn = coatings[place].turn_of(step)
        if ended < now - _FRESH or turn is None:
            continue
        judged = outlooks.of_turn(scope, job, ahead, turn)
        if judged.row(place) is not None:
            judged = outlooks.reaching_back(scope, job, judged, place, ended)
            row = judged.surface_ids.index(place)
            out.append(_film(judged, row, surfaces[place], (task_id, label), ended, now, is_under_way=is_under_way))
    return out


def _film(
    ahead: Outlook, row: int, surface: Surface, coat: tuple[str, str], ended: datetime, now: datetime, *, is_under_way: bool
) -> FreshFilm:  # fmt: skip
    climate, product = ahead.windows.climate, ahead.windows.products[row]
    last = climate.surface_temp_c.shape[1] - 1
    unseen_h = max(float(climate.grid.epoch_s[0]) - ended.timestamp(), 0.0) / 3600 * UNSEEN_PACE
    if unseen_h:
        # Nothing so old was observed: what dried meanwhile is taken at half of its best pace.
        product = product.model_copy(update={name: max(getattr(product, name) - unseen_h, 0.01) for name in _LABEL_HOURS})
    start, here = (min(max(ahead.step_at(at), 0), last) for at in (ended, now))
    after = after_coat(climate, row, product, start, ahead.rules[row].young_share)
    at = {stage.name: None if stage.at is None else ahead.local(int(np.ceil(stage.at))) for stage in after.stages}
    tender, ready, dry = at["tender"], at["rain-ready"], at["recoat"]
    stage: FilmStage = "young" if tender is None or tender > now else "tender" if ready is None or ready > now else "ready"
    kinds: dict[str, HarmKind] = {"rained-on": "rain", "dewed-on": "dew", "frozen": "frost"}
    harms = [
        Harm(kinds[d.kind], ahead.local(d.at), "tender" if d.is_tender else "young")
        for d in after.damages
        if d.kind in kinds
    ]  # fmt: skip
    # A wall is wet for a while after rain: that is no dew besides.
    rain = next((h.at for h in harms if h.kind == "rain"), None)
    harms = [h for h in harms if h.kind != "dew" or rain is None or not rain <= h.at <= rain + _WET_AFTER_RAIN]
    if tender is not None and not any(h.kind == "rain" for h in harms):
        harms += _likely(ahead, row, here, min(ahead.step_at(tender), last))
    shut = np.flatnonzero(ahead.windows.states[row, here + 1 :] == SHUT)
    last_stroke = ahead.local(here + 1 + int(shut[0])) if is_under_way and len(shut) else None
    ordered = tuple(sorted(harms, key=lambda h: h.at))
    return FreshFilm(surface, *coat, ended, stage, tender, ready, dry, ordered, is_under_way, last_stroke)


def _likely(ahead: Outlook, row: int, first: int, last: int) -> Sequence[Harm]:
    """Return rain that is likely enough while a film is young, though the forecast gives no amount of it."""
    chances = ahead.windows.climate.rain_probability_pct[first:last]
    over = np.flatnonzero(chances >= ahead.rules[row].max_rain_probability_pct)
    return [Harm("rain", ahead.local(first + int(over[0])), "young", float(chances[over[0]]))] if len(over) else []

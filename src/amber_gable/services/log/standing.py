"""Where the work of a job stands: the state of each step, from the record and from the weather that its coats really met."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import Kind, drying_rate, progress_h, ready_index
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.planning.state import State, TaskState, states_of
from amber_gable.core.planning.work import WaitsFor, WorkTask
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.record import recorded
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store.models import Job

# Laws by which a wait runs with the weather, and what dries like it.
_BY_WEATHER: dict[str, Kind] = {
    "drying": "waterborne",
    "cure": "alkyd",
    "putty-skin": "alkyd",
    "label": "waterborne",
    "wetness": "waterborne",
}
# Before the hours that are known, drying is taken to run at half of its best pace.
UNSEEN_PACE = 0.5


@dataclass(frozen=True)
class Standing:
    """State of all work of a job.

    Parameters
    ----------
    tasks : tuple of WorkTask
    states : dict of str to TaskState
    """

    tasks: tuple[WorkTask, ...]
    states: dict[str, TaskState]

    @property
    def hours(self) -> float:
        return sum(task.hours for task in self.tasks)

    @property
    def hours_done(self) -> float:
        return sum(t.hours * (1.0 if self.states[t.id].state.is_over else self.states[t.id].done_frac) for t in self.tasks)

    def of(self, *states: State) -> list[WorkTask]:
        """Return the tasks in some states."""
        return [task for task in self.tasks if self.states[task.id].state in states]


def waits_h(task: WorkTask, wait: WaitsFor, knowledge: Knowledge) -> tuple[float, Kind | None]:
    """Return how many hours of good drying a wait takes, and what dries like it; None where it goes by the clock."""
    law, hours = wait.wait.law, wait.wait.hours
    if law == "label":
        product = knowledge.products.get(task.product)
        return max(hours, product.recoat_h if product else 0.0), product.kind if product else "waterborne"
    if law == "wetness":
        return hours or knowledge.step_weather["wash"].wait.hours, "waterborne"
    if law in _BY_WEATHER:
        return hours or knowledge.waits[law].usual_h, _BY_WEATHER[law]
    return hours or knowledge.waits[law].usual_h, None


def ready_by(
    ahead: Outlook | None, row_of: Callable[[str], int | None], knowledge: Knowledge
) -> Callable[[WorkTask, WaitsFor, float], float]:
    """Return the law by which waits of work that is done are over: at the weather that it met and will meet.

    Parameters
    ----------
    ahead : Outlook or None
        Without one, all goes by the clock.
    row_of : callable
        Row of the outlook that stands for a task's place.
    """

    progress: dict[tuple[int, Kind], Array] = {}

    def ready_s(task: WorkTask, wait: WaitsFor, end_s: float) -> float:
        hours, kind = waits_h(task, wait, knowledge)
        row = row_of(task.id.rsplit(":", 1)[0]) if ahead is not None else None
        if wait.wait.law == "moisture" and row is not None and ahead is not None and (sound := sound_index(ahead, row)) is not None:
            grid = ahead.windows.climate.grid
            ended = min(max(math.ceil((end_s - float(grid.epoch_s[0])) / grid.step_s - 1e-6), 0), len(sound) - 1)
            met_s = float(grid.epoch_s[0]) + float(sound[ended]) * grid.step_s
            return max(met_s, end_s + wait.wait.hours * 3600)
        if kind is None or row is None or ahead is None or not hours:
            return end_s + hours * 3600
        climate = ahead.windows.climate
        grid = climate.grid
        unseen_h = max(float(grid.epoch_s[0]) - end_s, 0.0) / 3600 * UNSEEN_PACE
        if unseen_h >= hours:
            return end_s + hours / UNSEEN_PACE * 3600
        if (row, kind) not in progress:
            rate = drying_rate(kind, climate.surface_temp_c[row : row + 1], climate.vapour_pa, climate.wind_m_s)
            progress[row, kind] = progress_h(rate, grid.step_s)
        ready = ready_index(progress[row, kind], hours - unseen_h)[0]
        at = (max(end_s, float(grid.epoch_s[0])) - float(grid.epoch_s[0])) / grid.step_s
        found = float(np.interp(at, np.arange(len(ready)), np.where(np.isinf(ready), np.nan, ready)))
        # Beyond the forecast nobody knows: not ready within it.
        return math.inf if math.isnan(found) else float(grid.epoch_s[0]) + found * grid.step_s

    return ready_s


def sound_index(ahead: Outlook, row: int) -> Array | None:
    """Return by instant the next at which what lies under the film is dry enough, shape (Q,), inf beyond; None of what soaks up nothing."""
    climate = ahead.windows.climate
    if climate.moisture_pct is None or climate.moisture_max_pct is None or np.isnan(climate.moisture_pct[row]).any():
        return None
    count = climate.moisture_pct.shape[1]
    fit = np.where(climate.moisture_pct[row] <= climate.moisture_max_pct[row], np.arange(count), np.inf)
    result: Array = np.minimum.accumulate(fit[::-1])[::-1]
    return result


def rows_by_place(job: Job, ahead: Outlook) -> Callable[[str], int | None]:
    """Return the row of an outlook that stands for a place: its own, or that of the largest wall of its side."""
    by_side = {e.id: next((r for s in e.surfaces if (r := ahead.row(s.id)) is not None), None) for e in job.building.elevations}

    def row_of(place: str) -> int | None:
        own = ahead.row(place)
        return own if own is not None else by_side.get(place.partition("@")[2])

    return row_of


def standing_work(scope: Scope, job: Job, ahead: Outlook | None) -> Standing:
    """Return the state of every step of a job now."""
    tasks, record, now = tasks_of(scope, job), recorded(scope, job), scope.clock.now()
    row_of = (lambda place: None) if ahead is None else rows_by_place(job, ahead)
    return Standing(tasks, states_of(tasks, record, now.timestamp(), ready_by(ahead, row_of, scope.knowledge)))

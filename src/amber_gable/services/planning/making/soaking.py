"""Walls that the plan washes: when each may be painted, by the moisture under its film, whenever the wash ends.

Not here: walls that the record says were washed (their windows know), or how long a face is left to dry (laying).
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.knowledge import Knowledge, Phase
from amber_gable.core.planning.crew.values import AfterTask
from amber_gable.core.planning.stints import Stint
from amber_gable.core.planning.work import WorkTask
from amber_gable.core.wall.moisture import paintable_after_wash
from amber_gable.core.wall.wetness import rain_on_surfaces_mm_h
from amber_gable.services.outlook.outlook import Outlook

_WHY = "what lies under the film is dry"


@dataclass
class Soaking:
    """When walls may be painted that are washed in the plan.

    Parameters
    ----------
    outlook : Outlook
        As far as the plan goes.
    knowledge : Knowledge
    framed : callable
        Instants on the grid of the weather, by the instant a wash ended at, as steps of the plan.
    """

    outlook: Outlook
    knowledge: Knowledge
    framed: Callable[[Array], NDArray[np.int32]]
    _by_row: dict[int, NDArray[np.int32]] = field(default_factory=dict)

    def waits(self, stint: Stint, rest: Iterable[Stint], last_piece: Mapping[str, str]) -> list[AfterTask]:
        """Return what a coat waits for: each wash still to come of a wall it goes on.

        Parameters
        ----------
        rest : iterable of Stint
            What is left of the job.
        last_piece : mapping of str to str
            By the id of a stint, the task that ends it.
        """
        if not stint.wets:
            return []
        places = {place_of(task) for task in stint.tasks if task.is_coat}
        found: dict[str, NDArray[np.int32]] = {}
        for before in rest:
            soaked = {place_of(task) for task in before.tasks if self._soaks(task)} & places
            for place in soaked:
                table = self._table(place)
                if table is not None and before.id in last_piece:
                    old = found.get(before.id)
                    found[before.id] = table if old is None else np.maximum(old, table)
        return [AfterTask(last_piece[i], table, _WHY) for i, table in found.items()]

    def _soaks(self, task: WorkTask) -> bool:
        step = self.knowledge.systems.steps.get(task.step)
        return step is not None and step.wets and step.phase is Phase.CLEAN

    def _table(self, place: str) -> NDArray[np.int32] | None:
        row = self.outlook.row(place)
        climate = self.outlook.windows.climate
        surface = None if row is None else self.outlook.surfaces[row]
        if row is None or surface is None or surface.stock is None or climate.moisture_pct is None:
            return None
        if row not in self._by_row:
            falls = rain_on_surfaces_mm_h(
                climate.rain_mm_h, climate.wind_m_s, climate.wind_from_deg, np.array([surface.azimuth_deg]), np.array([surface.tilt_deg])
            )
            most = min(surface.stock.max_pct, self.outlook.windows.products[row].max_moisture_pct)
            ready = paintable_after_wash(
                surface.stock, climate.moisture_pct[row], climate.surface_temp_c[row], climate.vapour_pa, climate.wind_m_s,
                climate.water_kg_m2[row], falls[0] / 3600, climate.grid.step_s, most,
            )  # fmt: skip
            self._by_row[row] = self.framed(ready)
        return self._by_row[row]


def place_of(task: WorkTask) -> str:
    """Return the surface, or the pieces of a side, that a task is done at."""
    return task.id.rsplit(":", 1)[0]

"""Coats as tasks: from windows, areas and rates to what the scheduler places.

Joins windows (when), take-off (how much) and the order of work (handbook 2: top to bottom, doors
after the body, foundation last) into tasks.
Not here: how tasks are placed (schedule).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air import Array
from amber_gable.core.drying import drying_rate, progress_h, ready_index
from amber_gable.core.geometry import SurfaceKind
from amber_gable.core.schedule import After, Task
from amber_gable.core.windows import TIGHT, Windows
from amber_gable.core.windows.starts import permitted

# Roof and chimney drip on what is below; what is trodden on and the foundation come last.
_RANK: dict[SurfaceKind, int] = {
    "roof": -1, "chimney": -1, "gable": 0, "soffit": 0, "wall": 1, "door": 2, "railing": 2, "steps": 3, "deck": 3, "plinth": 4,
}  # fmt: skip
# Set-up for the smallest piece: nothing is painted in less (our assumption).
_SHORTEST_STEPS = 2


@dataclass(frozen=True)
class Piece:
    """A surface to be coated.

    Parameters
    ----------
    id : str
    group : str
        Its elevation.
    kind : SurfaceKind
    area_m2 : float
        Net area.
    """

    id: str
    group: str
    kind: SurfaceKind
    area_m2: float


@dataclass(frozen=True)
class Pace:
    """How fast this crew works: m2 per painter-hour for the first and later coats."""

    first_m2_per_h: float
    next_m2_per_h: float
    painters: int

    def steps(self, area_m2: float, coat: int, step_s: float) -> int:
        rate = self.first_m2_per_h if coat == 1 else self.next_m2_per_h
        hours = area_m2 / (rate * self.painters)
        return max(_SHORTEST_STEPS, int(np.ceil(hours * 3600 / step_s - 1e-9)))


def coat_id(piece: str, coat: int) -> str:
    return f"{piece}:{coat}"


def recoat_steps(windows: Windows) -> Array:
    """Return, for a last stroke at each instant, the instant a next coat may follow, shape (S, Q)."""
    climate = windows.climate
    rate = drying_rate(windows.product.kind, climate.surface_temp_c, climate.vapour_pa, climate.wind_m_s)
    return ready_index(progress_h(rate, climate.grid.step_s), windows.product.recoat_h)


def _mean_ahead(values: Array, steps: int) -> Array:
    total = np.concatenate([[0.0], np.cumsum(values)])
    end = np.minimum(np.arange(len(values)) + steps, len(values))
    start = np.arange(len(values))
    result: Array = (total[end] - total[start]) / np.maximum(end - start, 1)
    return result


def tasks_for(
    windows: Windows,
    pieces: Sequence[Piece],
    coats: int,
    pace: Pace,
    working: NDArray[np.bool_],
) -> list[Task]:
    """Return one task for each coat of each piece.

    Parameters
    ----------
    windows : Windows
        States of the same S surfaces as `pieces`, in the same order.
    pieces : sequence of Piece, length S
    coats : int
    pace : Pace
    working : ndarray of bool, shape (Q,)
        Quarter-hours in which the crew works at all.
    """
    count = windows.states.shape[1]
    step_s = windows.climate.grid.step_s
    recoat = recoat_steps(windows)
    off_work = np.where(working, windows.states, 0).astype(np.int8)
    tasks: list[Task] = []
    for row, piece in enumerate(pieces):
        tight = (windows.states[row] == TIGHT).astype(float)
        unease = 0.5 * tight + 0.5 * windows.climate.direct_sun[row]
        for coat in range(1, coats + 1):
            steps = pace.steps(piece.area_m2, coat, step_s)
            after: list[After] = []
            if coat > 1:
                ended = np.minimum(np.arange(count) + pace.steps(piece.area_m2, coat - 1, step_s), count - 1)
                ready = np.ceil(np.nan_to_num(recoat[row][ended], posinf=count)).astype(np.int64)
                after.append(After(coat_id(piece.id, coat - 1), ready, "recoat"))
            for other in pieces:
                if other.group != piece.group:
                    continue
                if piece.kind == "wall" and other.kind == "gable":
                    # Drips run down: each coat goes on from the top (handbook 2).
                    body = pace.steps(other.area_m2, coat, step_s)
                    after.append(After(coat_id(other.id, coat), np.arange(count) + body, "top first"))
                elif coat == 1 and piece.kind in ("door", "plinth") and other.kind in ("wall", "gable"):
                    # Trim, doors and foundation come after the body of their side (handbook 2).
                    body = pace.steps(other.area_m2, coats, step_s)
                    after.append(After(coat_id(other.id, coats), np.arange(count) + body, "body first"))
            tasks.append(
                Task(
                    id=coat_id(piece.id, coat),
                    group=piece.group,
                    rank=_RANK[piece.kind],
                    duration_steps=steps,
                    allowed=permitted(off_work[row][None, :], steps)[0],
                    unease=_mean_ahead(unease, steps),
                    after=tuple(after),
                )
            )
    return tasks

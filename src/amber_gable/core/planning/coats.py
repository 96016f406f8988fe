"""Coats as tasks: from windows, areas and rates to what the scheduler places.

Joins windows (when), take-off (how much) and the order of work (handbook 2: top to bottom, doors
after the body, foundation last) into tasks.
Not here: how tasks are placed (schedule).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import drying_rate, progress_h, ready_index
from amber_gable.core.geometry import SurfaceKind
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.planning.schedule import After, Task
from amber_gable.core.windows import TIGHT, Windows
from amber_gable.core.windows.starts import permitted

# Roof and chimney drip on what is below; what is trodden on and the foundation come last.
_RANK: dict[SurfaceKind, int] = {
    "roof": -1, "chimney": -1, "gable": 0, "soffit": 0, "wall": 1, "door": 2, "railing": 2, "steps": 3, "deck": 3, "plinth": 4,
}  # fmt: skip
_SHORTEST_STEPS = int(assumed("shortest_quarters"))


@dataclass(frozen=True)
class CoatPiece:
    """A surface to be coated.

    Parameters
    ----------
    id : str
    group : str
        Its elevation.
    kind : SurfaceKind
    area_m2 : float
        Net area.
    coats : int
    is_held : bool
        A gate or a test patch keeps its work from starting.
    hours : tuple of float
        Painter-hours of each coat where they are known; empty to go by area and pace.
    """

    id: str
    group: str
    kind: SurfaceKind
    area_m2: float
    coats: int = 2
    is_held: bool = False
    hours: tuple[float, ...] = ()


@dataclass(frozen=True)
class Pace:
    """Pace of a crew: m2 per painter-hour for the first and later coats."""

    first_m2_per_h: float
    next_m2_per_h: float
    painters: int

    def steps(self, area_m2: float, coat: int, step_s: float) -> int:
        rate = self.first_m2_per_h if coat == 1 else self.next_m2_per_h
        hours = area_m2 / (rate * self.painters)
        return max(_SHORTEST_STEPS, int(np.ceil(hours * 3600 / step_s - 1e-9)))


def steps_of(piece: CoatPiece, coat: int, pace: Pace, step_s: float) -> int:
    """Return how many quarter-hours the crew needs for a coat of a piece.

    Parameters
    ----------
    coat : int
        From 1.
    pace : Pace
        For coats whose hours are not known.
    step_s : float
        Of the grid [s].
    """
    if coat > len(piece.hours):
        return pace.steps(piece.area_m2, coat, step_s)
    return max(_SHORTEST_STEPS, int(np.ceil(piece.hours[coat - 1] / pace.painters * 3600 / step_s - 1e-9)))


def coat_id(piece: str, coat: int) -> str:
    """Return the name of a coat of a piece of work in a plan; coats count from 1."""
    return f"{piece}:{coat}"


def recoat_steps(windows: Windows) -> Array:
    """Return, for a last stroke at each instant, the instant a next coat may follow, shape (S, Q)."""
    climate = windows.climate
    ready: Array = np.empty(climate.surface_temp_c.shape)
    for product in dict.fromkeys(windows.products):
        rows = [i for i, p in enumerate(windows.products) if p == product]
        rate = drying_rate(product.kind, climate.surface_temp_c[rows], climate.vapour_pa, climate.wind_m_s)
        ready[rows] = ready_index(progress_h(rate, climate.grid.step_s), product.recoat_h)
    return ready


def _mean_ahead(values: Array, steps: int) -> Array:
    total = np.concatenate([[0.0], np.cumsum(values)])
    end = np.minimum(np.arange(len(values)) + steps, len(values))
    start = np.arange(len(values))
    result: Array = (total[end] - total[start]) / np.maximum(end - start, 1)
    return result


def tasks_for(
    windows: Windows,
    pieces: Sequence[CoatPiece],
    pace: Pace,
    working: NDArray[np.bool_],
    trim_first: bool = False,
    later: Windows | None = None,
) -> list[Task]:
    """Return one task for each coat of each piece.

    Parameters
    ----------
    windows : Windows
        States of the same S surfaces as `pieces`, in the same order: of their first coats.
    pieces : sequence of CoatPiece, length S
    pace : Pace
    working : ndarray of bool, shape (Q,)
        Quarter-hours in which the crew works at all.
    trim_first : bool
        School 12 of the handbook: doors and trim do not wait for the body of their side.
    later : Windows, optional
        Of the coats after the first, which go on a wall in its new colour; the same where it is absent.
    """
    judged = (windows, later or windows)
    count = windows.states.shape[1]
    step_s = windows.climate.grid.step_s
    recoat = [recoat_steps(of) for of in judged]
    off_work = [np.where(working, of.states, 0).astype(np.int8) for of in judged]
    follow = ("plinth",) if trim_first else ("door", "plinth")
    tasks: list[Task] = []
    for row, piece in enumerate(pieces):
        for coat in range(1, piece.coats + 1):
            turn = min(coat, 2) - 1
            unease = 0.5 * (judged[turn].states[row] == TIGHT) + 0.5 * judged[turn].climate.direct_sun[row]
            steps = steps_of(piece, coat, pace, step_s)
            after: list[After] = []
            if coat > 1:
                ended = np.minimum(np.arange(count) + steps_of(piece, coat - 1, pace, step_s), count - 1)
                ready = np.ceil(np.nan_to_num(recoat[min(coat - 1, 2) - 1][row][ended], posinf=count)).astype(np.int64)
                after.append(After(coat_id(piece.id, coat - 1), ready, "recoat"))
            for other in pieces:
                if other.group != piece.group:
                    continue
                if piece.kind == "wall" and other.kind == "gable":
                    # Drips run down: each coat goes on from the top (handbook 2).
                    above = min(coat, other.coats)
                    body = steps_of(other, above, pace, step_s)
                    after.append(After(coat_id(other.id, above), np.arange(count) + body, "top first"))
                elif coat == 1 and piece.kind in follow and other.kind in ("wall", "gable"):
                    # Trim, doors and foundation come after the body of their side (handbook 2).
                    body = steps_of(other, other.coats, pace, step_s)
                    after.append(After(coat_id(other.id, other.coats), np.arange(count) + body, "body first"))
            tasks.append(
                Task(
                    id=coat_id(piece.id, coat),
                    group=piece.group,
                    rank=_RANK[piece.kind],
                    duration_steps=steps,
                    allowed=permitted(off_work[turn][row][None, :], steps)[0],
                    unease=_mean_ahead(unease, steps),
                    after=tuple(after),
                    is_held=piece.is_held,
                )
            )
    return tasks

"""Zones: what of a house is painted alike, and how colours for a zone are tried on boards.

Not here: whether a colour is approved (samples), or what its change asks of primer and coats (colour_change).
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.errors import FieldErrors

# By the kind of a part (handbook 2.2: part by part).
ZONES = {
    "wall": "Body", "gable": "Body", "plinth": "Foundation", "chimney": "Chimney", "soffit": "Trim", "trim": "Trim", "window": "Windows",
    "shutter": "Shutters", "door": "Doors", "garage-door": "Garage doors", "roof": "Roof",
    "deck": "Deck", "steps": "Deck", "railing": "Railing",
}  # fmt: skip

# Boards of three to four colours (handbook 2.2); so large that the texture and the light on it are judged, not the tint alone
# (2 ft, our assumption), with both coats on.
FEWEST, MOST = 3, 4
BOARD_M = assumed("board_m")
BOARD_COATS = 2

LookKind = Literal["early in its sun", "late in its sun", "in its shade"]


@dataclass(frozen=True)
class LookAt:
    """An instant at which a wall is worth a look, and in what light."""

    step: int
    light: LookKind


def looks(direct_sun: NDArray[np.bool_], is_light: NDArray[np.bool_]) -> list[LookAt]:
    """Return when a wall is worth a look on one day: early and late in its sun, and in its shade.

    Parameters
    ----------
    direct_sun : ndarray of bool, shape (Q,)
        Whether the sun is on it.
    is_light : ndarray of bool, shape (Q,)
        Whether the day is bright enough to judge by.
    """
    lit, shaded = np.flatnonzero(direct_sun & is_light), np.flatnonzero(~direct_sun & is_light)
    places = []
    if len(lit):
        sixth = len(lit) // 6
        places.append(LookAt(int(lit[sixth]), "early in its sun"))
        # Under two hours of sun are one light.
        if len(lit) > 8:
            places.append(LookAt(int(lit[-1 - sixth]), "late in its sun"))
    if len(shaded):
        places.append(LookAt(int(shaded[len(shaded) // 2]), "in its shade"))
    return sorted(places, key=lambda look: look.step)


@dataclass(frozen=True)
class BoardPlan:
    """Boards to make for a choice of colours.

    Parameters
    ----------
    boards : int
        One for each candidate and wall, so that they hang side by side.
    litres_each : float
        Of each candidate, all its boards and coats.
    too_few, too_many : bool
        Against three to four.
    """

    boards: int
    litres_each: float
    too_few: bool
    too_many: bool


def board_plan(candidates: int, walls: int, spread_m2_per_l: float) -> BoardPlan:
    """Return the boards for a number of candidates on a number of walls.

    Parameters
    ----------
    candidates, walls : int
        Colours, and sides they are looked at on.
    spread_m2_per_l : float
        Of the finish [m2/L].

    Raises
    ------
    FieldErrors
        If the spread rate is not above 0.
    """
    if spread_m2_per_l <= 0:
        raise FieldErrors({"spread_m2_per_l": "The spread rate must be above 0."})
    litres = walls * BOARD_M**2 * BOARD_COATS / spread_m2_per_l
    return BoardPlan(candidates * walls, litres, candidates < FEWEST, candidates > MOST)

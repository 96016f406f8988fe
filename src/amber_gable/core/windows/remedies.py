"""Remedies: what would make a shut or tight hour better, each tried by judging the hour again.

Nothing is guessed: a remedy is named only where the engine, asked again with that one thing changed, gives a better state.
Not here: which products or ways are at hand (services).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from amber_gable.core.knowledge import Product
from amber_gable.core.wall.climate import Climate
from amber_gable.core.windows.check import HouseRules
from amber_gable.core.windows.states import find_windows

Kind = Literal["product", "method", "access", "rule", "towel", "wall", "wait"]


@dataclass(frozen=True)
class Trial:
    """One thing changed: another product, other rules, or the surface towelled dry.

    Parameters
    ----------
    kind : str
    label : str
        As one would say it: "Rivermark Cold Coat instead".
    school : int or None
        Of handbook 11, where it is a house rule that changes.
    """

    kind: Kind
    label: str
    product: Product | None = None
    rules: HouseRules | None = None
    is_towelled: bool = False
    school: int | None = None


@dataclass(frozen=True)
class Remedy:
    """A trial that helps, and the state it gives."""

    trial: Trial
    state: int


def _towelled(climate: Climate, row: int, step: int) -> Climate:
    """Return the climate with one surface dry from a moment until it would be wet anew."""
    water, wet = climate.water_kg_m2.copy(), climate.wet.copy()
    dry = np.flatnonzero(~wet[row, step:])
    until = step + int(dry[0]) if len(dry) else wet.shape[1]
    water[row, step:until], wet[row, step:until] = 0.0, False
    return replace(climate, water_kg_m2=water, wet=wet)


def state_of(climate: Climate, product: Product, rules: HouseRules, step: int) -> int:
    """Return the state of the one surface of a climate at a moment.

    Parameters
    ----------
    climate : Climate
        Of one surface, S = 1.
    step : int
        Into its grid, 0 to Q - 1.
    """
    return int(find_windows(climate, product, rules).states[0, step])


def remedies(climate: Climate, row: int, step: int, product: Product, rules: HouseRules, trials: Sequence[Trial]) -> list[Remedy]:
    """Return the trials that make an hour better, the best first, each kind once.

    Parameters
    ----------
    climate : Climate
        Of all surfaces.
    row, step : int
    product, rules
        As it is judged now.
    trials : sequence of Trial
        In the order one would try them.
    """
    alone = climate.of_surfaces([row])
    now = state_of(alone, product, rules, step)
    best: dict[Kind, Remedy] = {}
    for trial in trials:
        on = _towelled(alone, 0, step) if trial.is_towelled else alone
        state = state_of(on, trial.product or product, trial.rules or rules, step)
        if state > now and (trial.kind not in best or state > best[trial.kind].state):
            best[trial.kind] = Remedy(trial, state)
    return sorted(best.values(), key=lambda r: -r.state)


def better_rows(states: np.ndarray, row: int, step: int) -> list[int]:
    """Return other surfaces that stand better at a moment, the best first.

    Parameters
    ----------
    states : ndarray of int8, shape (S, Q)
    row : int
        The surface that stands badly.
    step : int
        Quarter-hour.
    """
    better = np.flatnonzero(states[:, step] > states[row, step])
    return sorted(map(int, better), key=lambda r: -int(states[r, step]))

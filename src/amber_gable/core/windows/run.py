"""One run of the engine: from weather to the windows of all surfaces of a building, with what a forecast does not yet permit.

Functions of values alone, so that they can be computed in a process of their own.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from amber_gable.core.air.members import MEMBERS
from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge import ErrorModel, Product
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.wall.climate import ClimateSurface, Observation, simulate
from amber_gable.core.windows.chances import STEP_S, chances
from amber_gable.core.windows.check import Check, HouseRules, kept
from amber_gable.core.windows.states import SHUT, Windows, find_windows_each

SAFE_FRAC = assumed("safe_film_share")
FORESEEN_S = assumed("foreseen_h") * 3600
FILM_RISK = "film-risk"


def windows_under(
    place: Place,
    weather: Weather,
    surfaces: Sequence[ClimateSurface],
    observations: Sequence[Observation],
    products: Sequence[Product],
    rules: Sequence[HouseRules],
) -> Windows:
    """Return the windows of S surfaces under a course of the weather.

    Parameters
    ----------
    observations : sequence of Observation
        What was found on surfaces, by their rows.
    products, rules : sequence, length S
        The finish of each surface, and the limits it is judged by.
    """
    return find_windows_each(simulate(place, weather, surfaces, observations=observations), products, rules)


def foreseen_under(
    place: Place,
    weather: Weather,
    surfaces: Sequence[ClimateSurface],
    observations: Sequence[Observation],
    products: Sequence[Product],
    rules: Sequence[HouseRules],
    since_s: float,
    model: ErrorModel,
    count: int = MEMBERS,
) -> Windows:
    """Return the windows of S surfaces by a forecast: what it permits half a day ahead or more must also be safe for the film.

    Parameters
    ----------
    since_s : float
        From when on the forecast errs [s since 1970].
    model : ErrorModel
    count : int
        By how many courses of the weather what is risked is told.
    """
    windows = windows_under(place, weather, surfaces, observations, products, rules)
    return windows.also(film_risk(windows, place, weather, surfaces, rules, since_s, model, count))


def film_risk(
    windows: Windows, place: Place, weather: Weather, surfaces: Sequence[ClimateSurface], rules: Sequence[HouseRules],
    since_s: float, model: ErrorModel, count: int = MEMBERS,
) -> Check:  # fmt: skip
    """Return the check that rain and dew leave a film alone while it is young, in enough of the courses that the weather may take.

    Of strokes more than half a day ahead; nearer, the newest forecast decides. What the windows shut already is not asked.

    Parameters
    ----------
    windows : Windows
        Of these surfaces in this weather.
    """
    grid = windows.climate.grid
    is_far = grid.epoch_s - since_s > FORESEEN_S
    shares = np.ones(windows.states.shape)
    asked = [row for row in range(len(surfaces)) if (windows.states[row, is_far] != SHUT).any()]
    # What differs by its name alone has the same weather.
    alike = [(replace(surfaces[row], name=""), windows.products[row], rules[row]) for row in asked]
    each = [one for n, one in enumerate(alike) if one not in alike[:n]]
    if each:
        hours = [STEP_S / 3600] * len(each)
        kinds, paints, limits = zip(*each, strict=True)
        found = chances(place, weather, since_s, kinds, paints, limits, hours, model, count=count, of_film=True)
        # Of what the forecast does not reach, the windows say so.
        dry = np.nan_to_num(found.chance_frac, nan=1.0)
        at = np.minimum(((grid.epoch_s - found.grid.epoch_s[0]) // found.grid.step_s).astype(int), dry.shape[1] - 1)
        for row, one in zip(asked, alike, strict=True):
            shares[row] = dry[each.index(one), at]
    margin = np.where(is_far, shares - SAFE_FRAC, np.inf)
    return kept(FILM_RISK, margin, SAFE_FRAC, rules[0], values=shares)

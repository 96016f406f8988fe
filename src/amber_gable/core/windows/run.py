"""One run of the engine: from weather to the windows of all surfaces of a building.

A function of values alone, so that it can be computed in a process of its own.
"""

from collections.abc import Sequence

from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge import Product
from amber_gable.core.wall.climate import ClimateSurface, Observation, simulate
from amber_gable.core.windows.check import HouseRules
from amber_gable.core.windows.states import Windows, find_windows_each


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

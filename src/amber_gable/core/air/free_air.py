"""Free air: the weather on the even grid that everything is computed on, one course of it or many members.

Not here: weather as it was told (weather), how members are made (ensemble), what it does to surfaces (climate).
"""

from dataclasses import dataclass

import numpy as np

from amber_gable.core.air.humid import Array, dew_point_from_pressure_c, vapour_pressure_pa
from amber_gable.core.air.weather import RAIN_HOUR_S, Grid, Weather


@dataclass(frozen=True)
class FreeAir:
    """The air before the walls, at Q instants.

    Parameters
    ----------
    air_temp_c, rel_humidity_pct, vapour_pa, dew_point_c, wind_m_s, gust_m_s, cloud_pct : ndarray, shape (..., Q)
        `gust_m_s` is the wind where no gust is given; a leading axis is that of an ensemble's members.
    rain_mm_h, rain_probability_pct : ndarray, shape (..., Q)
        Of the hour an instant lies in.
    thunder_probability_pct : ndarray, shape (Q,), or None
        None where no thunder is forecast.
    wind_from_deg : ndarray, shape (Q,), or None
    """

    air_temp_c: Array
    rel_humidity_pct: Array
    vapour_pa: Array
    dew_point_c: Array
    wind_m_s: Array
    gust_m_s: Array
    cloud_pct: Array
    rain_mm_h: Array
    rain_probability_pct: Array
    wind_from_deg: Array | None = None
    thunder_probability_pct: Array | None = None


def of_the_hour(grid: Grid, weather: Weather, values: Array | None) -> Array:
    """Return what belongs to the hour that starts at each listed time, at the instants; 0 in missing hours.

    Parameters
    ----------
    values : ndarray, shape (..., N), or None
        None for none at all.
    """
    if values is None:
        return np.zeros(len(grid.epoch_s))
    index = np.searchsorted(weather.epoch_s, grid.epoch_s + 1e-6, side="right") - 1
    is_in_hour = grid.epoch_s - weather.epoch_s[index] < RAIN_HOUR_S - 1e-6
    result: Array = np.where(is_in_hour, values[..., index], 0.0)
    return result


def thunder_on(grid: Grid, weather: Weather) -> Array | None:
    """Return the chance of thunder in the hour of each instant, shape (Q,); None where none is forecast.

    Parameters
    ----------
    grid : Grid
    weather : Weather
        N hours.
    """
    chance = weather.thunder_probability_pct
    return None if chance is None or not chance.any() else of_the_hour(grid, weather, chance)


def free_air(weather: Weather, grid: Grid) -> FreeAir:
    """Return one course of weather on a grid.

    Parameters
    ----------
    weather : Weather
        N hours.
    grid : Grid
        Q instants within them.
    """
    # Vapour pressure runs straighter through the hours than humidity does.
    vapour = grid.sampled(weather, vapour_pressure_pa(weather.air_temp_c, weather.rel_humidity_pct))
    wind = grid.sampled(weather, weather.wind_m_s)
    wind_from = None
    if weather.wind_from_deg is not None:
        # A direction cannot be interpolated over north: it holds until the next hour.
        nearest = np.searchsorted(weather.epoch_s, grid.epoch_s + 1e-6, side="right") - 1
        wind_from = weather.wind_from_deg[nearest]
    return FreeAir(
        air_temp_c=grid.sampled(weather, weather.air_temp_c),
        rel_humidity_pct=grid.sampled(weather, weather.rel_humidity_pct),
        vapour_pa=vapour,
        dew_point_c=dew_point_from_pressure_c(vapour),
        wind_m_s=wind,
        gust_m_s=wind if weather.wind_gust_m_s is None else grid.sampled(weather, weather.wind_gust_m_s),
        cloud_pct=grid.sampled(weather, weather.cloud_pct),
        rain_mm_h=of_the_hour(grid, weather, weather.rain_mm),
        rain_probability_pct=of_the_hour(grid, weather, weather.rain_probability_pct),
        wind_from_deg=wind_from,
        thunder_probability_pct=thunder_on(grid, weather),
    )

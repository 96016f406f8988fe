"""Peak heat: how hot a surface gets on a still, clear, hot day, so that a dark colour can be judged before it is bought.

The physics is that of the windows (climate); only the weather is made: what a colour must bear.
"""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

import numpy as np

from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.wall.climate import ClimateSurface, simulate

LOW_C, HIGH_C = assumed("hot_day_low_c"), assumed("hot_day_high_c")
_HUMIDITY_PCT, _WIND_M_S = assumed("hot_day_humidity_pct"), assumed("hot_day_wind_m_s")
# High sun heats roofs and east and west walls most, lower sun walls that face the equator; six months on in the south.
_DAYS = ((6, 21), (8, 6), (9, 21))
_HOURS = 48


def hot_day(place: Place, month: int, day: int) -> Weather:
    """Return two days of hourly hot, still, clear weather; the warmest at three in the afternoon by the sun.

    Parameters
    ----------
    place : Place
        South of the equator the month is half a year later.
    month, day : int
        Of the northern year.

    Returns
    -------
    Weather
        Hourly, in universal time; air [°C], humidity [%], wind [m/s], cloud [%].
    """
    if place.latitude_deg < 0:
        month = (month + 5) % 12 + 1
    start = datetime(2025, month, day, tzinfo=UTC) - timedelta(hours=place.longitude_deg / 15)
    hours = np.arange(_HOURS)
    air = (LOW_C + HIGH_C) / 2 + (HIGH_C - LOW_C) / 2 * np.cos((hours - 15) / 24 * 2 * np.pi)
    even = np.ones(_HOURS)
    return Weather(
        times=[start + timedelta(hours=int(h)) for h in hours],
        air_temp_c=air,
        rel_humidity_pct=_HUMIDITY_PCT * even,
        wind_m_s=_WIND_M_S * even,
        cloud_pct=0 * even,
    )


def peak_surface_temp_c(place: Place, surfaces: Sequence[ClimateSurface]) -> np.ndarray:
    """Return the highest surface temperature on a hot day of summer or early autumn, shape (S,) [°C].

    Parameters
    ----------
    surfaces : sequence, length S
        In the colour that is tried.

    References
    ----------
    ClimateSurface temperature as everywhere (handbook 4); the design days are ours.
    """
    peaks = [simulate(place, hot_day(place, *day), surfaces).surface_temp_c[:, _HOURS * 2 :].max(axis=1) for day in _DAYS]
    result: np.ndarray = np.max(peaks, axis=0)
    return result

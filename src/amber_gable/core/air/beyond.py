"""Beyond the forecast: a course of weather that a plan may reckon with where no forecast reaches, an expectation and no promise.

Not here: forecasts (services), their errors (members), a year of a place from a file (services.outlook.weather.year).
"""

from dataclasses import fields
from datetime import UTC, datetime
from typing import Any

import numpy as np

from amber_gable.core.air.weather import Weather

_DAY_S = 86_400.0


def extended(weather: Weather, until_s: float, first_s: float, turn: int = 0) -> Weather:
    """Return the weather with days added: the whole days of the forecast once more, in turn.

    Parameters
    ----------
    weather : Weather
        Hour by hour.
    until_s : float
        To where it is wanted [s since 1970].
    first_s : float
        From where its days count as those of the season: what is observed and what is forecast.
    turn : int
        With which of these days the added ones begin: another course for each.

    Notes
    -----
    Rain, sun and drying nights keep the share that the last days have; nobody knows on which day they fall. Where fewer than two
    whole days are known, the weather stays as it is.
    """
    epoch = weather.epoch_s
    whole = int((epoch[-1] + 3600 - first_s) // _DAY_S)
    missing = int(np.ceil((until_s - epoch[-1]) / 3600))
    if whole < 2 or missing <= 0:
        return weather
    added = epoch[-1] + 3600 * (1 + np.arange(missing))
    # The same hour of the clock, some days before.
    place = ((added - epoch[-1] - 3600) / 3600 + (turn % whole) * 24) % (whole * 24)
    source = np.searchsorted(epoch, epoch[-1] + 3600 - whole * _DAY_S + 3600 * place + 1e-6, side="right") - 1
    times = [*weather.times, *(datetime.fromtimestamp(float(second), UTC) for second in added)]
    columns: dict[str, Any] = {}
    for part in fields(weather):
        values = getattr(weather, part.name)
        if part.init and part.name != "times":
            columns[part.name] = None if values is None else np.concatenate([values, values[source]])
    return Weather(times, **columns)

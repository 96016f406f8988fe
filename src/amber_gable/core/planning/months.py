"""Months of a typical year: for how many hours of each a coat may go on, surface by surface.

Not here: where the year comes from (exchange.typicalyear), or what a forecast says (windows).
"""

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge import Product
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import SHUT, HouseRules, find_windows_each

# Ten days at a time: a day before, in which walls find their warmth, and three after, which the fresh coat needs.
_DAYS, _BEFORE_H, _AFTER_H = 10, 24, 72
_DAY_H, _QUARTERS = 24, 4
MONTHS = 12


def hours_by_month(
    place: Place, columns: Mapping[str, Array], utc_offset_h: float, year: int, surfaces: Sequence[ClimateSurface],
    products: Sequence[Product], rules: Sequence[HouseRules], day_h: tuple[float, float],
) -> Array:  # fmt: skip
    """Return the hours of each month in which a coat may go on, within the crew's day; shape (12, S).

    Parameters
    ----------
    place : Place
        Of the job: its sun.
    columns : mapping of str to ndarray, shape (8760,)
        By the hour from midnight on 1 January: `air_temp_c`, `rel_humidity_pct`, `wind_m_s`, `cloud_pct`, `rain_mm`, and
        `wind_from_deg`, NaN where it is not known.
    utc_offset_h : float
        Of that midnight.
    year : int
        No leap year.
    surfaces, products, rules : sequences of length S
    day_h : tuple of float
        From when to when the crew works, by the station's own time.
    """
    start = datetime(year, 1, 1, tzinfo=UTC) - timedelta(hours=utc_offset_h)
    count = len(columns["air_temp_c"])
    hours = np.zeros((MONTHS, len(surfaces)))
    months = np.array([(datetime(year, 1, 1) + timedelta(hours=h)).month - 1 for h in range(count)])
    for first in range(0, count, _DAYS * _DAY_H):
        # Round the turn of the year, the other end goes on.
        at = np.arange(first - _BEFORE_H, min(first + _DAYS * _DAY_H, count) + _AFTER_H)
        rows = {name: values[at % count] for name, values in columns.items()}
        rain = rows["rain_mm"]
        chance = np.where(rain > 0, 100.0, 0.0)
        weather = Weather(
            [start + timedelta(hours=int(h)) for h in at], rows["air_temp_c"], rows["rel_humidity_pct"], rows["wind_m_s"],
            rows["cloud_pct"], wind_from_deg=rows["wind_from_deg"], rain_mm=rain, rain_probability_pct=chance,
        )  # fmt: skip
        states = find_windows_each(simulate(place, weather, surfaces), products, rules).states
        own = slice(_BEFORE_H * _QUARTERS, (len(at) - _AFTER_H) * _QUARTERS)
        usable = states[:, own] != SHUT
        quarter = np.arange(usable.shape[1])
        of_day = (first % _DAY_H + quarter / _QUARTERS) % _DAY_H
        usable &= (of_day >= day_h[0]) & (of_day < day_h[1])
        month = months[first + quarter // _QUARTERS]
        for number in np.unique(month):
            hours[number] += usable[:, month == number].sum(axis=1) / _QUARTERS
    return hours

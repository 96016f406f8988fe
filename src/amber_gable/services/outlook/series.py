"""Hours as a page takes them: run-length states, hourly values, the sun; which surface opens next; what lies under a ribbon.

Values only: pages draw them and write the units.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.after_coat import AfterCoat
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.words import short_name
from amber_gable.services.outlook.outlook import Outlook

# Quarter-hours in an hour.
STEP_H = 4


@dataclass(frozen=True)
class SurfaceSeries:
    """One surface over a range of quarter-hours, counted from its first.

    Parameters
    ----------
    runs : list of (int, int, int)
        Where state or reason changes: quarter-hour, state, number of the rule that speaks (-1 for none).
    sun : list of (int, int)
        From and until when the sun is on it.
    lit_pct : list of int
        How much of it the sun reaches, by the hour; empty where all of it always.
    temp_c, dew_margin_c : list of float
        By the hour.
    """

    key: str
    name: str
    side: str
    runs: list[tuple[int, int, int]]
    sun: list[tuple[int, int]]
    lit_pct: list[int]
    temp_c: list[float]
    dew_margin_c: list[float]


@dataclass(frozen=True)
class HourSeries:
    """All surfaces of an outlook over a range of quarter-hours.

    Parameters
    ----------
    t0_s, step_s : float
        Seconds since 1970 of the first; between two.
    rules : list of str
        What each rule is called in a few words.
    sky : list of (float, float)
        Azimuth and elevation of the sun by the hour [°].
    """

    t0_s: float
    step_s: float
    rules: list[str]
    surfaces: list[SurfaceSeries]
    sky: list[tuple[float, float]]


def hour_series(outlook: Outlook, names: Mapping[str, tuple[str, str]], first: int, last: int) -> HourSeries:
    """Return the surfaces of an outlook from one quarter-hour to another (exclusive).

    Parameters
    ----------
    names : mapping
        Name and side of each surface.
    """
    windows, climate = outlook.windows, outlook.windows.climate
    binding = windows.binding()
    hourly = slice(first, last, STEP_H)
    surfaces = [
        SurfaceSeries(
            key, *names[key], _runs(windows.states[row, first:last], binding[row, first:last]), _spans(climate.direct_sun[row, first:last]),
            [] if climate.seen_frac is None else [round(100 * float(v)) for v in climate.seen_frac[row, hourly]],
            climate.surface_temp_c[row, hourly].tolist(), climate.dew_margin_c[row, hourly].tolist(),
        )
        for row, key in enumerate(outlook.surface_ids)
    ]  # fmt: skip
    sky = zip(climate.sky.azimuth_deg[hourly].tolist(), climate.sky.elevation_deg[hourly].tolist(), strict=True)
    rules = [short_name(check.rule) for check in windows.checks]
    return HourSeries(float(climate.grid.epoch_s[first]), climate.grid.step_s, rules, surfaces, list(sky))


def _runs(states: np.ndarray, binding: np.ndarray) -> list[tuple[int, int, int]]:
    change = np.flatnonzero((np.diff(states) != 0) | (np.diff(binding) != 0)) + 1
    return [(int(q), int(states[q]), int(binding[q])) for q in (0, *change)]


def _spans(flags: np.ndarray) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def by_opening(outlook: Outlook, step: int) -> list[str]:
    """Return the surfaces of an outlook in the order in which they next open from a quarter-hour on."""

    def waits(row: int) -> int:
        later = np.flatnonzero(outlook.windows.states[row, step:] != SHUT)
        return int(later[0]) if len(later) else outlook.windows.states.shape[1]

    return [outlook.surface_ids[row] for row in sorted(range(len(outlook.surface_ids)), key=waits)]


@dataclass(frozen=True)
class UnderRibbon:
    """A quantity over time under a ribbon, the limit that it is held to, and the range that it is drawn in."""

    what: Literal["humidity", "wind", "rain", "moisture"]
    values: Array
    lowest: float
    highest: float
    limit: float


def under_ribbon(outlook: Outlook, row: int, first: int) -> list[UnderRibbon]:
    """Return humidity [%], gusts [m/s], chance of rain [%] and moisture inside [%] of a surface, each with its limit.

    Parameters
    ----------
    first : int
        Quarter-hour whose limits are meant, where they go by the hour.
    """
    windows, climate = outlook.windows, outlook.windows.climate
    limits = {(c.rule, c.aspect): c for c in windows.checks}
    product = windows.products[row]
    gust = np.maximum(climate.gust_m_s, climate.wind_m_s)
    wind, rain = limits["wind", ""].limit_of(row, first), limits["rain", ""].limit_of(row, first)
    marks = [
        UnderRibbon("humidity", climate.rel_humidity_pct, 20, 100, product.max_rel_humidity_pct),
        UnderRibbon("wind", gust, 0, max(1.3 * wind, float(gust.max())), wind),
        UnderRibbon("rain", windows.chance_of_rain_pct(row), 0, 100, rain),
    ]
    if climate.moisture_pct is not None and climate.moisture_max_pct is not None and np.isfinite(climate.moisture_pct[row]).any():
        most, inside = min(float(climate.moisture_max_pct[row]), product.max_moisture_pct), climate.moisture_pct[row]
        marks.append(UnderRibbon("moisture", inside, 0, max(float(np.nanmax(inside)), most) + 2, most))
    return marks


def film_at_um(after: AfterCoat, at: float) -> float:
    """Return how thick a film is at a fractional quarter-hour [µm]; as it was put on where that lies before the stroke."""
    film = np.nan_to_num(after.film_um, nan=after.wet_film_um)
    return float(np.interp(at, np.arange(len(film)), film))


@dataclass(frozen=True)
class AtMoment:
    """State of a surface and of the air at a quarter-hour."""

    surface_temp_c: float
    air_temp_c: float
    dew_point_c: float
    humidity_pct: float
    moisture_pct: float | None


def at_moment(outlook: Outlook, row: int, step: int) -> AtMoment:
    """Return what a surface and the air are at a quarter-hour."""
    climate = outlook.windows.climate
    inside = None if climate.moisture_pct is None else float(climate.moisture_pct[row, step])
    return AtMoment(
        float(climate.surface_temp_c[row, step]), float(climate.air_temp_c[step]), float(climate.dew_point_c[step]),
        float(climate.rel_humidity_pct[step]), None if inside is None or np.isnan(inside) else inside,
    )  # fmt: skip


def sun_way(outlook: Outlook, first: int, last: int) -> Sequence[tuple[float, float]]:
    """Return azimuth and elevation of the sun from one quarter-hour to another [°]."""
    sky = outlook.windows.climate.sky
    return list(zip(sky.azimuth_deg[first:last].tolist(), sky.elevation_deg[first:last].tolist(), strict=True))

"""Ensemble: many courses the weather may take about a forecast, and the chance that a start really holds.

Errors of a forecast grow with its lead time and hang together from hour to hour; members are the forecast with such errors
drawn anew. How large they are is fitted to forecasts that were held against what came (`fit`).
Not here: what a course of weather does to surfaces (climate), what may be painted in it (windows).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air import sun
from amber_gable.core.air.free_air import FreeAir, of_the_hour, thunder_on
from amber_gable.core.air.humid import Array, dew_point_c, dew_point_from_pressure_c, saturation_pressure_pa, vapour_pressure_pa
from amber_gable.core.air.weather import Grid, Weather
from amber_gable.core.knowledge import ErrorModel, Product
from amber_gable.core.wall.climate import ClimateSurface, climate_of
from amber_gable.core.windows.check import HouseRules
from amber_gable.core.windows.starts import permitted
from amber_gable.core.windows.states import find_windows

MEMBERS = 100
# Hours: a forecast errs by more than an hour hides. Halves would take twice as long and move no chance by a twentieth (calibrate.py).
STEP_S = 3600.0
# Surfaces of members at once: enough that numpy's calls weigh little, few enough to stay well under half a gigabyte.
_ROWS_AT_ONCE = 2400
# Of the balance within the hour: a member errs by more than this does.
_SHORT_STEP_S = 900.0
# Rain of a member is at least this: a chance is of rain that counts [mm in the hour].
_SHOWER_MM = 0.5
_LEAST_GAP_C = 0.05


def wander(rng: np.random.Generator, members: int, hours: int, hold: float) -> Array:
    """Return noise of spread 1 that hangs together from hour to hour, shape (members, hours).

    Parameters
    ----------
    hold : float
        What is left of an error an hour later, 0 to 1.
    """
    steps = rng.standard_normal((members, hours))
    steps[:, 1:] *= np.sqrt(1 - hold**2)
    out = np.empty_like(steps)
    out[:, 0] = steps[:, 0]
    for h in range(1, hours):
        out[:, h] = hold * out[:, h - 1] + steps[:, h]
    return out


@dataclass(frozen=True)
class Members:
    """Hourly courses of weather, each shape (members, N), at a forecast's listed times."""

    air_temp_c: Array
    rel_humidity_pct: Array
    wind_m_s: Array
    wind_gust_m_s: Array
    cloud_pct: Array
    rain_mm: Array


def members_of(weather: Weather, issued_s: float, model: ErrorModel, count: int = MEMBERS, seed: int = 0) -> Members:
    """Return courses that the weather may take; what was observed before the issue is the same in all.

    Parameters
    ----------
    weather : Weather
        N hours, observed ones first.
    issued_s : float
        When the forecast was made; errors grow from there.
    model : ErrorModel
    count, seed : int
        The same seed gives the same members.
    """
    rng = np.random.default_rng(seed)
    lead = (weather.epoch_s - issued_s) / 3600
    ahead, hours = (lead > 0).astype(float), len(lead)
    # Errors between listed times that lie apart hang together less: by the hour is near enough for gaps of three.
    shared = wander(rng, count, hours, model.hold)
    part = np.sqrt(1 - model.air_dew**2)
    air_noise, dew_noise = shared, model.air_dew * shared + part * wander(rng, count, hours, model.hold)
    wind_noise, cloud_noise = wander(rng, count, hours, model.hold), wander(rng, count, hours, model.hold)

    def spread(base: float, per_h: float) -> Array:
        result: Array = ahead * (base + per_h * np.maximum(lead, 0.0))
        return result

    air = weather.air_temp_c + spread(model.air_c, model.air_c_per_h) * air_noise
    told_dew = dew_point_c(weather.air_temp_c, weather.rel_humidity_pct)
    dew = np.minimum(told_dew + spread(model.dew_c, model.dew_c_per_h) * dew_noise, air - np.where(lead > 0, _LEAST_GAP_C, 0.0))
    humidity = np.where(lead > 0, 100 * saturation_pressure_pa(dew) / saturation_pressure_pa(air), weather.rel_humidity_pct)
    gusty = np.exp(spread(model.wind_frac, model.wind_frac_per_h) * wind_noise)
    told_gust = weather.wind_m_s if weather.wind_gust_m_s is None else weather.wind_gust_m_s
    cloud = weather.cloud_pct + spread(model.cloud_pct, model.cloud_pct_per_h) * cloud_noise
    return Members(
        air, np.clip(humidity, 1.0, 100.0), weather.wind_m_s * gusty, told_gust * gusty, np.clip(cloud, 0.0, 100.0),
        _rains(weather, ahead, wander(rng, count, hours, model.rain_hold)),
    )  # fmt: skip


def _rains(weather: Weather, ahead: Array, noise: Array) -> Array:
    """Return the rain of members: it falls in an hour in as many of them as its chance says, and hangs together."""
    forecast_mm = np.zeros(len(ahead)) if weather.rain_mm is None else weather.rain_mm
    chance = 100.0 * (forecast_mm > 0) if weather.rain_probability_pct is None else weather.rain_probability_pct
    normal = NormalDist()
    # The noise is below this as often as the chance says; what is certain is certain.
    bound = np.array([normal.inv_cdf(p) if 0 < p < 1 else np.inf * (2 * p - 1) for p in chance / 100])
    falls = noise < bound
    amount = np.maximum(forecast_mm, _SHOWER_MM)
    result: Array = np.where(ahead > 0, np.where(falls, amount, 0.0), forecast_mm)
    return result


def _on_grid(weather: Weather, grid: Grid, members: Members, part: slice) -> FreeAir:
    """Return some of the members on a grid."""
    place = np.interp(grid.epoch_s, weather.epoch_s, np.arange(len(weather.epoch_s)))
    low = np.minimum(np.floor(place).astype(int), len(weather.epoch_s) - 2)
    share = place - low

    def sampled(values: Array) -> Array:
        result: Array = values[:, low] * (1 - share) + values[:, low + 1] * share
        return result

    air = sampled(members.air_temp_c[part])
    vapour = sampled(vapour_pressure_pa(members.air_temp_c[part], members.rel_humidity_pct[part]))
    rain = of_the_hour(grid, weather, members.rain_mm[part])
    humidity = np.asarray(100 * vapour / saturation_pressure_pa(air), dtype=np.float64).clip(1.0, 100.0)
    direction = None
    if weather.wind_from_deg is not None:
        direction = weather.wind_from_deg[np.searchsorted(weather.epoch_s, grid.epoch_s + 1e-6, side="right") - 1]
    return FreeAir(
        air, humidity, vapour, dew_point_from_pressure_c(vapour),
        sampled(members.wind_m_s[part]), sampled(members.wind_gust_m_s[part]), sampled(members.cloud_pct[part]), rain,
        # In a member it rains or it does not: its amount says all, and nothing is left to chance.
        np.zeros_like(rain), direction, thunder_on(grid, weather),
    )  # fmt: skip


@dataclass(frozen=True)
class Chances:
    """The chance that a coat begun at an instant holds through application, hold and the time in which its film is young.

    Parameters
    ----------
    grid : Grid
    chance_frac : ndarray, shape (S, Q)
        NaN where the forecast ends before what must be known.
    """

    grid: Grid
    chance_frac: Array


def chances(
    place: sun.Place, weather: Weather, issued_s: float, surfaces: Sequence[ClimateSurface], products: Sequence[Product],
    rules: Sequence[HouseRules], coat_h: Sequence[float], model: ErrorModel, *, moisture: Array | None = None,
    count: int = MEMBERS, seed: int = 0, step_s: float = STEP_S,
) -> Chances:  # fmt: skip
    """Return the chance that each start holds.

    Parameters
    ----------
    place, weather, issued_s, model, count, seed
        As for `members_of`.
    surfaces, products, rules, coat_h : sequences of length S
        What is painted with what, by which limits, and how long a coat of it takes [h].
    moisture : ndarray, shape (S, Q), optional
        Of what is painted on this grid, by the forecast itself; it moves too slowly to differ between members.

    Notes
    -----
    By the same limits as the windows. A start that the forecast shuts may hold in some members, and the other way round.
    """
    grid = Grid.over(weather, step_s)
    members = members_of(weather, issued_s, model, count, seed)
    held = np.zeros((len(surfaces), len(grid.epoch_s)))
    steps = [max(int(np.ceil(h * 3600 / step_s - 1e-9)), 1) for h in coat_h]
    pairs = list(dict.fromkeys(zip(products, rules, strict=True)))
    block = max(_ROWS_AT_ONCE // len(surfaces), 1)
    for first in range(0, count, block):
        part = slice(first, min(first + block, count))
        climate = climate_of(place, grid, _on_grid(weather, grid, members, part), surfaces, moisture=moisture, short_step_s=_SHORT_STEP_S)
        for product, rule in pairs:
            rows = [i for i, pair in enumerate(zip(products, rules, strict=True)) if pair == (product, rule)]
            states = find_windows(climate.of_surfaces(rows), product, rule).states
            for at, row in enumerate(rows):
                # What breaks between the last instant and the next has broken before the last stroke half of the time.
                for count_of in (steps[row], steps[row] + 1):
                    held[row] += 0.5 * permitted(states[:, at], count_of).sum(axis=0)
    return Chances(grid, np.where(_known(grid, products, rules, steps), held / count, np.nan))


def _known(grid: Grid, products: Sequence[Product], rules: Sequence[HouseRules], steps: Sequence[int]) -> NDArray[np.bool_]:
    """Return where a start's whole future lies within the data, shape (S, Q)."""
    left = (grid.epoch_s[-1] - grid.epoch_s) / 3600
    rows = []
    for product, rule, count in zip(products, rules, steps, strict=True):
        needs = max(product.hold_h, rule.after_h(product), product.rain_free_h) + (count + 1) * grid.step_s / 3600
        rows.append(left >= needs)
    return np.array(rows)


def chances_under(
    place: sun.Place, weather: Weather, issued_s: float, surfaces: Sequence[ClimateSurface], products: Sequence[Product],
    rules: Sequence[HouseRules], coat_h: Sequence[float], model: ErrorModel, moisture: Array | None,
) -> Chances:  # fmt: skip
    """Return `chances` of the usual ensemble, for who can hand over arguments by their place only."""
    return chances(place, weather, issued_s, surfaces, products, rules, coat_h, model, moisture=moisture)

"""Chances: in how many of the courses that the weather may take, at a site whose errors stay, a start really holds.

Not here: how courses are drawn (air.members), what is believed of a site (air.site_errors), what a course of weather does to
surfaces (wall.climate), what may be painted in it (states).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air import sun
from amber_gable.core.air.free_air import FreeAir, of_the_hour, thunder_on
from amber_gable.core.air.humid import Array, dew_point_from_pressure_c, saturation_pressure_pa, vapour_pressure_pa
from amber_gable.core.air.members import MEMBERS, Members, at_site, members_of
from amber_gable.core.air.site_errors import SiteErrors
from amber_gable.core.air.weather import QUARTER_S, Grid, Weather
from amber_gable.core.knowledge import ErrorModel, Product
from amber_gable.core.wall.climate import ClimateSurface, climate_of
from amber_gable.core.windows.check import Check, HouseRules
from amber_gable.core.windows.limits import check_limits, film_checks
from amber_gable.core.windows.starts import permitted

# Hours: a forecast errs by more than an hour hides. Halves would take twice as long and move no chance by a twentieth (calibrate.py).
STEP_S = 3600.0
# Surfaces of members at once: enough that numpy's calls weigh little, few enough to stay well under half a gigabyte.
_ROWS_AT_ONCE = 2400
# Of the balance within the hour: a member errs by more than this does.
_SHORT_STEP_S = 900.0


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
    rules: Sequence[HouseRules], coat_h: Sequence[float], model: ErrorModel, *, site: SiteErrors | None = None,
    moisture: Array | None = None, count: int = MEMBERS, seed: int = 0, step_s: float = STEP_S, of_film: bool = False,
) -> Chances:  # fmt: skip
    """Return the chance that each start holds.

    Parameters
    ----------
    place, weather, issued_s, model, count, seed
        As for `members_of`.
    surfaces, products, rules, coat_h : sequences of length S
        What is painted with what, by which limits, and how long a coat of it takes [h].
    site : SiteErrors, optional
        What is believed of the site; without readings there, by the model and by what each surface is made of.
    moisture : ndarray, shape (S, Q), optional
        Of what is painted on this grid, by the forecast itself; it moves too slowly to differ between members.
    of_film : bool
        Whether only what a young film cannot bear must hold, and not each limit.

    Notes
    -----
    By the same limits as the windows. A start that the forecast shuts may hold in some members, and the other way round.
    """
    grid = Grid.over(weather, step_s)
    believed = site or SiteErrors.before_readings(model, [s.error_c for s in surfaces])
    members = at_site(members_of(weather, issued_s, model, count, seed), believed, seed)
    own_c = believed.drawn_of_surfaces(count, seed)
    held = np.zeros((len(surfaces), len(grid.epoch_s)))
    steps = [max(int(np.ceil(h * 3600 / step_s - 1e-9)), 1) for h in coat_h]
    pairs = list(dict.fromkeys(zip(products, rules, strict=True)))
    if of_film:
        # No film asks how moist its wall is.
        moisture = np.full(held.shape, np.nan)
    block = max(_ROWS_AT_ONCE // len(surfaces), 1)
    for first in range(0, count, block):
        part = slice(first, min(first + block, count))
        climate = climate_of(
            place, grid, _on_grid(weather, grid, members, part), surfaces, moisture=moisture, short_step_s=_SHORT_STEP_S,
            own_error_c=own_c[part],
        )  # fmt: skip
        for product, rule in pairs:
            rows = [i for i, pair in enumerate(zip(products, rules, strict=True)) if pair == (product, rule)]
            part_of = climate.of_surfaces(rows)
            checks = (film_checks if of_film else check_limits)(part_of, product, rule)
            is_kept, ending = _kept_through(checks, part_of.surface_temp_c.shape, QUARTER_S / step_s)
            for at, row in enumerate(rows):
                last = steps[row] - 1
                begun = permitted(is_kept[:, at].astype(np.int8), steps[row])
                held[row, : begun.shape[-1] - last] += (begun[:, : begun.shape[-1] - last] * ending[:, at, last:]).sum(axis=0)
    return Chances(grid, np.where(_known(grid, products, rules, steps), held / count, np.nan))


def _kept_through(checks: Sequence[Check], shape: tuple[int, ...], last_share: float) -> tuple[NDArray[np.bool_], Array]:
    """Return where every limit is kept, and how likely it is kept on until the last quarter-hour before the next instant begins.

    Parameters
    ----------
    checks : sequence of Check
        Margins of shape (M, S or 1, Q).
    shape : tuple of int
        (M, S, Q)
    last_share : float
        Of the time between two instants, what a quarter-hour is.

    Notes
    -----
    A margin that runs out between two instants does so on a straight line. One that says only whether (rain, dew on a young film)
    may run out at any time between them.
    """
    is_kept, ending = np.ones(shape, dtype=bool), np.ones(shape)
    for check in checks:
        margin = check.margin
        broken = margin < 0
        is_kept &= ~broken
        ends = ~broken[..., :-1] & broken[..., 1:]
        if not ends.any():
            continue
        now, then = margin[..., :-1][ends], margin[..., 1:][ends]
        says_only_whether = np.isinf(now) | (now == 0)
        on_a_line = last_share * np.where(says_only_whether, 0.0, now) + (1 - last_share) * then >= 0
        share = np.ones(margin.shape)
        share[..., :-1][ends] = np.where(says_only_whether, last_share, on_a_line)
        np.minimum(ending, share, out=ending)
    return is_kept, ending


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
    rules: Sequence[HouseRules], coat_h: Sequence[float], model: ErrorModel, moisture: Array | None, site: SiteErrors | None = None,
    count: int = MEMBERS,
) -> Chances:  # fmt: skip
    """Return `chances`, for who can hand over arguments by their place only."""
    return chances(place, weather, issued_s, surfaces, products, rules, coat_h, model, moisture=moisture, site=site, count=count)

"""The weather limits, each checked for every surface and quarter-hour (handbook 3).

A check says how far a rule is from breaking (its margin), at the quarter-hour itself or over the
time that the fresh coat needs afterwards. Meanings are those of reckonings.md, `windows`.
What a job's site asks besides (thunder, moisture under the paint, dew on deep tints, sun soon on dark coats) follows below.
Not here: how checks become open, tight or shut (states).
"""

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.air.rain import MostOver, chance_pct
from amber_gable.core.air.weather import QUARTER_S
from amber_gable.core.coat.drying import drying_rate, progress_h, ready_index
from amber_gable.core.coat.film import Film, film_of, next_index
from amber_gable.core.knowledge import Product
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.wall.climate import WET_KG_M2, Climate
from amber_gable.core.windows.check import Check, HouseRules, forward_min, kept, labelled, steps_of

_LEAST = 1e-9
LAY_OFF_S = 60 * assumed("spare_min")


def _temperature(climate: Climate, product: Product, rules: HouseRules) -> list[Check]:
    air = climate.air_temp_c[..., None, :]
    surface = climate.surface_temp_c
    after = steps_of(rules.after_h(product), climate)
    return [
        labelled("air-temp-low", air, product, rules),
        labelled("air-temp-high", air, product, rules),
        labelled("surface-temp-low", forward_min(surface, after), product, rules),
        labelled("surface-temp-high", surface, product, rules),
        labelled("hold", forward_min(surface, steps_of(product.hold_h, climate)), product, rules),
        kept("frost", np.where(surface <= 0, np.minimum(surface, -1e-9), surface), 0.0, rules),
    ]


def _wet_check(climate: Climate, rules: HouseRules, touch: Array) -> Check:
    """Check that a surface is not wet, nor dewed on before the film is touch-dry."""
    count = np.cumsum(climate.wet, axis=-1)
    last = np.minimum(np.floor(np.nan_to_num(touch, posinf=1e9)), climate.wet.shape[-1] - 1).astype(int)
    wet_between = np.take_along_axis(count, last, axis=-1) - count > 0
    dryness = WET_KG_M2 - climate.water_kg_m2
    return kept("wet", np.where(climate.wet, dryness, np.where(wet_between, -WET_KG_M2, dryness)), WET_KG_M2, rules)


def _moisture(climate: Climate, product: Product, rules: HouseRules, touch: Array) -> list[Check]:
    margin = climate.dew_margin_c
    after = forward_min(margin, steps_of(rules.after_h(product), climate))
    return [
        labelled("dew-margin", margin, product, rules),
        # The four hours after have the limit 0, and no band (reckonings.md).
        kept("dew-margin", np.where(after <= 0, np.minimum(after, -1e-9), after), 0.0, rules, aspect="after"),
        labelled("humidity", climate.rel_humidity_pct[..., None, :], product, rules),
        _wet_check(climate, rules, touch),
    ]


def rain_checks(climate: Climate, end: NDArray[np.intp], rules: HouseRules, tender_end: NDArray[np.intp] | None = None) -> list[Check]:
    """Check the chance and the amount of rain over the time that must stay dry.

    Parameters
    ----------
    end : ndarray of int, shape (..., S, Q)
        First instant that rain may come at, for what is done at each instant.
    rules : HouseRules
        How much chance this firm takes.
    tender_end : ndarray of int, shape (..., S, Q), optional
        First instant that rain does no harm at all: before it, rain is a caution.
    """
    limit, step_s = rules.max_rain_probability_pct, climate.grid.step_s
    share = rules.tight.rain_share * limit
    chance = chance_pct(climate.rain_probability_pct, end, step_s)
    near, shown = (chance >= share) & (chance > 0), chance
    rains = next_index(climate.rain_mm_h > rules.limits.trace_rain_mm)[..., None, :]
    over = rains < end
    streaks: NDArray[np.bool_] | None = None
    if tender_end is not None:
        later = chance_pct(climate.rain_probability_pct, tender_end, step_s)
        comes = (later > limit) & (chance <= limit)
        near, shown = near | comes, np.where(comes, later, chance)
        streaks = ~over & (rains < tender_end)
    amount = _amount_mm(climate.rain_mm_h, over, end if tender_end is None else np.where(over, end, tender_end))
    margin = np.where(chance > limit, limit - chance, np.maximum(limit - shown, 0.0))
    return [
        Check("rain", limit, margin, share or 1.0, near, -1, values=shown),
        kept("rain", np.where(over, -amount, 0.0), 0.0, rules, is_tight=streaks, aspect="amount", values=amount),
    ]


def _amount_mm(rain_mm_h: Array, over: NDArray[np.bool_], end: NDArray[np.intp]) -> Array:
    """Return the most rain of an hour before each end; of members, which only need to know whether, one for any."""
    if rain_mm_h.ndim > 1:
        return over.astype(float)
    return MostOver(rain_mm_h).span(np.arange(len(rain_mm_h)), end)


def film_check(climate: Climate, film: Film, rules: HouseRules, deep: NDArray[np.bool_] | None = None) -> Check:
    """Check that no dew comes on a film that cannot bear it: young ones are spoiled, tender ones may dull or streak.

    Parameters
    ----------
    deep : ndarray of bool, shape (S, 1), optional
        Deep waterborne tints: dew on a tender film streaks them, too.
    """
    count = climate.wet.shape[-1]
    following = next_index(climate.wet)
    # Of the instants after the stroke: what is wet when it is put on has its own rule.
    dew = np.concatenate([following[..., 1:], np.full((*following.shape[:-1], 1), count)], axis=-1)
    comes = dew < count
    young, tender = comes & (dew < film.young_until), comes & (dew < film.ready_at)
    broken = young if deep is None else young | (tender & deep)
    share = film.share_at(dew)
    margin = np.where(broken, np.minimum(share - 1, -_LEAST), np.where(tender, 0.0, np.inf))
    return kept("young-film", margin, 1.0, rules, is_tight=tender & ~broken, values=share)


def wind_check(climate: Climate, rules: HouseRules) -> Check:
    """Check the gusts: by access and method, for a sprayer by what lies downwind.

    Parameters
    ----------
    climate : Climate
        Wind, gusts, and where it comes from.
    rules : HouseRules
        Limit by access and method; for a sprayer what lies downwind.
    """
    gust = np.maximum(climate.gust_m_s, climate.wind_m_s)[..., None, :]
    share = rules.tight.wind_share
    band = (1 - share) * rules.max_wind_m_s
    spray = rules.site.spray if rules.site else None
    if spray is not None and rules.site is not None:
        near = np.broadcast_to(rules.site.is_downwind(climate.wind_from_deg, spray.spread_deg), climate.grid.epoch_s.shape)[None, :]
        most = np.minimum(np.where(near, spray.near_m_s, spray.free_m_s), rules.max_wind_m_s)
        careful = np.where(near, spray.tight_m_s, share * spray.free_m_s)
        return Check("wind", most, most - gust, band, gust > np.minimum(careful, share * rules.max_wind_m_s), -1)
    return Check("wind", rules.max_wind_m_s, rules.max_wind_m_s - gust, band, gust > share * rules.max_wind_m_s, -1)


def _sun(climate: Climate, rules: HouseRules) -> Check:
    warm = rules.limits.warm_in_sun_c
    margin = np.where(climate.direct_sun, warm - climate.surface_temp_c, np.inf)
    hot = climate.direct_sun & (margin <= 0)
    if rules.sun_rule == "shade":
        # Warm in the sun is shut; sun on a cool surface is a caution.
        return kept("sun", np.where(hot, np.minimum(margin, -1e-9), margin), warm, rules, is_tight=climate.direct_sun)
    # The surface's own cap decides: warm in the sun is a caution and never shuts.
    return kept("sun", np.where(hot, 0.0, margin), warm, rules, is_tight=hot)


def daylight(climate: Climate, rules: HouseRules) -> Check:
    """Check that the sun is above the horizon; on a job, until the strokes of the quarter-hour are laid off."""
    height = climate.sky.true_elevation_deg[None, :] + 0.833
    if rules.site is not None:
        at = climate.grid.epoch_s
        height = np.minimum(height, np.interp(at + QUARTER_S + LAY_OFF_S, at, height[0])[None, :])
    return kept("daylight", np.where(height <= 0, np.minimum(height, -1e-9), height), -0.833, rules)


def _known(climate: Climate, product: Product, rules: HouseRules, touch: Array, film: Film) -> list[Check]:
    """Daylight, and whether everything that must be known lies within the data."""
    grid = climate.grid
    left = ((grid.epoch_s[-1] - grid.epoch_s) / 3600)[None, :]
    needed = left - max(product.hold_h, rules.after_h(product))
    young_h = (film.young_until - np.arange(len(grid.epoch_s))) * (grid.step_s / 3600)
    # A film that is not touch-dry, or still young, by the end of the data may be dewed on after it.
    unknown = np.isinf(touch) | np.isinf(young_h)
    margin = np.where(unknown, np.minimum(needed, -_LEAST), np.minimum(needed, left - young_h))
    return [daylight(climate, rules), kept("forecast-end", margin, 0.0, rules)]


def _deep(climate: Climate, product: Product, rules: HouseRules) -> NDArray[np.bool_] | None:
    """Return which surfaces get a deep waterborne tint, shape (S, 1); None where a job's colours are not asked about."""
    if rules.site is None or climate.lrv_pct is None or product.kind != "waterborne":
        return None
    result: NDArray[np.bool_] = (climate.lrv_pct < rules.limits.deep_lrv_pct)[:, None]
    return result


def film_over(climate: Climate, product: Product, rules: HouseRules) -> Film:
    """Return the fate of the films of a coat put on all surfaces at each instant.

    Parameters
    ----------
    climate : Climate
        S surfaces, Q instants.
    product : Product
        Data sheet of the coating.
    rules : HouseRules
        Of school 21.
    """
    rate = drying_rate(product.kind, climate.surface_temp_c, climate.vapour_pa[..., None, :], climate.wind_m_s[..., None, :])
    progress = progress_h(rate, climate.grid.step_s)
    return film_of(progress, product.rain_free_h, rules.young_share, climate.grid.step_s)


def check_limits(climate: Climate, product: Product, rules: HouseRules) -> list[Check]:
    """Check every limit for paint put on in each quarter-hour.

    Parameters
    ----------
    climate : Climate
        S surfaces, Q instants.
    product : Product
        Data sheet of the coating.
    rules : HouseRules

    Returns
    -------
    list of Check
        Margins of shape (..., S, Q), or (..., 1, Q) for what is the same for all surfaces; a leading axis is that of members.

    References
    ----------
    Handbook 3; reckonings.md, `windows`, which fixes which rule speaks for what.
    """
    film = film_over(climate, product, rules)
    touch = ready_index(film.progress, product.touch_h)
    return [
        *_temperature(climate, product, rules),
        *_moisture(climate, product, rules, touch),
        *rain_checks(climate, film.young_end, rules, film.ready_end),
        film_check(climate, film, rules, _deep(climate, product, rules)),
        wind_check(climate, rules),
        _sun(climate, rules),
        *_known(climate, product, rules, touch, film),
        *(site_checks(climate, product, rules) if rules.site else []),
    ]


def film_checks(climate: Climate, product: Product, rules: HouseRules) -> list[Check]:
    """Check what a young film cannot bear, of `check_limits` rain, a wet surface and dew; nothing here asks how moist a wall is."""
    film = film_over(climate, product, rules)
    return [
        _wet_check(climate, rules, ready_index(film.progress, product.touch_h)),
        *rain_checks(climate, film.young_end, rules, film.ready_end),
        film_check(climate, film, rules, _deep(climate, product, rules)),
    ]


def thunder_checks(climate: Climate, rules: HouseRules) -> list[Check]:
    """Check that no thunder is heard or forecast: everybody down until so long after the last (handbook 3); nothing without any."""
    heard = rules.site.thunder_s if rules.site else ()
    told = climate.thunder_probability_pct
    if not heard and told is None:
        return []
    at = climate.grid.epoch_s
    margin = np.full(len(at), np.inf)
    if told is not None:
        # Hours since the last instant that may bring thunder, less those that must pass.
        places = np.maximum.accumulate(np.where(told >= rules.limits.thunder_pct, np.arange(len(at)), -(10**6)))
        passed_h = (np.arange(len(at)) - places - 1) * climate.grid.step_s / 3600
        margin = np.where(passed_h < rules.limits.thunder_h - _LEAST, np.minimum(passed_h - rules.limits.thunder_h, -_LEAST), margin)
    for from_s, until_s in heard:
        # The quarter-hour in which it was heard too.
        within = (at + climate.grid.step_s > from_s) & (at < until_s)
        margin[within] = np.minimum(margin[within], (at[within] - until_s) / 3600)
    near = None if told is None else ((told >= rules.limits.thunder_pct / 2) & np.isinf(margin))[None, :]
    shown = margin[None, :] if near is None else np.where(near, 0.0, margin[None, :])
    return [kept("thunder", shown, 0.0, rules, is_tight=near)]


def held_checks(climate: Climate, rules: HouseRules) -> list[Check]:
    """Check that nothing holds the part up, whatever the weather: a gate that is not cleared, a patch that is waited for."""
    held = rules.site.held_by if rules.site else ()
    return [kept(name, np.full((1, len(climate.grid.epoch_s)), -1.0), 0.0, rules) for name in held]


def moisture_check(climate: Climate, rules: HouseRules, label_max_pct: float = 100.0) -> list[Check]:
    """Check that what is painted is dry inside, by its own limit or the label's; nothing where nothing takes up water.

    Parameters
    ----------
    label_max_pct : float
        What the label allows [%]; the lower of the two holds.
    """
    if climate.moisture_pct is None or climate.moisture_max_pct is None:
        return []
    most = np.minimum(climate.moisture_max_pct, label_max_pct)
    margin = np.where(np.isnan(climate.moisture_pct), np.inf, most[:, None] - climate.moisture_pct)
    return [kept("moisture", margin, most, rules, is_tight=margin <= rules.limits.moisture_tight_pct)]


def site_checks(climate: Climate, product: Product, rules: HouseRules) -> list[Check]:
    """What holds the part up, thunder and moisture, and cautions: dew on a deep tint, sun soon on a dark coat (handbook 3)."""
    limits, shape = rules.limits, climate.surface_temp_c.shape
    checks = [*held_checks(climate, rules), *thunder_checks(climate, rules)]
    checks += moisture_check(climate, rules, product.max_moisture_pct)
    if climate.lrv_pct is None:
        return checks
    deep = (climate.lrv_pct < limits.deep_lrv_pct)[:, None]
    if product.kind == "waterborne":
        # Hours until water first stands on it: dew, or a drizzle.
        dew = _hours_until(climate.wet | (climate.rain_mm_h[..., None, :] > 0), climate.grid.step_s)
        streaks = deep & (dew < limits.leaching_h) & (dew > 0)
        checks.append(kept("leaching", np.where(streaks, dew, np.inf), 0.0, rules, is_tight=streaks))
    soon = _hours_until(climate.direct_sun, climate.grid.step_s)
    comes = deep & (soon > 0) & (soon <= limits.sun_soon_h)
    checks.append(kept("sun-soon", np.where(comes, soon, np.inf), 0.0, rules, is_tight=np.broadcast_to(comes, shape)))
    return checks


def _hours_until(flags: NDArray[np.bool_], step_s: float) -> Array:
    """Return the hours from each instant to the next flag, shape (S, Q); 0 at one, infinite where none comes."""
    count = flags.shape[-1]
    places = np.where(flags, np.arange(count, dtype=float), np.inf)
    following: Array = np.minimum.accumulate(places[..., ::-1], axis=-1)[..., ::-1]
    result: Array = (following - np.arange(count)) * (step_s / 3600)
    return result

"""The weather limits, each checked for every surface and quarter-hour (handbook 3).

A check says how far a rule is from breaking (its margin), at the quarter-hour itself or over the
time that the fresh coat needs afterwards. Meanings are those of reckonings.md, `windows`.
What a job's site asks besides (thunder, moisture under the paint, dew on deep tints, sun soon on dark coats) follows below.
Not here: how checks become open, tight or shut (states).
"""

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import drying_rate, progress_h, ready_index
from amber_gable.core.knowledge import Product
from amber_gable.core.wall.climate import WET_KG_M2, Climate
from amber_gable.core.windows.check import Check, HouseRules, forward_min, kept, labelled, steps_of

_RAIN_BLOCK_H = 3.0


def _temperature(climate: Climate, product: Product, rules: HouseRules) -> list[Check]:
    air = climate.air_temp_c[..., None, :]
    surface = climate.surface_temp_c
    after = steps_of(rules.limits.after_application_h, climate)
    return [
        labelled("air-temp-low", air, product, rules),
        labelled("air-temp-high", air, product, rules),
        labelled("surface-temp-low", forward_min(surface, after), product, rules),
        labelled("surface-temp-high", surface, product, rules),
        labelled("hold", forward_min(surface, steps_of(product.hold_h, climate)), product, rules),
        kept("frost", np.where(surface <= 0, np.minimum(surface, -1e-9), surface), 0.0, rules),
    ]


def _moisture(climate: Climate, product: Product, rules: HouseRules, touch: Array) -> list[Check]:
    margin = climate.dew_margin_c
    after = forward_min(margin, steps_of(rules.limits.after_application_h, climate))
    # Wet now, or dewed on before the film is touch-dry.
    count = np.cumsum(climate.wet, axis=-1)
    last = np.minimum(np.floor(np.nan_to_num(touch, posinf=1e9)), margin.shape[-1] - 1).astype(int)
    wet_between = np.take_along_axis(count, last, axis=-1) - count > 0
    millimetres = climate.water_kg_m2
    dryness = WET_KG_M2 - millimetres
    wet = np.where(climate.wet, dryness, np.where(wet_between, -WET_KG_M2, dryness))
    return [
        labelled("dew-margin", margin, product, rules),
        # The four hours after have the limit 0, and no band (reckonings.md).
        kept("dew-margin", np.where(after <= 0, np.minimum(after, -1e-9), after), 0.0, rules, aspect="after"),
        labelled("humidity", climate.rel_humidity_pct[..., None, :], product, rules),
        kept("wet", wet, WET_KG_M2, rules),
    ]


def rain_chance_pct(climate: Climate, hours: float) -> Array:
    """Return the chance of rain in the `hours` after each instant, shape (..., Q) [%].

    One chance over the span: hours within a block of three are taken as one event, blocks as
    independent (reckonings.md).

    Parameters
    ----------
    climate : Climate
        Chance of rain at Q instants.
    hours : float
        That must stay dry.
    """
    dry = np.ones_like(climate.rain_probability_pct)
    total, block = steps_of(hours, climate), steps_of(_RAIN_BLOCK_H, climate)
    for first in range(0, total, block):
        length = min(block, total - first)
        largest = -forward_min(-climate.rain_probability_pct, length - 1)
        shifted = np.zeros_like(largest)
        # Nothing is known of a block that begins beyond the data (forecast-end says so).
        hours_left = max(largest.shape[-1] - first, 0)
        shifted[..., :hours_left] = largest[..., largest.shape[-1] - hours_left :]
        dry *= 1 - shifted / 100
    # Rounded, so that one block of 30 % is 30 % and not a hair more than a limit of 30.
    result: Array = np.round(100 * (1 - dry), 9)
    return result


def rain_checks(climate: Climate, rain_free_h: float, rules: HouseRules) -> list[Check]:
    """Check the chance and the amount of rain over the time that must stay dry.

    Parameters
    ----------
    rain_free_h : float
        Hours that must stay dry.
    rules : HouseRules
        How much chance this firm takes.
    """
    limit = rules.max_rain_probability_pct
    chance = rain_chance_pct(climate, rain_free_h)[..., None, :]
    steps = max(steps_of(rain_free_h, climate) - 1, 0)
    amount = -forward_min(-climate.rain_mm_h, steps)[..., None, :]
    over = amount > rules.limits.trace_rain_mm
    near = chance >= rules.tight.rain_share * limit
    return [
        Check("rain", limit, limit - chance, rules.tight.rain_share * limit or 1.0, near & (chance > 0), -1),
        kept("rain", np.where(over, -amount, 0.0), 0.0, rules, aspect="amount"),
    ]


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
    """Check that the sun is above the horizon."""
    height = climate.sky.true_elevation_deg[None, :] + 0.833
    return kept("daylight", np.where(height <= 0, np.minimum(height, -1e-9), height), -0.833, rules)


def _known(climate: Climate, product: Product, rules: HouseRules, touch: Array) -> list[Check]:
    """Daylight, and whether everything that must be known lies within the data."""
    end = climate.grid.epoch_s[-1]
    left = (end - climate.grid.epoch_s) / 3600
    needed = np.minimum(
        left - max(product.hold_h, rules.limits.after_application_h),
        left + 1 - product.rain_free_h,
    )[None, :]
    # A film that is not touch-dry by the end of the data may be dewed on after it.
    margin = np.where(np.isinf(touch), np.minimum(needed, -1e-9), needed)
    return [daylight(climate, rules), kept("forecast-end", margin, 0.0, rules)]


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
    rate = drying_rate(product.kind, climate.surface_temp_c, climate.vapour_pa[..., None, :], climate.wind_m_s[..., None, :])
    touch = ready_index(progress_h(rate, climate.grid.step_s), product.touch_h)
    return [
        *_temperature(climate, product, rules),
        *_moisture(climate, product, rules, touch),
        *rain_checks(climate, product.rain_free_h, rules),
        wind_check(climate, rules),
        _sun(climate, rules),
        *_known(climate, product, rules, touch),
        *(site_checks(climate, product, rules) if rules.site else []),
    ]


def thunder_checks(climate: Climate, rules: HouseRules) -> list[Check]:
    """Check that no thunder was heard; nothing where none was."""
    heard = rules.site.thunder_s if rules.site else ()
    if not heard:
        return []
    at = climate.grid.epoch_s
    margin = np.full(len(at), np.inf)
    for from_s, until_s in heard:
        # The quarter-hour in which it was heard too.
        within = (at + climate.grid.step_s > from_s) & (at < until_s)
        margin[within] = np.minimum(margin[within], (at[within] - until_s) / 3600)
    return [kept("thunder", margin[None, :], 0.0, rules)]


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
    """Moisture, and what is only a caution: dew on a deep tint, sun soon on a dark coat (handbook 3)."""
    limits, shape = rules.limits, climate.surface_temp_c.shape
    checks = thunder_checks(climate, rules)
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

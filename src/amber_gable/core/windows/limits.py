"""The weather limits, each checked for every surface and quarter-hour (handbook 3).

A check says how far a rule is from breaking (its margin), at the quarter-hour itself or over the
time that the fresh coat needs afterwards. Meanings are those of reckonings.md, `windows`.
Not here: what a job's site asks besides (site_checks), how checks become open, tight or shut (states).
"""

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import drying_rate, progress_h, ready_index
from amber_gable.core.knowledge import Product
from amber_gable.core.wall.climate import WET_KG_M2, Climate
from amber_gable.core.windows.check import Check, HouseRules, banded, forward_min, steps_of
from amber_gable.core.windows.site_checks import site_checks

_RAIN_BLOCK_H = 3.0
# A dew that is felt at all outranks the margin that let it form.
_WET_BAND_KG_M2 = 0.01


def _temperature(climate: Climate, product: Product, rules: HouseRules) -> list[Check]:
    band = rules.tight.temperature_c
    air = climate.air_temp_c[..., None, :]
    surface = climate.surface_temp_c
    after = steps_of(rules.limits.after_application_h, climate)
    return [
        banded("air-temp-low", air - product.min_air_temp_c, product.min_air_temp_c, band),
        banded("air-temp-high", product.max_air_temp_c - air, product.max_air_temp_c, band, -1),
        banded("surface-temp-low", forward_min(surface, after) - product.min_surface_temp_c, product.min_surface_temp_c, band),
        banded("surface-temp-high", product.max_surface_temp_c - surface, product.max_surface_temp_c, band, -1),
        banded(
            "hold",
            forward_min(surface, steps_of(product.hold_h, climate)) - product.hold_min_surface_temp_c,
            product.hold_min_surface_temp_c,
            band,
        ),
        Check("frost", 0.0, np.where(surface <= 0, np.minimum(surface, -1e-9), surface), band),
    ]


def _moisture(climate: Climate, product: Product, rules: HouseRules, touch: Array) -> list[Check]:
    margin = climate.dew_margin_c
    band = rules.tight.dew_margin_c
    after = forward_min(margin, steps_of(rules.limits.after_application_h, climate))
    humidity = product.max_rel_humidity_pct - climate.rel_humidity_pct[..., None, :]
    # Wet now, or dewed on before the film is touch-dry.
    count = np.cumsum(climate.wet, axis=-1)
    last = np.minimum(np.floor(np.nan_to_num(touch, posinf=1e9)), margin.shape[-1] - 1).astype(int)
    wet_between = np.take_along_axis(count, last, axis=-1) - count > 0
    millimetres = climate.water_kg_m2
    dryness = WET_KG_M2 - millimetres
    wet = np.where(climate.wet, dryness, np.where(wet_between, -WET_KG_M2, dryness))
    return [
        banded("dew-margin", margin - product.min_dew_margin_c, product.min_dew_margin_c, band),
        # The four hours after have the limit 0, and no band (reckonings.md).
        Check("dew-margin", 0.0, np.where(after <= 0, np.minimum(after, -1e-9), after), band),
        banded("humidity", humidity, product.max_rel_humidity_pct, rules.tight.humidity_pct, -1),
        Check("wet", WET_KG_M2, wet, _WET_BAND_KG_M2, None, -1),
    ]


def rain_chance_pct(climate: Climate, hours: float) -> Array:
    """Return the chance of rain in the `hours` after each instant, shape (..., Q) [%].

    One chance over the span: hours within a block of three are taken as one event, blocks as
    independent (reckonings.md).
    """
    dry = np.ones_like(climate.rain_probability_pct)
    total, block = steps_of(hours, climate), steps_of(_RAIN_BLOCK_H, climate)
    for first in range(0, total, block):
        length = min(block, total - first)
        largest = -forward_min(-climate.rain_probability_pct, length - 1)
        shifted = np.zeros_like(largest)
        # Nothing is known of a block that begins beyond the data (forecast-end says so).
        known = max(largest.shape[-1] - first, 0)
        shifted[..., :known] = largest[..., largest.shape[-1] - known :]
        dry *= 1 - shifted / 100
    # Rounded, so that one block of 30 % is 30 % and not a hair more than a limit of 30.
    result: Array = np.round(100 * (1 - dry), 9)
    return result


def rain_checks(climate: Climate, rain_free_h: float, rules: HouseRules) -> list[Check]:
    """Check the chance and the amount of rain over the time that must stay dry."""
    limit = rules.max_rain_probability_pct
    chance = rain_chance_pct(climate, rain_free_h)[..., None, :]
    steps = max(steps_of(rain_free_h, climate) - 1, 0)
    amount = -forward_min(-climate.rain_mm_h, steps)[..., None, :]
    over = amount > rules.limits.trace_rain_mm
    near = chance >= rules.tight.rain_share * limit
    return [
        Check("rain", limit, limit - chance, rules.tight.rain_share * limit or 1.0, near & (chance > 0), -1),
        Check("rain", 0.0, np.where(over, -amount, 0.0), 1.0, None, -1),
    ]


def wind_check(climate: Climate, rules: HouseRules) -> Check:
    """Check the gusts: by access and method, for a sprayer by what lies downwind."""
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
    band = rules.tight.temperature_c
    if rules.sun_rule == "shade":
        # Warm in the sun is shut; sun on a cool surface is a caution.
        return Check("sun", warm, np.where(hot, np.minimum(margin, -1e-9), margin), band, climate.direct_sun, -1)
    # The surface's own cap decides: warm in the sun is a caution and never shuts.
    return Check("sun", warm, np.where(hot, 0.0, margin), band, hot, -1)


def daylight(climate: Climate) -> Check:
    """Check that the sun is above the horizon."""
    height = climate.sky.true_elevation_deg[None, :] + 0.833
    return Check("daylight", -0.833, np.where(height <= 0, np.minimum(height, -1e-9), height), 1.0)


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
    return [daylight(climate), Check("forecast-end", 0.0, margin, 1.0)]


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

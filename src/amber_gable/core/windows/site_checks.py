"""What a job's site asks beyond the common limits: thunder, moisture under the paint, dew on deep tints, sun soon on dark coats.

Handbook 3; the common limits are those of reckonings.md and never change by this.
"""

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.knowledge import Product
from amber_gable.core.wall.climate import Climate
from amber_gable.core.windows.check import Check, HouseRules


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
    return [Check("thunder", 0.0, margin[None, :], 1.0)]


def moisture_check(climate: Climate, rules: HouseRules, label_max_pct: float = 100.0) -> list[Check]:
    """Check that what is painted is dry inside, by its own limit or the label's; nothing where nothing takes up water."""
    if climate.moisture_pct is None or climate.moisture_max_pct is None:
        return []
    most = np.minimum(climate.moisture_max_pct, label_max_pct)
    margin = np.where(np.isnan(climate.moisture_pct), np.inf, most[:, None] - climate.moisture_pct)
    band = rules.limits.moisture_tight_pct
    return [Check("moisture", most, margin, band, margin <= band, -1)]


def site_checks(climate: Climate, product: Product, rules: HouseRules) -> list[Check]:
    """Moisture, and what is only a caution: dew on a deep tint, sun soon on a dark coat (handbook 3)."""
    limits, shape = rules.limits, climate.surface_temp_c.shape
    found = thunder_checks(climate, rules)
    found += moisture_check(climate, rules, product.max_moisture_pct)
    if climate.lrv_pct is None:
        return found
    deep = (climate.lrv_pct < limits.deep_lrv_pct)[:, None]
    if product.kind == "waterborne":
        # Hours until water first stands on it: dew, or a drizzle.
        dew = _hours_until(climate.wet | (climate.rain_mm_h[..., None, :] > 0), climate.grid.step_s)
        streaks = deep & (dew < limits.leaching_h) & (dew > 0)
        found.append(Check("leaching", 0.0, np.where(streaks, dew, np.inf), limits.leaching_h, streaks))
    soon = _hours_until(climate.direct_sun, climate.grid.step_s)
    comes = deep & (soon > 0) & (soon <= limits.sun_soon_h)
    found.append(Check("sun-soon", 0.0, np.where(comes, soon, np.inf), limits.sun_soon_h, np.broadcast_to(comes, shape)))
    return found


def _hours_until(flags: NDArray[np.bool_], step_s: float) -> Array:
    """Return the hours from each instant to the next flag, shape (S, Q); 0 at one, infinite where none comes."""
    count = flags.shape[-1]
    places = np.where(flags, np.arange(count, dtype=float), np.inf)
    following: Array = np.minimum.accumulate(places[..., ::-1], axis=-1)[..., ::-1]
    result: Array = (following - np.arange(count)) * (step_s / 3600)
    return result

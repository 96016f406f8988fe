"""Moisture of what is painted, through the weather: boards toward the climate's equilibrium, masonry toward dry.

A face that is soaked takes up water, one that is not gives it off; a meter reading or a wash sets it anew. Each is a straight
relaxation with a time constant by what it is.
Not here: dew and rain on the face (surface_temperature), the equilibrium of wood (wood_moisture), or limits (windows).
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array, saturation_pressure_pa
from amber_gable.core.coat.drying import drying_rate
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.knowledge.wall_rows import Stock
from amber_gable.core.wall.wood_moisture import equilibrium_moisture_pct

SOAKS_KG_M2 = assumed("soaks_kg_m2")
SOAKING_RAIN_MM_H = assumed("soaking_rain_mm_h")
# Equilibrium of wood is published up to saturation; air as humid as that is short of soaking.
_MOST_HUMID_PCT = 95.0
_FIRST_DAY_S = 86_400.0
# How often it is looked whether what was washed is dry enough.
_LOOKS_S = 3600.0


def relaxed(start: Array, target: Array, rate_per_s: Array, step_s: float) -> Array:
    """Return what relaxes toward a target, shape (..., Q): the first instant is `start`.

    Parameters
    ----------
    start : ndarray, shape (...,)
    target, rate_per_s : ndarray, shape (..., Q)
        Of the step that begins at each instant.

    Notes
    -----
    Exact for what is steady within a step, and in one pass over all steps: each is weighed by what is left of it at the end.
    In blocks of at most forty time constants, beyond which nothing is left of the weights.
    """
    gone = np.concatenate([np.zeros((*rate_per_s.shape[:-1], 1)), np.cumsum(rate_per_s[..., :-1] * step_s, axis=-1)], axis=-1)
    out = np.empty_like(target)
    count, first = target.shape[-1], 0
    value = np.asarray(start, dtype=float)
    while first < count:
        since = gone[..., first:] - gone[..., first : first + 1]
        within = int(np.searchsorted(since.reshape(-1, since.shape[-1]).max(axis=0), 40.0, side="right"))
        last = first + max(within, 2)
        grown = np.exp(since[..., : last - first])
        added = target[..., first : last - 1] * np.diff(grown, axis=-1)[..., : last - first - 1]
        total = np.cumsum(np.concatenate([value[..., None], added], axis=-1), axis=-1)
        part = total / grown[..., : total.shape[-1]]
        out[..., first : first + part.shape[-1]] = part
        value = part[..., -1]
        first += part.shape[-1] - 1
        if first >= count - 1:
            break
    return out


def moisture_pct(
    stock: Stock, surface_temp_c: Array, vapour_pa: Array, wind_m_s: Array, water_kg_m2: Array, falls_kg_m2s: Array | None,
    step_s: float, observations: Sequence[tuple[int, float]] = (), found_dry: Sequence[int] = (),
) -> Array:  # fmt: skip
    """Return the moisture of one stock through time, shape (..., Q) [%], as its meter would show it.

    Parameters
    ----------
    stock : Stock
    surface_temp_c, vapour_pa, wind_m_s, water_kg_m2 : ndarray, shape (..., Q)
        Of its face and the air before it.
    falls_kg_m2s : ndarray, shape (..., Q), or None
        Rain that reaches it.
    observations : sequence of (instant, moisture)
        What a meter showed, or what a wash left; from there on it goes on by the weather. Those of one instant: the last one.
    found_dry : sequence of int
        Instants at which a palm found it dry: it holds no more from there on than it may.
    """
    target, rate, rest = _relaxation(stock, surface_temp_c, vapour_pa, wind_m_s, water_kg_m2, falls_kg_m2s, step_s)
    # What it has come to by itself before: the mean of the first day.
    begin = rest[..., : max(int(_FIRST_DAY_S / step_s), 1)].mean(axis=-1)
    out = relaxed(begin, target, rate, step_s)
    told: list[tuple[int, float | None]] = [*((q, None) for q in found_dry), *observations]
    for instant, shown in sorted(told, key=lambda t: t[0]):
        again = np.minimum(out[..., instant], stock.max_pct) if shown is None else np.full(begin.shape, shown)
        if instant < out.shape[-1] - 1:
            out[..., instant:] = relaxed(again, target[..., instant:], rate[..., instant:], step_s)
        else:
            out[..., instant:] = again[..., None]
    return out


def _relaxation(
    stock: Stock, surface_temp_c: Array, vapour_pa: Array, wind_m_s: Array, water_kg_m2: Array, falls_kg_m2s: Array | None, step_s: float,
) -> tuple[Array, Array, Array]:  # fmt: skip
    """Return what a stock relaxes toward [%], how fast [1/s], and what it would come to by itself, each of shape (..., Q)."""
    if stock.equilibrium_pct is None:
        # A board feels the day and not the hour. It gives off by what its warmth would saturate and takes up by what is in the
        # air: in balance over a day where the means of the two are.
        warmth = _felt(surface_temp_c, step_s)
        given, taken = (
            _felt(saturation_pressure_pa(surface_temp_c), step_s),
            _felt(np.broadcast_to(vapour_pa, surface_temp_c.shape), step_s),
        )
        rest = equilibrium_moisture_pct(warmth, np.clip(100 * taken / given, 1.0, _MOST_HUMID_PCT))
        dries = np.full(rest.shape, 1 / (stock.dries_h * 3600))
    else:
        rest = np.full(surface_temp_c.shape, stock.equilibrium_pct)
        dries = drying_rate("waterborne", surface_temp_c, vapour_pa, wind_m_s) / (stock.dries_h * 3600)
    soaked = ((water_kg_m2 > SOAKS_KG_M2) & _of_rain(water_kg_m2, falls_kg_m2s)).astype(float)
    if falls_kg_m2s is not None:
        # Drizzle that a warm wall dries off as it falls is drunk all the same, the more slowly the less of it there is.
        soaked = np.maximum(soaked, np.minimum(falls_kg_m2s * 3600 / SOAKING_RAIN_MM_H, 1.0))
    # A share of the time it takes up, for the rest it gives off.
    wets = soaked / (stock.wets_h * 3600)
    gives = (1 - soaked) * dries
    rate = wets + gives
    target = (wets * stock.saturated_pct + gives * rest) / np.maximum(rate, 1e-30)
    return target, rate, rest


def _of_rain(water_kg_m2: Array, falls_kg_m2s: Array | None) -> NDArray[np.bool_]:
    """Return where rain has fallen since the face was last dry: a night's dew is too little to soak anything."""
    if falls_kg_m2s is None:
        return np.zeros(water_kg_m2.shape, dtype=bool)
    places = np.arange(water_kg_m2.shape[-1])
    rained = np.maximum.accumulate(np.where(falls_kg_m2s > 0, places, -1), axis=-1)
    dry = np.maximum.accumulate(np.where(water_kg_m2 > 0, -1, places), axis=-1)
    # Rain of an instant is on the face an instant later.
    result: NDArray[np.bool_] = rained >= np.maximum(dry, 0)
    return result & (rained >= 0)


def _felt(values: Array, step_s: float) -> Array:
    """Return values as a board feels them, the last day weighing most, shape as given (..., Q)."""
    begin = values[..., : max(int(_FIRST_DAY_S / step_s), 1)].mean(axis=-1)
    return relaxed(begin, values, np.full(values.shape, 1 / _FIRST_DAY_S), step_s)


def paintable_after_wash(
    stock: Stock, moisture: Array, surface_temp_c: Array, vapour_pa: Array, wind_m_s: Array, water_kg_m2: Array,
    falls_kg_m2s: Array | None, step_s: float, most_pct: float,
) -> Array:  # fmt: skip
    """Return, by the instant at which a wash ends, the instant from which the stock is below a limit, shape (Q,); inf beyond the data.

    Parameters
    ----------
    stock : Stock
    moisture : ndarray, shape (Q,)
        Without that wash [%].
    surface_temp_c, vapour_pa, wind_m_s, water_kg_m2, falls_kg_m2s : ndarray, shape (Q,)
        As for `moisture_pct`.
    most_pct : float
        The limit [%].

    Notes
    -----
    What is relaxed is linear in where it begins: a wash at q adds (washed - moisture(q)) exp(-G), G being the time constants gone
    since. Looked at each hour, and later rather than sooner.
    """
    _, rate, _ = _relaxation(stock, surface_temp_c, vapour_pa, wind_m_s, water_kg_m2, falls_kg_m2s, step_s)
    gone = np.concatenate([[0.0], np.cumsum(rate[:-1] * step_s)])
    every = max(round(_LOOKS_S / step_s), 1)
    at = np.arange(0, len(moisture), every)
    base, since = moisture[at], gone[at]
    washed = base[None, :] + (stock.washed_pct - base)[:, None] * np.exp(-np.maximum(since[None, :] - since[:, None], 0.0))
    is_fit = np.triu(washed <= most_pct)
    first = np.where(is_fit.any(axis=1), at[is_fit.argmax(axis=1)].astype(float), np.inf)
    # A wash that ends within the hour: as one at its end.
    beyond = np.append(first, np.inf)
    result: Array = beyond[-(-np.arange(len(moisture)) // every)]
    return result


def first_dry(moisture: Array, most_pct: float, first: int) -> int | None:
    """Return the first instant from `first` on at which moisture (Q,) is at or below a limit; None if not in the data.

    Parameters
    ----------
    moisture : ndarray, shape (Q,)
        Of the material [%].
    most_pct : float
        The limit.
    first : int
        Instant to look from.
    """
    below = np.flatnonzero(moisture[first:] <= most_pct)
    return first + int(below[0]) if len(below) else None

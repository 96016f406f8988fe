"""Drying: how far a coat has come toward touch-dry, recoat and rain-resistant.

Label times hold at 25 °C and 50 % humidity. Progress is the integral of a rate relative to that;
a rate above 1 never shortens a label time.
Not here: whether a coat may go on at all (windows).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from amber_gable.core.air.humid import Array, saturation_pressure_pa, vapour_pressure_pa
from amber_gable.core.knowledge.assumptions import assumed

Kind = Literal["waterborne", "alkyd"]

REFERENCE_TEMP_C = 25.0
REFERENCE_HUMIDITY_FRAC = 0.5


def drying_rate(kind: Kind, surface_temp_c: ArrayLike, vapour_pa: ArrayLike, wind_m_s: ArrayLike) -> Array:
    """Return the rate of drying relative to the label's conditions, 0 to 1.

    Parameters
    ----------
    kind : {"waterborne", "alkyd"}
        Waterborne films need evaporation and coalescence, alkyds warmth alone.
    surface_temp_c, vapour_pa, wind_m_s : array_like, broadcastable
        Surface temperature [°C], vapour pressure of the air [Pa], wind [m/s].

    References
    ----------
    reckonings.md, `drying`: min(1, 2^((T - 25)/10), evaporation), never below 0.
    """
    result: Array = np.clip(liveliness(kind, surface_temp_c, vapour_pa, wind_m_s), 0.0, 1.0)
    return result


def liveliness(kind: Kind, surface_temp_c: ArrayLike, vapour_pa: ArrayLike, wind_m_s: ArrayLike) -> Array:
    """Return the rate of drying relative to the label's conditions, not held to 1: above it the edge goes off sooner.

    Parameters
    ----------
    kind, surface_temp_c, vapour_pa, wind_m_s
        As for `drying_rate`.
    """
    warmth: Array = np.exp2((np.asarray(surface_temp_c, dtype=float) - REFERENCE_TEMP_C) / 10)
    if kind == "alkyd":
        return warmth
    reference = float(saturation_pressure_pa(REFERENCE_TEMP_C)) * (1 - REFERENCE_HUMIDITY_FRAC)
    draw = (saturation_pressure_pa(surface_temp_c) - np.asarray(vapour_pa, dtype=float)) / reference
    evaporation = draw * (1 + 0.5 * np.asarray(wind_m_s, dtype=float)) / 1.5
    result: Array = np.minimum(warmth, evaporation)
    return result


_SLOWEST = assumed("slowest_edge_share")


def open_time_min(kind: Kind, usual_min: float, surface_temp_c: float, vapour_pa: float, wind_m_s: float) -> float:
    """Return how long an edge stays wet [min]: shorter in heat, wind and dry air.

    Parameters
    ----------
    kind, surface_temp_c, vapour_pa, wind_m_s
        As for `drying_rate`.
    usual_min : float
        At label conditions.

    References
    ----------
    Handbook 4: a rate above 1 shortens the open time.
    """
    return usual_min / max(float(liveliness(kind, surface_temp_c, vapour_pa, wind_m_s)), _SLOWEST)


def progress_h(rate: Array, step_s: float) -> Array:
    """Return label-hours of drying done since the first instant, shape as `rate` (S, Q).

    Parameters
    ----------
    rate : ndarray, shape (S, Q)
        Drying against that of the label, 1 at 25 °C and 50 %.
    step_s : float
        Between two instants [s].
    """
    done = np.zeros_like(rate)
    np.cumsum((rate[..., 1:] + rate[..., :-1]) * (step_s / 7200), axis=-1, out=done[..., 1:])
    return done


# Where drying stands still; and how many rows are not worth loading the compiled look-up for.
_HAIR_H, _FEW_ROWS = 1e-12, 200


def ready_index(progress: Array, label_h: float) -> Array:
    """Return, for a coat put on at each instant, the instant at which `label_h` is reached.

    Parameters
    ----------
    progress : ndarray, shape (..., Q)
        From `progress_h`.
    label_h : float
        Label time [h].

    Returns
    -------
    ndarray of float, shape (..., Q)
        Fractional index of the instant; inf where the data end before.
    """
    count = progress.shape[-1]
    # In the order of its axes, whatever that of `progress` in memory: rows of it are views then, and what is written there is kept.
    out = np.empty(progress.shape)
    places = np.arange(count, dtype=float)
    rows, places_of = progress.reshape(-1, count), out.reshape(-1, count)
    if len(rows) > _FEW_ROWS:
        from amber_gable.core.coat.ready import reached

        reached(np.ascontiguousarray(rows), label_h, _HAIR_H, places_of)
        return out
    for row, done in enumerate(rows):
        target = done + label_h
        # Where drying stands still the progress is level: the later end of the level is meant,
        # so a hair per step makes it strictly rising for the look-up.
        strict = done + _HAIR_H * places
        places_reached = np.interp(target, strict, places, right=np.inf)
        places_of[row] = np.maximum(places_reached, places)
    return out


# Times are found to the minute's straight piece: finer than any label.
_FINE_S = 60.0


@dataclass(frozen=True)
class Exposure:
    """The air and the surface a coat dries in, at N times, linear between.

    Parameters
    ----------
    epoch_s : ndarray, shape (N,)
        Strictly increasing.
    air_temp_c, rel_humidity_pct, wind_m_s, surface_temp_c : ndarray, shape (N,)
    """

    epoch_s: Array
    air_temp_c: Array
    rel_humidity_pct: Array
    wind_m_s: Array
    surface_temp_c: Array


@dataclass(frozen=True)
class Dried:
    """Times at which a coat reached each label time [s since 1970], None beyond the data; and the slowest factor."""

    at_s: tuple[float | None, ...]
    slowest: Literal["evaporation", "temperature", "none"]


def dried_at(kind: Kind, labels_h: Sequence[float], start_s: float, exposure: Exposure) -> Dried:
    """Return when a coat put on at a moment comes to its label times.

    Parameters
    ----------
    kind : {"waterborne", "alkyd"}
    labels_h : sequence of float
        Label times [h] at 25 °C and 50 %.
    start_s : float
        Within the exposure.
    exposure : Exposure

    References
    ----------
    reckonings.md, `drying`: a time is reached when the integral of the rate equals the label hours.
    """
    end = float(exposure.epoch_s[-1])
    steps = max(int(np.ceil((end - start_s) / _FINE_S)), 1)
    at = np.linspace(start_s, end, steps + 1)
    air, humidity, wind, surface = (
        np.interp(at, exposure.epoch_s, values)
        for values in (exposure.air_temp_c, exposure.rel_humidity_pct, exposure.wind_m_s, exposure.surface_temp_c)
    )
    vapour = vapour_pressure_pa(air, humidity)
    rate = drying_rate(kind, surface, vapour, wind)
    done = np.concatenate([[0.0], np.cumsum((rate[1:] + rate[:-1]) / 2 * np.diff(at) / 3600)])
    reached: list[float | None] = []
    for label_h in labels_h:
        index = int(np.searchsorted(done, label_h - 1e-12))
        if index >= len(done):
            reached.append(None)
            continue
        before = max(index - 1, 0)
        gained = done[index] - done[before]
        share = (label_h - done[before]) / gained if gained > 0 else 1.0
        reached.append(float(at[before] + (at[index] - at[before]) * share))
    last = end if None in reached else max(t for t in reached if t is not None)
    return Dried(tuple(reached), _slowest(kind, surface[at <= last], rate[at <= last]))


def _slowest(kind: Kind, surface_temp_c: Array, rate: Array) -> Literal["evaporation", "temperature", "none"]:
    """Return what decided the rate for most of the time."""
    warmth = np.exp2((surface_temp_c - REFERENCE_TEMP_C) / 10)
    held = rate < 1
    # Where the rate is less than warmth alone would allow, it is evaporation that holds it.
    dry = held & (rate < warmth * (1 - 1e-12)) if kind == "waterborne" else np.zeros(len(rate), dtype=bool)
    hours: dict[Literal["evaporation", "temperature", "none"], int] = {
        "evaporation": int(dry.sum()), "temperature": int((held & ~dry).sum()), "none": int((~held).sum()),
    }  # fmt: skip
    return max(hours, key=lambda name: hours[name])

"""Drying: how far a coat has come toward touch-dry, recoat and rain-resistant.

Label times hold at 25 °C and 50 % humidity. Progress is the integral of a rate relative to that;
a rate above 1 never shortens a label time.
Not here: whether a coat may go on at all (windows).
"""

from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from amber_gable.core.air import Array, saturation_pressure_pa

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
    warmth = np.exp2((np.asarray(surface_temp_c, dtype=float) - REFERENCE_TEMP_C) / 10)
    if kind == "alkyd":
        alone: Array = np.minimum(1.0, warmth)
        return alone
    reference = float(saturation_pressure_pa(REFERENCE_TEMP_C)) * (1 - REFERENCE_HUMIDITY_FRAC)
    draw = (saturation_pressure_pa(surface_temp_c) - np.asarray(vapour_pa, dtype=float)) / reference
    evaporation = draw * (1 + 0.5 * np.asarray(wind_m_s, dtype=float)) / 1.5
    result: Array = np.clip(np.minimum(warmth, evaporation), 0.0, 1.0)
    return result


def progress_h(rate: Array, step_s: float) -> Array:
    """Return label-hours of drying done since the first instant, shape as `rate` (S, Q)."""
    done = np.zeros_like(rate)
    np.cumsum((rate[..., 1:] + rate[..., :-1]) * (step_s / 7200), axis=-1, out=done[..., 1:])
    return done


def ready_index(progress: Array, label_h: float) -> Array:
    """Return, for a coat put on at each instant, the instant at which `label_h` is reached.

    Parameters
    ----------
    progress : ndarray, shape (S, Q)
        From `progress_h`.
    label_h : float
        Label time [h].

    Returns
    -------
    ndarray of float, shape (S, Q)
        Fractional index of the instant; inf where the data end before.
    """
    count = progress.shape[-1]
    out = np.empty_like(progress)
    places = np.arange(count, dtype=float)
    for row, done in enumerate(progress):
        target = done + label_h
        # Where drying stands still the progress is level: the later end of the level is meant,
        # so a hair per step makes it strictly rising for the look-up.
        strict = done + 1e-12 * places
        found = np.interp(target, strict, places, right=np.inf)
        out[row] = np.maximum(found, places)
    return out

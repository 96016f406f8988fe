"""Convection at a wall: what still air and wind carry off a surface, by its roughness, its tilt and the side the wind is on.

Not here: long wave, which the balance has by itself (surface_temperature), or how the balance is solved (balance).
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from amber_gable.core.air.humid import Array

# The free wind of a forecast, at the wall (reckonings.md).
WIND_AT_WALL = 0.6
Roughness = Literal["very-rough", "rough", "medium-rough", "medium-smooth", "smooth", "very-smooth"]
ROUGHNESS: dict[str, float] = {
    "very-rough": 2.17, "rough": 1.67, "medium-rough": 1.52, "medium-smooth": 1.13, "smooth": 1.11, "very-smooth": 1.00,
}  # fmt: skip
# Forced convection at glass, a v^b with v at the surface [W/m2K], on the side the wind comes to and behind (Yazdanian and Klems).
_WINDWARD, _LEEWARD = (3.26, 0.89), (3.55, 0.617)
# Walls are what stands between these tilts [°]; flatter ones take the wind from any side.
_FLAT_DEG, _OVERHANGING_DEG = 45.0, 135.0


def forced_w_m2k(wind_m_s: Array, wind_from_deg: Array | None, azimuth_deg: Array, tilt_deg: Array) -> Array:
    """Return the forced part at a smooth surface, shape (..., S, Q) [W/m2K].

    Parameters
    ----------
    wind_m_s : ndarray, shape (..., Q)
        Free wind; a leading axis is that of members.
    wind_from_deg : ndarray, shape (Q,), or None
        Where it comes from, clockwise from north; NaN, or None, where that is not known: the mean of both sides then.
    azimuth_deg, tilt_deg : ndarray, shape (S,)

    References
    ----------
    Yazdanian and Klems, ASHRAE Transactions 100 (1994), as in the DOE-2 model; reckonings.md, `surface-temperature`.
    """
    v = WIND_AT_WALL * np.asarray(wind_m_s, dtype=float)[..., None, :]
    windward, leeward = (a * v**b for a, b in (_WINDWARD, _LEEWARD))
    flat = (tilt_deg < _FLAT_DEG)[:, None]
    count = v.shape[-1]
    if wind_from_deg is None:
        share = np.where(flat, 1.0, np.full((len(azimuth_deg), count), 0.5))
    else:
        off = np.abs((wind_from_deg[None, :] - azimuth_deg[:, None] + 180) % 360 - 180)
        share = np.where(np.isnan(off), 0.5, off <= 90.0)
        share = np.where(flat, 1.0, share)
    result: Array = leeward + share * (windward - leeward)
    return result


@dataclass(frozen=True)
class Natural:
    """Natural part at S surfaces: hn = c |surface - air|^(1/3), with c by tilt and by which of the two is warmer.

    Parameters
    ----------
    warmer, colder : ndarray, shape (S,)
        The constant where the surface is warmer, and where it is colder than the air [W/m2K^(4/3)].
    """

    warmer: Array
    colder: Array


def natural_of(tilt_deg: Array) -> Natural:
    """Return the natural part of surfaces by their tilt, shape (S,) [°].

    References
    ----------
    Walton (1983), in ASHRAE Fundamentals and the DOE-2 model; reckonings.md, `surface-temperature`.
    """
    slope = np.abs(np.cos(np.radians(tilt_deg)))
    rising, stable = 9.482 / (7.238 - slope), 1.810 / (1.382 + slope)
    up, down = tilt_deg < _FLAT_DEG, tilt_deg > _OVERHANGING_DEG
    return Natural(np.where(up, rising, np.where(down, stable, 1.31)), np.where(up, stable, np.where(down, rising, 1.31)))


def convection_w_m2k(natural_w_m2k: Array, forced_sq: Array, roughness: Array) -> Array:
    """Return the convective coefficient [W/m2K], shape as the arguments broadcast.

    Parameters
    ----------
    natural_w_m2k : ndarray
    forced_sq : ndarray
        Square of the forced part at a smooth surface.
    roughness : ndarray, shape (S,)
        Factor of the cladding, 1 for the smoothest.

    References
    ----------
    DOE-2 model, as in the EnergyPlus Engineering Reference: h = hn + R (sqrt(hn² + (a v^b)²) - hn).
    """
    result: Array = natural_w_m2k + roughness * (np.sqrt(natural_w_m2k * natural_w_m2k + forced_sq) - natural_w_m2k)
    return result

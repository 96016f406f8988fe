"""Wetness: how much rain reaches a wall, what it keeps, and when it counts as wet.

Dew forms and dries in the energy balance (surface_temperature), which also keeps the one store of
water; here is what rain adds to it and how the store is read.
"""

import numpy as np
from numpy.typing import ArrayLike

from amber_gable.core.air.humid import Array
from amber_gable.core.knowledge.assumptions import assumed

# Free-wind driving rain on a vertical face: 0.222 U R^0.88, R in mm/h (ISO 15927-3).
_DRIVING = 0.222
_LEE_SHARE = assumed("lee_rain_share")
# Without a wind direction, a wall is taken to stand half turned to it.
_UNKNOWN_FACING = assumed("unknown_facing_share")


def rain_on_surfaces_mm_h(
    rain_mm_h: Array,
    wind_m_s: Array,
    wind_from_deg: Array | None,
    azimuth_deg: ArrayLike,
    tilt_deg: ArrayLike,
) -> Array:
    """Return the rain that reaches each plane, shape (..., S, Q) [mm/h].

    Parameters
    ----------
    rain_mm_h, wind_m_s : ndarray, shape (..., Q)
        Rain on flat ground and free wind; a leading axis is that of members.
    wind_from_deg : ndarray, shape (Q,), or None
        Where the wind comes from, clockwise from north.
    azimuth_deg, tilt_deg : array_like, shape (S,)

    References
    ----------
    ISO 15927-3, driving rain on walls; flat share by the cosine of the tilt.
    """
    azimuth = np.atleast_1d(np.asarray(azimuth_deg, dtype=float))[:, None]
    tilt = np.radians(np.atleast_1d(np.asarray(tilt_deg, dtype=float)))[:, None]
    if wind_from_deg is None:
        facing = np.full((len(azimuth), rain_mm_h.shape[-1]), _UNKNOWN_FACING)
    else:
        facing = np.maximum(np.cos(np.radians(wind_from_deg - azimuth)), 0.0)
        facing = np.where(np.isnan(facing), _UNKNOWN_FACING, facing)
    rain, wind = rain_mm_h[..., None, :], wind_m_s[..., None, :]
    driven = _DRIVING * wind * rain**0.88 * facing
    flat = rain * np.maximum(np.cos(tilt), 0.0)
    wall = np.maximum(np.minimum(driven, rain), _LEE_SHARE * rain)
    result: Array = flat + wall * np.sin(tilt)
    return result

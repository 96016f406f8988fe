"""Humid air: saturation pressure, dew point, frost point, wet bulb, vapour-pressure deficit.

Pure functions on NumPy arrays. Humidity is always over liquid water, below freezing too, as
forecasts and instruments give it.
Not here: how far a surface stays above the dew point (surface_temperature), or what a product
asks for (limits).
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from amber_gable.errors import PlanError

Array = NDArray[np.float64]

STANDARD_PRESSURE_PA = 101_325.0

# ASHRAE Handbook Fundamentals (2017), ch. 1, eq. 6 (over water) and eq. 5 (over ice); T in K, p in Pa.
WATER = (-5.8002206e3, 1.3914993e0, -4.8640239e-2, 4.1764768e-5, -1.4452093e-8, 6.5459673e0)
_ICE = (-5.6745359e3, 6.3925247e0, -9.677843e-3, 6.2215701e-7, 2.0747825e-9, -9.484024e-13, 4.1635019e0)


class HumidityRangeError(PlanError):
    """Relative humidity outside 1 to 100 %."""

    def __init__(self, humidity_pct: float) -> None:
        self.humidity_pct = humidity_pct
        super().__init__(
            f"Relative humidity must be 1 to 100 %, got {humidity_pct:g} %. "
            "If your weather file gives fractions (0.8), multiply them by 100.",
            "rel_humidity_pct",
        )


def saturation_pressure_pa(temp_c: ArrayLike) -> Array:
    """Return the saturation vapour pressure over liquid water [Pa].

    Parameters
    ----------
    temp_c : array_like, shape (...,)
        Temperature [°C], -60 to 100. Below 0 over supercooled water. NaN stays NaN.

    References
    ----------
    ASHRAE Handbook Fundamentals (2017), ch. 1, eq. 6 (Hyland and Wexler, 1983).
    """
    t = np.asarray(temp_c, dtype=float) + 273.15
    a, b, c, d, e, f = WATER
    # exp(a/t + b + ct + dt² + et³ + f ln t), by Horner's rule: this runs in the innermost loop.
    result: Array = np.exp(a / t + (b + t * (c + t * (d + t * e))) + f * np.log(t))
    return result


def saturation_pressure_over_ice_pa(temp_c: ArrayLike) -> Array:
    """Return the saturation vapour pressure over ice [Pa].

    Parameters
    ----------
    temp_c : array_like, shape (...,)
        Temperature [°C], -100 to 0.

    References
    ----------
    ASHRAE Handbook Fundamentals (2017), ch. 1, eq. 5.
    """
    t = np.asarray(temp_c, dtype=float) + 273.15
    a, b, c, d, e, f, g = _ICE
    result: Array = np.exp(a / t + b + t * (c + t * (d + t * (e + t * f))) + g * np.log(t))
    return result


def vapour_pressure_pa(air_temp_c: ArrayLike, rel_humidity_pct: ArrayLike) -> Array:
    """Return the partial pressure of water vapour [Pa].

    Parameters
    ----------
    air_temp_c : array_like, shape (...,)
        Dry-bulb air temperature [°C].
    rel_humidity_pct : array_like, shape (...,)
        Relative humidity over water [%], 1 to 100. NaN stays NaN.

    Raises
    ------
    HumidityRangeError
        If any humidity lies outside 1 to 100.
    """
    rh = np.asarray(rel_humidity_pct, dtype=float)
    # Below 1 is almost surely a fraction (0.8 for 80 %). Let through, it gives a dew point near
    # -40 °C, and every wet wall passes.
    bad = (rh < 1) | (rh > 100)
    if bad.any():
        raise HumidityRangeError(float(rh[bad].ravel()[0]))
    result: Array = saturation_pressure_pa(air_temp_c) * rh / 100
    return result


def _log_slope_water(t_k: Array) -> Array:
    a, _, c, d, e, f = WATER
    result: Array = -a / t_k**2 + c + 2 * d * t_k + 3 * e * t_k**2 + f / t_k
    return result


def _log_slope_ice(t_k: Array) -> Array:
    a, _, c, d, e, f, g = _ICE
    result: Array = -a / t_k**2 + c + 2 * d * t_k + 3 * e * t_k**2 + 4 * f * t_k**3 + g / t_k
    return result


def dew_point_from_pressure_c(vapour_pa: ArrayLike) -> Array:
    """Return the temperature at which `vapour_pa` saturates over liquid water [°C].

    Newton's method on the logarithm of the saturation pressure, which is nearly straight: four
    rounds from the Magnus form reach the last bit.
    """
    log_p = np.log(np.asarray(vapour_pa, dtype=float))
    g = log_p - np.log(611.2)
    t = 243.12 * g / (17.62 - g)
    for _ in range(4):
        t = t - (np.log(saturation_pressure_pa(t)) - log_p) / _log_slope_water(t + 273.15)
    result: Array = t
    return result


def dew_point_c(air_temp_c: ArrayLike, rel_humidity_pct: ArrayLike) -> Array:
    """Return the dew point of moist air over liquid water [°C].

    Parameters
    ----------
    air_temp_c : array_like, shape (...,)
        Dry-bulb air temperature [°C], -60 to 60.
    rel_humidity_pct : array_like, shape (...,)
        Relative humidity [%], 1 to 100. Broadcasts with `air_temp_c`. A missing hour stays NaN.

    Raises
    ------
    HumidityRangeError
        If any humidity lies outside 1 to 100.
    """
    return dew_point_from_pressure_c(vapour_pressure_pa(air_temp_c, rel_humidity_pct))


def frost_point_c(air_temp_c: ArrayLike, rel_humidity_pct: ArrayLike) -> Array:
    """Return the frost point, where hoar forms over ice [°C]; NaN where it is 0 °C or above.

    Parameters
    ----------
    air_temp_c, rel_humidity_pct : array_like, shape (...,)
        As for `dew_point_c`.
    """
    vapour = vapour_pressure_pa(air_temp_c, rel_humidity_pct)
    log_p = np.log(vapour)
    # The dew point is a close start: the frost point lies up to a tenth of it higher.
    t = np.minimum(dew_point_from_pressure_c(vapour), 0.0)
    for _ in range(5):
        t = t - (np.log(saturation_pressure_over_ice_pa(t)) - log_p) / _log_slope_ice(t + 273.15)
    result: Array = np.where(t < 0, t, np.nan)
    return result


def vapour_pressure_deficit_pa(air_temp_c: ArrayLike, rel_humidity_pct: ArrayLike) -> Array:
    """Return how much vapour pressure the air still lacks to saturation [Pa]; never negative.

    Parameters
    ----------
    air_temp_c : array_like, shape (...)
        Dry-bulb temperature [°C], -45 to 60.
    rel_humidity_pct : array_like, shape (...)
        Relative humidity [%], 1 to 100. Broadcasts with `air_temp_c`.
    """
    return saturation_pressure_pa(air_temp_c) - vapour_pressure_pa(air_temp_c, rel_humidity_pct)


def _humidity_ratio(vapour_pa: Array, pressure_pa: Array) -> Array:
    return 0.621945 * vapour_pa / (pressure_pa - vapour_pa)


def wet_bulb_c(
    air_temp_c: ArrayLike,
    rel_humidity_pct: ArrayLike,
    pressure_pa: ArrayLike = STANDARD_PRESSURE_PA,
) -> Array:
    """Return the thermodynamic wet-bulb temperature over liquid water [°C].

    Parameters
    ----------
    air_temp_c, rel_humidity_pct : array_like, shape (...,)
        As for `dew_point_c`.
    pressure_pa : array_like, shape (...,)
        Barometric pressure [Pa].

    Notes
    -----
    Bisection between dew point and dry bulb, where the residual has one sign change. Below 0 °C
    the wick is taken as wetted by supercooled water, in line with the humidity.

    References
    ----------
    ASHRAE Handbook Fundamentals (2017), ch. 1, eq. 33.
    """
    p = np.asarray(pressure_pa, dtype=float)
    t, w = np.broadcast_arrays(
        np.asarray(air_temp_c, dtype=float),
        _humidity_ratio(vapour_pressure_pa(air_temp_c, rel_humidity_pct), p),
    )
    low, high = np.minimum(dew_point_c(air_temp_c, rel_humidity_pct), t), t.copy()
    for _ in range(45):
        mid = (low + high) / 2
        w_sat = _humidity_ratio(saturation_pressure_pa(mid), p)
        w_mid = ((2501 - 2.326 * mid) * w_sat - 1.006 * (t - mid)) / (2501 + 1.86 * t - 4.186 * mid)
        above = w_mid > w
        high = np.where(above, mid, high)
        low = np.where(above, low, mid)
    result: Array = (low + high) / 2
    return result


def pressure_at_altitude_pa(altitude_m: ArrayLike) -> Array:
    """Return the standard atmosphere's pressure [Pa] at `altitude_m` above the sea.

    References
    ----------
    ASHRAE Handbook Fundamentals (2017), ch. 1, eq. 3.
    """
    z = np.asarray(altitude_m, dtype=float)
    result: Array = STANDARD_PRESSURE_PA * (1 - 2.25577e-5 * z) ** 5.2559
    return result

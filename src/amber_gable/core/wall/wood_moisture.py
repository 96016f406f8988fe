"""Wood moisture: what wood comes to in a climate, and how fast a board gets there.

Pure functions on NumPy arrays.
Not here: limits by meter (products, site_tests), masonry.
"""

import numpy as np
from numpy.typing import ArrayLike

from amber_gable.core.air.humid import Array


def equilibrium_moisture_pct(temp_c: ArrayLike, rel_humidity_pct: ArrayLike) -> Array:
    """Return the equilibrium moisture content of wood.

    Parameters
    ----------
    temp_c : array_like, shape (...,)
        Temperature [°C]. The fit is published for about -1 to 130.
    rel_humidity_pct : array_like, shape (...,)
        Relative humidity [%], 0 to 100. Broadcasts with `temp_c`.

    Returns
    -------
    ndarray, shape (...,)
        Mass of water over mass of dry wood [%]. A missing hour (NaN) stays NaN.

    References
    ----------
    Hailwood and Horrobin (1946), coefficients of the Wood Handbook, FPL-GTR-190 (2010), equation 4-5.
    """
    t, h = np.asarray(temp_c, dtype=float), np.asarray(rel_humidity_pct, dtype=float) / 100
    w = 349 + 1.29 * t + 0.0135 * t**2
    k = 0.805 + 0.000736 * t - 0.00000273 * t**2
    k1 = 6.27 - 0.00938 * t - 0.000303 * t**2
    k2 = 1.91 + 0.0407 * t - 0.000293 * t**2
    kh = k * h
    # Water in solution in the wood, and water bound to it as first and second hydrate.
    bound = k1 * kh + 2 * k1 * k2 * kh**2
    result: Array = 1800 / w * (kh / (1 - kh) + bound / (1 + k1 * kh + k1 * k2 * kh**2))
    return result

"""Long wave between a surface and the sky, and the constants of the balance.

Not here: light (air.sun), or the balance itself (balance, surface_temperature).
"""

import numpy as np
from numpy.typing import ArrayLike

from amber_gable.core.air.humid import Array

STEFAN_BOLTZMANN = 5.670374419e-8
EMISSIVITY = 0.9
LATENT_HEAT_J_KG = 2.5e6


def sky_emissivity(dew_point_c: ArrayLike, cloud_frac: ArrayLike) -> Array:
    """Return the effective emissivity of the sky, 0 to 1.

    Parameters
    ----------
    dew_point_c : array_like, shape (...,)
    cloud_frac : array_like, shape (...,)
        0 clear to 1 overcast.

    References
    ----------
    Berdahl and Martin, Solar Energy 32 (1984), 663-664; cloud as e + 0.8 (1 - e) n.
    """
    d = np.asarray(dew_point_c, dtype=float) / 100
    clear = np.clip(0.711 + 0.56 * d + 0.73 * d**2, 0.0, 1.0)
    result: Array = clear + 0.8 * (1 - clear) * np.asarray(cloud_frac, dtype=float)
    return result

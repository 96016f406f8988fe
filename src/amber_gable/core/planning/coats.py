"""Coats upon coats: when a next coat may follow, by the drying of the one before it on each surface.

Not here: when a coat is planned (dispatch), or where work stops (stop_line).
"""

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import drying_rate, progress_h, ready_index
from amber_gable.core.windows import Windows


def recoat_steps(windows: Windows) -> Array:
    """Return, for a last stroke at each instant, the instant a next coat may follow, shape (S, Q)."""
    climate = windows.climate
    ready: Array = np.empty(climate.surface_temp_c.shape)
    for product in dict.fromkeys(windows.products):
        rows = [i for i, p in enumerate(windows.products) if p == product]
        rate = drying_rate(product.kind, climate.surface_temp_c[rows], climate.vapour_pa, climate.wind_m_s)
        ready[rows] = ready_index(progress_h(rate, climate.grid.step_s), product.recoat_h)
    return ready

"""Take-off: from areas and systems to litres, lots of one colour, sundries; and what changed since it was agreed."""

from amber_gable.core.takeoff.measure import Face, Measured, measure
from amber_gable.core.takeoff.quantity import (
    Coverage,
    Quantity,
    Spread,
    caulk_cartridges,
    caulk_m,
    coverage,
    spread_of,
    whole,
    with_reserve,
)

__all__ = [
    "Coverage", "Face", "Measured", "Quantity", "Spread", "caulk_cartridges", "caulk_m", "coverage", "measure", "spread_of", "whole",
    "with_reserve",
]  # fmt: skip

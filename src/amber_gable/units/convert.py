"""Conversion between units. Pint knows the factors; nothing else here does.

Pint is asked once per pair of units and only when first needed: its registry takes longer to
build than a page takes to answer.
"""

from functools import cache
from typing import Any

# Our names for units (see `parse`) to Pint's.
_PINT_NAME = {
    "m": "meter", "cm": "centimeter", "mm": "millimeter", "ft": "foot", "in": "inch", "yd": "yard",
    "um": "micrometer", "mil": "thou",
    "m2": "meter**2", "ft2": "foot**2",
    "L": "liter", "mL": "milliliter", "floz": "fluid_ounce", "gal": "gallon", "qt": "quart",
    "m2/L": "meter**2/liter", "ft2/gal": "foot**2/gallon",
    "m2/h": "meter**2/hour", "ft2/h": "foot**2/hour",
    "m/s": "meter/second", "km/h": "kilometer/hour", "mph": "mile/hour", "kn": "knot",
    "C": "degC", "F": "degF", "dC": "delta_degC", "dF": "delta_degF",
    "h": "hour", "min": "minute",
}  # fmt: skip


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry()


@cache
def _line(source: str, target: str) -> tuple[float, float]:
    """Slope and offset of the conversion: target = slope x source + offset."""
    quantity = _registry().Quantity
    zero = float(quantity(0.0, _PINT_NAME[source]).to(_PINT_NAME[target]).magnitude)
    one = float(quantity(1.0, _PINT_NAME[source]).to(_PINT_NAME[target]).magnitude)
    return one - zero, zero


def convert(value: float, source: str, target: str) -> float:
    """Return `value` given in `source` units, in `target` units.

    Parameters
    ----------
    value : float
        Number in `source` units.
    source, target : str
        Unit symbols such as "ft", "m2/L", "F" (a temperature), "dF" (a difference).

    Raises
    ------
    KeyError
        If a symbol is unknown; symbols are ours, not typed by users.
    """
    if source == target:
        return value
    slope, offset = _line(source, target)
    # Ten decimals: 50 °F is 10 °C, not 9.9999999999994, and limits compare as typed.
    return round(slope * value + offset, 10)

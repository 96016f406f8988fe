"""Factors of units against Pint's, an independent table, and against definitions."""

from itertools import permutations

import pint
import pytest

from amber_gable.units import convert
from amber_gable.units.convert import _UNITS

# Our names for units to Pint's.
NAMES = {
    "m": "meter", "cm": "centimeter", "mm": "millimeter", "ft": "foot", "in": "inch", "yd": "yard", "um": "micrometer", "mil": "thou",
    "m2": "meter**2", "ft2": "foot**2", "L": "liter", "mL": "milliliter", "floz": "fluid_ounce", "gal": "gallon", "qt": "quart",
    "m2/L": "meter**2/liter", "ft2/gal": "foot**2/gallon", "m2/h": "meter**2/hour", "ft2/h": "foot**2/hour", "m/s": "meter/second",
    "km/h": "kilometer/hour", "mph": "mile/hour", "kn": "knot", "C": "degC", "F": "degF", "dC": "delta_degC", "dF": "delta_degF",
    "h": "hour", "min": "minute",
}  # fmt: skip


def test_every_factor_is_that_of_another_table():
    quantity = pint.UnitRegistry().Quantity
    assert set(NAMES) == set(_UNITS)
    pairs = [(a, b) for a, b in permutations(_UNITS, 2) if _UNITS[a].kind == _UNITS[b].kind]
    assert len(pairs) > 80
    for source, target in pairs:
        for value in (1.0, -40.0, 7321.5):
            other = float(quantity(value, NAMES[source]).to(NAMES[target]).magnitude)
            assert convert(value, source, target) == pytest.approx(other, rel=1e-12, abs=1e-10), (source, target)


@pytest.mark.parametrize(
    ("value", "source", "target", "exact"),
    [
        (50, "F", "C", 10), (-40, "F", "C", -40), (100, "C", "F", 212), (9, "dF", "dC", 5), (1, "gal", "floz", 128),
        (1, "yd", "in", 36), (1000, "mil", "in", 1), (60, "mph", "ft", None), (1, "kn", "km/h", 1.852), (1, "h", "min", 60),
    ],
)  # fmt: skip
def test_definitions_hold_to_the_last_digit(value, source, target, exact):
    if exact is None:
        with pytest.raises(ValueError, match="speed"):
            convert(value, source, target)
    else:
        assert convert(value, source, target) == exact

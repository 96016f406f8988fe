"""Conversion between units, by exact factors.

The factors are fractions: 50 °F is 10 °C, and a gallon is 231 cubic inches to the last digit.
"""

from fractions import Fraction
from functools import cache
from typing import NamedTuple

_FOOT, _GALLON = Fraction("0.3048"), Fraction("0.003785411784")


class _Unit(NamedTuple):
    """A unit: its quantity, its size in SI, its zero in SI."""

    kind: str
    scale: Fraction
    zero: Fraction = Fraction(0)


# Foot, mile, gallon: NIST SP 811 (2008), B.8, exact by definition; the nautical mile: 1852 m; degrees: ITS-90.
_UNITS = {
    "m": _Unit("length", Fraction(1)), "cm": _Unit("length", Fraction(1, 100)), "mm": _Unit("length", Fraction(1, 1000)),
    "um": _Unit("length", Fraction(1, 10**6)), "ft": _Unit("length", _FOOT), "in": _Unit("length", _FOOT / 12),
    "yd": _Unit("length", 3 * _FOOT), "mil": _Unit("length", _FOOT / 12_000),
    "m2": _Unit("area", Fraction(1)), "ft2": _Unit("area", _FOOT**2),
    "L": _Unit("volume", Fraction(1, 1000)), "mL": _Unit("volume", Fraction(1, 10**6)),
    "gal": _Unit("volume", _GALLON), "qt": _Unit("volume", _GALLON / 4), "floz": _Unit("volume", _GALLON / 128),
    "m2/L": _Unit("spread", Fraction(1000)), "ft2/gal": _Unit("spread", _FOOT**2 / _GALLON),
    "m2/h": _Unit("pace", Fraction(1, 3600)), "ft2/h": _Unit("pace", _FOOT**2 / 3600),
    "m/s": _Unit("speed", Fraction(1)), "km/h": _Unit("speed", Fraction(1000, 3600)), "mph": _Unit("speed", 5280 * _FOOT / 3600),
    "kn": _Unit("speed", Fraction(1852, 3600)),
    "C": _Unit("temperature", Fraction(1), Fraction("273.15")), "F": _Unit("temperature", Fraction(5, 9), Fraction("459.67") * 5 / 9),
    "dC": _Unit("difference", Fraction(1)), "dF": _Unit("difference", Fraction(5, 9)),
    "h": _Unit("time", Fraction(3600)), "min": _Unit("time", Fraction(60)),
}  # fmt: skip


@cache
def _line(source: str, target: str) -> tuple[float, float]:
    """Return slope and offset of the conversion: target = slope x source + offset."""
    given, wanted = _UNITS[source], _UNITS[target]
    if given.kind != wanted.kind:
        raise ValueError(f"{source} is a {given.kind}, {target} a {wanted.kind}")
    return float(given.scale / wanted.scale), float((given.zero - wanted.zero) / wanted.scale)


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
    ValueError
        If the two measure different things.
    """
    if source == target:
        return value
    slope, offset = _line(source, target)
    # Ten decimals: 50 °F is 10 °C, not 9.9999999999994, and limits compare as typed.
    return round(slope * value + offset, 10)

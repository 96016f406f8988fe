"""Writing SI quantities the way a contractor reads them, US or metric.

Every face (pages, CLI, documents) rounds here and nowhere else. Negative temperatures subtract
the sign from the number, never the unit.
"""

from collections.abc import Sequence
from decimal import Decimal
from fractions import Fraction
from typing import Literal

from amber_gable.units.convert import convert
from amber_gable.units.money import show_number

System = Literal["us", "metric"]


class Shown(str):
    """A number as text, rounded to be read, that still knows its exact value: a field that is sent back as it was shown is not parsed.

    Parameters
    ----------
    text : str
    exact : float
        In the unit in which it was given to `show`.
    """

    __slots__ = ("exact",)
    exact: float

    def __new__(cls, text: str, exact: float) -> "Shown":
        shown = super().__new__(cls, text)
        shown.exact = exact
        return shown

    def __reduce__(self) -> tuple[type["Shown"], tuple[str, float]]:
        return Shown, (str(self), self.exact)


# kind: SI unit, then per system (unit, symbol, decimals).
_STYLE: dict[str, tuple[str, dict[System, tuple[str, str, int]]]] = {
    "area": ("m2", {"us": ("ft2", "ft²", 0), "metric": ("m2", "m²", 1)}),
    "volume": ("L", {"us": ("gal", "gal", 2), "metric": ("L", "L", 2)}),
    "small volume": ("L", {"us": ("floz", "fl oz", 0), "metric": ("mL", "mL", 0)}),
    "temperature": ("C", {"us": ("F", "°F", 0), "metric": ("C", "°C", 1)}),
    "temperature difference": ("dC", {"us": ("dF", "°F", 0), "metric": ("dC", "°C", 1)}),
    "speed": ("m/s", {"us": ("mph", "mph", 0), "metric": ("m/s", "m/s", 1)}),
    "spread": ("m2/L", {"us": ("ft2/gal", "ft²/gal", 0), "metric": ("m2/L", "m²/L", 1)}),
    "film": ("um", {"us": ("mil", "mil", 1), "metric": ("um", "µm", 0)}),
    "rain": ("mm", {"us": ("in", "in", 2), "metric": ("mm", "mm", 1)}),
    "rate": ("m2/h", {"us": ("ft2/h", "ft²/h", 0), "metric": ("m2/h", "m²/h", 1)}),
    # Many metres of joint or edge, where inches say nothing.
    "run": ("m", {"us": ("ft", "ft", 0), "metric": ("m", "m", 1)}),
    "length": ("m", {"us": ("ft", "ft", 2), "metric": ("m", "m", 2)}),
}


def symbol(kind: str, system: System) -> str:
    """Return the unit symbol that `show` writes for a kind of quantity."""
    return _STYLE[kind][1][system][1]


def _feet_and_inches(length_m: float) -> str:
    # A tape on a wall is read to the quarter inch at best.
    quarters = round(abs(convert(length_m, "m", "in")) * 4)
    feet, rest = divmod(quarters, 48)
    inches, quarter = divmod(rest, 4)
    sign = "-" if length_m < 0 and quarters else ""
    fraction = {0: "", 1: " 1/4", 2: " 1/2", 3: " 3/4"}[quarter]
    if not (inches or fraction):
        return f"{sign}{feet}'"
    inch_text = f"{inches}{fraction}" if inches else fraction.strip()
    return f"{sign}{feet}' {inch_text}\"" if feet else f'{sign}{inch_text}"'


def _inches(length_mm: float) -> str:
    """Return a small length as a rule reads it: inches and sixteenths, or decimals where it lies between the marks."""
    inches = convert(length_mm, "mm", "in")
    whole, sixteenths = divmod(round(inches * 16), 16)
    # A quarter of a millimetre beside the mark: sizes given in whole millimetres are meant.
    if abs(inches - whole - sixteenths / 16) > 0.01:
        return f'{inches:.3g}"'
    if not sixteenths:
        return f'{whole}"'
    part = Fraction(sixteenths, 16)
    return f'{whole} {part}"' if whole else f'{part}"'


def show_parts(value: float, kind: str, system: System) -> tuple[str, str]:
    """Return the number and the symbol apart, for tables that put the unit in the head.

    Parameters
    ----------
    value : float
        Quantity in SI (for "rain" in mm, for "film" in µm).
    kind : str
        A kind that `show` knows, other than feet-and-inches lengths.
    system : {"us", "metric"}
    """
    si_unit, styles = _STYLE[kind]
    unit, mark, decimals = styles[system]
    number = convert(value, si_unit, unit)
    text = f"{number:,.{decimals}f}"
    return (text[1:] if text.lstrip("-0.,") == "" and text.startswith("-") else text), mark


def show(value: float, kind: str, system: System, locale: str = "en_US") -> Shown:
    """Return a quantity as text with its unit, rounded as a painter needs it.

    Parameters
    ----------
    value : float
        Quantity in SI.
    kind : str
        "length" is written in feet and inches for US; "small length", given in mm, in inches and sixteenths.
    system : {"us", "metric"}
    locale : str
        How numbers are written there; lengths in feet and inches are the same everywhere.
    """
    return Shown(_text(value, kind, system, locale), float(value))


def _text(value: float, kind: str, system: System, locale: str) -> str:
    if kind == "length" and system == "us":
        return _feet_and_inches(value)
    if kind == "small length":
        return _inches(value) if system == "us" else f"{value:g} mm"
    number, mark = show_parts(value, kind, system)
    if not locale.startswith("en"):
        # Through the rounded text: one place rounds.
        plain = number.replace(",", "")
        number = show_number(Decimal(plain), len(plain.partition(".")[2]), locale)
    return f"{number} {mark}"


def show_names(names: Sequence[str], most: int = 2) -> str:
    """Return the first of some names for a sentence, and how many more there are: "East wall, West wall and 3 more"."""
    first = ", ".join(names[:most])
    return first if len(names) <= most else f"{first} and {len(names) - most} more"

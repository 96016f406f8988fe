"""The Reckoner's fields: labels, units and choices of what a reckoning takes, read off its models."""

import types
from dataclasses import dataclass
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from amber_gable.units import System, convert

_UNIT_BY_ENDING = (
    ("_m2_per_min", "m²/min"), ("_l_per_min", "L/min"), ("_m_per_s", "m/s"), ("_m2_per_l", "m²/L"), ("_psi", "psi"), ("_ml", "ml"),
    ("_l", "L"),
    ("_ft2_per_gal", "ft²/gal"), ("_kj_m2k", "kJ/m²K"), ("_w_m2", "W/m²"), ("_kpa", "kPa"), ("_deg", "°"),
    ("_pct", "%"), ("_m2", "m²"), ("_um", "µm"), ("_mm", "mm"), ("_m_s", "m/s"), ("_c", "°C"), ("_m", "m"),
)  # fmt: skip
# Endings whose fields also take other units, as (kind, SI unit).
_KIND_BY_ENDING = {
    "_margin_c": ("temperature difference", "dC"),
    "_um": ("film", "um"),
    "_m_s": ("speed", "m/s"),
    "_c": ("temperature", "C"),
    "_mm": ("small length", "mm"),
    "_m": ("length", "m"),
}
# What a reader of US units types bare, by kind of quantity, and how it is written.
US_BARE = {
    "film": ("mil", "mil"),
    "speed": ("mph", "mph"),
    "temperature": ("F", "°F"),
    "temperature difference": ("dF", "°F"),
    "small length": ("in", "in"),
    "length": ("ft", "ft"),
}
YES_NO = {True: "yes", False: "no"}


@dataclass(frozen=True)
class InputField:
    """One input, or one column of a list: its label, unit, value as typed, and what kind of entry it takes."""

    name: str
    label: str
    unit: str
    value: str
    required: bool
    is_text: bool
    is_list: bool = False
    # A fixed choice of words, yes and no among them; empty for anything else.
    options: tuple[str, ...] = ()
    is_whole: bool = False
    # How a bare number is read: the unit of the contract, or the reader's own.
    bare: str = ""
    # How a list is typed.
    hint: str = ""

    @property
    def kind(self) -> tuple[str, str] | None:
        """Kind of quantity and SI unit, where the field takes other units as well."""
        return None if self.is_text or self.is_list or self.options else kind_of(self.name)


def kind_of(name: str) -> tuple[str, str] | None:
    """Return kind of quantity and SI unit that a name ends in; None where it takes no other units."""
    return next((kind for ending, kind in _KIND_BY_ENDING.items() if name.endswith(ending)), None)


def label_and_unit(name: str) -> tuple[str, str]:
    """Return words and unit of a field name: "air_temp_c" is "Air temperature", "°C"."""
    stem, unit = next(((name.removesuffix(end), unit) for end, unit in _UNIT_BY_ENDING if name.endswith(end)), (name, ""))
    long = {"temp": "temperature", "rel": "relative", "lrv": "LRV", "m2": "", "us": "US"}
    words = " ".join(long.get(part, part) for part in stem.split("_"))
    return words[:1].upper() + words[1:], unit


def read_option(field: InputField, text: str) -> Any:
    """Return what a chosen word stands for: itself, or true and false."""
    return text == "yes" if field.options == tuple(YES_NO.values()) else text


def is_model(kind: Any) -> bool:
    return isinstance(kind, type) and issubclass(kind, BaseModel)


def without_none(annotation: Any) -> Any:
    """Return the type of a field without None and annotations."""
    if get_origin(annotation) in (Union, types.UnionType):
        annotation = next(a for a in get_args(annotation) if a is not type(None))
    return getattr(annotation, "__origin__", annotation) if hasattr(annotation, "__metadata__") else annotation


def field_of(name: str, annotation: Any, value: Any, system: System, *, required: bool) -> InputField:
    """Return one input of a single value, filled as a reader of one system of units would type it."""
    kind = without_none(annotation)
    label, unit = label_and_unit(name)
    options = get_args(kind) if get_origin(kind) is Literal else tuple(YES_NO.values()) if kind is bool else ()
    text = "" if value is None else YES_NO[value] if kind is bool and isinstance(value, bool) else f"{value}"
    if isinstance(value, float):
        text = text.removesuffix(".0")
    quantity = None if kind is str or options else kind_of(name)
    bare = quantity[1] if quantity else ""
    if quantity and system == "us":
        bare, unit = US_BARE[quantity[0]]
        if isinstance(value, int | float) and not isinstance(value, bool):
            text = _short(convert(float(value), quantity[1], bare))
    return InputField(name, label, unit, text, required, kind is str, options=options, is_whole=kind is int, bare=bare)


def _short(number: float) -> str:
    """Return a number in three figures, large ones whole: nobody types an exponent."""
    return f"{number:.0f}" if abs(number) >= 100 else f"{number:.3g}"

"""The Reckoner's forms and answers, read off the models so that no page repeats a contract."""

import json
import types
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from amber_gable.services.reckonings import Reckoning
from amber_gable.units import System, convert, show

_UNIT_BY_ENDING = (
    ("_m2_per_min", "m²/min"), ("_l_per_min", "L/min"), ("_m_per_s", "m/s"), ("_m2_per_l", "m²/L"), ("_psi", "psi"), ("_ml", "ml"),
    ("_l", "L"),
    ("_ft2_per_gal", "ft²/gal"), ("_kj_m2k", "kJ/m²K"), ("_w_m2", "W/m²"), ("_kpa", "kPa"), ("_deg", "°"),
    ("_pct", "%"), ("_m2", "m²"), ("_um", "µm"), ("_mm", "mm"), ("_m_s", "m/s"), ("_c", "°C"), ("_m", "m"),
)  # fmt: skip


# Endings whose fields also take other units, as (kind, SI unit).
_KIND_BY_ENDING = {
    "_um": ("film", "um"),
    "_m_s": ("speed", "m/s"),
    "_c": ("temperature", "C"),
    "_mm": ("small length", "mm"),
    "_m": ("length", "m"),
}
# How a contractor on US units reads an answer besides.
_US_BY_UNIT = {
    "°C": ("C", "F", "°F"),
    "µm": ("um", "mil", "mil"),
    "m²/L": ("m2/L", "ft2/gal", "ft²/gal"),
    "m²": ("m2", "ft2", "ft²"),
    "m": ("m", "ft", "ft"),
}


@dataclass(frozen=True)
class InputField:
    """One input: its label, unit, example value, and what kind of entry it takes."""

    name: str
    label: str
    unit: str
    value: str
    required: bool
    is_text: bool
    is_list: bool
    # A fixed choice of words, yes and no among them; empty for anything else.
    options: tuple[str, ...] = ()
    is_whole: bool = False
    # How a bare number is read: the unit of the contract, or the reader's own.
    bare: str = ""

    @property
    def kind(self) -> tuple[str, str] | None:
        """Kind of quantity and SI unit, where the field takes other units as well."""
        return next((kind for ending, kind in _KIND_BY_ENDING.items() if self.name.endswith(ending)), None)


@dataclass(frozen=True)
class Shown:
    """One output as it is read: rounded here, never in the reckoning."""

    name: str
    label: str
    value: str
    unit: str
    is_lead: bool
    also: str = ""


@dataclass(frozen=True)
class Answered:
    values: list[Shown]
    table: list[list[str]]
    head: list[str]

    @property
    def lead(self) -> Shown | None:
        return next((v for v in self.values if v.is_lead), None)


def label_and_unit(name: str) -> tuple[str, str]:
    """Return words and unit of a field name: "air_temp_c" is "Air temperature", "°C"."""
    stem, unit = next(((name.removesuffix(end), unit) for end, unit in _UNIT_BY_ENDING if name.endswith(end)), (name, ""))
    long = {"temp": "temperature", "rel": "relative", "lrv": "LRV", "m2": "", "us": "US"}
    words = " ".join(long.get(part, part) for part in stem.split("_"))
    return words[:1].upper() + words[1:], unit


_YES_NO = {True: "yes", False: "no"}


def read_option(field: InputField, text: str) -> Any:
    """Return what a chosen word stands for: itself, or true and false."""
    return text == "yes" if field.options == tuple(_YES_NO.values()) else text


def _bare(annotation: Any) -> Any:
    """Return the type of a field without None and annotations."""
    if get_origin(annotation) in (Union, types.UnionType):
        return next(a for a in get_args(annotation) if a is not type(None))
    return annotation


# What a reader of US units types bare, by kind of quantity, and how it is written.
_US_BARE = {
    "film": ("mil", "mil"),
    "speed": ("mph", "mph"),
    "temperature": ("F", "°F"),
    "small length": ("in", "in"),
    "length": ("ft", "ft"),
}


def fields_of(entry: Reckoning, system: System = "metric") -> list[InputField]:
    """Return the inputs of a reckoning in their order, filled with its example, in the reader's units."""
    out = []
    for name, info in entry.input_model.model_fields.items():
        kind = _bare(info.annotation)
        is_list = get_origin(kind) in (list, dict) or (isinstance(kind, type) and issubclass(kind, BaseModel))
        value = entry.example.get(name, "" if info.is_required() else info.default)
        text = json.dumps(value, indent=1) if is_list else "" if value is None else _YES_NO[value] if kind is bool else f"{value}"
        label, unit = label_and_unit(name)
        options = get_args(kind) if get_origin(kind) is Literal else tuple(_YES_NO.values()) if kind is bool else ()
        field = InputField(name, label, unit, text, info.is_required(), kind is str, is_list, options, kind is int)
        out.append(_in_units(field, value, system))
    return out


def example_of(entry: Reckoning, system: System) -> dict[str, Any]:
    """Return the example as its form shows it: in US units its numbers are round there, and SI for the reckoning."""
    values = dict(entry.example)
    for field in fields_of(entry, system):
        if field.kind and field.bare not in ("", field.kind[1]) and field.name in values and field.value:
            values[field.name] = convert(float(field.value), field.bare, field.kind[1])
    return values


def _in_units(field: InputField, value: Any, system: System) -> InputField:
    """Return a field as a reader of one system of units fills it."""
    if field.kind is None or field.is_text or field.is_list or field.options:
        return field
    kind, si = field.kind
    if system == "metric":
        return replace(field, bare=si)
    bare, unit = _US_BARE[kind]
    is_number = isinstance(value, int | float) and not isinstance(value, bool)
    return replace(field, bare=bare, unit=unit, value=f"{convert(float(value), si, bare):.3g}" if is_number else field.value)


def _read(value: Any) -> str:
    if value is None:
        return "none"
    if isinstance(value, list):
        return " ".join(_read(v) for v in value)
    if isinstance(value, dict):
        return " · ".join(_read(v) for v in value.values() if v not in (None, "", []))
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:,.1f}" if abs(value) >= 100 else f"{value:,.2f}"
    return str(value)[:16].replace("T", " ") if isinstance(value, str) and value[4:5] == "-" else str(value)


def _also(name: str, value: Any, unit: str, system: System) -> str:
    """Return an answer in US units too, for those who read them; differences have no offset."""
    if system != "us" or not isinstance(value, float) or unit not in _US_BY_UNIT:
        return ""
    source, target, symbol = _US_BY_UNIT[unit]
    if "margin" in name:
        source, target = "dC", "dF"
    number = convert(value, source, target)
    return f"{number:,.0f} {symbol}" if abs(number) >= 100 else f"{number:,.1f} {symbol}"


def _is_rows(value: Any) -> bool:
    return isinstance(value, list) and bool(value) and all(isinstance(row, dict) for row in value)


def _table(rows: list[dict[str, Any]]) -> tuple[list[str], list[list[str]]]:
    head = [" ".join(filter(None, label_and_unit(key))) for key in rows[0]] if rows else []
    return head, [[_read(cell) for cell in row.values()] for row in rows]


def _unfolded(rows: list[dict[str, Any]]) -> tuple[list[dict[str, Any]], list[tuple[str, str]]]:
    """Return rows within rows as one list, each under the name of its outer one, and short lists beside it in words."""
    flat, beside = [], []
    for row in rows:
        inner = max((key for key, v in row.items() if _is_rows(v)), key=lambda key: len(row[key]), default="")
        name = next((str(v) for v in row.values() if isinstance(v, str)), "")
        flat += [{"name": name} | one for one in row.get(inner, [])]
        for key, value in row.items():
            if key not in ("name", inner) and isinstance(value, list):
                beside.append((f"{name}, {label_and_unit(key)[0].lower()}", "; ".join(_read(v) for v in value) or "none"))
    return flat, beside


def shown(entry: Reckoning, answer: BaseModel, system: System) -> Answered:
    """Return an answer for the page: single values, and a table where it is a list."""
    values: list[Shown] = []
    head: list[str] = []
    table: list[list[str]] = []
    for name, value in answer.model_dump(by_alias=True).items():
        label, unit = label_and_unit(name)
        if isinstance(value, list) and all(isinstance(v, str) for v in value):
            values += [Shown(name, label if not i else "", text, "", False) for i, text in enumerate(value)]
        elif isinstance(value, list) and any(_is_rows(v) for row in value for v in row.values()):
            flat, beside = _unfolded(value)
            head, table = _table(flat)
            values += [Shown(name, *pair, "", False) for pair in beside]
        elif isinstance(value, list):
            head, table = _table(value)
        else:
            also = _also(name, value, unit, system)
            if also:
                # The reader's own unit leads; what the contract says stands beside it.
                number, _, own = also.partition(" ")
                values.append(Shown(name, label, number, own, name == entry.lead, f"{_read(value)} {unit}"))
            else:
                values.append(Shown(name, label, _read(value), unit if value is not None else "", name == entry.lead))
    return Answered(values, table, head)


def as_typed(name: str, value: Any, system: System) -> str:
    """Return a value as somebody would type it into a field of a job in these units; `name` says its unit by its ending."""
    kind = next((kind for ending, (kind, _) in _KIND_BY_ENDING.items() if name.endswith(ending)), None)
    if isinstance(value, str) or value is None:
        return value or ""
    return show(float(value), kind, system) if kind else f"{value:g}"


def noted(entry: Reckoning, values: Mapping[str, Any], answer: BaseModel, system: System) -> str:
    """Return an answer with what was put in as a note: "Reckoned, height by shadow: height 24' 3". From: …"."""
    lead = [v for v in shown(entry, answer, system).values if v.value not in ("", "none")]
    lead = [v for v in lead if v.is_lead] or lead[:6]
    said = "; ".join(f"{v.label} {v.value} {v.unit}".strip() + (f" ({v.also})" if v.also else "") for v in lead)
    given = "; ".join(
        f"{label_and_unit(name)[0]} {as_typed(name, value, system)} {'%' if name.endswith('_pct') else ''}".strip()
        for name, value in values.items()
        if isinstance(value, str | int | float)
    )
    return f"Reckoned, {entry.title.lower()}: {said}.{f' From: {given}.' if given else ''}"[:900]

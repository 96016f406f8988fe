"""The Reckoner's forms and answers, read off the models so that no page repeats a contract."""

import json
import types
from dataclasses import dataclass
from typing import Any, Union, get_args, get_origin

from pydantic import BaseModel

from amber_gable.services.reckonings import Reckoning

_UNIT_BY_ENDING = (
    ("_m2_per_l", "m²/L"), ("_ft2_per_gal", "ft²/gal"), ("_kj_m2k", "kJ/m²K"), ("_w_m2", "W/m²"), ("_kpa", "kPa"), ("_deg", "°"),
    ("_pct", "%"), ("_um", "µm"), ("_m_s", "m/s"), ("_c", "°C"), ("_m", "m"),
)  # fmt: skip


@dataclass(frozen=True)
class Field:
    """One input: its label, unit, example value, and what kind of entry it takes."""

    name: str
    label: str
    unit: str
    value: str
    required: bool
    is_text: bool
    is_list: bool


@dataclass(frozen=True)
class Shown:
    """One output as it is read: rounded here, never in the reckoning."""

    name: str
    label: str
    value: str
    unit: str
    is_lead: bool


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
    long = {"temp": "temperature", "rel": "relative", "vapour": "vapour"}
    words = " ".join(long.get(part, part) for part in stem.split("_"))
    return words[:1].upper() + words[1:], unit


def _bare(annotation: Any) -> Any:
    """Return the type of a field without None and annotations."""
    if get_origin(annotation) in (Union, types.UnionType):
        return next(a for a in get_args(annotation) if a is not type(None))
    return annotation


def fields_of(entry: Reckoning) -> list[Field]:
    """Return the inputs of a reckoning in their order, filled with its example."""
    out = []
    for name, info in entry.input_model.model_fields.items():
        kind = _bare(info.annotation)
        is_list = get_origin(kind) is list
        value = entry.example.get(name, "" if info.is_required() else info.default)
        text = json.dumps(value, indent=1) if is_list else f"{value}"
        label, unit = label_and_unit(name)
        out.append(Field(name, label, unit, text, info.is_required(), kind is str, is_list))
    return out


def _read(value: Any) -> str:
    if value is None:
        return "none"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:,.1f}" if abs(value) >= 100 else f"{value:,.2f}"
    return str(value)[:16].replace("T", " ") if isinstance(value, str) and value[4:5] == "-" else str(value)


def shown(entry: Reckoning, answer: BaseModel) -> Answered:
    """Return an answer for the page: single values, and a table where it is a list."""
    values, head, table = [], [], []
    for name, value in answer.model_dump().items():
        label, unit = label_and_unit(name)
        if isinstance(value, list):
            head = [" ".join(filter(None, label_and_unit(key))) for key in value[0]] if value else []
            table = [[_read(cell) for cell in row.values()] for row in value]
        else:
            values.append(Shown(name, label, _read(value), unit if value is not None else "", name == entry.lead))
    return Answered(values, table, head)

"""The Reckoner's forms and answers as they are read: on its page, in a note and in a field of a job."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import BaseModel

from amber_gable.services.reckonings import Reckoning
from amber_gable.units import System, convert, show
from amber_gable.web.views.reckoner.fields import US_BARE, InputField, field_of, kind_of, label_and_unit
from amber_gable.web.views.reckoner.lists import hint_of, read, shape_of, written

# How a contractor on US units reads an answer besides.
_US_BY_UNIT = {
    "°C": ("C", "F", "°F"),
    "µm": ("um", "mil", "mil"),
    "m²/L": ("m2/L", "ft2/gal", "ft²/gal"),
    "m²": ("m2", "ft2", "ft²"),
    "m": ("m", "ft", "ft"),
}


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
class Head:
    """Head of a column, and whether numbers stand below it."""

    text: str
    is_number: bool


@dataclass(frozen=True)
class Answered:
    values: list[Shown]
    table: list[list[str]]
    head: list[Head]

    @property
    def lead(self) -> Shown | None:
        return next((v for v in self.values if v.is_lead), None)


def fields_of(entry: Reckoning, system: System = "metric") -> list[InputField]:
    """Return the inputs of a reckoning in their order, filled with its example, in the reader's units."""
    out = []
    for name, info in entry.input_model.model_fields.items():
        value = entry.example.get(name, "" if info.is_required() else info.default)
        if shape_of(info.annotation):
            text, hint = written(info.annotation, value, system), hint_of(info.annotation, system)
            out.append(InputField(name, label_and_unit(name)[0], "", text, info.is_required(), False, is_list=True, hint=hint))
        else:
            out.append(field_of(name, info.annotation, value, system, required=info.is_required()))
    return out


def example_of(entry: Reckoning, system: System) -> dict[str, Any]:
    """Return the example as its form shows it: in US units its numbers are round there, and SI for the reckoning."""
    values = dict(entry.example)
    for field in fields_of(entry, system):
        if field.name not in values or not field.value:
            continue
        if field.is_list:
            values[field.name] = read(entry.input_model.model_fields[field.name].annotation, field.value, system)
        elif field.kind and field.bare not in ("", field.kind[1]):
            values[field.name] = convert(float(field.value), field.bare, field.kind[1])
    return values


def _read(value: Any) -> str:
    if value is None:
        return "none"
    if _is_rows(value):
        return ", ".join(next((v.replace("-", " ") for v in row.values() if isinstance(v, str)), "") for row in value)
    if isinstance(value, list):
        return " ".join(_read(v) for v in value)
    if isinstance(value, dict) and len(value) == 2 and all(map(_is_time, value.values())):
        first, last = (datetime.fromisoformat(v) for v in value.values())
        return f"{_at(first)} to {last:{'%H:%M' if first.date() == last.date() else '%a %H:%M'}}"
    if isinstance(value, dict) and all(isinstance(v, int) for v in value.values()):
        return ", ".join(f"{name} {count}" for name, count in value.items()) or "none"
    if isinstance(value, dict):
        return " · ".join(_read(v) for v in value.values() if v not in (None, "", []))
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:,.1f}" if abs(value) >= 100 else f"{value:,.2f}"
    return _at(datetime.fromisoformat(value)) if _is_time(value) else str(value)


def _at(time: datetime) -> str:
    return f"{time:%a} {time.day} {time:%b %H:%M}"


def _is_time(value: Any) -> bool:
    return isinstance(value, str) and value[4:5] == value[7:8] == "-" and value[10:11] == "T"


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


def _table(rows: list[dict[str, Any]], system: System) -> tuple[list[Head], list[list[str]]]:
    """Return rows as a table in the reader's units, its columns of words apart from its columns of numbers."""
    head, table = [], [[] for _ in rows]  # type: tuple[list[Head], list[list[str]]]
    for key in rows[0] if rows else ():
        if key == "name" and len(rows) > 1 and len({row[key] for row in rows}) == 1:
            # Whose hours they are stands above the table.
            continue
        label, unit = label_and_unit(key)
        kind, values = kind_of(key), [row[key] for row in rows]
        if kind and system == "us":
            bare, unit = US_BARE[kind[0]]
            values = [convert(v, kind[1], bare) if isinstance(v, float) else v for v in values]
        head.append(
            Head(" ".join(filter(None, (label, unit))), any(isinstance(v, int | float) and not isinstance(v, bool) for v in values))
        )
        for line, value in zip(table, values, strict=True):
            line.append(f"{datetime.fromisoformat(value):%d %b %H:%M}".lstrip("0") if _is_time(value) else _read(value))
    return head, table


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
    head: list[Head] = []
    table: list[list[str]] = []
    for name, value in answer.model_dump(by_alias=True).items():
        label, unit = label_and_unit(name)
        if isinstance(value, list) and all(isinstance(v, str) for v in value):
            values += [Shown(name, label if not i else "", text, "", False) for i, text in enumerate(value)]
        elif isinstance(value, list) and any(_is_rows(v) for row in value for v in row.values()):
            flat, beside = _unfolded(value)
            head, table = _table(flat, system)
            values += [Shown(name, *pair, "", not i and name == entry.lead) for i, pair in enumerate(beside)]
        elif isinstance(value, list):
            head, table = _table(value, system)
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
    if isinstance(value, str) or value is None:
        return value or ""
    kind = kind_of(name)
    return show(float(value), kind[0], system) if kind else f"{value:g}"


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

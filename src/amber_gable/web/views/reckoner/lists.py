"""Lists that a reckoning takes, as lines of a table in the reader's units: typed, or pasted from a spreadsheet.

What is a list within a list (the tasks of a plan) stays as the API takes it, and each list may be put so.
"""

import csv
import io
import json
from collections.abc import Mapping, Sequence
from typing import Any, Literal, get_args, get_origin

from amber_gable.units import QuantityError, System, convert, parse
from amber_gable.web.forms import number_in
from amber_gable.web.views.reckoner.fields import InputField, field_of, is_model, label_and_unit, read_option, without_none

Shape = Literal["rows", "one", "pairs", "names", "tree"]
_HINTS: dict[Shape, str] = {
    "rows": "a line each; the first line names the columns; paste from a spreadsheet",
    "one": "a line each",
    "pairs": "name: value, a line each",
    "names": "a line each",
    "tree": "a list within a list, as the API takes it",
}


class ListFault(ValueError):
    """A list that cannot be read; the message says where and how it is typed."""


def shape_of(annotation: Any) -> Shape | None:
    """Return how a field is typed that holds more than one value; None for a single value."""
    kind = without_none(annotation)
    inner = [without_none(a) for a in get_args(kind)]
    if is_model(kind):
        return "one" if _is_flat(kind) else "tree"
    if get_origin(kind) is dict:
        return "pairs" if _is_single(inner[1]) else "tree"
    if get_origin(kind) is not list:
        return None
    if is_model(inner[0]):
        return "rows" if _is_flat(inner[0]) else "tree"
    return "names" if inner[0] is str else "tree"


def _is_single(kind: Any) -> bool:
    return kind in (str, float, int, bool) or get_origin(kind) is Literal


def _is_flat(model: Any) -> bool:
    return all(_is_single(without_none(info.annotation)) for info in model.model_fields.values())


def hint_of(annotation: Any, system: System) -> str:
    """Return how a list is typed, with the columns that it need not have."""
    shape = shape_of(annotation)
    hint = _HINTS[shape] if shape else ""
    spare = [c for c in _columns(annotation, {}, system) if not c.required] if shape in ("rows", "one") else []
    return f"{hint}; may also have {', '.join(_head(c) for c in spare)}" if spare else hint


def _columns(annotation: Any, values: Mapping[str, Any], system: System) -> list[InputField]:
    kind = without_none(annotation)
    model = kind if is_model(kind) else without_none(get_args(kind)[0])
    return [
        field_of(name, info.annotation, values.get(name), system, required=info.is_required()) for name, info in model.model_fields.items()
    ]


def _head(column: InputField) -> str:
    return " ".join(filter(None, (column.label, column.unit)))


def written(annotation: Any, value: Any, system: System) -> str:
    """Return a list as somebody would type it in these units; what is not said stays out."""
    shape = shape_of(annotation)
    if shape == "tree" and value is not None:
        return json.dumps(value, indent=1)
    if not value:
        return ""
    if shape == "names":
        return "\n".join(value)
    if shape == "pairs":
        return "\n".join(f"{name}: {one}" for name, one in value.items())
    if shape == "one":
        return "\n".join(f"{_head(c)}: {c.value}" for c in _columns(annotation, value, system) if c.value)
    said = [c.name for c in _columns(annotation, {}, system) if any(row.get(c.name) is not None for row in value)]
    lines = [[c for c in _columns(annotation, row, system) if c.name in said] for row in value]
    table = [[_head(c) for c in lines[0]], *([c.value for c in line] for line in lines)]
    return "\n".join(", ".join(_quoted(cell) for cell in line) for line in table)


def _quoted(cell: str) -> str:
    return f'"{cell.replace(chr(34), chr(34) * 2)}"' if set(cell) & set(',;\t"') else cell


def read(annotation: Any, text: str, system: System) -> Any:
    """Return what a typed list says, in the contract's units.

    Raises
    ------
    ListFault
        Where a line cannot be read.
    """
    shape = shape_of(annotation)
    if shape == "tree" or text.lstrip()[:1] in ("[", "{"):
        try:
            return json.loads(text)
        except ValueError as fault:
            raise ListFault("This is not JSON. Put a list, as the API takes it.") from fault
    if shape == "names":
        return [name for line in text.splitlines() for name in (part.strip() for part in line.split(",")) if name]
    if shape == "rows":
        return _rows(text, _columns(annotation, {}, system))
    pairs = list(_pairs(text))
    if shape == "pairs":
        kind = without_none(get_args(without_none(annotation))[1])
        return {name: _plain(said, name) if kind in (int, float) else said for name, said in pairs}
    columns = _columns(annotation, {}, system)
    named = [(*_column_of(name, columns, "line"), said) for name, said in pairs]
    return {column.name: _cell(column, said, unit, column.label) for column, unit, said in named if said}


def _pairs(text: str) -> Sequence[tuple[str, str]]:
    lines = [line for line in text.splitlines() if line.strip()]
    for line in lines:
        if ":" not in line:
            raise ListFault(f"“{line.strip()[:40]}”: put a name, a colon and its value on each line.")
    return [(name.strip(), said.strip()) for name, said in (line.split(":", 1) for line in lines)]


def _rows(text: str, columns: Sequence[InputField]) -> list[dict[str, Any]]:
    head = text.strip().splitlines()[0]
    by = next((sign for sign in ("\t", ";") if sign in head), ",")
    lines = [line for line in csv.reader(io.StringIO(text.strip()), delimiter=by, skipinitialspace=True) if any(c.strip() for c in line)]
    named = [_column_of(name, columns, "column") for name in lines[0]]
    missing = [_head(c) for c in columns if c.required and c not in [column for column, _ in named]]
    if missing:
        raise ListFault(f"No column for {', '.join(missing)}: the first line names the columns.")
    rows = []
    for number, line in enumerate(lines[1:], 1):
        if len(line) > len(named):
            raise ListFault(f"Row {number} has {len(line)} values for {len(named)} columns.")
        cells = zip(named, line, strict=False)
        rows.append({c.name: _cell(c, said, unit, f"Row {number}, {c.label.lower()}") for (c, unit), said in cells if said.strip()})
    return rows


def _column_of(name: str, columns: Sequence[InputField], what: str) -> tuple[InputField, str]:
    """Return which column a head names, and the unit that its values are in: written there, else the reader's."""
    said = " ".join(name.split()).casefold()
    for column in columns:
        if said == column.name:
            return column, column.kind[1] if column.kind else ""
    for column in sorted(columns, key=lambda c: -len(c.label)):
        unit = said.removeprefix(column.label.casefold()).strip(" ()[],")
        if said.startswith(column.label.casefold()) and (not unit or column.unit or column.kind):
            return column, "" if not column.kind or unit == column.unit.casefold() else unit
    raise ListFault(f"“{name.strip()[:40]}” is no {what} here. There are {', '.join(_head(c) for c in columns)}.")


def _plain(text: str, where: str) -> float:
    number = number_in(text.rstrip("%°"))
    if number is None:
        raise ListFault(f"{where}: “{text[:20]}” is no number.")
    return int(number) if number == number // 1 else number


def _cell(column: InputField, text: str, unit: str, where: str) -> Any:
    text = text.strip()
    if column.is_text:
        return text
    if column.options:
        return read_option(column, text)
    if not column.kind:
        number = _plain(text, where)
        return number if column.is_whole else float(number)
    kind, si = column.kind
    bare = number_in(text)
    try:
        if bare is not None and unit in ("", column.bare, si):
            return convert(bare, unit or column.bare, si)
        return parse(f"{text} {unit}" if bare is not None else text, kind, column.bare)
    except QuantityError as fault:
        raise ListFault(f"{where}: {fault}") from fault


def said_at(path: str) -> str:
    """Return where in a list a fault lies, in words: "hours.3.air_temp_c" is "Row 4, air temperature"."""
    words = [f"row {int(part) + 1}" if part.isdigit() else label_and_unit(part)[0].lower() for part in path.split(".")[1:]]
    return ", ".join(words)[:1].upper() + ", ".join(words)[1:]

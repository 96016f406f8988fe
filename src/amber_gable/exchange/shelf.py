"""The shelf as files: CSV (a row each, units in the names of columns) and JSON; read row by row.

A list stands in one cell with | between its parts; a container is written "gallon: 3.785 L at 62.00".
Not here: whether a sheet can be (core.knowledge.shelf).
"""

import csv
import io
import json
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from amber_gable.core.knowledge import Product, Sundry
from amber_gable.core.knowledge.shelf import SHEETS, Kind
from amber_gable.errors import FieldErrors

VERSION = 1
_SIZE = re.compile(r"\s*(?P<name>[^:|]+?)\s*:\s*(?P<litres>[\d.,]+)\s*(?:L|l|litres?)\s+at\s+(?P<price>[\d.,]+)\s*")
_LISTS = ("goes_on", "not_on", "over", "topped_by", "cautions", "never_with")
_NUMBER_LISTS = ("mix",)
MOST_ROWS = 2000


@dataclass(frozen=True)
class SheetRow:
    """A row as it was read: its number in the file, which table it belongs to, its values, and cells that do not read."""

    number: int
    kind: Kind
    key: str
    values: Mapping[str, Any]
    faults: Mapping[str, str] = field(default_factory=dict)


def slug(name: str) -> str:
    """Return a key made of a name: "Rivermark Seam Caulk" gives rivermark-seam-caulk."""
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:80]


def write_json(coatings: Mapping[str, Product], sundries: Mapping[str, Sundry]) -> str:
    """Return both tables as one JSON document."""
    tables = {
        "coatings": [{"key": key, **row.model_dump(mode="json")} for key, row in coatings.items()],
        "sundries": [{"key": key, **row.model_dump(mode="json")} for key, row in sundries.items()],
    }
    return json.dumps({"shelf_version": VERSION, **tables}, indent=1, ensure_ascii=False)


def write_csv(kind: Kind, rows: Mapping[str, Product] | Mapping[str, Sundry]) -> str:
    """Return one table as CSV with a head."""
    columns = list(SHEETS[kind].model_fields)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["key", *columns])
    for key, row in rows.items():
        writer.writerow([key, *(_cell(name, getattr(row, name)) for name in columns)])
    return out.getvalue()


def _cell(name: str, value: Any) -> str:
    if name == "sizes":
        return " | ".join(f"{s.name}: {s.litres:g} L at {s.price:.2f}" for s in value)
    if isinstance(value, tuple):
        return " | ".join(f"{v:g}" if isinstance(v, float) else str(v) for v in value)
    text = f"{value:g}" if isinstance(value, float) else str(value)
    # What a spreadsheet would run as a formula is kept as text; a negative temperature is none.
    return f"'{text}" if text[:1] in "=+@\t\r" or (text[:1] == "-" and not isinstance(value, float)) else text


def read(content: bytes) -> list[SheetRow]:
    """Return the rows of a file, CSV or JSON by what it begins with.

    Raises
    ------
    FieldErrors
        If it is neither; what is wrong with single rows stands in them.
    """
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as fault:
        raise FieldErrors({"file": "This is not text in UTF-8. Save the sheet as “CSV UTF-8”, or as JSON."}) from fault
    rows = list(_json_rows(text) if text.lstrip()[:1] in ("{", "[") else _csv_rows(text))
    if not rows:
        raise FieldErrors({"file": "There is no row in this file under its head."})
    if len(rows) > MOST_ROWS:
        raise FieldErrors({"file": f"A shelf has at most {MOST_ROWS} rows, this file has {len(rows)}."})
    return rows


def _json_rows(text: str) -> Iterator[SheetRow]:
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as fault:
        raise FieldErrors({"file": f"This is not JSON: {fault}."}) from fault
    if not isinstance(document, dict) or document.get("shelf_version") != VERSION:
        raise FieldErrors({"file": f"Give one object with “shelf_version”: {VERSION}, “coatings” and “sundries”, as the download has it."})
    number = 0
    for table, kind in (("coatings", "coating"), ("sundries", "sundry")):
        rows = document.get(table, [])
        if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
            raise FieldErrors({"file": f"“{table}” must be a list of objects."})
        for values in rows:
            number += 1
            key = str(values.get("key") or slug(str(values.get("name", ""))))
            yield SheetRow(number, kind, key, {k: v for k, v in values.items() if k != "key"})  # type: ignore[arg-type]


def _csv_rows(text: str) -> Iterator[SheetRow]:
    head = text.lstrip("\n").split("\n", 1)[0]
    delimiter = max(",;\t", key=head.count)
    reader = csv.reader(io.StringIO(text), delimiter=delimiter)
    columns = [name.strip() for name in next(reader, [])]
    # By the column that only one of the tables has.
    kind: Kind = "coating" if "volume_solids_pct" in columns else "sundry"
    if "name" not in columns or ("mix_text" not in columns and kind == "sundry"):
        raise FieldErrors({"file": "The first row must name the columns, as the download has them: key, name, family, ..."})
    twice = sorted({name for name in columns if columns.count(name) > 1})
    if twice:
        raise FieldErrors({"file": f"The column {twice[0]} is there twice."})
    for cells in reader:
        if any(cell.strip() for cell in cells):
            yield _csv_row(reader.line_num, kind, columns, cells, delimiter)


def _csv_row(number: int, kind: Kind, columns: list[str], cells: list[str], delimiter: str) -> SheetRow:
    faults: dict[str, str] = {}
    if len(cells) > len(columns):
        faults["key"] = f"This row has {len(cells)} cells under {len(columns)} columns; put text with a {delimiter} in quotes."
    given = {name: cell.strip().removeprefix("'") for name, cell in zip(columns, cells, strict=False)}
    values: dict[str, Any] = {}
    for name, cell in given.items():
        if name == "key" or (cell == "" and name != "name"):
            # An empty cell is what the sheet does not say: the column's default, where it has one.
            continue
        try:
            values[name] = _value(kind, name, cell, delimiter)
        except ValueError as fault:
            faults[name] = str(fault)
    return SheetRow(number, kind, given.get("key") or slug(given.get("name", "")), values, faults)


def _number(name: str, cell: str, delimiter: str) -> float:
    text = cell.replace(",", ".") if delimiter != "," else cell
    try:
        return float(text)
    except ValueError:
        raise ValueError(f"{name} must be a number, got “{cell}”.") from None


def _value(kind: Kind, name: str, cell: str, delimiter: str) -> Any:
    parts = [part.strip() for part in cell.split("|") if part.strip()]
    if name == "sizes":
        return tuple(_size(part, delimiter) for part in parts)
    if name in _LISTS:
        return tuple(parts)
    if name in _NUMBER_LISTS:
        return tuple(_number(name, part, delimiter) for part in parts)
    column = SHEETS[kind].model_fields.get(name)
    return _number(name, cell, delimiter) if column is not None and column.annotation is float else cell


def _size(part: str, delimiter: str) -> dict[str, Any]:
    match = _SIZE.fullmatch(part)
    if match is None:
        raise ValueError(f"sizes must read like “gallon: 3.785 L at 62.00 | quart: 0.946 L at 19.00”, got “{part}”.")
    return {
        "name": match["name"],
        "litres": _number("sizes", match["litres"], delimiter),
        "price": _number("sizes", match["price"], delimiter),
    }

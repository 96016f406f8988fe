"""Weather from a file: CSV with named columns, or hourly JSON, every fault told by row and column.

Units stand in the heads of the columns ("air temp (°F)", `wind_mph`); a figure that cannot be in the unit its head names is
refused in words, so that Fahrenheit labelled Celsius does not pass.
Not here: keeping it (services), or interpolating short gaps (core.weather).
"""

import csv
import io
import json
import math
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from amber_gable.core.air.weather import RANGES
from amber_gable.errors import FieldErrors
from amber_gable.units import convert

MOST_HOURS = 400
MOST_BYTES = 2_000_000
_MOST_FAULTS = 40
_GAP = timedelta(hours=3)


@dataclass(frozen=True)
class _Column:
    """A quantity: words its head may use, units by their spellings to a conversion."""

    name: str
    words: tuple[str, ...]
    units: Mapping[str, Callable[[float], float]]
    shown: str
    is_needed: bool = False
    hint: str = ""

    @property
    def low(self) -> float:
        return RANGES[self.name][0]

    @property
    def high(self) -> float:
        return RANGES[self.name][1]


def _by(source: str, target: str) -> Callable[[float], float]:
    return lambda v: convert(v, source, target)


_SPEEDS: Mapping[str, Callable[[float], float]] = {
    "m/s": float, "ms": float, "mps": float, "mph": _by("mph", "m/s"), "km/h": _by("km/h", "m/s"), "kmh": _by("km/h", "m/s"),
    "kn": _by("kn", "m/s"),
}  # fmt: skip
_PCT: Mapping[str, Callable[[float], float]] = {"%": float, "pct": float, "percent": float}
_TEMPS: Mapping[str, Callable[[float], float]] = {"c": float, "°c": float, "f": _by("F", "C"), "°f": _by("F", "C")}


def _certain(value: float) -> float:
    """Return the chance that a flag stands for: 100 for 1, 0 for 0; NaN for anything else."""
    return {0.0: 0.0, 1.0: 100.0}.get(value, math.nan)


_FLAGS = {"yes": "1", "true": "1", "no": "0", "false": "0"}
COLUMNS = (
    _Column("air_temp_c", ("air temp", "temp", "temperature", "air temperature"), _TEMPS, "air temperature", True,
            "If it is Fahrenheit, name the column “air temp (°F)”."),
    _Column("rel_humidity_pct", ("humidity", "rel humidity", "relative humidity", "rh"), _PCT, "humidity", True,
            "If it is a fraction (0.8), multiply it by 100."),
    _Column("wind_m_s", ("wind", "wind speed"), _SPEEDS, "wind", True, "Name the unit: “wind (mph)” or “wind (m/s)”."),
    _Column("cloud_pct", ("cloud", "clouds", "cloud cover"), _PCT, "cloud", True),
    _Column("wind_gust_m_s", ("wind gust", "gust", "gusts"), _SPEEDS, "gusts"),
    _Column("wind_from_deg", ("wind from", "wind direction", "direction"), {"deg": float, "°": float}, "wind direction"),
    _Column("rain_mm", ("rain", "precipitation"), {"mm": float, "in": _by("in", "mm")}, "rain"),
    _Column("rain_probability_pct", ("rain probability", "chance of rain", "rain chance"), _PCT, "chance of rain"),
    _Column("thunder_probability_pct", ("thunder probability", "chance of thunder", "thunder chance", "thunder"), {**_PCT, "": _certain},
            "thunder", hint="Give a chance in percent, or yes and no."),
)  # fmt: skip
_RAIN = ("rain_mm", "rain_probability_pct")


@dataclass(frozen=True)
class WeatherFile:
    """Hours that were read.

    Parameters
    ----------
    hours : list of dict
        As the forecast service gives them: SI, `time` with its offset; None where a column is missing.
    filled : int
        Hours missing in between that are interpolated.
    left_out : int
        Hours after a gap of more than three hours.
    """

    hours: list[dict[str, Any]]
    filled: int
    left_out: int


def _head(text: str) -> tuple[str, str]:
    """Return the words and the unit of a column's head: "Air temp (°F)" and "wind_mph" alike."""
    plain = text.strip().lower().replace("[", "(").replace("]", ")")
    if "(" in plain:
        words, _, unit = plain.partition("(")
        return words.replace("_", " ").strip(), unit.rstrip(") ").strip()
    words = plain.replace("_m_s", "_m/s").replace("_km_h", "_km/h").replace("_", " ").strip()
    for unit in sorted({u for c in COLUMNS for u in c.units if u}, key=len, reverse=True):
        if words.endswith(f" {unit}"):
            return words[: -len(unit) - 1].strip(), unit
    return words, ""


def _columns(heads: Sequence[str]) -> tuple[int, list[tuple[int, _Column, Callable[[float], float]]]]:
    """Return where the time stands, and each known column with its conversion.

    Raises
    ------
    FieldErrors
    """
    faults: dict[str, str] = {}
    time_at, columns = -1, []
    for index, head in enumerate(heads):
        words, unit = _head(head)
        if words in ("time", "date", "datetime", "hour"):
            time_at = index
            continue
        column = next((c for c in COLUMNS if words in c.words), None)
        if column is None:
            continue
        if unit not in column.units:
            units = ", ".join(dict.fromkeys(u for u in column.units if u not in ("", "ms", "kmh", "mps")))
            faults[f"column {head.strip()}"] = (
                f"Say its unit in the head: {units}." if not unit else f"The unit {unit} is not known; use {units}."
            )
            continue
        columns.append((index, column, column.units[unit]))
    there = {c.name for _, c, _ in columns}
    if time_at < 0:
        faults["column time"] = "There is no column “time”."
    for column in COLUMNS:
        if column.is_needed and column.name not in there and not any(column.words[0] in key for key in faults):
            faults[f"column {column.words[0]}"] = f"There is no column “{column.words[0]}”. {column.hint}".strip()
    if not there & set(_RAIN) and not faults:
        faults["column rain"] = "Give “rain (mm)” or “chance of rain (%)”: without either nothing can be said of a fresh coat."
    if faults:
        raise FieldErrors(faults)
    return time_at, columns


def _time(text: str, zone: ZoneInfo) -> datetime:
    moment = datetime.fromisoformat(text.strip().replace(" ", "T", 1))
    return moment.replace(tzinfo=zone) if moment.tzinfo is None else moment


def _figure(text: str, column: _Column, to_si: Callable[[float], float]) -> float:
    plain = text.strip().rstrip("%").strip()
    plain = _FLAGS.get(plain.lower(), plain) if "" in column.units else plain
    if not plain and column.name == "thunder_probability_pct":
        return 0.0
    if plain.count(",") == 1 and "." not in plain:
        plain = plain.replace(",", ".")
    try:
        value = to_si(float(plain))
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise ValueError(f"“{text.strip()}” is not a number; leave the whole hour out where nothing is known.")
    if not column.low <= value <= column.high:
        raise ValueError(f"{column.shown} {text.strip()} cannot be. {column.hint}".strip())
    return value


def _rows(table: Sequence[Sequence[str]], zone: ZoneInfo) -> list[dict[str, Any]]:
    time_at, columns = _columns(table[0])
    faults: dict[str, str] = {}
    hours: list[dict[str, Any]] = []
    for number, row in enumerate(table[1:], start=2):
        if not any(cell.strip() for cell in row):
            continue
        hour: dict[str, Any] = dict.fromkeys(c.name for c in COLUMNS)
        try:
            moment = _time(row[time_at], zone)
        except (ValueError, IndexError):
            faults[f"row {number}, time"] = "Write the time like 2026-09-15T06:00 or 2026-09-15 06:00."
            continue
        if hours and moment <= hours[-1]["at"]:
            faults[f"row {number}, time"] = (
                "It stands twice." if moment == hours[-1]["at"] else "It lies before the row above: sort the rows by time."
            )
        for index, column, to_si in columns:
            try:
                hour[column.name] = _figure(row[index] if index < len(row) else "", column, to_si)
            except ValueError as fault:
                faults[f"row {number}, {column.words[0]}"] = str(fault)
        hours.append(hour | {"at": moment})
        if len(faults) >= _MOST_FAULTS:
            break
    if faults:
        raise FieldErrors(faults)
    return hours


def _from_json(content: str) -> list[list[str]]:
    """Return hourly JSON as a table, so that both ways are checked by the same rules."""
    value = json.loads(content)
    rows = value.get("hours") if isinstance(value, dict) else value
    if not isinstance(rows, list) or not rows or not all(isinstance(r, dict) for r in rows):
        raise FieldErrors({"file": "Give a list of hours, or an object with “hours”, each with its time and figures by name."})
    heads = list(dict.fromkeys(key for row in rows for key in row))
    return [heads, *[["" if row.get(h) is None else str(row[h]) for h in heads] for row in rows]]


def read_weather(content: bytes, zone: ZoneInfo) -> WeatherFile:
    """Return the hours of a file.

    Parameters
    ----------
    content : bytes
        CSV with commas, semicolons or tabs, or JSON.
    zone : ZoneInfo
        Of times without an offset.

    Raises
    ------
    FieldErrors
        By row and column; at most forty.
    """
    if len(content) > MOST_BYTES:
        raise FieldErrors({"file": "A weather file has at most 2 MB."})
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as fault:
        raise FieldErrors({"file": "This is not text. Give CSV or JSON, in UTF-8."}) from fault
    try:
        table = _from_json(text) if re.match(r"\s*[\[{]", text) else _table(text)
    except (ValueError, RecursionError) as fault:
        raise FieldErrors({"file": "This is neither CSV nor JSON that can be read."}) from fault
    if len(table) < 3:
        raise FieldErrors({"file": "Give a row of heads and at least two hours."})
    if len(table) - 1 > MOST_HOURS:
        raise FieldErrors({"file": f"At most {MOST_HOURS} hours, got {len(table) - 1}."})
    return _whole(_rows(table, zone))


def _table(text: str) -> list[list[str]]:
    first = text.splitlines()[0] if text.strip() else ""
    separator = max(";\t,", key=first.count)
    return [row for row in csv.reader(io.StringIO(text), delimiter=separator) if row]


def _whole(hours: list[dict[str, Any]]) -> WeatherFile:
    """Return hours up to the first gap that nobody should bridge, gusts and rain filled in where no column has them."""
    kept = [hours[0]]
    filled = 0
    for hour in hours[1:]:
        gap = hour["at"] - kept[-1]["at"]
        if gap > _GAP:
            break
        filled += max(round(gap / timedelta(hours=1)) - 1, 0)
        kept.append(hour)
    out = []
    for hour in kept:
        row = {k: v for k, v in hour.items() if k != "at"} | {"time": hour["at"].isoformat()}
        row["wind_gust_m_s"] = row["wind_m_s"] if row["wind_gust_m_s"] is None else row["wind_gust_m_s"]
        row["rain_mm"] = row["rain_mm"] or 0.0
        # An amount without a chance is taken at its word.
        row["rain_probability_pct"] = 100.0 * (row["rain_mm"] > 0) if row["rain_probability_pct"] is None else row["rain_probability_pct"]
        out.append(row)
    return WeatherFile(out, filled, len(hours) - len(kept))

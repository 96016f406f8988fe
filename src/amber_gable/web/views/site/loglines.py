"""The site log as one list: work, readings, weather, deliveries, marks, in the order in which they happened, each with its photographs.

What was taken back or corrected stays readable, struck out, beside what stands for it.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from amber_gable.core.windows.words import short_name
from amber_gable.services.app.scope import Scope
from amber_gable.services.log import sitelog
from amber_gable.services.log.entries import lines_of, photos_by_entry, void_in
from amber_gable.services.outlook import sightings, skywatch
from amber_gable.store.models import Job, LogEntry, Photo, Reading, Sighting
from amber_gable.units import show
from amber_gable.web.templating import clock_time, zone_of
from amber_gable.web.views.plan.evenings import record_rows, way_here

DAYS_SHOWN = 14
_SKY = {"rain": "Rain", "thunder": "Thunder"}


@dataclass(frozen=True)
class LogLine:
    """One entry in words.

    Parameters
    ----------
    at : datetime
        In the site's zone.
    what, words : str
        What it is; what it says besides.
    by : str
        Who said it, and how late it came.
    photos : sequence of str
        Ids of its photographs.
    log_id, work_id, reading_id : str
        By which it can be taken back; empty where it cannot.
    is_gone : bool
        Taken back, or corrected by another one.
    """

    at: datetime
    what: str
    words: str
    by: str
    photos: Sequence[str] = ()
    log_id: str = ""
    work_id: str = ""
    reading_id: str = ""
    is_gone: bool = False
    correctable: dict[str, Any] | None = None


def log_lines(scope: Scope, job: Job, now: datetime) -> list[tuple[str, list[LogLine]]]:
    """Return the log by day, the newest first."""
    gone = void_in(lines_of(scope, job))
    since, photos = now - timedelta(days=DAYS_SHOWN), photos_by_entry(scope, job)
    lines = [
        *_own(scope, job, now, photos, since),
        *_work(scope, job, now, photos),
        *(_reading(r, now, job, is_gone=r.id in gone) for r in sitelog.latest(scope, job)),
        *(_sky(s, now) for s in skywatch.rows_since(scope, job, since)),
        *_felt(scope, job, now),
    ]
    by_day: dict[date, list[LogLine]] = {}
    for line in sorted(lines, key=lambda one: one.at, reverse=True):
        if line.at >= since:
            by_day.setdefault(line.at.date(), []).append(line)
    return [(_day(day, now), of_day) for day, of_day in by_day.items()]


def _day(day: date, now: datetime) -> str:
    word = "Today" if day == now.date() else f"{day:%A}"
    return f"{word}, {day.day} {day:%B}"


def _own(scope: Scope, job: Job, now: datetime, photos: dict[str, list[Photo]], since: datetime) -> list[LogLine]:
    rows = lines_of(scope, job)
    gone, by_entry = void_in(rows), {row.entry: row for row in rows}
    out = []
    for row in rows:
        if row.kind == "withdrawn" or row.at < since:
            continue
        at = row.at.astimezone(zone_of(job))
        what, words = _words(scope, row, by_entry)
        kept = [p.id for p in photos.get(row.entry, [])]
        out.append(LogLine(at, what, words, f"{row.said_by}{way_here(row.details, now)}", kept, log_id=row.id, is_gone=row.entry in gone))
    return out


def _words(scope: Scope, row: LogEntry, by_entry: dict[str, LogEntry]) -> tuple[str, str]:
    tables, said = scope.knowledge.site_log, row.details
    label = tables.kinds[row.kind].label if row.kind in tables.kinds else row.kind
    parts = [row.text]
    if row.kind == "mark":
        label = f"Mark: {tables.marks[said['mark']].label.lower()}"
    if row.kind in ("mended", "looked", "accepted") and (of := by_entry.get(row.refers)) is not None:
        label = f"{label}: {tables.marks[of.details['mark']].label.lower()}"
    if row.kind == "looked":
        parts.insert(0, "good" if said.get("is_good") else "still there")
    if row.kind == "walk":
        label = "Owner signed the list" if said.get("stage") == "list" else "Owner signed the work"
    if "why" in said:
        parts.insert(0, tables.delays[said["why"]].label)
    if "harm" in said:
        label = f"{label}: {tables.harms[said['harm']].label.lower()}"
    parts += [f"{said['hours']:g} h"] if said.get("hours") else []
    parts += [f"{name} {said[name]}" for name in ("person", "batch", "count", "name") if said.get(name)]
    parts += list(said.get("seen_to", ()))
    return f"{label}{f', {row.place}' if row.place else ''}", "; ".join(p for p in parts if p)


def _work(scope: Scope, job: Job, now: datetime, photos: dict[str, list[Photo]]) -> list[LogLine]:
    out = []
    for line in record_rows(scope, job, now, most=200):
        bits = [line["share"], line["when"], line["litres"], f"batch {line['batch']}" if line["batch"] else "", *line["more"]]
        bits += [f"“{line['remark']}”" if line["remark"] else "", line["back"]]
        kept = [p.id for p in photos.get(line["entry"], [])]
        who = f"{line['by']}, for {line['who']}" if line["who"] and line["who"] != line["by"] else line["by"]
        out.append(
            LogLine(
                line["at"], f"{line['what']}, {line['told']}", "; ".join(b for b in bits if b), f"{who}{line['way']}", kept,
                work_id=line["line_id"], is_gone=bool(line["back"]), correctable=line if not line["back"] and line["is_done"] else None,
            )
        )  # fmt: skip
    return out


def _reading(row: Reading, now: datetime, job: Job, *, is_gone: bool) -> LogLine:
    at, v, u = row.taken_at.astimezone(now.tzinfo), row.verdict, job.units
    numbers = [
        f"air {show(row.air_temp_c, 'temperature', u)}", f"{row.rel_humidity_pct:.0f} %",
        f"surface {show(row.surface_temp_c, 'temperature', u)}",
        f"dew point {show(v['dew_point_c'], 'temperature', u)}", f"margin {show(v['dew_margin_c'], 'temperature difference', u)}",
    ]  # fmt: skip
    if (moisture := row.details.get("moisture_pct")) is not None:
        numbers.append(f"moisture {moisture:g} %")
    if (wind := row.details.get("wind_m_s")) is not None:
        numbers.append(f"wind {show(wind, 'speed', u)}")
    by = f"{row.painter or 'somebody'}{', by gauge' if row.details.get('is_by_gauge') else ''}"
    why = f", {short_name(v['rules'][0])}" if v["rules"] else ""
    word = "may be painted" if v["may_paint"] else f"not to be painted{why}"
    said_by = f"{by}{way_here(row.details, now)}"
    return LogLine(
        at, f"Reading, {row.surface_name}: {word}", "; ".join(numbers), said_by, reading_id="" if is_gone else row.id, is_gone=is_gone
    )


def _sky(row: Sighting, now: datetime) -> LogLine:
    start = row.from_at.astimezone(now.tzinfo)
    if row.kind == "thunder":
        return LogLine(start, "Thunder heard", "", row.said_by or "somebody")
    until = f"until {clock_time(row.until_at.astimezone(now.tzinfo))}" if row.until_at else "goes on"
    return LogLine(start, f"Rain, {row.strength or 'light'}", until, row.said_by or "somebody")


def _felt(scope: Scope, job: Job, now: datetime) -> list[LogLine]:
    names = {s.id: s.name for e in job.building.elevations for s in e.surfaces}
    out = []
    for row in sightings.rows_of(scope, job):
        what = f"meter {row.value:g} %" if row.kind == "meter" else row.kind.removeprefix("palm-")
        word = what if row.kind in ("meter", "washed") else f"felt {what}"
        out.append(
            LogLine(
                row.from_at.astimezone(now.tzinfo), f"{names.get(row.surface_id or '', 'A wall')}: {word}", "", row.said_by or "somebody"
            )
        )
    return out

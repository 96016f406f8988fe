"""The calendar of all jobs: a row a job, a bar a day, as tall as the crew is on it; pale beyond the forecast; a flag at the finish."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from amber_gable.drawing.svg import el, title, words

_LEFT, _CELL, _ROW, _TOP = 190.0, 17.0, 34.0, 44.0
DAYS = 56


@dataclass(frozen=True)
class JobRow:
    """A job: its name, painter-hours by day, the days that are expectation only, when it is done, where it leads to, what is hired."""

    name: str
    hours: Mapping[date, float]
    expected: frozenset[date]
    done_on: date | None
    href: str = ""
    hires: Sequence["HireBar"] = ()


@dataclass(frozen=True)
class HireBar:
    """Days of a hire, both included, in words; by when it has to be reserved, None where it is."""

    first: date
    last: date
    said: str
    reserve_by: date | None


def weeks(rows: Sequence[JobRow], first: date, today: date, full_h: float) -> str:
    """Return the calendar as SVG.

    Parameters
    ----------
    rows : sequence of JobRow
    first : date
        Of its days, a Monday.
    today : date
    full_h : float
        Painter-hours of a day on which the whole crew is there.
    """
    width, height = _LEFT + _CELL * DAYS + 12, _TOP + _ROW * len(rows) + 10
    parts = []
    for n in range(DAYS):
        day, x = first + timedelta(days=n), _LEFT + _CELL * n
        if day.weekday() == 0:
            parts.append(words(f"{day.day} {day:%b}", x=x + 2, y=_TOP - 20, class_="weeks-axis"))
            parts.append(el("line", x1=x, x2=x, y1=_TOP - 14, y2=height - 6, class_="weeks-monday"))
        if day.weekday() == 6:
            parts.append(el("rect", x=x, y=_TOP - 8, width=_CELL, height=height - _TOP, class_="weeks-sunday"))
        if day == today:
            parts.append(el("line", x1=x + 1, x2=x + 1, y1=_TOP - 14, y2=height - 4, class_="board-now"))
    for nth, row in enumerate(rows):
        foot = _TOP + _ROW * (nth + 1) - 8
        name = words(row.name, x=_LEFT - 12, y=foot - 4, class_="board-name")
        parts.append(el("a", name, href=row.href) if row.href else name)
        parts.append(el("line", x1=_LEFT, x2=width - 12, y1=foot, y2=foot, class_="board-base"))
        for day, hours in row.hours.items():
            n = (day - first).days
            if not 0 <= n < DAYS or hours <= 0:
                continue
            tall = max(4.0, (_ROW - 10) * min(hours / full_h, 1.0))
            left, look = _LEFT + _CELL * n + 1.5, "weeks-guess" if day in row.expected else "weeks-work"
            said = title(f"{row.name}, {day:%a} {day.day} {day:%b}: {hours:.1f} painter-hours{' expected' if day in row.expected else ''}")
            parts.append(el("g", [said, el("rect", x=left, y=foot - tall, width=_CELL - 3, height=tall, class_=look)]))
        parts += [part for hire in row.hires for part in _hire(hire, first, foot)]
        if row.done_on is not None and 0 <= (row.done_on - first).days < DAYS:
            x = _LEFT + _CELL * ((row.done_on - first).days + 1)
            flag = el(
                "path", d=f"M{x:.1f} {foot:.1f}V{foot - 24:.1f}L{x + 11:.1f} {foot - 18:.1f}L{x:.1f} {foot - 13:.1f}", class_="weeks-flag"
            )
            parts.append(el("g", [title(f"{row.name} is done {row.done_on:%A} {row.done_on.day} {row.done_on:%B}"), flag]))
    return el("svg", parts, viewBox=f"0 0 {width:.0f} {height:.0f}", class_="board", role="group", aria_label="All jobs, eight weeks")


def _hire(hire: HireBar, first: date, foot: float) -> list[str]:
    """Return a hire as a line under its days, dashed while it is not reserved, and a mark at the day by which it has to be."""
    parts = []
    start, end = max((hire.first - first).days, 0), min((hire.last - first).days, DAYS - 1)
    if start <= end:
        look = "weeks-hire" if hire.reserve_by is None else "weeks-hire is-open"
        line = el("line", x1=_LEFT + _CELL * start + 1.5, x2=_LEFT + _CELL * (end + 1) - 1.5, y1=foot + 4, y2=foot + 4, class_=look)
        parts.append(el("g", [title(hire.said), line]))
    if hire.reserve_by is not None and 0 <= (hire.reserve_by - first).days < DAYS:
        x = _LEFT + _CELL * (hire.reserve_by - first).days + _CELL / 2
        mark = el("path", d=f"M{x - 5:.1f} {foot + 7:.1f}h10l-5 -7z", class_="weeks-reserve")
        parts.append(el("g", [title(f"Reserve by {hire.reserve_by:%A} {hire.reserve_by.day} {hire.reserve_by:%B}: {hire.said}"), mark]))
    return parts

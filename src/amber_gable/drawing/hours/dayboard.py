"""The board of a day or a week: a row for each side, painter or machine; work as marks on it, waits as thin lines, and now.

Under a side lie the hours in which its wall may take a coat: open a full block, tight a dotted half, shut a line.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

from amber_gable.drawing.patterns import LOOK_FILLS
from amber_gable.drawing.svg import el, title, words

WIDTH = 1180.0
_LEFT, _RIGHT, _TOP, _ROW, _MARK = 150.0, 16.0, 26.0, 46.0, 30.0
# What a ribbon adds to a row; what days add to the head.
_RIBBON, _DAYS_HEAD = 12.0, 20.0
_FIRST_H, _LAST_H = 6.0, 19.0
# Of a mark, from which width on its words fit into it; a letter takes so much.
_LETTER_PX = 6.3
# Between the days of a week.
_GAP = 8.0
# How a stage is filled: as the part looks once it is done.
STAGE_FILLS = {
    "clear": "var(--wash)", "wash": LOOK_FILLS["washed"], "prepare": LOOK_FILLS["prepared"], "mask": "var(--glass)",
    "prime": LOOK_FILLS["primed"], "coat": LOOK_FILLS["first coat"], "seal": LOOK_FILLS["finished"], "finish": "var(--sheet)",
}  # fmt: skip
# state of the weather: top and height of its block, counted from the foot of a row.
_BLOCKS = {2: (1.0, 10.0, "ribbon-open"), 1: (6.0, 5.0, "ribbon-tight"), 0: (9.0, 2.0, "ribbon-shut")}


@dataclass(frozen=True)
class Mark:
    """Work of a row.

    Parameters
    ----------
    from_h, until_h : float
        Hours of its day.
    stage, state : str
        Of the work, and where it stands.
    href, put : str
        Where it leads to, or the form that puts it elsewhere.
    day : int
        Of the board, from 0.
    waits_for : str
        What its start waits for, in words; empty for nothing but people and weather.
    work : str
        Id of the work, for what asks when it may begin.
    """

    from_h: float
    until_h: float
    label: str
    stage: str
    state: str = "to come"
    href: str = ""
    put: str = ""
    day: int = 0
    waits_for: str = ""
    work: str = ""


@dataclass(frozen=True)
class BoardRow:
    """A row: its name, the marks in the order of their time, and the hours of the weather as (day, from, until, state)."""

    name: str
    marks: Sequence[Mark]
    note: str = ""
    ribbon: Sequence[tuple[int, float, float, int]] = field(default_factory=tuple)


@dataclass(frozen=True)
class _Scale:
    days: int

    @property
    def day_px(self) -> float:
        return (WIDTH - _LEFT - _RIGHT - (self.days - 1) * _GAP) / self.days

    def x(self, day: int, hour: float) -> float:
        share = (min(max(hour, _FIRST_H), _LAST_H) - _FIRST_H) / (_LAST_H - _FIRST_H)
        return _LEFT + day * (self.day_px + _GAP) + self.day_px * share


def x_of(hour: float, day: int = 0, days: int = 1) -> float:
    """Return where an hour of a day lies on a board of so many days [px]."""
    return _Scale(days).x(day, hour)


def board(rows: Sequence[BoardRow], now: tuple[int, float] | None, caption: str, days: Sequence[str] = ("",), may_at: str = "") -> str:
    """Return the board as SVG.

    Parameters
    ----------
    now : tuple of day and hour, or None
        Where it is now, if that is on the board.
    caption : str
        For those who do not see it.
    days : sequence of str
        Names of the days, where there are several.
    may_at : str
        Address that says when work that is moved may begin.
    """
    scale, top = _Scale(len(days)), _TOP + (_DAYS_HEAD if len(days) > 1 else 0.0)
    heights = [_ROW + (_RIBBON if row.ribbon else 0.0) for row in rows]
    height = top + sum(heights) + 8
    parts = [part for nth, name in enumerate(days) for part in _hours(scale, nth, name, top, height, len(days))]
    foot = top - 6
    for row, tall in zip(rows, heights, strict=True):
        foot += tall
        parts += _row(row, scale, foot)
    if now is not None and _FIRST_H <= now[1] <= _LAST_H:
        x = scale.x(*now)
        parts.append(el("line", x1=x, x2=x, y1=top - 6, y2=height, class_="board-now"))
    # Marks that can be moved are no part of one picture.
    role = "group" if any(mark.put or mark.href for row in rows for mark in row.marks) else "img"
    wide = f"{scale.x(0, _FIRST_H + 1) - scale.x(0, _FIRST_H):.2f}"
    return el(
        "svg", parts, viewBox=f"0 0 {WIDTH:.0f} {height:.0f}", class_="board", role=role, aria_label=caption, data_hour=wide,
        data_left=f"{_LEFT:g}", data_first=f"{_FIRST_H:g}", data_may=may_at or None,
    )  # fmt: skip


def _hours(scale: _Scale, day: int, name: str, top: float, height: float, days: int) -> list[str]:
    parts = []
    if name:
        parts.append(words(name, x=(scale.x(day, _FIRST_H) + scale.x(day, _LAST_H)) / 2, y=16, class_="board-day"))
    every, said = (1, 2) if days == 1 else (3, 3)
    for hour in range(int(_FIRST_H), int(_LAST_H) + 1, every):
        x = scale.x(day, hour)
        parts.append(el("line", x1=x, x2=x, y1=top - 4, y2=height, class_="board-hour"))
        if hour % said == 0:
            parts.append(words(f"{hour}", x=x, y=top - 9, class_="board-axis"))
    return parts


def _row(row: BoardRow, scale: _Scale, foot: float) -> list[str]:
    parts = [words(row.name, x=_LEFT - 14, y=foot - 9 - (_RIBBON if row.ribbon else 0), class_="board-name")]
    for day, first, last, state in row.ribbon:
        top, tall, class_ = _BLOCKS[state]
        left, right = scale.x(day, first), scale.x(day, last)
        if right > left:
            fill = "url(#fill-tight)" if state == 1 else None
            parts.append(el("rect", x=left, y=foot - _RIBBON + top, width=right - left, height=tall, class_=class_, fill=fill))
    base = foot - (_RIBBON if row.ribbon else 0)
    for day in range(scale.days) if not row.ribbon else ():
        parts.append(el("line", x1=scale.x(day, _FIRST_H), x2=scale.x(day, _LAST_H), y1=base, y2=base, class_="board-base"))
    before = (0, _FIRST_H)
    for mark in sorted(row.marks, key=lambda m: (m.day, m.from_h)):
        parts += _wait(mark, before, scale, base)
        parts.append(_mark(mark, scale, base))
        before = (mark.day, mark.until_h)
    if row.note and not row.marks:
        parts.append(words(row.note, x=_LEFT + 8, y=base - 10, class_="board-note"))
    return parts


def _wait(mark: Mark, before: tuple[int, float], scale: _Scale, base: float) -> list[str]:
    """Return the thin line that leads to work from what lies before it in its row, with what is waited for where there is room."""
    if not mark.waits_for:
        return []
    left, right = scale.x(*before), scale.x(mark.day, mark.from_h)
    if right - left < 6:
        return []
    y = base - _MARK / 2
    parts = [
        el("line", x1=left, x2=right, y1=y, y2=y, class_="board-wait"),
        el("line", x1=right, x2=right, y1=y - 5, y2=y + 5, class_="board-wait"),
    ]
    if len(mark.waits_for) * _LETTER_PX <= right - left - 8:
        parts.append(words(mark.waits_for, x=right - 6, y=y - 5, class_="board-waits"))
    return parts


def _mark(mark: Mark, scale: _Scale, base: float) -> str:
    left, right = scale.x(mark.day, mark.from_h), scale.x(mark.day, mark.until_h)
    width = max(right - left, 4.0)
    then = f", after {mark.waits_for}" if mark.waits_for else ""
    inside = [title(f"{mark.label}, {_clock(mark.from_h)} to {_clock(mark.until_h)}, {mark.state}{then}")]
    inside.append(
        el("rect", x=left, y=base - _MARK, width=width, height=_MARK, fill=STAGE_FILLS[mark.stage], class_=f"board-mark is-{_class(mark)}")
    )
    fits = int((width - 10) / _LETTER_PX)
    if fits >= 4:
        shown = mark.label if len(mark.label) <= fits else f"{mark.label[: fits - 1].rstrip(' ,:')}…"
        back = len(shown) * _LETTER_PX + 6
        inside.append(el("rect", x=left + 3, y=base - _MARK + 7, width=min(back, width - 6), height=16, class_="board-back"))
        inside.append(words(shown, x=left + 6, y=base - _MARK + 19, class_="board-word"))
    if mark.state == "done":
        inside.append(words("✓", x=right - 9, y=base - _MARK + 11, class_="board-tick"))
    if mark.put:
        said = f"{mark.label}, {_clock(mark.from_h)}: move with the arrow keys"
        return el(
            "g", inside, data_put=mark.put, data_from=f"{mark.from_h:g}", data_what=mark.label, data_foot=f"{base:g}", data_work=mark.work,
            data_long=f"{mark.until_h - mark.from_h:g}", tabindex=0, role="button", aria_label=said, class_="board-movable",
        )  # fmt: skip
    return el("a", inside, href=mark.href) if mark.href else el("g", inside)


def _class(mark: Mark) -> str:
    return mark.state.replace(" ", "-")


def _clock(hour: float) -> str:
    return f"{int(hour):02d}:{round(hour % 1 * 60):02d}"

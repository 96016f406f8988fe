"""The board of a day: each painter's hours as a row, work as marks cut from it, what is waited for as a thin line, and now."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.drawing.patterns import LOOK_FILLS
from amber_gable.drawing.svg import el, title, words

WIDTH = 1180.0
_LEFT, _RIGHT, _TOP, _ROW, _MARK = 150.0, 16.0, 26.0, 46.0, 30.0
_FIRST_H, _LAST_H = 6.0, 19.0
# Of a mark, from which width on its words fit into it; a letter takes so much.
_LETTER_PX = 7.6
# How a stage is filled: as the part looks once it is done.
STAGE_FILLS = {
    "clear": "var(--wash)", "wash": LOOK_FILLS["washed"], "prepare": LOOK_FILLS["prepared"], "mask": "var(--glass)",
    "prime": LOOK_FILLS["primed"], "coat": LOOK_FILLS["first coat"], "seal": LOOK_FILLS["finished"], "finish": "var(--sheet)",
}  # fmt: skip


@dataclass(frozen=True)
class Mark:
    """Work of a row: hours of the day from and to, what, its stage, its state; where it leads to, or the form that puts it elsewhere."""

    from_h: float
    until_h: float
    label: str
    stage: str
    state: str = "to come"
    href: str = ""
    put: str = ""


@dataclass(frozen=True)
class BoardRow:
    """A row: a painter's name and the marks of the day."""

    name: str
    marks: Sequence[Mark]
    note: str = ""


def x_of(hour: float) -> float:
    """Return where an hour of the day lies on the board [px]."""
    span = WIDTH - _LEFT - _RIGHT
    return _LEFT + span * (min(max(hour, _FIRST_H), _LAST_H) - _FIRST_H) / (_LAST_H - _FIRST_H)


def board(rows: Sequence[BoardRow], now_h: float | None, caption: str) -> str:
    """Return the board of a day as SVG.

    Parameters
    ----------
    now_h : float or None
        The hour it is, where the day is today.
    caption : str
        For those who do not see it.
    """
    height = _TOP + _ROW * len(rows) + 8
    parts = []
    for hour in range(int(_FIRST_H), int(_LAST_H) + 1):
        x = x_of(hour)
        parts.append(el("line", x1=x, x2=x, y1=_TOP - 4, y2=height, class_="board-hour"))
        if hour % 2 == 0:
            parts.append(words(f"{hour}", x=x, y=_TOP - 9, class_="board-axis"))
    for nth, row in enumerate(rows):
        foot = _TOP + _ROW * (nth + 1) - 6
        parts.append(words(row.name, x=_LEFT - 14, y=foot - 9, class_="board-name"))
        parts.append(el("line", x1=_LEFT, x2=WIDTH - _RIGHT, y1=foot, y2=foot, class_="board-base"))
        parts += [_mark(mark, foot) for mark in row.marks]
        if row.note and not row.marks:
            parts.append(words(row.note, x=_LEFT + 8, y=foot - 10, class_="board-note"))
    if now_h is not None and _FIRST_H <= now_h <= _LAST_H:
        x = x_of(now_h)
        parts.append(el("line", x1=x, x2=x, y1=_TOP - 6, y2=height, class_="board-now"))
    # Marks that can be moved are no part of one picture.
    role = "group" if any(mark.put for row in rows for mark in row.marks) else "img"
    wide = f"{x_of(_FIRST_H + 1) - x_of(_FIRST_H):.2f}"
    return el("svg", parts, viewBox=f"0 0 {WIDTH:.0f} {height:.0f}", class_="board", role=role, aria_label=caption, data_hour=wide)


def _mark(mark: Mark, foot: float) -> str:
    left, right = x_of(mark.from_h), x_of(mark.until_h)
    width = max(right - left, 4.0)
    inside = [title(f"{mark.label}, {_clock(mark.from_h)} to {_clock(mark.until_h)}, {mark.state}")]
    inside.append(
        el("rect", x=left, y=foot - _MARK, width=width, height=_MARK, fill=STAGE_FILLS[mark.stage], class_=f"board-mark is-{_class(mark)}")
    )
    fits = int((width - 10) / _LETTER_PX)
    if fits >= 4:
        shown = mark.label if len(mark.label) <= fits else f"{mark.label[: fits - 1].rstrip(' ,:')}…"
        back = len(shown) * _LETTER_PX + 6
        inside.append(el("rect", x=left + 3, y=foot - _MARK + 7, width=min(back, width - 6), height=16, class_="board-back"))
        inside.append(words(shown, x=left + 6, y=foot - _MARK + 19, class_="board-word"))
    if mark.state == "done":
        inside.append(words("✓", x=right - 9, y=foot - _MARK + 11, class_="board-tick"))
    if mark.put:
        said = f"{mark.label}, {_clock(mark.from_h)}: move with the arrow keys"
        return el(
            "g", inside, data_put=mark.put, data_from=f"{mark.from_h:g}", data_what=mark.label, tabindex=0, role="button", aria_label=said,
            class_="board-movable",
        )  # fmt: skip
    return el("a", inside, href=mark.href) if mark.href else el("g", inside)


def _class(mark: Mark) -> str:
    return mark.state.replace(" ", "-")


def _clock(hour: float) -> str:
    return f"{int(hour):02d}:{round(hour % 1 * 60):02d}"

"""The ribbon sheet for the van: every surface's hours on one sheet that stands alone, in black where it is printed so.

Its colours and letters are in it, so that it opens anywhere.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.drawing.hours.timeaxis import Axis, days, nights, spans
from amber_gable.drawing.svg import el, words
from amber_gable.drawing.tokens import token

_INK, _PAPER, _NIGHT, _TEAL = token("ink"), token("sheet"), token("wash"), token("open")
_AMBER, _WATER, _SHUT = token("amber"), token("water"), token("shut-line")
_LEFT, _WIDTH, _HEAD, _ROW, _FOOT = 210.0, 1330.0, 108.0, 34.0, 60.0


@dataclass(frozen=True)
class RibbonRow:
    """One surface: its name, run-length states (first step, state), and where it is sunny or wet (Q,)."""

    name: str
    runs: Sequence[tuple[int, int]]
    sun: NDArray[np.bool_]
    wet: NDArray[np.bool_]


@dataclass(frozen=True)
class Sheet:
    """Title, subtitle and shared weather of a ribbon sheet."""

    title: str
    line: str
    times: Sequence[object]
    is_day: NDArray[np.bool_]
    rain_mm_h: Array
    rain_chance_pct: Array


def _text(content: str, x: float, y: float, size: float, weight: int = 400, anchor: str = "start") -> str:
    return words(content, x=x, y=y, font_family="sans-serif", font_size=size, font_weight=str(weight), text_anchor=anchor, fill=_INK)


def _block(axis: Axis, start: int, end: int, y: float, height: float, **look: str) -> str:
    a, b = (_LEFT + axis.at(step) / 100 * (_WIDTH - _LEFT - 20) for step in (start, end))
    return el("rect", x=a, y=y, width=max(b - a, 0.5), height=height, **look)


def _across(x_pct: float) -> float:
    return _LEFT + x_pct / 100 * (_WIDTH - _LEFT - 20)


def ribbon_sheet(axis: Axis, rows: Sequence[RibbonRow], sheet: Sheet) -> str:
    """Return the sheet as a whole SVG file: open a full block, tight a half-height one with a bar, shut a thin line."""
    height = _HEAD + _ROW * len(rows) + _FOOT
    parts = [
        el("rect", x=0, y=0, width=_WIDTH, height=height, fill=_PAPER),
        _text(sheet.title, 20, 38, 24, 700),
        _text(sheet.line, 20, 62, 15),
    ]
    body = height - _HEAD - _FOOT
    for x, w in nights(axis, sheet.is_day):
        parts.append(el("rect", x=_across(x), y=_HEAD, width=_across(x + w) - _across(x), height=body, fill=_NIGHT))
    for day in days(axis, sheet.times):  # type: ignore[arg-type]
        if day.label:
            parts.append(_text(day.label, _across(day.x), _HEAD - 26, 15, 700, "middle"))
        # Ten days on one sheet: noon alone is enough to read the others by.
        parts += [_text(m.label, _across(m.x), _HEAD - 8, 12, 400, "middle") for m in day.marks if m.label in ("9", "12", "15")]
    for q in range(axis.first, axis.last, 4):
        if sheet.rain_mm_h[q] > 0.1 or sheet.rain_chance_pct[q] >= 40:
            x = _across(axis.at(q))
            parts.append(el("line", x1=x + 3, x2=x, y1=_HEAD - 5, y2=_HEAD + 2, stroke=_WATER, stroke_width=2))
    for n, row in enumerate(rows):
        parts += _row(axis, row, _HEAD + n * _ROW)
    y = height - 22
    legend = (("open", _TEAL, 16.0), ("tight: allowed, with a caution", _AMBER, 9.0), ("shut", _SHUT, 2.0))
    x = 20.0
    for label, fill, tall in legend:
        parts += [el("rect", x=x, y=y - tall, width=26, height=tall, fill=fill), _text(label, x + 34, y, 14)]
        x += 60 + 8.0 * len(label)
    parts.append(
        _text("line above: sun on it · line below: wet · strokes at the head: rain. The label and what you feel on the wall win.", x, y, 14)
    )
    return el("svg", parts, xmlns="http://www.w3.org/2000/svg", viewBox=f"0 0 {_WIDTH:.0f} {height:.0f}", width=_WIDTH, height=height)


def _row(axis: Axis, row: RibbonRow, y: float) -> list[str]:
    parts = [_text(row.name if len(row.name) < 30 else row.name[:28] + "…", _LEFT - 10, y + 22, 15, 400, "end")]
    parts.append(el("line", x1=_LEFT, x2=_WIDTH - 20, y1=y + _ROW - 3, y2=y + _ROW - 3, stroke=_INK, stroke_opacity=0.25))
    looks = {2: (6.0, 20.0, _TEAL), 1: (15.0, 11.0, _AMBER), 0: (24.0, 2.0, _SHUT)}
    ends = [start for start, _ in row.runs[1:]] + [len(row.sun)]
    for (start, state), end in zip(row.runs, ends, strict=True):
        seen = axis.clip(start, end)
        if seen is None:
            continue
        top, tall, fill = looks[state]
        parts.append(_block(axis, *seen, y + top, tall, fill=fill))
        if state == 1:
            # Never by colour alone: a bar along the half block.
            parts.append(_block(axis, *seen, y + top + 4, 2, fill=_INK))
    for flags, at, fill in ((row.sun, 2.0, _AMBER), (row.wet, 28.5, _WATER)):
        for x, w in spans(axis, flags):
            parts.append(el("rect", x=_across(x), y=y + at, width=_across(x + w) - _across(x), height=2.5, fill=fill))
    return parts

"""Ribbons: a surface's hours as a strip. Open a full block, tight a half-height block with dots,
shut a thin hatched line; sun on the wall above, water on it below.

Coordinates across are percents, so that a ribbon fits any width without being scaled.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from amber_gable.drawing.hours.timeaxis import Axis, AxisDay, nights, spans
from amber_gable.drawing.svg import el

HEIGHT = 26.0
_BASE = 22.0
# state: top edge and height of its block
_BLOCKS = {2: (5.0, 17.0, "ribbon-open"), 1: (13.0, 9.0, "ribbon-tight"), 0: (20.0, 2.0, "ribbon-shut")}


def _block(x: float, width: float, y: float, height: float, class_: str, fill: str | None = None) -> str:
    return el("rect", x=f"{x:.2f}%", y=y, width=f"{width:.2f}%", height=height, class_=class_, fill=fill)


def ribbon(
    axis: Axis,
    runs: Sequence[tuple[int, int]],
    is_day: NDArray[np.bool_],
    direct_sun: NDArray[np.bool_],
    wet: NDArray[np.bool_],
) -> str:
    """Return the strip of one surface as SVG.

    Parameters
    ----------
    axis : Axis
    runs : sequence of (first step, state)
        Run-length states over the whole grid, 0 shut, 1 tight, 2 open.
    is_day, direct_sun, wet : ndarray of bool, shape (Q,)
    """
    parts = [_block(x, w, 0, HEIGHT, "ribbon-night") for x, w in nights(axis, is_day)]
    ends = [start for start, _ in runs[1:]] + [len(is_day)]
    for (start, state), end in zip(runs, ends, strict=True):
        visible = axis.clip(start, end)
        if visible is None:
            continue
        x = axis.at(visible[0])
        top, height, class_ = _BLOCKS[state]
        fill = "url(#fill-tight)" if state == 1 else None
        parts.append(_block(x, axis.at(visible[1]) - x, top, height, class_, fill=fill))
    parts += [_block(x, w, 1, 2.5, "ribbon-sun") for x, w in spans(axis, direct_sun)]
    parts += [_block(x, w, 23.5, 2.5, "ribbon-wet") for x, w in spans(axis, wet)]
    parts.append(el("line", x1="0", x2="100%", y1=_BASE + 0.5, y2=_BASE + 0.5, class_="ribbon-base"))
    parts.append(el("line", x1="0", x2="0", y1=0, y2=HEIGHT, class_="cursor", data_cursor=""))
    return el("svg", parts, class_="ribbon", height=HEIGHT, aria_hidden="true")


def scale(axis: Axis, days: Sequence[AxisDay], rain_mm_h: NDArray[np.float64], rain_chance_pct: NDArray[np.float64]) -> str:
    """Return the head of the ribbons: days, hours, and rain as falling strokes."""
    parts = []
    for day in days:
        if day.label:
            parts.append(el("text", day.label, x=f"{day.x:.2f}%", y=13, class_="axis-day"))
        parts += [el("text", mark.label, x=f"{mark.x:.2f}%", y=30, class_="axis-hour") for mark in day.marks]
    for q in range(axis.first, axis.last, 4):
        if rain_mm_h[q] > 0.1 or rain_chance_pct[q] >= 40:
            x = axis.at(q)
            class_ = "axis-rain" if rain_mm_h[q] > 0.1 else "axis-rain-likely"
            parts.append(el("line", x1=f"{x + 0.3:.2f}%", x2=f"{x:.2f}%", y1=34, y2=42, class_=class_))
    parts.append(el("line", x1="0", x2="0", y1=32, y2=44, class_="cursor", data_cursor=""))
    return el("svg", parts, class_="axis", height=44, aria_hidden="true")

"""Traces: one quantity through the hours as a thin strip on the ribbons' axis, with the limit it must keep."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.drawing.hours.timeaxis import Axis, nights
from amber_gable.drawing.svg import el, number

HEIGHT = 40.0
_PAD = 4.0


@dataclass(frozen=True)
class Trace:
    """A trace: values at each step (Q,), the range of the strip, the limit, and its name for the style."""

    name: str
    values: Array
    low: float
    high: float
    limit: float | None = None
    is_area: bool = False


def trace(axis: Axis, drawn: Trace, is_day: NDArray[np.bool_]) -> str:
    """Return the strip as SVG; what is not known is left out."""
    part = np.asarray(drawn.values[axis.first : axis.last], dtype=float)
    span = max(drawn.high - drawn.low, 1e-9)
    y = _PAD + (HEIGHT - 2 * _PAD) * (1 - (np.clip(part, drawn.low, drawn.high) - drawn.low) / span)
    is_finite = np.isfinite(part)
    points = [f"{number(float(a))} {number(float(b))}" for a, b, k in zip(axis.x[:-1], y, is_finite, strict=True) if k]
    parts = [el("rect", x=f"{x:.2f}%", y=0, width=f"{w:.2f}%", height="100%", class_="ribbon-night") for x, w in nights(axis, is_day)]
    if drawn.limit is not None and drawn.low <= drawn.limit <= drawn.high:
        at = 100 * (_PAD + (HEIGHT - 2 * _PAD) * (1 - (drawn.limit - drawn.low) / span)) / HEIGHT
        parts.append(el("line", x1="0", x2="100%", y1=f"{at:.2f}%", y2=f"{at:.2f}%", class_="trace-limit"))
    if points:
        line = "M" + "L".join(points)
        foot = HEIGHT - _PAD
        last, first = points[-1].split()[0], points[0].split()[0]
        inner = [el("path", d=f"{line}L{last} {foot}L{first} {foot}Z", class_="trace-area")] if drawn.is_area else []
        inner.append(el("path", d=line, class_=f"trace-line trace-{drawn.name}"))
        parts.append(el("svg", inner, viewBox=f"0 0 100 {HEIGHT:.0f}", preserveAspectRatio="none", width="100%", height="100%"))
    parts.append(el("line", x1="0", x2="0", y1="0", y2="100%", class_="cursor", data_cursor=""))
    return el("svg", parts, class_="trace", height=HEIGHT, aria_hidden="true")

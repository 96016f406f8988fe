"""Curves of one surface: its temperature, the air's and the dew point, on the ribbons' axis.

The margin between surface and dew point is shaded: teal where it is kept, brick where the
surface is wetter than the air allows.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.drawing.hours.timeaxis import Axis, nights
from amber_gable.drawing.svg import el, number

HEIGHT = 150.0
_PAD = 8.0


@dataclass(frozen=True)
class Level:
    """A labelled height of the vertical scale: percent from the top, and the temperature."""

    y: float
    temp_c: float


def _points(axis: Axis, y: Array) -> list[str]:
    return [f"{number(float(x))} {number(float(v))}" for x, v in zip(axis.x[:-1], y, strict=True)]


def curves(
    axis: Axis, surface_c: Array, air_c: Array, dew_c: Array, is_day: NDArray[np.bool_], levels_c: list[float]
) -> tuple[str, list[Level]]:
    """Return the curves as SVG, and where the levels stand.

    Parameters
    ----------
    axis : Axis
    surface_c, air_c, dew_c : ndarray, shape (Q,)
        Temperatures [°C].
    is_day : ndarray of bool, shape (Q,)
    levels_c : list of float
        Round temperatures to draw lines at; those outside the curves are left out.
    """
    part = slice(axis.first, axis.last)
    series = [surface_c[part], air_c[part], dew_c[part]]
    low = min(float(s.min()) for s in series)
    high = max(float(s.max()) for s in series)
    span = max(high - low, 1.0)

    def height(values: Array) -> Array:
        result: Array = _PAD + (HEIGHT - 2 * _PAD) * (high - values) / span
        return result

    surface, air, dew = (_points(axis, height(s)) for s in series)
    shade = "M" + "L".join(surface) + "L" + "L".join(reversed(dew)) + "Z"
    marks = [Level(float(height(np.array(c))) / HEIGHT * 100, c) for c in levels_c if low <= c <= high]
    inner = [
        el("path", d=shade, class_="curve-margin"),
        el("path", d="M" + "L".join(dew), class_="curve-dew"),
        el("path", d="M" + "L".join(air), class_="curve-air"),
        el("path", d="M" + "L".join(surface), class_="curve-surface"),
    ]
    parts = [el("rect", x=f"{x:.2f}%", y=0, width=f"{w:.2f}%", height="100%", class_="ribbon-night") for x, w in nights(axis, is_day)]
    parts += [el("line", x1="0", x2="100%", y1=f"{m.y:.2f}%", y2=f"{m.y:.2f}%", class_="curve-level") for m in marks]
    parts.append(el("svg", inner, viewBox=f"0 0 100 {HEIGHT:.0f}", preserveAspectRatio="none", width="100%", height="100%"))
    parts.append(el("line", x1="0", x2="0", y1="0", y2="100%", class_="cursor", data_cursor=""))
    return el("svg", parts, class_="curves", height=HEIGHT, aria_hidden="true"), marks

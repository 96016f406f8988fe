"""Calibration: how often a start held, over the chance that it was given. Stands alone: its colours are in it."""

import numpy as np

from amber_gable.core.air.forecast_errors import Reliability
from amber_gable.drawing.svg import el, path
from amber_gable.drawing.tokens import token

_SIZE, _LEFT, _TOP = 360.0, 64.0, 34.0
_INK, _TEAL, _AMBER, _PAPER = token("ink"), token("open"), token("amber"), token("sheet")


def calibration_plot(reliability: Reliability) -> str:
    """Return the plot as SVG: a dot for each tenth, as large as it was often said; on the line, chances are what they say."""

    def at(said: float, came: float) -> tuple[float, float]:
        return _LEFT + said * _SIZE, _TOP + (1 - came) * _SIZE

    text: dict[str, str | float | None] = {"font_family": "sans-serif", "font_size": 13, "fill": _INK}
    parts = [el("rect", x=0, y=0, width=_LEFT + _SIZE + 26, height=_TOP + _SIZE + 64, fill=_PAPER)]
    for tenth in range(0, 11, 2):
        (x, y), (low_x, low_y) = at(tenth / 10, tenth / 10), at(0, 0)
        parts.append(el("line", x1=x, x2=x, y1=_TOP, y2=low_y, stroke=_INK, stroke_opacity=0.15))
        parts.append(el("line", x1=low_x, x2=_LEFT + _SIZE, y1=y, y2=y, stroke=_INK, stroke_opacity=0.15))
        parts.append(el("text", f"{10 * tenth} %", x=x, y=low_y + 20, text_anchor="middle", **text))
        parts.append(el("text", f"{10 * tenth} %", x=low_x - 8, y=y + 4, text_anchor="end", **text))
    parts.append(el("path", d=path([at(0, 0), at(1, 1)], close=False), stroke=_AMBER, stroke_width=2, fill="none"))
    most = max(int(reliability.count.max()), 1)
    for said, came, count in zip(reliability.said_frac, reliability.came_frac, reliability.count, strict=True):
        if count:
            x, y = at(float(said), float(came))
            parts.append(el("circle", cx=x, cy=y, r=4 + 10 * float(np.sqrt(count / most)), fill=_TEAL, fill_opacity=0.75))
    parts.append(el("text", "How often the start held", x=_LEFT - 44, y=_TOP - 14, **text))
    parts.append(el("text", "The chance it was given", x=_LEFT + _SIZE, y=_TOP + _SIZE + 44, text_anchor="end", **text))
    width, height = _LEFT + _SIZE + 26, _TOP + _SIZE + 64
    return el("svg", parts, xmlns="http://www.w3.org/2000/svg", viewBox=f"0 0 {width:.0f} {height:.0f}", width=width, height=height)

"""Holds each cladding on a heated house against a wall by finite differences: prints the table of docs/physics.md, draws docs/walls.svg.

Run by `make physics`.
"""

import sys
from pathlib import Path

import numpy as np
from tests.support.finite_wall import BUILD_UPS, WEATHERS, finite_wall
from tests.support.weathers import HERON_FERRY

from amber_gable.core.air.humid import Array
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import WET_KG_M2, ClimateSurface, simulate
from amber_gable.drawing.svg import el, path
from amber_gable.drawing.tokens import token

ROOT = Path(__file__).parents[1]
FACINGS_DEG = {"clear": 270, "hot": 180, "grey": 0}
HOT_C, QUARTER_MIN = 38.0, 15
_WIDE, _HIGH, _LEFT, _TOP = 300.0, 130.0, 44.0, 30.0
_SHOWN_C = (0.0, 60.0)


def compared(kind: str, weather: str) -> tuple[Array, Array, Array, Array]:
    """Return the engine's face and water, then those by finite differences, through three days of quarter-hours."""
    azimuth = FACINGS_DEG[weather]
    at, face, water = finite_wall(WEATHERS[weather], kind, azimuth, 0.6)
    surface = ClimateSurface.clad(kind, azimuth, 90, 0.6, shipped().claddings[kind], is_heated=True)
    climate = simulate(HERON_FERRY, WEATHERS[weather], [surface])
    part = slice(96, len(climate.grid.epoch_s) - 1)
    same = np.searchsorted(at, climate.grid.epoch_s[part])
    return climate.surface_temp_c[0, part], climate.water_kg_m2[0, part], face[same], water[same]


def panel(kind: str, column: int, row: int) -> list[str]:
    """Return one cladding through the clear days: finite differences broad, the engine fine upon them."""
    ours, _, theirs, _ = compared(kind, "clear")
    x0, y0 = _LEFT + column * (_WIDE + 60), _TOP + row * (_HIGH + 46)
    low, high = _SHOWN_C

    def line(values: Array) -> str:
        xs = x0 + np.arange(len(values)) / (len(values) - 1) * _WIDE
        ys = y0 + (1 - (np.clip(values, low, high) - low) / (high - low)) * _HIGH
        return path(list(zip(xs.tolist(), ys.tolist(), strict=True)), close=False)

    text: dict[str, str | float | None] = {"font_family": "sans-serif", "font_size": 12, "fill": token("ink")}
    parts = [el("text", shipped().claddings[kind].label, x=x0, y=y0 - 8, **text)]
    for degrees in (0, 20, 40, 60):
        y = y0 + (1 - (degrees - low) / (high - low)) * _HIGH
        parts.append(el("line", x1=x0, x2=x0 + _WIDE, y1=y, y2=y, stroke=token("ink"), stroke_opacity=0.15))
        parts.append(el("text", f"{degrees} °C", x=x0 - 6, y=y + 4, text_anchor="end", **text))
    parts.append(el("path", d=line(theirs), stroke=token("amber"), stroke_width=5, fill="none"))
    parts.append(el("path", d=line(ours), stroke=token("ink"), stroke_width=1.2, fill="none"))
    return parts


def main() -> int:
    print("| Cladding | weather | bias [K] | 95 % within [K] | worst [K] | dew off apart [min] | too hot apart [min a day] |")
    print("|---|---|---|---|---|---|---|")
    for kind in BUILD_UPS:
        for weather in WEATHERS:
            ours, our_water, theirs, their_water = compared(kind, weather)
            off = ours - theirs
            wet = (our_water > WET_KG_M2, their_water > WET_KG_M2)
            ends = [np.flatnonzero(w[:-1] & ~w[1:]) for w in wet]
            apart = int(np.abs(ends[0] - ends[1]).max()) * QUARTER_MIN if len(ends[0]) and len(ends[0]) == len(ends[1]) else 0
            dew = f"{apart}" if len(ends[1]) else "no dew"
            hot = float(((ours > HOT_C) != (theirs > HOT_C)).sum()) * QUARTER_MIN / 3
            worst = off[np.abs(off).argmax()]
            print(f"| {kind} | {weather} | {off.mean():+.2f} | {np.quantile(np.abs(off), 0.95):.2f} | {worst:+.2f} | {dew} | {hot:.0f} |")
    drawn = [part for number, kind in enumerate(BUILD_UPS) for part in panel(kind, number % 2, number // 2)]
    width, height = _LEFT + 2 * (_WIDE + 60), _TOP + 4 * (_HIGH + 46)
    paper = el("rect", x=0, y=0, width=width, height=height, fill=token("sheet"))
    svg = el(
        "svg", [paper, *drawn], xmlns="http://www.w3.org/2000/svg", viewBox=f"0 0 {width:.0f} {height:.0f}", width=width, height=height
    )
    (ROOT / "docs" / "walls.svg").write_text(svg, encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())

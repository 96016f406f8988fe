"""One elevation large: to scale, with dimension lines on request, pins, and room to draw on.

The drawing carries its scale and origin as data, so that the page's script turns a finger's way
into metres, and marks a fault where it lies.
"""

from collections.abc import Callable
from dataclasses import dataclass

from amber_gable.drawing.house.building import DrawnElevation, LookOf, Paper, Placed, draw
from amber_gable.drawing.svg import el, number, words

WIDTH, HEIGHT = 640.0, 380.0
_MARGIN = 14.0
_DIMENSIONS = 40.0


@dataclass(frozen=True)
class DimensionWords:
    """Words for the dimension lines, in the contractor's units: width, and heights with their levels [m]."""

    width: str
    levels: tuple[tuple[float, str], ...]
    openings: tuple[tuple[float, float, str], ...] = ()


def elevation_drawing(
    elevation: DrawnElevation,
    look: LookOf,
    selected: str | None = None,
    measured: DimensionWords | None = None,
    width: float = WIDTH,
    height: float = HEIGHT,
    overlay: Callable[[Placed], str] | None = None,
    head: float = 0.0,
    foot: float = 0.0,
) -> str:
    """Return one elevation as SVG.

    Parameters
    ----------
    elevation : DrawnElevation
    look : callable
    selected : str, optional
        Id of the chosen surface.
    measured : DimensionWords, optional
        Draws dimension lines; left out where None.
    overlay : callable, optional
        Draws over the finished elevation, in its own scale.
    head, foot : float
        Room above and below for what it draws there [px].
    """
    left, low, right, top = elevation.region.bounds
    room = _DIMENSIONS if measured else 0.0
    scale = min((width - 2 * _MARGIN - 2.2 * room) / (right - left), (height - 2 * _MARGIN - room - head - foot) / ((top - low) or 1))
    # No higher than it needs: a long low wall leaves no empty paper above it.
    height = min(height, (top - low) * scale + 2 * _MARGIN + room + head + foot)
    # Drawn square on, without foreshortening: what is measured and drawn on is the plane itself.
    flat = _square_on(elevation)
    paper = Paper("elevation", scale, look, selected)
    across = (right - left) * scale
    x0 = (width - 2.2 * room - across) / 2 + room * 0.2
    ground = height - _MARGIN - room - foot
    side = Placed(flat, x0 - left * scale, ground + low * scale, paper)
    parts = [draw(side)]
    if elevation.kind == "wall" and elevation.base_m < 0.05:
        parts.append(el("path", d=f"M0 {ground:.1f}H{width:.0f}", class_="band-ground"))
    if measured:
        parts.append(_dimensions(side, measured))
    if overlay:
        parts.append(overlay(side))
    parts.append(el("g", "", class_="elevation-marks", data_marks=""))
    return el(
        "svg", [paper.definitions(), *parts], viewBox=f"0 0 {width:.0f} {height:.0f}", class_="elevation", role="group",
        aria_label=f"{elevation.name}, drawn to scale", data_elevation_drawing=elevation.id, data_scale=number(scale),
        data_left=number(side.at(0, 0)[0]), data_ground=number(side.at(0, 0)[1]),
    )  # fmt: skip


def _square_on(e: DrawnElevation) -> DrawnElevation:
    return DrawnElevation(
        e.id, e.name, e.kind, e.view, e.azimuth_deg, 90.0, e.region, e.surfaces, e.openings, e.pins, has_gable=e.has_gable
    )


def _dimensions(side: Placed, measured: DimensionWords) -> str:
    left, low, right, _ = side.e.region.bounds
    (x1, ground), (x2, _) = side.at(left, low), side.at(right, low)
    parts = []
    line = ground + 28
    parts.append(el("path", d=f"M{x1:.1f} {line:.1f}H{x2:.1f}M{x1:.1f} {line - 5:.1f}v10M{x2:.1f} {line - 5:.1f}v10", class_="dimension"))
    parts.append(words(measured.width, x=(x1 + x2) / 2, y=line + 12, class_="dimension-word is-middle"))
    at = x2 + 10
    previous = ground
    for level, said in measured.levels:
        _, y = side.at(0, level)
        parts.append(
            el("path", d=f"M{at:.1f} {previous:.1f}V{y:.1f}M{at - 4:.1f} {previous:.1f}h8M{at - 4:.1f} {y:.1f}h8", class_="dimension")
        )
        parts.append(words(said, x=at + 8, y=y + 5, class_="dimension-word"))
        previous = y
    for left_m, right_m, said in measured.openings:
        (a, _), (b, _) = side.at(left_m, low), side.at(right_m, low)
        parts.append(
            el("path", d=f"M{a:.1f} {ground + 8:.1f}H{b:.1f}M{a:.1f} {ground + 4:.1f}v8M{b:.1f} {ground + 4:.1f}v8", class_="dimension")
        )
        if b - a > 7 * len(said):
            parts.append(words(said, x=(a + b) / 2, y=ground + 21, class_="dimension-word is-middle"))
    return el("g", parts, class_="dimensions")

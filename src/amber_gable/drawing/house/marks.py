"""Marks of an inspection on their elevation: a letter for what it is, a number for the list, a shape for where it stands."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from amber_gable.drawing.house.building import DrawnElevation, LookOf, Placed
from amber_gable.drawing.house.elevation import elevation_drawing
from amber_gable.drawing.svg import el, words

_RADIUS = 13.0
_WIDE, _HIGH = 420.0, 330.0
_FOOT = 8.0


@dataclass(frozen=True)
class DrawnMark:
    """A mark: number, letter, where it is [m], its state, and what it says in words."""

    number: int
    sign: str
    x_m: float
    y_m: float
    state: Literal["open", "mended", "good", "accepted"]
    words: str


def marks_over(marks: Sequence[DrawnMark]) -> Callable[[Placed], str]:
    """Return what draws marks over an elevation: open ones full, mended ones half, closed ones hollow."""

    def overlay(side: Placed) -> str:
        parts = []
        for mark in marks:
            x, y = side.at(mark.x_m, mark.y_m)
            shapes = [el("title", mark.words), el("circle", cx=x, cy=y, r=_RADIUS, class_="mark-ring")]
            if mark.state == "mended":
                shapes.append(el("path", d=f"M{x - _RADIUS:.1f} {y:.1f}a{_RADIUS} {_RADIUS} 0 0 0 {2 * _RADIUS} 0Z", class_="mark-half"))
            shapes.append(words(f"{mark.sign}{mark.number}", x=x, y=y + 4.5, class_="mark-sign"))
            parts.append(el("g", shapes, class_=f"mark-{mark.state}"))
        return el("g", parts, class_="wall-marks")

    return overlay


def marked_elevation(elevation: DrawnElevation, look: LookOf, marks: Sequence[DrawnMark]) -> str:
    """Return one elevation with its marks, to be tapped: large enough on a phone."""
    return elevation_drawing(elevation, look, width=_WIDE, height=_HIGH, overlay=marks_over(marks), foot=_FOOT)

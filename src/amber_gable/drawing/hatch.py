"""Hatches: the boards, laps, seams, bricks and stipple of a surface, light, at their true spacing.

Where the drawing is too small for every board, every second, fifth or tenth is drawn, so that the
lines stay apart; their distance is still a whole number of boards.
"""

from dataclasses import dataclass

from amber_gable.drawing.svg import el, number

# Lines nearer than this close up to grey [px].
_NEAREST_PX = 4.0
_STEPS = (1, 2, 5, 10, 20, 50)


@dataclass(frozen=True)
class Hatch:
    """Hatch of a surface by its material.

    Parameters
    ----------
    kind : {"lap", "boards", "seams", "shakes", "brick", "stipple", "deck"}
    spacing_m : float
        From board to board, course to course, seam to seam.
    """

    kind: str
    spacing_m: float


def _apart_px(hatch: Hatch, scale: float) -> float:
    for step in _STEPS:
        if hatch.spacing_m * scale * step >= _NEAREST_PX:
            return hatch.spacing_m * scale * step
    return _NEAREST_PX


def hatch_id(hatch: Hatch, scale: float, prefix: str, left: float, foot: float) -> str:
    # A pattern begins at the elevation's own foot, so each place has its own.
    return f"{prefix}-{hatch.kind}-{number(_apart_px(hatch, scale))}-{number(left)}-{number(foot)}".replace(".", "_")


def definition(hatch: Hatch, scale: float, prefix: str, left: float, foot: float) -> str:
    """Return the SVG pattern of a hatch at a scale [px/m], beginning at a left edge and foot [px]."""
    d = _apart_px(hatch, scale)
    n = number
    width = height = d
    if hatch.kind in ("lap", "deck"):
        width = 40.0
        marks = el("path", d=f"M0 {n(d)}H40", class_="hatch-line")
    elif hatch.kind in ("boards", "seams"):
        height = 40.0
        marks = el("path", d="M0 0V40", class_="hatch-line")
    elif hatch.kind == "shakes":
        width, height = 2 * d, 2 * d
        marks = el(
            "path",
            d=f"M0 {n(d)}H{n(width)}M0 {n(height)}H{n(width)}M{n(d / 2)} 0V{n(d)}M{n(1.5 * d)} {n(d)}V{n(height)}",
            class_="hatch-line",
        )
    elif hatch.kind == "brick":
        width, height = 3 * d, 2 * d
        marks = el(
            "path", d=f"M0 {n(d)}H{n(width)}M0 {n(height)}H{n(width)}M{n(d)} 0V{n(d)}M{n(2.5 * d)} {n(d)}V{n(height)}", class_="hatch-line"
        )
    else:
        width = height = 14.0
        dots = ((2, 3), (9, 1.5), (5.5, 8), (12, 11), (1.5, 12), (10, 6))
        marks = "".join(el("circle", cx=x, cy=y, r=0.7, class_="hatch-dot") for x, y in dots)
    return el(
        "pattern", marks, id=hatch_id(hatch, scale, prefix, left, foot), width=width, height=height,
        patternUnits="userSpaceOnUse", patternTransform=f"translate({n(left)} {n(foot - height)})",
    )  # fmt: skip

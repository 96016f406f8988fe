"""The order of strokes as a numbered drawing: parts in their places, a number on each, an arrow for the last strokes."""

from collections.abc import Sequence
from html import escape
from math import dist
from typing import Any

from amber_gable.core.geometry import Rect
from amber_gable.core.systems.sequences import Stroke, StrokeOrder
from amber_gable.drawing.svg import el

_MARGIN_M = 0.16
_RADIUS = 11

Box = dict[str, Any]
Point = tuple[float, float]


def strokes_svg(order: StrokeOrder, title: str, height: float = 420.0, most_width: float = 560.0) -> str:
    """Return a piece with its parts numbered in the order they are painted.

    Parts carry `data-turn`, so that a page can go through them one by one; on paper all are shown.
    """
    boxes = [part for stroke in order.strokes for part in stroke.parts]
    left, low = min(b.left for b in boxes) - _MARGIN_M, min(b.bottom for b in boxes) - _MARGIN_M
    right, top = max(b.right for b in boxes) + _MARGIN_M, max(b.top for b in boxes) + _MARGIN_M
    scale = min(height / (top - low), most_width / (right - left))

    def place(part: Rect) -> dict[str, Any]:
        return {
            "x": round((part.left - left) * scale, 1), "y": round((top - part.top) * scale, 1),
            "width": round(part.width * scale, 1), "height": round(part.height * scale, 1),
        }  # fmt: skip

    body = el("rect", class_="piece-back", **place(Rect(0, 0, order.width_m, order.height_m)))
    marks, number = "", 0
    taken: list[Point] = []
    for turn, stroke in enumerate(order.strokes):
        number += not stroke.stays_bare
        places = [place(p) for p in stroke.parts]
        cls = "stroke-part is-bare" if stroke.stays_bare else "stroke-part"
        body += el("g", "".join(el("rect", class_=cls, **p) for p in places), data_turn=turn, class_="stroke-turn")
        if places and not stroke.stays_bare:
            spot, at = _free_spot(places, taken)
            taken.append(at)
            marks += _mark(stroke, turn, number, spot, at)
    # Numbers after all parts, so that none lies under the next one.
    body += marks
    size: dict[str, Any] = {"width": round((right - left) * scale), "height": round((top - low) * scale)}
    return el(
        "svg",
        el("title", escape(title)) + body,
        viewBox=f"0 0 {size['width']} {size['height']}",
        class_="strokes",
        role="img",
        aria_label=title,
        **size,
    )


def _free_spot(places: Sequence[Box], taken: Sequence[Point]) -> tuple[Box, Point]:
    """Return a part, the largest first, and a place on it where no other number stands; else the middle of the largest."""
    large_first = sorted(places, key=lambda p: -p["width"] * p["height"])
    for box in large_first:
        for share in (0.5, 0.3, 0.7, 0.15, 0.85):
            is_tall = box["height"] > box["width"]
            at = (
                box["x"] + box["width"] * (0.5 if is_tall else share),
                box["y"] + box["height"] * (share if is_tall else 0.5),
            )
            if all(dist(at, other) > 2 * _RADIUS + 1 for other in taken):
                return box, at
    first = large_first[0]
    return first, (first["x"] + first["width"] / 2, first["y"] + first["height"] / 2)


def _mark(stroke: Stroke, turn: int, number: int, spot: Box, at: Point) -> str:
    x, y = round(at[0], 1), round(at[1], 1)
    disc = el("circle", cx=x, cy=y, r=_RADIUS, class_="stroke-mark") + el("text", str(number), x=x, y=y + 5, class_="stroke-number")
    return el("g", _arrow(stroke, spot) + disc, data_turn=turn, class_="stroke-turn")


def _arrow(stroke: Stroke, spot: Box) -> str:
    """Return a line in the direction of the last strokes, over most of the part."""
    x, y, w, h = spot["x"], spot["y"], spot["width"], spot["height"]
    if stroke.way == "across" and w > 40:
        return el("path", d=f"M{x + w * 0.1:.1f} {y + h / 2:.1f}H{x + w * 0.9:.1f}", class_="stroke-way")
    if stroke.way == "up and down" and h > 40:
        return el("path", d=f"M{x + w / 2:.1f} {y + h * 0.1:.1f}V{y + h * 0.9:.1f}", class_="stroke-way")
    return ""

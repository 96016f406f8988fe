"""Cans: what is bought, each container drawn by its size, so that a glance counts them."""

from collections.abc import Sequence

from amber_gable.drawing.svg import el, number

_GAP = 4.0
_MOST_DRAWN = 14


def can_sizes(litres: float) -> tuple[float, float]:
    """Return width and height of a can [px]: as tall as wide, by the cube root of what it holds."""
    side = 9.0 + 9.0 * litres ** (1 / 3)
    return side, side * 1.08


def cans_svg(counts: Sequence[tuple[str, float, int]], fill: str, label: str) -> str:
    """Return containers in a row on the ground, the largest first.

    Parameters
    ----------
    counts : sequence of (name, litres, count)
    fill : str
        Of what is in them; a colour.
    label : str
        What it shows, in words.
    """
    drawn = [litres for _, litres, count in sorted(counts, key=lambda c: -c[1]) for _ in range(count)][:_MOST_DRAWN]
    height = max((can_sizes(v)[1] for v in drawn), default=20.0) + 4
    x, parts = 1.0, []
    for litres in drawn:
        width, tall = can_sizes(litres)
        top = height - tall - 1
        parts.append(el("rect", x=x, y=top, width=width, height=tall, class_="can"))
        parts.append(el("rect", x=x + 1.5, y=top + tall * 0.34, width=width - 3, height=tall * 0.6, fill=fill))
        parts.append(el("path", d=f"M{number(x)} {number(top + tall * 0.2)}h{number(width)}", class_="can-lid"))
        x += width + _GAP
    box = f"0 0 {number(x)} {number(height)}"
    return el("svg", parts, class_="cans", role="img", aria_label=label, width=x, height=height, viewBox=box)

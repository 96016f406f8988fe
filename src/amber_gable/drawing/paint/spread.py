"""Spread: what is not known yet about a price, each as a bar from its low end to its high end round the likely price."""

from collections.abc import Sequence

from amber_gable.drawing.svg import el, words

WIDTH = 620.0
_ROW, _LABEL, _HEAD = 30.0, 6.0, 24.0


def spread_svg(likely: float, rows: Sequence[tuple[str, float, float, str, str]], label: str) -> str:
    """Return one bar for each row, the likely price a line through all of them.

    Parameters
    ----------
    likely : float
    rows : sequence of (name, low, high, low in words, high in words)
        The widest first.
    label : str
        What it shows, in words.
    """
    low, high = min((r[1] for r in rows), default=likely), max((r[2] for r in rows), default=likely)
    span = max(high - low, 1.0)
    left, room = 96.0, WIDTH - 192.0

    def x(value: float) -> float:
        return left + (value - low) / span * room

    parts = []
    for index, (name, a, b, a_words, b_words) in enumerate(rows):
        y = _HEAD + index * (_ROW + 14)
        parts.append(words(name, x=left, y=y - _LABEL, class_="spread-name"))
        parts.append(el("rect", x=x(a), y=y, width=max(x(b) - x(a), 1.5), height=12, class_="spread-bar"))
        parts.append(words(a_words, x=x(a) - 6, y=y + 11, class_="spread-end is-low"))
        parts.append(words(b_words, x=x(b) + 6, y=y + 11, class_="spread-end"))
    height = _HEAD + len(rows) * (_ROW + 14) - 14
    line = el("path", d=f"M{x(likely):.1f} 4V{height:.1f}", class_="spread-likely")
    return el("svg", [line, *parts], class_="spread", role="img", aria_label=label, viewBox=f"0 0 {WIDTH:.0f} {height:.0f}")

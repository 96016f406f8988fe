"""Fills of the states: colour plus texture, so that nothing depends on colour alone.

Open is solid, tight is dotted, shut is hatched paper.
"""

from amber_gable.drawing.svg import el

FILLS = {"open": "var(--open)", "tight": "url(#fill-tight)", "shut": "url(#fill-shut)", "none": "var(--paper)"}


def definitions() -> str:
    """Return a hidden SVG with the fills, once a page."""
    dot = el("rect", width=6, height=6, class_="swatch-tight") + el("circle", cx=3, cy=3, r=1, class_="swatch-tight-dot")
    tight = el("pattern", dot, id="fill-tight", width=6, height=6, patternUnits="userSpaceOnUse")
    line = el("rect", width=7, height=7, class_="swatch-shut") + el("path", d="M0 7L7 0", class_="swatch-shut-line")
    shut = el("pattern", line, id="fill-shut", width=7, height=7, patternUnits="userSpaceOnUse")
    return el("svg", el("defs", tight + shut), class_="defs", width=0, height=0, aria_hidden="true")

"""Fills of the states: colour plus texture, so that nothing depends on colour alone.

Open is solid, tight is dotted, shut is hatched paper.
"""

from amber_gable.drawing.svg import el

# How a part of the house stands at an evening: lines, dots and bars beside the colour.
LOOK_FILLS = {
    "as found": "url(#look-found)", "washed": "var(--depth-0)", "prepared": "url(#look-prepared)", "primed": "url(#look-primed)",
    "first coat": "url(#look-coat)", "finished": "var(--amber)", "held up": "url(#look-held)",
}  # fmt: skip
# How far a fresh film has come: crossed as long as neither rain nor dew may come, dotted while they may mark it.
FILM_FILLS = {"young": "url(#film-young)", "tender": "url(#fill-tight)", "ready": "var(--open)"}
FILLS = {"open": "var(--open)", "tight": "url(#fill-tight)", "shut": "url(#fill-shut)", "none": "var(--paper)"}


def definitions() -> str:
    """Return a hidden SVG with the fills, once a page."""
    dot = el("rect", width=6, height=6, class_="swatch-tight") + el("circle", cx=3, cy=3, r=1, class_="swatch-tight-dot")
    tight = el("pattern", dot, id="fill-tight", width=6, height=6, patternUnits="userSpaceOnUse")
    line = el("rect", width=7, height=7, class_="swatch-shut") + el("path", d="M0 7L7 0", class_="swatch-shut-line")
    shut = el("pattern", line, id="fill-shut", width=7, height=7, patternUnits="userSpaceOnUse")
    cross = el("rect", width=6, height=6, class_="film-young") + el("path", d="M0 0L6 6M0 6L6 0", class_="film-young-line")
    young = el("pattern", cross, id="film-young", width=6, height=6, patternUnits="userSpaceOnUse")
    return el("svg", el("defs", tight + shut + young + _looks()), class_="defs", width=0, height=0, aria_hidden="true")


def _looks() -> str:
    def pattern(name: str, size: float, *marks: str) -> str:
        ground = el("rect", width=size, height=size, class_=f"look-{name}")
        return el("pattern", ground + "".join(marks), id=f"look-{name}", width=size, height=size, patternUnits="userSpaceOnUse")

    return "".join(
        (
            pattern("found", 5, el("path", d="M0 5L5 0", class_="look-line")),
            pattern("prepared", 5, el("circle", cx=2.5, cy=2.5, r=0.9, class_="look-dot")),
            pattern("primed", 6, el("path", d="M0 3H6", class_="look-line-faint")),
            pattern("coat", 6, el("path", d="M3 0V6", class_="look-bar")),
            pattern("held", 5, el("path", d="M0 5L5 0M0 0L5 5", class_="look-cross")),
        )
    )

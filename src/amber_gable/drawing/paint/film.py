"""The film of a coat in cross-section: what is on the wall now and at each stage of drying, to one scale."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.drawing.svg import el, words

_WIDTH, _GROUND, _TOP, _COLUMN = 430.0, 96.0, 22.0, 86.0


@dataclass(frozen=True)
class Section:
    """One column: what it is called, when, how thick [µm] and in words."""

    name: str
    when: str
    film_um: float
    shown: str
    is_wet: bool


def film_section(sections: Sequence[Section], wet_um: float) -> str:
    """Return the columns side by side on the surface they stand on, as SVG."""
    scale = (_GROUND - _TOP) / wet_um
    parts = [el("rect", x=0, y=_GROUND, width=_WIDTH, height=10, class_="film-ground")]
    for n, s in enumerate(sections):
        x, height = n * _COLUMN, s.film_um * scale
        middle = x + (_COLUMN - 10) / 2
        parts.append(el("rect", x=x, y=_GROUND - height, width=_COLUMN - 10, height=height, class_="film-wet" if s.is_wet else "film-dry"))
        parts.append(words(s.shown, x=middle, y=_GROUND - height - 6, class_="film-word"))
        parts.append(words(s.name, x=middle, y=_GROUND + 27, class_="film-word"))
        parts.append(words(s.when, x=middle, y=_GROUND + 45, class_="film-when"))
    return el(
        "svg", parts, class_="film", viewBox=f"0 0 {_WIDTH:.0f} {_GROUND + 52:.0f}", role="img", aria_label="The film in cross-section"
    )

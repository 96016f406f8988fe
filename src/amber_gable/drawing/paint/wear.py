"""What a house wears in a drawing of its colours: paint on openings and trim, and the gloss of a sheen."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from amber_gable.drawing.svg import el

# How much of the light a sheen throws back as a streak: flat none, gloss most.
GLOSS: Mapping[str, float] = {"flat": 0.0, "low-lustre": 0.16, "satin": 0.3, "semi-gloss": 0.5, "gloss": 0.75}
# In shade there is only the sky to throw back.
_SHADED = 0.45


@dataclass(frozen=True)
class Wear:
    """Colours as they look in one light.

    Parameters
    ----------
    opening : callable
        From the id of an elevation and the kind of an opening to a colour; None where it is not painted.
    trim : mapping of str to str
        Colour of eaves and rakes by the id of an elevation.
    """

    opening: Callable[[str, str], str | None]
    trim: Mapping[str, str]


def streak_id(prefix: str) -> str:
    return f"{prefix}-streak"


def streak(prefix: str) -> str:
    """Return the gradient of a streak of light across a face, for the drawing's definitions."""
    stops = [
        el("stop", offset=str(offset), stop_color="#fff", stop_opacity=str(opacity))
        for offset, opacity in ((0, 0), (0.3, 0.15), (0.42, 1), (0.5, 0.35), (0.58, 0.9), (0.7, 0.1), (1, 0))
    ]
    return el("linearGradient", stops, id=streak_id(prefix), x1=0, y1=0, x2=1, y2=0.8)


def gloss_of(sheen: str, is_direct: bool) -> float:
    """Return how strong the streak of a sheen is, 0 for none."""
    return GLOSS.get(sheen, 0.0) * (1.0 if is_direct else _SHADED)

"""The house band: the building unrolled, its views to scale side by side in walking order.

The same drawing on every page of a job; each page fills the surfaces by its own question.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from amber_gable.drawing.house.building import DrawnElevation, LookOf, Paper, Placed, View, draw, views
from amber_gable.drawing.house.ladders import Stand, stands_svg
from amber_gable.drawing.paint.wear import Wear
from amber_gable.drawing.svg import el, words

WIDTH = 1180.0
_MARGIN = 16.0
_GAP = 34.0
_TOP = 22.0
_CAPTION = 40.0
_HEADROOM = 12.0
# Narrower views get no caption under their name: it would run into the next.
_CAPTION_FROM_PX = 96.0


@dataclass(frozen=True)
class BandStyle:
    """Style of a house band: look of surfaces, captions by the id of a view's main elevation."""

    look: LookOf
    captions: dict[str, str] = field(default_factory=dict)
    height: float = 200.0
    width: float = WIDTH
    # Captions and sun marks; off for a thumbnail.
    is_labelled: bool = True
    # Between the views, and beside the first and the last of them [px].
    gap: float = _GAP
    margin: float = _MARGIN
    selected: str | None = None
    title: str = "The house, side by side from north round to west"
    prefix: str = "band"
    # The main elevation of the view that has most sun, marked as such.
    sunny: str | None = None
    # A building estimated from a few figures says so across its drawing.
    is_quick: bool = False
    # For the house in its colours.
    wear: Wear | None = None
    # Where one stands to reach it, by elevation.
    stands: Mapping[str, Sequence[Stand]] = field(default_factory=dict)


def house_band(elevations: Sequence[DrawnElevation], style: BandStyle) -> str:
    """Return the band as one SVG.

    Parameters
    ----------
    elevations : sequence of DrawnElevation
        In walking order.
    style : BandStyle
    """
    seen = views(elevations)
    across = sum(view.width_m for view in seen)
    tallest = max(view.top_m - view.foot_m for view in seen)
    room = style.width - 2 * style.margin - style.gap * (len(seen) - 1)
    top, foot = (_TOP, _CAPTION) if style.is_labelled else (6.0, 6.0)
    scale = min(room / across, (style.height - top - foot) / tallest)
    # A low, long building takes no more of the page than it needs.
    height = min(style.height, top + tallest * scale + foot + _HEADROOM)
    paper = Paper(style.prefix, scale, style.look, style.selected, wear=style.wear)
    ground = height - foot
    # What is left over goes between the views.
    gap = style.gap + (room - across * scale) / max(len(seen), 1)
    left = style.margin + (gap - style.gap) / 2
    parts = [el("path", d=f"M0 {ground:.1f}H{style.width:.0f}", class_="band-ground")]
    for view in seen:
        parts.append(_view(view, left, ground, paper, style))
        left += view.width_m * scale + gap
    if style.is_quick:
        parts.append(words("quick: estimated, not measured", x=style.width - 12, y=16, class_="band-quick"))
    box = f"0 0 {style.width:.0f} {height:.0f}"
    return el("svg", [paper.definitions(), *parts], viewBox=box, class_="band", role="group", aria_label=style.title)


def _view(view: View, left: float, ground: float, paper: Paper, style: BandStyle) -> str:
    parts = []
    for elevation in sorted(view.elevations, key=lambda e: e.far_m):
        at = left + (elevation.start_m - view.left_m) * paper.scale
        side = Placed(elevation, at, ground + view.foot_m * paper.scale, paper)
        parts.append(el("g", draw(side), data_elevation=elevation.id))
        if elevation.id in style.stands:
            parts.append(stands_svg(style.stands[elevation.id], at, ground, paper.scale))
    if not style.is_labelled:
        return el("g", parts)
    main = view.main
    wide = view.width_m * paper.scale
    middle = left + wide / 2
    if not view.is_above:
        on = " is-on" if style.sunny is not None and any(e.id == style.sunny for e in view.elevations) else ""
        parts.append(el("circle", cx=middle, cy=10, r=7, class_=f"band-sun{on}", data_sun=main.id))
        if wide > _CAPTION_FROM_PX:
            said = "most sun" if on else "sun on wall"
            parts.append(words(said, x=middle + 11, y=14, class_=f"band-sun-word{on}", data_sun=main.id))
    parts.append(words("From above" if view.is_above else main.name, x=middle, y=ground + 17, class_="band-name"))
    if wide > _CAPTION_FROM_PX:
        parts.append(words(style.captions.get(main.id, ""), x=middle, y=ground + 33, class_="band-caption", data_caption=main.id))
    return el("g", parts, data_view=view.key)

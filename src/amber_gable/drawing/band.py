"""The house band: the building unrolled, its elevations to scale side by side in walking order.

The same drawing on every page of a job; each page fills the surfaces by its own question.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from amber_gable.core.geometry import Outline, Rect
from amber_gable.drawing.svg import el, path, title, words

WIDTH = 1180.0
_MARGIN = 16.0
_GAP = 34.0
_TOP = 22.0
_CAPTION = 40.0
# Every fourth board is drawn: single boards would close up to grey at this scale.
_BOARDS_M = 0.46


@dataclass(frozen=True)
class BandSurface:
    id: str
    name: str
    kind: str
    outline: Outline
    is_painted: bool = True


@dataclass(frozen=True)
class BandElevation:
    """One side: its shape, what stands in it, and the roof above it."""

    id: str
    name: str
    is_gable: bool
    outline: Outline
    surfaces: Sequence[BandSurface]
    openings: Sequence[tuple[str, Rect]]
    ridge_height_m: float
    overhang_m: float

    @property
    def width_m(self) -> float:
        return max(x for x, _ in self.outline)

    @property
    def eaves_height_m(self) -> float:
        return max(y for x, y in self.outline if x in (0.0, self.width_m))


@dataclass(frozen=True)
class Look:
    """How a page fills one surface: paint, optional link, spoken label."""

    fill: str
    label: str
    href: str | None = None
    class_: str = ""


@dataclass(frozen=True)
class BandStyle:
    """What a page says of its surfaces and sides."""

    look: Callable[[BandSurface], Look]
    captions: dict[str, str] = field(default_factory=dict)
    height: float = 200.0
    width: float = WIDTH
    # Captions and sun marks; off for a thumbnail.
    is_labelled: bool = True
    selected: str | None = None
    title: str = "The house, side by side from north round to west"


class _Side:
    """One elevation placed on the drawing: metres to pixels."""

    def __init__(self, elevation: BandElevation, left: float, ground: float, scale: float) -> None:
        self.e, self.left, self.ground, self.scale = elevation, left, ground, scale

    def at(self, x: float, y: float) -> tuple[float, float]:
        return self.left + x * self.scale, self.ground - y * self.scale

    def path(self, outline: Outline) -> str:
        return path(self.at(x, y) for x, y in outline)

    def rect(self, r: Rect, class_: str) -> str:
        x, y = self.at(r.left, r.top)
        return el("rect", x=x, y=y, width=r.width * self.scale, height=r.height * self.scale, class_=class_)


def house_band(elevations: Sequence[BandElevation], style: BandStyle) -> str:
    """Return the band as one SVG.

    Parameters
    ----------
    elevations : sequence of BandElevation
        In walking order.
    style : BandStyle
    """
    overhangs = sum(2 * e.overhang_m for e in elevations)
    across = sum(e.width_m for e in elevations) + overhangs
    tallest = max(e.ridge_height_m for e in elevations)
    room = style.width - 2 * _MARGIN - _GAP * (len(elevations) - 1)
    top, foot = (_TOP, _CAPTION) if style.is_labelled else (6.0, 6.0)
    scale = min(room / across, (style.height - top - foot) / tallest)
    ground = style.height - foot
    # What is left over goes between the sides.
    gap = _GAP + (room - across * scale) / max(len(elevations), 1)
    left = _MARGIN + (gap - _GAP) / 2
    parts = [el("path", d=f"M0 {ground:.1f}H{style.width:.0f}", class_="band-ground")]
    for elevation in elevations:
        left += elevation.overhang_m * scale
        side = _Side(elevation, left, ground, scale)
        parts.append(_draw(side, style))
        left += (elevation.width_m + elevation.overhang_m) * scale + gap
    box = f"0 0 {style.width:.0f} {style.height:.0f}"
    return el("svg", parts, viewBox=box, class_="band", role="group", aria_label=style.title)


def _draw(side: _Side, style: BandStyle) -> str:
    e = side.e
    parts = [] if e.is_gable else [_roof_plane(side)]
    # Doors are drawn over the wall they stand in.
    for surface in sorted(e.surfaces, key=lambda s: s.kind == "door"):
        parts.append(_surface(side, surface, style))
    parts.append(_boards(side))
    parts += [_opening(side, kind, rect) for kind, rect in e.openings]
    if e.is_gable:
        parts.append(_rake(side))
    if not style.is_labelled:
        return el("g", parts)
    middle, _ = side.at(e.width_m / 2, 0)
    parts.append(el("circle", cx=middle, cy=10, r=7, class_="band-sun", data_sun=e.id))
    parts.append(words("sun on wall", x=middle + 11, y=14, class_="band-sun-word", data_sun=e.id))
    parts.append(words(e.name, x=middle, y=side.ground + 17, class_="band-name"))
    parts.append(words(style.captions.get(e.id, ""), x=middle, y=side.ground + 33, class_="band-caption", data_caption=e.id))
    return el("g", parts, data_elevation=e.id)


def _surface(side: _Side, surface: BandSurface, style: BandStyle) -> str:
    look = style.look(surface)
    classes = f"band-surface {look.class_} {'is-selected' if surface.id == style.selected else ''}".strip()
    shape = el("path", title(look.label), d=side.path(surface.outline), class_=classes, fill=look.fill, data_surface=surface.id)
    if look.href is None:
        return shape
    return el("a", shape, href=look.href, aria_label=look.label, data_surface_link=surface.id)


def _roof_plane(side: _Side) -> str:
    e = side.e
    w, eaves, ridge, out = e.width_m, e.eaves_height_m, e.ridge_height_m, e.overhang_m
    # Seen square on, the plane is foreshortened to the height between eaves and ridge.
    corners = ((-out, eaves), (w + out, eaves), (w + out, ridge), (-out, ridge))
    return el("path", d=side.path(corners), class_="band-roof")


def _rake(side: _Side) -> str:
    e = side.e
    w, eaves, ridge, out = e.width_m, e.eaves_height_m, e.ridge_height_m, e.overhang_m
    drop = out * (ridge - eaves) / (w / 2)
    corners = ((-out, eaves - drop), (w / 2, ridge), (w + out, eaves - drop))
    return el("path", d=path((side.at(x, y) for x, y in corners), close=False), class_="band-rake")


def _boards(side: _Side) -> str:
    """Light lines for the boards of each wall."""
    lines = []
    for surface in side.e.surfaces:
        if surface.kind != "wall":
            continue
        low = min(y for _, y in surface.outline)
        high = max(y for _, y in surface.outline)
        y = low + _BOARDS_M
        while y < high - 0.05:
            (x1, py), (x2, _) = side.at(0, y), side.at(side.e.width_m, y)
            lines.append(f"M{x1:.1f} {py:.1f}H{x2:.1f}")
            y += _BOARDS_M
    return el("path", d="".join(lines), class_="band-boards") if lines else ""


def _opening(side: _Side, kind: str, r: Rect) -> str:
    if kind in ("entry-door", "garage-door"):
        return _door(side, kind, r)
    parts = [side.rect(r, class_=f"band-opening band-{kind}")]
    if kind == "shutter":
        slats = max(int(r.height / 0.22), 2)
        lines = [(side.at(r.left, r.bottom + i * r.height / slats), side.at(r.right, 0)[0]) for i in range(1, slats)]
        parts.append(el("path", d="".join(f"M{p[0]:.1f} {p[1]:.1f}H{x:.1f}" for p, x in lines), class_="band-slats"))
    elif kind in ("sash-window", "casement-window"):
        (cx, top), (_, bottom) = side.at(r.left + r.width / 2, r.top), side.at(0, r.bottom)
        (x1, cy), (x2, _) = side.at(r.left, r.bottom + r.height / 2), side.at(r.right, 0)
        bars = f"M{cx:.1f} {top:.1f}V{bottom:.1f}"
        if kind == "sash-window":
            bars += f"M{x1:.1f} {cy:.1f}H{x2:.1f}"
        parts.append(el("path", d=bars, class_="band-bars"))
    return "".join(parts)


def _door(side: _Side, kind: str, r: Rect) -> str:
    """Outline and panels only: the leaf itself is a surface and takes its state."""
    rows, columns = (4, 4) if kind == "garage-door" else (3, 2)
    gap = min(r.width, r.height) * 0.09
    width = (r.width - gap * (columns + 1)) / columns
    height = (r.height - gap * (rows + 1)) / rows
    panels = [
        side.rect(Rect(r.left + gap + i * (width + gap), r.bottom + gap + j * (height + gap), width, height), class_="band-panel")
        for i in range(columns)
        for j in range(rows)
    ]
    return side.rect(r, class_="band-door") + "".join(panels)

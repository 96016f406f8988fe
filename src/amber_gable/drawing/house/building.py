"""What is drawn of a building: elevations with their surfaces, openings and pins, placed on paper.

Shared by the house band, the drawing of one elevation, and the printed sheet.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from amber_gable.core.geometry import Outline, Rect, Region
from amber_gable.drawing.hatch import Hatch, definition, hatch_id
from amber_gable.drawing.paint.wear import Wear, streak, streak_id
from amber_gable.drawing.svg import el, path, title, words

# Planes flatter than this are drawn from above.
FLAT_BELOW_DEG = 10.0


@dataclass(frozen=True)
class DrawnSurface:
    id: str
    name: str
    kind: str
    region: Region
    is_painted: bool = True
    hatch: Hatch | None = None


@dataclass(frozen=True)
class DrawnOpening:
    kind: str
    rect: Rect
    panes_across: int = 1
    panes_up: int = 1
    id: str = ""


@dataclass(frozen=True)
class Pin:
    """A finding, where it was found."""

    number: int
    x: float
    y: float
    label: str
    is_damage: bool = False
    href: str | None = None


@dataclass(frozen=True)
class DrawnElevation:
    """One plane of the building and what is on it, in its own metres; `start_m` and the rest say where it stands."""

    id: str
    name: str
    kind: str
    view: str
    azimuth_deg: float
    tilt_deg: float
    region: Region
    surfaces: Sequence[DrawnSurface]
    openings: Sequence[DrawnOpening] = ()
    pins: Sequence[Pin] = ()
    start_m: float = 0.0
    base_m: float = 0.0
    depth_m: float = 0.0
    has_gable: bool = False

    @property
    def is_flat(self) -> bool:
        return self.tilt_deg < FLAT_BELOW_DEG

    @property
    def foot_m(self) -> float:
        """Height of its foot in its view: above the ground, or from the front on the plan."""
        return -self.depth_m if self.is_flat else self.base_m

    @property
    def rise(self) -> float:
        """Share of its y that is seen: a slope is foreshortened."""
        return 1.0 if self.is_flat else math.sin(math.radians(self.tilt_deg))

    @property
    def far_m(self) -> float:
        """Distance to its far end; the farthest is drawn first."""
        return self.depth_m - self.region.bounds[3] * math.cos(math.radians(self.tilt_deg)) - (1000 if self.is_flat else 0)

    @property
    def left_m(self) -> float:
        return self.start_m + self.region.bounds[0]

    @property
    def right_m(self) -> float:
        return self.start_m + self.region.bounds[2]

    @property
    def top_m(self) -> float:
        return self.foot_m + self.region.bounds[3] * self.rise


@dataclass(frozen=True)
class View:
    """Elevations that are seen at once, side by side and one before the other."""

    key: str
    elevations: tuple[DrawnElevation, ...]

    @property
    def left_m(self) -> float:
        return min(e.left_m for e in self.elevations)

    @property
    def width_m(self) -> float:
        return max(e.right_m for e in self.elevations) - self.left_m

    @property
    def foot_m(self) -> float:
        return min((e.foot_m for e in self.elevations), default=0.0) if self.is_above else 0.0

    @property
    def top_m(self) -> float:
        return max(e.top_m for e in self.elevations)

    @property
    def is_above(self) -> bool:
        return self.elevations[0].is_flat

    @property
    def main(self) -> DrawnElevation:
        """Return what the view is named after: its largest wall, else its largest plane."""
        return max(self.elevations, key=lambda e: (e.kind == "wall", e.region.area_m2))


def views(elevations: Sequence[DrawnElevation]) -> list[View]:
    """Return elevations by view, in the order the first of each comes."""
    by_view: dict[str, list[DrawnElevation]] = {}
    for elevation in elevations:
        by_view.setdefault(elevation.view, []).append(elevation)
    return [View(key, tuple(parts)) for key, parts in by_view.items()]


@dataclass(frozen=True)
class Look:
    """Look of one surface: paint, optional link, spoken label."""

    fill: str
    label: str
    href: str | None = None
    class_: str = ""
    # Strength of the streak of light that its sheen throws back.
    gloss: float = 0.0


LookOf = Callable[[DrawnSurface], Look]


@dataclass
class Paper:
    """A drawing being made: its scale [px/m], the hatches it has used, the surface that is chosen."""

    prefix: str
    scale: float
    look: LookOf
    selected: str | None = None
    hatches: dict[str, str] = field(default_factory=dict)
    wear: Wear | None = None

    def definitions(self) -> str:
        return el("defs", "".join(self.hatches.values())) if self.hatches else ""


class Placed:
    """One elevation placed on paper: metres to pixels."""

    def __init__(self, elevation: DrawnElevation, left_px: float, ground_px: float, paper: Paper) -> None:
        self.e, self.left, self.ground, self.paper = elevation, left_px, ground_px, paper

    def at(self, x: float, y: float) -> tuple[float, float]:
        s = self.paper.scale
        return self.left + x * s, self.ground - (self.e.foot_m + y * self.e.rise) * s

    def path(self, outline: Outline) -> str:
        return path(self.at(x, y) for x, y in outline)

    def region(self, region: Region) -> str:
        return self.path(region.outline) + "".join(self.path(hole) for hole in region.holes)

    def rect(self, r: Rect, class_: str, **colours: str | None) -> str:
        x, y = self.at(r.left, r.top)
        wide, high = r.width * self.paper.scale, r.height * self.e.rise * self.paper.scale
        return el("rect", x=x, y=y, width=wide, height=high, class_=class_, **colours)


def draw(side: Placed) -> str:
    """Return one elevation: surfaces with hatches, openings, the edge of its gable, pins."""
    parts: list[str] = []
    doors = [s for s in side.e.surfaces if s.kind == "door"]
    # Doors are drawn over the wall they stand in.
    for surface in (*(s for s in side.e.surfaces if s.kind != "door"), *doors):
        parts += _surface(side, surface)
    if side.e.kind == "railing":
        parts.append(_balusters(side))
    if side.e.kind == "steps":
        parts.append(_treads(side))
    parts += [_opening(side, opening) for opening in side.e.openings]
    if side.e.has_gable:
        parts.append(_rake(side))
    parts += [_pin(side, pin) for pin in side.e.pins]
    return "".join(parts)


def _surface(side: Placed, surface: DrawnSurface) -> Iterator[str]:
    paper = side.paper
    look = paper.look(surface)
    # What leads nowhere must not lie in the way of what it covers: a porch roof before its wall.
    mute = "" if look.href else "is-mute "
    classes = f"band-surface {mute}is-{surface.kind} {look.class_} {'is-selected' if surface.id == paper.selected else ''}".strip()
    data = side.region(surface.region)
    shape = el("path", title(look.label), d=data, class_=classes, fill=look.fill, fill_rule="evenodd", data_surface=surface.id)
    yield shape if look.href is None else el("a", shape, href=look.href, aria_label=look.label, data_surface_link=surface.id)
    if surface.hatch is not None:
        left, foot = side.at(0, 0)
        key = hatch_id(surface.hatch, paper.scale, paper.prefix, left, foot)
        paper.hatches.setdefault(key, definition(surface.hatch, paper.scale, paper.prefix, left, foot))
        yield el("path", d=data, fill=f"url(#{key})", fill_rule="evenodd", class_="band-hatch")
    if look.gloss > 0:
        paper.hatches.setdefault(streak_id(paper.prefix), streak(paper.prefix))
        yield el("path", d=data, fill=f"url(#{streak_id(paper.prefix)})", fill_opacity=look.gloss, fill_rule="evenodd", class_="band-gloss")


def _rake(side: Placed) -> str:
    """The sloping edges of a gable, drawn as the roof's edge over it."""
    ring = (*side.e.region.outline, side.e.region.outline[0])
    lines = []
    for (x1, y1), (x2, y2) in pairwise(ring):
        if abs(x2 - x1) > 0.02 and abs(y2 - y1) > 0.02 * abs(x2 - x1) and max(y1, y2) > 0.5 * side.e.region.bounds[3]:
            lines.append(path((side.at(x1, y1), side.at(x2, y2)), close=False))
    worn = side.paper.wear.trim.get(side.e.id) if side.paper.wear else None
    return el("path", d="".join(lines), class_="band-worn-rake" if worn else "band-rake", stroke=worn) if lines else ""


def _balusters(side: Placed) -> str:
    left, _, right, top = side.e.region.bounds
    count = max(int((right - left) / 0.127), 2)
    step = max((right - left) / count, 5 / side.paper.scale)
    lines, x = [], left
    while x <= right + 1e-6:
        (px, low), (_, high) = side.at(x, 0), side.at(x, top)
        lines.append(f"M{px:.1f} {low:.1f}V{high:.1f}")
        x += step
    (x1, high), (x2, _) = side.at(left, top), side.at(right, top)
    return el("path", d="".join(lines) + f"M{x1:.1f} {high:.1f}H{x2:.1f}", class_="band-balusters")


def _treads(side: Placed) -> str:
    left, _, right, top = side.e.region.bounds
    count = max(round(top / 0.46), 1)
    lines = []
    for i in range(1, count):
        (x1, y), (x2, _) = side.at(left, top * i / count), side.at(right, 0)
        lines.append(f"M{x1:.1f} {y:.1f}H{x2:.1f}")
    return el("path", d="".join(lines), class_="band-balusters") if lines else ""


def _pin(side: Placed, pin: Pin) -> str:
    x, y = side.at(pin.x, pin.y)
    dot = el("circle", title(pin.label), cx=x, cy=y, r=8, class_=f"pin{' is-damage' if pin.is_damage else ''}")
    mark = dot + words(str(pin.number), x=x, y=y + 4, class_="pin-number")
    return el("a", mark, href=pin.href, aria_label=pin.label, data_pin=str(pin.number)) if pin.href else el("g", mark)


def _opening(side: Placed, opening: DrawnOpening) -> str:
    kind, r = opening.kind, opening.rect
    if kind in ("entry-door", "garage-door", "sliding-door"):
        return _door(side, opening)
    worn = side.paper.wear.opening(side.e.id, kind) if side.paper.wear else None
    parts = [_worn(side, opening, worn) if worn else side.rect(r, class_=f"band-opening band-{kind}")]
    if kind in ("shutter", "vent"):
        slats = max(int(r.height / 0.22), 2)
        lines = [(side.at(r.left, r.bottom + i * r.height / slats), side.at(r.right, 0)[0]) for i in range(1, slats)]
        parts.append(el("path", d="".join(f"M{p[0]:.1f} {p[1]:.1f}H{x:.1f}" for p, x in lines), class_="band-slats"))
    elif kind.endswith("-window"):
        parts.append(el("path", d=_bars(side, opening), class_="band-worn-bars" if worn else "band-bars", stroke=worn))
    return "".join(parts)


def _worn(side: Placed, opening: DrawnOpening, colour: str) -> str:
    """A painted opening: of a window the frame, of the rest the face."""
    if opening.kind.endswith("-window"):
        return side.rect(opening.rect, class_="band-worn-frame", stroke=colour)
    return side.rect(opening.rect, class_="band-worn", fill=colour)


def _bars(side: Placed, opening: DrawnOpening) -> str:
    r = opening.rect
    # A sash window shows its meeting rail even where it has single panes.
    up = max(opening.panes_up, 2 if opening.kind == "sash-window" else 1)
    lines = []
    for i in range(1, opening.panes_across):
        x, top = side.at(r.left + i * r.width / opening.panes_across, r.top)
        lines.append(f"M{x:.1f} {top:.1f}V{side.at(0, r.bottom)[1]:.1f}")
    for j in range(1, up):
        x, y = side.at(r.left, r.bottom + j * r.height / up)
        lines.append(f"M{x:.1f} {y:.1f}H{side.at(r.right, 0)[0]:.1f}")
    return "".join(lines)


def _door(side: Placed, opening: DrawnOpening) -> str:
    """Outline and panels only: the leaf itself is a surface and takes its state."""
    r, rows, columns = opening.rect, opening.panes_up, opening.panes_across
    gap = min(r.width, r.height) * 0.09
    width = (r.width - gap * (columns + 1)) / columns
    height = (r.height - gap * (rows + 1)) / rows
    panels = [
        side.rect(Rect(r.left + gap + i * (width + gap), r.bottom + gap + j * (height + gap), width, height), class_="band-panel")
        for i in range(columns)
        for j in range(rows)
    ]
    return side.rect(r, class_="band-door") + "".join(panels)

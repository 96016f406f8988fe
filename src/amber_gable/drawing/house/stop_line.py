"""The stop line on its wall: what is done, what comes next, what is not for today, and the line itself with its time."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import shapely

from amber_gable.core.geometry import Region
from amber_gable.core.geometry.outlines import regions
from amber_gable.drawing.house.building import DrawnElevation, DrawnSurface, Look, LookOf, Placed
from amber_gable.drawing.house.elevation import elevation_drawing
from amber_gable.drawing.patterns import FILLS
from amber_gable.drawing.svg import el, words

_FLAG_HIGH = 22.0
_FLAG_PER_LETTER = 9.5
_TOP = 32.0
# Narrow, so that its words stay large on a phone [px].
_WIDE, _HIGH = 420.0, 300.0


@dataclass(frozen=True)
class Stretches:
    """Places along a wall [m], in working order: where work began, the wet edge, the stop (None for none), the far corner."""

    began: float
    edge: float
    stop: float | None
    end: float


def _strip(region: Region, a: float, b: float) -> list[Region]:
    low, high = sorted((a, b))
    _, bottom, _, top = region.bounds
    return list(regions(shapely.clip_by_rect(region.polygon, low, bottom - 1, high, top + 1))) if high - low > 1e-6 else []


def _parts(surface: DrawnSurface, along: Stretches) -> list[DrawnSurface]:
    stop = along.edge if along.stop is None else along.stop
    pieces = []
    for name, a, b in (("done", along.began, along.edge), ("next", along.edge, stop), ("later", stop, along.end)):
        pieces += [replace(surface, id=name, name=name, region=piece) for piece in _strip(surface.region, a, b)]
    return pieces


_FILLS = {"done": "var(--open)", "next": "var(--depth-1)", "later": FILLS["shut"]}


def _look(names: dict[str, str]) -> LookOf:
    def look(surface: DrawnSurface) -> Look:
        return Look(_FILLS[surface.id], names[surface.id]) if surface.id in _FILLS else Look("var(--paper)", surface.name)

    return look


def stop_drawing(
    elevation: DrawnElevation, surface_id: str, along: Stretches, flag: str, captions: Sequence[tuple[str, str]], joints: Sequence[float]
) -> str:  # fmt: skip
    """Return the wall with its stop line.

    Parameters
    ----------
    elevation : DrawnElevation
    surface_id : str
        Of the surface that is painted.
    along : Stretches
    flag : str
        On the line: the time.
    captions : sequence of (name, words)
        "done", "next", "later": under their stretch.
    joints : sequence of float
        Where one may stop [m]: ticks at the foot.
    """
    chosen = next(s for s in elevation.surfaces if s.id == surface_id)
    others = [s for s in elevation.surfaces if s.id != surface_id]
    drawn = replace(elevation, surfaces=[*others, *_parts(chosen, along)])
    said = dict(captions)

    def overlay(side: Placed) -> str:
        _, low, _, high = elevation.region.bounds
        ground, top = side.at(0, low)[1], side.at(0, high)[1]
        parts = [el("path", d=f"M{side.at(x, low)[0]:.1f} {ground:.1f}v7", class_="stop-joint") for x in joints]
        if abs(along.edge - along.began) > 1e-6:
            x = side.at(along.edge, low)[0]
            parts.append(el("path", d=f"M{x:.1f} {top:.1f}V{ground:.1f}", class_="stop-edge"))
        if along.stop is not None:
            x = side.at(along.stop, low)[0]
            wide = len(flag) * _FLAG_PER_LETTER + 14
            left = min(max(x - wide / 2, 2.0), _WIDE - wide - 2)
            parts.append(el("path", d=f"M{x:.1f} {top - 8:.1f}V{ground + 8:.1f}", class_="stop-mark"))
            parts.append(el("rect", x=left, y=top - 8 - _FLAG_HIGH, width=wide, height=_FLAG_HIGH, class_="stop-flag"))
            parts.append(words(flag, x=left + wide / 2, y=top - 14, class_="stop-time"))
        stop = along.edge if along.stop is None else along.stop
        for name, a, b in (("done", along.began, along.edge), ("next", along.edge, stop), ("later", stop, along.end)):
            if said.get(name) and abs(b - a) > 1e-6:
                parts.append(words(said[name], x=side.at((a + b) / 2, low)[0], y=ground + 24, class_="stop-caption"))
        return "".join(parts)

    return elevation_drawing(
        drawn, _look({n: said.get(n, n) or n for n in _FILLS}), width=_WIDE, height=_HIGH, overlay=overlay, head=_TOP, foot=_TOP
    )

"""The house on paper: every view to one scale, with a scale bar, as an SVG that stands alone."""

import re
from collections.abc import Sequence

from amber_gable.drawing.house.building import DrawnElevation, DrawnSurface, Look, LookOf, Paper, Placed, View, draw, views
from amber_gable.drawing.paint.wear import Wear
from amber_gable.drawing.svg import el, words
from amber_gable.drawing.tokens import token

WIDTH = 1060.0
_GAP = 40.0
_HEAD = 40.0
_UNDER = 42.0
_MOST_ROWS = 4

# Each font property by itself: the printer does not read the shorthand and would draw huge letters.
STYLE = re.sub(
    r"@([a-z0-9-]+)",
    lambda name: token(name[1]),
    """
text{font-family:sans-serif;font-size:12px;fill:@ink}
.band-surface{stroke:@ink;stroke-width:1}.band-hatch{pointer-events:none}.hatch-line{stroke:@ink;stroke-opacity:.25;stroke-width:.6;fill:none}
.hatch-dot{fill:@ink;fill-opacity:.35}.band-rake{fill:none;stroke:@ink;stroke-width:2.4}.band-opening{fill:@white;stroke:@ink;stroke-width:.9}
.band-shutter{fill:@depth-0}.band-slats,.band-bars,.band-panel{stroke:@ink;stroke-width:.6;fill:none}.band-door{fill:none;stroke:@ink;stroke-width:1.4}
.band-worn{stroke:@ink;stroke-width:.8}.band-worn-frame{fill:@depth-1;stroke-width:3}.band-worn-bars{stroke-width:1.6;fill:none}
.band-worn-rake{fill:none;stroke-width:4}.band-balusters{stroke:@ink;stroke-width:.8;fill:none}.band-ground,.scale{stroke:@ink;stroke-width:1.2;fill:none}
.pin{fill:@brick}.pin.is-damage{fill:@ink}.pin-number{fill:@white;font-weight:700;font-size:9px;text-anchor:middle}
.name{font-weight:700;text-anchor:middle}.note{text-anchor:middle}
.title{font-size:18px;font-weight:700}
""",
)


def _look(surface: DrawnSurface) -> Look:
    fill = token("white") if surface.is_painted else token("wash")
    return Look("none" if surface.kind == "railing" else fill, surface.name)


def _rows(seen: Sequence[View], scale: float) -> list[list[View]]:
    rows: list[list[View]] = [[]]
    across = 0.0
    for view in seen:
        wide = view.width_m * scale + _GAP
        if rows[-1] and across + wide > WIDTH:
            rows.append([])
            across = 0.0
        rows[-1].append(view)
        across += wide
    return rows


def _scale_for(seen: Sequence[View], room: float) -> float:
    """Return the largest scale [px/m] at which every view fits the width and all rows a page."""
    widest = max(v.width_m for v in seen)
    scale = (WIDTH - 2 * _GAP) / widest
    while scale > 2:
        rows = _rows(seen, scale)
        height = sum(max(v.top_m - v.foot_m for v in row) * scale + _UNDER for row in rows)
        if len(rows) <= _MOST_ROWS and height < room:
            return scale
        scale *= 0.95
    return scale


def house_sheet(
    elevations: Sequence[DrawnElevation],
    title: str,
    notes: dict[str, str],
    bar: tuple[float, str],
    look: LookOf = _look,
    wear: Wear | None = None,
    room: float = 640.0,
) -> str:
    """Return all views on one sheet.

    Parameters
    ----------
    elevations : sequence of DrawnElevation
    title : str
    notes : dict of str to str
        By view: a line under its name.
    bar : (length in metres, words)
        Of the scale bar.
    look : callable
        How a surface is filled; plain where nothing else is asked for.
    wear : Wear, optional
        Colours of windows, shutters and trim.
    room : float
        How high it may be [px, of a width of 1060].
    """
    seen = views(elevations)
    scale = _scale_for(seen, room)
    paper = Paper("sheet", scale, look, wear=wear)
    parts = [words(title, x=0, y=20, class_="title")]
    y = _HEAD
    for row in _rows(seen, scale):
        ground = y + max(v.top_m - v.foot_m for v in row) * scale + 4
        x = _GAP / 2
        for view in row:
            for e in sorted(view.elevations, key=lambda e: e.far_m):
                side = Placed(e, x + (e.start_m - view.left_m) * scale, ground + view.foot_m * scale, paper)
                parts.append(draw(side))
            wide = view.width_m * scale
            if not view.is_above:
                parts.append(el("path", d=f"M{x - 8:.1f} {ground:.1f}H{x + wide + 8:.1f}", class_="band-ground"))
            name = "From above" if view.is_above else view.main.name
            parts.append(words(name, x=x + wide / 2, y=ground + 16, class_="name"))
            parts.append(words(notes.get(view.key, ""), x=x + wide / 2, y=ground + 31, class_="note"))
            x += wide + _GAP
        y = ground + _UNDER
    parts.append(_scale_bar(y + 6, scale, *bar))
    height = y + 34
    return el(
        "svg",
        [el("style", STYLE), paper.definitions(), *parts],
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {WIDTH:.0f} {height:.0f}",
        width=WIDTH,
        height=height,
    )


def _scale_bar(y: float, scale: float, length_m: float, said: str) -> str:
    long = length_m * scale
    data = f"M2 {y:.1f}H{2 + long:.1f}M2 {y - 5:.1f}v10M{2 + long / 2:.1f} {y - 3:.1f}v6M{2 + long:.1f} {y - 5:.1f}v10"
    return el("path", d=data, class_="scale") + words(said, x=10 + long, y=y + 4)

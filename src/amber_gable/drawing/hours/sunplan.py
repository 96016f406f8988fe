"""The sun plan: the footprint from above, the sun's way round it, the walls in their state."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.geometry import Outline, Point
from amber_gable.drawing.svg import el, number, path, title, words

SIZE = 240.0
_MIDDLE = SIZE / 2
_HORIZON = 92.0
_HOUSE = 100.0


@dataclass(frozen=True)
class PlanWall:
    """A wall seen from above, from its left to its right end; `wall_id` is the surface whose state it shows."""

    name: str
    ends: tuple[Point, Point]
    wall_id: str | None


@dataclass(frozen=True)
class PlanShade:
    """A sector of the horizon that is hidden up to an elevation."""

    name: str
    from_deg: float
    to_deg: float
    up_to_deg: float


def _at(azimuth_deg: float, radius: float) -> tuple[float, float]:
    a = math.radians(azimuth_deg)
    return _MIDDLE + radius * math.sin(a), _MIDDLE - radius * math.cos(a)


def sun_position(azimuth_deg: float, elevation_deg: float) -> tuple[float, float]:
    """Return where the sun stands on the plan: on the rim at the horizon, in the middle overhead."""
    return _at(azimuth_deg, _HORIZON * math.cos(math.radians(max(elevation_deg, 0.0))))


def _shade(shade: PlanShade) -> str:
    width = (shade.to_deg - shade.from_deg) % 360 or 360.0
    outer = [_at(shade.from_deg + width * i / 24, _HORIZON) for i in range(25)]
    inner_radius = _HORIZON * math.cos(math.radians(shade.up_to_deg))
    inner = [_at(shade.from_deg + width * i / 24, inner_radius) for i in range(24, -1, -1)]
    return el("path", title(shade.name), d=path([*outer, *inner]), class_="plan-shade")


def sun_plan(
    footprints: Sequence[tuple[Outline, float]],
    walls: Sequence[PlanWall],
    front_azimuth_deg: float,
    sun_path: Sequence[tuple[float, float]],
    shades: Sequence[PlanShade] = (),
) -> str:
    """Return the plan as SVG, north up.

    Parameters
    ----------
    footprints : sequence of (Outline, float)
        Blocks on the plan: x along the front, y away from it, and how high each throws its shadow [m].
    walls : sequence of PlanWall
        On the same plan.
    front_azimuth_deg : float
        Where the front faces.
    sun_path : sequence of (azimuth, elevation)
        Through the day, in degrees; below the horizon left out.
    """
    parts = [el("circle", cx=_MIDDLE, cy=_MIDDLE, r=_HORIZON, class_="plan-rim")]
    parts += [_shade(shade) for shade in shades]
    for name, azimuth in (("N", 0.0), ("E", 90.0), ("S", 180.0), ("W", 270.0)):
        x, y = _at(azimuth, _HORIZON + 14)
        parts.append(words(name, x=x, y=y + 5, class_="plan-wind"))
    way = [sun_position(a, e) for a, e in sun_path if e > 0]
    if way:
        data = "M" + "L".join(f"{number(x)} {number(y)}" for x, y in way)
        parts.append(el("path", d=data, class_="plan-way"))
    place, scale = _placing([outline for outline, _ in footprints], walls, front_azimuth_deg)
    for outline, height_m in footprints:
        # The page's script draws the shadow of the hour from these: corners on the drawing, and height by its scale.
        corners = " ".join(f"{number(x)},{number(y)}" for x, y in map(place, outline))
        parts.append(el("path", d="", class_="plan-shadow", data_corners=corners, data_height=number(height_m * scale)))
    parts += [el("path", d=path(place(p) for p in outline), class_="plan-house") for outline, _ in footprints]
    for wall in walls:
        (x1, y1), (x2, y2) = place(wall.ends[0]), place(wall.ends[1])
        parts.append(el("line", title(wall.name), x1=x1, y1=y1, x2=x2, y2=y2, class_="plan-wall", data_plan_wall=wall.wall_id))
    parts.append(el("circle", cx=_MIDDLE, cy=_MIDDLE, r=8, class_="plan-sun", data_plan_sun=""))
    return el("svg", parts, viewBox=f"0 0 {SIZE:.0f} {SIZE:.0f}", class_="plan", role="img", aria_label="The house and the sun from above")


def _placing(footprints: Sequence[Outline], walls: Sequence[PlanWall], front_azimuth_deg: float):  # type: ignore[no-untyped-def]
    """Return the map from the plan to the drawing: turned so that north is up, and fitted."""
    corners = [p for outline in footprints for p in outline] or [p for wall in walls for p in wall.ends] or [(0.0, 0.0)]
    # The front looks along minus y on the plan; it is turned to where it faces.
    turn = math.radians(front_azimuth_deg - 180)
    cos, sin = math.cos(turn), math.sin(turn)
    turned = [(x * cos + y * sin, y * cos - x * sin) for x, y in corners]
    left, right = min(x for x, _ in turned), max(x for x, _ in turned)
    low, high = min(y for _, y in turned), max(y for _, y in turned)
    scale = _HOUSE / max(math.hypot(right - left, high - low), 0.1)
    cx, cy = (left + right) / 2, (low + high) / 2

    def place(point: Point) -> tuple[float, float]:
        x, y = point[0] * cos + point[1] * sin, point[1] * cos - point[0] * sin
        return _MIDDLE + (x - cx) * scale, _MIDDLE - (y - cy) * scale

    return place, scale

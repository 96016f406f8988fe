"""The sun plan: the footprint from above, the sun's way round it, the walls in their state."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.drawing.svg import el, number, title, words

SIZE = 240.0
_MIDDLE = SIZE / 2
_HORIZON = 92.0
_HOUSE = 92.0


@dataclass(frozen=True)
class PlanSide:
    """A wall seen from above; `wall_id` is the surface whose state it shows."""

    name: str
    azimuth_deg: float
    width_m: float
    wall_id: str | None


def _at(azimuth_deg: float, radius: float) -> tuple[float, float]:
    a = math.radians(azimuth_deg)
    return _MIDDLE + radius * math.sin(a), _MIDDLE - radius * math.cos(a)


def sun_position(azimuth_deg: float, elevation_deg: float) -> tuple[float, float]:
    """Return where the sun stands on the plan: on the rim at the horizon, in the middle overhead."""
    return _at(azimuth_deg, _HORIZON * math.cos(math.radians(max(elevation_deg, 0.0))))


def sun_plan(sides: Sequence[PlanSide], sun_path: Sequence[tuple[float, float]]) -> str:
    """Return the plan as SVG.

    Parameters
    ----------
    sides : sequence of PlanSide
        Four, in order round the building.
    sun_path : sequence of (azimuth, elevation)
        Through the day, in degrees; below the horizon left out.
    """
    parts = [el("circle", cx=_MIDDLE, cy=_MIDDLE, r=_HORIZON, class_="plan-rim")]
    for name, azimuth in (("N", 0.0), ("E", 90.0), ("S", 180.0), ("W", 270.0)):
        x, y = _at(azimuth, _HORIZON + 14)
        parts.append(words(name, x=x, y=y + 5, class_="plan-wind"))
    way = [sun_position(a, e) for a, e in sun_path if e > 0]
    if way:
        data = "M" + "L".join(f"{number(x)} {number(y)}" for x, y in way)
        parts.append(el("path", d=data, class_="plan-way"))
    longest = max(side.width_m for side in sides)
    scale = _HOUSE / longest
    for side in sides:
        # Opposite walls are equally wide: the depth is the width of a neighbour.
        depth = next(s.width_m for s in sides if abs(math.sin(math.radians(s.azimuth_deg - side.azimuth_deg))) > 0.5)
        a = math.radians(side.azimuth_deg)
        out = (math.sin(a), -math.cos(a))
        along = (math.cos(a), math.sin(a))
        cx, cy = _MIDDLE + out[0] * depth * scale / 2, _MIDDLE + out[1] * depth * scale / 2
        half = side.width_m * scale / 2
        parts.append(
            el(
                "line",
                title(side.name),
                x1=cx - along[0] * half,
                y1=cy - along[1] * half,
                x2=cx + along[0] * half,
                y2=cy + along[1] * half,
                class_="plan-wall",
                data_plan_wall=side.wall_id,
            )
        )
    parts.append(el("circle", cx=_MIDDLE, cy=_MIDDLE, r=8, class_="plan-sun", data_plan_sun=""))
    return el("svg", parts, viewBox=f"0 0 {SIZE:.0f} {SIZE:.0f}", class_="plan", role="img", aria_label="The house and the sun from above")

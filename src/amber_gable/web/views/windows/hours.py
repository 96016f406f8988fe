"""Hours on a page: axis, ribbons and the data that the page's script scrubs through.

The data are sent once: run-length states with their binding rule, hourly temperatures, the sun.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from markupsafe import Markup

from amber_gable.core.geometry.blocks import Solid, solids
from amber_gable.drawing.hours import ribbons, timeaxis
from amber_gable.drawing.hours.curves import Level, curves
from amber_gable.drawing.hours.sunplan import PlanShade, PlanWall, sun_plan
from amber_gable.drawing.hours.timeaxis import Axis
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.outlook.series import STEP_H, hour_series, sun_way
from amber_gable.services.survey.building.rows import block_of
from amber_gable.services.survey.building.sides import named
from amber_gable.store.models import Job
from amber_gable.units import System, convert

DAYS = 5
MORNING_H = 36


@dataclass(frozen=True)
class HoursRow:
    surface_id: str
    name: str
    ribbon: Markup


@dataclass(frozen=True)
class Hours:
    """The hours of a job over one range."""

    axis: Axis
    head: Markup
    rows: list[HoursRow]
    payload: dict[str, Any]


def axis_over(outlook: Outlook, start: datetime, hours: float) -> Axis:
    first = outlook.step_at(start)
    count = len(outlook.windows.climate.grid.epoch_s)
    last = min(first + round(hours * STEP_H), count - 1)
    return timeaxis.squeezed(outlook.windows.climate.sky.is_day, first, last)


def _degrees(values_c: Sequence[float], system: System, *, difference: bool = False) -> list[int]:
    """Return whole degrees in the units of a page."""
    source, target = ("dC", "dF") if difference else ("C", "F")
    if system == "metric":
        return [round(v) for v in values_c]
    # Straight, so that two exact values stand for thousands.
    offset = convert(0.0, source, target)
    slope = convert(1.0, source, target) - offset
    return [round(slope * v + offset) for v in values_c]


def hours_of(scope: Scope, job: Job, outlook: Outlook, start: datetime, hours: float) -> Hours:
    """Return axis, ribbons and payload; drawn once per outlook, range and units."""
    names = named(job, scope.knowledge)
    key = ("hours", outlook.key, start, hours, job.units, tuple(names[i] for i in outlook.surface_ids))
    return scope.cached(key, lambda: drawn_hours(names, outlook, axis_over(outlook, start, hours), job.units))


def drawn_hours(names: Mapping[str, tuple[str, str]], outlook: Outlook, axis: Axis, system: System) -> Hours:
    """Return axis, ribbons and payload of an outlook, drawn anew."""
    windows, climate = outlook.windows, outlook.windows.climate
    is_day = climate.sky.is_day
    times = [outlook.local(q) for q in range(axis.first, axis.last)]
    head = ribbons.scale(axis, timeaxis.days(axis, times), climate.rain_mm_h, climate.rain_probability_pct)
    series = hour_series(outlook, names, axis.first, axis.last)
    strips = [
        ribbons.ribbon(axis, windows.runs(row), is_day, climate.direct_sun[row], climate.wet[row]) for row in range(len(series.surfaces))
    ]
    rows = [HoursRow(s.key, s.name, Markup(strip)) for s, strip in zip(series.surfaces, strips, strict=True)]
    surfaces = [
        {
            "id": s.key, "side": s.side, "name": s.name, "runs": s.runs, "sun": s.sun, "lit": s.lit_pct,
            "temp": _degrees(s.temp_c, system), "margin": _degrees(s.dew_margin_c, system, difference=True),
        }
        for s in series.surfaces
    ]  # fmt: skip
    payload = {
        "t0": series.t0_s, "step": series.step_s, "zone": str(outlook.zone), "x": [round(float(x), 2) for x in axis.x],
        "rules": series.rules, "degree": "°F" if system == "us" else "°C", "surfaces": surfaces,
        "sun": [(round(azimuth, 1), round(elevation, 1)) for azimuth, elevation in series.sky],
    }  # fmt: skip
    return Hours(axis, Markup(head), rows, payload)


def plan_of(job: Job, outlook: Outlook, day: datetime) -> Markup:
    """Return the sun plan with the sun's way over one local day."""
    return sun_plan_of(job, sun_way(outlook, outlook.step_at(day), outlook.step_at(day + timedelta(days=1))))


def sun_plan_of(job: Job, way: Sequence[tuple[float, float]]) -> Markup:
    """Return the sun plan of a job with the sun's way given: footprints, walls, what throws shade."""
    building = job.building
    placed = solids([block_of(row) for row in building.blocks])
    walls = []
    for e in building.elevations:
        if e.kind != "wall":
            continue
        turn = math.radians(e.azimuth_deg - building.front_azimuth_deg)
        out = (-math.sin(turn), -math.cos(turn))
        along = (-out[1], out[0])
        left = (along[0] * e.start_m + out[0] * e.depth_m, along[1] * e.start_m + out[1] * e.depth_m)
        width = max(x for x, _ in e.outline)
        wall = next((s.id for s in e.surfaces if s.kind == "wall"), None)
        walls.append(PlanWall(e.name, (left, (left[0] + along[0] * width, left[1] + along[1] * width)), wall))
    shades = [PlanShade(f.note or f.kind, f.shade_from_deg, f.shade_to_deg, f.shade_up_to_deg) for f in job.features
              if f.shade_from_deg is not None and f.shade_to_deg is not None and f.shade_up_to_deg is not None]  # fmt: skip
    return Markup(sun_plan([(s.corners, _height(s)) for s in placed.values()], walls, building.front_azimuth_deg, way, shades))


def _height(solid: Solid) -> float:
    """Return what of a block throws a shadow: halfway between eaves and ridge, and none of a deck."""
    block = solid.block
    return 0.0 if block.kind == "deck" else (block.eaves_height_m + block.top_m) / 2


def curves_of(outlook: Outlook, axis: Axis, row: int, system: System) -> tuple[Markup, list[tuple[Level, str]]]:
    """Return a surface's curves and the labels of the temperature lines."""
    climate = outlook.windows.climate
    unit = "F" if system == "us" else "C"
    step = 20 if system == "us" else 10
    levels = [convert(float(v), unit, "C") for v in range(-60, 160, step)]
    svg, marks = curves(axis, climate.surface_temp_c[row], climate.air_temp_c, climate.dew_point_c, climate.sky.is_day, levels)
    return Markup(svg), [(m, f"{convert(m.temp_c, 'C', unit):.0f}°") for m in marks]

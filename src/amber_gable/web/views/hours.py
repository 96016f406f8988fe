"""Hours on a page: axis, ribbons and the data that the page's script scrubs through.

The data are sent once: run-length states with their binding rule, hourly temperatures, the sun.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from markupsafe import Markup

from amber_gable.core.geometry.blocks import Solid, solids
from amber_gable.core.windows.words import short_name
from amber_gable.drawing.hours import ribbons, timeaxis
from amber_gable.drawing.hours.curves import Level, curves
from amber_gable.drawing.hours.sunplan import PlanShade, PlanWall, sun_plan
from amber_gable.drawing.hours.timeaxis import Axis
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.survey.building.rows import block_of
from amber_gable.services.survey.building.sides import named
from amber_gable.store.models import Job
from amber_gable.units import System, convert

DAYS = 5
MORNING_H = 36
_STEP_H = 4


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
    last = min(first + round(hours * _STEP_H), count - 1)
    return timeaxis.squeezed(outlook.windows.climate.sky.is_day, first, last)


def _runs_with_rules(states: np.ndarray, binding: np.ndarray, axis: Axis) -> list[list[int]]:
    part, why = states[axis.first : axis.last], binding[axis.first : axis.last]
    change = np.flatnonzero((np.diff(part) != 0) | (np.diff(why) != 0)) + 1
    return [[int(q), int(part[q]), int(why[q])] for q in (0, *change)]


def _on_off(flags: np.ndarray, axis: Axis) -> list[list[int]]:
    part = np.concatenate([[False], flags[axis.first : axis.last], [False]]).astype(np.int8)
    edges = np.flatnonzero(np.diff(part))
    return [[int(a), int(b)] for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _degrees(values_c: np.ndarray, system: System, *, difference: bool = False) -> list[int]:
    source, target = ("dC", "dF") if difference else ("C", "F")
    if system == "metric":
        return [round(float(v)) for v in values_c]
    slope, offset = convert(1.0, source, target) - convert(0.0, source, target), convert(0.0, source, target)
    return [round(slope * float(v) + offset) for v in values_c]


def hours_of(scope: Scope, job: Job, outlook: Outlook, start: datetime, hours: float) -> Hours:
    """Return axis, ribbons and payload; drawn once per outlook, range and units."""
    names = named(job, scope.knowledge)
    key = ("hours", outlook.key, start, hours, job.units, tuple(names[i] for i in outlook.surface_ids))
    return scope.cached(key, lambda: drawn_hours(names, outlook, axis_over(outlook, start, hours), job.units))


def drawn_hours(names: Mapping[str, tuple[str, str]], outlook: Outlook, axis: Axis, system: System) -> Hours:
    """Return axis, ribbons and payload of an outlook, drawn anew."""
    windows, climate = outlook.windows, outlook.windows.climate
    is_day = climate.sky.is_day
    binding = windows.binding()
    times = [outlook.local(q) for q in range(axis.first, axis.last)]
    days = timeaxis.days(axis, times)
    head = ribbons.scale(axis, days, climate.rain_mm_h, climate.rain_probability_pct)
    rows, surfaces = [], []
    hourly = slice(axis.first, axis.last, _STEP_H)
    for row, surface_id in enumerate(outlook.surface_ids):
        name, elevation_id = names[surface_id]
        strip = ribbons.ribbon(axis, windows.runs(row), is_day, climate.direct_sun[row], climate.wet[row])
        rows.append(HoursRow(surface_id, name, Markup(strip)))
        surfaces.append(
            {
                "id": surface_id,
                "side": elevation_id,
                "name": name,
                "runs": _runs_with_rules(windows.states[row], binding[row], axis),
                "sun": _on_off(climate.direct_sun[row], axis),
                # How much of it the sun reaches past eaves and wings, by the hour; all of it where nothing is said.
                "lit": [] if climate.seen_frac is None else [round(100 * float(v)) for v in climate.seen_frac[row, hourly]],
                "temp": _degrees(climate.surface_temp_c[row, hourly], system),
                "margin": _degrees(climate.dew_margin_c[row, hourly], system, difference=True),
            }
        )
    payload = {
        "t0": float(climate.grid.epoch_s[axis.first]),
        "step": climate.grid.step_s,
        "zone": str(outlook.zone),
        "x": [round(float(x), 2) for x in axis.x],
        "rules": [short_name(check.rule) for check in windows.checks],
        "degree": "°F" if system == "us" else "°C",
        "surfaces": surfaces,
        "sun": [
            [round(float(a), 1), round(float(e), 1)]
            for a, e in zip(climate.sky.azimuth_deg[hourly], climate.sky.elevation_deg[hourly], strict=True)
        ],
    }
    return Hours(axis, Markup(head), rows, payload)


def plan_of(job: Job, outlook: Outlook, day: datetime) -> Markup:
    """Return the sun plan with the sun's way over one local day."""
    first = outlook.step_at(day)
    last = outlook.step_at(day + timedelta(days=1))
    sky = outlook.windows.climate.sky
    return sun_plan_of(job, [(float(sky.azimuth_deg[q]), float(sky.elevation_deg[q])) for q in range(first, last)])


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

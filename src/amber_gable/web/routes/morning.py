"""The start page: every job, what to do next. And the health check."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse
from markupsafe import Markup

from amber_gable.core.advice import next_run
from amber_gable.services import jobs, morning
from amber_gable.services.context import Context
from amber_gable.services.morning import JobMorning
from amber_gable.services.schedules import Visit
from amber_gable.web.deps import Ctx
from amber_gable.web.formroute import FormRoute
from amber_gable.web.sentences import Sentence, next_step, visit_line
from amber_gable.web.templating import page, zone_of
from amber_gable.web.views.hours import MORNING_H, Hours, Row, hours_of
from amber_gable.web.views.house import thumbnail

router = APIRouter(route_class=FormRoute)
# Ribbons on the page, shared out among the jobs.
_ROWS = 14
_FEWEST_ROWS = 3
_MOST_VISITS = 8


@dataclass(frozen=True)
class Entry:
    """One job on the start page."""

    morning: JobMorning
    sentence: Sentence
    drawing: Markup
    hours: Hours | None
    rows: list[Row]
    hidden: int
    then: list[Visit]

    @property
    def zone(self) -> ZoneInfo:
        return zone_of(self.morning.job)


def _entry(context: Context, found: JobMorning, now: datetime, most: int) -> Entry:
    sentence = next_step(found, now)
    ahead = found.ahead
    if ahead is None:
        return Entry(found, sentence, thumbnail(found.job, None, 0, None, context.knowledge), None, [], 0, [])
    start = now.replace(minute=0, second=0, microsecond=0) - timedelta(hours=1)
    hours = hours_of(context, found.job, ahead, start, MORNING_H)
    step = ahead.step_at(now)
    # The surfaces that open next, those of the schedule before all others.
    scheduled = [v.surface_id for v in found.schedule.visits if v.ends_at > now] if found.schedule else []

    def rank(row: Row) -> tuple[int, int]:
        place = scheduled.index(row.surface_id) if row.surface_id in scheduled else len(scheduled)
        run = next_run(ahead.windows, ahead.surface_ids.index(row.surface_id), step)
        return place, run.first if run else 10**6

    rows = sorted(hours.rows, key=rank)
    chosen = found.visit.surface_id if found.visit else (ahead.surface_ids[found.run.surface] if found.run else None)
    side = next((e.id for e in found.job.building.elevations for s in e.surfaces if s.id == chosen), None)
    until = now + timedelta(hours=MORNING_H)
    then = [v for v in found.schedule.visits if v.ends_at > now and v.starts_at < until] if found.schedule else []
    drawing = thumbnail(found.job, ahead, step, side, context.knowledge)
    return Entry(found, sentence, drawing, hours, rows[:most], max(len(rows) - most, 0), then[:_MOST_VISITS])


@router.get("/", name="morning")
def start_page(request: Request, context: Ctx) -> HTMLResponse:
    found = morning.all_jobs(context)
    now = context.clock.now()
    most = max(_ROWS // max(len(found), 1), _FEWEST_ROWS)
    entries = [_entry(context, m, now.astimezone(zone_of(m.job)), most) for m in found]
    first = found[0] if found else None
    values: dict[str, Any] = {"visit_line": visit_line, "entries": entries, "weather": _weather_line(first, now) if first else None}
    if first is not None:
        values |= {"zone": zone_of(first.job), "system": first.job.units, "status": first.status}
    return page(request, context, "morning.html", **values)


def _weather_line(first: JobMorning, now: datetime) -> dict[str, Any] | None:
    """Return today's weather in numbers, for the head of the page."""
    ahead = first.ahead
    if ahead is None:
        return None
    climate = ahead.windows.climate
    a = ahead.step_at(now)
    b = max(ahead.step_at(now.astimezone(ahead.zone).replace(hour=21, minute=0)), a + 1)
    return {
        "air_now_c": float(climate.air_temp_c[a]),
        "air_high_c": float(climate.air_temp_c[a:b].max()),
        "gust_m_s": float(climate.gust_m_s[a:b].max()),
        "rain_pct": float(climate.rain_probability_pct[a:b].max()),
    }


@router.get("/healthz")
def healthz(context: Ctx) -> dict[str, str]:
    jobs.list_jobs(context)
    return {"status": "ok"}

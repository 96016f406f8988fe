"""The start page: a card for each running job, made once and kept until its job, the forecast or the quarter-hour changes.

A job that is not computed yet shows its card as being computed; a job that fails shows its fault in its own card.
"""

import logging
import time
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import Request
from markupsafe import Markup

from amber_gable.core.planning.advice import next_run
from amber_gable.services.app.keeper import Keeper
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.jobs.jobs import JobHead
from amber_gable.services.outlook.outlook import Outlook, is_known
from amber_gable.services.outlook.weather.forecasts import ForecastStatus
from amber_gable.services.planning import morning
from amber_gable.services.planning.morning import JobMorning
from amber_gable.services.planning.overtaken import overtaken
from amber_gable.services.planning.stopline import met_by_rain
from amber_gable.store.models import Job
from amber_gable.web.sentences import next_step, visit_line
from amber_gable.web.templating import fragment, zone_of
from amber_gable.web.views.house import thumbnail
from amber_gable.web.views.plan.evenings import move_rows, work_rows
from amber_gable.web.views.plan.mending import NEWS, mended_of, mends_when
from amber_gable.web.views.windows.hours import MORNING_H, HoursRow, hours_of
from amber_gable.web.views.windows.sky import sky_of

log = logging.getLogger(__name__)
# Ribbons on the page, shared out among the jobs.
_ROWS = 14
_FEWEST_ROWS = 3
_MOST_VISITS = 8
# A page makes cards itself for so long; the rest fill in.
_MAKES_S = 0.5
_CARD_MIN = 15


@dataclass(frozen=True)
class JobCard:
    """One job on the start page.

    Parameters
    ----------
    html : Markup
    weather : dict or None
        Today's weather in numbers, for the head of the page.
    state : {"ready", "waiting", "fault"}
    """

    job_id: str
    name: str
    html: Markup
    weather: dict[str, Any] | None = None
    state: str = "ready"


@dataclass(frozen=True)
class StartPage:
    cards: list[JobCard]
    status: ForecastStatus | None
    zone: ZoneInfo | None
    units: str


def start_page(request: Request, scope: Scope) -> StartPage:
    """Return what the start page shows now; nobody waits for a job that is still to be computed."""
    heads = morning.running(scope)
    standing: dict[tuple[float, float, float], ForecastStatus] = {}
    cards, began = [], time.monotonic()
    most = max(_ROWS // max(len(heads), 1), _FEWEST_ROWS)
    for head in heads:
        place = (head.latitude_deg, head.longitude_deg, head.altitude_m)
        if place not in standing:
            standing[place] = morning.standing_of(scope, head)
        cards.append(card_of(request, scope, head, standing[place], most, time.monotonic() - began < _MAKES_S))
    first = heads[0] if heads else None
    status = next(iter(standing.values()), None)
    return StartPage(cards, status, ZoneInfo(first.time_zone) if first else None, first.units if first else "us")


def card_of(request: Request, scope: Scope, head: JobHead, status: ForecastStatus, most: int, makes: bool) -> JobCard:
    """Return a job's card: as it was kept, or made now, or the notice that it is being computed.

    Parameters
    ----------
    most : int
        Ribbons on it.
    makes : bool
        Whether there is time to make it now, where its hours are prepared.
    """
    mark = morning.mark_of(scope, head, status)
    minute = scope.clock.now().minute // _CARD_MIN
    key = ("card", mark, minute, most, str(request.base_url))
    try:
        kept: JobCard | None = scope.kept(key)
        if kept is not None:
            return kept
        keeper = scope.app.keeper
        if keeper is not None and keeper.is_alive and not (makes and _is_quick(scope, keeper, mark, status)):
            keeper.hurry(head.id)
            html = fragment(request, scope, "_morning_waits.html", head=head, most=most)
            return JobCard(head.id, head.name, html, state="waiting")
        return scope.cached(key, lambda: _made(request, scope, head, most, mark))
    except Exception as fault:
        # One job's fault never takes the page of all jobs with it.
        log.exception("the card of %s cannot be made", head.name)
        html = fragment(request, scope, "_morning_fault.html", head=head, fault=type(fault).__name__)
        return JobCard(head.id, head.name, html, state="fault")


def _is_quick(scope: Scope, keeper: Keeper, mark: tuple[object, ...], status: ForecastStatus) -> bool:
    """Return whether a card can be made at once: its job is prepared, or changed since and has its hours, as after a note."""
    job_id = str(mark[0])
    return keeper.is_ready(mark) or (keeper.was_ready(job_id) and is_known(scope, jobs.whole(scope, job_id), status))


def _made(request: Request, scope: Scope, head: JobHead, most: int, mark: tuple[object, ...]) -> JobCard:
    job = jobs.whole(scope, head.id)
    today = morning.job_morning(scope, job)
    if scope.app.keeper is not None and scope.app.keeper.is_alive:
        scope.app.keeper.take(scope, mark, today)
    now = scope.clock.now().astimezone(zone_of(job))
    values: dict[str, Any] = {"morning": today, "job": job, "sentence": next_step(today, now), "visit_line": visit_line}
    values["sky"] = sky_of(scope, job)
    values["crew"] = _crew_today(today, now)
    ahead = today.ahead
    if ahead is None:
        values |= {"drawing": thumbnail(job, None, 0, None, scope.knowledge), "hours": None}
        return JobCard(head.id, head.name, fragment(request, scope, "_morning_card.html", **values))
    values |= _hours(scope, today, ahead, now, most) | {
        "unsaid": work_rows(job, today.to_say, now),
        "day": "",
        "moves": _moved(job, today, now),
        "overtaken": overtaken(scope, today),
        "mended": mended_of(scope, today.schedule, now),
        "mends_when": mends_when(scope, now),
    }
    return JobCard(head.id, head.name, fragment(request, scope, "_morning_card.html", **values), _weather_line(ahead, now, head.name))


def _hours(scope: Scope, today: JobMorning, ahead: Outlook, now: datetime, most: int) -> dict[str, Any]:
    """Return the drawing, the ribbons and the coats of the coming hours."""
    job, step = today.job, ahead.step_at(now)
    start = now.replace(minute=0, second=0, microsecond=0) - timedelta(hours=1)
    hours = hours_of(scope, job, ahead, start, MORNING_H)
    # The surfaces that open next, those of the schedule before all others.
    visits = today.schedule.visits if today.schedule else []
    scheduled = [v.surface_id for v in visits if v.ends_at > now]

    def rank(row: HoursRow) -> tuple[int, int]:
        place = scheduled.index(row.surface_id) if row.surface_id in scheduled else len(scheduled)
        run = next_run(ahead.windows, ahead.surface_ids.index(row.surface_id), step)
        return place, run.first if run else 10**6

    rows = sorted(hours.rows, key=rank)
    chosen = today.visit.surface_id if today.visit else (ahead.surface_ids[today.run.surface] if today.run else None)
    side = next((e.id for e in job.building.elevations for s in e.surfaces if s.id == chosen), None)
    return {
        "drawing": thumbnail(job, ahead, step, side, scope.knowledge),
        "met": met_by_rain(scope, job, ahead),
        "hours": hours, "rows": rows[:most], "hidden": max(len(rows) - most, 0), "then": _coming(today, now),
    }  # fmt: skip


def _crew_today(today: JobMorning, now: datetime) -> list[str]:
    """Return who is planned on the job today, in the order of their work; whom the job's own list names where nobody is."""
    names = [name for one in today.work if one.stint.starts_at.astimezone(now.tzinfo).date() == now.date() for name in one.stint.painters]
    return list(dict.fromkeys(names)) if today.work else list(today.job.crew)


def _moved(job: Job, today: JobMorning, now: datetime) -> list[dict[str, str]]:
    """Return what the last planning moved, where it was made today or yesterday evening."""
    kept = today.schedule
    return move_rows(job, kept, now) if kept is not None and now - kept.made_at < NEWS else []


def _coming(today: JobMorning, now: datetime) -> list[dict[str, Any]]:
    """Return the pieces of work until tomorrow evening in words, those that no longer hold named."""
    until = now + timedelta(hours=MORNING_H)
    broken = {task: v.broken_by for v in (today.schedule.visits if today.schedule else []) if v.broken_by for task in v.tasks}
    coming = [one for one in today.work if one.is_ahead and one.stint.starts_at < until][:_MOST_VISITS]
    rows = work_rows(today.job, coming, now)
    return [row | {"broken_by": next((broken[i] for i in row["stint"].tasks if i in broken), "")} for row in rows]


def _weather_line(ahead: Outlook, now: datetime, place: str) -> dict[str, Any]:
    climate = ahead.windows.climate
    a = ahead.step_at(now)
    b = max(ahead.step_at(now.astimezone(ahead.zone).replace(hour=21, minute=0)), a + 1)
    return {
        "place": place,
        "air_now_c": float(climate.air_temp_c[a]),
        "air_high_c": float(climate.air_temp_c[a:b].max()),
        "gust_m_s": float(climate.gust_m_s[a:b].max()),
        "rain_pct": float(climate.rain_probability_pct[a:b].max()),
    }

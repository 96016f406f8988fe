"""Schedule: make it, see it on the calendar strip, take it along as a calendar file."""

from datetime import date, datetime
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from markupsafe import Markup

from amber_gable.core.windows.run import SAFE_FRAC
from amber_gable.drawing.hours.strip import CoatBlock, strip
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.exchange.icalendar import Entry, calendar
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.office.fleet import fleet_of
from amber_gable.services.outlook.outlook import Outlook, day_start
from amber_gable.services.planning import morning, schedules
from amber_gable.services.planning.kept import SavedSchedule
from amber_gable.services.planning.making import underway
from amber_gable.services.planning.making.crewplan import crew_names
from amber_gable.services.planning.making.permitted import permitted_starts
from amber_gable.services.planning.morning import JobMorning
from amber_gable.services.planning.overtaken import overtaken
from amber_gable.store.models import Job
from amber_gable.units import day_in
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.sentences import stint_line, visit_line
from amber_gable.web.templating import page, zone_of
from amber_gable.web.views.house import schedule_band
from amber_gable.web.views.plan.board import BY, days_of, job_board, sides_in
from amber_gable.web.views.plan.evenings import evening_cards, headline, legend, move_rows, record_rows, work_rows
from amber_gable.web.views.plan.mending import mended_of, mends_when
from amber_gable.web.views.windows.hours import DAYS, Hours, hours_of

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")
MOST_DAYS = 10


def _strips(schedule: SavedSchedule, ahead: Outlook, hours: Hours, job: Job) -> list[tuple[str, str, Markup]]:
    """Return (surface id, name, strip) for every painted surface, by its first visit."""
    by_surface: dict[str, list[CoatBlock]] = {}
    for visit in schedule.visits:
        block = CoatBlock(
            ahead.step_at(visit.starts_at), ahead.step_at(visit.ends_at), visit.coat, bool(visit.broken_by), bool(visit.held_by)
        )
        by_surface.setdefault(visit.surface_id, []).append(block)
    is_day = ahead.windows.climate.sky.is_day
    names = morning.names(job)
    order = [*by_surface, *(surface_id for surface_id in names if surface_id not in by_surface)]
    return [(i, names[i], Markup(strip(hours.axis, by_surface.get(i, []), is_day))) for i in order if i in names]


def _board(request: Request, scope: InScope, today: JobMorning, chosen: date, by: str, span: str, now: datetime) -> Markup:
    assert today.ahead is not None, "without weather there is no board"
    page_of = request.url_for("schedule", job_id=today.job.id)
    by = by if by in BY else "side"
    return job_board(
        today.job, today.work, today.ahead, days_of(chosen, span), by, crew_names(scope), fleet_of(scope), now,
        lambda day: f"{page_of}?day={day.isoformat()}&by={by}#day",
        f"{request.url_for('may_start', job_id=today.job.id)}?day={chosen.isoformat()}",
    )  # fmt: skip


def _chosen_day(text: str, now: datetime) -> date:
    return day_in(text) or now.date()


@router.get("/schedule", name="schedule")
def schedule_page(request: Request, scope: InScope, job: TheJob, day: str = "", by: str = "side", span: str = "day") -> HTMLResponse:
    today = morning.job_morning(scope, job)
    now = scope.clock.now().astimezone(zone_of(job))
    undoable = changes.undoable(scope, job.id)
    shared: dict[str, Any] = {
        "job": job,
        "stage": "schedule",
        "status": today.status,
        "sentence": headline(today, today.schedule, now),
        "schedule": today.schedule,
        "band": schedule_band(job, today.schedule, scope.knowledge),
        "undoable": undoable,
        "visit_line": visit_line,
        "rules": jobs.rules_of(job),
        "strips": [],
        "hours": None,
        "record": record_rows(scope, job, now),
        "unsaid": work_rows(job, today.to_say, now),
        "back": "schedule",
        "most": 100,
        "moves": move_rows(job, today.schedule, now),
        "overtaken": overtaken(scope, today),
        "mended": mended_of(scope, today.schedule, now, undoes=True),
        "mends_when": mends_when(scope, now),
        "making": underway.of_firm(scope),
    }
    if today.ahead is not None and today.standing is not None:
        chosen = _chosen_day(day, now)
        shared |= {
            "evenings": evening_cards(scope, job, today, today.ahead, chosen, now), "looks": legend(), "day": day,
            "day_head": f"{chosen:%A} {chosen.day} {chosen:%B}", "is_past_or_today": chosen <= now.date(),
            "day_board": _board(request, scope, today, chosen, by, span, now) if today.schedule else None,
            "by": by if by in BY else "side", "bys": BY, "span": span, "chosen": chosen,
            "rows": work_rows(job, today.work, now, chosen),
        }  # fmt: skip
    if today.ahead is not None and today.schedule is not None:
        start = day_start(today.ahead, now)
        # As many days as the plan has, five at least: short coats stay readable.
        last = max((v.ends_at for v in today.schedule.visits), default=start)
        days = min(max((last - start).days + 1, DAYS), MOST_DAYS)
        hours = hours_of(scope, job, today.ahead, start, 24 * days)
        shared |= {"hours": hours, "strips": _strips(today.schedule, today.ahead, hours, job)}
    return page(request, scope, "schedule/page.html", safe_frac=SAFE_FRAC, **shared)


@router.post("/schedule", name="make_schedule")
def make_schedule(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    if job.state != jobs.RUNNING:
        raise PlanError("Only running jobs are scheduled. Set this one running in the list of jobs.", "form")
    anew = form.raw("how") == "anew"
    making = underway.begin(scope, lambda own: schedules.make(own, job, anew=anew))
    # A few houses take a moment; with many the page shows how far it is.
    if making.wait(scope.settings.plan_waits_s) and making.fault is not None:
        raise making.fault
    if form.raw("back") == "crew" and not making.is_running:
        return sent(request.url_for("crew"))
    return sent(request.url_for("schedule", job_id=job.id))


@router.get("/schedule/making", name="planning")
def planning(request: Request, scope: InScope, job: TheJob) -> Response:
    """Return how far the planning is; where it has ended, what the page is loaded again for, or why there is no plan."""
    making = scope.app.plannings.get(scope.contractor_id)
    if making is None or (not making.is_running and making.fault is None):
        return HTMLResponse("", headers={"HX-Refresh": "true"})
    return page(request, scope, "schedule/_making.html", job=job, making=making, fault=underway.said_of(making))


@router.post("/schedule/making/stop", name="stop_planning")
def stop_planning(request: Request, scope: InScope, job: TheJob) -> Response:
    if (making := underway.of_firm(scope)) is not None:
        making.stop()
    return page(request, scope, "schedule/_making.html", job=job, making=making, fault="")


@router.get("/schedule/may", name="may_start")
def may_start(scope: InScope, job: TheJob, stint: str = "", day: str = "") -> JSONResponse:
    schedule = schedules.saved(scope, job)
    chosen = _chosen_day(day, scope.clock.now().astimezone(zone_of(job)))
    return JSONResponse(permitted_starts(scope, job, schedule.stints if schedule else (), stint, chosen))


@router.post("/schedule/put", name="put_stint")
def put_stint(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    starts_at = None
    if form.raw("how") != "free":
        day = form.raw("day_to")
        try:
            starts_at = datetime.fromisoformat(f"{day}T{form.raw('start').zfill(5)}").replace(tzinfo=zone_of(job))
        except ValueError as fault:
            raise FieldErrors({"start": "Give a day as 2026-09-17 and a start as 10:15."}) from fault
    form.done()
    schedules.put(scope, job, form.raw("stint"), starts_at)
    return sent(f"{request.url_for('schedule', job_id=job.id)}?day={form.raw('day_to') or form.raw('day')}#day")


@router.get("/schedule.ics", name="schedule_ics")
def schedule_ics(scope: InScope, job: TheJob) -> Response:
    sides = sides_in(job)
    entries = [
        Entry(
            uid=f"{job.id}-{stint.id.replace('|', '-')}",
            summary=f"{job.name}: {stint_line(stint, sides)}",
            description=f"{', '.join(stint.painters)}. {', '.join(stint.does)}. The forecast moves: look at the windows on the day.",
            location=f"{job.latitude_deg:.4f}, {job.longitude_deg:.4f}",
            starts_at=stint.starts_at,
            ends_at=stint.ends_at,
        )
        for stint in schedules.calendar_entries(scope, job)
    ]
    body = calendar(job.name, scope.clock.now(), entries)
    headers = {"content-disposition": 'attachment; filename="schedule.ics"'}
    return Response(body, media_type="text/calendar; charset=utf-8", headers=headers)

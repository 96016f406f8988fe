"""Windows: every surface's hours over five days, and one surface's reasons on request."""

from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response
from starlette.datastructures import UploadFile

from amber_gable.core.windows import STATE_NAMES
from amber_gable.core.windows.words import spoken
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.exchange.weatherfile import MOST_BYTES
from amber_gable.services import morning, outlook, weatherfiles
from amber_gable.services.outlook import day_start
from amber_gable.services.remedies import better
from amber_gable.web.deps import Ctx, TheJob
from amber_gable.web.forms import Typed
from amber_gable.web.routes.jobs import sent
from amber_gable.web.sentences import next_step
from amber_gable.web.templating import page, zone_of
from amber_gable.web.views.hours import DAYS, curves_of, hours_of, plan_of
from amber_gable.web.views.house import windows_band

router = APIRouter(prefix="/jobs/{job_id}")


@router.get("/windows", name="windows")
def windows(request: Request, context: Ctx, job: TheJob, surface: str = "") -> HTMLResponse:
    found = morning.job_morning(context, job)
    now = context.clock.now().astimezone(zone_of(job))
    shared: dict[str, Any] = {"job": job, "stage": "windows", "status": found.status, "sentence": next_step(found, now)}
    ahead = found.ahead
    if ahead is None:
        return page(request, context, "windows/none.html", **shared)
    hours = hours_of(context, job, ahead, day_start(ahead, now), 24 * DAYS)
    proposed = found.visit.surface_id if found.visit else ahead.surface_ids[found.run.surface if found.run else 0]
    selected = surface if ahead.row(surface) is not None else proposed
    return page(
        request,
        context,
        "windows/page.html",
        hours=hours,
        selected=selected,
        band=windows_band(job, ahead, ahead.step_at(now), selected, context.knowledge),
        plan=plan_of(job, ahead, day_start(ahead, now)),
        now_step=ahead.step_at(now) - hours.axis.first,
        file=weatherfiles.current(context, job),
        rain=[datetime.fromtimestamp(from_s, ahead.zone) for from_s, _ in outlook.seen_rain(context, job, now)],
        **shared,
    )


@router.post("/windows/weather", name="take_weather")
def take_weather(request: Request, context: Ctx, job: TheJob, form: Typed) -> Response:
    upload = form.values.get("file")
    if not isinstance(upload, UploadFile) or not upload.filename:
        raise FieldErrors({"file": "Choose a file: hourly weather as CSV or JSON."})
    try:
        weatherfiles.take(context, job, upload.file.read(MOST_BYTES + 1))
    except FieldErrors as fault:
        # Every fault by its row, at the one field there is.
        said = "; ".join(f"{where}: {what}" if where != "file" else what for where, what in fault.errors.items())
        raise FieldErrors({"file": said}) from fault
    return sent(request.url_for("windows", job_id=job.id))


@router.post("/windows/weather/forget", name="forget_weather")
def forget_weather(request: Request, context: Ctx, job: TheJob) -> Response:
    weatherfiles.forget(context, job)
    return sent(request.url_for("windows", job_id=job.id))


@router.get("/windows/{surface_id}", name="surface_hours")
def surface_hours(request: Request, context: Ctx, job: TheJob, surface_id: str, at: Annotated[float, Query(ge=0, le=4e9)]) -> HTMLResponse:
    status = outlook.status(context, job)
    ahead = outlook.outlook(context, job, status)
    row = ahead.row(surface_id)
    if row is None:
        raise NotFoundError("This surface is not painted (any more).")
    now = context.clock.now().astimezone(zone_of(job))
    hours = hours_of(context, job, ahead, day_start(ahead, now), 24 * DAYS)
    step = ahead.step_at(datetime.fromtimestamp(at, UTC))
    svg, levels = curves_of(ahead, hours.axis, row, job.units)  # type: ignore[arg-type]
    climate = ahead.windows.climate
    return page(
        request,
        context,
        "windows/_surface.html",
        job=job,
        surface_id=surface_id,
        name=next(r.name for r in hours.rows if r.surface_id == surface_id),
        moment=ahead.local(step),
        state=STATE_NAMES[int(ahead.windows.states[row, step])],
        reasons=[spoken(r, job.units) for r in ahead.windows.reasons(row, step)],  # type: ignore[arg-type]
        better=better(context, job, ahead, surface_id, step),
        states=STATE_NAMES,
        surface_temp_c=float(climate.surface_temp_c[row, step]),
        air_temp_c=float(climate.air_temp_c[step]),
        dew_point_c=float(climate.dew_point_c[step]),
        humidity_pct=float(climate.rel_humidity_pct[step]),
        curves=svg,
        levels=levels,
    )

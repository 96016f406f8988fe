"""Site log: log a reading, get the answer at once."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.core.windows import STATE_NAMES
from amber_gable.core.windows.readings import InstrumentReading as Measured
from amber_gable.core.windows.words import short_name, spoken
from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.log import sitelog
from amber_gable.services.log.alarms import alarms_of
from amber_gable.services.log.coats.fresh import FreshFilm, fresh_films
from amber_gable.services.log.disputes import disputes_of
from amber_gable.services.log.entries import lines_of, void_in
from amber_gable.services.log.standing import standing_work
from amber_gable.services.outlook import outlook, sightings
from amber_gable.services.outlook.weather import gauge
from amber_gable.services.outlook.weather.forecasts import ForecastStatus
from amber_gable.services.outlook.windowcard import chance_at, chances_of
from amber_gable.services.planning import morning
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page, zone_of
from amber_gable.web.views.house import film_words, log_band
from amber_gable.web.views.site.loglines import log_lines
from amber_gable.web.views.windows.sky import sky_of

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


def _shared(scope: Scope, job: Job, status: ForecastStatus) -> dict[str, Any]:
    readings = sitelog.latest(scope, job)
    zone = zone_of(job)
    today = scope.clock.now().astimezone(zone).date()
    verdicts: dict[str, bool] = {}
    gone = void_in(lines_of(scope, job))
    for reading in readings:
        if reading.id not in gone and reading.surface_id and reading.taken_at.astimezone(zone).date() == today:
            verdicts.setdefault(reading.surface_id, bool(reading.verdict["may_paint"]))
    undoable = changes.undoable(scope, job.id)
    tables, films = scope.knowledge.site_log, _films(scope, job, status)
    return {
        "job": job,
        "stage": "log",
        "days": log_lines(scope, job, scope.clock.now().astimezone(zone)),
        "disputes": disputes_of(scope, job),
        "kinds": {key: kind for key, kind in tables.kinds.items() if not kind.is_own and key != "injury"},
        "harms": tables.harms,
        "delays": tables.delays,
        "chosen": "",
        "has_gauge": bool(scope.settings.gauge_url),
        "gauge": gauge.paired(scope),
        "band": log_band(job, verdicts, scope.knowledge, films),
        "films": [(film.surface.name, film_words(film), film.stage) for film in films],
        "alarms": alarms_of(scope, job),
        "short_name": short_name,
        "undoable": undoable,
        "palms": sightings.PALMS,
        "felt": sightings.latest_palms(scope, job, scope.clock.now()),
        "sky": sky_of(scope, job),
        "sides": [e for e in job.building.elevations if any(s.is_painted for s in e.surfaces)],
        "painted": outlook.painted_surfaces(job),
    }


def _films(scope: Scope, job: Job, status: ForecastStatus) -> list[FreshFilm]:
    try:
        return fresh_films(scope, job, outlook.outlook(scope, job, status))
    except PlanError:
        return []


def _steps(scope: Scope, job: Job, status: ForecastStatus, surface_id: str) -> list[tuple[str, str]]:
    """Return the steps of a surface that are not over, as a list to choose from: also what nobody planned may be done."""
    try:
        ahead = outlook.outlook(scope, job, status)
    except PlanError:
        ahead = None
    standing = standing_work(scope, job, ahead)
    left = [t for t in standing.tasks if t.id.rpartition(":")[0] == surface_id and t.hours and not standing.states[t.id].state.is_over]
    return [(t.id.replace(" ", "_"), t.label) for t in left]


def _walls_now(scope: Scope, job: Job, status: ForecastStatus) -> list[tuple[str, str, str, float]]:
    """Return name, state, why and temperature of every wall, as the forecast has it now."""
    try:
        ahead = outlook.outlook(scope, job, status)
    except PlanError:
        return []
    step = ahead.step_at(scope.clock.now())
    names = morning.names(job)
    out = []
    for row, surface_id in enumerate(ahead.surface_ids):
        reasons = ahead.windows.reasons(row, step)
        state = STATE_NAMES[int(ahead.windows.states[row, step])]
        why = short_name(reasons[0].rule) if reasons else ""
        out.append((names[surface_id], state, why, float(ahead.windows.climate.surface_temp_c[row, step])))
    return out


@router.get("/log", name="log")
def log_page(request: Request, scope: InScope, job: TheJob, surface: str = "") -> HTMLResponse:
    status = outlook.status(scope, job)
    shared = _shared(scope, job, status) | {"status": status, "surfaces": outlook.painted_surfaces(job), "chosen": surface}
    shared["walls_now"] = _walls_now(scope, job, status)
    shared["steps"] = _steps(scope, job, status, surface) if surface else []
    return page(request, scope, "sitelog/page.html", answer=None, reasons=[], **shared)


@router.post("/log", name="log_reading")
def log_reading(request: Request, scope: InScope, job: TheJob, form: Typed) -> HTMLResponse:
    measured = Measured(
        air_temp_c=form.quantity("air_temp_c", "temperature", job.units),
        rel_humidity_pct=form.number("rel_humidity_pct", "Humidity in percent, 1 to 100."),
        surface_temp_c=form.quantity("surface_temp_c", "temperature", job.units),
    )
    beside = sitelog.Beside(
        moisture_pct=form.number("moisture_pct", "A number of per cent.") if form.raw("moisture_pct") else None,
        wind_m_s=form.quantity("wind", "speed", job.units) if form.raw("wind") else None,
        instrument=form.text("instrument"),
        is_by_gauge=form.flag("is_by_gauge"),
    )
    form.done(measured.check, beside.check)
    status = outlook.status(scope, job)
    ahead = outlook.outlook(scope, job, status)
    answer = sitelog.log_reading(scope, job, ahead, form.raw("surface_id"), measured, form.text("painter"), beside)
    reasons = [spoken(r, job.units) for r in answer.verdict.reasons]
    return page(request, scope, "sitelog/_answered.html", answer=answer, reasons=reasons, **_shared(scope, job, status))


@router.get("/log/chance", name="reading_chance")
def chance(request: Request, scope: InScope, job: TheJob, surface: str = "") -> HTMLResponse:
    """Answer with the chance that a coat begun now holds: it takes longer than the verdict, which does not wait for it."""
    ahead = outlook.outlook(scope, job, outlook.status(scope, job))
    frac = chance_at(chances_of(scope, job, ahead, surface), scope.clock.now()) if ahead.row(surface) is not None else None
    return page(request, scope, "sitelog/_chance.html", job=job, chance_frac=frac)


@router.post("/log/sides", name="found_on_sides")
def found_on_sides(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    """Write down what was felt on whole sides, or that they were washed."""
    sides, who, at = set(form.each("side")), form.text("painter"), form.raw("found_at")
    form.done()
    ids = [s.id for e in job.building.elevations if e.id in sides for s in e.surfaces if s.is_painted]
    if form.raw("what") == sightings.WASHED:
        sightings.wash(scope, job, ids, at, who)
    else:
        sightings.feel(scope, job, ids, form.raw("what"), at, who)
    return sent(request.url_for("log", job_id=job.id))


@router.post("/log/{reading_id}/back", name="take_reading_back")
def take_reading_back(request: Request, scope: InScope, job: TheJob, reading_id: str) -> Response:
    sitelog.take_back(scope, job, reading_id)
    return sent(request.url_for("log", job_id=job.id))

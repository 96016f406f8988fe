"""Jobs: the list, a new one, removing one, undo."""

import math
from functools import cache
from zoneinfo import available_timezones

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from amber_gable.core.geometry import Block, check_azimuth, check_block
from amber_gable.core.survey.places import place_of, zone_of
from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.jobs.jobs import JobFacts
from amber_gable.services.jobs.progress import stages_of
from amber_gable.units import System
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent, whole_in
from amber_gable.web.templating import page
from amber_gable.web.views.house import thumbnail
from amber_gable.web.views.survey.blockform import RIDGE_WORDS, ROOF_WORDS, fields_of, read_block

router = APIRouter(route_class=FormRoute)

DIRECTIONS = ("North", "North-east", "East", "South-east", "South", "South-west", "West", "North-west")


def facts_in(form: TypedForm) -> tuple[JobFacts, System]:
    """Return the facts of a job that a form holds, and its units; faults are left in the form."""
    typed_units = form.choice("units", ("us", "metric"), "Choose US or metric units.")
    # The lengths are read all the same, so that their faults are named too.
    system: System = "metric" if typed_units == "metric" else "us"
    year = "A year like 1931; leave it empty if nobody knows."
    latitude, longitude = _place(form)
    is_placed = abs(latitude) <= 90 and abs(longitude) <= 180
    zone = form.text("time_zone") or (zone_of(latitude, longitude) if is_placed else "UTC")
    facts = JobFacts(
        name=form.text("name", "Give the job a name, for instance the house or the street."),
        latitude_deg=latitude,
        longitude_deg=longitude,
        altitude_m=form.quantity("altitude_m", "length", system) if form.raw("altitude_m") else 0.0,
        time_zone=zone,
        units=system,
        year_built=form.optional_whole("year_built", 1600, 2100, year),
        country=form.raw("country") or "us",
        lead_before_year=form.optional_whole("lead_before_year", 1850, 2100, year),
        asbestos_before_year=form.optional_whole("asbestos_before_year", 1850, 2100, year),
        crew=list(dict.fromkeys(name for typed in form.each("crew") for part in typed.split(",") if (name := part.strip()))),
        is_heated=form.raw("is_heated") != "no",
        owner_name=form.text("owner_name"),
        owner_phone=form.text("owner_phone"),
        owner_address=form.text("owner_address"),
        owner_reach=form.text("owner_reach"),
        owner_remarks=form.long_text("owner_remarks", 1000),
    )
    return facts, system


def _place(form: TypedForm) -> tuple[float, float]:
    """Return latitude and longitude of a form: two fields, or both pasted into the first."""
    pasted = form.raw("latitude_deg")
    if pasted and not form.raw("longitude_deg"):
        try:
            return place_of(pasted)
        except PlanError as fault:
            form.errors["latitude_deg"] = str(fault)
            return math.nan, math.nan
    latitude = form.number("latitude_deg", "Latitude in degrees, like 43.80, north is positive; or paste both, as a map gives them.")
    return latitude, form.number("longitude_deg", "Longitude in degrees, like -91.25; west is negative.")


def read_new_job(scope: Scope, form: TypedForm) -> tuple[JobFacts, Block, float]:
    """Read the form of a job and its main block; every fault at once.

    Raises
    ------
    FieldErrors
    """
    facts, system = facts_in(form)
    kind = form.raw("kind") if form.raw("kind") in ("house", "deck") else "house"
    block = read_block(form, kind, system, name="House" if kind == "house" else "Deck")
    azimuth = form.direction("front_azimuth_deg")
    form.done(lambda: facts.check(scope.knowledge), lambda: check_block(block), lambda: check_azimuth(azimuth))
    return facts, block, azimuth


def read_facts(scope: Scope, form: TypedForm) -> tuple[JobFacts, float]:
    """Read the form of a job without its building; every fault at once.

    Raises
    ------
    FieldErrors
    """
    facts, _ = facts_in(form)
    azimuth = form.direction("front_azimuth_deg")
    form.done(lambda: facts.check(scope.knowledge), lambda: check_azimuth(azimuth))
    return facts, azimuth


@cache
def known_zones() -> list[str]:
    """Return the time zones a job may stand in, for the list to choose from; read once."""
    return sorted(z for z in available_timezones() if "/" in z and not z.startswith(("Etc/", "posix/", "right/")))


@router.get("/jobs", name="jobs")
def job_list(request: Request, scope: InScope, state: str = "", q: str = "") -> HTMLResponse:
    removed = changes.last_removed(scope)
    search = q.strip()
    listed = jobs.page_of(scope, state, search, whole_in(request.query_params.get("page", "1")) or 1)
    return page(request, scope, "jobs/list.html", listed=listed, state=state, search=search, removed=removed)


@router.get("/jobs/{job_id}/standing", name="job_standing")
def job_standing(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    """Asked for by each row of the list once it stands: a building takes longer to read than a row."""
    drawing = thumbnail(job, None, 0, None, scope.knowledge)
    return page(request, scope, "jobs/_standing.html", job=job, drawing=drawing, states=stages_of(scope, job))


@router.post("/jobs/{job_id}/state", name="set_job_state")
def set_job_state(request: Request, scope: InScope, job_id: str, form: Typed) -> Response:
    jobs.set_state(scope, job_id, form.raw("state"), form.version())
    if form.raw("back") == "schedule":
        return sent(request.url_for("schedule", job_id=job_id))
    # Back to the list as it was looked at.
    back = {key: value for key, value in (("state", form.raw("shown")), ("q", form.raw("q"))) if value}
    return sent(request.url_for("jobs").include_query_params(**back))


@router.get("/jobs/new", name="new_job")
def new_job(request: Request, scope: InScope) -> HTMLResponse:
    owner = scope.owner
    return page(
        request,
        scope,
        "jobs/new.html",
        zones=known_zones(),
        owner=owner,
        directions=DIRECTIONS,
        system=owner.units,
        building=None,
        countries=scope.knowledge.countries,
        places=jobs.page_of(scope).rows,
        block_fields=fields_of("house"),
        roofs=ROOF_WORDS[:-1],
        ridges=RIDGE_WORDS,
        kind="house",
        block=None,
    )


@router.post("/jobs", name="create_job")
def create_job(request: Request, scope: InScope, form: Typed) -> Response:
    return sent(request.url_for("survey", job_id=jobs.create(scope, *read_new_job(scope, form))))


@router.get("/jobs/{job_id}", name="job")
def job_page(request: Request, job: TheJob) -> RedirectResponse:
    return RedirectResponse(request.url_for("windows", job_id=job.id), 303)


@router.post("/jobs/{job_id}/remove", name="remove_job")
def remove_job(request: Request, scope: InScope, job_id: str) -> Response:
    jobs.remove(scope, job_id)
    return sent(request.url_for("jobs"))


@router.post("/undo/{set_id}", name="undo")
def undo(scope: InScope, set_id: str) -> Response:
    changes.undo(scope, set_id)
    return Response(status_code=200, headers={"HX-Refresh": "true"})

"""Jobs: the list, a new one, removing one, undo."""

from functools import cache
from typing import Annotated
from zoneinfo import available_timezones

from fastapi import APIRouter, Depends, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from amber_gable.core.geometry import GabledBlock
from amber_gable.services import changes, jobs
from amber_gable.services.jobs import JobFacts
from amber_gable.web.deps import Ctx, TheJob
from amber_gable.web.forms import Typed, TypedForm
from amber_gable.web.templating import page

router = APIRouter()

DIRECTIONS = (("0", "North"), ("45", "North-east"), ("90", "East"), ("135", "South-east"), ("180", "South"), ("225", "South-west"),
              ("270", "West"), ("315", "North-west"))  # fmt: skip


def sent(url: object) -> Response:
    """Return the answer that sends htmx to another page."""
    return Response(status_code=200, headers={"HX-Redirect": str(url)})


def read_facts(form: Typed) -> tuple[JobFacts, GabledBlock]:
    """Read the form of a job and its building; every fault at once.

    Raises
    ------
    FieldErrors
    """
    typed_units = form.choice("units", ("us", "metric"), "Choose US or metric units.")
    # The lengths are read all the same, so that their faults are named too.
    system = typed_units if typed_units in ("us", "metric") else "us"
    facts = JobFacts(
        name=form.text("name", "Give the job a name, for instance the house or the street."),
        latitude_deg=form.number("latitude_deg", "Latitude in degrees, like 43.80; north is positive."),
        longitude_deg=form.number("longitude_deg", "Longitude in degrees, like -91.25; west is negative."),
        altitude_m=form.quantity("altitude_m", "length", system) if form.raw("altitude_m") else 0.0,  # type: ignore[arg-type]
        time_zone=form.text("time_zone"),
        units=system,
        year_built=form.optional_whole("year_built", 1600, 2100, "A year like 1931; leave it empty if nobody knows."),
        crew=[name.strip() for name in form.text("crew").split(",") if name.strip()],
    )
    block = _block(form, system)
    form.done(facts.check, block.check)
    return facts, block


def _block(form: TypedForm, system: str) -> GabledBlock:
    lengths = {
        name: form.quantity(name, "length", system)  # type: ignore[arg-type]
        for name in ("length_m", "width_m", "eaves_height_m", "ridge_height_m")
    }
    for name in ("overhang_m", "plinth_height_m"):
        lengths[name] = form.quantity(name, "length", system) if form.raw(name) else 0.0  # type: ignore[arg-type]
    return GabledBlock(
        front_azimuth_deg=form.number("front_azimuth_deg", "Degrees from north: 0 north, 90 east, 180 south, 270 west."),
        front_is=form.choice("front_is", ("long side", "gable end"), "Say which side is the front."),  # type: ignore[arg-type]
        **lengths,
    )


Facts = Annotated[tuple[JobFacts, GabledBlock], Depends(read_facts)]


@cache
def known_zones() -> list[str]:
    """Return the time zones a job may stand in, for the list to choose from; read once."""
    return sorted(z for z in available_timezones() if "/" in z and not z.startswith(("Etc/", "posix/", "right/")))


@router.get("/jobs", name="jobs")
def job_list(request: Request, context: Ctx) -> HTMLResponse:
    with context.reading() as session:
        removed = changes.last_removed(session)
    return page(request, context, "jobs/list.html", jobs=jobs.list_jobs(context), removed=removed)


@router.get("/jobs/new", name="new_job")
def new_job(request: Request, context: Ctx) -> HTMLResponse:
    owner = jobs.contractor(context)
    return page(
        request, context, "jobs/new.html", zones=known_zones(), owner=owner, directions=DIRECTIONS, system=owner.units, building=None
    )


@router.post("/jobs", name="create_job")
def create_job(request: Request, context: Ctx, typed: Facts) -> Response:
    return sent(request.url_for("survey", job_id=jobs.create(context, *typed)))


@router.get("/jobs/{job_id}", name="job")
def job_page(request: Request, job: TheJob) -> RedirectResponse:
    return RedirectResponse(request.url_for("windows", job_id=job.id), 303)


@router.post("/jobs/{job_id}/remove", name="remove_job")
def remove_job(request: Request, context: Ctx, job_id: str) -> Response:
    jobs.remove(context, job_id)
    return sent(request.url_for("jobs"))


@router.post("/undo/{set_id}", name="undo")
def undo(context: Ctx, set_id: str) -> Response:
    changes.undo(context, set_id)
    return Response(status_code=200, headers={"HX-Refresh": "true"})

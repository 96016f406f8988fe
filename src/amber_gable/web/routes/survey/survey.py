"""Survey: the house and one elevation of it, its surfaces and divisions."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.core.geometry.alone import parse_corners
from amber_gable.core.geometry.profiles import SHAPES
from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import FieldErrors
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.building import surfaces
from amber_gable.services.survey.building.openings import elevation_in
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.units import QuantityError, System, parse
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent
from amber_gable.web.routes.jobs import DIRECTIONS, read_facts
from amber_gable.web.templating import page
from amber_gable.web.views.survey.surveyed import panel, panel_values

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


@router.get("/survey", name="survey")
def survey_page(request: Request, scope: InScope, job: TheJob, at: str = "", dims: bool = False) -> HTMLResponse:
    return page(request, scope, "survey/page.html", **panel_values(scope, job, at, with_dimensions=dims))


@router.get("/survey/facts", name="job_facts")
def facts_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    values: dict[str, Any] = {"job": job, "stage": "survey", "part": "facts", "building": job.building, "directions": DIRECTIONS}
    return page(request, scope, "survey/facts.html", countries=scope.knowledge.countries, owner=scope.owner, **values)


@router.post("/facts", name="update_facts")
def update_facts(request: Request, scope: InScope, job_id: str, form: Typed) -> Response:
    jobs.update_facts(scope, job_id, *read_facts(scope, form), version=form.version())
    return sent(request.url_for("survey", job_id=job_id))


def _surface_facts(form: TypedForm, knowledge: Knowledge, system: System) -> SurfaceFacts:
    profile = knowledge.profiles.get(form.raw("profile"))
    wanted = SHAPES[profile.shape].dimensions if profile else ()
    # Dimensions of a profile that was just left are not asked for again.
    typed = {name: form.dimension(name, system) for name in wanted if form.raw(name)}
    since = form.since("coated_year")
    if form.has("surface_name") and not form.raw("surface_name"):
        form.errors["surface_name"] = "A surface keeps a name: it stands on drawings and papers. Type another, or the old one again."
    lrv = "The light reflectance value is 0 (black) to 100 (white); the colour card gives it."
    return SurfaceFacts(
        substrate=form.raw("substrate"),
        lies_on=form.raw("lies_on"),
        profile=form.raw("profile"),
        texture=form.raw("texture"),
        lrv_pct=0.0 if form.raw("hex") and not form.raw("lrv_pct") else form.number("lrv_pct", lrv),
        is_painted=form.flag("is_painted"),
        profile_mm=typed,
        hex=form.raw("hex").lower() or None,
        coating=form.raw("coating") or "unknown",
        coated_year=since.year if since else None,
        coated_month=since.month if since else None,
        old_lrv_pct=form.number("old_lrv_pct", lrv) if form.raw("old_lrv_pct") else None,
        old_hex=form.raw("old_hex").lower() or None,
        name=form.text("surface_name"),
    )


@router.post("/surfaces/{surface_id}", name="update_surface")
def update_surface(request: Request, scope: InScope, job: TheJob, surface_id: str, form: Typed) -> HTMLResponse:
    facts = _surface_facts(form, scope.knowledge, job.units)
    form.done(lambda: facts.check(scope.knowledge, scope.clock.now().date()))
    was = next((s for e in job.building.elevations for s in e.surfaces if s.id == surface_id), None)
    facts, is_usual = surfaces.as_usual(facts, was, scope.knowledge)
    surfaces.update_surface(scope, job.id, surface_id, facts, form.version())
    return panel(request, scope, job.id, surface_id, "survey/_changed.html" if is_usual else "survey/_surface_saved.html")


@router.post("/surfaces/{surface_id}/alike", name="all_alike")
def all_alike(request: Request, scope: InScope, job_id: str, surface_id: str, form: Typed) -> HTMLResponse:
    surfaces.like_surface(scope, job_id, surface_id, of_block=form.raw("of") == "block")
    return panel(request, scope, job_id, surface_id, "survey/_changed.html")


def _points(form: TypedForm, system: System) -> tuple[tuple[float, float], ...]:
    """Return the line or ring that was drawn (metres) or typed (any unit)."""
    bare = "m" if form.raw("drawn") else "ft" if system == "us" else "m"
    try:
        corners = tuple((parse(x, "length", bare), parse(y, "length", bare)) for x, y in parse_corners(form.raw("points")))
    except QuantityError as fault:
        raise FieldErrors({"points": str(fault)}) from fault
    if not corners:
        raise FieldErrors({"points": "Draw a line on the elevation, or type its corners."})
    return corners


def _level_or_upright(form: TypedForm, system: System, width: float, top: float) -> tuple[tuple[float, float], ...]:
    at = form.quantity("divide_at_m", "length", system)
    form.done()
    return ((0.0, at), (width, at)) if form.raw("how") == "level" else ((at, 0.0), (at, top))


@router.post("/elevations/{elevation_id}/cuts", name="add_cut")
def add_cut(request: Request, scope: InScope, job: TheJob, elevation_id: str, form: Typed) -> HTMLResponse:
    if form.raw("points"):
        line = _points(form, job.units)
    else:
        elevation = elevation_in(job, elevation_id)
        width, top = max(x for x, _ in elevation.outline), max(y for _, y in elevation.outline)
        line = _level_or_upright(form, job.units, width, top)
    surfaces.add_cut(scope, job.id, elevation_id, line)
    return panel(request, scope, job.id, elevation_id, "survey/_changed.html")


@router.post("/elevations/{elevation_id}/cuts/{index}/remove", name="remove_cut")
def remove_cut(request: Request, scope: InScope, job_id: str, elevation_id: str, index: int) -> HTMLResponse:
    surfaces.remove_cut(scope, job_id, elevation_id, index)
    return panel(request, scope, job_id, elevation_id, "survey/_changed.html")

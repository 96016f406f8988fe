"""Survey: measurements, openings, surfaces."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services import changes, jobs, survey
from amber_gable.services.context import Context
from amber_gable.services.survey import OpeningFacts, SurfaceFacts
from amber_gable.services.takeoffs import net_area_m2
from amber_gable.store.models import Job
from amber_gable.web.deps import Ctx, TheJob
from amber_gable.web.forms import Typed, TypedForm
from amber_gable.web.routes.jobs import DIRECTIONS, Facts, sent
from amber_gable.web.templating import page
from amber_gable.web.views.house import survey_band

router = APIRouter(prefix="/jobs/{job_id}")


def _shared(context: Context, job: Job) -> dict[str, Any]:
    with context.reading() as session:
        undoable = changes.undo_label(session, job.id)
    return {
        "job": job,
        "stage": "survey",
        "knowledge": context.knowledge,
        "band": survey_band(job, context.knowledge),
        "undoable": undoable,
        "areas": {s.id: net_area_m2(s, e, context.knowledge) for e in job.building.elevations for s in e.surfaces},
    }


@router.get("/survey", name="survey")
def survey_page(request: Request, context: Ctx, job: TheJob) -> HTMLResponse:
    return page(request, context, "survey/page.html", directions=DIRECTIONS, building=job.building, **_shared(context, job))


@router.post("/facts", name="update_facts")
def update_facts(request: Request, context: Ctx, job_id: str, form: Typed, typed: Facts) -> Response:
    jobs.update_facts(context, job_id, *typed, version=form.version())
    return sent(request.url_for("survey", job_id=job_id))


def _opening(form: TypedForm, context: Context, system: str) -> OpeningFacts:
    facts = OpeningFacts(
        kind=form.choice("kind", context.knowledge.openings, "Choose what it is from the list."),
        width_m=form.quantity("width_m", "length", system),  # type: ignore[arg-type]
        height_m=form.quantity("height_m", "length", system),  # type: ignore[arg-type]
        left_m=form.quantity("left_m", "length", system),  # type: ignore[arg-type]
        sill_m=form.quantity("sill_m", "length", system),  # type: ignore[arg-type]
    )
    form.done()
    return facts


@router.post("/elevations/{elevation_id}/openings", name="add_opening")
def add_opening(request: Request, context: Ctx, job: TheJob, elevation_id: str, form: Typed) -> HTMLResponse:
    survey.add_opening(context, job.id, elevation_id, _opening(form, context, job.units))
    return _elevation_again(request, context, job.id, elevation_id)


@router.post("/openings/{opening_id}/remove", name="remove_opening")
def remove_opening(request: Request, context: Ctx, job_id: str, opening_id: str) -> HTMLResponse:
    return _elevation_again(request, context, job_id, survey.remove_opening(context, job_id, opening_id))


def _elevation_again(request: Request, context: Context, job_id: str, elevation_id: str) -> HTMLResponse:
    job = jobs.whole(context, job_id)
    elevation = next(e for e in job.building.elevations if e.id == elevation_id)
    return page(request, context, "survey/_changed.html", elevation=elevation, **_shared(context, job))


@router.post("/surfaces/{surface_id}", name="update_surface")
def update_surface(request: Request, context: Ctx, job: TheJob, surface_id: str, form: Typed) -> HTMLResponse:
    facts = SurfaceFacts(
        substrate=form.raw("substrate"),
        profile=form.raw("profile"),
        texture=form.raw("texture"),
        lrv_pct=form.number("lrv_pct", "The light reflectance value is 0 (black) to 100 (white); the colour card gives it."),
        is_painted=form.flag("is_painted"),
    )
    form.done(lambda: facts.check(context.knowledge))
    survey.update_surface(context, job.id, surface_id, facts, form.version())
    again = jobs.whole(context, job.id)
    surface = next(s for e in again.building.elevations for s in e.surfaces if s.id == surface_id)
    return page(request, context, "survey/_surface_saved.html", surface=surface, **_shared(context, again))

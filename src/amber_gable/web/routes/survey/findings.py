"""Findings with their photographs, and tests on site."""

import math

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, HTMLResponse, Response

from amber_gable.core.survey.site_tests import card_for
from amber_gable.errors import FieldErrors
from amber_gable.services.survey.building.openings import elevation_in
from amber_gable.services.survey.building.rows import inside, region_of
from amber_gable.services.survey.evidence import findings, photofiles, photos, site_tests
from amber_gable.services.survey.evidence.findings import WHOLE, FindingFacts
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm
from amber_gable.web.templating import page
from amber_gable.web.views.survey.surveyed import panel, panel_values

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


def _place(form: TypedForm, job: Job) -> tuple[float, float]:
    """Return where a finding lies on its elevation [m]: tapped there, or measured from the left and the foot of the chosen surface."""
    chosen = next((s for e in job.building.elevations for s in e.surfaces if s.id == form.raw("on_surface")), None)
    if chosen is not None and form.raw("extent") == WHOLE and not (form.raw("x_m") or form.raw("y_m")):
        return inside(region_of(chosen))
    x, y = form.quantity("x_m", "length", job.units), form.quantity("y_m", "length", job.units)
    left, foot = region_of(chosen).bounds[:2] if chosen is not None else (0.0, 0.0)
    return x + left, y + foot


def _facts(form: TypedForm, job: Job) -> FindingFacts:
    x_m, y_m = _place(form, job)
    facts = FindingFacts(
        kind=form.raw("kind"),
        extent=form.raw("extent"),
        x_m=x_m,
        y_m=y_m,
        depth_mm=form.si("depth_mm", "small length", "mm") if form.raw("depth_mm") else None,
        note=form.long_text("note", 1000),
    )
    form.done()
    return facts


@router.post("/elevations/{elevation_id}/findings", name="add_finding")
def add_finding(request: Request, scope: InScope, job: TheJob, elevation_id: str, form: Typed) -> HTMLResponse:
    facts = _facts(form, job)
    elevation_in(job, elevation_id)
    pictures = [photofiles.store(scope, content) for content in form.pictures(photos.MOST_BYTES)]
    findings.add_finding(scope, job.id, elevation_id, facts, pictures)
    return panel(request, scope, job.id, elevation_id, "survey/_found.html")


@router.post("/findings/{finding_id}", name="update_finding")
def update_finding(request: Request, scope: InScope, job: TheJob, finding_id: str, form: Typed) -> HTMLResponse:
    at = findings.update_finding(scope, job.id, finding_id, _facts(form, job), form.version())
    return panel(request, scope, job.id, at or "", "survey/_found.html")


@router.post("/findings/{finding_id}/photo", name="add_photo")
def add_photo(request: Request, scope: InScope, job: TheJob, finding_id: str, form: Typed) -> HTMLResponse:
    pictures = form.pictures(photos.MOST_BYTES)
    if not pictures:
        raise FieldErrors({"photo": "Choose a photograph first."})
    photos.add_photos(scope, job.id, pictures, finding_id)
    return panel(request, scope, job.id, form.raw("at"), "survey/_found.html")


@router.post("/findings/{finding_id}/acknowledged", name="acknowledge")
def acknowledge(request: Request, scope: InScope, job_id: str, finding_id: str, form: Typed) -> HTMLResponse:
    at = findings.acknowledge(scope, job_id, finding_id, form.text("acknowledged_by"), form.version())
    return panel(request, scope, job_id, at or "", "survey/_found.html")


@router.post("/findings/{finding_id}/remove", name="remove_finding")
def remove_finding(request: Request, scope: InScope, job_id: str, finding_id: str) -> HTMLResponse:
    at = findings.remove_finding(scope, job_id, finding_id)
    return panel(request, scope, job_id, at or "", "survey/_found.html")


@router.get("/photos/{photo_id}/{size}", name="photo")
def photo(scope: InScope, job_id: str, photo_id: str, size: str) -> Response:
    file = photos.shown_file(scope, job_id, photo_id, size)
    # The address names one picture for good.
    return FileResponse(file, media_type="image/jpeg", headers={"cache-control": "private, max-age=31536000, immutable"})


@router.post("/photos/{photo_id}/remove", name="remove_photo")
def remove_photo(request: Request, scope: InScope, job_id: str, photo_id: str, form: Typed) -> HTMLResponse:
    photos.remove_photo(scope, job_id, photo_id)
    return panel(request, scope, job_id, form.raw("at"), "survey/_found.html")


@router.get("/surfaces/{surface_id}/tests/{kind}", name="test_card")
def test_card(request: Request, scope: InScope, job: TheJob, surface_id: str, kind: str) -> HTMLResponse:
    return page(request, scope, "survey/_test_card.html", card=card_for(kind), others=site_tests.alike(job, surface_id),
                **panel_values(scope, job, surface_id))  # fmt: skip


@router.post("/surfaces/{surface_id}/tests/{kind}", name="record_test")
def record_test(request: Request, scope: InScope, job: TheJob, surface_id: str, kind: str, form: Typed) -> HTMLResponse:
    values: dict[str, object] = {}
    for field in card_for(kind).fields:
        if field.kind == "choice":
            values[field.name] = form.raw(field.name)
        elif field.kind == "numbers":
            values[field.name] = form.numbers(field.name)
        else:
            number = form.number(field.name, f"Write down a number, {field.low:g} to {field.high:g}.")
            values[field.name] = number if math.isfinite(number) else None
    form.done()
    verdict = site_tests.record(scope, job, surface_id, kind, values, form.text("painter"), form.each("also"))
    return panel(request, scope, job.id, surface_id, "survey/_tested.html", verdict=verdict, card=card_for(kind))


@router.post("/tests/{test_id}/remove", name="remove_test")
def remove_test(request: Request, scope: InScope, job_id: str, test_id: str, form: Typed) -> HTMLResponse:
    site_tests.remove(scope, job_id, test_id)
    return panel(request, scope, job_id, form.raw("at"), "survey/_found.html")

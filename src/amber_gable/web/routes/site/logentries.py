"""Entries of the site log beside work, readings and weather: deliveries, delays, extras, injuries, visitors, tools; their photographs."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.log import entries
from amber_gable.services.log.entries import Written
from amber_gable.services.survey.evidence.photos import MOST_BYTES
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")
_WORDS = ("batch", "count", "why", "harm", "person")


def _written(form: TypedForm) -> Written:
    details: dict[str, Any] = {name: form.text(name) for name in _WORDS if form.raw(name)}
    if form.raw("hours"):
        details["hours"] = form.number("hours", "A number of hours.")
    written = Written(form.raw("kind"), form.long_text("text", entries.MOST_LETTERS), details, entry=form.raw("entry"))
    form.done()
    return written


@router.post("/log/entries", name="add_log_entry")
def add_entry(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    entries.write(scope, job, _written(form))
    return sent(request.url_for("log", job_id=job.id))


@router.post("/log/entries/{log_id}/back", name="take_log_back")
def take_back(request: Request, scope: InScope, job: TheJob, log_id: str) -> Response:
    entries.take_back(scope, job, log_id)
    return sent(request.url_for("log", job_id=job.id))


@router.post("/log/photos", name="add_log_photos")
def add_photos(scope: InScope, job: TheJob, form: Typed) -> HTMLResponse:
    """Keep photographs of an entry, which may still be on its way itself."""
    entries.add_photos(scope, job, form.raw("entry"), form.pictures(MOST_BYTES))
    return HTMLResponse("kept")

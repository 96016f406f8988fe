"""The sky as somebody on site sees it: rain, that it has stopped or never came, thunder; one tap each, from wherever one stands."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook import skywatch
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


def note_sky(scope: Scope, job: Job, form: TypedForm) -> None:
    """Write down what a form says of the sky: its verb is "rain", "stopped", "away" or "thunder"; another says nothing."""
    verb, who = form.raw("verb"), form.text("painter")
    form.done()
    if verb == "rain":
        skywatch.see_rain(scope, job, form.raw("rain_at"), form.raw("rain_until"), form.raw("strength") or "light", who)
    elif verb == "stopped":
        skywatch.rain_stopped(scope, job, form.raw("stopped_at"), who)
    elif verb == "away":
        skywatch.rain_stayed_away(scope, job, who)
    elif verb == "thunder":
        skywatch.hear_thunder(scope, job, who)


@router.post("/sky", name="note_sky")
def note(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    note_sky(scope, job, form)
    if form.raw("back") == "today":
        return sent(request.url_for("today"))
    if form.raw("back") == "morning":
        return sent(request.url_for("morning"))
    return sent(request.url_for("log" if form.raw("back") == "log" else "windows", job_id=job.id))

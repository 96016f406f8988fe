"""The stop line: on a phone before the wall. How far, by when, then stop; and the rain that somebody sees."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import onwalls, stopline
from amber_gable.services.planning.stopline import JOINT_KINDS, StopQuestion
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent
from amber_gable.web.routes.plan.sky import note_sky
from amber_gable.web.templating import page
from amber_gable.web.views.windows.sky import sky_of
from amber_gable.web.views.windows.stopline import drawing_of, words_of

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


def _asked(scope: Scope, job: Job, surface_id: str, form: TypedForm) -> StopQuestion:
    """Return where work stands, as the address or the form says it; which coat, where neither does, by the schedule."""
    usual = rules_of(job).painters
    asked = StopQuestion(
        coat=form.optional_whole("coat", 1, 6, "First to sixth coat.") or onwalls.coat_due(scope, job, surface_id),
        painters=form.optional_whole("painters", 1, 20, "1 to 20 painters.") or usual,
        begins="right" if form.raw("begins") == "right" else "left",
        done_m=form.quantity("done_m", "length", job.units) if form.raw("done_m") else 0.0,
    )
    form.done()
    return asked


def _values(scope: Scope, job: Job, surface_id: str, asked: StopQuestion) -> dict[str, Any]:
    status = outlook.status(scope, job)
    stop = stopline.stop_for(scope, job, outlook.outlook(scope, job, status), surface_id, asked)
    undoable = changes.undoable(scope, job.id)
    return {
        "job": job, "stage": "windows", "stop": stop, "status": status, "undoable": undoable, "kinds": JOINT_KINDS,
        "said": words_of(stop, job.units), "drawing": drawing_of(stop, scope.knowledge, job.units),
        "surfaces": outlook.painted_surfaces(job), "sky": sky_of(scope, job),
    }  # fmt: skip


@router.get("/stop/{surface_id}", name="stop_line")
def stop_page(request: Request, scope: InScope, job: TheJob, surface_id: str) -> HTMLResponse:
    asked = _asked(scope, job, surface_id, TypedForm.of(request.query_params))
    return page(request, scope, "stop/page.html", **_values(scope, job, surface_id, asked))


@router.post("/stop/{surface_id}", name="move_stop")
def move_stop(request: Request, scope: InScope, job: TheJob, surface_id: str, form: Typed) -> HTMLResponse:
    """Answer with how far it is from where work stands now; only rain that is seen is written down."""
    asked = _asked(scope, job, surface_id, form)
    note_sky(scope, job, form)
    return page(request, scope, "stop/_answer.html", **_values(scope, job, surface_id, asked))


@router.post("/stop/{surface_id}/joints", name="add_joint")
def add_joint(request: Request, scope: InScope, job: TheJob, surface_id: str, form: Typed) -> Response:
    at = form.si("joint_at", "length", "ft" if job.units == "us" else "m")
    form.done()
    elevation_id = next((e.id for e in job.building.elevations for s in e.surfaces if s.id == surface_id), "")
    stopline.add_joint(scope, job, elevation_id, form.raw("joint_kind"), at)
    return sent(request.url_for("stop_line", job_id=job.id, surface_id=surface_id))

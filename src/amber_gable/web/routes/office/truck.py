"""The truck list: loaded in the morning, counted back in the evening, on a phone."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from amber_gable.services.app.scope import Scope
from amber_gable.services.office import truck
from amber_gable.services.takeoff.job import WORK_KINDS
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, whole_in
from amber_gable.web.routes.office.takeoff import stage_values
from amber_gable.web.templating import page, zone_of

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")
# From then on the list asks what comes home.
_HOMEWARD_H = 14


def _tasks(numbers: list[str]) -> list[str]:
    return [WORK_KINDS[i] for text in numbers if (i := whole_in(text)) is not None and i < len(WORK_KINDS)]


def _is_homeward(scope: Scope, job: Job, asked: str | None) -> bool:
    return asked == "home" if asked in ("home", "out") else scope.clock.now().astimezone(zone_of(job)).hour >= _HOMEWARD_H


@router.get("/truck", name="truck")
def truck_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    tasks = _tasks(request.query_params.getlist("work"))
    homeward = _is_homeward(scope, job, request.query_params.get("way"))
    load = truck.truck_list(scope, job, tasks)
    return page(request, scope, "takeoff/truck.html", truck=load, homeward=homeward, tasks=WORK_KINDS, **stage_values(scope, job, "truck"))


@router.post("/truck/{state}", name="mark_truck")
def mark_truck(request: Request, scope: InScope, job: TheJob, state: str, form: Typed) -> HTMLResponse:
    """Answer with the list as it is then; `fetched` is for what was left elsewhere."""
    key = form.text("key", "Which row?")
    form.done()
    if state == "fetched":
        truck.fetched(scope, job, key)
    else:
        truck.mark(scope, job, key, state)
    tasks = _tasks(form.raw("work").split())
    load = truck.truck_list(scope, job, tasks)
    return page(request, scope, "takeoff/_truck.html", job=job, truck=load, homeward=form.raw("way") == "home", tasks=WORK_KINDS)

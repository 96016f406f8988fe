"""The search for a better plan: begun, followed, stopped, what it found taken or left."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.planning import schedules
from amber_gable.services.planning.making import searching
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page
from amber_gable.web.views.plan.crew import all_planned
from amber_gable.web.views.plan.plancost import cost_values

router = APIRouter(route_class=FormRoute)


def _back(request: Request) -> Response:
    return sent(f"{request.url_for('crew')}#plan-cost")


@router.get("/crew/search", name="plan_search")
def plan_search(request: Request, scope: InScope) -> HTMLResponse:
    return page(request, scope, "crew/_search_part.html", **cost_values(scope, all_planned(scope)))


@router.post("/crew/search", name="begin_search")
def begin_search(request: Request, scope: InScope, form: Typed) -> Response:
    form.done()
    searching.begin_search(scope)
    return _back(request)


@router.post("/crew/search/stop", name="stop_search")
def stop_search(request: Request, scope: InScope, form: Typed) -> Response:
    form.done()
    searching.stop_search(scope)
    return _back(request)


@router.post("/crew/search/{search_id}", name="take_search")
def take_search(request: Request, scope: InScope, search_id: str, form: Typed) -> Response:
    if form.raw("how") == "leave":
        searching.settle(scope, search_id, is_taken=False)
    else:
        schedules.take_found(scope, search_id)
    return _back(request)

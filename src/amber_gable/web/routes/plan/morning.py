"""The start page: every running job, what to do next. And the health check."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from amber_gable.services.app.machine import health
from amber_gable.services.jobs import beginning, jobs
from amber_gable.services.planning import morning
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.templating import page
from amber_gable.web.views.plan.startpage import StartPage, card_of, start_page

router = APIRouter(route_class=FormRoute)


def _rendered(request: Request, scope: InScope, start: StartPage) -> HTMLResponse:
    weather = next((c.weather for c in start.cards if c.weather), None)
    values: dict[str, Any] = {"cards": start.cards, "weather": weather, "counts": jobs.counts(scope) if not start.cards else {}}
    if start.zone is not None:
        values |= {"zone": start.zone, "system": start.units, "status": start.status}
    return page(request, scope, "morning.html", **values)


@router.get("/", name="morning")
def morning_page(request: Request, scope: InScope) -> Response:
    if beginning.is_first_run(scope):
        return RedirectResponse(request.url_for("begin"), 303)
    return _rendered(request, scope, start_page(request, scope))


@router.get("/jobs/{job_id}/morning-card", name="morning_card")
def morning_card(request: Request, scope: InScope, job_id: str, most: Annotated[int, Query(ge=1, le=14)] = 3) -> HTMLResponse:
    head = jobs.head(scope, job_id)
    card = card_of(request, scope, head, morning.standing_of(scope, head, asks=False), most, makes=True)
    return page(request, scope, "_morning_one.html", card=card)


@router.get("/healthz")
def healthz(request: Request, scope: InScope, full: bool = False) -> JSONResponse:
    """Answer whether the start page of the morning works: it is made as for a user, and not sent."""

    def check() -> list[str]:
        start = start_page(request, scope)
        _rendered(request, scope, start)
        return [card.name for card in start.cards if card.state == "fault"]

    state = health.state(scope, check, full=full)
    return JSONResponse(state, 503 if state["status"] in ("failing", "starting") else 200)

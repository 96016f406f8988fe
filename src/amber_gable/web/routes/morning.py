"""The start page: every running job, what to do next. And the health check."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, JSONResponse

from amber_gable.services.app import health
from amber_gable.services.jobs import jobs
from amber_gable.services.planning import morning
from amber_gable.web.deps import Ctx
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.templating import page
from amber_gable.web.views.startpage import StartPage, card_of, start_page

router = APIRouter(route_class=FormRoute)


def _rendered(request: Request, context: Ctx, found: StartPage) -> HTMLResponse:
    weather = next((c.weather for c in found.cards if c.weather), None)
    values: dict[str, Any] = {"cards": found.cards, "weather": weather, "counts": jobs.counts(context) if not found.cards else {}}
    if found.zone is not None:
        values |= {"zone": found.zone, "system": found.units, "status": found.status}
    return page(request, context, "morning.html", **values)


@router.get("/", name="morning")
def morning_page(request: Request, context: Ctx) -> HTMLResponse:
    return _rendered(request, context, start_page(request, context))


@router.get("/jobs/{job_id}/morning-card", name="morning_card")
def morning_card(request: Request, context: Ctx, job_id: str, most: Annotated[int, Query(ge=1, le=14)] = 3) -> HTMLResponse:
    head = jobs.head(context, job_id)
    found = card_of(request, context, head, morning.standing_of(context, head, asks=False), most, makes=True)
    return page(request, context, "_morning_one.html", card=found)


@router.get("/healthz")
def healthz(request: Request, context: Ctx, full: bool = False) -> JSONResponse:
    """Answer whether the start page of the morning works: it is made as for a user, and not sent."""

    def check() -> list[str]:
        found = start_page(request, context)
        _rendered(request, context, found)
        return [card.name for card in found.cards if card.state == "fault"]

    state = health.state(context, check, full=full)
    return JSONResponse(state, 503 if state["status"] == "failing" else 200)

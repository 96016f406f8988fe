"""Bids: every enquiry, where it stands, what is to be followed up."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.takeoff import bids
from amber_gable.services.takeoff.bids import BidFacts
from amber_gable.web.deps import Ctx, TheJob
from amber_gable.web.formroute import FormRoute
from amber_gable.web.forms import Typed
from amber_gable.web.routes.jobs import sent
from amber_gable.web.templating import page

router = APIRouter(route_class=FormRoute)


@router.get("/bids", name="bids")
def bids_page(request: Request, context: Ctx) -> HTMLResponse:
    found = bids.standings(context)
    due = [s for s in found if s.days_left is not None and s.days_left <= 0]
    return page(request, context, "bids/list.html", found=found, due=due, won=bids.won_share(found), states=bids.STATES,
                open=[s for s in found if s.is_open])  # fmt: skip


@router.post("/jobs/{job_id}/bid", name="move_bid")
def move_bid(request: Request, context: Ctx, job: TheJob, form: Typed) -> Response:
    facts = BidFacts(form.raw("state"), form.raw("owner_name"), form.raw("contact"), form.raw("follow_up_on"), form.raw("reason"))
    bids.move(context, job, facts, form.version())
    return sent(request.url_for("bids"))

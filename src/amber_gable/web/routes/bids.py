"""Bids: every enquiry, where it stands, what is to be followed up."""

import logging
import time
from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.app.context import Context
from amber_gable.services.jobs import jobs
from amber_gable.services.office import bids
from amber_gable.services.office.bids import BidFacts, Figure, Standing
from amber_gable.web.deps import Ctx, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, whole_in
from amber_gable.web.routes.jobs import sent
from amber_gable.web.templating import page

router = APIRouter(route_class=FormRoute)
log = logging.getLogger(__name__)
# Prices are reckoned with the page for so long; the rest come by themselves.
_RECKONS_S = 0.5


@dataclass(frozen=True)
class Row:
    """A bid with its price; without one while it is being reckoned, or where that fails."""

    standing: Standing
    figure: Figure | None
    fault: str = ""


def _row(context: Context, standing: Standing, reckons: bool) -> Row:
    try:
        figure = context.cache.peek(bids.figure_key(context, standing.head))
        return Row(standing, bids.figure_of(context, standing.head) if figure is None and reckons else figure)
    except Exception as fault:
        # One job's fault never takes the page of all bids with it.
        log.exception("the price of %s cannot be reckoned", standing.head.name)
        return Row(standing, None, type(fault).__name__)


@router.get("/bids", name="bids")
def bids_page(request: Request, context: Ctx, state: str = "open", q: str = "") -> HTMLResponse:
    found = bids.page_of(context, state, q.strip(), whole_in(request.query_params.get("page", "1")) or 1)
    began, rows = time.monotonic(), []
    for standing in found.rows:
        rows.append(_row(context, standing, time.monotonic() - began < _RECKONS_S))
    values: dict[str, Any] = {"found": found, "rows": rows, "states": bids.STATES, "shown": bids.SHOWN, "state": state, "search": q.strip()}
    total = sum(r.figure.likely for r in rows if r.figure and r.standing.is_open)
    return page(request, context, "bids/list.html", total=total, **values)


@router.get("/jobs/{job_id}/bid-price", name="bid_price")
def bid_price(request: Request, context: Ctx, job_id: str) -> HTMLResponse:
    """Answer with the price of one bid, reckoned now."""
    head = jobs.head(context, job_id)
    standing = next((s for s in bids.standings(context) if s.head.id == job_id), None)
    row = Row(standing, bids.figure_of(context, head)) if standing else None
    return page(request, context, "bids/_price.html", row=row)


@router.post("/jobs/{job_id}/bid", name="move_bid")
def move_bid(request: Request, context: Ctx, job: TheJob, form: Typed) -> Response:
    facts = BidFacts(form.raw("state"), form.raw("owner_name"), form.raw("contact"), form.raw("follow_up_on"), form.raw("reason"))
    bids.move(context, job, facts, form.version())
    return sent(request.url_for("bids"))

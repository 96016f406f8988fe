"""Bids: every enquiry, where it stands, what is to be followed up."""

import logging
import time
from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.office import bids
from amber_gable.services.office.bids import BidFacts, BidFigure, BidStanding
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent, whole_in
from amber_gable.web.templating import page

router = APIRouter(route_class=FormRoute)
log = logging.getLogger(__name__)
# Prices are reckoned with the page for so long; the rest come by themselves.
_RECKONS_S = 0.5


@dataclass(frozen=True)
class BidRow:
    """A bid with its price; without one while it is being reckoned, or where that fails."""

    standing: BidStanding
    figure: BidFigure | None
    fault: str = ""


def _row(scope: Scope, standing: BidStanding, reckons: bool) -> BidRow:
    try:
        figure = scope.kept(bids.figure_key(scope, standing.head))
        return BidRow(standing, bids.figure_of(scope, standing.head) if figure is None and reckons else figure)
    except Exception as fault:
        # One job's fault never takes the page of all bids with it.
        log.exception("the price of %s cannot be reckoned", standing.head.name)
        return BidRow(standing, None, type(fault).__name__)


@router.get("/bids", name="bids")
def bids_page(request: Request, scope: InScope, state: str = "open", q: str = "") -> HTMLResponse:
    listed = bids.page_of(scope, state, q.strip(), whole_in(request.query_params.get("page", "1")) or 1)
    began, rows = time.monotonic(), []
    for standing in listed.rows:
        rows.append(_row(scope, standing, time.monotonic() - began < _RECKONS_S))
    values: dict[str, Any] = {
        "listed": listed,
        "rows": rows,
        "states": bids.STATES,
        "shown": bids.SHOWN,
        "state": state,
        "search": q.strip(),
    }
    total = sum(r.figure.likely for r in rows if r.figure and r.standing.is_open)
    return page(request, scope, "bids/list.html", total=total, **values)


@router.get("/jobs/{job_id}/bid-price", name="bid_price")
def bid_price(request: Request, scope: InScope, job_id: str) -> HTMLResponse:
    """Answer with the price of one bid, reckoned now."""
    head = jobs.head(scope, job_id)
    standing = next((s for s in bids.standings(scope) if s.head.id == job_id), None)
    row = BidRow(standing, bids.figure_of(scope, head)) if standing else None
    return page(request, scope, "bids/_price.html", row=row)


@router.post("/jobs/{job_id}/bid", name="move_bid")
def move_bid(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    facts = BidFacts(form.raw("state"), form.raw("owner_name"), form.raw("contact"), form.raw("follow_up_on"), form.raw("reason"))
    bids.move(scope, job, facts, form.version())
    return sent(request.url_for("bids"))

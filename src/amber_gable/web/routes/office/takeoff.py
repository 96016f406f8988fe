"""Take-off: what to buy, what to load, how to reach it, how long it takes, what it costs."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.core.takeoff.days import day_by_day
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.office import stock
from amber_gable.services.office.extras import extras_of, unsigned
from amber_gable.services.office.stock import StockFacts
from amber_gable.services.planning.schedules import first_day
from amber_gable.services.takeoff.access import reached
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.services.takeoff.spray import spray_plan
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page
from amber_gable.web.views.house import ladder_band, takeoff_band
from amber_gable.web.views.office import takeoff as words

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


def stage_values(scope: Scope, job: Job, part: str) -> dict[str, Any]:
    """Return what every page of this stage has."""
    undoable = changes.undoable(scope, job.id)
    return {
        "job": job, "stage": "takeoff", "part": part, "knowledge": scope.knowledge, "undoable": undoable,
        "takeoff": job_takeoff(scope, job), "rules": rules_of(job), "words": words,
        "to_sign": len(unsigned(extras_of(scope, job.id))),
    }  # fmt: skip


@router.get("/takeoff", name="takeoff")
def takeoff(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    values = stage_values(scope, job, "paint")
    band = takeoff_band(job, values["takeoff"], scope.knowledge)
    return page(request, scope, "takeoff/page.html", band=band, stock=stock.rows(scope), **values)


@router.get("/takeoff/sundries", name="takeoff_sundries")
def sundries(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    return page(request, scope, "takeoff/sundries.html", **stage_values(scope, job, "sundries"))


@router.get("/takeoff/spray", name="takeoff_spray")
def spray(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    values = stage_values(scope, job, "spray")
    return page(request, scope, "takeoff/spray.html", plan=spray_plan(job, values["takeoff"], scope.knowledge), **values)


@router.get("/takeoff/ways", name="takeoff_ways")
def ways(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    values = stage_values(scope, job, "ways")
    reach = reached(scope, job, [p.spec for p in values["takeoff"].parts], first_day(scope, job))
    band = ladder_band(job, reach.plans, scope.knowledge)
    return page(request, scope, "takeoff/ways.html", reached=reach, band=band, **values)


@router.get("/takeoff/hours", name="takeoff_hours")
def hours(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    values = stage_values(scope, job, "hours")
    takeoff = values["takeoff"]
    days = day_by_day(takeoff.hours_by_kind, takeoff.days, scope.knowledge.practice)
    return page(request, scope, "takeoff/hours.html", by_day=days, chart=words.days_chart(days, takeoff), **values)


@router.post("/takeoff/stock", name="add_stock")
def add_stock(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    system = job.units
    litres = form.si("litres", "volume", "gal" if system == "us" else "L")
    facts = StockFacts(form.raw("product"), form.raw("colour").lower(), litres, form.text("batch"), form.text("place"))
    form.done(lambda: facts.check(list(scope.knowledge.products)))
    stock.add(scope, facts, job.id)
    return sent(f"{request.url_for('takeoff', job_id=job.id)}#stock")


@router.post("/takeoff/stock/{row_id}/{verb}", name="stock_verb")
def stock_verb(request: Request, scope: InScope, job_id: str, row_id: str, verb: str) -> Response:
    if verb == "remove":
        stock.remove(scope, row_id, job_id)
    else:
        stock.keep_for(scope, row_id, job_id, verb == "keep")
    return sent(f"{request.url_for('takeoff', job_id=job_id)}#stock")

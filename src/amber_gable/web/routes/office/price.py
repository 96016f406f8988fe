"""Price: what the owner pays and how sure that is, alternatives, change orders, extras, the contractor's own rates."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.core.price.range import nine_in_ten
from amber_gable.services.office import extras, revisions
from amber_gable.services.office.extras import ExtraFacts
from amber_gable.services.office.rates import change_prices, own_figures
from amber_gable.services.takeoff import alternatives, assumed, ranges
from amber_gable.services.takeoff.job import under_rules
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.routes.office.takeoff import stage_values
from amber_gable.web.templating import page, writer
from amber_gable.web.views.office import price as said
from amber_gable.web.views.office.rates import groups_of, read_rates

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


@router.get("/price", name="price")
def price_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    values = stage_values(scope, job, "price")
    price_range = ranges.range_of(scope, job)
    return page(
        request, scope, "price/page.html", range=price_range, spread=said.spread_of(price_range, writer(scope)), said=said,
        simulated=nine_in_ten(price_range.likely, price_range.drivers),
        rests_on=assumed.rests_on(scope, job, values["takeoff"]), warranties=said.warranties(values["takeoff"], scope.knowledge),
        lead_safe=under_rules(values["takeoff"], scope.knowledge),
        besides=extras.signed(extras.extras_of(scope, job.id), scope.knowledge), **values,
    )  # fmt: skip


@router.get("/price/alternatives", name="alternatives")
def alternatives_fragment(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    """Asked for by the page once it stands: seven take-offs take longer than one."""
    return page(request, scope, "price/_alternatives.html", job=job, alternatives=alternatives.alternatives(scope, job), said=said)


@router.post("/price/alternatives/{key}", name="take_alternative")
def take_alternative(request: Request, scope: InScope, job: TheJob, key: str) -> Response:
    alternatives.take(scope, job, key)
    return sent(request.url_for("price", job_id=job.id))


@router.get("/price/changes", name="price_changes")
def changes_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    rows = extras.extras_of(scope, job.id)
    return page(
        request, scope, "price/changes.html", standing=revisions.standing(scope, job), extras=rows, unsigned=extras.unsigned(rows),
        besides=extras.signed(rows, scope.knowledge), said=said, **stage_values(scope, job, "changes"),
    )  # fmt: skip


@router.post("/price/changes", name="agree")
def agree(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    revisions.agree(scope, job, form.text("signed_by"), form.long_text("note", 2000))
    return sent(request.url_for("price_changes", job_id=job.id))


@router.post("/price/extras", name="add_extra")
def add_extra(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    kind = form.raw("unit_price")
    unit = scope.knowledge.unit_prices[kind].unit if kind in scope.knowledge.unit_prices else ""
    bare = "ft" if job.units == "us" else "m"
    quantity = form.si("quantity", "length", bare) if unit == "m" else form.number("quantity", "How many?") if kind else 0.0
    hours = form.number("hours", "Painter-hours, like 2.5.") if form.raw("hours") or not kind else 0.0
    facts = ExtraFacts(form.long_text("what", 500), kind, quantity, hours)
    form.done(lambda: facts.check(scope.knowledge))
    extras.add(scope, job.id, facts)
    return sent(f"{request.url_for('price_changes', job_id=job.id)}#extras")


@router.post("/price/extras/{extra_id}/sign", name="sign_extra")
def sign_extra(request: Request, scope: InScope, job_id: str, extra_id: str, form: Typed) -> Response:
    extras.sign(scope, job_id, extra_id, form.text("signed_by"), form.version())
    return sent(f"{request.url_for('price_changes', job_id=job_id)}#extras")


@router.post("/price/extras/{extra_id}/remove", name="remove_extra")
def remove_extra(request: Request, scope: InScope, job_id: str, extra_id: str) -> Response:
    extras.remove(scope, job_id, extra_id)
    return sent(f"{request.url_for('price_changes', job_id=job_id)}#extras")


@router.get("/rates", name="rates")
def rates_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    groups = groups_of(own_figures(scope), job.units, scope.knowledge.money)
    return page(
        request,
        scope,
        "price/rates.html",
        groups=groups,
        owner_version=scope.owner.version,
        **stage_values(scope, job, "rates"),
    )


@router.post("/rates", name="change_rates")
def change_rates(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    change_prices(scope, read_rates(form, own_figures(scope), job.units), job.id, form.version())
    return sent(request.url_for("rates", job_id=job.id))

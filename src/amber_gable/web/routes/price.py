"""Price: what the owner pays and how sure that is, alternatives, change orders, extras, the contractor's own rates."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.jobs.jobs import contractor
from amber_gable.services.office import extras, revisions
from amber_gable.services.office.extras import ExtraFacts
from amber_gable.services.office.rates import change_prices, own_figures
from amber_gable.services.takeoff import alternatives
from amber_gable.web.deps import Ctx, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed
from amber_gable.web.routes.jobs import sent
from amber_gable.web.routes.takeoff import stage_values
from amber_gable.web.templating import page, writer
from amber_gable.web.views import price as said
from amber_gable.web.views.rates import groups_of, read_rates

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


@router.get("/price", name="price")
def price_page(request: Request, context: Ctx, job: TheJob) -> HTMLResponse:
    values = stage_values(context, job, "price")
    found = alternatives.range_of(context, job)
    return page(
        request, context, "price/page.html", range=found, spread=said.spread_of(found, writer(context)), said=said,
        warranties=said.warranties(values["takeoff"], context.knowledge),
        besides=extras.signed(extras.extras_of(context, job.id), context.knowledge), **values,
    )  # fmt: skip


@router.get("/price/alternatives", name="alternatives")
def alternatives_fragment(request: Request, context: Ctx, job: TheJob) -> HTMLResponse:
    """Asked for by the page once it stands: seven take-offs take longer than one."""
    return page(request, context, "price/_alternatives.html", job=job, found=alternatives.alternatives(context, job), said=said)


@router.post("/price/alternatives/{key}", name="take_alternative")
def take_alternative(request: Request, context: Ctx, job: TheJob, key: str) -> Response:
    alternatives.take(context, job, key)
    return sent(request.url_for("price", job_id=job.id))


@router.get("/price/changes", name="price_changes")
def changes_page(request: Request, context: Ctx, job: TheJob) -> HTMLResponse:
    rows = extras.extras_of(context, job.id)
    return page(
        request, context, "price/changes.html", standing=revisions.standing(context, job), extras=rows, unsigned=extras.unsigned(rows),
        besides=extras.signed(rows, context.knowledge), said=said, **stage_values(context, job, "changes"),
    )  # fmt: skip


@router.post("/price/changes", name="agree")
def agree(request: Request, context: Ctx, job: TheJob, form: Typed) -> Response:
    revisions.agree(context, job, form.text("signed_by"), form.long_text("note", 2000))
    return sent(request.url_for("price_changes", job_id=job.id))


@router.post("/price/extras", name="add_extra")
def add_extra(request: Request, context: Ctx, job: TheJob, form: Typed) -> Response:
    kind = form.raw("unit_price")
    unit = context.knowledge.unit_prices[kind].unit if kind in context.knowledge.unit_prices else ""
    bare = "ft" if job.units == "us" else "m"
    quantity = form.si("quantity", "length", bare) if unit == "m" else form.number("quantity", "How many?") if kind else 0.0
    hours = form.number("hours", "Painter-hours, like 2.5.") if form.raw("hours") or not kind else 0.0
    facts = ExtraFacts(form.long_text("what", 500), kind, quantity, hours)
    form.done(lambda: facts.check(context.knowledge))
    extras.add(context, job.id, facts)
    return sent(f"{request.url_for('price_changes', job_id=job.id)}#extras")


@router.post("/price/extras/{extra_id}/sign", name="sign_extra")
def sign_extra(request: Request, context: Ctx, job_id: str, extra_id: str, form: Typed) -> Response:
    extras.sign(context, job_id, extra_id, form.text("signed_by"), form.version())
    return sent(f"{request.url_for('price_changes', job_id=job_id)}#extras")


@router.post("/price/extras/{extra_id}/remove", name="remove_extra")
def remove_extra(request: Request, context: Ctx, job_id: str, extra_id: str) -> Response:
    extras.remove(context, job_id, extra_id)
    return sent(f"{request.url_for('price_changes', job_id=job_id)}#extras")


@router.get("/rates", name="rates")
def rates_page(request: Request, context: Ctx, job: TheJob) -> HTMLResponse:
    groups = groups_of(own_figures(context), job.units, context.knowledge.money)  # type: ignore[arg-type]
    return page(
        request,
        context,
        "price/rates.html",
        groups=groups,
        owner_version=contractor(context).version,
        **stage_values(context, job, "rates"),
    )


@router.post("/rates", name="change_rates")
def change_rates(request: Request, context: Ctx, job: TheJob, form: Typed) -> Response:
    change_prices(context, read_rates(form, own_figures(context), job.units), job.id, form.version())  # type: ignore[arg-type]
    return sent(request.url_for("rates", job_id=job.id))

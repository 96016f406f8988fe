"""Systems, first form: the product and the house rules of a job."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services import changes, jobs
from amber_gable.services.rules import JobRules, house_rules, product_of
from amber_gable.web.deps import Ctx, TheJob
from amber_gable.web.forms import Typed
from amber_gable.web.routes.jobs import sent
from amber_gable.web.templating import page
from amber_gable.web.views.house import survey_band

router = APIRouter(prefix="/jobs/{job_id}")


@router.get("/systems", name="systems")
def systems(request: Request, context: Ctx, job: TheJob) -> HTMLResponse:
    rules = jobs.rules_of(job)
    with context.reading() as session:
        undoable = changes.undo_label(session, job.id)
    survey = str(request.url_for("survey", job_id=job.id))
    return page(
        request,
        context,
        "systems/page.html",
        job=job,
        stage="systems",
        rules=rules,
        product=product_of(rules, context.knowledge),
        limits=house_rules(rules, context.knowledge),
        knowledge=context.knowledge,
        band=survey_band(job, context.knowledge, [], lambda surface_id: f"{survey}?at={surface_id}"),
        undoable=undoable,
    )


@router.post("/rules", name="update_rules")
def update_rules(request: Request, context: Ctx, job: TheJob, form: Typed) -> Response:
    values: dict[str, Any] = {
        "product": form.choice("product", context.knowledge.products, "Choose a product from the list."),
        "method": form.choice("method", context.knowledge.methods, "Choose a method from the list."),
        "access": form.choice("access", context.knowledge.access, "Choose an access from the list."),
        "sun_rule": form.choice("sun_rule", ("shade", "surface-cap"), "Choose how you treat the sun."),
        "max_rain_probability_pct": form.number("max_rain_probability_pct", "A chance of 0 to 100 %."),
        "coats": form.whole("coats", 1, 4, "One to four coats."),
        "painters": form.whole("painters", 1, 20, "1 to 20 painters."),
        "day_starts_h": form.whole("day_starts_h", 0, 23, "A full hour, 0 to 23."),
        "day_ends_h": form.whole("day_ends_h", 1, 24, "A full hour, 1 to 24."),
        "works_sundays": form.flag("works_sundays"),
    }
    if not 0 <= values["max_rain_probability_pct"] <= 100:
        form.errors["max_rain_probability_pct"] = "A chance of 0 to 100 %."
    form.done()
    jobs.update_rules(context, job.id, JobRules(**values).model_dump(), form.version())
    return sent(request.url_for("systems", job_id=job.id))

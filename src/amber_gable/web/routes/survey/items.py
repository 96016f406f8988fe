"""Trim by the run, posts and fittings by the piece."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.core.geometry.roofs import WIDTH_FROM
from amber_gable.services.changes import changes
from amber_gable.services.survey.building import items
from amber_gable.services.survey.building.areas import item_areas_of
from amber_gable.services.survey.building.items import ItemFacts
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


@router.get("/survey/items", name="items")
def items_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    kinds = scope.knowledge.items
    areas = item_areas_of(job, scope.knowledge)
    undoable = changes.undoable(scope, job.id)
    return page(
        request, scope, "survey/items.html", job=job, stage="survey", part="items", kinds=kinds, areas=areas, undoable=undoable,
        width_from=WIDTH_FROM,
    )  # fmt: skip


@router.post("/items", name="add_item")
def add_item(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    kind = form.choice("kind", scope.knowledge.items, "Choose what it is from the list.")
    facts = ItemFacts(
        kind=kind,
        length_m=form.quantity("length_m", "length", job.units),
        girth_m=form.quantity("girth_m", "length", job.units),
        count=form.optional_whole("count", 1, 500, "Between 1 and 500 pieces.") or 1,
        name=form.text("item_name"),
    )
    form.done(lambda: facts.check(scope.knowledge))
    items.add_item(scope, job.id, facts)
    return sent(request.url_for("items", job_id=job.id))


@router.post("/items/{item_id}", name="update_item")
def update_item(request: Request, scope: InScope, job: TheJob, item_id: str, form: Typed) -> Response:
    girth = form.quantity("girth_m", "length", job.units)
    form.done()
    items.update_item(scope, job.id, item_id, girth, form.flag("is_painted"), form.version())
    return sent(request.url_for("items", job_id=job.id))


@router.post("/items/{item_id}/remove", name="remove_item")
def remove_item(request: Request, scope: InScope, job_id: str, item_id: str) -> Response:
    items.remove_item(scope, job_id, item_id)
    return sent(request.url_for("items", job_id=job_id))

"""Stock and kit: cans and what threatens them, boxing, spray tips by what went through them, what was left at another site."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.office import cans
from amber_gable.services.office.cans import STANDS
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page
from amber_gable.web.views.site.kit import boxes_in_words, kit_sentence

router = APIRouter(route_class=FormRoute)


@router.get("/kit", name="kit")
def kit_page(request: Request, scope: InScope) -> HTMLResponse:
    kept, tips, left = cans.cans_of(scope), cans.tips_of(scope), cans.left_elsewhere(scope)
    asked = request.query_params.getlist("can")
    chosen = [can.row for can in kept if can.row.id in asked]
    return page(
        request, scope, "crew/kit.html", cans=kept, tips=tips, left=left, stands=STANDS, sentence=kit_sentence(kept, tips, left),
        products=scope.knowledge.products, chosen=[row.id for row in chosen],
        boxes=boxes_in_words(chosen, cans.boxing(scope, chosen), scope.owner.units) if chosen else [], system=scope.owner.units,
    )  # fmt: skip


@router.post("/kit/cans/{row_id}/{verb}", name="tend_can")
def tend_can(request: Request, scope: InScope, row_id: str, verb: str) -> Response:
    cans.tend(scope, row_id, verb)
    return sent(request.url_for("kit"))


@router.post("/kit/box", name="box_cans")
def box_cans(request: Request, scope: InScope, form: Typed) -> Response:
    cans.box(scope, form.each("can"))
    return sent(request.url_for("kit"))


@router.post("/kit/tips", name="change_tip")
def change_tip(request: Request, scope: InScope, form: Typed) -> Response:
    tip = form.text("tip")
    form.done()
    cans.change_tip(scope, tip)
    return sent(request.url_for("kit"))

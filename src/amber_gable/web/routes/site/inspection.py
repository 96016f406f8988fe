"""Inspection: sides looked over dry, in good light; marks on the drawing; the owner's walk."""

from dataclasses import replace
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.changes import changes
from amber_gable.services.log.entries import MOST_LETTERS
from amber_gable.services.log.inspection import marks, ownerwalk
from amber_gable.services.log.inspection.looking import LOOKS, SideToLook, check_dry_again, check_markable, look_over, sides_to_look
from amber_gable.services.log.inspection.marks import Mended, Sighted
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, number_in, sent
from amber_gable.web.templating import page
from amber_gable.web.views.site.inspection import inspect_values

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


def _ahead(scope: Scope, job: Job) -> Outlook | None:
    try:
        return outlook.outlook(scope, job, outlook.status(scope, job))
    except PlanError:
        return None


def _side(scope: Scope, job: Job, side_id: str) -> SideToLook:
    found = next((s for s in sides_to_look(scope, job, _ahead(scope, job)) if s.elevation.id == side_id), None)
    if found is None:
        raise FieldErrors({"form": "No coat of this side is on record: there is nothing to inspect yet."})
    return found


@router.get("/inspection", name="inspection")
def inspection_page(request: Request, scope: InScope, job: TheJob, side: str = "", walk: str = "") -> HTMLResponse:
    ahead = _ahead(scope, job)
    values: dict[str, Any] = inspect_values(scope, job, sides_to_look(scope, job, ahead), side, is_walk=bool(walk))
    return page(
        request, scope, "inspection/page.html", job=job, stage="log", status=outlook.status(scope, job), looks=LOOKS,
        undoable=changes.undoable(scope, job.id), **values,
    )  # fmt: skip


def _seen(form: TypedForm, job: Job) -> tuple[str, Sighted]:
    spot = [number_in(part) for part in form.raw("spot").split(",")]
    x_m, y_m = (spot[0], spot[1]) if len(spot) == 2 else (None, None)
    if x_m is None or y_m is None:
        raise FieldErrors({"spot": "Tap the wall where the mark is."})
    size = form.si("size", "small length", "in" if job.units == "us" else "mm") / 1000 if form.raw("size") else 0.0
    seen = Sighted(
        form.raw("mark"), x_m, y_m, size, form.long_text("text", MOST_LETTERS), form.text("batch"), form.text("mender"),
        is_owners=form.raw("walk") == "1", entry=form.raw("entry"),
    )  # fmt: skip
    form.done()
    return form.raw("surface_id"), seen


@router.post("/inspection/marks", name="add_mark")
def add_mark(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    surface_id, seen = _seen(form, job)
    side = _side(scope, job, form.raw("side"))
    seen = replace(seen, task=next((w.task for w in side.walls if w.surface.id == surface_id), ""))
    if seen.is_owners:
        ownerwalk.add_owners_mark(scope, job, surface_id, seen)
    else:
        check_markable(job, side, surface_id, seen.kind)
        marks.add_mark(scope, job, surface_id, seen)
    return _back(request, job, form)


@router.post("/inspection/marks/{mark}/mended", name="mend_mark")
def mend_mark(request: Request, scope: InScope, job: TheJob, mark: str, form: Typed) -> Response:
    litres = form.si("litres", "volume", "gal" if job.units == "us" else "L") if form.raw("litres") else None
    form.done()
    marks.mend(scope, job, mark, Mended(form.text("text"), litres, form.raw("stock"), form.raw("entry")))
    return _back(request, job, form)


@router.post("/inspection/marks/{mark}/looked", name="look_at_mark")
def look_at_mark(request: Request, scope: InScope, job: TheJob, mark: str, form: Typed) -> Response:
    if form.raw("verb") == "good" and (found := next((m for m in marks.marks_of(scope, job) if m.entry == mark), None)) is not None:
        check_dry_again(scope, job, _ahead(scope, job), found)
    marks.look_again(scope, job, mark, is_good=form.raw("verb") == "good", text=form.text("text"), entry=form.raw("entry"))
    return _back(request, job, form)


@router.post("/inspection/marks/{mark}/accepted", name="accept_mark")
def accept_mark(request: Request, scope: InScope, job: TheJob, mark: str, form: Typed) -> Response:
    marks.accept(scope, job, mark, form.text("name"), form.text("text"), form.raw("entry"))
    return _back(request, job, form)


@router.post("/inspection/looked-over", name="look_over")
def looked_over(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    painters = [] if scope.actor == OFFICE else [scope.actor]
    look_over(scope, job, _side(scope, job, form.raw("side")), form.each("look"), painters, form.raw("entry"))
    return _back(request, job, form)


@router.post("/inspection/signed", name="sign_walk")
def sign_walk(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    stage: ownerwalk.WalkStage = "final" if form.raw("stage") == "final" else "list"
    ownerwalk.sign(scope, job, stage, form.text("name"), form.long_text("strokes", 15_000), form.text("text"), form.raw("entry"))
    return _back(request, job, form)


def _back(request: Request, job: Job, form: TypedForm) -> Response:
    walk = "&walk=1" if form.raw("walk") == "1" else ""
    return sent(f"{request.url_for('inspection', job_id=job.id)}?side={form.raw('side')}{walk}")

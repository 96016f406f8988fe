"""The shelf: data sheets that a job uses and that are else there; out as CSV and JSON, in from them."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from starlette.datastructures import UploadFile

from amber_gable.core.knowledge.shelf import Kind
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.exchange.shelf import write_csv, write_json
from amber_gable.services.office import shelf
from amber_gable.services.systems.specs import specs_of
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.routes.specify.systems import stage_values
from amber_gable.web.templating import page

router = APIRouter(route_class=FormRoute)
_FILES: dict[str, tuple[str, Kind | None]] = {
    "coatings.csv": ("text/csv; charset=utf-8", "coating"),
    "sundries.csv": ("text/csv; charset=utf-8", "sundry"),
    "shelf.json": ("application/json", None),
}


@router.get("/jobs/{job_id}/systems/shelf", name="shelf")
def shelf_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    used: dict[str, list[str]] = {}
    for spec in specs_of(scope, job):
        for product in dict.fromkeys(spec.products.values()):
            used.setdefault(product, []).append(spec.part.name)
    return page(request, scope, "systems/shelf.html", used=used, own=shelf.own_keys(scope), is_shipped=shelf.is_shipped,
                **stage_values(scope, job, "shelf"))  # fmt: skip


@router.get("/shelf/{name}", name="shelf_file")
def shelf_file(scope: InScope, name: str) -> Response:
    if name not in _FILES:
        raise NotFoundError(f"The shelf is given out as {', '.join(_FILES)}.")
    media, kind = _FILES[name]
    knowledge = scope.knowledge
    rows = knowledge.products if kind == "coating" else knowledge.sundries
    text = write_json(knowledge.products, knowledge.sundries) if kind is None else write_csv(kind, rows)
    return Response(text, media_type=media, headers={"content-disposition": f'attachment; filename="{name}"'})


@router.post("/jobs/{job_id}/systems/shelf", name="take_shelf")
def take_shelf(request: Request, scope: InScope, job_id: str, form: Typed) -> Response:
    upload = form.values.get("file")
    if not isinstance(upload, UploadFile) or not upload.filename:
        raise FieldErrors({"file": "Choose a file: the CSV or JSON of a shelf."})
    taken = shelf.take(scope, upload.file.read(shelf.MOST_BYTES + 1), job_id, form.flag("leaves_faulty"))
    status = 422 if taken.faults and not taken.is_kept else 200
    return page(request, scope, "systems/_shelf_answer.html", status_code=status, taken=taken, job_id=job_id)


@router.post("/jobs/{job_id}/systems/shelf/{row_id}/forget", name="forget_sheet")
def forget_sheet(request: Request, scope: InScope, job_id: str, row_id: str) -> Response:
    shelf.forget(scope, row_id, job_id)
    return sent(request.url_for("shelf", job_id=job_id))

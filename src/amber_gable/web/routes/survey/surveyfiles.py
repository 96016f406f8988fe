"""The survey in and out: JSON bundle and its schema, CSV of surfaces, drawing as SVG and PDF."""

import re

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from starlette.datastructures import UploadFile

from amber_gable.errors import FieldErrors
from amber_gable.exchange import jobbundle
from amber_gable.exchange.pdf import pdf_of
from amber_gable.exchange.surfaces_csv import surfaces_csv
from amber_gable.services.survey.bundle.export import export
from amber_gable.services.survey.bundle.read import read_in
from amber_gable.store.models import Job
from amber_gable.web.deps import Body, InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import STATIC, page, printed
from amber_gable.web.views.survey.printed import csv_rows, sheet_of, sheet_values

router = APIRouter(route_class=FormRoute)
_MOST_BYTES = 5_000_000


def named(job: Job, suffix: str) -> dict[str, str]:
    """Return the header that names a download after its job."""
    stem = re.sub(r"[^A-Za-z0-9]+", "-", job.name).strip("-").lower() or "job"
    return {"content-disposition": f'attachment; filename="{stem}.{suffix}"'}


@router.get("/api/schema/job-bundle.json", name="bundle_schema")
def bundle_schema() -> JSONResponse:
    return JSONResponse(jobbundle.schema())


@router.get("/jobs/{job_id}/survey/files", name="survey_files")
def files_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    return page(request, scope, "survey/files.html", job=job, stage="survey", part="files")


@router.get("/jobs/{job_id}/survey.json", name="survey_json")
def survey_json(scope: InScope, job: TheJob) -> Response:
    return Response(jobbundle.write(export(scope, job)), media_type="application/json", headers=named(job, "json"))


@router.get("/jobs/{job_id}/surfaces.csv", name="surfaces_csv")
def surfaces_file(scope: InScope, job: TheJob) -> Response:
    return Response(surfaces_csv(csv_rows(scope, job)), media_type="text/csv; charset=utf-8", headers=named(job, "csv"))


@router.get("/jobs/{job_id}/drawing.svg", name="drawing_svg")
def drawing_svg(scope: InScope, job: TheJob) -> Response:
    return Response(str(sheet_of(scope, job)), media_type="image/svg+xml", headers=named(job, "svg"))


@router.get("/jobs/{job_id}/drawing.pdf", name="drawing_pdf")
def drawing_pdf(scope: InScope, job: TheJob) -> Response:
    html = printed("survey/print.html", job.units, **sheet_values(scope, job))
    return Response(pdf_of(html, STATIC.as_uri() + "/"), media_type="application/pdf", headers=named(job, "pdf"))


@router.post("/jobs/import", name="import_bundle")
def import_bundle(request: Request, scope: InScope, form: Typed) -> Response:
    upload = form.values.get("bundle")
    if not isinstance(upload, UploadFile) or not upload.filename:
        raise FieldErrors({"bundle": "Choose a job bundle, a file that ends in .json."})
    content = upload.file.read(_MOST_BYTES + 1)
    if len(content) > _MOST_BYTES:
        raise FieldErrors({"bundle": "A bundle has at most 5 MB."})
    try:
        job_id = read_in(scope, jobbundle.read(content))
    except FieldErrors as fault:
        # Every problem by its path, at the one field there is.
        said = "; ".join(f"{path}: {words}" for path, words in list(fault.errors.items())[:40])
        raise FieldErrors({"bundle": f"Nothing was read in. {len(fault.errors)} to put right: {said}"}) from fault
    return sent(request.url_for("survey", job_id=job_id))


@router.post("/api/jobs", name="api_import")
def api_import(scope: InScope, content: Body) -> JSONResponse:
    if len(content) > _MOST_BYTES:
        raise FieldErrors({"file": "A bundle has at most 5 MB."})
    try:
        job_id = read_in(scope, jobbundle.read(content))
    except FieldErrors as fault:
        first, words = next(iter(fault.errors.items()))
        problems = [{"path": path, "error": error} for path, error in fault.errors.items()]
        return JSONResponse({"error": words, "field": first, "problems": problems}, 422)
    return JSONResponse({"job_id": job_id}, 201)

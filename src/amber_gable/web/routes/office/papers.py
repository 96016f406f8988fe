"""Papers of a job: proposal, work order, material order and change order as PDF; workbook and CSV."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.errors import NotFoundError
from amber_gable.exchange.pdf import pdf_of
from amber_gable.exchange.takeoff_csv import takeoff_csv
from amber_gable.exchange.workbook import workbook
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.routes.office.takeoff import stage_values
from amber_gable.web.routes.survey.surveyfiles import named
from amber_gable.web.templating import STATIC, page, printed
from amber_gable.web.views.office.papers import PAPERS, bill_of, change_values

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")
_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def _pdf(template: str, values: dict[str, Any]) -> bytes:
    return pdf_of(printed(template, values["system"], **values), STATIC.as_uri() + "/")


@router.get("/papers", name="papers")
def papers_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    return page(request, scope, "papers/page.html", papers=PAPERS, **stage_values(scope, job, "papers"))


@router.get("/papers/{kind}.pdf", name="paper_pdf")
def paper_pdf(scope: InScope, job: TheJob, kind: str) -> Response:
    if kind not in PAPERS:
        raise NotFoundError(f"The papers are {', '.join(PAPERS)}.")
    _, _, template, values = PAPERS[kind]
    return Response(_pdf(template, values(scope, job)), media_type="application/pdf", headers=named(job, f"{kind}.pdf"))


@router.get("/price/change-order.pdf", name="change_order_pdf")
def change_order_pdf(scope: InScope, job: TheJob) -> Response:
    values = change_values(scope, job)
    if not values["standing"].is_changed:
        raise NotFoundError("Nothing changed since the last revision, or nothing was agreed yet: there is no change order.")
    return Response(_pdf("papers/change_order.html", values), media_type="application/pdf", headers=named(job, "change-order.pdf"))


@router.get("/takeoff.xlsx", name="takeoff_xlsx")
def takeoff_xlsx(scope: InScope, job: TheJob) -> Response:
    return Response(workbook(bill_of(scope, job)), media_type=_XLSX, headers=named(job, "xlsx"))


@router.get("/takeoff.csv", name="takeoff_csv")
def takeoff_file(scope: InScope, job: TheJob) -> Response:
    return Response(takeoff_csv(job_takeoff(scope, job).lots), media_type="text/csv; charset=utf-8", headers=named(job, "takeoff.csv"))

"""Take-off: litres per surface and coat, line by line."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from amber_gable.services.takeoffs import job_takeoff
from amber_gable.web.deps import Ctx, TheJob
from amber_gable.web.templating import page
from amber_gable.web.views.house import takeoff_band

router = APIRouter(prefix="/jobs/{job_id}")


@router.get("/takeoff", name="takeoff")
def takeoff(request: Request, context: Ctx, job: TheJob) -> HTMLResponse:
    found = job_takeoff(context, job)
    return page(
        request, context, "takeoff/page.html", job=job, stage="takeoff", takeoff=found, band=takeoff_band(job, found, context.knowledge)
    )

"""Windows: every surface's hours over days, for coats and for steps that are none; one surface's reasons on request."""

from datetime import UTC, datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response
from starlette.datastructures import UploadFile

from amber_gable.errors import FieldErrors
from amber_gable.exchange.typicalyear import MOST_BYTES as MOST_YEAR_BYTES
from amber_gable.exchange.weatherfile import MOST_BYTES
from amber_gable.services.outlook import outlook, sightings
from amber_gable.services.outlook.compare import compare, ways_of
from amber_gable.services.outlook.joinery import joinery
from amber_gable.services.outlook.stepwindows import outlook_for
from amber_gable.services.outlook.weather import files as weatherfiles
from amber_gable.services.outlook.weather import year
from amber_gable.services.outlook.windowcard import chance_at, chances_of
from amber_gable.services.systems.coatings import coatings_of, held_words
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page
from amber_gable.web.views.windows import windowpage, yearpage
from amber_gable.web.views.windows.windowsheet import sheet_svg

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")
Days = Annotated[Literal["2", "5", "10"], Query()]
Order = Annotated[Literal["round", "next"], Query()]
Of = Annotated[Literal["surfaces", "round"], Query()]
At = Annotated[float, Query(ge=0, le=4e9)]


@router.get("/windows", name="windows")
def windows(
    request: Request,
    scope: InScope,
    job: TheJob,
    surface: str = "",
    days: Days = "5",
    order: Order = "round",
    work: str = "coats",
    of: Of = "surfaces",
) -> HTMLResponse:
    asked = windowpage.WindowsQuery(surface, int(days), order, work, is_round=of == "round")
    template, values = windowpage.values_of(scope, job, asked)
    return page(request, scope, template, **values)


@router.get("/windows/sheet", name="ribbon_sheet")
def ribbon_sheet(request: Request, scope: InScope, job: TheJob, days: Days = "10", work: str = "coats") -> HTMLResponse:
    ahead = outlook.outlook(scope, job, outlook.status(scope, job))
    svg = sheet_svg(scope, job, ahead, int(days), work)
    return page(request, scope, "windows/sheet.html", job=job, stage="windows", sheet=svg, days=days, work=work)


@router.get("/windows/sheet.svg", name="ribbon_sheet_svg")
def ribbon_sheet_svg(scope: InScope, job: TheJob, days: Days = "10", work: str = "coats") -> Response:
    ahead = outlook.outlook(scope, job, outlook.status(scope, job))
    headers = {"Content-Disposition": 'attachment; filename="ribbons.svg"'}
    return Response(str(sheet_svg(scope, job, ahead, int(days), work)), media_type="image/svg+xml", headers=headers)


@router.get("/windows/compare", name="compare_windows")
def compare_windows(
    request: Request, scope: InScope, job: TheJob, surface: str = "", first: str = "as-is", second: str = ""
) -> HTMLResponse:
    ahead = outlook.outlook(scope, job, outlook.status(scope, job))
    chosen = surface if ahead.row(surface) is not None else ahead.surface_ids[0]
    ways = ways_of(scope, job, chosen)
    other = second or next((key for key in ways if key != first), first)
    result = compare(scope, job, ahead, chosen, first, other)
    values = windowpage.comparison_of(scope, job, ahead, chosen, result)
    return page(request, scope, "windows/compare.html", ways=ways, first=first, second=other, **values)


@router.post("/windows/{surface_id}/found", name="found_on_surface")
def found_on_surface(request: Request, scope: InScope, job: TheJob, surface_id: str, form: Typed) -> Response:
    what, at, who = form.raw("what"), form.raw("found_at"), form.raw("painter")
    if what == "washed":
        sightings.wash(scope, job, [surface_id], at, who)
    elif what == "meter":
        moisture = form.number("moisture_pct", "What the meter shows, in percent.")
        form.done()
        sightings.measure(scope, job, surface_id, moisture, at, who)
    else:
        sightings.feel(scope, job, [surface_id], what, at, who)
    back = "log" if form.raw("back") == "log" else "windows"
    return sent(request.url_for(back, job_id=job.id).include_query_params(surface=surface_id))


@router.post("/windows/weather", name="take_weather")
def take_weather(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    upload = form.values.get("file")
    if not isinstance(upload, UploadFile) or not upload.filename:
        raise FieldErrors({"file": "Choose a file: hourly weather as CSV or JSON."})
    try:
        weatherfiles.take(scope, job, upload.file.read(MOST_BYTES + 1))
    except FieldErrors as fault:
        # Every fault by its row, at the one field there is.
        said = "; ".join(f"{where}: {what}" if where != "file" else what for where, what in fault.errors.items())
        raise FieldErrors({"file": said}) from fault
    return sent(request.url_for("windows", job_id=job.id))


@router.post("/windows/weather/forget", name="forget_weather")
def forget_weather(request: Request, scope: InScope, job: TheJob) -> Response:
    weatherfiles.forget(scope, job)
    return sent(request.url_for("windows", job_id=job.id))


@router.get("/windows/year", name="typical_year")
def typical_year(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    return page(request, scope, "windows/year.html", job=job, stage="windows", **yearpage.values_of(scope, job))


@router.post("/windows/year", name="take_year")
def take_year(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    upload = form.values.get("file")
    if not isinstance(upload, UploadFile) or not upload.filename:
        raise FieldErrors({"year": "Choose a file: a typical year as TMY3 or EPW."})
    year.take(scope, job, upload.file.read(MOST_YEAR_BYTES + 1))
    return sent(request.url_for("typical_year", job_id=job.id))


@router.post("/windows/year/forget", name="forget_year")
def forget_year(request: Request, scope: InScope, job: TheJob) -> Response:
    year.forget(scope, job)
    return sent(request.url_for("typical_year", job_id=job.id))


@router.get("/windows/{surface_id}", name="surface_hours")
def surface_hours(
    request: Request, scope: InScope, job: TheJob, surface_id: str, at: At, days: Days = "5", work: str = "coats"
) -> HTMLResponse:
    ahead = outlook.outlook(scope, job, outlook.status(scope, job))
    moment = datetime.fromtimestamp(at, UTC)
    template, values = windowpage.surface_of(scope, job, ahead, surface_id, moment, int(days), work)
    return page(request, scope, template, **values)


@router.get("/windows/{surface_id}/chance", name="surface_chance")
def surface_chance(request: Request, scope: InScope, job: TheJob, surface_id: str, at: At, work: str = "coats") -> HTMLResponse:
    ahead = outlook_for(scope, job, outlook.outlook(scope, job, outlook.status(scope, job)), work)
    chances = chances_of(scope, job, ahead, surface_id)
    moment = datetime.fromtimestamp(at, UTC)
    held = coatings_of(scope, job)[surface_id].held_by
    return page(
        request, scope, "windows/_chance.html", chance=chance_at(chances, moment), held=held and held_words(held),
        learned=windowpage.learned_of(scope, job, ahead, surface_id), **windowpage.best_of(chances, ahead, moment),
    )  # fmt: skip


@router.get("/windows/round/{key}", name="side_hours")
def side_hours(request: Request, scope: InScope, job: TheJob, key: str, at: At, days: Days = "5", work: str = "coats") -> HTMLResponse:
    ahead = joinery(scope, job, outlook.outlook(scope, job, outlook.status(scope, job)))
    moment = datetime.fromtimestamp(at, UTC)
    template, values = windowpage.surface_of(scope, job, ahead, key, moment, int(days), work, is_round=True)
    return page(request, scope, template, **values)


@router.get("/windows/round/{key}/chance", name="side_chance")
def side_chance(request: Request, scope: InScope, job: TheJob, key: str, at: At, work: str = "coats") -> HTMLResponse:
    ahead = outlook_for(scope, job, joinery(scope, job, outlook.outlook(scope, job, outlook.status(scope, job))), work)
    chances = chances_of(scope, job, ahead, key)
    moment = datetime.fromtimestamp(at, UTC)
    held = coatings_of(scope, job)[key].held_by
    return page(
        request, scope, "windows/_chance.html", chance=chance_at(chances, moment), held=held and held_words(held),
        **windowpage.best_of(chances, ahead, moment),
    )  # fmt: skip

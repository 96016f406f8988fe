"""Timesheets: a week's hours of each painter as a page, as CSV and on paper."""

from datetime import date, timedelta
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.exchange.pdf import pdf_of
from amber_gable.exchange.timesheet_csv import timesheet_csv
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.timesheet import Line, hours_by_day, timesheet
from amber_gable.services.office.letterhead import lines_of
from amber_gable.units import day_in
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.templating import STATIC, page, templates

router = APIRouter(route_class=FormRoute)


def _week(scope: Scope, text: str) -> date:
    """Return the Monday of a week: of a day that is named, or of today."""
    day = day_in(text) or scope.clock.now().date()
    return day - timedelta(days=day.weekday())


def _values(scope: Scope, monday: date) -> dict[str, Any]:
    days = [monday + timedelta(days=n) for n in range(7)]
    lines = timesheet(scope, days[0], days[-1])
    return {
        "days": days,
        "lines": lines,
        "hours": hours_by_day(lines),
        "before": monday - timedelta(days=7),
        "after": monday + timedelta(days=7),
    }


@router.get("/crew/hours", name="timesheet")
def timesheet_page(request: Request, scope: InScope, week: str = "") -> HTMLResponse:
    return page(request, scope, "crew/hours.html", **_values(scope, _week(scope, week)))


@router.get("/crew/hours.csv", name="timesheet_csv")
def timesheet_as_csv(scope: InScope, week: str = "") -> Response:
    monday = _week(scope, week)
    body = timesheet_csv([_cells(line) for line in timesheet(scope, monday, monday + timedelta(days=6))])
    headers = {"content-disposition": f'attachment; filename="hours-{monday.isoformat()}.csv"'}
    return Response(body, media_type="text/csv; charset=utf-8", headers=headers)


def _cells(line: Line) -> tuple[Any, ...]:
    return line.painter, line.starts_at, line.ends_at, line.hours, line.job, line.what


@router.get("/crew/hours.pdf", name="timesheet_pdf")
def timesheet_as_pdf(scope: InScope, week: str = "") -> Response:
    monday = _week(scope, week)
    html = templates.get_template("papers/hours.html").render(
        owner=scope.owner, letterhead=lines_of(scope.owner.letterhead), **_values(scope, monday)
    )
    headers = {"content-disposition": f'attachment; filename="hours-{monday.isoformat()}.pdf"'}
    return Response(pdf_of(html, STATIC.as_uri() + "/"), media_type="application/pdf", headers=headers)

"""The crew: who is where, all jobs for eight weeks, people with hours, days off and skills; a calendar for each behind a secret address."""

from datetime import timedelta
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.core.planning.crew.machines import MOST_UNITS
from amber_gable.core.planning.crew.people import SKILLS
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.exchange.icalendar import calendar
from amber_gable.exchange.pdf import pdf_of
from amber_gable.services.app.scope import Scope
from amber_gable.services.office import crew, fleet
from amber_gable.services.office.letterhead import lines_of
from amber_gable.services.planning import mending
from amber_gable.units import day_in
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent
from amber_gable.web.sentences import stint_line
from amber_gable.web.templating import STATIC, page, printed
from amber_gable.web.views.plan.board import sides_in
from amber_gable.web.views.plan.crew import all_planned, crew_board, eight_weeks, feed_entries, person_rows
from amber_gable.web.views.plan.daysheet import day_text, day_values
from amber_gable.web.views.plan.machines import hire_rows, machine_rows
from amber_gable.web.views.plan.plancost import cost_values
from amber_gable.web.views.plan.tomorrow import tomorrow_of

router = APIRouter(route_class=FormRoute)


@router.get("/crew", name="crew")
def crew_page(request: Request, scope: InScope, day: str = "") -> HTMLResponse:
    planned, people = all_planned(scope), crew.people(scope)
    zone = planned[0][1].stints[0].starts_at.tzinfo if planned and planned[0][1].stints else None
    now = scope.clock.now().astimezone(zone)
    chosen = day_in(day) or now.date()
    days = [now.date() + timedelta(days=n) for n in range(7)]
    return page(
        request, scope, "crew/page.html", rows=person_rows(scope, people, planned, now.date()), days=days, chosen=chosen, today=now.date(),
        board=crew_board(planned, people, chosen, now), tomorrow=now.date() + timedelta(days=1),
        weeks=eight_weeks(scope, planned, people, now.date(), lambda job_id: str(request.url_for("schedule", job_id=job_id))),
        has_plan=bool(planned), mends=scope.owner.mends_itself, skills=SKILLS, machines=machine_rows(scope, planned, now.date()),
        job_names=[(job.id, job.name) for job, _ in planned], hires=hire_rows(scope, planned, now.date()), **cost_values(scope, planned),
    )  # fmt: skip


def _back(request: Request) -> Response:
    return sent(request.url_for("crew"))


@router.post("/crew/add", name="add_person")
def add_person(request: Request, scope: InScope, form: Typed) -> Response:
    name = form.text("name", "Give a name.")
    form.done()
    crew.add(scope, name)
    return _back(request)


@router.post("/crew/mends", name="mends_itself")
def mends_itself(request: Request, scope: InScope, form: Typed) -> Response:
    form.done()
    mending.switch(scope, is_on=form.raw("on") == "yes")
    return sent(f"{request.url_for('crew')}#mends")


@router.post("/crew/{name}/remove", name="remove_person")
def remove_person(request: Request, scope: InScope, name: str, form: Typed) -> Response:
    form.done()
    crew.remove(scope, name)
    return _back(request)


@router.post("/crew/{name}/away", name="person_away")
def person_away(request: Request, scope: InScope, name: str, form: Typed) -> Response:
    first = day_in(form.raw("first"))
    last = day_in(form.raw("last") or form.raw("first"))
    if first is None or last is None:
        raise FieldErrors({"first" if first is None else "last": "Give a day as 2026-09-16."})
    why = form.text("why")
    form.done()
    crew.away(scope, name, first, last, why)
    return _back(request)


@router.post("/crew/{name}/back", name="person_back")
def person_back(request: Request, scope: InScope, name: str, form: Typed) -> Response:
    first = day_in(form.raw("first"))
    form.done()
    if first is not None:
        crew.back(scope, name, first)
    return _back(request)


@router.post("/crew/{name}", name="change_person")
def change_person(request: Request, scope: InScope, name: str, form: Typed) -> Response:
    values = {
        "starts_h": _hour(form, "starts"), "ends_h": _hour(form, "ends"),
        "weekdays": tuple(int(d) for d in form.each("weekday") if d in "0123456"),
        "skills": {key: day_in(form.raw(f"until_{key}")) for key in SKILLS if key in form.each("skill")},
    }  # fmt: skip
    form.done()
    crew.change(scope, name, values)
    return _back(request)


def _hour(form: TypedForm, name: str) -> float:
    """Return an hour of the day that is typed as 7, 7.5 or 7:30."""
    hours, _, minutes = form.raw(name).partition(":")
    try:
        return float(hours.replace(",", ".")) + (int(minutes) / 60 if minutes else 0.0)
    except ValueError:
        form.errors[name] = "Give an hour as 7 or 7:30."
        return 0.0


@router.post("/machines/{key}", name="change_machine")
def change_machine(request: Request, scope: InScope, key: str, form: Typed) -> Response:
    not_until = day_in(form.raw("not_until"))
    if form.raw("not_until") and not_until is None:
        form.errors["not_until"] = "Give a day as 2026-09-16."
    values = {
        "units": form.whole("units", 0, MOST_UNITS, "How many there are, 0 to 20."),
        "per_day": form.number("per_day", "An amount of money, 0 for nothing."),
        "delivery": form.number("delivery", "An amount of money, 0 for nothing."),
        "lead_days": form.whole("lead_days", 0, 365, "Whole days, 0 to 365."),
        "is_hired": bool(form.raw("is_hired")),
        "not_until": not_until,
    }
    form.done()
    fleet.change(scope, key, values)
    return _back(request)


@router.post("/machines/{key}/reserve", name="reserve_machine")
def reserve_machine(request: Request, scope: InScope, key: str, form: Typed) -> Response:
    days = {name: day_in(form.raw(name)) for name in ("first", "last")}
    for name, day in days.items():
        if day is None:
            form.errors[name] = "Give a day as 2026-09-16."
    form.done()
    first, last = days["first"], days["last"]
    assert first is not None
    assert last is not None
    fleet.reserve(scope, key, form.raw("job"), first, last)
    return _back(request)


@router.post("/machines/{key}/release", name="release_machine")
def release_machine(request: Request, scope: InScope, key: str, form: Typed) -> Response:
    first = day_in(form.raw("first"))
    form.done()
    if first is not None:
        fleet.release(scope, key, form.raw("job"), first)
    return _back(request)


@router.get("/tomorrow", name="tomorrow")
def tomorrow_page(request: Request, scope: InScope, day: str = "") -> HTMLResponse:
    planned = all_planned(scope)
    zone = planned[0][1].stints[0].starts_at.tzinfo if planned and planned[0][1].stints else None
    now = scope.clock.now().astimezone(zone)
    chosen = day_in(day) or now.date() + timedelta(days=1)
    turns, sites = tomorrow_of(scope, now, chosen)
    return page(
        request,
        scope,
        "crew/tomorrow.html",
        stint_line=stint_line,
        sides_in=sides_in,
        turns=turns,
        sites=sites,
        chosen=chosen,
        now_there=now,
    )


def _day_values(scope: Scope, day: str) -> dict[str, Any]:
    planned = all_planned(scope)
    zone = planned[0][1].stints[0].starts_at.tzinfo if planned and planned[0][1].stints else None
    now = scope.clock.now().astimezone(zone)
    return day_values(scope, now, day_in(day) or now.date()) | {"zone": now.tzinfo}


@router.get("/day.txt", name="day_text")
def day_as_text(scope: InScope, day: str = "") -> Response:
    return Response(day_text(_day_values(scope, day)), media_type="text/plain; charset=utf-8")


@router.get("/day.pdf", name="day_pdf")
def day_as_pdf(scope: InScope, day: str = "") -> Response:
    values = _day_values(scope, day)
    system = values["rows"][0]["site"].job.units if values["rows"] else scope.owner.units
    html = printed("papers/day_sheet.html", system, owner=scope.owner, letterhead=lines_of(scope.owner.letterhead), system=system, **values)
    headers = {"content-disposition": f'attachment; filename="day-{values["day"].isoformat()}.pdf"'}
    return Response(pdf_of(html, STATIC.as_uri() + "/"), media_type="application/pdf", headers=headers)


@router.get("/calendar/{token}.ics", name="feed")
def feed(scope: InScope, token: str) -> Response:
    found = feed_entries(scope, token)
    if found is None:
        raise NotFoundError("There is no calendar at this address (any more).")
    name, entries = found
    body = calendar(f"{name}: {scope.owner.name}", scope.clock.now(), entries)
    return Response(body, media_type="text/calendar; charset=utf-8")

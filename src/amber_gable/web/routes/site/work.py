"""The record of work: one tap for what was done, begun, spoilt or left out; and taking an entry back."""

from collections.abc import Collection
from dataclasses import replace
from datetime import datetime, time, timedelta
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from amber_gable.core.planning.state import Told
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.log import record
from amber_gable.services.log.coats import joints
from amber_gable.services.log.coats.films import checked_readings
from amber_gable.services.log.coats.running import begun_at, hours_of, left_at
from amber_gable.services.log.coats.starting import begin, weather_then
from amber_gable.services.log.inspection.looking import refuse_open
from amber_gable.services.log.record import Said
from amber_gable.services.outlook.skywatch import moment_of
from amber_gable.services.planning import morning
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store.models import Job
from amber_gable.units import QuantityError, day_in, parse
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent
from amber_gable.web.templating import zone_of

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")
_BACK = timedelta(days=1)


def _said(scope: Scope, job: Job, form: TypedForm, ids: Collection[str] = ()) -> Said:
    """Return what a form says; a moment that it does not say is that of the record, else the planned one, and never one that lies ahead."""
    now = scope.said_at().astimezone(zone_of(job))
    verb = form.raw("verb")
    if verb not in {t.value for t in Told} - {Told.WITHDRAWN.value}:
        raise FieldErrors({"verb": "Done, begun, to be done again, or left out."})
    starts, ends = (_moment(form.raw(name)) for name in ("planned_from", "planned_until"))
    usual = hours_of(scope, job, ids, (starts or ends or now, ends or now), now)
    if form.raw("back") == "today" and (since := begun_at(scope, job, ids)) is not None and left_at(job, since, now) is None:
        # Whoever does it says so: it ends now.
        usual = since, now
    until = moment_of(form.raw("until"), now, "until", _BACK, timedelta(0)) if form.raw("until") else usual[1]
    began = moment_of(form.raw("from"), until, "from", _BACK, timedelta(0)) if form.raw("from") else min(usual[0], until)
    if verb == Told.BEGAN.value:
        began = until = moment_of(form.raw("from"), now, "from", _BACK, timedelta(0)) if form.raw("from") else now
    share = form.number("share_pct", "A number of per cent.") if form.raw("share_pct") else 100.0
    litres = form.si("litres", "volume", "gal" if job.units == "us" else "L") if form.raw("litres") else None
    comb = _comb(form, job)
    form.done()
    details: dict[str, Any] = {"comb_um": comb} if comb else {}
    details |= {name: form.text(name) for name in ("method", "tip", "boxed") if form.raw(name)}
    return Said(
        Told(verb), began, until, share, tuple(form.each("painter")), litres, "", form.text("batch"), form.text("remark"),
        form.raw("entry"), details,
    )  # fmt: skip


def _comb(form: TypedForm, job: Job) -> list[float]:
    """Return the readings of a wet-film comb [µm]: several, with commas between them."""
    readings = []
    for part in filter(None, (p.strip() for p in form.raw("comb").replace(";", ",").split(","))):
        try:
            readings.append(parse(part, "film", "mil" if job.units == "us" else "um"))
        except QuantityError as fault:
            raise FieldErrors({"comb": str(fault)}) from fault
    return checked_readings(readings)


def _moment(text: str) -> datetime | None:
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        return None
    return found if found.tzinfo is not None and day_in(text[:10]) else None


@router.post("/work", name="record_work")
def record_work(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    wanted = set(form.raw("tasks").split())
    tasks = [task for task in tasks_of(scope, job) if task.id.replace(" ", "_") in wanted]
    said = _said(scope, job, form, [task.id for task in tasks])
    if said.told is Told.DONE:
        refuse_open(scope, job, tasks)
    if said.told in (Told.BEGAN, Told.DONE):
        said = replace(said, details={**said.details, **weather_then(scope, job, tasks, said.from_at)})
    if said.told is Told.BEGAN:
        begin(scope, job, tasks, said)
    else:
        record.enter(scope, job, tasks, said)
    return _onward(request, job, form)


@router.post("/work-paused", name="pause_work")
def pause_work(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    wanted = set(form.raw("tasks").split())
    tasks = [task for task in tasks_of(scope, job) if task.id.replace(" ", "_") in wanted]
    joint_m = form.quantity("joint", "length", job.units) if form.raw("joint") else None
    share = form.number("share_pct", "A number of per cent.") if form.raw("share_pct") else None
    began, begins = _moment(form.raw("planned_from")), "right" if form.raw("begins") == "right" else "left"
    form.done()
    joints.pause(scope, job, tasks, began, joints.Paused(joint_m, begins, share), tuple(form.each("painter")), form.raw("entry"))
    return _onward(request, job, form)


@router.post("/work/{line_id}/correct", name="correct_work")
def correct_work(request: Request, scope: InScope, job: TheJob, line_id: str, form: Typed) -> Response:
    record.correct(scope, job, line_id, _corrected(_said(scope, job, form), form, job))
    return _onward(request, job, form)


def _corrected(said: Said, form: TypedForm, job: Job) -> Said:
    """Return a correction with its clock times on the day of the entry that it stands for."""
    day = day_in(form.raw("day_of"))
    if day is None:
        return said
    try:
        until, began = (datetime.combine(day, time.fromisoformat(form.raw(name)), zone_of(job)) for name in ("until", "from"))
    except ValueError:
        return said
    # Work that ended after midnight began the day before.
    return replace(said, until_at=until, from_at=began if began <= until else began - _BACK)


@router.post("/work-as-planned", name="record_unsaid")
def record_unsaid(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    form.done()
    morning.record_as_planned(scope, job)
    return _onward(request, job, form)


@router.post("/work/{line_id}/back", name="take_work_back")
def take_back(request: Request, scope: InScope, job: TheJob, line_id: str, form: Typed) -> Response:
    record.take_back(scope, job, line_id)
    return _onward(request, job, form)


def _onward(request: Request, job: Job, form: TypedForm) -> Response:
    if form.raw("back") in ("morning", "today"):
        return sent(request.url_for(form.raw("back")))
    if form.raw("back") == "log":
        return sent(f"{request.url_for('log', job_id=job.id)}#lines")
    day = form.raw("day")
    return sent(f"{request.url_for('schedule', job_id=job.id)}{f'?day={day}' if day else ''}")

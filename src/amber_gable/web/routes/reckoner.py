"""The Reckoner: every registered reckoning as a form and an answer, made from its models."""

import json
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from pydantic import ValidationError

from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.log import entries
from amber_gable.services.log.entries import Written
from amber_gable.services.reckonings import REGISTRY, Reckoning, find, parse_body, reckon
from amber_gable.services.reckonings.run import errors_of
from amber_gable.units import System
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent, whole_in
from amber_gable.web.templating import page
from amber_gable.web.views.reckoner.answers import as_typed, example_of, fields_of, noted, shown
from amber_gable.web.views.reckoner.fields import label_and_unit, read_option
from amber_gable.web.views.reckoner.finder import CARRIES, found_in
from amber_gable.web.views.reckoner.lists import ListFault, read, said_at

router = APIRouter(route_class=FormRoute)


@router.get("/reckoner", name="reckoner")
def reckoner(request: Request, scope: InScope) -> HTMLResponse:
    search = request.query_params.get("q", "").strip()[:80]
    return page(request, scope, "reckoner/list.html", groups=found_in(REGISTRY, search), search=search)


@router.get("/reckoner/{name}", name="reckoning")
def reckoning(request: Request, scope: InScope, name: str) -> HTMLResponse:
    entry = find(name)
    values = example_of(entry, _system(scope))
    answer = shown(entry, reckon(entry, values), _system(scope))
    return page(request, scope, "reckoner/page.html", fields=fields_of(entry, _system(scope)), groups=found_in(REGISTRY, ""), answer=answer,
                **_carried(scope, entry, values))  # fmt: skip


def _carried(scope: Scope, entry: Reckoning, values: dict[str, Any]) -> dict[str, Any]:
    """Return what an answer needs to be carried into a job: what was put in, the places it fits, the jobs."""
    running = [head for head in jobs.list_jobs(scope) if head.state in ("running", "enquiry")]
    return {"entry": entry, "typed": json.dumps(values), "carries": CARRIES.get(entry.name, ()), "carry_to": running}


def _system(scope: Scope) -> System:
    return scope.owner.units


def _typed(entry: Reckoning, form: TypedForm, system: System) -> dict[str, Any]:
    """Return the form's texts as the JSON values the reckoning takes; empty fields stay out."""
    values: dict[str, Any] = {}
    for field in fields_of(entry, system):
        text = form.raw(field.name)
        if not text:
            continue
        if field.is_text:
            values[field.name] = text
        elif field.options:
            values[field.name] = read_option(field, text)
        elif field.is_list:
            try:
                values[field.name] = read(entry.input_model.model_fields[field.name].annotation, text, system)
            except ListFault as fault:
                form.errors[field.name] = str(fault)
        elif field.kind:
            values[field.name] = form.si(field.name, field.kind[0], field.bare)
        else:
            value = form.number(field.name, "A number, please, with a point for decimals.")
            # Where a whole number is asked for, 2 is meant as one; 2.5 is refused in words by the model.
            values[field.name] = int(value) if field.is_whole and value == value // 1 else value
    return values


@router.post("/reckoner/{name}", name="reckon")
def reckon_form(request: Request, scope: InScope, name: str, form: Typed) -> HTMLResponse:
    entry = find(name)
    values = _typed(entry, form, _system(scope))
    form.done()
    try:
        entry.input_model.model_validate(values)
    except ValidationError as fault:
        # Faults within a list are shown at the list, with where in it.
        named = {f.name for f in fields_of(entry)}
        errors = {}
        for path, words in errors_of(fault, entry.input_model).items():
            head, last = path.split(".")[0], path.split(".")[-1]
            words = words.replace(last, label_and_unit(last)[0].lower())
            errors[head if head in named else "form"] = words if path == head else f"{said_at(path)}: {words}"
        raise FieldErrors(errors) from fault
    try:
        answer = shown(entry, reckon(entry, values), _system(scope))
    except PlanError as fault:
        raise PlanError(f"{fault.field}: {fault}", fault.field.split(".")[0] or "form") from fault
    return page(request, scope, "reckoner/_answer.html", answer=answer, **_carried(scope, entry, values))


@router.post("/reckoner/{name}/carry", name="carry_reckoned")
def carry(request: Request, scope: InScope, name: str, form: Typed) -> Response:
    """Note an answer on a job, or go to the page of the job where it belongs, with the field filled."""
    entry = find(name)
    values = parse_body(form.raw("typed").encode())
    answer = reckon(entry, values)
    job_id = form.text("job", "Choose the job.")
    form.done()
    job = jobs.whole(scope, job_id)
    places = CARRIES.get(entry.name, ())
    to = whole_in(form.raw("to"))
    if to is None or to >= len(places):
        entries.write(scope, job, Written("note", noted(entry, values, answer, job.units)))
        return sent(f"{request.url_for('log', job_id=job.id)}#lines")
    place = places[to]
    there = values | answer.model_dump()
    filled = {f"fill-{field}": as_typed(value, there.get(value), job.units) for field, value in place.fields}
    address = request.url_for(place.page, job_id=job.id).include_query_params(**filled)
    return sent(address)

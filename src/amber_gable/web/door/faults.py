"""One handler for everything the user can put right: messages beside fields, nothing lost.

A form sent by htmx gets only the messages, swapped in out of band, so that what was typed stays.
The API gets JSON. A page gets a page that says where to go.
"""

import errno
import json
import logging
import re
from collections.abc import Callable, Mapping
from dataclasses import asdict
from html import escape
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, JSONResponse, PlainTextResponse, Response
from sqlalchemy.exc import DatabaseError
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from amber_gable.errors import ConflictError, FieldErrors, NotFoundError, PlanError
from amber_gable.services.app.lanes import FAULTS
from amber_gable.services.changes import ownership
from amber_gable.services.changes.sentforms import OtherContentError
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.weather.forecasts import NoForecastError
from amber_gable.store.faults import StorageError, in_words
from amber_gable.web.deps import scope_of
from amber_gable.web.door.conflicts import sides_of
from amber_gable.web.door.desk import BusyError, GoneError, busy, handled
from amber_gable.web.door.formroute import told_fault
from amber_gable.web.door.intake import StalledError, TooLargeError
from amber_gable.web.forms import TypedForm
from amber_gable.web.templating import page, templates

log = logging.getLogger(__name__)
_FORM_ID = re.compile(r"[\w-]{1,80}")


def _status(fault: PlanError) -> int:
    if isinstance(fault, StorageError):
        return 507 if fault.is_full else 503
    if isinstance(fault, TooLargeError):
        return 413
    if isinstance(fault, StalledError):
        return 408
    if isinstance(fault, NotFoundError):
        return 404
    return 409 if isinstance(fault, ConflictError) else 422


def _answer(request: Request, fault: PlanError) -> Response:
    status = _status(fault)
    if request.url.path.startswith("/api/"):
        return JSONResponse({"error": str(fault), "field": fault.field}, status)
    if isinstance(fault, OtherContentError):
        # For the phone, which shows both.
        kept_at = fault.at.isoformat() if fault.at else ""
        return JSONResponse({"error": str(fault), "field": "", "kept": fault.kept, "kept_at": kept_at}, status)
    if isinstance(fault, NoForecastError) and request.method == "GET" and "." not in request.url.path.rsplit("/", 1)[-1]:
        return _without_forecast(request, fault)
    if request.headers.get("hx-request") == "true":
        # htmx names the form that was sent: its fields carry the form's id.
        form_id = request.headers.get("hx-trigger", "")
        errors = fault.errors if isinstance(fault, FieldErrors) else {fault.field or "form": str(fault)}
        errors = _with_units(request, errors)
        values: dict[str, Any] = {"form_id": form_id if _FORM_ID.fullmatch(form_id) else "page", "errors": errors}
        template = "_errors.html"
        if isinstance(fault, ConflictError) and fault.version is not None:
            template, values["sides"], values["conflict"] = "_conflict.html", sides_of(request, fault), fault
        # A conflict is put right in the form like any other fault.
        status = 422 if status == 409 else status
        try:
            values["system"] = _system_of(request)
            answer: Response = page(request, scope_of(request), template, status_code=status, **values)
        except DatabaseError:
            answer = HTMLResponse(templates.get_template("_errors.html").render(values), status)
        # Only the messages are placed: the form's own target stays as it is.
        answer.headers["HX-Reswap"] = "none"
        if isinstance(fault, FieldErrors) and fault.spots:
            # Where the fault lies, in metres, for the drawing that is on the page.
            answer.headers["HX-Trigger"] = json.dumps({"fault-at": {"spots": [asdict(spot) for spot in fault.spots]}})
        return answer
    return _fault_page(request, str(fault), status)


def _with_units(request: Request, errors: Mapping[str, str]) -> dict[str, str]:
    """Return messages, each with the unit in which a bare number was read: 36 is feet, and inches may have been meant."""
    typed: TypedForm | None = getattr(request.state, "typed", None)
    readings = typed.readings if typed is not None else {}
    return {field: f"{message} {readings[field]}" if field in readings else message for field, message in errors.items()}


def _system_of(request: Request) -> str | None:
    """Return the units in which the reader of a message thinks: those that the form chooses, or of its job; None for the firm's."""
    typed: TypedForm | None = getattr(request.state, "typed", None)
    if typed is not None and typed.raw("units") in ("us", "metric"):
        return typed.raw("units")
    try:
        return jobs.head(scope_of(request), request.path_params["job_id"]).units
    except (KeyError, PlanError):
        return None


def _fault_page(request: Request, message: str, status: int) -> Response:
    try:
        return page(request, scope_of(request), "fault.html", status_code=status, message=message, is_missing=status == 404)
    except Exception:
        # What went wrong with the first page may go wrong with this one too.
        log.exception("the page of a fault cannot be made")
        return _bare(message, status)


def _without_forecast(request: Request, fault: PlanError) -> Response:
    """Return a page that works without the hours it would show: it says why, and what else can be done."""
    scope = scope_of(request)
    job = jobs.whole(scope, request.path_params["job_id"])
    if request.headers.get("hx-request") == "true":
        return page(request, scope, "_no_forecast.html", job=job, said=str(fault))
    values: dict[str, Any] = {"job": job, "stage": "windows", "status": outlook.status(scope, job), "said": str(fault)}
    return page(request, scope, "windows/unknown.html", **values)


async def handle_gone(_request: Request, _fault: Exception) -> Response:
    """Whoever sent this has hung up: nobody reads the answer, and it is no fault of ours."""
    return Response(status_code=400)


def handle_plan_error(request: Request, fault: Exception) -> Response:
    assert isinstance(fault, PlanError)
    return _answer(request, fault)


def handle_http(request: Request, fault: Exception) -> Response:
    assert isinstance(fault, HTTPException)
    if fault.status_code == 404:
        return _answer(request, NotFoundError("This page is not here. It may have been moved or removed."))
    if request.url.path.startswith("/api/"):
        return JSONResponse({"error": str(fault.detail), "field": ""}, fault.status_code, headers=fault.headers)
    return _fault_page(request, str(fault.detail), fault.status_code)


def handle_validation(request: Request, fault: Exception) -> Response:
    assert isinstance(fault, RequestValidationError)
    try:
        # No part of an address is spoken of for what is not there.
        ownership.check(scope_of(request), request.path_params)
    except NotFoundError as missing:
        return _answer(request, missing)
    first = fault.errors()[0]
    name = str(first["loc"][-1]) if first["loc"] else ""
    return _answer(request, PlanError(f"The address is not complete: {name} {first['msg'].lower()}.", name))


def handle_storage(request: Request, fault: Exception) -> Response:
    assert isinstance(fault, DatabaseError | OSError)
    said = _in_words(fault)
    return handle_unforeseen(request, fault) if said is None else _answer(request, said)


def _in_words(fault: DatabaseError | OSError) -> StorageError | None:
    if isinstance(fault, OSError):
        is_disk = fault.errno in (errno.ENOSPC, errno.EDQUOT, errno.EROFS, errno.EACCES, errno.EIO)
        words = f"The disk refuses: {(fault.strerror or 'no reason given').lower()}. Nothing was saved. Mend that, then try again."
        return StorageError(words, is_full=fault.errno == errno.ENOSPC) if is_disk else None
    return in_words(fault)


def _bare(message: str, status: int) -> Response:
    """Return a page that needs nothing: no database, no template."""
    text = f"<!doctype html><html lang=en><meta charset=utf-8><title>Amber Gable</title><h1>That did not work.</h1><p>{escape(message)}</p>"
    return HTMLResponse(text, status)


_NOTHING = "Something went wrong on our side; nothing was changed. Try again, and tell us if it stays."
_SAVED = (
    "This is saved. Only the page that should show it could not be made: load it again, and tell us if it stays. Do not enter it twice."
)


def handle_unforeseen(request: Request, fault: Exception) -> Response:
    log.error("unforeseen fault at %s", request.url.path, exc_info=fault)
    message = _SAVED if scope_of(request).has_written else _NOTHING
    if request.url.path.startswith("/api/"):
        return JSONResponse({"error": message, "field": ""}, 500)
    if request.headers.get("hx-request") == "true":
        # What was typed stays where it is; the page says this above it.
        return PlainTextResponse(message, 500)
    return _fault_page(request, message, 500)


# Another program holds the database for a moment.
_COMES_BACK_S = "3"


def _entry_told(handle: Callable[[Request, Any], Response]) -> Callable[[Request, Any], Response]:
    def told(request: Request, fault: Any) -> Response:
        answer = told_fault(request, fault, handle(request, fault))
        if answer.status_code == 503:
            answer.headers.setdefault("retry-after", _COMES_BACK_S)
        return answer

    return told


async def handle_busy(request: Request, fault: Exception) -> Response:
    return busy(request, fault)


def install(app: FastAPI) -> None:
    app.add_exception_handler(BusyError, handle_busy)
    app.add_exception_handler(GoneError, handle_busy)
    app.add_exception_handler(ClientDisconnect, handle_gone)
    for kind, handle in (
        (PlanError, handle_plan_error),
        (HTTPException, handle_http),
        (RequestValidationError, handle_validation),
        (DatabaseError, handle_storage),
        (OSError, handle_storage),
        (Exception, handle_unforeseen),
    ):
        app.add_exception_handler(kind, handled(_entry_told(handle), FAULTS))

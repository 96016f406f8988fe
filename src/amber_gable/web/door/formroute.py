"""Routes that forms are sent to: a form that is sent twice is taken once.

Every form of a page carries a key (see `with_keys`); the first time, its change and a digest of key and content are
written together; the second time, what was answered then is answered again.
Not here: where keys are kept (services.sentforms).
"""

import asyncio
import hashlib
import re
import secrets
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from datetime import datetime
from typing import Any

from fastapi import Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse
from fastapi.routing import APIRoute
from starlette.datastructures import FormData

from amber_gable.services.changes import ownership, sentforms
from amber_gable.services.changes.sentforms import AlreadySentError, Sending
from amber_gable.web.deps import scope_of

KEY = "form_key"
HEADER = "idempotency-key"
# When a form was filled in on a phone that had no signal then, and what the phone takes for now (see `Scope.made_at`).
MADE_AT = "made_at"
MADE_BY = "made_by"
PHONE_NOW = "x-phone-now"
_KEY_SHAPE = re.compile(r"[A-Za-z0-9_-]{8,64}")
_SENT_FORM = re.compile(r"<form\b[^>]*\bhx-post=[^>]*>")
_FORM_TYPES = ("application/x-www-form-urlencoded", "multipart/form-data")
_LOOKS_AGAIN_S = 0.02
# A longer answer is not kept: the page is loaded anew instead.
_MOST_KEPT = 4000
_KEPT_HEADERS = ("content-type", "hx-redirect", "hx-refresh", "hx-trigger", "hx-reswap", "location")
_MAKE_JOBS = ("/jobs", "/quick", "/jobs/import")


def with_keys(html: str) -> str:
    """Return a page in which every form that is sent has a key of its own."""
    return _SENT_FORM.sub(lambda form: f'{form[0]}<input type="hidden" name="{KEY}" value="{secrets.token_urlsafe(12)}">', html)


class FormRoute(APIRoute):
    """A route that finds rows through their job only, and takes each form once."""

    def get_route_handler(self) -> Callable[[Request], Awaitable[Response]]:  # type: ignore[override]
        make = super().get_route_handler()
        names_row = any(f"{{{name}" in self.path for name in ("job_id", *ownership.ROWS))

        async def handler(request: Request) -> Response:
            if names_row:
                # First of all: nothing is read, and no field is spoken of, for what is not there.
                await run_in_threadpool(ownership.check, scope_of(request), request.path_params)
            return await make(request)

        if "POST" not in (self.methods or ()):
            return handler

        async def once(request: Request) -> Response:
            try:
                return await taken_once(request)
            finally:
                # What was uploaded lies in temporary files, whoever was to read them.
                if (sent := getattr(request.state, "form", None)) is not None:
                    await sent.close()

        async def taken_once(request: Request) -> Response:
            form = await _sending(request)
            if form is None:
                return await handler(request)
            scope = scope_of(request)
            async with _one_at_a_time(request, form.key):
                before = await run_in_threadpool(sentforms.taken, scope, form)
                if before is None:
                    try:
                        with sentforms.sending(form):
                            answer = await handler(request)
                    except AlreadySentError:
                        before = await run_in_threadpool(sentforms.taken, scope, form)
                    else:
                        if form.is_kept:
                            await run_in_threadpool(sentforms.answered, scope, form, _kept(answer))
                        return answer
                return _again(request, before or {})

        return once


async def _sending(request: Request) -> Sending | None:
    """Return the form that a request brings; None where it carries no key."""
    key: Any = request.headers.get(HEADER)
    sent: list[Any] | None = None
    if request.headers.get("content-type", "").split(";")[0].strip().lower() in _FORM_TYPES:
        form = await request.form()
        # For the message where two people changed the same: what was typed.
        request.state.form = form
        _as_made(request, form)
        key = key or form.get(KEY)
        sent = [
            (name, value if isinstance(value, str) else (value.filename, value.size))
            for name, value in form.multi_items()
            # What is sent again by a phone says when it was made; the first time, it may not have.
            if name not in (KEY, MADE_AT, MADE_BY)
        ]
    if not isinstance(key, str) or not _KEY_SHAPE.fullmatch(key):
        return None
    if sent is None:
        sent = [await request.body()]
    # A page that the browser brought back has its old key, and what was typed since is not what was taken then.
    digest = hashlib.sha256(repr((key, request.url.path, sent)).encode("utf-8", "replace")).hexdigest()
    return Sending(digest, request.url.path)


def _as_made(request: Request, form: FormData) -> None:
    """Let an entry that waited on a phone count as whose it is, from when it was made."""
    scope = scope_of(request)
    if made_at := _moment(form.get(MADE_AT)):
        scope.made_at(made_at, _moment(request.headers.get(PHONE_NOW)))
    # Somebody else may hold the phone by now.
    if (made_by := form.get(MADE_BY)) in scope.owner.painters:
        scope.actor = str(made_by)


def _moment(text: object) -> datetime | None:
    try:
        moment = datetime.fromisoformat(text) if isinstance(text, str) and len(text) <= 40 else None
    except ValueError:
        return None
    return moment if moment is not None and moment.tzinfo is not None else None


@asynccontextmanager
async def _one_at_a_time(request: Request, key: str) -> AsyncIterator[None]:
    """Let one request at a time through for a key: the second of two quick clicks waits for the first."""
    under_way: set[str] = request.app.state.__dict__.setdefault("sending", set())
    while key in under_way:
        await asyncio.sleep(_LOOKS_AGAIN_S)
    under_way.add(key)
    try:
        yield
    finally:
        under_way.discard(key)


def _kept(answer: Response) -> dict[str, Any]:
    headers = {name: answer.headers[name] for name in _KEPT_HEADERS if name in answer.headers}
    body = bytes(getattr(answer, "body", b""))
    if len(body) > _MOST_KEPT:
        return {"status": 200, "headers": {"hx-refresh": "true"}, "body": ""}
    return {"status": answer.status_code, "headers": headers, "body": body.decode("utf-8", "replace")}


def _again(request: Request, before: dict[str, Any]) -> Response:
    if "headers" in before:
        return Response(before["body"], before["status"], before["headers"])
    # The answer was lost on its way, the change was not.
    job_id = before.get("job_id")
    if request.url.path.startswith("/api/"):
        return JSONResponse({"job_id": job_id}, 200)
    if request.url.path in _MAKE_JOBS and job_id:
        return Response(status_code=200, headers={"HX-Redirect": str(request.url_for("survey", job_id=job_id))})
    return Response(status_code=200, headers={"HX-Refresh": "true"})

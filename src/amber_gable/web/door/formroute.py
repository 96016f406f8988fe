"""Routes: what a request brings is read in the event loop, all the rest is done in one thread; a form that is sent twice is taken once.

Every form of a page carries a key (see `with_keys`); the first time, its change and a digest of key and content are
written together; the second time, what was answered then is answered again. An entry of the log carries the id that it was given
on its phone; the answer names that id and the digest of what was kept, and nothing else counts as delivered.
Not here: where keys are kept (services.changes.sentforms), or how many are worked on at a time (desk).
"""

import asyncio
import hashlib
import inspect
import json
import re
import secrets
from collections.abc import AsyncIterator, Awaitable, Callable, Mapping
from contextlib import asynccontextmanager
from contextvars import ContextVar
from datetime import datetime
from typing import Any

from fastapi import Request, Response
from fastapi.responses import JSONResponse
from fastapi.routing import APIRoute
from starlette.datastructures import FormData, UploadFile

from amber_gable.services.changes import ownership, sentforms
from amber_gable.services.changes.seen import FIELD, read_seen
from amber_gable.services.changes.sentforms import AlreadySentError, OtherContentError, Sending
from amber_gable.web.deps import Later, scope_of
from amber_gable.web.door.desk import ENTRY, for_programs, in_thread

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
# What is said of an entry: "kept", "refused", or "other" where another stands under its id; and the digest of what is kept.
ENTRY_STATE = "x-entry-state"
ENTRY_DIGEST = "x-entry-digest"
_LINE_ENDS = re.compile(r"\r\n|\r")
_BLOCK_BYTES = 1 << 20
_request: ContextVar[Request] = ContextVar("request")


def with_keys(html: str) -> str:
    """Return a page in which every form that is sent has a key of its own."""
    return _SENT_FORM.sub(lambda form: f'{form[0]}<input type="hidden" name="{KEY}" value="{secrets.token_urlsafe(12)}">', html)


def at_desk(endpoint: Callable[..., Any]) -> Callable[..., Any]:
    """Return an endpoint that is worked on in one thread, together with all that is read for it."""
    if inspect.iscoroutinefunction(endpoint):
        return endpoint

    async def works(**values: Any) -> Any:
        request = _request.get()
        return await in_thread(request, lambda: for_programs(_worked(request, endpoint, values)))

    # Parameters are read off the signature; `functools.wraps` would also pass for the function that it wraps.
    works.__signature__ = inspect.signature(endpoint)  # type: ignore[attr-defined]
    works.__name__, works.__doc__, works.__module__ = endpoint.__name__, endpoint.__doc__, endpoint.__module__
    return works


class FormRoute(APIRoute):
    """A route that is worked on in one thread, finds rows through their job only, and takes each form once."""

    def __init__(self, path: str, endpoint: Callable[..., Any], **given: Any) -> None:
        methods = set(given.pop("methods", None) or ["GET"])
        # Whoever may read a page may ask whether it is there.
        super().__init__(path, at_desk(endpoint), methods=methods | ({"HEAD"} if "GET" in methods else set()), **given)

    def get_route_handler(self) -> Callable[[Request], Awaitable[Response]]:  # type: ignore[override]
        make = super().get_route_handler()

        async def handler(request: Request) -> Response:
            _request.set(request)
            return await make(request)

        if "POST" not in (self.methods or ()):
            return handler

        async def once(request: Request) -> Response:
            try:
                form = request.state.sending = await _sending(request)
                if form is None:
                    return await handler(request)
                async with _one_at_a_time(request, form.key):
                    return await handler(request)
            finally:
                # What was uploaded lies in temporary files, whoever was to read them.
                if (sent := getattr(request.state, "form", None)) is not None:
                    await sent.close()

        return once


def _worked(request: Request, endpoint: Callable[..., Any], values: Mapping[str, Any]) -> Any:
    """Return what an endpoint answers; in a thread."""
    scope = scope_of(request)
    # First of all: no field is spoken of for what is not there.
    ownership.check(scope, request.path_params)
    form: Sending | None = getattr(request.state, "sending", None)
    if form is None:
        return endpoint(**_resolved(values))
    if form.entry:
        # Another firm's entries are none of this one's.
        form.key = hashlib.sha256(f"{scope.contractor_id} {form.entry}".encode()).hexdigest()
        form.content = _content(request.state.form)
        form.digest = digest_of(form.path, form.content)
    if (before := sentforms.taken(scope, form)) is not None:
        return _again(request, before)
    try:
        with sentforms.sending(form):
            answer = endpoint(**_resolved(values))
    except AlreadySentError:
        return _again(request, sentforms.taken(scope, form) or {})
    if form.is_kept:
        sentforms.answered(scope, form, _kept(answer))
    return _told(form, answer)


def _resolved(values: Mapping[str, Any]) -> dict[str, Any]:
    return {name: value.read() if isinstance(value, Later) else value for name, value in values.items()}


def _told(form: Sending, answer: Response) -> Response:
    """Return an answer that says whether an entry was kept, and what of it."""
    if form.entry:
        answer.headers[ENTRY] = form.entry
        answer.headers[ENTRY_STATE] = "kept" if form.is_kept else "refused"
        answer.headers[ENTRY_DIGEST] = form.digest
    return answer


def told_fault(request: Request, fault: Exception, answer: Response) -> Response:
    """Return the answer to a fault that says what became of the entry that met it; nothing where it may be sent again as it is."""
    form: Sending | None = getattr(request.state, "sending", None)
    if form is None or not form.entry:
        return answer
    if isinstance(fault, OtherContentError):
        answer.headers[ENTRY], answer.headers[ENTRY_STATE] = form.entry, "other"
        return answer
    return _told(form, answer) if form.is_kept or 400 <= answer.status_code < 500 else answer


def digest_of(path: str, content: list[list[str]]) -> str:
    """Return the digest of an entry, SHA-256 of address and content as JSON without spaces: the phone reckons it too (queue.js)."""
    return hashlib.sha256(
        json.dumps([path, content], ensure_ascii=False, separators=(",", ":")).encode("utf-8", "surrogatepass")
    ).hexdigest()


def _content(form: FormData) -> list[list[str]]:
    """Return the names and values of an entry; of a file its digest."""
    content = []
    for name, value in form.multi_items():
        if name in (KEY, MADE_AT, MADE_BY):
            continue
        # Forms are sent with other ends of lines than they were typed with.
        content.append([name, _LINE_ENDS.sub("\n", value) if isinstance(value, str) else _file_digest(value)])
    return content


def _file_digest(upload: UploadFile) -> str:
    digest = hashlib.sha256()
    while block := upload.file.read(_BLOCK_BYTES):
        digest.update(block)
    upload.file.seek(0)
    return digest.hexdigest()


async def _sending(request: Request) -> Sending | None:
    """Return the form that a request brings; None where it carries no key."""
    key: Any = request.headers.get(HEADER)
    sent: list[Any] | None = None
    is_api = request.url.path.startswith("/api/")
    if not is_api and request.headers.get("content-type", "").split(";")[0].strip().lower() in _FORM_TYPES:
        form = await request.form()
        # For the message where two people changed the same: what was typed.
        request.state.form = form
        _as_made(request, form)
        scope_of(request).seen = read_seen(form.get(FIELD))
        entry = request.headers.get(ENTRY, "")
        if _KEY_SHAPE.fullmatch(entry):
            return Sending(f"entry {entry}", request.url.path, entry)
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
    scope.named(str(form.get(MADE_BY) or ""))


def _moment(text: object) -> datetime | None:
    try:
        moment = datetime.fromisoformat(text) if isinstance(text, str) and len(text) <= 40 else None
    except ValueError:
        return None
    # Years at the ends of the calendar have no other zone.
    is_known = moment is not None and moment.tzinfo is not None and 1900 < moment.year < 2200
    return moment if is_known else None


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
    """Return what was answered when a form was taken before."""
    answer, form = _before(request, before), request.state.sending
    return _told(form, answer)


def _before(request: Request, before: dict[str, Any]) -> Response:
    if "headers" in before:
        return Response(before["body"], before["status"], before["headers"])
    # The answer was lost on its way, the change was not.
    job_id = before.get("job_id")
    if request.url.path.startswith("/api/"):
        return JSONResponse({"job_id": job_id}, 200)
    if request.url.path in _MAKE_JOBS and job_id:
        return Response(status_code=200, headers={"HX-Redirect": str(request.url_for("survey", job_id=job_id))})
    return Response(status_code=200, headers={"HX-Refresh": "true"})

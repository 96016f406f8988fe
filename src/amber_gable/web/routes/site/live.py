"""What a page hears while it is open: that something changed, and alarms, by server-sent events. Every page works without them."""

import asyncio
import json
import time
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import HTMLResponse, StreamingResponse

from amber_gable.services.app.app import App
from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.changes.changes import last_number
from amber_gable.services.log.alarms import Alarm, alarms
from amber_gable.web.deps import InScope, app_of
from amber_gable.web.templating import page

router = APIRouter()
_LOOKS_S, _ALARMS_S, _BEATS_S = 2.0, 60.0, 20.0
# Phones sleep and wake: a stream that lives for ever holds the server's end open.
_LIVES_S = 15 * 60.0
_MOST = 200


def _place(one: Alarm) -> str:
    """Return where a page goes on from an alarm."""
    return f"/jobs/{one.job.id}/" + (f"inspection?side={one.side}" if one.id.startswith("inspect") else "log")


def _told(app: App) -> list[dict[str, object]]:
    return [
        {"id": one.id, "words": one.words, "job": one.job.name, "is_urgent": one.is_urgent, "href": _place(one)}
        for one in alarms(Scope(app, OFFICE))
    ]


class Listening:
    """How many listen, and the last change, read once for all of them."""

    def __init__(self) -> None:
        self.count = 0
        self.number = 0
        self._read_at = 0.0

    async def last(self, app: App) -> int:
        if time.monotonic() - self._read_at >= _LOOKS_S / 2:
            self._read_at = time.monotonic()
            self.number = await run_in_threadpool(last_number, app)
        return self.number


async def _events(request: Request, app: App, listening: Listening) -> AsyncIterator[str]:
    began = beat = time.monotonic()
    looked_at, seen, known = -_ALARMS_S, await listening.last(app), ""
    listening.count += 1
    try:
        yield "retry: 10000\n\n"
        while time.monotonic() - began < _LIVES_S and not await request.is_disconnected():
            number = await listening.last(app)
            if number != seen:
                seen, looked_at = number, -_ALARMS_S
                yield f"event: changed\ndata: {number}\n\n"
            if time.monotonic() - looked_at >= _ALARMS_S:
                looked_at = time.monotonic()
                told = json.dumps(await run_in_threadpool(_told, app))
                if told != known:
                    known = told
                    yield f"event: alarms\ndata: {told}\n\n"
            if time.monotonic() - beat >= _BEATS_S:
                beat = time.monotonic()
                yield ": still here\n\n"
            await asyncio.sleep(_LOOKS_S)
    finally:
        listening.count -= 1


@router.get("/live", name="live")
async def live(request: Request) -> StreamingResponse:
    listening: Listening = request.app.state.__dict__.setdefault("listening", Listening())
    if listening.count >= _MOST:
        # Those who cannot listen look again by themselves.
        return StreamingResponse(iter(["retry: 120000\n\n"]), media_type="text/event-stream")
    # Nothing on the way may gather the stream up.
    headers = {"cache-control": "no-store", "x-accel-buffering": "no"}
    return StreamingResponse(_events(request, app_of(request), listening), media_type="text/event-stream", headers=headers)


@router.get("/alarms", name="alarms")
def alarms_now(request: Request, scope: InScope) -> HTMLResponse:
    """Return the alarms as a part of a page."""
    return page(request, scope, "_alarms.html", alarms=alarms(scope))

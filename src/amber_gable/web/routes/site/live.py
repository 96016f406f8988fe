"""What a page hears while it is open: that something changed, and alarms, by server-sent events. Every page works without them."""

import asyncio
import json
import math
import time
from collections.abc import AsyncIterator
from contextlib import suppress

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, StreamingResponse

from amber_gable.services.app.app import App
from amber_gable.services.app.lanes import NEWS
from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.changes.changes import last_number
from amber_gable.services.log.alarms import Alarm, alarms
from amber_gable.web.deps import InScope, app_of
from amber_gable.web.door.desk import BusyError, desk_of
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.templating import page

router = APIRouter(route_class=FormRoute)
_LOOKS_S, _ALARMS_S, _BEATS_S = 2.0, 60.0, 20.0
# Phones sleep and wake: a stream that lives for ever holds the server's end open.
_LIVES_S = 15 * 60.0
_MOST = 200
_EACH_MS = 120


def _place(one: Alarm) -> str:
    """Return where a page goes on from an alarm."""
    return f"/jobs/{one.job.id}/" + (f"inspection?side={one.side}" if one.id.startswith("inspect") else "log")


def _told(app: App) -> list[dict[str, object]]:
    return [
        {"id": one.id, "words": one.words, "job": one.job.name, "is_urgent": one.is_urgent, "href": _place(one)}
        for one in alarms(Scope(app, OFFICE))
    ]


class Listening:
    """How many listen; the last change and the alarms, looked for once for all of them."""

    def __init__(self, app: App) -> None:
        self.app = app
        self.count = 0
        self.number = 0
        self.told = "[]"
        self._read_at = -math.inf
        self._told_at, self._told_of = -math.inf, -1

    async def look(self, request: Request) -> None:
        """Look for news, unless somebody did so a moment ago; where all are at work, the next one does."""
        if time.monotonic() - self._read_at < _LOOKS_S / 2:
            return
        self._read_at = time.monotonic()
        line = desk_of(request).lines[NEWS.name]
        with suppress(BusyError):
            self.number = await line.run(request, lambda: last_number(self.app), is_left=False)
            if self.number != self._told_of or time.monotonic() - self._told_at >= _ALARMS_S:
                self._told_of, self._told_at = self.number, time.monotonic()
                self.told = await line.run(request, lambda: json.dumps(_told(self.app)), is_left=False)


async def _events(request: Request, listening: Listening) -> AsyncIterator[str]:
    began = beat = time.monotonic()
    await listening.look(request)
    seen, known = listening.number, ""
    listening.count += 1
    try:
        yield "retry: 10000\n\n"
        while time.monotonic() - began < _LIVES_S and not await request.is_disconnected():
            await listening.look(request)
            if listening.number != seen:
                seen = listening.number
                # Fifty pages that load again at the same moment would stand in each other's way.
                told = json.dumps({"number": seen, "spread_ms": _EACH_MS * listening.count})
                yield f"event: changed\ndata: {told}\n\n"
            if listening.told != known:
                known = listening.told
                yield f"event: alarms\ndata: {known}\n\n"
            if time.monotonic() - beat >= _BEATS_S:
                beat = time.monotonic()
                yield ": still here\n\n"
            await asyncio.sleep(_LOOKS_S)
    finally:
        listening.count -= 1


@router.get("/live", name="live")
async def live(request: Request) -> StreamingResponse:
    listening: Listening | None = request.app.state.__dict__.get("listening")
    if listening is None:
        listening = request.app.state.listening = Listening(app_of(request))
    if listening.count >= _MOST:
        # Those who cannot listen look again by themselves.
        return StreamingResponse(iter(["retry: 120000\n\n"]), media_type="text/event-stream")
    # Nothing on the way may gather the stream up.
    headers = {"cache-control": "no-store", "x-accel-buffering": "no"}
    return StreamingResponse(_events(request, listening), media_type="text/event-stream", headers=headers)


@router.get("/alarms", name="alarms")
def alarms_now(request: Request, scope: InScope) -> HTMLResponse:
    """Return the alarms as a part of a page."""
    return page(request, scope, "_alarms.html", alarms=alarms(scope))

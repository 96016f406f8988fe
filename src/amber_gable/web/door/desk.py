"""The desk: each request is worked on in one thread, from its first question to its answer; so many at a time, the others stand in line.

The event loop only moves bytes: it asks the database nothing and computes nothing, and no connection is held while a request waits for it.
Whoever finds the line full is told so at once, and when to come back.
Not here: how many there may be (services.app.lanes), or what a form's thread does (formroute).
"""

import asyncio
import math
import time
from collections import deque
from collections.abc import Callable
from typing import Any, TypeVar

from anyio import to_thread
from fastapi import Request
from fastapi.responses import HTMLResponse, JSONResponse, Response

from amber_gable.services.app.lanes import CHANGES, ENTRIES, LANES, PAGES, Lane
from amber_gable.units import MARK
from amber_gable.web.deps import scope_of

_T = TypeVar("_T")
# The header by which an entry of the log is told from other forms (formroute).
ENTRY = "x-entry"
_COMES_BACK_S = 3
# What is told to whoever comes back while the line is still long: the more wait, the later.
_MOST_S = 20


class BusyError(Exception):
    """The line is full, or one stood in it too long.

    Parameters
    ----------
    comes_back_s : int
        When to try again [s].
    """

    def __init__(self, comes_back_s: int) -> None:
        super().__init__("busy")
        self.comes_back_s = comes_back_s


class GoneError(Exception):
    """Whoever asked has gone while standing in line; nothing was done."""


class Line:
    """The line before one lane. Used by the event loop alone."""

    def __init__(self, lane: Lane) -> None:
        self.lane = lane
        self.at_work = 0
        self._turns: deque[asyncio.Future[None]] = deque()
        # How long one was lately worked on [s].
        self._lasts_s = 0.1

    @property
    def waiting(self) -> int:
        return len(self._turns)

    def full(self) -> BusyError | None:
        """Return when to come back where no more may stand in line."""
        return self._busy() if self.waiting >= self.lane.in_line else None

    def _busy(self) -> BusyError:
        return BusyError(min(_COMES_BACK_S + math.ceil(self.waiting * self._lasts_s / self.lane.at_work), _MOST_S))

    async def _turn(self) -> None:
        if self.at_work < self.lane.at_work:
            self.at_work += 1
            return
        if (full := self.full()) is not None:
            raise full
        turn = asyncio.get_running_loop().create_future()
        self._turns.append(turn)
        try:
            async with asyncio.timeout(self.lane.waits_at_most_s):
                await turn
        except BaseException as fault:
            if turn in self._turns:
                self._turns.remove(turn)
            elif not turn.cancelled():
                # The place was handed over in the moment in which nobody wanted it any more.
                self._done()
            if isinstance(fault, TimeoutError):
                raise self._busy() from fault
            raise

    def _done(self) -> None:
        """Hand the place to whoever stands next."""
        while self._turns:
            turn = self._turns.popleft()
            if not turn.done():
                turn.set_result(None)
                return
        self.at_work -= 1

    async def run(self, request: Request, work: Callable[[], _T], *, is_left: bool) -> _T:
        """Return what `work` gives, in a thread.

        Parameters
        ----------
        is_left : bool
            Whether nothing is done where the browser has hung up while it stood in line.

        Raises
        ------
        BusyError, GoneError
            Before anything was done.
        """
        has_waited = self.at_work >= self.lane.at_work
        await self._turn()
        try:
            if is_left and has_waited and await request.is_disconnected():
                raise GoneError
            began = time.monotonic()
            made = await to_thread.run_sync(work, abandon_on_cancel=True)
            self._lasts_s += (time.monotonic() - began - self._lasts_s) / 8
            return made
        finally:
            self._done()


class Desk:
    """The lines of one application."""

    def __init__(self) -> None:
        self.lines = {lane.name: Line(lane) for lane in LANES}

    def figures(self) -> dict[str, dict[str, int]]:
        """Return how many are worked on and wait, by lane."""
        return {name: {"at_work": line.at_work, "waiting": line.waiting} for name, line in self.lines.items()}


def desk_of(request: Request) -> Desk:
    desk: Desk = request.app.state.desk
    return desk


def lane_of(request: Request) -> Lane:
    if request.method in ("GET", "HEAD", "OPTIONS"):
        return PAGES
    return ENTRIES if ENTRY in request.headers else CHANGES


async def in_thread(request: Request, work: Callable[[], _T], lane: Lane | None = None) -> _T:
    """Return what `work` gives in a thread of its own; what the request's scope reads by ends with it.

    Raises
    ------
    BusyError, GoneError
        Before anything was done.
    """

    def whole() -> _T:
        try:
            return work()
        finally:
            scope_of(request).release()

    lane = lane or lane_of(request)
    return await desk_of(request).lines[lane.name].run(request, whole, is_left=lane is PAGES)


_BUSY_WORDS = "Too many ask at once. Nothing was changed. The page tries again by itself."


def busy(request: Request, fault: Exception) -> Response:
    """Answer whoever is told to come back. It needs no thread, no database and no template."""
    after_s = fault.comes_back_s if isinstance(fault, BusyError) else _COMES_BACK_S
    headers = {"retry-after": str(after_s), "cache-control": "no-store"}
    if request.url.path.startswith("/api/"):
        return JSONResponse({"error": f"Too many ask at once. Try again in {after_s} s.", "field": ""}, 503, headers)
    if request.headers.get("hx-request") == "true" or request.method != "GET":
        return Response(f"Too many ask at once. Nothing was saved; try again in {after_s} s.", 503, headers, "text/plain")
    text = (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><meta http-equiv="refresh" content="{after_s}">'
        '<meta name="viewport" content="width=device-width, initial-scale=1"><title>One moment · Amber Gable</title></head>'
        f"<body><main><h1>One moment.</h1><p>{_BUSY_WORDS}</p></main></body></html>"
    )
    return HTMLResponse(text, 503, headers)


_MARK = MARK.encode()


def for_programs(answer: _T) -> _T:
    """Return an answer whose quantities are given in both systems: no page, which has chosen one, and nothing that has a reader."""
    body = getattr(answer, "body", b"")
    if _MARK in body and isinstance(answer, Response):
        answer.body = body.replace(_MARK, b"")
        answer.headers["content-length"] = str(len(answer.body))
    return answer


def handled(handle: Callable[[Request, Any], Response], lane: Lane) -> Callable[[Request, Exception], Any]:
    """Return a handler of faults that is worked on in a thread; where that line is full too, whoever asked is told to come back."""

    async def handler(request: Request, fault: Exception) -> Response:
        try:
            return await in_thread(request, lambda: for_programs(handle(request, fault)), lane)
        except (BusyError, GoneError) as busyness:
            return busy(request, busyness)

    return handler

"""What comes in with a request: bodies counted as they arrive, uploads that stall dropped.

Written as plain ASGI: a body is stopped while it arrives, not after it was read.
"""

import asyncio
import re
import time

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from amber_gable.errors import PlanError

# What a form may bring, by what it is sent to; the first that fits.
_MEGABYTE = 1_000_000
LIMITS: tuple[tuple[re.Pattern[str], int], ...] = (
    # Several photographs of up to 12 MB each.
    (re.compile(r"/(findings|findings/[^/]+/photo|log/photos)$"), 64 * _MEGABYTE),
    (re.compile(r"^/(jobs/import|api/jobs)$"), 6 * _MEGABYTE),
    # It counts by itself, and answers in its own words.
    (re.compile(r"^/api/reckon/"), 3 * _MEGABYTE),
    (re.compile(r"/(shelf|weather|windows/year)(/[^/]+)?$"), 3 * _MEGABYTE),
)
_USUAL = _MEGABYTE
# An upload that brings nothing for so long, or on the whole fewer bytes a second, has stalled.
STALLS_S = 20.0
GRACE_S = 30.0
LEAST_BYTES_PER_S = 2_000


class TooLargeError(PlanError):
    """A body of more bytes than what it is sent to takes."""


class StalledError(PlanError):
    """An upload that does not come any further."""


def limit_of(path: str) -> int:
    """Return how many bytes a body sent to an address may have."""
    return next((limit for pattern, limit in LIMITS if pattern.search(path)), _USUAL)


class IntakeMiddleware:
    """Counts what arrives and for how long; a body over its limit or that stalls raises where it is read."""

    def __init__(self, app: ASGIApp, stalls_s: float = STALLS_S) -> None:
        self.app, self.stalls_s = app, stalls_s

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            await self.app(scope, receive, send)
            return
        limit = limit_of(scope["path"])
        said = Headers(scope=scope).get("content-length", "")
        too_large = TooLargeError(f"This is more than {limit / _MEGABYTE:g} MB. Send something smaller.", "form")
        began, received, is_whole = time.monotonic(), 0, False

        async def counted() -> Message:
            nonlocal received, is_whole
            if is_whole:
                # Only the end of the connection is waited for: that may take as long as the answer does.
                return await receive()
            if said.isascii() and said.isdigit() and int(said[:18]) > limit:
                raise too_large
            try:
                message = await asyncio.wait_for(receive(), self.stalls_s)
            except TimeoutError as fault:
                raise StalledError("The upload stalled and was dropped. Try again where the connection is better.", "form") from fault
            received += len(message.get("body", b""))
            is_whole = message["type"] == "http.disconnect" or not message.get("more_body", False)
            if received > limit:
                raise too_large
            if not is_whole and time.monotonic() - began > GRACE_S + received / LEAST_BYTES_PER_S:
                raise StalledError("The upload is too slow and was dropped. Try again where the connection is better.", "form")
            return message

        await self.app(scope, counted, send)

"""The gate: whoever finds the line full is told so before anything is done for him.

Written as plain ASGI and before all else: what is said no to must cost next to nothing, or the noes themselves fill the house.
Not here: how long the lines are (services.app.lanes), or those who stand in them (desk).
"""

from starlette.requests import Request
from starlette.types import ASGIApp, Receive, Scope, Send

from amber_gable.web.door.desk import Desk, busy, lane_of

# What is answered without a thread of its own: it stands in no line.
LOOSE = ("/static/", "/live", "/signal")


class GateMiddleware:
    """Says no to a request whose line is full."""

    def __init__(self, app: ASGIApp, desk: Desk) -> None:
        self.app, self.desk = app, desk

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and not scope["path"].startswith(LOOSE):
            request = Request(scope)
            if (full := self.desk.lines[lane_of(request).name].full()) is not None:
                await busy(request, full)(scope, receive, send)
                return
        await self.app(scope, receive, send)

"""What routes depend on: the request's scope, and the job in the address."""

from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Request
from starlette.types import ASGIApp, Receive, Send
from starlette.types import Scope as Connection

from amber_gable.services.app.app import App
from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.jobs import jobs
from amber_gable.store.models import Job

WHO = "who"


def app_of(request: Request) -> App:
    app: App = request.app.state.running
    return app


def scope_of(request: Request) -> Scope:
    """Return who acts with this request and for whom: one scope for all of it; `ScopeMiddleware` ends it."""
    scope: Scope | None = getattr(request.state, "scope", None)
    if scope is None:
        scope = request.state.scope = Scope(app_of(request), OFFICE, holds=True)
        # The name that this browser was given; a painter who has left acts no more.
        named = unquote(request.cookies.get(WHO, ""))
        if named in scope.owner.painters:
            scope.actor = named
    return scope


InScope = Annotated[Scope, Depends(scope_of)]


def job_in_address(job_id: str, scope: InScope) -> Job:
    return jobs.whole(scope, job_id)


TheJob = Annotated[Job, Depends(job_in_address)]


class ScopeMiddleware:
    """Ends what a request's scope holds, however the request ends."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Connection, receive: Receive, send: Send) -> None:
        try:
            await self.app(scope, receive, send)
        finally:
            held: Scope | None = scope.get("state", {}).get("scope")
            if held is not None:
                held.release()

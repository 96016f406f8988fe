"""What routes depend on: the request's scope, the job in the address. The event loop resolves it and reads nothing for it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any
from urllib.parse import unquote

from fastapi import Depends, Request

from amber_gable.services.app.app import App
from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.jobs import jobs
from amber_gable.store.models import Job

WHO = "who"


def app_of(request: Request) -> App:
    app: App = request.app.state.running
    return app


def scope_of(request: Request) -> Scope:
    """Return who acts with this request and for whom: one scope for all of it. Nothing is read for it yet."""
    scope: Scope | None = getattr(request.state, "scope", None)
    if scope is None:
        scope = request.state.scope = Scope(app_of(request), OFFICE, holds=True)
        # The name that this browser was given.
        scope.named(unquote(request.cookies.get(WHO, "")))
    return scope


async def _scope(request: Request) -> Scope:
    return scope_of(request)


InScope = Annotated[Scope, Depends(_scope)]


@dataclass(frozen=True)
class Later:
    """A value that an endpoint is given, read in the thread of the endpoint."""

    read: Callable[[], Any]


async def _job(job_id: str, scope: InScope) -> Later:
    return Later(lambda: jobs.whole(scope, job_id))


TheJob = Annotated[Job, Depends(_job)]


async def _body(request: Request) -> bytes:
    return await request.body()


# The body as it came; how much of it there may be is the intake's affair.
Body = Annotated[bytes, Depends(_body)]

"""Forms that were sent: each carries a key, and the same key twice changes nothing the second time.

The key is written in the transaction of the change it asks for: a form is taken once even where a
process dies between the change and the answer. What was answered is kept beside it for a while.
Not here: how a page gives its forms keys, or finds them in a request (web.door.formroute).
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from amber_gable.errors import PlanError
from amber_gable.services.app.app import App
from amber_gable.services.app.scope import Scope
from amber_gable.store import queries
from amber_gable.store.models import SentForm

# Longer than an entry may wait on a phone without a signal: it is sent again until an answer has come.
KEPT_FOR = timedelta(days=60)


@dataclass
class Sending:
    """One form on its way: what tells it from all others, where it was sent, and whether its change is written."""

    key: str
    path: str
    is_kept: bool = False


class AlreadySentError(PlanError):
    """The form was taken before; nothing is changed again."""


_sending: ContextVar[Sending | None] = ContextVar("sending", default=None)


def current() -> Sending | None:
    """Return the form that this request brought and that is not written yet."""
    form = _sending.get()
    return None if form is None or form.is_kept else form


@contextmanager
def sending(form: Sending) -> Iterator[None]:
    """Let the changes made within belong to a form."""
    token = _sending.set(form)
    try:
        yield
    finally:
        _sending.reset(token)


def keep(session: Session, form: Sending, at: datetime, job_id: str | None) -> None:
    """Write a form's key in the transaction of its change.

    Raises
    ------
    AlreadySentError
        If it was taken before, perhaps by another process.
    """
    if session.get(SentForm, form.key) is not None:
        raise AlreadySentError("This was sent before and is saved already.")
    session.add(SentForm(key=form.key, path=form.path, at=at, answer={"job_id": job_id}))
    session.flush()


def taken(scope: Scope, form: Sending) -> dict[str, Any] | None:
    """Return what was answered when a form was taken before; None for a new form."""
    with scope.reading() as session:
        row = session.get(SentForm, form.key)
        return None if row is None or row.path != form.path else dict(row.answer or {})


def answered(scope: Scope, form: Sending, answer: dict[str, Any]) -> None:
    """Keep what was answered to a form beside its key."""
    with scope.writing() as session:
        row = session.get(SentForm, form.key)
        if row is not None:
            row.answer = {**(row.answer or {}), **answer}


def forget_old(app: App) -> int:
    """Forget the forms of days ago; return how many."""
    with app.writing() as session:
        return queries.forget_forms(session, app.clock.now() - KEPT_FOR)

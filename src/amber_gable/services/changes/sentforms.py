"""Forms that were sent: each carries a key, and the same key twice changes nothing the second time.

The key is written in the transaction of the change it asks for: a form is taken once even where a
process dies between the change and the answer. What was answered is kept beside it for a while.
An entry of the log is given its id on the phone, at the moment of the act: the same id with other content is refused, and both are told.
Not here: how a page gives its forms keys, or finds them in a request (web.door.formroute).
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from amber_gable.errors import ConflictError, PlanError
from amber_gable.services.app.app import App
from amber_gable.services.app.scope import Scope
from amber_gable.store import queries
from amber_gable.store.models import SentForm

# Longer than an entry may wait on a phone without a signal: it is sent again until an answer has come.
KEPT_FOR = timedelta(days=60)


@dataclass
class Sending:
    """One form on its way: what tells it from all others, where it was sent, and whether its change is written.

    Parameters
    ----------
    key, path : str
    entry, digest : str
        The id that an entry was given on its phone, and the digest of its content; empty for a form of a page.
    content : list of list of str
        Names and values of an entry.
    """

    key: str
    path: str
    entry: str = ""
    digest: str = ""
    content: list[list[str]] = field(default_factory=list)
    is_kept: bool = False


class AlreadySentError(PlanError):
    """The form was taken before; nothing is changed again."""


class OtherContentError(ConflictError):
    """An entry of this id was kept before, and says something else.

    Parameters
    ----------
    kept : list of list of str
        Names and values of the entry that was kept.
    """

    def __init__(self, kept: list[list[str]], at: datetime) -> None:
        self.kept = kept
        super().__init__(
            "The server has another entry under this id. Neither was changed: look at both, and enter again what is missing.", at=at
        )


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
    content = form.content or None
    session.add(SentForm(key=form.key, path=form.path, at=at, digest=form.digest, content=content, answer={"job_id": job_id}))
    session.flush()


def taken(scope: Scope, form: Sending) -> dict[str, Any] | None:
    """Return what was answered when a form was taken before; None for a new form.

    Raises
    ------
    OtherContentError
        If an entry of this id was kept with other content.
    """
    with scope.reading() as session:
        row = session.get(SentForm, form.key)
    if row is None or (row.path != form.path and not form.entry):
        return None
    if form.entry and row.digest != form.digest:
        raise OtherContentError(row.content or [], row.at)
    form.is_kept = True
    return dict(row.answer or {})


def answered(scope: Scope, form: Sending, answer: dict[str, Any]) -> None:
    """Keep what was answered to a form beside its key."""
    # Without it the page is loaded anew: nobody waits for the disk.
    with scope.writing(durable=False) as session:
        row = session.get(SentForm, form.key)
        if row is not None:
            row.answer = {**(row.answer or {}), **answer}


def forget_old(app: App) -> int:
    """Forget the forms of days ago; return how many."""
    with app.writing() as session:
        return queries.forget_forms(session, app.clock.now() - KEPT_FOR)

"""Questions about what was changed, and the forms that were sent."""

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from amber_gable.store.models import (
    Change,
    SentForm,
)


def last_change_set(session: Session, job_id: str) -> Sequence[Change]:
    """Return the newest action on a job that was not undone, in the order it was done."""
    newest = select(func.max(Change.number)).where(Change.job_id == job_id, Change.undone_at.is_(None)).scalar_subquery()
    of_set = select(Change.set_id).where(Change.number == newest).scalar_subquery()
    return session.scalars(select(Change).where(Change.set_id == of_set).order_by(Change.number)).all()


def last_change_of(session: Session, row_id: str) -> Change | None:
    """Return the newest change of one row that was not undone."""
    query = select(Change).where(Change.row_id == row_id, Change.undone_at.is_(None)).order_by(Change.number.desc()).limit(1)
    return session.scalars(query).first()


def last_change_number(session: Session) -> int:
    return session.scalar(select(func.max(Change.number))) or 0


def change_set(session: Session, set_id: str) -> Sequence[Change]:
    return session.scalars(select(Change).where(Change.set_id == set_id).order_by(Change.number)).all()


def forget_forms(session: Session, before: datetime) -> int:
    """Delete the keys of forms that were sent before a moment; return how many there were."""
    return int(session.execute(delete(SentForm).where(SentForm.at < before)).rowcount)  # type: ignore[attr-defined]


def last_job_removal(session: Session) -> Change | None:
    query = (
        select(Change)
        .where(Change.table_name == "jobs", Change.after.is_(None), Change.undone_at.is_(None))
        .order_by(Change.number.desc())
        .limit(1)
    )
    return session.scalars(query).first()

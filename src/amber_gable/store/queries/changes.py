"""Questions about what was changed, and the forms that were sent."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import delete, exists, func, select, update
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import set_committed_value

from amber_gable.store.models import (
    Base,
    Change,
    EditableRow,
    SentForm,
)


def last_action(session: Session, job_id: str) -> Change | None:
    """Return the last change of the newest action on a job that was not undone."""
    query = select(Change).where(Change.job_id == job_id, Change.undone_at.is_(None)).order_by(Change.number.desc()).limit(1)
    return session.scalars(query).first()


def last_actions_on(session: Session, contractor_id: str, who: str, table: str) -> Sequence[Change]:
    """Return the changes of the newest action of somebody on a table, undone or not; empty where there was none."""
    of_theirs = (Change.contractor_id == contractor_id, Change.who == who, Change.table_name == table)
    newest = select(Change.set_id).where(*of_theirs).order_by(Change.number.desc()).limit(1).scalar_subquery()
    return session.scalars(select(Change).where(*of_theirs, Change.set_id == newest)).all()


def last_change_of(session: Session, row_id: str) -> Change | None:
    """Return the newest change of one row that was not undone."""
    query = select(Change).where(Change.row_id == row_id, Change.undone_at.is_(None)).order_by(Change.number.desc()).limit(1)
    return session.scalars(query).first()


def claim(session: Session, row: EditableRow, version: int) -> bool:
    """Count the version of a row up, if it still is `version`; return whether it was."""
    model = type(row)
    counted = update(model).where(model.id == row.id, model.version == version).values(version=version + 1)
    if not session.execute(counted, execution_options={"synchronize_session": False}).rowcount:  # type: ignore[attr-defined]
        return False
    set_committed_value(row, "version", version + 1)
    return True


def last_change_number(session: Session) -> int:
    return session.scalar(select(func.max(Change.number))) or 0


def change_set(session: Session, contractor_id: str, set_id: str) -> Sequence[Change]:
    """Return the changes of one action of a contractor, in the order they were made."""
    query = select(Change).where(Change.set_id == set_id, Change.contractor_id == contractor_id)
    return session.scalars(query.order_by(Change.number)).all()


def leaning_on(session: Session, model: type[Base], row_id: str) -> str | None:
    """Return the id of a row that points to another by a foreign key, whichever table it is in; None where none does.

    A row that would only lose its link (the record of the site, which keeps the name of its wall) counts as long as what wrote it stands:
    a reading that was undone stays in the record, and stands in no one's way.
    """
    for table in Base.metadata.tables.values():
        for key in table.foreign_keys:
            if key.column.table is model.__table__:
                query = select(table.c.id).where(key.parent == row_id).limit(1)
                if key.ondelete == "SET NULL":
                    query = query.where(exists().where(Change.row_id == table.c.id, Change.undone_at.is_(None)))
                leaning = session.scalar(query)
                if leaning is not None:
                    return str(leaning)
    return None


def missing_parent(session: Session, model: type[Base], columns: Mapping[str, Any]) -> str | None:
    """Return the id of a row that the columns of another point to and that is not there; None where all are."""
    for key in model.__table__.foreign_keys:
        named = columns.get(key.parent.key)
        if named is not None and session.scalar(select(key.column).where(key.column == named)) is None:
            return str(named)
    return None


def forget_forms(session: Session, before: datetime) -> int:
    """Delete the keys of forms that were sent before a moment; return how many there were."""
    return int(session.execute(delete(SentForm).where(SentForm.at < before)).rowcount)  # type: ignore[attr-defined]


def last_job_removal(session: Session, contractor_id: str) -> Change | None:
    """Return the newest removal of a whole job of a contractor that was not undone."""
    query = (
        select(Change)
        .where(Change.contractor_id == contractor_id, Change.table_name == "jobs", Change.after.is_(None), Change.undone_at.is_(None))
        .order_by(Change.number.desc())
        .limit(1)
    )
    return session.scalars(query).first()

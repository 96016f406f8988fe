"""Questions about forecasts and observed hours."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import NamedTuple

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session

from amber_gable.store.models import (
    ForecastIssue,
    ObservedHour,
    TypicalYear,
)


class IssueHead(NamedTuple):
    """A forecast without its hours."""

    id: str
    issued_at: datetime
    ends_at: datetime | None
    fetched_at: datetime
    source: str


# A forecast that ends sooner than this decides nothing any more.
USABLE = timedelta(hours=2)


def _given_to(contractor_id: str) -> ColumnElement[bool]:
    """A forecast of the service is everybody's; one from a file is its contractor's."""
    return or_(ForecastIssue.contractor_id.is_(None), ForecastIssue.contractor_id == contractor_id)


def latest_issue(session: Session, contractor_id: str, place: str, at: datetime) -> ForecastIssue | None:
    """Return the newest forecast for a place that was known at a moment, before all others one that still reaches ahead of it."""
    head = latest_issue_head(session, contractor_id, place, at)
    return None if head is None else session.get(ForecastIssue, head.id)


def newest_issue_at(session: Session, place: str) -> datetime | None:
    """Return when the newest forecast of a place was issued, whoever has it, and whether it still reaches ahead or not."""
    return session.scalar(select(func.max(ForecastIssue.issued_at)).where(ForecastIssue.place == place))


def issue_of(session: Session, place: str, issued_at: datetime) -> ForecastIssue | None:
    """Return the service's forecast for a place that was issued at a moment."""
    query = select(ForecastIssue).where(ForecastIssue.place == place, ForecastIssue.contractor_id.is_(None))
    return session.scalars(query.where(ForecastIssue.issued_at == issued_at)).first()


def issue(session: Session, contractor_id: str, issue_id: str) -> ForecastIssue | None:
    return session.scalars(select(ForecastIssue).where(ForecastIssue.id == issue_id, _given_to(contractor_id))).first()


def latest_issue_head(session: Session, contractor_id: str, place: str, at: datetime) -> IssueHead | None:
    """Return what `latest_issue` would return, without its hours."""
    reaches = ForecastIssue.ends_at > at + USABLE
    query = (
        select(ForecastIssue.id, ForecastIssue.issued_at, ForecastIssue.ends_at, ForecastIssue.fetched_at, ForecastIssue.source)
        .where(ForecastIssue.place == place, ForecastIssue.issued_at <= at, _given_to(contractor_id))
        .limit(1)
    )
    row = session.execute(query.where(reaches).order_by(ForecastIssue.issued_at.desc())).first()
    row = row or session.execute(query.order_by(ForecastIssue.issued_at.desc())).first()
    return None if row is None else IssueHead(*row)


def observed(session: Session, place: str, start: datetime, end: datetime) -> Sequence[ObservedHour]:
    query = (
        select(ObservedHour)
        .where(ObservedHour.place == place, ObservedHour.time >= start, ObservedHour.time <= end)
        .order_by(ObservedHour.time)
    )
    return session.scalars(query).all()


def observed_times(session: Session, place: str, start: datetime, end: datetime) -> list[datetime]:
    query = select(ObservedHour.time).where(ObservedHour.place == place, ObservedHour.time >= start, ObservedHour.time <= end)
    return sorted(session.scalars(query))


def typical_year(session: Session, contractor_id: str, place: str) -> TypicalYear | None:
    return session.scalars(select(TypicalYear).where(TypicalYear.contractor_id == contractor_id, TypicalYear.place == place)).first()


def last_answer_at(session: Session) -> datetime | None:
    """Return when the newest forecast of a service came; None where none ever did."""
    return session.scalar(select(func.max(ForecastIssue.fetched_at)).where(ForecastIssue.source == "service"))

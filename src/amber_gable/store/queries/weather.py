"""Questions about forecasts and observed hours."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import NamedTuple

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from amber_gable.store.models import (
    ForecastIssue,
    ObservedHour,
)


class IssueHead(NamedTuple):
    """A forecast without its hours."""

    id: str
    issued_at: datetime
    ends_at: datetime | None


# A forecast that ends sooner than this decides nothing any more.
USABLE = timedelta(hours=2)


def latest_issue(session: Session, place: str, at: datetime) -> ForecastIssue | None:
    """Return the newest forecast for a place that was known at a moment, before all others one that still reaches ahead of it."""
    head = latest_issue_head(session, place, at)
    return None if head is None else session.get(ForecastIssue, head.id)


def newest_issue_at(session: Session, place: str) -> datetime | None:
    """Return when the newest forecast of a place was issued, whether it still reaches ahead or not."""
    return session.scalar(select(func.max(ForecastIssue.issued_at)).where(ForecastIssue.place == place))


def issue_of(session: Session, place: str, issued_at: datetime) -> ForecastIssue | None:
    return session.scalars(select(ForecastIssue).where(ForecastIssue.place == place, ForecastIssue.issued_at == issued_at)).first()


def issue(session: Session, issue_id: str) -> ForecastIssue | None:
    return session.get(ForecastIssue, issue_id)


def latest_issue_head(session: Session, place: str, at: datetime) -> IssueHead | None:
    """Return what `latest_issue` would return, without its hours."""
    reaches = ForecastIssue.ends_at > at + USABLE
    query = (
        select(ForecastIssue.id, ForecastIssue.issued_at, ForecastIssue.ends_at)
        .where(ForecastIssue.place == place, ForecastIssue.issued_at <= at)
        .limit(1)
    )
    row = session.execute(query.where(reaches).order_by(ForecastIssue.issued_at.desc())).first()
    row = row or session.execute(query.order_by(ForecastIssue.issued_at.desc())).first()
    return None if row is None else IssueHead(row[0], row[1], row[2])


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

"""The questions asked of the database, each one function, each loading all that it needs."""

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from amber_gable.store.models import (
    Building,
    Change,
    Contractor,
    Elevation,
    ForecastIssue,
    Job,
    ObservedHour,
    Reading,
    Schedule,
)


def contractor(session: Session) -> Contractor | None:
    return session.scalars(select(Contractor).limit(1)).first()


def jobs(session: Session) -> Sequence[Job]:
    return session.scalars(select(Job).order_by(Job.created_at, Job.id)).all()


def job_whole(session: Session, job_id: str) -> Job | None:
    """Return a job with its building, elevations, openings and surfaces."""
    sides = selectinload(Job.building).selectinload(Building.elevations)
    query = select(Job).where(Job.id == job_id).options(sides.selectinload(Elevation.openings), sides.selectinload(Elevation.surfaces))
    return session.scalars(query).first()


def latest_issue(session: Session, place: str, at: datetime) -> ForecastIssue | None:
    """Return the newest forecast for a place that was known at a moment."""
    query = (
        select(ForecastIssue)
        .where(ForecastIssue.place == place, ForecastIssue.issued_at <= at)
        .order_by(ForecastIssue.issued_at.desc())
        .limit(1)
    )
    return session.scalars(query).first()


def latest_issue_head(session: Session, place: str, at: datetime) -> tuple[str, datetime] | None:
    """Return id and time of what `latest_issue` would return, without its hours."""
    query = (
        select(ForecastIssue.id, ForecastIssue.issued_at)
        .where(ForecastIssue.place == place, ForecastIssue.issued_at <= at)
        .order_by(ForecastIssue.issued_at.desc())
        .limit(1)
    )
    row = session.execute(query).first()
    return None if row is None else (row[0], row[1])


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


def schedule_of(session: Session, job_id: str) -> Schedule | None:
    return session.scalars(select(Schedule).where(Schedule.job_id == job_id)).first()


def has_schedule_and_readings(session: Session, job_id: str) -> tuple[bool, bool]:
    scheduled = select(Schedule.id).where(Schedule.job_id == job_id).exists()
    read = select(Reading.id).where(Reading.job_id == job_id).exists()
    row = session.execute(select(scheduled, read)).one()
    return bool(row[0]), bool(row[1])


def home_zone(session: Session) -> str | None:
    """Return the time zone of the newest job: where the contractor works."""
    return session.scalar(select(Job.time_zone).order_by(Job.created_at.desc()).limit(1))


def readings(session: Session, job_id: str, limit: int) -> Sequence[Reading]:
    query = select(Reading).where(Reading.job_id == job_id).order_by(Reading.taken_at.desc(), Reading.id).limit(limit)
    return session.scalars(query).all()


def last_change_set(session: Session, job_id: str) -> Sequence[Change]:
    """Return the newest action on a job that was not undone, in the order it was done."""
    newest = select(func.max(Change.number)).where(Change.job_id == job_id, Change.undone_at.is_(None)).scalar_subquery()
    of_set = select(Change.set_id).where(Change.number == newest).scalar_subquery()
    return session.scalars(select(Change).where(Change.set_id == of_set).order_by(Change.number)).all()


def last_change_number(session: Session) -> int:
    return session.scalar(select(func.max(Change.number))) or 0


def change_set(session: Session, set_id: str) -> Sequence[Change]:
    return session.scalars(select(Change).where(Change.set_id == set_id).order_by(Change.number)).all()


def last_job_removal(session: Session) -> Change | None:
    query = (
        select(Change)
        .where(Change.table_name == "jobs", Change.after.is_(None), Change.undone_at.is_(None))
        .order_by(Change.number.desc())
        .limit(1)
    )
    return session.scalars(query).first()

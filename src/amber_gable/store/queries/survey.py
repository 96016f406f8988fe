"""Questions about what was found, photographed, tested and noted on a job."""

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from amber_gable.store.models import (
    Change,
    Clearance,
    Feature,
    Finding,
    Photo,
    SiteTest,
    WalkAnswer,
)


def findings_on(session: Session, elevation_id: str) -> Sequence[Finding]:
    return session.scalars(select(Finding).where(Finding.elevation_id == elevation_id)).all()


def findings(session: Session, job_id: str) -> Sequence[Finding]:
    return session.scalars(select(Finding).where(Finding.job_id == job_id).order_by(Finding.number)).all()


def photos(session: Session, job_id: str) -> Sequence[Photo]:
    return session.scalars(select(Photo).where(Photo.job_id == job_id).order_by(Photo.added_at, Photo.id)).all()


def photo_digests(session: Session) -> set[str]:
    """Return the digests of all photographs, and of those that undoing could bring back."""
    digests = set(session.scalars(select(Photo.digest)))
    query = select(Change.before, Change.after).where(Change.table_name == Photo.__tablename__)
    for before, after in session.execute(query):
        digests |= {columns["digest"] for columns in (before, after) if columns}
    return digests


def site_tests(session: Session, job_id: str) -> Sequence[SiteTest]:
    return session.scalars(select(SiteTest).where(SiteTest.job_id == job_id).order_by(SiteTest.taken_at.desc(), SiteTest.id)).all()


def clearances(session: Session, job_id: str) -> Sequence[Clearance]:
    return session.scalars(select(Clearance).where(Clearance.job_id == job_id).order_by(Clearance.recorded_at, Clearance.id)).all()


def features(session: Session, job_id: str) -> Sequence[Feature]:
    return session.scalars(select(Feature).where(Feature.job_id == job_id).order_by(Feature.kind, Feature.id)).all()


def walk_answers(session: Session, job_id: str) -> Sequence[WalkAnswer]:
    return session.scalars(select(WalkAnswer).where(WalkAnswer.job_id == job_id)).all()


def site_tests_since(session: Session, job_id: str, kind: str, since: datetime) -> Sequence[SiteTest]:
    query = select(SiteTest).where(SiteTest.job_id == job_id, SiteTest.kind == kind, SiteTest.taken_at >= since)
    return session.scalars(query.order_by(SiteTest.taken_at, SiteTest.id)).all()

"""Questions about systems, stock, bids, extras, plans and readings."""

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from amber_gable.store.models import (
    Bid,
    Candidate,
    Extra,
    ForecastIssue,
    Job,
    Loaded,
    LogEntry,
    Photo,
    PlanSearch,
    Reading,
    Revision,
    Sample,
    Schedule,
    ShelfRow,
    Sighting,
    StockRow,
    SystemChoice,
    TipChange,
    WorkEntry,
)


def system_choices(session: Session, job_id: str) -> Sequence[SystemChoice]:
    return session.scalars(select(SystemChoice).where(SystemChoice.job_id == job_id)).all()


def samples(session: Session, job_id: str) -> Sequence[Sample]:
    return session.scalars(select(Sample).where(Sample.job_id == job_id).order_by(Sample.made_on, Sample.part_name, Sample.id)).all()


def candidates(session: Session, job_id: str) -> Sequence[Candidate]:
    return session.scalars(select(Candidate).where(Candidate.job_id == job_id).order_by(Candidate.added_at, Candidate.id)).all()


def shelf_rows(session: Session, contractor_id: str) -> Sequence[ShelfRow]:
    return session.scalars(select(ShelfRow).where(ShelfRow.contractor_id == contractor_id).order_by(ShelfRow.kind, ShelfRow.key)).all()


def stock(session: Session, contractor_id: str) -> Sequence[StockRow]:
    query = select(StockRow).where(StockRow.contractor_id == contractor_id)
    return session.scalars(query.order_by(StockRow.product, StockRow.colour, StockRow.id)).all()


def tip_changes(session: Session, contractor_id: str) -> Sequence[TipChange]:
    """Return the changes of spray tips, the oldest first."""
    return session.scalars(select(TipChange).where(TipChange.contractor_id == contractor_id).order_by(TipChange.at, TipChange.id)).all()


def sprayed(session: Session, contractor_id: str) -> Sequence[WorkEntry]:
    """Return the lines of the record of all jobs that say how much paint went on, the oldest first."""
    query = select(WorkEntry).join(Job, Job.id == WorkEntry.job_id).where(Job.contractor_id == contractor_id, WorkEntry.litres.is_not(None))
    return session.scalars(query.order_by(WorkEntry.until_at, WorkEntry.id)).all()


def revisions(session: Session, job_id: str) -> Sequence[Revision]:
    return session.scalars(select(Revision).where(Revision.job_id == job_id).order_by(Revision.number)).all()


def extras(session: Session, job_id: str) -> Sequence[Extra]:
    return session.scalars(select(Extra).where(Extra.job_id == job_id).order_by(Extra.asked_at, Extra.id)).all()


def bid(session: Session, job_id: str) -> Bid | None:
    return session.scalars(select(Bid).where(Bid.job_id == job_id)).first()


def loaded(session: Session, job_id: str, day: str | None = None) -> Sequence[Loaded]:
    query = select(Loaded).where(Loaded.job_id == job_id)
    return session.scalars(query if day is None else query.where(Loaded.day == day)).all()


def all_loaded(session: Session, contractor_id: str) -> Sequence[Loaded]:
    """Return what was loaded for any job of a contractor on any day, the newest day last."""
    own = select(Job.id).where(Job.contractor_id == contractor_id)
    return session.scalars(select(Loaded).where(Loaded.job_id.in_(own)).order_by(Loaded.day, Loaded.id)).all()


SKY_KINDS = ("rain", "thunder")


def sightings(session: Session, job_id: str, since: datetime) -> Sequence[Sighting]:
    """Return the weather that was seen or heard on a job and was not over at a moment, the newest last."""
    query = select(Sighting).where(
        Sighting.job_id == job_id, Sighting.kind.in_(SKY_KINDS), or_(Sighting.until_at.is_(None), Sighting.until_at > since)
    )
    query = query.order_by(Sighting.said_at, Sighting.id)
    return session.scalars(query).all()


def found_on_surfaces(session: Session, job_id: str, since: datetime) -> Sequence[Sighting]:
    """Return what palm, meter and hose found or did on a job's surfaces from a moment on, the newest last."""
    query = select(Sighting).where(Sighting.job_id == job_id, Sighting.surface_id.is_not(None), Sighting.from_at >= since)
    return session.scalars(query.order_by(Sighting.from_at, Sighting.said_at, Sighting.id)).all()


def schedule_of(session: Session, job_id: str) -> Schedule | None:
    return session.scalars(select(Schedule).where(Schedule.job_id == job_id)).first()


def has_schedule_and_record(session: Session, job_id: str, place: str) -> tuple[bool, bool, bool]:
    """Return whether a job has a plan, whether its place ever had a forecast, and whether anything stands on its record: work, a reading,
    a line of the log."""
    scheduled = select(Schedule.id).where(Schedule.job_id == job_id).exists()
    on_record = [select(model.id).where(model.job_id == job_id).exists() for model in (Reading, WorkEntry, LogEntry)]
    forecast = select(ForecastIssue.id).where(ForecastIssue.place == place).exists()
    row = session.execute(select(scheduled, forecast, *on_record)).one()
    return bool(row[0]), bool(row[1]), any(row[2:])


def readings(session: Session, job_id: str, limit: int) -> Sequence[Reading]:
    query = select(Reading).where(Reading.job_id == job_id).order_by(Reading.taken_at.desc(), Reading.id).limit(limit)
    return session.scalars(query).all()


def plan_searches(session: Session, contractor_id: str) -> Sequence[PlanSearch]:
    """Return the searches for better plans, the newest first."""
    return session.scalars(
        select(PlanSearch).where(PlanSearch.contractor_id == contractor_id).order_by(PlanSearch.asked_at.desc(), PlanSearch.id)
    ).all()


def work_entries(session: Session, job_id: str) -> Sequence[WorkEntry]:
    """Return the record of a job's work, the oldest line first."""
    return session.scalars(select(WorkEntry).where(WorkEntry.job_id == job_id).order_by(WorkEntry.said_at, WorkEntry.id)).all()


def work_entries_between(
    session: Session, contractor_id: str, since: datetime, until: datetime
) -> Sequence[tuple[WorkEntry, str, str]]:  # fmt: skip
    """Return the lines of the record of all jobs that began in a span, each with the name and the zone of its job."""
    query = (
        select(WorkEntry, Job.name, Job.time_zone)
        .join(Job, Job.id == WorkEntry.job_id)
        .where(Job.contractor_id == contractor_id, WorkEntry.from_at >= since, WorkEntry.from_at < until)
        .order_by(WorkEntry.from_at, WorkEntry.id)
    )
    return [(entry, name, zone) for entry, name, zone in session.execute(query)]


def work_corrections(session: Session, contractor_id: str) -> list[tuple[str, str]]:
    """Return the corrections among the entries of all jobs: id, and id of the entry that it takes back or stands for."""
    query = (
        select(WorkEntry.entry, WorkEntry.corrects)
        .join(Job, Job.id == WorkEntry.job_id)
        .where(Job.contractor_id == contractor_id, WorkEntry.corrects != "")
    )
    return [(entry, corrects) for entry, corrects in session.execute(query)]


def log_entries(session: Session, job_id: str) -> Sequence[LogEntry]:
    """Return the lines of a job's site log, the oldest first."""
    return session.scalars(select(LogEntry).where(LogEntry.job_id == job_id).order_by(LogEntry.at, LogEntry.said_at, LogEntry.id)).all()


def log_entry(session: Session, job_id: str, entry: str) -> LogEntry | None:
    """Return a line of a job's site log by the id that the device made."""
    return session.scalars(select(LogEntry).where(LogEntry.job_id == job_id, LogEntry.entry == entry)).first()


def photos_of_entries(session: Session, job_id: str) -> Sequence[Photo]:
    """Return the photographs of a job's log entries, the oldest first."""
    return session.scalars(select(Photo).where(Photo.job_id == job_id, Photo.entry != "").order_by(Photo.added_at, Photo.id)).all()


def work_entry(session: Session, job_id: str, entry: str) -> Sequence[WorkEntry]:
    """Return the lines of one entry of a job's record."""
    return session.scalars(select(WorkEntry).where(WorkEntry.job_id == job_id, WorkEntry.entry == entry).order_by(WorkEntry.id)).all()

"""The questions asked of the database, each one function, each loading all that it needs."""

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session, selectinload

from amber_gable.store.models import (
    Bid,
    BlockRow,
    Building,
    Candidate,
    Change,
    Clearance,
    Contractor,
    EditableRow,
    Elevation,
    Extra,
    Feature,
    Finding,
    ForecastIssue,
    Item,
    Job,
    Loaded,
    ObservedHour,
    Opening,
    Photo,
    Reading,
    Revision,
    Sample,
    Schedule,
    ShelfRow,
    Sighting,
    SiteTest,
    StockRow,
    Surface,
    SystemChoice,
    WalkAnswer,
)


def contractor(session: Session) -> Contractor | None:
    return session.scalars(select(Contractor).limit(1)).first()


def jobs(session: Session) -> Sequence[Job]:
    return session.scalars(select(Job).order_by(Job.created_at, Job.id)).all()


def job_whole(session: Session, job_id: str) -> Job | None:
    """Return a job with its building, blocks, elevations, openings, surfaces, items, and what stands round it."""
    building = selectinload(Job.building)
    sides = building.selectinload(Building.elevations)
    query = (
        select(Job)
        .where(Job.id == job_id)
        .options(
            sides.selectinload(Elevation.openings),
            sides.selectinload(Elevation.surfaces),
            building.selectinload(Building.blocks),
            building.selectinload(Building.items),
            selectinload(Job.features),
        )
        # Within a change, what was loaded before may have grown since; a new session has nothing to renew.
        .execution_options(populate_existing=bool(session.identity_map))
    )
    return session.scalars(query).first()


def building_parts(session: Session, building_id: str) -> tuple[Sequence[BlockRow], Sequence[Elevation], Sequence[Item]]:
    """Return a building's blocks, its elevations with openings and surfaces, and its items, as they now are."""
    blocks = session.scalars(select(BlockRow).where(BlockRow.building_id == building_id).order_by(BlockRow.position, BlockRow.id)).all()
    sides = (
        select(Elevation)
        .where(Elevation.building_id == building_id)
        .order_by(Elevation.position, Elevation.id)
        .options(selectinload(Elevation.openings), selectinload(Elevation.surfaces))
        .execution_options(populate_existing=True)
    )
    items = session.scalars(select(Item).where(Item.building_id == building_id)).all()
    return blocks, session.scalars(sides).all(), items


def openings_of(session: Session, building_id: str) -> Sequence[Opening]:
    query = select(Opening).join(Elevation, Opening.elevation_id == Elevation.id).where(Elevation.building_id == building_id)
    return session.scalars(query.order_by(Opening.left_m, Opening.sill_m, Opening.id)).all()


def surfaces_of(session: Session, elevation_id: str) -> Sequence[Surface]:
    query = select(Surface).where(Surface.elevation_id == elevation_id).order_by(Surface.position, Surface.name, Surface.id)
    return session.scalars(query).all()


def opening(session: Session, opening_id: str) -> Opening | None:
    return session.get(Opening, opening_id)


def surface_of_opening(session: Session, opening_id: str) -> Surface | None:
    return session.scalars(select(Surface).where(Surface.opening_id == opening_id)).first()


def findings_on(session: Session, elevation_id: str) -> Sequence[Finding]:
    return session.scalars(select(Finding).where(Finding.elevation_id == elevation_id)).all()


def pointing_to(
    session: Session, elevation_id: str | None, surface_ids: set[str]
) -> list[Item | Finding | SiteTest | Feature | Clearance | Reading]:
    """Return the rows that point to an elevation or to any of some surfaces without hanging on them."""
    found: list[Item | Finding | SiteTest | Feature | Clearance | Reading] = []
    if elevation_id is not None:
        found += session.scalars(select(Item).where(Item.elevation_id == elevation_id)).all()
        found += session.scalars(select(Feature).where(Feature.elevation_id == elevation_id)).all()
    on_it = Finding.surface_id.in_(surface_ids)
    query = select(Finding).where(on_it if elevation_id is None else on_it | (Finding.elevation_id == elevation_id))
    found += session.scalars(query).all()
    found += session.scalars(select(SiteTest).where(SiteTest.surface_id.in_(surface_ids))).all()
    found += session.scalars(select(Clearance).where(Clearance.surface_id.in_(surface_ids))).all()
    found += session.scalars(select(Reading).where(Reading.surface_id.in_(surface_ids))).all()
    return found


def findings(session: Session, job_id: str) -> Sequence[Finding]:
    return session.scalars(select(Finding).where(Finding.job_id == job_id).order_by(Finding.number)).all()


def photos(session: Session, job_id: str) -> Sequence[Photo]:
    return session.scalars(select(Photo).where(Photo.job_id == job_id).order_by(Photo.added_at, Photo.id)).all()


def site_tests(session: Session, job_id: str) -> Sequence[SiteTest]:
    return session.scalars(select(SiteTest).where(SiteTest.job_id == job_id).order_by(SiteTest.taken_at.desc(), SiteTest.id)).all()


def clearances(session: Session, job_id: str) -> Sequence[Clearance]:
    return session.scalars(select(Clearance).where(Clearance.job_id == job_id).order_by(Clearance.recorded_at, Clearance.id)).all()


def features(session: Session, job_id: str) -> Sequence[Feature]:
    return session.scalars(select(Feature).where(Feature.job_id == job_id).order_by(Feature.kind, Feature.id)).all()


def walk_answers(session: Session, job_id: str) -> Sequence[WalkAnswer]:
    return session.scalars(select(WalkAnswer).where(WalkAnswer.job_id == job_id)).all()


def system_choices(session: Session, job_id: str) -> Sequence[SystemChoice]:
    return session.scalars(select(SystemChoice).where(SystemChoice.job_id == job_id)).all()


def samples(session: Session, job_id: str) -> Sequence[Sample]:
    return session.scalars(select(Sample).where(Sample.job_id == job_id).order_by(Sample.made_on, Sample.part_name, Sample.id)).all()


def candidates(session: Session, job_id: str) -> Sequence[Candidate]:
    return session.scalars(select(Candidate).where(Candidate.job_id == job_id).order_by(Candidate.added_at, Candidate.id)).all()


def shelf_rows(session: Session) -> Sequence[ShelfRow]:
    return session.scalars(select(ShelfRow).order_by(ShelfRow.kind, ShelfRow.key)).all()


def stock(session: Session) -> Sequence[StockRow]:
    return session.scalars(select(StockRow).order_by(StockRow.product, StockRow.colour, StockRow.id)).all()


def revisions(session: Session, job_id: str) -> Sequence[Revision]:
    return session.scalars(select(Revision).where(Revision.job_id == job_id).order_by(Revision.number)).all()


def extras(session: Session, job_id: str) -> Sequence[Extra]:
    return session.scalars(select(Extra).where(Extra.job_id == job_id).order_by(Extra.asked_at, Extra.id)).all()


def bids(session: Session) -> Sequence[Bid]:
    return session.scalars(select(Bid).order_by(Bid.id)).all()


def bid(session: Session, job_id: str) -> Bid | None:
    return session.scalars(select(Bid).where(Bid.job_id == job_id)).first()


def loaded(session: Session, job_id: str, day: str | None = None) -> Sequence[Loaded]:
    query = select(Loaded).where(Loaded.job_id == job_id)
    return session.scalars(query if day is None else query.where(Loaded.day == day)).all()


def all_loaded(session: Session) -> Sequence[Loaded]:
    """Return what was loaded for any job on any day, the newest day last."""
    return session.scalars(select(Loaded).order_by(Loaded.day, Loaded.id)).all()


def sightings(session: Session, job_id: str, since: datetime) -> Sequence[Sighting]:
    """Return what was seen coming on a job and is not over at a moment, the newest last."""
    query = select(Sighting).where(Sighting.job_id == job_id, Sighting.until_at > since).order_by(Sighting.said_at, Sighting.id)
    return session.scalars(query).all()


def found_on_surfaces(session: Session, job_id: str, since: datetime) -> Sequence[Sighting]:
    """Return what palm, meter and hose found or did on a job's surfaces from a moment on, the newest last."""
    query = select(Sighting).where(Sighting.job_id == job_id, Sighting.surface_id.is_not(None), Sighting.said_at >= since)
    return session.scalars(query.order_by(Sighting.said_at, Sighting.id)).all()


def site_tests_since(session: Session, job_id: str, kind: str, since: datetime) -> Sequence[SiteTest]:
    query = select(SiteTest).where(SiteTest.job_id == job_id, SiteTest.kind == kind, SiteTest.taken_at >= since)
    return session.scalars(query.order_by(SiteTest.taken_at, SiteTest.id)).all()


def hanging_on_job(session: Session, job_id: str) -> list[EditableRow]:
    """Return every row that hangs on a job but is no part of its building, what points first."""
    found: list[EditableRow] = []
    found += system_choices(session, job_id)
    found += samples(session, job_id)
    found += candidates(session, job_id)
    found += revisions(session, job_id)
    found += extras(session, job_id)
    found += session.scalars(select(Bid).where(Bid.job_id == job_id)).all()
    found += session.scalars(select(Loaded).where(Loaded.job_id == job_id)).all()
    found += session.scalars(select(Sighting).where(Sighting.job_id == job_id)).all()
    found += session.scalars(select(Reading).where(Reading.job_id == job_id)).all()
    found += session.scalars(select(Schedule).where(Schedule.job_id == job_id)).all()
    found += session.scalars(select(Photo).where(Photo.job_id == job_id)).all()
    found += session.scalars(select(Finding).where(Finding.job_id == job_id)).all()
    found += session.scalars(select(SiteTest).where(SiteTest.job_id == job_id)).all()
    found += session.scalars(select(Clearance).where(Clearance.job_id == job_id)).all()
    found += session.scalars(select(WalkAnswer).where(WalkAnswer.job_id == job_id)).all()
    found += session.scalars(select(Feature).where(Feature.job_id == job_id)).all()
    return found


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


def revision(session: Session, job_id: str) -> tuple[int, int]:
    """Return two numbers of which one grows with every change to a job, or to none, and one with every undo of such."""
    query = select(func.coalesce(func.max(Change.number), 0), func.count(Change.undone_at))
    row = session.execute(query.where(or_(Change.job_id == job_id, Change.job_id.is_(None)))).one()
    return int(row[0]), int(row[1])


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

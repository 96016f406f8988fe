"""The questions asked of the database, each one function, each loading all that it needs."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any, NamedTuple, TypeVar

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session, selectinload
from sqlalchemy.orm.interfaces import ONETOMANY

from amber_gable.store.models import (
    Base,
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
    SentForm,
    ShelfRow,
    Sighting,
    SiteTest,
    StockRow,
    Surface,
    SystemChoice,
    WalkAnswer,
)


class IssueHead(NamedTuple):
    """A forecast without its hours."""

    id: str
    issued_at: datetime
    ends_at: datetime | None


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


def pointing_to(session: Session, elevation_id: str | None, surface_ids: set[str]) -> list[tuple[EditableRow, dict[str, None]]]:
    """Return the rows that point to an elevation or to any of some surfaces without being part of them, with the columns that point.

    Which tables these are follows from their foreign keys, so that a table added later cannot be forgotten.
    """
    rows: dict[tuple[type, str], tuple[EditableRow, dict[str, None]]] = {}
    targets = (("elevations", {elevation_id} if elevation_id is not None else set()), ("surfaces", surface_ids))
    for target, ids in targets:
        for model, column in POINTERS[target] if ids else ():
            for row in session.scalars(select(model).where(getattr(model, column).in_(ids))):
                rows.setdefault((model, row.id), (row, {}))[1][column] = None
    return list(rows.values())


def _pointers(target: str) -> list[tuple[type[EditableRow], str]]:
    """Return the models and columns that point to a table, but for those that are its own parts."""
    owner = next(m for m in Base.registry.mappers if m.local_table is Base.metadata.tables[target])
    parts = {relation.mapper.local_table for relation in owner.relationships if relation.direction is ONETOMANY}
    return [
        (mapper.class_, key.parent.key)
        for mapper in Base.registry.mappers
        if mapper.local_table not in parts
        for key in mapper.local_table.foreign_keys
        if key.column.table.name == target
    ]


POINTERS = {target: _pointers(target) for target in ("elevations", "surfaces")}


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


def _hanging() -> list[type[EditableRow]]:
    """Return the models whose rows go with their job and are no part of its building, what points to others first."""
    by_table = {m.local_table: m.class_ for m in Base.registry.mappers}
    return [
        by_table[table]
        for table in reversed(Base.metadata.sorted_tables)
        if table.name != Building.__tablename__
        and any(key.column.table.name == Job.__tablename__ and key.ondelete == "CASCADE" for key in table.foreign_keys)
    ]


HANGING = _hanging()


def hanging_on_job(session: Session, job_id: str) -> list[EditableRow]:
    """Return every row that hangs on a job but is no part of its building, what points first."""
    return [row for model in HANGING for row in session.scalars(select(model).where(model.job_id == job_id))]  # type: ignore[attr-defined]


_Row = TypeVar("_Row", bound=EditableRow)


def of_job(session: Session, model: type[_Row], row_id: str, job_id: str) -> _Row | None:
    """Return a row by its id where it belongs to a job; None for one that is gone, and for another job's.

    How a row hangs on its job follows from the foreign keys: directly, or through its building and elevation.
    """
    query = select(model).where(model.id == row_id)
    table: Any = Base.metadata.tables[model.__tablename__]  # type: ignore[attr-defined]
    while "job_id" not in table.columns and table.name != Job.__tablename__:
        # The way up is the first key that may not be empty: surface to elevation, elevation to building.
        column = next(c for c in table.columns if c.foreign_keys and not c.nullable)
        upper = next(iter(column.foreign_keys)).column
        query = query.join(upper.table, column == upper)
        table = upper.table
    return session.scalars(query.where(table.columns["job_id" if "job_id" in table.columns else "id"] == job_id)).first()


def raise_revisions(session: Session, job_ids: set[str], contractor: bool) -> None:
    """Give jobs, and the contractor where asked, a revision that none of them had before."""
    newest = select(func.max(Job.revision)).scalar_subquery()
    shared = select(func.max(Contractor.revision)).scalar_subquery()
    top = int(session.scalar(select(func.max(func.coalesce(newest, 0), func.coalesce(shared, 0)))) or 0) + 1
    flags = {"synchronize_session": False}
    if job_ids:
        session.execute(update(Job).where(Job.id.in_(job_ids)).values(revision=top), execution_options=flags)
    if contractor:
        session.execute(update(Contractor).values(revision=top), execution_options=flags)


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


def job_revision(session: Session, job_id: str) -> int:
    """Return the number that every change to anything of a job raises; 0 for no such job."""
    return session.scalar(select(Job.revision).where(Job.id == job_id)) or 0


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

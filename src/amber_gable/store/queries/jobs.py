"""Questions about jobs and the rows of their buildings: whole, in lists, and what hangs on them."""

from collections.abc import Sequence
from typing import Any, NamedTuple, TypeVar

from sqlalchemy import Select, case, func, select, update
from sqlalchemy.orm import Session, selectinload
from sqlalchemy.orm.interfaces import ONETOMANY

from amber_gable.store.models import (
    Base,
    Bid,
    BlockRow,
    Building,
    Contractor,
    EditableRow,
    Elevation,
    Item,
    Job,
    Opening,
    Surface,
)
from amber_gable.units import System

# States in which a job is still looked at.
ALIVE = ("enquiry", "running", "resting", "done")


class JobHead(NamedTuple):
    """A job without its building: what the start page and the lists need to know which of their results still hold."""

    id: str
    name: str
    revision: int
    house_revision: int
    latitude_deg: float
    longitude_deg: float
    altitude_m: float
    time_zone: str
    units: System


_HEAD = tuple(getattr(Job, name) for name in JobHead._fields)
_Row = TypeVar("_Row", bound=EditableRow)


def contractors(session: Session) -> Sequence[Contractor]:
    """Return every contractor of the database, the first in the alphabet first."""
    return session.scalars(select(Contractor).order_by(Contractor.name, Contractor.id)).all()


def contractor_revision(session: Session, contractor_id: str) -> int | None:
    """Return the number that every change to what all jobs of a contractor share raises; None for no such contractor."""
    return session.scalar(select(Contractor.revision).where(Contractor.id == contractor_id))


def is_there_any_job(session: Session) -> bool:
    """Return whether any contractor has a job."""
    return session.scalar(select(Job.id).limit(1)) is not None


def jobs(session: Session, contractor_id: str) -> Sequence[Job]:
    return session.scalars(select(Job).where(Job.contractor_id == contractor_id).order_by(Job.created_at, Job.id)).all()


def running_jobs(session: Session, contractor_id: str, state: str) -> list[JobHead]:
    """Return a contractor's jobs of a state without their buildings, the oldest first."""
    rows = session.execute(select(*_HEAD).where(Job.contractor_id == contractor_id, Job.state == state).order_by(Job.created_at, Job.id))
    return [JobHead(*row) for row in rows]


def job_head(session: Session, contractor_id: str, job_id: str) -> JobHead | None:
    """Return a job without its building; None for one that is gone, and for another contractor's."""
    row = session.execute(select(*_HEAD).where(Job.id == job_id, Job.contractor_id == contractor_id)).first()
    return None if row is None else JobHead(*row)


def _matching(contractor_id: str, states: Sequence[str], search: str) -> Select[Job]:
    query = select(Job).where(Job.contractor_id == contractor_id, Job.state.in_(states))
    if not search:
        return query
    pattern = "%" + search.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
    owners = select(Bid.job_id).where(Bid.owner_name.ilike(pattern, escape="\\"))
    named = Job.name.ilike(pattern, escape="\\") | Job.owner_name.ilike(pattern, escape="\\")
    return query.where(named | Job.id.in_(owners))


def found_jobs(session: Session, contractor_id: str, states: Sequence[str], search: str) -> int:
    """Return how many jobs of some states have a text in their name or their owner's."""
    return session.scalar(select(func.count()).select_from(_matching(contractor_id, states, search).subquery())) or 0


def jobs_page(session: Session, contractor_id: str, states: Sequence[str], search: str, offset: int, limit: int) -> Sequence[Job]:
    """Return some jobs: the running ones first, in the order they were begun; then the others, the newest of each state first."""
    rank = case({state: place for place, state in enumerate(("running", "enquiry", "resting", "done"))}, value=Job.state, else_=9)
    day = func.julianday(Job.created_at)
    query = _matching(contractor_id, states, search).order_by(rank, case((Job.state == "running", day), else_=-day), Job.id)
    return session.scalars(query.offset(offset).limit(limit)).all()


def count_jobs(session: Session, contractor_id: str) -> dict[str, int]:
    """Return how many jobs a contractor has of each state."""
    query = select(Job.state, func.count()).where(Job.contractor_id == contractor_id).group_by(Job.state)
    return {row[0]: row[1] for row in session.execute(query)}


def jobs_as_bids(session: Session, contractor_id: str, search: str) -> list[tuple[JobHead, str, tuple[str, str], Bid | None]]:
    """Return every job of a contractor without its building, its state, its owner's name and telephone, and its bid where there is one."""
    rows = (
        _matching(contractor_id, (*ALIVE, "archived"), search)
        .with_only_columns(*_HEAD, Job.state, Job.owner_name, Job.owner_phone, Bid)
        .outerjoin(Bid, Bid.job_id == Job.id)
    )
    return [(JobHead(*head), state, (name, phone), bid) for *head, state, name, phone, bid in session.execute(rows)]


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


def raise_revisions(session: Session, job_ids: set[str], contractor_id: str | None, *, of_house: bool) -> None:
    """Give jobs, and a contractor where one is named, a revision that none of them had before.

    Parameters
    ----------
    of_house : bool
        Whether more changed of the jobs than what was said or planned.
    """
    newest = select(func.max(Job.revision)).scalar_subquery()
    shared = select(func.max(Contractor.revision)).scalar_subquery()
    top = int(session.scalar(select(func.max(func.coalesce(newest, 0), func.coalesce(shared, 0)))) or 0) + 1
    flags = {"synchronize_session": False}
    if job_ids:
        raised = {"revision": top} | ({"house_revision": top} if of_house else {})
        session.execute(update(Job).where(Job.id.in_(job_ids)).values(raised), execution_options=flags)
    if contractor_id is not None:
        session.execute(update(Contractor).where(Contractor.id == contractor_id).values(revision=top), execution_options=flags)


def home_zone(session: Session, contractor_id: str) -> str | None:
    """Return the time zone of the newest job: where the contractor works."""
    return session.scalar(select(Job.time_zone).where(Job.contractor_id == contractor_id).order_by(Job.created_at.desc()).limit(1))


def is_anothers(session: Session, contractor_id: str, job_id: str) -> bool:
    """Return whether a job is there and belongs to another contractor."""
    owner = session.scalar(select(Job.contractor_id).where(Job.id == job_id))
    return owner is not None and owner != contractor_id


def job_revision(session: Session, job_id: str) -> int:
    """Return the number that every change to anything of a job raises; 0 for no such job."""
    return session.scalar(select(Job.revision).where(Job.id == job_id)) or 0

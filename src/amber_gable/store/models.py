"""The tables. Every row has a UUID, every row a user can edit a `version`.

Lengths in metres, temperatures in °C, instants in UTC. Outlines are lists of [x, y] in metres on
their elevation.
"""

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, MetaData, UniqueConstraint
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from amber_gable.store.types import UtcDateTime, new_id

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMING)
    type_annotation_map = {datetime: UtcDateTime, dict[str, Any]: JSON(none_as_null=True), list[Any]: JSON}


class Row:
    """An immutable row: a UUID and no version."""

    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)


class EditableRow(Row):
    """A row users change: only through services.changes, which counts its version up."""

    version: Mapped[int] = mapped_column(default=1)


class Contractor(EditableRow, Base):
    __tablename__ = "contractors"
    name: Mapped[str]
    units: Mapped[str]
    painters: Mapped[list[Any]]


class Job(EditableRow, Base):
    __tablename__ = "jobs"
    contractor_id: Mapped[str] = mapped_column(ForeignKey("contractors.id"))
    name: Mapped[str]
    latitude_deg: Mapped[float]
    longitude_deg: Mapped[float]
    altitude_m: Mapped[float]
    time_zone: Mapped[str]
    units: Mapped[str]
    year_built: Mapped[int | None]
    crew: Mapped[list[Any]]
    # House rules and product choice; services.rules reads and validates them.
    rules: Mapped[dict[str, Any]]
    created_at: Mapped[datetime]
    building: Mapped["Building"] = relationship(back_populates="job", lazy="raise", uselist=False)


class Building(EditableRow, Base):
    __tablename__ = "buildings"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), unique=True)
    length_m: Mapped[float]
    width_m: Mapped[float]
    eaves_height_m: Mapped[float]
    ridge_height_m: Mapped[float]
    front_azimuth_deg: Mapped[float]
    front_is: Mapped[str]
    overhang_m: Mapped[float]
    plinth_height_m: Mapped[float]
    job: Mapped[Job] = relationship(back_populates="building", lazy="raise")
    elevations: Mapped[list["Elevation"]] = relationship(
        back_populates="building", lazy="raise", order_by="Elevation.position", passive_deletes=True
    )


class Elevation(EditableRow, Base):
    __tablename__ = "elevations"
    building_id: Mapped[str] = mapped_column(ForeignKey("buildings.id", ondelete="CASCADE"), index=True)
    # Quarter turns clockwise from the front: what an elevation stays when the building turns.
    side: Mapped[int]
    position: Mapped[int]
    name: Mapped[str]
    azimuth_deg: Mapped[float]
    is_gable: Mapped[bool]
    outline: Mapped[list[Any]]
    building: Mapped[Building] = relationship(back_populates="elevations", lazy="raise")
    openings: Mapped[list["Opening"]] = relationship(
        back_populates="elevation", lazy="raise", order_by="Opening.left_m, Opening.sill_m, Opening.id", passive_deletes=True
    )
    surfaces: Mapped[list["Surface"]] = relationship(
        back_populates="elevation", lazy="raise", order_by="Surface.position, Surface.name, Surface.id", passive_deletes=True
    )
    __table_args__ = (UniqueConstraint("building_id", "side"),)


class Opening(EditableRow, Base):
    __tablename__ = "openings"
    elevation_id: Mapped[str] = mapped_column(ForeignKey("elevations.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    width_m: Mapped[float]
    height_m: Mapped[float]
    left_m: Mapped[float]
    sill_m: Mapped[float]
    elevation: Mapped[Elevation] = relationship(back_populates="openings", lazy="raise")


class Surface(EditableRow, Base):
    __tablename__ = "surfaces"
    elevation_id: Mapped[str] = mapped_column(ForeignKey("elevations.id", ondelete="CASCADE"), index=True)
    opening_id: Mapped[str | None] = mapped_column(ForeignKey("openings.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    position: Mapped[int]
    name: Mapped[str]
    outline: Mapped[list[Any]]
    substrate: Mapped[str]
    profile: Mapped[str]
    texture: Mapped[str]
    lrv_pct: Mapped[float]
    is_painted: Mapped[bool]
    elevation: Mapped[Elevation] = relationship(back_populates="surfaces", lazy="raise")


class ForecastIssue(Row, Base):
    """One issue of a forecast for a place, kept for ever as it was received."""

    __tablename__ = "forecast_issues"
    place: Mapped[str]
    issued_at: Mapped[datetime]
    fetched_at: Mapped[datetime]
    hours: Mapped[list[Any]]
    __table_args__ = (UniqueConstraint("place", "issued_at"),)


class ObservedHour(Row, Base):
    """What the weather was at a place in one hour."""

    __tablename__ = "observed_hours"
    place: Mapped[str]
    time: Mapped[datetime]
    values: Mapped[dict[str, Any]]
    __table_args__ = (UniqueConstraint("place", "time"),)


class Schedule(EditableRow, Base):
    """The plan a job is worked by; one at a time, earlier ones in the changes."""

    __tablename__ = "schedules"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), unique=True)
    made_at: Mapped[datetime]
    forecast_issued_at: Mapped[datetime]
    painters: Mapped[int]
    # Visits and what could not be placed, as services.schedules writes them.
    visits: Mapped[list[Any]]
    unplaced: Mapped[list[Any]]


class Reading(EditableRow, Base):
    __tablename__ = "readings"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"))
    surface_id: Mapped[str | None] = mapped_column(ForeignKey("surfaces.id", ondelete="SET NULL"))
    surface_name: Mapped[str]
    taken_at: Mapped[datetime]
    painter: Mapped[str]
    air_temp_c: Mapped[float]
    rel_humidity_pct: Mapped[float]
    surface_temp_c: Mapped[float]
    # What the tool answered then, and the forecast it was answered from.
    verdict: Mapped[dict[str, Any]]
    __table_args__ = (Index("ix_readings_job_id_taken_at", "job_id", "taken_at"),)


class Change(Row, Base):
    """One row before and after one change; changes of one action share a set."""

    __tablename__ = "changes"
    set_id: Mapped[str] = mapped_column(index=True)
    job_id: Mapped[str | None] = mapped_column(index=True)
    number: Mapped[int]
    at: Mapped[datetime]
    who: Mapped[str]
    label: Mapped[str]
    table_name: Mapped[str]
    row_id: Mapped[str]
    before: Mapped[dict[str, Any] | None]
    after: Mapped[dict[str, Any] | None]
    undone_at: Mapped[datetime | None]


class AppState(Base):
    """Single values that outlive a run, such as how far the demo clock was stepped."""

    __tablename__ = "app_state"
    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]

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
    # House rules (schools) that differ from their defaults, and preferred products by family.
    house_rules: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")


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
    country: Mapped[str] = mapped_column(default="us")
    # Where the country's own years are not in the tables.
    lead_before_year: Mapped[int | None]
    asbestos_before_year: Mapped[int | None]
    crew: Mapped[list[Any]]
    # House rules and product choice; services.rules reads and validates them.
    rules: Mapped[dict[str, Any]]
    created_at: Mapped[datetime]
    building: Mapped["Building"] = relationship(back_populates="job", lazy="raise", uselist=False)
    features: Mapped[list["Feature"]] = relationship(
        back_populates="job", lazy="raise", order_by="Feature.kind, Feature.note, Feature.id", passive_deletes=True
    )


class Building(EditableRow, Base):
    __tablename__ = "buildings"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), unique=True)
    front_azimuth_deg: Mapped[float]
    # Drawn from a few figures for a first price; its measurements are still to be taken.
    is_quick: Mapped[bool] = mapped_column(default=False)
    job: Mapped[Job] = relationship(back_populates="building", lazy="raise")
    blocks: Mapped[list["BlockRow"]] = relationship(
        back_populates="building", lazy="raise", order_by="BlockRow.position, BlockRow.id", passive_deletes=True
    )
    elevations: Mapped[list["Elevation"]] = relationship(
        back_populates="building", lazy="raise", order_by="Elevation.position, Elevation.id", passive_deletes=True
    )
    items: Mapped[list["Item"]] = relationship(
        back_populates="building", lazy="raise", order_by="Item.is_derived.desc(), Item.name, Item.id", passive_deletes=True
    )


class BlockRow(EditableRow, Base):
    """A block as core.geometry.Block describes it; columns have its names."""

    __tablename__ = "blocks"
    building_id: Mapped[str] = mapped_column(ForeignKey("buildings.id", ondelete="CASCADE"), index=True)
    parent_id: Mapped[str | None] = mapped_column(ForeignKey("blocks.id"), index=True)
    position: Mapped[int]
    name: Mapped[str]
    kind: Mapped[str]
    side: Mapped[int]
    from_left_m: Mapped[float]
    projects_m: Mapped[float]
    across_m: Mapped[float]
    deep_m: Mapped[float]
    base_m: Mapped[float]
    eaves_height_m: Mapped[float]
    ridge_height_m: Mapped[float]
    roof: Mapped[str]
    ridge_runs: Mapped[str]
    overhang_m: Mapped[float]
    plinth_height_m: Mapped[float]
    splay_m: Mapped[float]
    rail_height_m: Mapped[float]
    steps: Mapped[int]
    steps_width_m: Mapped[float]
    tread_m: Mapped[float]
    riser_m: Mapped[float]
    building: Mapped[Building] = relationship(back_populates="blocks", lazy="raise")


class Elevation(EditableRow, Base):
    """A plane of the building. From a block, or standing alone (`block_id` empty)."""

    __tablename__ = "elevations"
    building_id: Mapped[str] = mapped_column(ForeignKey("buildings.id", ondelete="CASCADE"), index=True)
    block_id: Mapped[str | None] = mapped_column(ForeignKey("blocks.id"), index=True)
    # What an elevation stays when the building is measured again: "<block>/front".
    key: Mapped[str]
    kind: Mapped[str]
    view: Mapped[str]
    position: Mapped[int]
    name: Mapped[str]
    azimuth_deg: Mapped[float]
    tilt_deg: Mapped[float]
    outline: Mapped[list[Any]]
    holes: Mapped[list[Any]]
    start_m: Mapped[float]
    base_m: Mapped[float]
    depth_m: Mapped[float]
    edge_m: Mapped[float]
    plinth_m: Mapped[float]
    gable_from_m: Mapped[float]
    surface_kind: Mapped[str]
    # Drawn divisions, each a list of points.
    cuts: Mapped[list[Any]]
    access: Mapped[str | None]
    ground: Mapped[str]
    ground_slope_pct: Mapped[float]
    building: Mapped[Building] = relationship(back_populates="elevations", lazy="raise")
    openings: Mapped[list["Opening"]] = relationship(
        back_populates="elevation", lazy="raise", order_by="Opening.left_m, Opening.sill_m, Opening.id", passive_deletes=True
    )
    surfaces: Mapped[list["Surface"]] = relationship(
        back_populates="elevation", lazy="raise", order_by="Surface.position, Surface.name, Surface.id", passive_deletes=True
    )
    __table_args__ = (UniqueConstraint("building_id", "key"),)


class Opening(EditableRow, Base):
    __tablename__ = "openings"
    elevation_id: Mapped[str] = mapped_column(ForeignKey("elevations.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    width_m: Mapped[float]
    height_m: Mapped[float]
    left_m: Mapped[float]
    sill_m: Mapped[float]
    panes_across: Mapped[int]
    panes_up: Mapped[int]
    # Whether it opens: "free", "painted-shut" or "not-tried".
    moves: Mapped[str]
    elevation: Mapped[Elevation] = relationship(back_populates="openings", lazy="raise")


class Surface(EditableRow, Base):
    __tablename__ = "surfaces"
    elevation_id: Mapped[str] = mapped_column(ForeignKey("elevations.id", ondelete="CASCADE"), index=True)
    opening_id: Mapped[str | None] = mapped_column(ForeignKey("openings.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    position: Mapped[int]
    name: Mapped[str]
    # A name given by hand stays when the building is measured again.
    is_named: Mapped[bool]
    outline: Mapped[list[Any]]
    holes: Mapped[list[Any]]
    substrate: Mapped[str]
    profile: Mapped[str]
    # Dimensions measured on this surface [mm]; empty for the profile's own.
    profile_mm: Mapped[dict[str, Any]]
    texture: Mapped[str]
    # The new colour: its light reflectance, and the tint where it was given by one.
    lrv_pct: Mapped[float]
    hex: Mapped[str | None]
    # What is on it now.
    coating: Mapped[str]
    coated_year: Mapped[int | None]
    old_lrv_pct: Mapped[float | None]
    old_hex: Mapped[str | None]
    is_painted: Mapped[bool]
    elevation: Mapped[Elevation] = relationship(back_populates="surfaces", lazy="raise")


class Item(EditableRow, Base):
    """What is painted by the run or the piece: trim, railings, downspouts, posts."""

    __tablename__ = "items"
    building_id: Mapped[str] = mapped_column(ForeignKey("buildings.id", ondelete="CASCADE"), index=True)
    elevation_id: Mapped[str | None] = mapped_column(ForeignKey("elevations.id", ondelete="SET NULL"), index=True)
    # Of a run that follows from the blocks; empty for what was entered.
    key: Mapped[str]
    kind: Mapped[str]
    name: Mapped[str]
    count: Mapped[int]
    length_m: Mapped[float]
    girth_m: Mapped[float]
    substrate: Mapped[str]
    is_painted: Mapped[bool]
    is_derived: Mapped[bool]
    building: Mapped[Building] = relationship(back_populates="items", lazy="raise")


class Finding(EditableRow, Base):
    """A pin on the drawing: what ails a surface, or what was broken before we came."""

    __tablename__ = "findings"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    elevation_id: Mapped[str | None] = mapped_column(ForeignKey("elevations.id", ondelete="SET NULL"), index=True)
    surface_id: Mapped[str | None] = mapped_column(ForeignKey("surfaces.id", ondelete="SET NULL"), index=True)
    number: Mapped[int]
    kind: Mapped[str]
    extent: Mapped[str]
    depth_mm: Mapped[float | None]
    x_m: Mapped[float]
    y_m: Mapped[float]
    note: Mapped[str]
    found_at: Mapped[datetime]
    # The owner's acknowledgement of damage that was there before.
    acknowledged_by: Mapped[str | None]
    acknowledged_at: Mapped[datetime | None]


class Photo(EditableRow, Base):
    """A photograph; files are named by the hash of what was sent."""

    __tablename__ = "photos"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    finding_id: Mapped[str | None] = mapped_column(ForeignKey("findings.id", ondelete="SET NULL"), index=True)
    digest: Mapped[str] = mapped_column(index=True)
    media_type: Mapped[str]
    width_px: Mapped[int]
    height_px: Mapped[int]
    # As the camera wrote them; evidence, never shown in shared copies.
    taken_at: Mapped[str | None]
    has_place: Mapped[bool]
    added_at: Mapped[datetime]


class SiteTest(EditableRow, Base):
    __tablename__ = "site_tests"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    surface_id: Mapped[str | None] = mapped_column(ForeignKey("surfaces.id", ondelete="SET NULL"), index=True)
    surface_name: Mapped[str]
    kind: Mapped[str]
    values: Mapped[dict[str, Any]]
    verdict: Mapped[dict[str, Any]]
    taken_at: Mapped[datetime]
    painter: Mapped[str]


class Feature(EditableRow, Base):
    """What stands round the building: to be covered, kept clear of, or throwing shade."""

    __tablename__ = "features"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    elevation_id: Mapped[str | None] = mapped_column(ForeignKey("elevations.id", ondelete="SET NULL"), index=True)
    kind: Mapped[str]
    note: Mapped[str]
    distance_m: Mapped[float | None]
    # A sector of the horizon that it hides up to an elevation angle.
    shade_from_deg: Mapped[float | None]
    shade_to_deg: Mapped[float | None]
    shade_up_to_deg: Mapped[float | None]
    job: Mapped[Job] = relationship(back_populates="features", lazy="raise")


class Clearance(EditableRow, Base):
    """What lets work on a hazard begin: a negative test of one component, or working under the rules."""

    __tablename__ = "clearances"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    hazard: Mapped[str]
    basis: Mapped[str]
    surface_id: Mapped[str | None] = mapped_column(ForeignKey("surfaces.id", ondelete="SET NULL"), index=True)
    component: Mapped[str]
    # Tester and method, or certificate, notice and containment plan.
    details: Mapped[dict[str, Any]]
    recorded_at: Mapped[datetime]


class SystemChoice(EditableRow, Base):
    """What was decided by hand for the system of one part: a surface by its id, or "windows", "shutters", "trim"."""

    __tablename__ = "system_choices"
    __table_args__ = (UniqueConstraint("job_id", "part"),)
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    part: Mapped[str]
    wanted: Mapped[str] = mapped_column(default="")
    is_heat_reflective: Mapped[bool] = mapped_column(default=False)
    is_vinyl_safe: Mapped[bool] = mapped_column(default=False)
    # core.systems.overrides.Edit as plain values, in the order they were made.
    edits: Mapped[list[Any]]


class Sample(EditableRow, Base):
    """A colour brushed out on the wall, or a patch that tests whether a system holds; kept with who signed what."""

    __tablename__ = "samples"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    # A surface by its id, or "windows", "shutters", "trim"; its name stays when it is gone.
    part: Mapped[str]
    part_name: Mapped[str]
    kind: Mapped[str]
    made_on: Mapped[str]
    due_on: Mapped[str | None]
    # Of a brush-out: the colour's code, sheen, base and batch.
    details: Mapped[dict[str, Any]]
    note: Mapped[str]
    result: Mapped[str]
    signed_by: Mapped[str | None]
    signed_at: Mapped[datetime | None]


class WalkAnswer(EditableRow, Base):
    """What was answered at a station of the walk round the building."""

    __tablename__ = "walk_answers"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    station: Mapped[str]
    question: Mapped[str]
    answer: Mapped[str]
    answered_at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("job_id", "station", "question"),)


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

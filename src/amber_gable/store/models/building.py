"""The contractor, jobs, and the building as it was measured."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from amber_gable.core.geometry.blocks import BlockKind, RidgeRuns, RoofForm
from amber_gable.core.geometry.elevations import ElevationKind, SurfaceKind
from amber_gable.store.models.base import Base, EditableRow
from amber_gable.units import System


class Contractor(EditableRow, Base):
    __tablename__ = "contractors"
    name: Mapped[str]
    units: Mapped[System] = mapped_column(String)
    painters: Mapped[list[Any]]
    # Hours, days off and skills by name; core.planning.crew.people reads them.
    crew: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    # Machines by key, of which something was entered; core.planning.crew.machines reads them.
    machines: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    # Whether the plan of all jobs is mended by itself once something overtook it.
    mends_itself: Mapped[bool] = mapped_column(default=True, server_default="1")
    # House rules (schools) that differ from their defaults, and preferred products by family.
    house_rules: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    # Rates, prices and practice that differ from the tables; core.prices reads and checks them.
    prices: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    # Address, telephone, mail, licence: what stands at the head of papers.
    letterhead: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    # Raised by every change to what all jobs share: shelf, prices, house rules.
    revision: Mapped[int] = mapped_column(default=0, server_default="0")


class Job(EditableRow, Base):
    __tablename__ = "jobs"
    contractor_id: Mapped[str] = mapped_column(ForeignKey("contractors.id"))
    name: Mapped[str]
    latitude_deg: Mapped[float]
    longitude_deg: Mapped[float]
    altitude_m: Mapped[float]
    time_zone: Mapped[str]
    units: Mapped[System] = mapped_column(String)
    year_built: Mapped[int | None]
    # Whether it is warm inside: a house is, a boathouse is not.
    is_heated: Mapped[bool]
    country: Mapped[str] = mapped_column(default="us")
    # Where the country's own years are not in the tables.
    lead_before_year: Mapped[int | None]
    asbestos_before_year: Mapped[int | None]
    # Whose house it is; remarks are for the firm alone.
    owner_name: Mapped[str] = mapped_column(default="", server_default="")
    owner_phone: Mapped[str] = mapped_column(default="", server_default="")
    owner_address: Mapped[str] = mapped_column(default="", server_default="")
    owner_reach: Mapped[str] = mapped_column(default="", server_default="")
    owner_remarks: Mapped[str] = mapped_column(default="", server_default="")
    crew: Mapped[list[Any]]
    # House rules and product choice; services.rules reads and validates them.
    rules: Mapped[dict[str, Any]]
    created_at: Mapped[datetime]
    # How far it has come: a key of services.jobs.STATES.
    state: Mapped[str] = mapped_column(default="running", server_default="running", index=True)
    # Raised by every change to anything of this job; results that are kept for a job rest on it.
    revision: Mapped[int] = mapped_column(default=0, server_default="0", index=True)
    # The revision of the last change that was more than something said or planned: what is known of the house rests on it.
    house_revision: Mapped[int] = mapped_column(default=0, server_default="0")
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
    kind: Mapped[BlockKind] = mapped_column(String)
    side: Mapped[int]
    from_left_m: Mapped[float]
    projects_m: Mapped[float]
    across_m: Mapped[float]
    deep_m: Mapped[float]
    base_m: Mapped[float]
    eaves_height_m: Mapped[float]
    ridge_height_m: Mapped[float]
    roof: Mapped[RoofForm] = mapped_column(String)
    ridge_runs: Mapped[RidgeRuns] = mapped_column(String)
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
    kind: Mapped[ElevationKind] = mapped_column(String)
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
    surface_kind: Mapped[SurfaceKind] = mapped_column(String)
    # Drawn divisions, each a list of points.
    cuts: Mapped[list[Any]]
    access: Mapped[str | None]
    ground: Mapped[str]
    ground_slope_pct: Mapped[float]
    # Where work may stop besides corners and openings: [metres from the left, kind], downspouts and ends of boards.
    joints: Mapped[list[Any]] = mapped_column(default=list)
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
    kind: Mapped[SurfaceKind] = mapped_column(String)
    position: Mapped[int]
    name: Mapped[str]
    # A name given by hand stays when the building is measured again.
    is_named: Mapped[bool]
    outline: Mapped[list[Any]]
    holes: Mapped[list[Any]]
    substrate: Mapped[str]
    # What render lies on, where somebody said so: a frame or masonry.
    lies_on: Mapped[str]
    profile: Mapped[str]
    # Dimensions measured on this surface [mm]; empty for the profile's own.
    profile_mm: Mapped[dict[str, Any]]
    texture: Mapped[str]
    # The new colour: its light reflectance, and the tint where it was given by one.
    lrv_pct: Mapped[float]
    hex: Mapped[str | None]
    # What is on it now.
    coating: Mapped[str]
    # When it was coated or, bare, built; the month where it is known.
    coated_year: Mapped[int | None]
    coated_month: Mapped[int | None]
    old_lrv_pct: Mapped[float | None]
    old_hex: Mapped[str | None]
    is_painted: Mapped[bool]
    elevation: Mapped[Elevation] = relationship(back_populates="surfaces", lazy="raise")


class Item(EditableRow, Base):
    """Trim that is measured by the run or the piece: boards, railings, downspouts, posts."""

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


class Feature(EditableRow, Base):
    """Thing round the building: to be covered, kept clear of, or throwing shade."""

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
    # Its colour, where the new ones must go with it; and whether nobody may touch it.
    hex: Mapped[str | None]
    is_kept_off: Mapped[bool]
    job: Mapped[Job] = relationship(back_populates="features", lazy="raise")

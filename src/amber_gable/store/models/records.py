"""What is recorded on a job: findings, photographs, tests, surroundings, clearances, systems decided by hand, samples, the walk."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from amber_gable.core.survey.gates import Basis, Hazard
from amber_gable.store.models.base import Base, EditableRow


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
    # The entry of the log that it belongs to; empty where it belongs to none.
    entry: Mapped[str] = mapped_column(default="", server_default="")
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


class Clearance(EditableRow, Base):
    """Clearance of a hazard: a negative test of one component, or working under the rules."""

    __tablename__ = "clearances"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    hazard: Mapped[Hazard] = mapped_column(String)
    basis: Mapped[Basis] = mapped_column(String)
    surface_id: Mapped[str | None] = mapped_column(ForeignKey("surfaces.id", ondelete="SET NULL"), index=True)
    component: Mapped[str]
    # Tester and method, or certificate, notice and containment plan.
    details: Mapped[dict[str, Any]]
    recorded_at: Mapped[datetime]


class SystemChoice(EditableRow, Base):
    """Decisions by hand for the system of one part: a surface by its id, or "windows", "shutters", "trim"."""

    __tablename__ = "system_choices"
    __table_args__ = (UniqueConstraint("job_id", "part"),)
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    part: Mapped[str]
    wanted: Mapped[str] = mapped_column(default="")
    is_heat_reflective: Mapped[bool] = mapped_column(default=False)
    is_vinyl_safe: Mapped[bool] = mapped_column(default=False)
    # Of windows, shutters and trim, which have no surface to keep it: new colour, and what is on them now.
    hex: Mapped[str | None]
    old_hex: Mapped[str | None]
    coating: Mapped[str] = mapped_column(default="", server_default="")
    coated_year: Mapped[int | None]
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


class Candidate(EditableRow, Base):
    """A colour that the owner chooses from, for one zone of the house."""

    __tablename__ = "candidates"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    zone: Mapped[str]
    code: Mapped[str]
    hex: Mapped[str]
    added_at: Mapped[datetime]


class WalkAnswer(EditableRow, Base):
    """Answer to a question at a station of the walk round the building."""

    __tablename__ = "walk_answers"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    station: Mapped[str]
    question: Mapped[str]
    answer: Mapped[str]
    answered_at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("job_id", "station", "question"),)

"""What take-off and price keep: stock, agreed revisions, extras, bids, what was loaded."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from amber_gable.store.models.base import Base, EditableRow


class StockRow(EditableRow, Base):
    """Paint on the contractor's shelf; counted for the job it is kept for, and for no other."""

    __tablename__ = "stock_rows"
    contractor_id: Mapped[str] = mapped_column(ForeignKey("contractors.id"), index=True)
    job_id: Mapped[str | None] = mapped_column(ForeignKey("jobs.id", ondelete="SET NULL"), index=True)
    product: Mapped[str]
    # #rrggbb; empty for what is not tinted.
    colour: Mapped[str]
    litres: Mapped[float]
    batch: Mapped[str]
    place: Mapped[str]
    # "", "wrong-tint" or "returned": what is not good paint for this job is no longer counted.
    state: Mapped[str] = mapped_column(default="", server_default="")
    # "indoors", "vehicle" or "outdoors": what frost and sun can reach.
    stands: Mapped[str] = mapped_column(default="indoors", server_default="indoors")
    # Dates, YYYY-MM-DD; empty where nobody knows, or it is closed.
    received_on: Mapped[str] = mapped_column(default="", server_default="")
    opened_on: Mapped[str] = mapped_column(default="", server_default="")


class TipChange(EditableRow, Base):
    """A spray tip that was changed for a new one of the same size."""

    __tablename__ = "tip_changes"
    contractor_id: Mapped[str] = mapped_column(ForeignKey("contractors.id", ondelete="CASCADE"), index=True)
    tip: Mapped[str]
    at: Mapped[datetime]
    said_by: Mapped[str]


class Revision(EditableRow, Base):
    """A take-off and its price as they were agreed; later ones are change orders to it."""

    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("job_id", "number"),)
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    made_at: Mapped[datetime]
    note: Mapped[str]
    # Who agreed to it on the owner's side; empty while nobody has.
    signed_by: Mapped[str]
    # core.takeoff.revision.Snapshot as plain values.
    snapshot: Mapped[dict[str, Any]]


class Extra(EditableRow, Base):
    """Work beyond what was agreed; flagged with its hours until it is signed."""

    __tablename__ = "extras"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    what: Mapped[str]
    # A row of the unit prices; empty for what is priced by the hour.
    unit_price: Mapped[str]
    quantity: Mapped[float]
    hours: Mapped[float]
    price: Mapped[float]
    asked_at: Mapped[datetime]
    signed_by: Mapped[str]
    signed_at: Mapped[datetime | None]


class Bid(EditableRow, Base):
    """Bid of a job: enquiry, visited, sent, won or lost."""

    __tablename__ = "bids"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), unique=True)
    state: Mapped[str]
    owner_name: Mapped[str]
    contact: Mapped[str]
    follow_up_on: Mapped[str | None]
    reason: Mapped[str]
    # When it came to each state.
    history: Mapped[list[Any]]


class Loaded(EditableRow, Base):
    """A row of the truck list that was put on the truck, and whether it came back."""

    __tablename__ = "loaded"
    __table_args__ = (UniqueConstraint("job_id", "day", "key"),)
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    day: Mapped[str]
    key: Mapped[str]
    is_back: Mapped[bool]

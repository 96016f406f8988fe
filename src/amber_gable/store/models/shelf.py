"""The contractor's own shelf, laid over the shipped one."""

from typing import Any

from sqlalchemy import ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from amber_gable.core.knowledge.shelf import Kind
from amber_gable.store.models.base import Base, EditableRow


class ShelfRow(EditableRow, Base):
    """A data sheet as the contractor has it: a product of its own, or another version of a shipped one."""

    __tablename__ = "shelf_rows"
    __table_args__ = (UniqueConstraint("contractor_id", "kind", "key"),)
    contractor_id: Mapped[str] = mapped_column(ForeignKey("contractors.id"), index=True)
    # "coating" or "sundry": a row of which table of the knowledge.
    kind: Mapped[Kind] = mapped_column(String)
    key: Mapped[str]
    sheet: Mapped[dict[str, Any]]

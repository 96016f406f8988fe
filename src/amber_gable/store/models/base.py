"""What every table has: a UUID, and a `version` where a user can edit it."""

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, MetaData
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

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

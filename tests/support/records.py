"""All rows that users edit, to compare before and after; and the action that undo would take back."""

from sqlalchemy import text

from amber_gable.services.changes import changes
from amber_gable.store.models import Base

NOT_EDITED = {"changes", "app_state", "forecast_issues", "observed_hours", "alembic_version", "sent_forms"}


def everything(opened) -> dict[str, list]:
    """All rows of what a user edits, to compare before and after."""
    tables = {name: table for name, table in Base.metadata.tables.items() if name not in NOT_EDITED}
    # A revision counts changes, and undoing one is a change.
    counted = ("revision", "house_revision")
    columns = {name: ", ".join(f'"{c.name}"' for c in table.columns if c.name not in counted) for name, table in tables.items()}
    with opened.app.engine.connect() as connection:
        return {t: sorted(map(tuple, connection.execute(text(f"SELECT {columns[t]} FROM {t}"))), key=repr) for t in tables}


def last(opened, job_id):
    found = changes.undoable(opened, job_id)
    return None if found is None else (found.set_id, found.label)

"""Whose is it: a row is only ever found through its job."""

from collections.abc import Mapping

from sqlalchemy.orm import Session

from amber_gable.errors import NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.store import queries
from amber_gable.store.models import (
    BlockRow,
    Candidate,
    Clearance,
    EditableRow,
    Elevation,
    Extra,
    Feature,
    Finding,
    Item,
    LogEntry,
    Opening,
    Photo,
    Reading,
    Sample,
    SiteTest,
    Surface,
    WorkEntry,
)
from amber_gable.store.queries import JobHead

# What a parameter of an address names, and how it is called in a message.
ROWS: Mapping[str, tuple[type[EditableRow], str]] = {
    "block_id": (BlockRow, "block"),
    "candidate_id": (Candidate, "candidate"),
    "clearance_id": (Clearance, "record"),
    "elevation_id": (Elevation, "side of the building"),
    "extra_id": (Extra, "extra"),
    "feature_id": (Feature, "note"),
    "finding_id": (Finding, "finding"),
    "item_id": (Item, "item"),
    "log_id": (LogEntry, "entry of the log"),
    "line_id": (WorkEntry, "entry of the record"),
    "opening_id": (Opening, "opening"),
    "photo_id": (Photo, "photograph"),
    "reading_id": (Reading, "reading"),
    "sample_id": (Sample, "sample"),
    "surface_id": (Surface, "surface"),
    "test_id": (SiteTest, "test"),
}


def head_of(scope: Scope, job_id: str) -> JobHead:
    """Return a job of the scope's contractor without its building.

    Raises
    ------
    NotFoundError
        If it is gone, or another contractor's.
    """

    def read(session: Session) -> JobHead:
        head = queries.job_head(session, scope.contractor_id, job_id)
        if head is None:
            raise NotFoundError("This job is not here (any more). It may have been removed.")
        return head

    return scope.once(("head", job_id), read)


def check(scope: Scope, parameters: Mapping[str, str]) -> None:
    """Refuse an address that names a job, or a row of a job, that is not there or is another's.

    Parameters
    ----------
    parameters : mapping of str to str
        Of the address: "job_id", and any of `ROWS`.

    Raises
    ------
    NotFoundError
    """
    job_id = parameters.get("job_id")
    if job_id is None:
        return
    head_of(scope, job_id)
    with scope.reading() as session:
        for name, value in parameters.items():
            model, what = ROWS.get(name, (None, ""))
            if model is not None and queries.of_job(session, model, value, job_id) is None:
                raise NotFoundError(f"This {what} is not here (any more). It may have been removed.")

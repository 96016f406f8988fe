"""Photographs of a job: which files belong to it and to its findings.

Removing a photograph can be undone: its files stay.
Not here: the files themselves (photofiles).
"""

from collections.abc import Sequence
from pathlib import Path

from amber_gable.errors import NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.services.survey.evidence import photofiles
from amber_gable.services.survey.evidence.photofiles import MOST_BYTES, SIZES, Picture, read_picture
from amber_gable.store import queries
from amber_gable.store.models import Finding, Photo
from amber_gable.store.types import new_id


def insert_photo(change: ChangeSet, job_id: str, picture: Picture, finding_id: str | None, entry: str = "") -> str:
    """Write the row of a photograph whose files are kept; return its id."""
    row = Photo(
        id=new_id(), version=1, job_id=job_id, finding_id=finding_id, digest=picture.digest,
        media_type=picture.media_type, width_px=picture.width_px, height_px=picture.height_px, taken_at=picture.taken_at,
        has_place=picture.has_place, added_at=change.at, entry=entry,
    )  # fmt: skip
    change.add(row)
    return row.id


def photos_of(scope: Scope, job_id: str) -> Sequence[Photo]:
    """Return the photographs of a job."""
    with scope.reading() as session:
        return queries.photos(session, job_id)


def add_photos(scope: Scope, job_id: str, contents: Sequence[bytes], finding_id: str | None = None) -> list[str]:
    """Keep photographs with a job, and with a finding of it, all or none; return their ids.

    Raises
    ------
    FieldErrors
        If one is too large, or no JPEG, PNG or WebP.
    NotFoundError
        If there is no such finding on this job.
    """
    with scope.reading() as session:
        if finding_id is not None and queries.of_job(session, Finding, finding_id, job_id) is None:
            raise NotFoundError("This finding is not here (any more). It may have been removed.")
    pictures = [photofiles.store(scope, content) for content in contents]
    with changing(scope, "add a photograph" if len(pictures) == 1 else f"add {len(pictures)} photographs", job_id) as change:
        if finding_id is not None:
            change.find(Finding, finding_id, "finding")
        return [insert_photo(change, job_id, picture, finding_id) for picture in pictures]


def add_photo(scope: Scope, job_id: str, content: bytes, finding_id: str | None = None) -> str:
    """Keep one photograph; see `add_photos`."""
    return add_photos(scope, job_id, [content], finding_id)[0]


def remove_photo(scope: Scope, job_id: str, photo_id: str) -> str | None:
    """Take a photograph off a job; its files stay, so that undo brings it back. Return its finding's id."""
    with changing(scope, "remove the photograph", job_id) as change:
        row = change.find(Photo, photo_id, "photograph")
        finding_id = row.finding_id
        change.delete(row)
        return finding_id


def shown_file(scope: Scope, job_id: str, photo_id: str, size: str) -> Path:
    """Return the file of a stripped copy.

    Raises
    ------
    NotFoundError
    """
    with scope.reading() as session:
        row = queries.of_job(session, Photo, photo_id, job_id)
    if row is None or size not in SIZES:
        raise NotFoundError("This photograph is not here (any more).")
    return photofiles.shown_file(scope, row, size)


__all__ = ["MOST_BYTES", "SIZES", "add_photo", "add_photos", "insert_photo", "read_picture", "remove_photo", "shown_file"]

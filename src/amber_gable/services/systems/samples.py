"""Samples of a job: brush-outs approved by signature, test patches with their result."""

from collections.abc import Sequence
from datetime import date
from zoneinfo import ZoneInfo

from amber_gable.core.systems.samples import BRUSH_OUT, TEST_PATCH, SampleFacts, check_result
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.store import queries
from amber_gable.store.models import Job, Sample
from amber_gable.store.types import new_id


def today_of(scope: Scope, job: Job) -> date:
    return scope.clock.now().astimezone(ZoneInfo(job.time_zone)).date()


def samples_of(scope: Scope, job_id: str) -> Sequence[Sample]:
    """Return the samples of a job, the oldest first."""
    with scope.reading() as session:
        return queries.samples(session, job_id)


def add(scope: Scope, job: Job, facts: SampleFacts, parts: dict[str, str], tint: str | None = None) -> str:
    """Record a brush-out or a test patch; return its id.

    Parameters
    ----------
    parts : dict of str to str
        Names of the job's parts by key.
    tint : str, optional
        The new colour that the part had then: an approval holds for no other.

    Raises
    ------
    FieldErrors
    """
    if facts.part not in parts:
        raise FieldErrors({"part": "Choose where it is."})
    facts.check(today_of(scope, job))
    details = {k: v.strip() for k, v in facts.details.items()}
    if tint and facts.kind == BRUSH_OUT:
        details["tint"] = tint
    what = "a brush-out" if facts.kind == BRUSH_OUT else "a test patch"
    with changing(scope, f"{what} on {parts[facts.part]}", job.id) as change:
        row = Sample(
            id=new_id(), version=1, job_id=job.id, part=facts.part, part_name=parts[facts.part], kind=facts.kind, made_on=facts.made_on,
            due_on=facts.due_on if facts.kind == TEST_PATCH else None, details=details,
            note=facts.note.strip(), result="", signed_by=None, signed_at=None,
        )  # fmt: skip
        change.add(row)
        return row.id


def sign(scope: Scope, job: Job, sample_id: str, result: str, signed_by: str, version: int | None = None) -> None:
    """Write down how a sample came out, and who says so.

    Raises
    ------
    FieldErrors
        If nobody signed, or a patch is said to hold before its day.
    """
    with changing(scope, "the result of a sample", job.id) as change:
        row = change.find(Sample, sample_id, "sample")
        check_result(row.kind, row.due_on, result, signed_by, today_of(scope, job))
        change.label = f"{signed_by.strip()}: {result}, {row.part_name}"
        change.update(row, {"result": result, "signed_by": signed_by.strip(), "signed_at": change.at}, version)


def remove(scope: Scope, job_id: str, sample_id: str) -> None:
    with changing(scope, "remove the sample", job_id) as change:
        row = change.find(Sample, sample_id, "sample")
        change.label = f"remove the sample on {row.part_name}"
        change.delete(row)

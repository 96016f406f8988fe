"""Tests on site: recorded with the verdict that was given then."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from amber_gable.core.survey.site_tests import TestVerdict, card_for
from amber_gable.core.survey.site_tests.judge import Subject
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing, require
from amber_gable.store import queries
from amber_gable.store.models import Job, SiteTest, Surface
from amber_gable.store.types import new_id


def subject_of(scope: Scope, surface: Surface) -> Subject:
    family = scope.knowledge.substrates[surface.substrate].family
    return Subject(family, surface.kind in ("deck", "steps", "railing"))


def tests_of(scope: Scope, job_id: str) -> Sequence[SiteTest]:
    """Return the tests made on a job, the newest first."""
    with scope.reading() as session:
        return queries.site_tests(session, job_id)


def alike(job: Job, surface_id: str) -> list[Surface]:
    """Return the other painted parts of the same material under the same old coat."""
    rows = [s for e in job.building.elevations for s in e.surfaces]
    own = next((s for s in rows if s.id == surface_id), None)
    if own is None:
        return []
    return [s for s in rows if s.id != own.id and s.is_painted and (s.substrate, s.coating) == (own.substrate, own.coating)]


def record(
    scope: Scope, job: Job, surface_id: str, kind: str, values: Mapping[str, Any], painter: str = "", also: Sequence[str] = ()
) -> TestVerdict:
    """Judge a test, keep it with its verdict, and return that.

    Parameters
    ----------
    also : sequence of str
        Ids of other parts that it holds for, where its card allows and they are alike.

    Raises
    ------
    FieldErrors
        If a value is missing or out of its bounds, or it cannot hold for a part.
    NotFoundError
        If there is no such test or surface.
    """
    card = card_for(kind)
    surface = require(next((s for e in job.building.elevations for s in e.surfaces if s.id == surface_id), None), "surface")
    read = card.read(values)
    others = {s.id: s for s in alike(job, surface_id)} if card.holds_for_alike else {}
    if strange := [other for other in also if other not in others]:
        raise FieldErrors({"also": f"This test is made at each part by itself: it cannot hold for {len(strange)} of those chosen."})
    verdict = card.judge(read, subject_of(scope, surface), scope.knowledge.site_tests)
    with changing(scope.acting_as(painter), f"{card.label.lower()} test on {surface.name}", job.id) as change:
        for row in (surface, *(others[other] for other in dict.fromkeys(also))):
            judged = card.judge(read, subject_of(scope, row), scope.knowledge.site_tests)
            change.add(
                SiteTest(
                    id=new_id(), version=1, job_id=job.id, surface_id=row.id, surface_name=row.name, kind=kind, values=read,
                    verdict=asdict(judged), taken_at=change.at, painter=painter,
                )
            )  # fmt: skip
    return verdict


def remove(scope: Scope, job_id: str, test_id: str) -> None:
    """Take a test off the record."""
    with changing(scope, "remove the test", job_id) as change:
        row = change.find(SiteTest, test_id, "test")
        change.label = f"remove the {card_for(row.kind).label.lower()} test of {row.surface_name}"
        change.delete(row)

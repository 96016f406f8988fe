"""The records in a bundle: findings, tests, clearances and the walk, each with when it was made and on what.

A record outlives what it was made on: where that is gone, it is kept without it.
"""

from collections.abc import Callable
from dataclasses import asdict
from functools import partial
from typing import Any

from amber_gable.core.survey.gates import check_record
from amber_gable.core.survey.site_tests import card_for
from amber_gable.core.survey.walk import OF_THE_HOUSE, QUICK, questions_at
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.exchange.jobbundle import AnswerPart, ClearancePart, FindingPart, JobBundle, TestPart
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet
from amber_gable.services.survey.evidence.findings import FindingFacts, surface_at
from amber_gable.services.survey.evidence.site_tests import subject_of
from amber_gable.store.models import Clearance, Elevation, Finding, Job, SiteTest, Surface, WalkAnswer
from amber_gable.store.types import new_id


class Reader:
    """One import: what was found wrong so far, and how the bundle's keys read here."""

    def __init__(self, scope: Scope, bundle: JobBundle) -> None:
        self.scope, self.bundle = scope, bundle
        self.knowledge = scope.knowledge
        self.problems: dict[str, str] = {}
        self.blocks: dict[str, str] = {}
        self.elevations: dict[str, Elevation] = {}

    def attempt(self, path: str, act: Callable[[], Any]) -> Any:
        """Run one step; its faults are kept under the path of what it read."""
        try:
            return act()
        except FieldErrors as fault:
            for field, message in fault.errors.items():
                self.problems[f"{path}.{field}" if field != "form" else path] = message
        except PlanError as fault:
            self.problems[f"{path}.{fault.field}".rstrip(".")] = str(fault)
        return None

    def passes(self, path: str, act: Callable[[], Any]) -> bool:
        """Run one check; return whether it found nothing."""
        before = len(self.problems)
        self.attempt(path, act)
        return len(self.problems) == before

    def elevation(self, path: str, key: str | None) -> Elevation | None:
        row = self.elevations.get(key or "")
        if row is None:
            self.problems[path] = f"There is no elevation “{key}” in this bundle's building."
        return row


def read_records(reader: Reader, change: ChangeSet, job: Job) -> None:
    """Write what was found, tested, cleared and answered; faults are kept with the reader."""
    for index, pin in enumerate(reader.bundle.findings):
        _finding(reader, change, job, f"findings.{index}", pin, index + 1)
    for index, test in enumerate(reader.bundle.site_tests):
        _test(reader, change, job, f"site_tests.{index}", test)
    for index, record in enumerate(reader.bundle.clearances):
        _clearance(reader, change, job, f"clearances.{index}", record)
    for index, said in enumerate(reader.bundle.walk):
        path = f"walk.{index}"
        place = None if said.station in OF_THE_HOUSE else reader.elevation(f"{path}.station", said.station)
        if said.station != QUICK and not reader.passes(path, partial(_check_answer, said, place)):
            continue
        station = place.id if place else said.station
        change.add(
            WalkAnswer(
                id=new_id(), version=1, job_id=job.id, station=station, question=said.question, answer=said.answer, answered_at=change.at
            )
        )


def _check_answer(said: AnswerPart, place: Elevation | None) -> None:
    """Refuse an answer to a question that nobody asks, or that is none of its answers."""
    asked = next((q for q in questions_at(place.id if place else said.station) if q.key == said.question), None)
    if asked is None:
        raise FieldErrors({"question": f"Nobody asks “{said.question}” there."})
    choices = {"none", *(value for value, _ in asked.options)}
    stranger = next((word for word in said.answer.split() if word not in choices), None)
    if stranger is not None:
        raise FieldErrors({"answer": f"“{stranger}” is none of the answers."})


def _finding(reader: Reader, change: ChangeSet, job: Job, path: str, pin: FindingPart, number: int) -> None:
    facts = FindingFacts(**pin.model_dump(include=set(FindingFacts.__dataclass_fields__)))
    if not reader.passes(path, lambda: facts.check(reader.knowledge)):
        return
    wall = _wall(reader, job, f"{path}.elevation", pin.elevation)
    change.add(
        Finding(
            id=new_id(), version=1, job_id=job.id, elevation_id=wall.id if wall else None,
            surface_id=surface_at(wall, pin.x_m, pin.y_m) if wall else None, number=pin.number or number,
            found_at=pin.found_at or change.at, acknowledged_by=pin.acknowledged_by,
            acknowledged_at=(pin.acknowledged_at or change.at) if pin.acknowledged_by else None, **asdict(facts),
        )
    )  # fmt: skip


def _test(reader: Reader, change: ChangeSet, job: Job, path: str, part: TestPart) -> None:
    surface = surface_in(reader, job, path, part.elevation, part.surface)
    card = reader.attempt(f"{path}.kind", lambda: card_for(part.kind))
    values = reader.attempt(f"{path}.values", lambda: card.read(part.values)) if card else None
    if part.verdict is not None:
        verdict = part.verdict.model_dump()
    elif surface is not None and values is not None:
        verdict = asdict(card.judge(values, subject_of(reader.scope, surface), reader.knowledge.site_tests))
    else:
        reader.problems.setdefault(f"{path}.verdict", "Without its surface a test cannot be judged anew: give the verdict of then.")
        return
    change.add(
        SiteTest(
            id=new_id(), version=1, job_id=job.id, surface_id=surface.id if surface else None,
            surface_name=part.surface_name or (surface.name if surface else ""), kind=part.kind, values=values or {}, verdict=verdict,
            taken_at=part.taken_at or change.at, painter=part.painter,
        )
    )  # fmt: skip


def _clearance(reader: Reader, change: ChangeSet, job: Job, path: str, part: ClearancePart) -> None:
    on = surface_in(reader, job, path, part.elevation, part.surface) if part.basis == "test" else None
    name = part.component or (on.name if on else "the whole job" if part.basis != "test" else "")
    # A test of a part that is gone names it; it is on record and clears nothing.
    reader.attempt(f"{path}.details", lambda: check_record(part.hazard, part.basis, on.id if on else name or None, part.details))
    change.add(
        Clearance(
            id=new_id(), version=1, job_id=job.id, hazard=part.hazard, basis=part.basis, surface_id=on.id if on else None, component=name,
            details=part.details, recorded_at=part.recorded_at or change.at,
        )
    )  # fmt: skip


def _wall(reader: Reader, job: Job, path: str, key: str | None) -> Elevation | None:
    row = reader.elevation(path, key) if key is not None else None
    return next(e for e in job.building.elevations if e.id == row.id) if row is not None else None


def surface_in(reader: Reader, job: Job, path: str, key: str | None, index: int | None) -> Surface | None:
    wall = _wall(reader, job, f"{path}.elevation", key)
    if wall is None:
        return None
    if index is None or index >= len(wall.surfaces):
        reader.problems[f"{path}.surface"] = "There is no such surface on this elevation."
        return None
    return wall.surfaces[index]

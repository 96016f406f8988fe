"""What was decided on a survey, in a bundle: systems by hand, samples, candidates."""

from collections.abc import Mapping
from dataclasses import asdict
from datetime import timedelta
from functools import partial
from typing import Any

from amber_gable.core.systems.overrides import Edit, check_known
from amber_gable.core.systems.samples import SampleFacts, check_result
from amber_gable.core.systems.zones import ZONES
from amber_gable.exchange.jobbundle import CandidatePart, ChoicePart, EditPart, PlacedPart, SamplePart
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet
from amber_gable.services.survey.bundle.records import Reader, surface_in
from amber_gable.services.systems.choices import Wish
from amber_gable.services.systems.samples import today_of
from amber_gable.store import queries
from amber_gable.store.models import Candidate, Job, Sample, SystemChoice
from amber_gable.store.types import new_id

_PIECES = ("windows", "shutters", "trim")
_WISH = tuple(Wish.__dataclass_fields__)
_SAMPLE = tuple(n for n in SamplePart.model_fields if n not in PlacedPart.model_fields)


def decisions_of(scope: Scope, job: Job, surfaces: Mapping[str, tuple[str, int]]) -> dict[str, Any]:
    """Return the lists of a bundle that hold decisions.

    Parameters
    ----------
    surfaces : mapping of str to (str, int)
        Key of the elevation and index of a surface on it, by the surface's id.
    """

    def place(part: str) -> dict[str, Any]:
        if part in _PIECES:
            return {"pieces": part}
        elevation, index = surfaces.get(part, (None, None))
        return {"elevation": elevation, "surface": index}

    with scope.reading() as session:
        choices, samples = queries.system_choices(session, job.id), queries.samples(session, job.id)
        candidates = queries.candidates(session, job.id)
    return {
        # What was decided for a part that is gone decides nothing.
        "systems": sorted((_choice(c, place(c.part)) for c in choices if c.part in _PIECES or c.part in surfaces), key=repr),
        "samples": sorted((SamplePart(**place(s.part), **{n: getattr(s, n) for n in _SAMPLE}) for s in samples), key=repr),
        "candidates": [CandidatePart(zone=c.zone, code=c.code, hex=c.hex) for c in candidates],
    }


def _choice(row: SystemChoice, place: dict[str, Any]) -> ChoicePart:
    values = {name: getattr(row, name) for name in (*_WISH, "hex")}
    return ChoicePart(**place, **values, edits=[EditPart(**edit) for edit in row.edits])


def read_decisions(reader: Reader, change: ChangeSet, job: Job) -> None:
    """Write what was decided; faults are kept with the reader."""
    seen: set[str] = set()
    for index, part in enumerate(reader.bundle.systems):
        path = f"systems.{index}"
        on = _part(reader, job, path, part)
        if on is None or on in seen:
            reader.problems.setdefault(path, "Say once for each part what was decided: a surface, or windows, shutters or trim.")
            continue
        seen.add(on)
        _read_choice(reader, change, job, path, part, on)
    for index, sample in enumerate(reader.bundle.samples):
        _read_sample(reader, change, job, f"samples.{index}", sample)
    for index, candidate in enumerate(reader.bundle.candidates):
        if candidate.zone not in ZONES.values():
            reader.problems[f"candidates.{index}.zone"] = f"There is no zone “{candidate.zone}”."
        # They stand in the order they were added.
        added_at = change.at + timedelta(microseconds=index)
        change.add(Candidate(id=new_id(), version=1, job_id=job.id, added_at=added_at, **candidate.model_dump()))


def _part(reader: Reader, job: Job, path: str, part: PlacedPart) -> str | None:
    if part.pieces is not None:
        return part.pieces
    row = surface_in(reader, job, path, part.elevation, part.surface) if part.elevation is not None else None
    return row.id if row is not None else None


def _read_choice(reader: Reader, change: ChangeSet, job: Job, path: str, part: ChoicePart, on: str) -> None:
    wish = Wish(**{name: getattr(part, name) for name in _WISH})
    reader.attempt(path, lambda: wish.check(reader.knowledge, today_of(reader.scope, job)))
    edits = [Edit(**edit.model_dump()) for edit in part.edits]
    for number, edit in enumerate(edits):
        reader.attempt(f"{path}.edits.{number}", partial(check_known, edit, reader.knowledge))
    row = SystemChoice(id=new_id(), version=1, job_id=job.id, part=on, hex=part.hex, edits=[asdict(e) for e in edits], **asdict(wish))
    change.add(row)


def _read_sample(reader: Reader, change: ChangeSet, job: Job, path: str, part: SamplePart) -> None:
    on = _part(reader, job, path, part)
    due = part.due_on.isoformat() if part.due_on else None
    facts = SampleFacts(part.kind, on or "", part.made_on.isoformat(), part.details, due, part.note)
    reader.attempt(path, lambda: facts.check(today_of(reader.scope, job)))
    if part.result:
        # As it was when it was signed, not as it is now.
        signed_on = part.signed_at.date() if part.signed_at else today_of(reader.scope, job)
        reader.attempt(path, lambda: check_result(part.kind, due, part.result, part.signed_by or "", signed_on))
    change.add(
        Sample(
            id=new_id(), version=1, job_id=job.id, part=on or "", part_name=part.part_name, kind=part.kind, made_on=facts.made_on,
            due_on=due, details=part.details, note=part.note, result=part.result, signed_by=part.signed_by, signed_at=part.signed_at,
        )
    )  # fmt: skip

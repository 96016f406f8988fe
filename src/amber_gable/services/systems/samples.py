"""Samples of a job: brush-outs approved by signature, test patches with their result."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from zoneinfo import ZoneInfo

import numpy as np

from amber_gable.core.systems.samples import BRUSH_OUT, TEST_PATCH, SampleFacts, check_result
from amber_gable.errors import FieldErrors
from amber_gable.services.changes import changing, require
from amber_gable.services.context import Context
from amber_gable.services.outlook import Outlook
from amber_gable.services.systems.parts import Part
from amber_gable.store.models import Job, Sample
from amber_gable.store.types import new_id

# Times of day at which a sample is worth a look: in the sun early and late, and in the shade.
_LOOKS = 3


def today_of(context: Context, job: Job) -> date:
    return context.clock.now().astimezone(ZoneInfo(job.time_zone)).date()


def add(context: Context, job: Job, facts: SampleFacts, parts: dict[str, str]) -> str:
    """Record a brush-out or a test patch; return its id.

    Parameters
    ----------
    parts : dict of str to str
        Names of the job's parts by key.

    Raises
    ------
    FieldErrors
    """
    if facts.part not in parts:
        raise FieldErrors({"part": "Choose where it is."})
    facts.check(today_of(context, job))
    what = "a brush-out" if facts.kind == BRUSH_OUT else "a test patch"
    with changing(context, f"{what} on {parts[facts.part]}", job.id) as change:
        row = Sample(
            id=new_id(), version=1, job_id=job.id, part=facts.part, part_name=parts[facts.part], kind=facts.kind, made_on=facts.made_on,
            due_on=facts.due_on if facts.kind == TEST_PATCH else None, details={k: v.strip() for k, v in facts.details.items()},
            note=facts.note.strip(), result="", signed_by=None, signed_at=None,
        )  # fmt: skip
        change.add(row)
        return row.id


def sign(context: Context, job: Job, sample_id: str, result: str, signed_by: str) -> None:
    """Write down how a sample came out, and who says so.

    Raises
    ------
    FieldErrors
        If nobody signed, or a patch is said to hold before its day.
    """
    with changing(context, "the result of a sample", job.id) as change:
        row = require(change.session.get(Sample, sample_id), "sample")
        check_result(row.kind, row.due_on, result, signed_by, today_of(context, job))
        change.label = f"{signed_by.strip()}: {result}, {row.part_name}"
        change.update(row, {"result": result, "signed_by": signed_by.strip(), "signed_at": change.at})


def remove(context: Context, job_id: str, sample_id: str) -> None:
    with changing(context, "remove the sample", job_id) as change:
        row = require(change.session.get(Sample, sample_id), "sample")
        change.label = f"remove the sample on {row.part_name}"
        change.delete(row)


# What is painted alike, by the kind of its parts (handbook 2.2: part by part).
_ZONES = {
    "wall": "Body", "gable": "Body", "plinth": "Foundation", "chimney": "Chimney", "soffit": "Trim", "trim": "Trim", "window": "Windows",
    "shutter": "Shutters", "door": "Doors", "garage-door": "Garage doors", "roof": "Roof",
    "deck": "Deck", "steps": "Deck", "railing": "Railing",
}  # fmt: skip


@dataclass(frozen=True)
class ZoneColour:
    """One new colour in one zone of the house: approved once, for all parts that wear it."""

    zone: str
    hex: str | None
    parts: tuple[Part, ...]
    approved_by: str

    @property
    def largest(self) -> Part:
        return max(self.parts, key=lambda p: p.extent.area_m2)


def colours_of(parts: Sequence[Part], rows: Sequence[Sample]) -> list[ZoneColour]:
    """Return the colours of a job by zone, each with who approved a brush-out of it on one of its parts."""
    approved = {r.part: r.signed_by or "" for r in rows if r.kind == BRUSH_OUT and r.result == "approved"}
    alike: dict[tuple[object, ...], list[Part]] = {}
    for part in parts:
        alike.setdefault((_ZONES[part.facts.kind], part.facts.new_hex, part.facts.new_lrv_pct), []).append(part)
    found = []
    for group in alike.values():
        signed = next((approved[p.key] for p in group if p.key in approved), "")
        found.append(ZoneColour(_ZONES[group[0].facts.kind], group[0].facts.new_hex, tuple(group), signed))
    return found


@dataclass(frozen=True)
class Look:
    """When to look at a sample on a wall today, local time, and in what light."""

    at: str
    light: str


def looks_at(ahead: Outlook, part: Part, start_step: int) -> list[Look]:
    """Return when a wall is worth a look on the day that starts at a step: early and late in its sun, and in its shade."""
    row = ahead.row(part.key)
    if row is None:
        return []
    day = slice(start_step, start_step + 96)
    climate = ahead.windows.climate
    sunny, light = climate.direct_sun[row, day], climate.sky.elevation_deg[day] > 5
    found = []
    lit, shaded = np.flatnonzero(sunny & light), np.flatnonzero(~sunny & light)
    if len(lit):
        found.append((int(lit[len(lit) // 6]), "early in its sun"))
        if len(lit) > 8:
            found.append((int(lit[-1 - len(lit) // 6]), "late in its sun"))
    if len(shaded):
        found.append((int(shaded[len(shaded) // 2]), "in its shade"))
    return [Look(f"{ahead.local(start_step + step):%H:%M}", words) for step, words in sorted(found)[:_LOOKS]]

"""The owner's walk: by daylight, from two metres, one punch list; signed by name on the glass, first the list, in the end the house.

Not here: marks themselves (marks).
"""

import re
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

import numpy as np

from amber_gable.core.air.sun import Place, true_elevation_deg
from amber_gable.core.planning.work import TOUCH_UP
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.log.entries import MOST_LETTERS, Written, put, standing_lines
from amber_gable.services.log.inspection.marks import Sighted, add_mark, marks_of, open_on
from amber_gable.services.log.standing import standing_work
from amber_gable.store.models import Job, LogEntry

WalkStage = Literal["list", "final"]
# The sun at least so high: a wall is judged in daylight (handbook 2 and 10) [°].
_DAYLIGHT_DEG = 3.0
# A signature as strokes of whole numbers, "12,40 13,42;90,10 ...".
_SIGNATURE = re.compile(r"(?:-?\d{1,4},-?\d{1,4}[ ;]?){2,1500}")


@dataclass(frozen=True)
class OwnerWalk:
    """Where the owner's walk stands.

    Parameters
    ----------
    listed, final : LogEntry or None
        The signed punch list; the signed end.
    is_daylight : bool
    """

    listed: LogEntry | None
    final: LogEntry | None
    is_daylight: bool
    # Names of the coats that are still to be put on.
    unfinished: tuple[str, ...] = ()


def owner_walk(scope: Scope, job: Job) -> OwnerWalk:
    """Return where the owner's walk of a job stands; a later list stands for an earlier one."""
    walks = [line for line in standing_lines(scope, job) if line.kind == "walk"]
    listed = next((w for w in reversed(walks) if w.details.get("stage") == "list"), None)
    final = next((w for w in reversed(walks) if w.details.get("stage") == "final"), None)
    return OwnerWalk(listed, final, is_daylight(job, scope.said_at()), unfinished(scope, job))


def unfinished(scope: Scope, job: Job) -> tuple[str, ...]:
    """Return the names of the parts whose coats are not all on record, or left out by name."""
    standing = standing_work(scope, job, None)
    return tuple(
        dict.fromkeys(
            t.name for t in standing.tasks if t.is_coat and t.step != TOUCH_UP and t.hours and not standing.states[t.id].state.is_over
        )
    )


def is_daylight(job: Job, at: datetime) -> bool:
    """Return whether the sun stands high enough over a job to judge a wall."""
    place = Place(job.latitude_deg, job.longitude_deg, job.altitude_m)
    return bool(true_elevation_deg(place, np.array([at.timestamp()]))[0] >= _DAYLIGHT_DEG)


def add_owners_mark(scope: Scope, job: Job, surface_id: str, seen: Sighted) -> str:
    """Put a mark on the punch list; return its id.

    Raises
    ------
    FieldErrors
        If it is dark, the list is signed, or the mark says nothing.
    """
    walk = owner_walk(scope, job)
    if not walk.is_daylight:
        raise FieldErrors({"mark": "It is too dark to judge a wall: walk by daylight."})
    if walk.listed is not None:
        raise FieldErrors(
            {"mark": f"The list was signed by {walk.listed.details['name']}: there is one list. What is new is an extra, or a note."}
        )
    return add_mark(scope, job, surface_id, seen)


def sign(scope: Scope, job: Job, stage: WalkStage, name: str, strokes: str, text: str = "", entry: str = "") -> str:
    """Keep the owner's signature: under the punch list, or under the house as it stands. Return the entry's id.

    Raises
    ------
    FieldErrors
        If it is dark, nobody signed, or marks are open at the end.
    """
    errors, walk = {}, owner_walk(scope, job)
    if not 1 <= len(name.strip()) <= 120:
        errors["name"] = "Who signs? Write the owner's name."
    if not _SIGNATURE.fullmatch(strokes.strip()):
        errors["strokes"] = "Sign with a finger in the field."
    if len(text) > MOST_LETTERS:
        errors["text"] = f"Shorten this to {MOST_LETTERS} characters."
    if walk.unfinished:
        count = len(walk.unfinished)
        errors["form"] = (
            f"{walk.unfinished[0]}{f' and {count - 1} more' if count > 1 else ''} still to be coated: the owner signs when all is on."
        )
    if stage == "final" and (left := open_on(scope, job)):
        errors["form"] = (
            f"Marks are open: {', '.join(str(m.number) for m in left)}. They are mended and looked at again, or accepted by name."
        )
    if not walk.is_daylight:
        errors["form"] = "It is too dark to judge a wall: walk by daylight."
    if errors:
        raise FieldErrors(errors)
    count = sum(mark.is_owners for mark in marks_of(scope, job))
    label = "the owner signs the punch list" if stage == "list" else "the owner signs the work"
    with changing(scope, label, job.id) as change:
        details = {"stage": stage, "name": name.strip(), "strokes": strokes.strip(), "marks": count}
        return put(scope, change, job, Written("walk", text, details, entry=entry))[0]

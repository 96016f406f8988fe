"""Stop joints: work that is paused in the middle of a wall, how much of it is done by where the wet edge is, and where the joint shows.

Not here: where one may stop and by when (planning.stopline).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import shapely

from amber_gable.core.planning.state import Told, on_record
from amber_gable.core.planning.work import WorkTask
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.coats.running import begun_at, left_at
from amber_gable.services.log.record import Said, enter, entries_of, rows_of, void_of
from amber_gable.services.survey.building.rows import region_of
from amber_gable.store.models import Job, Surface

# Less than this of a wall is nothing done, more is all of it.
_LEAST_FRAC = 0.005


@dataclass(frozen=True)
class Paused:
    """How far work has come.

    Parameters
    ----------
    joint_m : float or None
        The wet edge from the wall's left corner as one sees it [m]; None where no wall is painted.
    begins : {"left", "right"}
        The corner where it began.
    share_pct : float or None
        How much is done, where no joint says it.
    """

    joint_m: float | None
    begins: str = "left"
    share_pct: float | None = None


@dataclass(frozen=True)
class Joint:
    """A stop joint on record: of which surface, how far from its left corner [m], since when, by whom."""

    surface_id: str
    at_m: float
    since: datetime
    painters: tuple[str, ...]


def done_frac(surface: Surface, paused: Paused) -> float:
    """Return how much of a wall is done up to its wet edge, by its outline, 0 to 1.

    Raises
    ------
    FieldErrors
        If the joint lies beyond the wall.
    """
    assert paused.joint_m is not None, "asked of a wall with a joint"
    polygon = region_of(surface).polygon
    left, low, right, high = polygon.bounds
    if not 0 <= paused.joint_m <= right - left + 1e-6:
        raise FieldErrors({"joint": f"The wall is {right - left:.1f} m wide: from 0 at its left corner to that."})
    at = left + paused.joint_m
    done = shapely.clip_by_rect(polygon, left - 1, low - 1, at, high + 1).area
    frac = float(done / polygon.area)
    return frac if paused.begins == "left" else 1 - frac


def pause(
    scope: Scope, job: Job, tasks: Sequence[WorkTask], began: datetime | None, paused: Paused, painters: tuple[str, ...], entry: str = ""
) -> str:  # fmt: skip
    """Record that work was stopped before its end: as much as is done by now, with the joint; return the entry's id.

    Parameters
    ----------
    began : datetime or None
        When it was begun or gone on with, where the record does not say; None for now.
    paused : Paused
    entry : str
        Id made on the device: sent twice, it is one entry.

    Raises
    ------
    FieldErrors
        If nothing more is done than was on record, or all of it.
    """
    surfaces = {s.id: s for e in job.building.elevations for s in e.surfaces}
    wall = next((surfaces[place] for t in tasks if (place := t.id.rpartition(":")[0]) in surfaces), None)
    if paused.joint_m is not None and wall is not None:
        total, field = done_frac(wall, paused), "joint"
    elif paused.share_pct is not None:
        total, field = paused.share_pct / 100, "share_pct"
    else:
        raise FieldErrors({"joint": "Tap the wall where the wet edge is, or say how far it is from the left corner."})
    before = min((_done(scope, job, t) for t in tasks), default=0.0)
    if total >= 1 - _LEAST_FRAC:
        raise FieldErrors({field: "That is all of it: tap Done."})
    if total - before < _LEAST_FRAC:
        raise FieldErrors({field: f"{100 * before:.0f} % is on record already: the wet edge lies further on."})
    now = scope.said_at()
    details = (
        {"joint_m": round(paused.joint_m, 2), "surface": wall.id, "begins": paused.begins} if paused.joint_m is not None and wall else {}
    )
    began = begun_at(scope, job, [task.id for task in tasks]) or began or now
    until = left_at(job, began, now) or now
    said = Said(Told.DONE, min(began, until), until, 100 * (total - before), painters, entry=entry, details=details)
    return enter(scope, job, tasks, said)


def _done(scope: Scope, job: Job, task: WorkTask) -> float:
    told = on_record(entries_of(scope, job)).get(task.id)
    return told.done_frac if told is not None else 0.0


def joints_of(scope: Scope, job: Job) -> list[Joint]:
    """Return the stop joints of a job that no later entry has painted over or taken back, the oldest first."""
    rows = rows_of(scope, job)
    gone = void_of(rows)
    open_joints: dict[str, Joint] = {}
    for row in rows:
        if row.entry in gone or row.told != Told.DONE.value:
            continue
        # Whatever is done of the same step later goes on from the joint.
        open_joints.pop(row.task, None)
        if row.details.get("joint_m") is not None:
            open_joints[row.task] = Joint(row.details["surface"], row.details["joint_m"], row.until_at, tuple(row.painters))
    return list(open_joints.values())

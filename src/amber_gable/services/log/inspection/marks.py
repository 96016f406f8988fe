"""Marks of an inspection: what is to be seen on a wall that is dry, who mends it, whether it was mended, looked at again, or accepted.

A mark's state follows from the lines of the log that refer to it; none is changed. Not here: when and where to look (looking).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal

from amber_gable.core.knowledge import Knowledge, MarkKind
from amber_gable.core.planning.state import Told
from amber_gable.core.planning.work import TOUCH_UP
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.services.changes.ownership import head_of
from amber_gable.services.log.entries import MOST_LETTERS, Written, put, standing_lines
from amber_gable.services.log.record import rows_of, void_of
from amber_gable.services.survey.building.rows import region_of
from amber_gable.store.models import Job, LogEntry, StockRow, Surface

MarkState = Literal["open", "mended", "good", "accepted"]
_LARGEST_M = 60.0
_MOST_L = 100.0


@dataclass(frozen=True)
class Mark:
    """A mark, and where it stands.

    Parameters
    ----------
    entry : str
        Id of its line in the log.
    number : int
        As it stands on the drawing and the list.
    kind : str
        Row of the table of marks.
    x_m, y_m : float
        On its elevation.
    size_m : float
        How long or wide it is.
    mender : str
        Who is to mend it; empty for anybody.
    is_owners : bool
        Found on the owner's walk.
    looks : int
        How often it was looked at again and not found good.
    """

    entry: str
    number: int
    kind: str
    surface_id: str
    place: str
    x_m: float
    y_m: float
    size_m: float
    text: str
    batch: str
    mender: str
    at: datetime
    by: str
    state: MarkState
    is_owners: bool = False
    # Id of the coat's task that was the newest on the wall; empty where none was.
    task: str = ""
    looks: int = 0
    last: LogEntry | None = None
    mended_at: datetime | None = None

    @property
    def is_closed(self) -> bool:
        return self.state in ("good", "accepted")


@dataclass(frozen=True)
class Sighted:
    """What is entered of a mark: its kind, where it is, its size [m], words, the batch of the coat, who mends it."""

    kind: str
    x_m: float
    y_m: float
    size_m: float = 0.0
    text: str = ""
    batch: str = ""
    mender: str = ""
    is_owners: bool = False
    task: str = ""
    entry: str = ""


def marks_of(scope: Scope, job: Job) -> list[Mark]:
    """Return the marks of a job in the order in which they were made."""
    return scope.cached(("marks", job.id, head_of(scope, job.id).revision), lambda: _marks(scope, job))


def _marks(scope: Scope, job: Job) -> list[Mark]:
    lines, out = standing_lines(scope, job), dict[str, Mark]()
    for line in lines:
        if line.kind == "mark" and line.surface_id:
            said = line.details
            out[line.entry] = Mark(
                line.entry, len(out) + 1, said["mark"], line.surface_id, line.place, said["x_m"], said["y_m"], said.get("size_m", 0.0),
                line.text, said.get("batch", ""), said.get("mender", ""), line.at, line.said_by, "open",
                bool(said.get("is_owners")), said.get("task", ""),
            )  # fmt: skip
    touched = _touched_up(scope, job)
    for entry, mark in out.items():
        ended = next((at for at in touched.get(mark.surface_id, ()) if at > mark.at), None)
        if ended is not None:
            out[entry] = replace(mark, state="mended", mended_at=ended)
    for line in lines:
        if line.refers not in out:
            continue
        mark = out[line.refers]
        if line.kind == "mended":
            out[line.refers] = replace(mark, state="mended", last=line, mended_at=line.at)
        elif line.kind == "looked":
            is_good = bool(line.details.get("is_good"))
            out[line.refers] = replace(mark, state="good" if is_good else "open", last=line, looks=mark.looks + (not is_good))
        elif line.kind == "accepted":
            out[line.refers] = replace(mark, state="accepted", last=line)
    return list(out.values())


def _touched_up(scope: Scope, job: Job) -> dict[str, list[datetime]]:
    """Return by surface when its touching up was done, by the record of work."""
    rows, out = rows_of(scope, job), dict[str, list[datetime]]()
    gone = void_of(rows)
    for row in rows:
        place, _, step = row.task.rpartition(":")
        if step.split(" ")[0] == TOUCH_UP and row.told == Told.DONE.value and row.entry not in gone:
            out.setdefault(place, []).append(row.until_at)
    return out


def rounds_of(scope: Scope, job: Job, surface_id: str) -> int:
    """Return how often a surface was touched up, by the record."""
    return len(_touched_up(scope, job).get(surface_id, ()))


def open_on(scope: Scope, job: Job, surface_ids: Sequence[str] | None = None) -> list[Mark]:
    """Return the marks that are not closed: open, or mended and not looked at again."""
    return [m for m in marks_of(scope, job) if not m.is_closed and (surface_ids is None or m.surface_id in surface_ids)]


def add_mark(scope: Scope, job: Job, surface_id: str, seen: Sighted) -> str:
    """Put a mark on a wall; return its id.

    Raises
    ------
    FieldErrors
        If it lies beside the wall, or says nothing that can be mended.
    """
    kinds, errors = scope.knowledge.site_log.marks, {}
    surface = _surface(job, surface_id)
    if seen.kind not in kinds:
        errors["mark"] = f"Choose what it is: {', '.join(row.label.lower() for row in kinds.values())}."
    if seen.kind == "other" and not seen.text.strip():
        errors["text"] = "Say what it is, in a few words."
    if len(seen.text) > MOST_LETTERS:
        errors["text"] = f"Shorten this to {MOST_LETTERS} characters."
    if not 0 <= seen.size_m <= _LARGEST_M:
        errors["size"] = f"0 to {_LARGEST_M:g} m."
    left, low, right, high = region_of(surface).bounds
    if not (left - 0.05 <= seen.x_m <= right + 0.05 and low - 0.05 <= seen.y_m <= high + 0.05):
        errors["spot"] = f"This lies beside {surface.name.lower()}: tap the wall where the mark is."
    if errors:
        raise FieldErrors(errors)
    details = {
        "mark": seen.kind, "x_m": round(seen.x_m, 2), "y_m": round(seen.y_m, 2), "size_m": round(seen.size_m, 2), "batch": seen.batch,
        "mender": seen.mender, "is_owners": seen.is_owners, "task": seen.task,
    }  # fmt: skip
    with changing(scope, f"mark a {kinds[seen.kind].label.lower()} on {surface.name}", job.id) as change:
        entry, _ = put(scope, change, job, Written("mark", seen.text, details, surface, entry=seen.entry))
    return entry


@dataclass(frozen=True)
class Mended:
    """How a mark was mended: in words, with how much paint from which can in stock."""

    text: str = ""
    litres: float | None = None
    stock_id: str = ""
    entry: str = ""


def mend(scope: Scope, job: Job, mark_entry: str, how: Mended) -> None:
    """Write down that a mark was mended; the paint is taken from stock.

    Raises
    ------
    FieldErrors
    NotFoundError
    """
    mark = _mark(scope, job, mark_entry)
    if mark.is_closed:
        raise FieldErrors({"form": f"Mark {mark.number} is closed already."})
    if how.litres is not None and not 0 < how.litres <= _MOST_L:
        raise FieldErrors({"litres": f"Above 0 and at most {_MOST_L:g} L."})
    with changing(scope, f"mark {mark.number} is mended", job.id) as change:
        details: dict[str, object] = {}
        if how.litres is not None:
            details = {"litres": how.litres} | _taken(change, job, how)
        put(scope, change, job, Written("mended", how.text, details, _surface(job, mark.surface_id), mark.entry, entry=how.entry))


def _taken(change: ChangeSet, job: Job, how: Mended) -> dict[str, object]:
    """Take paint out of a can in stock; return what the entry says of it."""
    if not how.stock_id:
        return {}
    row = change.find_own(StockRow, how.stock_id, "can")
    if row.job_id not in (None, job.id):
        raise FieldErrors({"stock": "This can is kept for another job."})
    if (how.litres or 0.0) > row.litres + 1e-9:
        raise FieldErrors({"litres": f"There are {row.litres:.2f} L in this can."})
    change.follow(row, {"litres": round(row.litres - (how.litres or 0.0), 4)})
    return {"batch": row.batch, "stock": row.id}


def look_again(scope: Scope, job: Job, mark_entry: str, *, is_good: bool, text: str = "", entry: str = "") -> None:
    """Write down how a mended mark looks now: good, or it stays open.

    Raises
    ------
    FieldErrors
        If it was not mended yet.
    NotFoundError
    """
    mark = _mark(scope, job, mark_entry)
    if mark.state != "mended":
        raise FieldErrors({"form": f"Mark {mark.number} is {mark.state}: only what was mended is looked at again."})
    with changing(scope, f"look at mark {mark.number} again", job.id) as change:
        surface = _surface(job, mark.surface_id)
        put(scope, change, job, Written("looked", text, {"is_good": is_good}, surface, mark.entry, entry=entry))


def accept(scope: Scope, job: Job, mark_entry: str, name: str, why: str, entry: str = "") -> None:
    """Let a mark stay as it is: somebody accepts it by name and in words.

    Raises
    ------
    FieldErrors
    NotFoundError
    """
    errors = {}
    if not 1 <= len(name.strip()) <= 120:
        errors["name"] = "Who accepts it? A mark stays only by somebody's name."
    if not 1 <= len(why.strip()) <= MOST_LETTERS:
        errors["text"] = "Say why it may stay, in a few words."
    if errors:
        raise FieldErrors(errors)
    mark = _mark(scope, job, mark_entry)
    with changing(scope, f"mark {mark.number} is accepted by {name.strip()}", job.id) as change:
        surface = _surface(job, mark.surface_id)
        put(scope, change, job, Written("accepted", why, {"name": name.strip()}, surface, mark.entry, entry=entry))


def hours_of(marks: Sequence[Mark], knowledge: Knowledge) -> tuple[float, float]:
    """Return the hours of sanding and of touching up that marks take [painter-h]; half an hour at least for who comes for it."""
    kinds: list[MarkKind] = [knowledge.site_log.marks[m.kind] for m in marks]
    sand = sum(kind.hours / 2 for kind in kinds if kind.is_sanded)
    paint = sum(kind.hours / (2 if kind.is_sanded else 1) for kind in kinds)
    return sand, max(paint, 0.5 - sand) if kinds else 0.0


def _mark(scope: Scope, job: Job, entry: str) -> Mark:
    mark = next((m for m in marks_of(scope, job) if m.entry == entry), None)
    if mark is None:
        raise NotFoundError("This mark is not here (any more). It may have been taken back.")
    return mark


def _surface(job: Job, surface_id: str) -> Surface:
    surface = next((s for e in job.building.elevations for s in e.surfaces if s.id == surface_id), None)
    if surface is None:
        raise FieldErrors({"surface_id": "Tap the wall that the mark is on."})
    return surface

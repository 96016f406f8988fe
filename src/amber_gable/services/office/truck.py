"""Truck list: what is loaded for a day's work, what came back, and what still lies at another job."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.takeoff.sundries import Doing, applicators, carried, used_up
from amber_gable.errors import NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing, require
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.planning import schedules
from amber_gable.services.systems.samples import today_of
from amber_gable.services.takeoff.job import WORK_KINDS, JobTakeoff, doings_of, job_takeoff, kind_of
from amber_gable.store import queries
from amber_gable.store.models import Job, Loaded
from amber_gable.store.types import new_id

# Groups whose rows come home again; the others are used up.
COMES_BACK = ("access", "hand", "power", "water", "meter", "cover", "worn")
_PAINTING = ("Prime", "Coats")


@dataclass(frozen=True)
class LoadRow:
    """A row of the list.

    Parameters
    ----------
    key, group, label, amount : str
        Group: "paint", "apply", "use", "chemical"; or a tool's.
    is_loaded, is_back : bool
    elsewhere : str
        The job at which it was left, and since when; empty where it is at home.
    """

    key: str
    group: str
    label: str
    amount: str = ""
    is_loaded: bool = False
    is_back: bool = False
    elsewhere: str = ""
    # #rrggbb of paint; empty for all else.
    colour: str = ""

    @property
    def comes_back(self) -> bool:
        return self.group in COMES_BACK


@dataclass(frozen=True)
class TruckList:
    """Load of the truck for some kinds of work on one day.

    Parameters
    ----------
    day : str
        YYYY-MM-DD, where the job stands.
    tasks : tuple of str
        The kinds of work it is for; `why` says where they come from.
    """

    day: str
    tasks: tuple[str, ...]
    why: str
    rows: tuple[LoadRow, ...]
    is_whole: bool = False

    @property
    def missing(self) -> int:
        return sum(not row.is_loaded for row in self.rows)

    @property
    def out(self) -> tuple[LoadRow, ...]:
        """Return what was loaded and has to come home."""
        return tuple(row for row in self.rows if row.is_loaded and row.comes_back)

    @property
    def not_back(self) -> int:
        return sum(not row.is_back for row in self.out)


def _rows(takeoff: JobTakeoff, doings: Sequence[Doing], tasks: Sequence[str], painters: int, knowledge: Knowledge) -> Iterable[LoadRow]:
    kept = [d for d in doings if kind_of(d.step) in tasks]
    parts = {(d.part, d.step.key) for d in kept}
    for lot in (lot for lot in takeoff.lots if any((line.part, line.step) in parts for line in lot.lines)):
        for row in lot.stock:
            yield LoadRow(
                f"stock:{row.id}", "paint", f"{lot.product.name}, from stock", row.place or f"{row.litres:g} L", colour=lot.colour
            )
        if lot.packs:
            yield LoadRow(f"can:{lot.key}", "paint", lot.product.name, lot.packs.said, colour=lot.colour)
    for s in applicators(kept, painters, knowledge):
        yield LoadRow(f"apply:{s.key}", "apply", s.label, s.buy)
    for s in used_up(kept, knowledge):
        yield LoadRow(f"use:{s.key}", "cover" if s.is_reused else "chemical" if s.group == "chemicals" else "use", s.label, s.buy)
    for access in dict.fromkeys(p.wall.access for p in takeoff.walls if p.sets):
        yield LoadRow(f"access:{access}", "access", knowledge.access[access].label)
    for tool in carried(kept, knowledge):
        each = str(painters) if tool.group == "worn" and painters > 1 else ""
        yield LoadRow(f"tool:{tool.key}", tool.group, tool.label, each)


def planned_tasks(scope: Scope, job: Job, takeoff: JobTakeoff) -> tuple[tuple[str, ...], str]:
    """Return the kinds of work of today, and where that is known from."""
    there = tuple(takeoff.hours_by_kind)
    schedule = schedules.saved(scope, job)
    day = today_of(scope, job)
    coats = [v for v in schedule.visits if v.starts_at.date() == day] if schedule else []
    if coats:
        return tuple(t for t in there if t in _PAINTING), f"{len(coats)} coat{'s' if len(coats) > 1 else ''} in today's schedule"
    return there, "nothing is scheduled today: the whole job"


def truck_list(scope: Scope, job: Job, tasks: Sequence[str] = ()) -> TruckList:
    """Return today's list.

    Parameters
    ----------
    tasks : sequence of str
        Kinds of work to load for; empty for what is planned today.
    """
    takeoff = job_takeoff(scope, job)
    chosen = tuple(t for t in WORK_KINDS if t in tasks)
    wanted, why = (chosen, "as chosen") if chosen else planned_tasks(scope, job, takeoff)
    day = today_of(scope, job).isoformat()
    rows = _rows(takeoff, doings_of([p.spec for p in takeoff.parts]), wanted, rules_of(job).painters, scope.knowledge)
    with scope.reading() as session:
        out = queries.all_loaded(session, scope.contractor_id)
        names = {j.id: j.name for j in queries.jobs(session, scope.contractor_id)}
    here = {r.key: r for r in out if r.job_id == job.id and r.day == day}
    away = {r.key: f"{names[r.job_id]}, {r.day}" for r in out if not r.is_back and r.key not in here and (r.job_id, r.day) != (job.id, day)}
    return TruckList(
        day,
        wanted,
        why,
        tuple(_marked(row, here.get(row.key), away.get(row.key, "")) for row in rows),
        len(wanted) == len(takeoff.hours_by_kind),
    )


def _marked(row: LoadRow, loaded: Loaded | None, away: str) -> LoadRow:
    return replace(
        row, is_loaded=loaded is not None, is_back=loaded is not None and loaded.is_back, elsewhere=away if row.comes_back else ""
    )  # fmt: skip


def mark(scope: Scope, job: Job, key: str, state: str) -> None:
    """Say that a row was put on the truck, taken off again, or has come home.

    Parameters
    ----------
    state : {"on", "off", "back", "out"}

    Raises
    ------
    NotFoundError
        If the row is not on the list, or was not loaded.
    """
    day = today_of(scope, job).isoformat()
    words = {"on": "loaded", "off": "not loaded", "back": "back", "out": "not back"}
    if state not in words:
        raise NotFoundError("There is no such mark.")
    # Before the change begins: no transaction stays open while something is reckoned.
    if state == "on" and all(key != listed.key for listed in truck_list(scope, job, WORK_KINDS).rows):
        raise NotFoundError("This is not on the list (any more).")
    with changing(scope, f"truck: {words[state]}", job.id) as change:
        row = next((r for r in queries.loaded(change.session, job.id, day) if r.key == key), None)
        if state == "on":
            if row is None:
                change.add(Loaded(id=new_id(), version=1, job_id=job.id, day=day, key=key, is_back=False))
            return
        row_mark = require(row, "row")
        if state == "off":
            change.delete(row_mark)
        else:
            change.follow(row_mark, {"is_back": state == "back"})


def fetched(scope: Scope, job: Job, key: str) -> None:
    """Say that what was left at another job, or on another day, is here again."""
    day = today_of(scope, job).isoformat()
    with changing(scope, "truck: fetched", job.id) as change:
        for row in queries.all_loaded(change.session, scope.contractor_id):
            if row.key == key and not row.is_back and (row.job_id, row.day) != (job.id, day):
                change.follow(row, {"is_back": True})

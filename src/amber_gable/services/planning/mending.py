"""Mending by itself: once something overtook the plan of all jobs, the keeper mends it, says why, and it can be taken back.

Work whose time has passed and of which nobody spoke holds it up: a plan that took it for not done would send the crew there again.
It counts as not done from the next working morning on. Not here: what overtakes a plan (overtaken), how it is mended (schedules).
"""

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, time, timedelta

from amber_gable.errors import ConflictError
from amber_gable.services.app.scope import KEEPER, Scope
from amber_gable.services.changes.changes import Undoable, changing
from amber_gable.services.jobs import jobs
from amber_gable.services.planning import morning, schedules
from amber_gable.services.planning.morning import JobMorning
from amber_gable.services.planning.overtaken import overtaken
from amber_gable.store import queries


@dataclass(frozen=True)
class Standing:
    """What stands against the plan of all jobs now.

    Parameters
    ----------
    because : dict of str to tuple of str
        By job, what overtook it, in words; jobs of which nothing did are not in it.
    unsaid : int
        Pieces of work of which nobody has said yet whether they were done: for them it waits.
    waits_until : datetime or None
        When the first of them counts as not done.
    is_planned : bool
        Whether any of the jobs has a plan.
    """

    because: dict[str, tuple[str, ...]]
    unsaid: int
    waits_until: datetime | None
    is_planned: bool


def standing_against(scope: Scope, todays: Iterable[JobMorning]) -> Standing:
    """Return what stands against the plan of some jobs."""
    because, waits, is_planned = dict[str, tuple[str, ...]](), list[datetime](), False
    for today in todays:
        is_planned = is_planned or today.schedule is not None
        now = scope.clock.now()
        passed = [one for one in today.work if one.left and one.stint.ends_at <= now and one.state != "held"]
        counts_from = [_next_morning(today, one.stint.ends_at) for one in passed]
        waits += [at for at in counts_from if at > now]
        late = sum(at <= now for at in counts_from)
        why = overtaken(scope, today)
        if late:
            why.append(f"{late} piece{'s were' if late != 1 else ' was'} not recorded as done in {'their' if late != 1 else 'its'} time")
        if why:
            because[today.job.id] = tuple(why)
    return Standing(because, len(waits), min(waits, default=None), is_planned)


def _together(parts: Sequence[Standing]) -> Standing:
    waits = [part.waits_until for part in parts if part.waits_until is not None]
    because = {job_id: why for part in parts for job_id, why in part.because.items()}
    return Standing(because, sum(part.unsaid for part in parts), min(waits, default=None), any(part.is_planned for part in parts))


def _next_morning(today: JobMorning, ended: datetime) -> datetime:
    """Return when the crew of a job begins on the day after a piece of work."""
    assert today.ahead is not None, "work has its weather"
    day = ended.astimezone(today.ahead.zone).date() + timedelta(days=1)
    hours = jobs.rules_of(today.job).day_starts_h
    return datetime.combine(day, time(int(hours), round(hours % 1 * 60)), today.ahead.zone)


@dataclass
class Mender:
    """Mends the plan when it is looked at; remembers what it looked at last.

    Parameters
    ----------
    against : Standing or None
        What stood against the plan at the last look.
    """

    against: Standing | None = None
    _looked_at: Hashable = None
    # What stood against the plan even when it had been mended.
    _left: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    # What stands against the plan of each job, by its id, and under which mark: one job's note is no reason to look at the others.
    _known: dict[str, tuple[Hashable, Standing]] = field(default_factory=dict)

    def seen(self, scope: Scope, mark: Hashable, today: JobMorning) -> None:
        """Keep what stands against the plan of a job that was just computed: the next look need not compute it again."""
        if scope.owner.mends_itself:
            self._known[today.job.id] = ((_quarter(scope), mark), standing_against(scope, [today]))

    def look(self, scope: Scope, marks: Mapping[str, Hashable]) -> bool:
        """Mend the plan of all running jobs if something overtook it; return whether it was mended.

        Parameters
        ----------
        scope : Scope
            Of the keeper.
        marks : dict of str to hashable
            By running job, what changes whenever anything may that its plan is made from.
        """
        mark = (_quarter(scope), tuple(marks.items()))
        if not scope.owner.mends_itself or mark == self._looked_at:
            return False
        self._looked_at = mark
        against = self._against(scope, marks)
        if not against.is_planned:
            return False
        self.against = against
        last = last_mending(scope)
        if not against.because or against.unsaid or against.because == self._left:
            return False
        if last is not None and last.is_undone and last.because == against.because:
            # Somebody took it back: not for the same reasons again.
            return False
        try:
            schedules.mend_because(scope, against.because)
        except ConflictError:
            # Somebody is planning: theirs stands, and is looked at in the next round.
            self._looked_at = None
            self._known.clear()
            return False
        self.against = standing_against(scope, _todays(scope))
        self._left = self.against.because
        return True

    def _against(self, scope: Scope, marks: Mapping[str, Hashable]) -> Standing:
        known = {}
        for job_id, mark in marks.items():
            key = (_quarter(scope), mark)
            before = self._known.get(job_id)
            if before is None or before[0] != key:
                before = key, standing_against(scope, [morning.job_morning(scope, jobs.whole(scope, job_id))])
            known[job_id] = before
        self._known = known
        return _together([standing for _, standing in known.values()])


def _quarter(scope: Scope) -> datetime:
    now = scope.clock.now()
    return now.replace(minute=now.minute // 15 * 15, second=0, microsecond=0)


def _todays(scope: Scope) -> list[JobMorning]:
    return [morning.job_morning(scope, jobs.whole(scope, head.id)) for head in morning.running(scope)]


@dataclass(frozen=True)
class Mending:
    """The last time the plan was mended by itself: what undo calls it, why, and whether it was taken back."""

    undoable: Undoable
    because: Mapping[str, tuple[str, ...]]
    is_undone: bool


def last_mending(scope: Scope) -> Mending | None:
    """Return the last time the plan was mended by itself; None where it never was."""
    with scope.reading() as session:
        rows = queries.last_actions_on(session, scope.contractor_id, KEEPER, "schedules")
    if not rows:
        return None
    because = {row.after["job_id"]: tuple(row.after["finish"].get("because", ())) for row in rows if row.after}
    first = rows[0]
    undoable = Undoable(first.set_id, first.label, first.who, first.at)
    return Mending(undoable, {i: why for i, why in because.items() if why}, first.undone_at is not None)


def switch(scope: Scope, *, is_on: bool) -> None:
    """Note whether the plan is mended by itself from now on."""
    with changing(scope, "let the plan mend itself" if is_on else "mend the plan by hand only") as change:
        change.follow(change.contractor_row(), {"mends_itself": is_on})

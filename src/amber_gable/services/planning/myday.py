"""The day of one painter over all jobs: what is being done, what comes next, what was done or is still unsaid.

Not here: the plan (schedules), or what an entry does to it (log.record).
"""

from dataclasses import dataclass
from datetime import date, datetime

from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.log.coats.running import begun_at, left_at
from amber_gable.services.planning import morning
from amber_gable.services.planning.morning import JobMorning
from amber_gable.services.planning.worknow import StintNow
from amber_gable.store.models import Job


@dataclass(frozen=True)
class DayPiece:
    """A piece of work of somebody's day.

    Parameters
    ----------
    job : Job
    one : StintNow
    running_since : datetime or None
        It was begun then and not paused since, by the record.
    done_frac : float
        How much of it is on record.
    last_stroke_at : datetime or None
        Of a coat.
    asks : bool
        Its time has passed, and nobody has said whether it was done.
    """

    job: Job
    one: StintNow
    running_since: datetime | None
    done_frac: float
    last_stroke_at: datetime | None
    asks: bool
    # Why the newest forecast no longer lets the coat through; empty where it does.
    broken_by: str = ""
    # When it was left, where it was begun on an earlier day and nobody ended it.
    left_at: datetime | None = None

    @property
    def is_running(self) -> bool:
        """Somebody is at it by the record: begun today, and neither paused nor ended."""
        return self.running_since is not None and self.left_at is None

    @property
    def is_paused(self) -> bool:
        return self.running_since is None and 0 < self.done_frac < 1


def my_day(scope: Scope, painter: str, coming: date | None = None) -> tuple[DayPiece, ...]:
    """Return today's work of a painter, by its time: first what is running, then what is asked, what comes, and what is done.

    Parameters
    ----------
    coming : date, optional
        Another day: what the plan has for it.
    """
    out: list[DayPiece] = []
    for head in morning.running(scope):
        today = morning.job_morning(scope, jobs.whole(scope, head.id))
        if today.ahead is None or today.standing is None:
            continue
        day = coming or scope.clock.now().astimezone(today.ahead.zone).date()
        unsaid = {one.stint.id for one in today.unsaid}
        # What the plan took for not done has its new place too: the old one asks, the new one may be begun.
        asks = [one for one in today.to_say if painter in one.stint.painters and coming is None]
        ahead = [one for one in today.work if painter in one.stint.painters and one.stint.id not in unsaid]
        out += [_piece(scope, today, one, asks=True) for one in asks]
        out += [_piece(scope, today, one) for one in ahead if one.stint.starts_at.astimezone(today.ahead.zone).date() == day]
    return tuple(sorted(out, key=lambda p: (p.running_since is None, p.one.state == "done", p.one.stint.starts_at)))


def _piece(scope: Scope, today: JobMorning, one: StintNow, *, asks: bool = False) -> DayPiece:
    assert today.standing is not None, "asked of jobs whose work is known"
    states = [today.standing.states[i] for i in one.stint.tasks if i in today.standing.states]
    done = min((1.0 if s.state.is_over else s.done_frac for s in states), default=0.0)
    visits = today.schedule.visits if today.schedule else []
    visit = next((v for v in visits if set(v.tasks) & set(one.stint.tasks) and v.coat == one.stint.coat), None)
    last, broken = (visit.last_stroke_at, visit.broken_by) if visit is not None else (None, "")
    began = begun_at(scope, today.job, one.left)
    left = left_at(today.job, began, scope.clock.now(), one.stint.ends_at - one.stint.starts_at) if began is not None else None
    return DayPiece(today.job, one, began, done, last, asks, broken, left)

"""Work that was begun on record and is still going on: since when, and when it ended where nobody said."""

from collections.abc import Collection
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from amber_gable.core.planning.state import OnRecord, Told
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.log.record import rows_of, void_of
from amber_gable.store.models import Job


def begun_at(scope: Scope, job: Job, ids: Collection[str]) -> datetime | None:
    """Return when steps were begun that are still going on; None where the last of their lines that counts says anything else."""
    rows = rows_of(scope, job)
    gone = void_of(rows)
    own = [row for row in rows if row.task in ids and row.entry not in gone and row.told != Told.WITHDRAWN.value]
    return own[-1].from_at if own and own[-1].told == Told.BEGAN.value else None


def left_at(job: Job, began: datetime, now: datetime, planned: timedelta | None = None) -> datetime | None:
    """Return when work of an earlier day was left whose end nobody said; None where it was begun today, and may still be going on.

    Parameters
    ----------
    planned : timedelta, optional
        How long it was to take: it is taken to have ended then, and never after that day's work; what was begun after it, within that date.
        Our assumption: the night ends what nobody ended, and whoever works on past the usual hours is still at it.
    """
    zone = ZoneInfo(job.time_zone)
    local = began.astimezone(zone)
    if now.astimezone(zone).date() <= local.date():
        return None
    midnight = local.replace(hour=0, minute=0, second=0, microsecond=0)
    day_end = midnight + timedelta(hours=rules_of(job).day_ends_h)
    if local >= day_end:
        return min(local + (planned or timedelta(0)), midnight + timedelta(days=1))
    usual = local + planned if planned is not None else day_end
    return min(usual, day_end)


def put_on_until(scope: Scope, job: Job, task: str, told: OnRecord, now: datetime) -> tuple[bool, datetime]:
    """Return whether a coat is being put on, and until when it went on: to its end, to where it was paused, or to where it was left."""
    ended = None if told.ended_s is None else datetime.fromtimestamp(told.ended_s, UTC)
    if told.is_done:
        return False, ended or now
    began = begun_at(scope, job, (task,))
    if began is None:
        return False, ended or now
    left = left_at(job, began, now)
    return left is None, min(left or now, now)


def hours_of(scope: Scope, job: Job, ids: Collection[str], planned: tuple[datetime, datetime], now: datetime) -> tuple[datetime, datetime]:
    """Return from when to when steps were done by somebody's bare "yes, done": since they were begun on record, else as planned.

    Parameters
    ----------
    planned : (datetime, datetime)
    """
    starts, ends = planned
    began = begun_at(scope, job, ids)
    if began is None:
        return min(starts, ends, now), min(ends, now)
    until = left_at(job, began, now, ends - starts) or min(began + (ends - starts), now)
    return min(began, until), until

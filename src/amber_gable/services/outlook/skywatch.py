"""The sky as somebody on site sees and hears it: rain until it is said to have stopped, thunder. It overrules the forecast at once.

Not here: what is found on one surface (sightings), what the rain puts at risk (planning.stopline).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from amber_gable.core.air.weather import QUARTER_S, SEEN_RAIN_MM, Strength, Weather, with_rain
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.store import queries
from amber_gable.store.models import Job, Sighting
from amber_gable.store.types import new_id

RAIN_LASTS = timedelta(hours=assumed("shower_h"))
STRENGTHS: tuple[Strength, ...] = tuple(SEEN_RAIN_MM)
# Of a clock time that somebody types: farther off it is another day's sky.
REACH = timedelta(hours=12)
# Rain longer ago has dried or is in what the weather service observed.
_REMEMBERED = timedelta(hours=48)


@dataclass(frozen=True)
class RainSeen:
    """Rain that somebody saw.

    Parameters
    ----------
    from_s, until_s : float
        Seconds since 1970; the end of rain that is open is as far off as a shower lasts.
    strength : Strength
    is_open : bool
        Nobody has said yet that it stopped.
    said_by : str
    """

    from_s: float
    until_s: float
    strength: Strength
    is_open: bool = False
    said_by: str = ""


@dataclass(frozen=True)
class Seen:
    """Rain and thunder reported from the site; of rain, that of the last two days too."""

    rain: tuple[RainSeen, ...] = ()
    thunder_s: tuple[tuple[float, float], ...] = ()

    def raining(self, now: datetime) -> tuple[RainSeen, ...]:
        """Return the rain that falls at a moment, or is still to come."""
        return tuple(r for r in self.rain if r.is_open or r.until_s > now.timestamp())


def seen_on(scope: Scope, job: Job, now: datetime) -> Seen:
    """Return the sky over a job as it was reported: what is not over, and the rain that its walls may still hold."""
    since = now - _REMEMBERED
    rows = scope.once(("sightings", job.id), lambda session: queries.sightings(session, job.id, since))
    said = [row for row in rows if row.said_at <= now]
    rain = tuple(_rain_of(row, now) for row in said if row.kind == "rain")
    heard = ((row.from_at, row.until_at) for row in said if row.kind == "thunder")
    return Seen(rain, tuple((a.timestamp(), b.timestamp()) for a, b in heard if b is not None and b > now))


def rows_since(scope: Scope, job: Job, since: datetime) -> Sequence[Sighting]:
    """Return what was seen and heard of the sky since a moment, the newest last."""
    with scope.reading() as session:
        return queries.sightings(session, job.id, since)


def _rain_of(row: Sighting, now: datetime) -> RainSeen:
    strength: Strength = "heavy" if row.strength == "heavy" else "light"
    if row.until_at is not None:
        return RainSeen(row.from_at.timestamp(), row.until_at.timestamp(), strength, said_by=row.said_by)
    # Nothing opens by itself while it rains by somebody's eyes: the end moves on with the quarter-hours.
    ends_s = max(row.from_at.timestamp(), now.timestamp() // QUARTER_S * QUARTER_S) + RAIN_LASTS.total_seconds()
    return RainSeen(row.from_at.timestamp(), ends_s, strength, is_open=True, said_by=row.said_by)


def as_seen(weather: Weather, rain: Sequence[RainSeen]) -> Weather:
    """Return the weather with the rain that was seen in it."""
    for one in rain:
        weather = with_rain(weather, one.from_s, one.until_s, one.strength)
    return weather


def moment_of(typed: str, now: datetime, field: str, back: timedelta, ahead: timedelta) -> datetime:
    """Return the moment that a clock time of the site means: the nearest one; now where nothing is typed.

    Parameters
    ----------
    typed : str
        "15:00"
    now : datetime
        In the site's zone.
    field : str
        At which a fault is said.
    back, ahead : timedelta
        How far off it may lie.

    Raises
    ------
    FieldErrors
    """
    if not typed.strip():
        return now
    try:
        clock = datetime.strptime(typed.strip(), "%H:%M")
    except ValueError as fault:
        raise FieldErrors({field: "A time like 15:00; leave it empty for now."}) from fault
    today = now.replace(hour=clock.hour, minute=clock.minute, second=0, microsecond=0)
    near = min((today + timedelta(days=d) for d in (-1, 0, 1)), key=lambda m: abs(m - now))
    if not -back <= near - now <= ahead:
        reach = f"within the last {back / timedelta(hours=1):g} hours" if not ahead else f"within {ahead / timedelta(hours=1):g} hours"
        raise FieldErrors({field: f"Give a time {reach}."})
    return near


def see_rain(scope: Scope, job: Job, at: str = "", until: str = "", strength: str = "light", who: str = "") -> None:
    """Write down that somebody sees rain: now or at a time, to a time or until somebody says that it stopped.

    Parameters
    ----------
    at, until : str
        Clock times of the site, "15:00"; empty for now, and for not known.
    strength : str
        "light" or "heavy".
    who : str

    Raises
    ------
    FieldErrors
    """
    now = scope.said_at().astimezone(ZoneInfo(job.time_zone))
    begins = moment_of(at, now, "rain_at", REACH, REACH)
    ends = moment_of(until, now, "rain_until", REACH, REACH) if until.strip() else None
    if strength not in STRENGTHS:
        raise FieldErrors({"strength": "Light or heavy."})
    if ends is not None and ends <= begins:
        raise FieldErrors({"rain_until": "It ends after it begins; leave this empty while it rains."})
    with changing(scope.acting_as(who), f"rain seen at {begins:%H:%M}", job.id) as change:
        change.add(
            Sighting(
                id=new_id(), version=1, job_id=job.id, kind="rain", said_at=change.at, from_at=begins, until_at=ends, strength=strength,
                said_by=who,
            )
        )  # fmt: skip


def rain_stopped(scope: Scope, job: Job, at: str = "", who: str = "") -> None:
    """Write down that the rain has stopped, now or at a time; rain that was seen coming and is not here yet did not come.

    Raises
    ------
    FieldErrors
    NotFoundError
        If no rain is written down that goes on.
    """
    now = scope.said_at().astimezone(ZoneInfo(job.time_zone))
    stopped = moment_of(at, now, "stopped_at", REACH, timedelta(0))
    with changing(scope.acting_as(who), "rain has stopped", job.id) as change:
        rows = [r for r in _going_on(change, now) if r.until_at is None or r.until_at > stopped]
        if not rows:
            raise NotFoundError("No rain is written down that goes on. It may have been said already.")
        for row in rows:
            if row.from_at < stopped:
                change.follow(row, {"until_at": stopped})
            else:
                change.delete(row)


def rain_stayed_away(scope: Scope, job: Job, who: str = "") -> None:
    """Write down that rain which was seen coming did not come here: it is taken back.

    Raises
    ------
    NotFoundError
    """
    now = scope.clock.now()
    with changing(scope.acting_as(who), "the rain did not come", job.id) as change:
        rows = _going_on(change, now)
        if not rows:
            raise NotFoundError("No rain is written down that goes on. It may have been said already.")
        for row in rows:
            change.delete(row)


def _going_on(change: ChangeSet, now: datetime) -> list[Sighting]:
    return [row for row in queries.sightings(change.session, change.job_id or "", now) if row.kind == "rain"]


def hear_thunder(scope: Scope, job: Job, who: str = "") -> None:
    """Write down that thunder is heard now: nobody goes up before half an hour has passed without it (handbook 3)."""
    with changing(scope.acting_as(who), "thunder heard", job.id) as change:
        heard_at = scope.said_at()
        until = heard_at + timedelta(hours=scope.knowledge.limits.thunder_h)
        change.add(
            Sighting(
                id=new_id(), version=1, job_id=job.id, kind="thunder", said_at=change.at, from_at=heard_at, until_at=until, said_by=who
            )
        )

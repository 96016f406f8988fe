"""Alarms: what somebody on site must hear before it is too late, each told once: rain or dew upon a young film, the last stroke, inspect.

Not here: how they are shown or sent (web).
"""

from dataclasses import dataclass
from datetime import datetime, timedelta

from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.ownership import head_of
from amber_gable.services.jobs import jobs
from amber_gable.services.log.coats.fresh import FreshFilm, Harm, fresh_films
from amber_gable.services.log.inspection.looking import is_looked_over
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.store import queries
from amber_gable.store.models import Job

# So long before rain or dew it can still be covered; so long before the last stroke one can still stop at a joint.
_NOW = timedelta(minutes=20)
_BEFORE_RAIN, _BEFORE_STROKE = timedelta(hours=3), timedelta(minutes=45)
# A wall that has become dry is said for so long.
_INSPECT_FOR = timedelta(hours=6)


@dataclass(frozen=True)
class Alarm:
    """One thing to hear.

    Parameters
    ----------
    id : str
        The same as long as it is the same thing: told once on each device.
    job : Job
    words : str
        A sentence that a crew can act on.
    at : datetime
        When it comes about, in the site's zone.
    side : str
        Id of the elevation that it is about.
    is_urgent : bool
        Paint is lost where nothing is done.
    """

    id: str
    job: Job
    side: str
    words: str
    at: datetime
    is_urgent: bool


def alarms(scope: Scope) -> list[Alarm]:
    """Return what is to be heard now over all running jobs, the most urgent first."""
    with scope.reading() as session:
        heads = queries.running_jobs(session, scope.contractor_id, jobs.RUNNING)
    every = [alarm for head in heads for alarm in _kept(scope, head.id, head.revision)]
    return sorted(every, key=_urgency)


def alarms_of(scope: Scope, job: Job) -> list[Alarm]:
    """Return what is to be heard now of one job."""
    return _kept(scope, job.id, head_of(scope, job.id).revision)


def _urgency(alarm: Alarm) -> tuple[bool, datetime]:
    return not alarm.is_urgent, alarm.at


def _kept(scope: Scope, job_id: str, revision: int) -> list[Alarm]:
    """Return the alarms of a job, reckoned once a minute for all who listen."""
    now = scope.clock.now().replace(second=0, microsecond=0)
    return scope.cached(("alarms", now, scope.basis, job_id, revision), lambda: _alarms(scope, jobs.whole(scope, job_id)))


def _alarms(scope: Scope, job: Job) -> list[Alarm]:
    try:
        ahead = outlooks.outlook(scope, job, outlooks.status(scope, job))
    except PlanError:
        return []
    out, now = list[Alarm](), scope.clock.now()
    for film in fresh_films(scope, job, ahead):
        out += _of_film(job, film, now)
        if not is_looked_over(scope, job, film):
            out += _to_inspect(job, ahead, film, now)
    return sorted(out, key=_urgency)


def _of_film(job: Job, film: FreshFilm, now: datetime) -> list[Alarm]:
    out, side = [], film.surface.elevation_id
    for harm in film.harms:
        if now - _NOW <= harm.at <= now + _BEFORE_RAIN and film.stage != "ready":
            is_urgent = harm.stage == "young"
            out.append(
                Alarm(f"{harm.kind}:{film.task}:{harm.at:%d%H}", job, side, _words(film.surface.name, harm, now), harm.at, is_urgent)
            )
    last = film.last_stroke_at
    if last is not None and last <= now + _BEFORE_STROKE:
        words = f"{film.surface.name}: last stroke by {last:%H:%M}. Go on to the next joint and stop there."
        out.append(Alarm(f"stroke:{film.task}:{last:%d%H%M}", job, side, words, last, is_urgent=True))
    return out


def _words(name: str, harm: Harm, now: datetime) -> str:
    chance = f" ({harm.chance_pct:.0f} %)" if harm.chance_pct is not None else ""
    what = {"rain": f"rain{chance}", "dew": "dew", "frost": "frost"}[harm.kind]
    when = f"from about {harm.at:%H:%M}" if harm.at > now + _NOW else "now"
    if harm.stage == "young":
        act = "cover it, or stop now" if harm.kind == "rain" else "it stays young too long: stop now"
        return f"{name}: {what} {when} finds the film young: {act}."
    return f"{name}: {what} {when} finds the film tender: it may dull or streak."


def met_words(harm: Harm) -> str:
    """Return what came upon a film: "rain at Tue 13:30 met the film young"."""
    return f"{harm.kind} at {harm.at:%a %H:%M} met the film {harm.stage}"


def _to_inspect(job: Job, ahead: Outlook, film: FreshFilm, now: datetime) -> list[Alarm]:
    """Return the call to look a wall over: what came upon its film stays said until somebody did; a dry wall is said for some hours."""
    # Nobody is called to a wall at night.
    if film.is_under_way or film.dry_at is None or film.dry_at > now or not ahead.windows.climate.sky.is_day[ahead.step_at(now)]:
        return []
    name, met = film.surface.name, film.met(now)
    if met is not None:
        words = f"{name}: {met_words(met)}. Look it over before the next coat."
    elif now <= film.dry_at + _INSPECT_FOR:
        words = f"{name} is dry since {film.dry_at:%H:%M}: inspect it."
    else:
        return []
    return [Alarm(f"inspect:{film.task}", job, film.surface.elevation_id, words, film.dry_at, is_urgent=False)]

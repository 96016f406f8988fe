"""Tomorrow: who goes where, what else if the weather fails, what to load, whom to call; messages to crew and owners in plain text."""

from dataclasses import dataclass
from datetime import date, datetime, timedelta

from amber_gable.core.planning.state import State
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.office import bids, crew
from amber_gable.services.planning import morning
from amber_gable.services.planning.kept import SavedSchedule, SavedStint
from amber_gable.services.planning.morning import JobMorning
from amber_gable.services.planning.stopline import under_a_roof
from amber_gable.store.models import Job
from amber_gable.web.sentences import day_words, stint_line
from amber_gable.web.views.plan.board import sides_in
from amber_gable.web.views.plan.crew import all_planned

# What rain or a wet wall stops.
_BY_WEATHER = ("wash", "prepare", "mask", "prime", "coat", "seal")
_MOST_OTHER = 3


@dataclass(frozen=True)
class Turn:
    """One painter's day: the pieces of work in their order, and the message that says them."""

    name: str
    is_off: bool
    work: tuple[tuple[Job, SavedStint], ...]
    message: str


@dataclass(frozen=True)
class Site:
    """One job's day: the weather of its working hours, what else there is to do, its owner and the message to the owner.

    `unsaid` is how many pieces of work nobody has recorded: what is planned may stand on them.
    """

    job: Job
    rain_pct: float | None
    is_doubtful: bool
    instead: tuple[str, ...]
    owner: str
    contact: str
    message: str
    first_at: datetime
    unsaid: int = 0


def tomorrow_of(scope: Scope, now: datetime, day: date) -> tuple[list[Turn], list[Site]]:
    """Return what is planned for a day, painter by painter and job by job."""
    planned = [(job, kept, _of_day(kept, day, now)) for job, kept in all_planned(scope)]
    turns = []
    for name, person in crew.people(scope).items():
        work = sorted(((job, s) for job, _, stints in planned for s in stints if name in s.painters), key=lambda pair: pair[1].starts_at)
        turns.append(Turn(name, person.is_off(day), tuple(work), _to_painter(name, work, day, now)))
    sites = [_site(scope, job, stints, day, now) for job, _, stints in planned if stints]
    return turns, sorted(sites, key=lambda site: site.first_at)


def _of_day(kept: SavedSchedule, day: date, now: datetime) -> list[SavedStint]:
    return [s for s in kept.stints if s.starts_at.astimezone(now.tzinfo).date() == day]


def _clock(moment: datetime, now: datetime) -> str:
    return f"{moment.astimezone(now.tzinfo):%H:%M}"


def _day(day: date) -> str:
    return f"{day:%A} {day.day} {day:%B}"


def _to_painter(name: str, work: list[tuple[Job, SavedStint]], day: date, now: datetime) -> str:
    if not work:
        return f"{name}, nothing is planned for you on {_day(day)}."
    lines, at = [f"{name}, {_day(day)}:"], ""
    for job, stint in work:
        if job.name != at:
            lines.append(f"{job.name}")
            at = job.name
        others = [other for other in stint.painters if other != name]
        beside = f", with {' and '.join(others)}" if others else ""
        lines.append(f"  {_clock(stint.starts_at, now)} to {_clock(stint.ends_at, now)}  {stint_line(stint, sides_in(job))}{beside}")
    return "\n".join(lines)


def _site(scope: Scope, job: Job, stints: list[SavedStint], day: date, now: datetime) -> Site:
    today = morning.job_morning(scope, job)
    rain = _rain_pct(today, day)
    weather_bound = any(s.stage in _BY_WEATHER for s in stints)
    is_doubtful = weather_bound and (rain is None or rain >= rules_of(job).max_rain_probability_pct)
    bid = bids.bid_of(scope, job)
    named, told = (bid.owner_name, bid.contact) if bid is not None else ("", "")
    owner = job.owner_name or named
    contact = ", ".join(dict.fromkeys(filter(None, (job.owner_phone or told, job.owner_reach, job.owner_address))))
    instead = (*_ready(today, stints), *under_a_roof(scope, job))[: _MOST_OTHER + 1]
    message = _to_owner(owner, job, stints, day, now, is_doubtful)
    return Site(job, rain, is_doubtful, instead, owner, contact, message, min(s.starts_at for s in stints), len(today.unsaid))


def _rain_pct(today: JobMorning, day: date) -> float | None:
    """Return the highest chance of rain of a day's working hours; None where no forecast reaches."""
    if today.ahead is None:
        return None
    climate = today.ahead.windows.climate
    start = datetime.combine(day, datetime.min.time(), today.ahead.zone) + timedelta(hours=7)
    if start.timestamp() + 11 * 3600 > climate.grid.epoch_s[-1]:
        return None
    first, last = today.ahead.step_at(start), today.ahead.step_at(start + timedelta(hours=11))
    return float(climate.rain_probability_pct[first:last].max())


def _ready(today: JobMorning, stints: list[SavedStint]) -> tuple[str, ...]:
    """Return work of the job that is ready and does not mind a wet wall, in words."""
    planned = {task for stint in stints for task in stint.tasks}
    if today.standing is None:
        return ()
    ready = [t for t in today.standing.of(State.READY) if t.weather == "any" and t.id not in planned and t.hours]
    return tuple(dict.fromkeys(f"{task.name}: {task.label.lower()}" for task in ready))[:_MOST_OTHER]


def _to_owner(owner: str, job: Job, stints: list[SavedStint], day: date, now: datetime, is_doubtful: bool) -> str:
    first, last = min(s.starts_at for s in stints), max(s.ends_at for s in stints)
    what = day_words(stints, sides_in(job))
    wet = any(s.stage in ("prime", "coat", "seal") for s in stints)
    lines = [
        f"Good evening{' ' + owner if owner else ''},",
        f"on {_day(day)} we are at {job.name} from {_clock(first, now)} to about {_clock(last, now)}: {what}.",
    ]
    if wet:
        lines.append("Please keep the windows and doors of these sides shut, and cars and washing away from them, until the paint is dry.")
    if is_doubtful:
        lines.append("Rain may stop us; we decide early in the morning and let you know.")
    return "\n".join(lines)

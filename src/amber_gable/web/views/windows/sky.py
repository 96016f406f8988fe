"""The sky over a job as somebody on site saw it, as the pages say it: that it rains, since when, and who said so."""

from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.skywatch import RainSeen, seen_on
from amber_gable.store.models import Job
from amber_gable.web.templating import clock_time, day_word


@dataclass(frozen=True)
class SkyLine:
    """One sentence for rain that goes on or comes; `is_here` where it has begun."""

    words: str
    is_here: bool


def sky_of(scope: Scope, job: Job) -> list[SkyLine]:
    """Return what is said of the rain that was seen and is not over, the newest last."""
    now = scope.clock.now()
    zone = ZoneInfo(job.time_zone)
    return [_line(rain, now.astimezone(zone), zone) for rain in seen_on(scope, job, now).raining(now)]


def _line(rain: RainSeen, now: datetime, zone: ZoneInfo) -> SkyLine:
    begins, ends = (datetime.fromtimestamp(s, zone) for s in (rain.from_s, rain.until_s))
    day = day_word(begins, now)
    since = clock_time(begins) if day == "today" else f"{day} {clock_time(begins)}"
    by = f" ({rain.said_by})" if rain.said_by else ""
    strength = "heavy rain" if rain.strength == "heavy" else "rain"
    if begins > now:
        until = "" if rain.is_open else f" until {clock_time(ends)}"
        return SkyLine(f"{strength.capitalize()} seen for {since}{until}{by}: it overrules the forecast here.", False)
    until = "until somebody says that it has stopped" if rain.is_open else f"until {clock_time(ends)}"
    return SkyLine(f"{strength.capitalize()} here since {since}{by}: nothing opens {until}.", True)

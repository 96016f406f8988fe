"""Weather read in from a file: it is the forecast of its place until a newer one is issued, or it is taken out again."""

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.exchange.weatherfile import WeatherFile, read_weather
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.outlook import place_of
from amber_gable.services.outlook.weather.forecasts import newest, place_key
from amber_gable.store import queries
from amber_gable.store.models import ForecastIssue, Job
from amber_gable.store.types import new_id

FILE = "file"


def take(scope: Scope, job: Job, content: bytes) -> WeatherFile:
    """Read a file in as the newest forecast of a job's place.

    Raises
    ------
    FieldErrors
        By row and column; nothing is kept then. Or if all of it lies in the past.
    """
    content_read = read_weather(content, ZoneInfo(job.time_zone))
    now, key = scope.clock.now(), place_key(place_of(job))
    ends_at = datetime.fromisoformat(content_read.hours[-1]["time"])
    if ends_at <= now:
        raise FieldErrors({"file": "Every hour of this file is over. Give hours that are still to come."})
    with scope.writing() as session:
        last = queries.newest_issue_at(session, key)
        issued = now if last is None else max(now, last + timedelta(microseconds=1))
        session.add(
            ForecastIssue(
                id=new_id(),
                contractor_id=scope.contractor_id,
                place=key,
                issued_at=issued,
                fetched_at=now,
                hours=content_read.hours,
                source=FILE,
                ends_at=ends_at,
            )
        )
    return content_read


def current(scope: Scope, job: Job) -> queries.IssueHead | None:
    """Return the file that a job's hours rest on; None where they rest on the service."""
    head = newest(scope, place_of(job))
    return head if head is not None and head.source == FILE else None


def forget(scope: Scope, job: Job) -> None:
    """Take the file out again: the forecast before it speaks.

    Raises
    ------
    NotFoundError
    """
    with scope.writing() as session:
        issue = queries.latest_issue(session, scope.contractor_id, place_key(place_of(job)), scope.clock.now() + timedelta(seconds=1))
        if issue is None or issue.source != FILE:
            raise NotFoundError("There is no weather from a file here (any more).")
        session.delete(issue)

"""Forecasts: asking the weather service, keeping every issue, going on without it.

Without the service, pages show the last forecast with its age.
Not here: how the service is asked (weather_client).
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np

from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import MAX_HOURS, Weather
from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.weather.client import OBSERVED_BEFORE, ServiceForecast, ServiceObserved, WeatherServiceError
from amber_gable.store import queries
from amber_gable.store.models import ForecastIssue, ObservedHour
from amber_gable.store.types import new_id

ISSUE_EVERY = timedelta(hours=6)


@dataclass(frozen=True)
class ForecastStatus:
    """State of the forecast: its issue, its age, its fault if it has one."""

    issued_at: datetime | None
    issue_id: str | None
    fault: str = ""
    observed_to: datetime | None = None
    # Of the forecast's last hour; and how many hours of the last two days were observed.
    ends_at: datetime | None = None
    observed_count: int = 0


class NoForecastError(PlanError):
    """There is no forecast that reaches ahead: nothing can be said of the coming hours."""


def none_yet(scope: Scope) -> NoForecastError:
    """Return the error of a place that has no forecast, with what is to be entered so that one comes."""
    if scope.weather.url:
        enter = "the weather service has not answered for this place; look at its address under Settings, or read hours from a file"
    else:
        enter = "enter the address of a weather service under Settings, or read hours from a file"
    return NoForecastError(f"No forecast yet: {enter}.", "weather")


def place_key(place: Place) -> str:
    """Return the name that weather of a place is stored under; a hundredth of a degree is a mile."""
    return f"{place.latitude_deg:.2f},{place.longitude_deg:.2f},{place.altitude_m:.0f}"


def newest(scope: Scope, place: Place) -> queries.IssueHead | None:
    """Return the newest forecast of a place without its hours; None where there is none."""
    # A file that was read in within the same moment as another forecast is a little newer than now.
    at, key = scope.clock.now() + timedelta(seconds=1), place_key(place)
    return scope.once(("issue", key), lambda session: queries.latest_issue_head(session, scope.contractor_id, key, at))


def standing(scope: Scope, place: Place) -> ForecastStatus:
    """Return how the forecast of a place stands, as it was kept; nobody is asked."""
    now, key = scope.clock.now(), place_key(place)
    head = newest(scope, place)
    with scope.reading() as session:
        seen = queries.observed_times(session, key, now - OBSERVED_BEFORE, now)
    last = seen[-1] if seen else None
    if head is None:
        return ForecastStatus(None, None, "", last, None, len(seen))
    return ForecastStatus(head.issued_at, head.id, "", last, head.ends_at, len(seen))


def refresh(scope: Scope, place: Place) -> ForecastStatus:
    """Fetch what is new, if anything can be, and say how old the forecast is.

    Notes
    -----
    One request asks; others that come meanwhile go on with what is there. No lock is held while the service is asked.
    """
    now = scope.clock.now()
    key = place_key(place)
    status = standing(scope, place)
    # An hour is observed once it is over.
    is_current = status.observed_to is not None and status.observed_to > now - timedelta(hours=2)
    if status.issued_at and now - status.issued_at < ISSUE_EVERY and is_current:
        return status
    client = scope.weather
    if not client.may_ask(key, now):
        return replace(status, fault=client.last_fault if client.is_paused else "")
    scope.release()
    try:
        forecast, observed = client.fetch(place, now)
    except WeatherServiceError as fault:
        return replace(status, fault=str(fault))
    finally:
        client.note_answered(key)
    _keep(scope, key, now, forecast, observed)
    return replace(standing(scope, place), fault=client.warning)


def _keep(scope: Scope, key: str, now: datetime, forecast: ServiceForecast, observed: ServiceObserved) -> None:
    with scope.writing() as session:
        if queries.issue_of(session, key, forecast.issued_at) is None:
            session.add(
                ForecastIssue(
                    id=new_id(), place=key, issued_at=forecast.issued_at, fetched_at=now, ends_at=forecast.hours[-1].time,
                    hours=[hour.model_dump(mode="json") for hour in forecast.hours],
                )
            )  # fmt: skip
        held = set(queries.observed_times(session, key, now - OBSERVED_BEFORE - timedelta(hours=1), now))
        for hour in observed.hours:
            at = hour.time.astimezone(UTC)
            if at not in held:
                held.add(at)
                session.add(ObservedHour(id=new_id(), place=key, time=at, values=hour.model_dump(mode="json", exclude={"time"})))


_NAMES = ("air_temp_c", "rel_humidity_pct", "wind_m_s", "cloud_pct", "wind_gust_m_s", "wind_from_deg", "rain_mm")


def assemble(observed: Sequence[ObservedHour], forecast: Sequence[dict[str, Any]]) -> Weather:
    """Return observed hours followed by the forecast's, as the engine takes them.

    Raises
    ------
    WeatherError
        If hours are missing between the two.
    """
    rows: dict[datetime, dict[str, Any]] = {datetime.fromisoformat(hour["time"]): hour for hour in forecast}
    first = min(rows)
    for hour in observed:
        # An observed hour beats a forecast one.
        rows[hour.time] = {**hour.values, "rain_probability_pct": None}
    times = sorted(rows)
    # A gap among what was observed, or between that and the forecast: start behind the last.
    gaps = [n for n, (earlier, later) in enumerate(itertools.pairwise(times), 1) if later - earlier > timedelta(hours=3) and later <= first]
    times = times[gaps[-1] if gaps else 0 :]
    times = times[:MAX_HOURS]
    # A file may not know where the wind comes from: then nobody does, for all of it.
    complete = [n for n in _NAMES if all(rows[t][n] is not None for t in times)]
    table = {name: np.array([float(rows[t][name]) for t in times]) for name in complete}
    chance = [
        # An observed hour rained or did not; its amount says so.
        100.0 * (rows[t]["rain_mm"] > 0) if rows[t]["rain_probability_pct"] is None else rows[t]["rain_probability_pct"]
        for t in times
    ]
    # Issues that were kept before thunder was told do not have it.
    thunder = np.array([rows[t].get("thunder_probability_pct") or 0.0 for t in times])
    return Weather(times, rain_probability_pct=np.array(chance), thunder_probability_pct=thunder if thunder.any() else None, **table)


def weather_of(scope: Scope, place: Place, status: ForecastStatus, since: datetime | None = None) -> Weather:
    """Return the weather that a status speaks of: the observed days, then its forecast.

    Parameters
    ----------
    since : datetime, optional
        An earlier moment to begin with, where so much was observed and kept.

    Raises
    ------
    NoForecastError
        If there is none, or all of it is over.
    """
    if status.issue_id is None:
        raise none_yet(scope)
    now = scope.clock.now()
    first = now.replace(minute=0, second=0, microsecond=0) - OBSERVED_BEFORE
    first = first if since is None else min(first, since)
    with scope.reading() as session:
        issue = queries.issue(session, scope.contractor_id, status.issue_id)
        observed = [] if status.observed_to is None else queries.observed(session, place_key(place), first, status.observed_to)
    if issue is None:
        raise NoForecastError("The forecast was taken out meanwhile. Look again.", "weather")
    return assemble(observed, issue.hours)

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

from amber_gable.core.sun import Place
from amber_gable.core.weather import Weather
from amber_gable.errors import PlanError
from amber_gable.services.context import Context
from amber_gable.services.weather_client import OBSERVED_BEFORE, ServiceForecast, ServiceObserved, WeatherServiceError
from amber_gable.store import queries
from amber_gable.store.models import ForecastIssue, ObservedHour
from amber_gable.store.types import new_id

ISSUE_EVERY = timedelta(hours=6)


@dataclass(frozen=True)
class ForecastStatus:
    """What pages say of the forecast: when it was made, and what is wrong, if anything."""

    issued_at: datetime | None
    issue_id: str | None
    fault: str = ""
    observed_to: datetime | None = None


def place_key(place: Place) -> str:
    """Return the name that weather of a place is stored under; a hundredth of a degree is a mile."""
    return f"{place.latitude_deg:.2f},{place.longitude_deg:.2f},{place.altitude_m:.0f}"


def refresh(context: Context, place: Place) -> ForecastStatus:
    """Fetch what is new, if anything can be, and say how old the forecast is."""
    now = context.clock.now()
    key = place_key(place)
    with context.reading() as session:
        head = queries.latest_issue_head(session, key, now)
        known = queries.observed_times(session, key, now - OBSERVED_BEFORE, now)
    seen_to = known[-1] if known else None
    status = ForecastStatus(head[1] if head else None, head[0] if head else None, "", seen_to)
    # An hour is observed once it is over.
    is_current = known and known[-1] > now - timedelta(hours=2)
    if head and now - head[1] < ISSUE_EVERY and is_current:
        return status
    client = context.weather
    with client.lock:
        if client.is_paused:
            return replace(status, fault=client.last_fault)
        if client.was_just_asked(key, now):
            return status
        client.note_asked(key, now)
        try:
            told, seen = client.fetch(place, now)
        except WeatherServiceError as fault:
            return replace(status, fault=str(fault))
        return _keep(context, key, now, told, seen)


def _keep(context: Context, key: str, now: datetime, told: ServiceForecast, seen: ServiceObserved) -> ForecastStatus:
    with context.writing() as session:
        issue = queries.latest_issue(session, key, now)
        if issue is None or issue.issued_at < told.issued_at:
            issue = ForecastIssue(
                id=new_id(),
                place=key,
                issued_at=told.issued_at,
                fetched_at=now,
                hours=[hour.model_dump(mode="json") for hour in told.hours],
            )
            session.add(issue)
        known = set(queries.observed_times(session, key, now - OBSERVED_BEFORE - timedelta(hours=1), now))
        for hour in seen.hours:
            if hour.time.astimezone(UTC) not in known:
                values = hour.model_dump(mode="json", exclude={"time"})
                session.add(ObservedHour(id=new_id(), place=key, time=hour.time, values=values))
        latest = max((hour.time.astimezone(UTC) for hour in seen.hours), default=None)
        return ForecastStatus(issue.issued_at, issue.id, "", latest)


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
        # What was seen beats what was told.
        rows[hour.time] = {**hour.values, "rain_probability_pct": None}
    times = sorted(rows)
    # A gap between the last observation and the forecast: start with the forecast.
    for earlier, later in itertools.pairwise(times):
        if later - earlier > timedelta(hours=3):
            times = [t for t in times if t >= first]
            break
    # A file may not know where the wind comes from: then nobody does, for all of it.
    known = [n for n in _NAMES if all(rows[t][n] is not None for t in times)]
    table = {name: np.array([float(rows[t][name]) for t in times]) for name in known}
    chance = [
        # An observed hour rained or did not; its amount says so.
        100.0 * (rows[t]["rain_mm"] > 0) if rows[t]["rain_probability_pct"] is None else rows[t]["rain_probability_pct"]
        for t in times
    ]
    return Weather(times, rain_probability_pct=np.array(chance), **table)


def latest_issued_at(context: Context, place: Place, now: datetime) -> datetime:
    """Return when the newest stored forecast was made."""
    with context.reading() as session:
        head = queries.latest_issue_head(session, place_key(place), now)
    if head is None:
        raise PlanError("There is no forecast for this place yet.", "weather")
    return head[1]


def weather_for(context: Context, place: Place, now: datetime) -> Weather:
    """Return the weather known at `now`: two observed days, then the newest forecast.

    Raises
    ------
    PlanError
        If there is no forecast at all yet.
    """
    key = place_key(place)
    with context.reading() as session:
        issue = queries.latest_issue(session, key, now)
        observed = queries.observed(session, key, now - OBSERVED_BEFORE, now)
    if issue is None:
        raise PlanError("There is no forecast for this place yet.", "weather")
    return assemble(observed, issue.hours)

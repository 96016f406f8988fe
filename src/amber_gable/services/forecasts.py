"""Forecasts: asking the weather service, keeping every issue, going on without it.

A service that is down, slow or talks rubbish costs a page at most one time-out; then it is left
alone for a while and pages show the last forecast with its age.
"""

import itertools
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any

import numpy as np
from pydantic import AwareDatetime, BaseModel, Field, ValidationError

from amber_gable.core.sun import Place
from amber_gable.core.weather import Weather
from amber_gable.errors import PlanError
from amber_gable.services.context import Context
from amber_gable.store import queries
from amber_gable.store.models import ForecastIssue, ObservedHour
from amber_gable.store.types import new_id

ISSUE_EVERY = timedelta(hours=6)
OBSERVED_BEFORE = timedelta(hours=48)
# After a fault the service is not asked again for this long, in real time.
PAUSE_S = 30.0
AGAIN_S = 60.0

_Number = Annotated[float, Field(allow_inf_nan=False)]


class ServiceHour(BaseModel):
    """One hour as the service sends it; anything implausible is refused whole."""

    time: AwareDatetime
    air_temp_c: Annotated[_Number, Field(ge=-60, le=60)]
    rel_humidity_pct: Annotated[_Number, Field(ge=1, le=100)]
    wind_m_s: Annotated[_Number, Field(ge=0, le=60)]
    wind_gust_m_s: Annotated[_Number, Field(ge=0, le=90)]
    wind_from_deg: Annotated[_Number, Field(ge=0, le=360)]
    cloud_pct: Annotated[_Number, Field(ge=0, le=100)]
    rain_mm: Annotated[_Number, Field(ge=0, le=300)]
    rain_probability_pct: Annotated[_Number, Field(ge=0, le=100)] | None = None


class ServiceForecast(BaseModel):
    issued_at: AwareDatetime
    hours: Annotated[list[ServiceHour], Field(min_length=2, max_length=400)]


class ServiceObserved(BaseModel):
    hours: list[ServiceHour]


class WeatherServiceError(PlanError):
    """The service could not be used; the message says how, for the notice on the page."""


class WeatherClient:
    """Asks the weather service over HTTP.

    Parameters
    ----------
    url : str
    timeout_s : float
        For each of connecting, sending and receiving.
    """

    def __init__(self, url: str, timeout_s: float, clock_s: Callable[[], float] = time.monotonic) -> None:
        self.url = url.rstrip("/")
        self.timeout_s = timeout_s
        self.quiet_until_s = 0.0
        self.last_fault = ""
        self.clock_s = clock_s
        self.lock = threading.Lock()
        # By place: the hour last asked about, and when.
        self.asked: dict[str, tuple[datetime, float]] = {}
        self._http: Any = None

    @property
    def is_paused(self) -> bool:
        return self.clock_s() < self.quiet_until_s

    def was_just_asked(self, place: str, now: datetime) -> bool:
        """Return whether this hour of a place was asked about within the last minute.

        Without it, a service whose observations lag would be asked by every page.
        """
        hour, at_s = self.asked.get(place, (None, 0.0))
        return hour == now.replace(minute=0, second=0, microsecond=0) and self.clock_s() - at_s < AGAIN_S

    def note_asked(self, place: str, now: datetime) -> None:
        self.asked[place] = (now.replace(minute=0, second=0, microsecond=0), self.clock_s())

    def _ask(self, path: str, params: dict[str, Any]) -> Any:
        import httpx

        if self._http is None:
            # trust_env off: a proxy from the environment must not see a building's whereabouts.
            self._http = httpx.Client(timeout=self.timeout_s, trust_env=False)
        try:
            answer = self._http.get(f"{self.url}{path}", params=params)
            answer.raise_for_status()
            return answer.json()
        except httpx.TimeoutException as fault:
            raise WeatherServiceError("The weather service is too slow to answer.") from fault
        except httpx.HTTPStatusError as fault:
            raise WeatherServiceError(f"The weather service answers with error {fault.response.status_code}.") from fault
        except httpx.HTTPError as fault:
            raise WeatherServiceError("The weather service cannot be reached.") from fault
        except ValueError as fault:
            raise WeatherServiceError("The weather service sent something unreadable.") from fault

    def fetch(self, place: Place, now: datetime) -> tuple[ServiceForecast, ServiceObserved]:
        """Return the newest issue and the observed hours of the last two days.

        Raises
        ------
        WeatherServiceError
            And leaves the service alone for a while.
        """
        where = {"latitude": place.latitude_deg, "longitude": place.longitude_deg, "altitude": place.altitude_m}
        as_of = {"as_of": now.isoformat()}
        try:
            told = self._ask("/v1/forecast", where | as_of)
            seen = self._ask("/v1/observed", where | as_of | {"from": (now - OBSERVED_BEFORE).isoformat(), "to": now.isoformat()})
            try:
                return ServiceForecast.model_validate(told), ServiceObserved.model_validate(seen)
            except ValidationError as fault:
                raise WeatherServiceError("The weather service sent something that is not weather.") from fault
        except WeatherServiceError as fault:
            self.quiet_until_s = self.clock_s() + PAUSE_S
            self.last_fault = str(fault)
            raise


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
    table = {name: np.array([float(rows[t][name]) for t in times]) for name in _NAMES}
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

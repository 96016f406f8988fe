"""The weather service's client: asks over HTTP, believes nothing, keeps its temper.

A service that is down, slow or talks rubbish costs one page at most one time-out; then it is left
alone for a while. Bad hours are dropped, with a warning; an answer without enough good ones is refused.
Not here: what is kept of its answers (forecasts).
"""

import itertools
import json
import threading
import time
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from typing import Any

from pydantic import AwareDatetime, BaseModel, Field, ValidationError

from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import MAX_GAP_H, MAX_HOURS, RANGES
from amber_gable.errors import PlanError

OBSERVED_BEFORE = timedelta(hours=48)
# After a fault the service is not asked again for this long, in real time.
PAUSE_S = 30.0
AGAIN_S = 60.0
# Ten days by the hour take about 60 kB.
MOST_BYTES = 2_000_000
_LEAST_HOURS = 2
# Clocks differ: an issue from a little ahead is taken.
_AHEAD = timedelta(minutes=10)


def _ranged(name: str, default: Any = ...) -> Any:
    """Return the field of a quantity that lies within what weather can be."""
    low, high = RANGES[name]
    return Field(default, allow_inf_nan=False, ge=low, le=high)


class ServiceHour(BaseModel):
    """One hour as the service sends it; an implausible one is dropped whole."""

    time: AwareDatetime
    air_temp_c: float = _ranged("air_temp_c")
    rel_humidity_pct: float = _ranged("rel_humidity_pct")
    wind_m_s: float = _ranged("wind_m_s")
    wind_gust_m_s: float = _ranged("wind_gust_m_s")
    wind_from_deg: float = _ranged("wind_from_deg")
    cloud_pct: float = _ranged("cloud_pct")
    rain_mm: float = _ranged("rain_mm")
    rain_probability_pct: float | None = _ranged("rain_probability_pct", default=None)
    # A service that says nothing of thunder forecasts none.
    thunder_probability_pct: float | None = _ranged("thunder_probability_pct", default=None)


class ServiceForecast(BaseModel):
    issued_at: AwareDatetime
    hours: list[ServiceHour]


class ServiceObserved(BaseModel):
    hours: list[ServiceHour]


class WeatherServiceError(PlanError):
    """The service could not be used; the message says how, for the notice on the page."""


def good_hours(sent: Any) -> tuple[list[ServiceHour], int]:
    """Return the hours that can be used, each time once and in order, and how many were dropped.

    Raises
    ------
    WeatherServiceError
        If there is no list of hours at all.
    """
    if not isinstance(sent, dict) or not isinstance(sent.get("hours"), list):
        raise WeatherServiceError("The weather service sent something that is not weather.")
    by_time: dict[datetime, ServiceHour] = {}
    for one in sent["hours"]:
        # Of two hours for one time the first counts: nobody knows which is right.
        with suppress(ValidationError):
            hour = ServiceHour.model_validate(one)
            by_time.setdefault(hour.time.astimezone(UTC), hour)
    return [by_time[t] for t in sorted(by_time)], len(sent["hours"]) - len(by_time)


def _unbroken(hours: Sequence[ServiceHour]) -> list[ServiceHour]:
    """Return hours up to the first gap that nobody should bridge."""
    for index, (earlier, later) in enumerate(itertools.pairwise(hours)):
        if later.time - earlier.time > timedelta(hours=MAX_GAP_H):
            return list(hours[: index + 1])
    return list(hours)


class WeatherClient:
    """Asks the weather service over HTTP.

    Parameters
    ----------
    url : str
    timeout_s : float
        For both questions together, from beginning to end, however slowly the answers trickle in.
    """

    def __init__(self, url: str, timeout_s: float, clock_s: Callable[[], float] = time.monotonic) -> None:
        self.url = url.rstrip("/")
        self.timeout_s = timeout_s
        self.quiet_until_s = 0.0
        self.last_fault = ""
        # What was wrong with the last answer although it could be used.
        self.warning = ""
        self.clock_s = clock_s
        self._lock = threading.Lock()
        # By place: the hour last asked about, and when; and the places that are being asked about now.
        self._asked: dict[str, tuple[datetime, float]] = {}
        self._asking: set[str] = set()
        self._opening = threading.Lock()
        self._http: Any = None
        self._is_closed = False

    def move_to(self, url: str) -> None:
        """Ask another service from now on; what was wrong with the last one says nothing of it. An empty address is none."""
        self._hang_up()
        with self._lock:
            self.url, self.quiet_until_s, self.last_fault, self.warning = url.rstrip("/"), 0.0, "", ""
            self._asked.clear()

    @property
    def is_paused(self) -> bool:
        return self.clock_s() < self.quiet_until_s

    def may_ask(self, place: str, now: datetime) -> bool:
        """Return whether the service may be asked about a place now, and note that it is being asked.

        Not while it rests after a fault, nor while another request asks about the place, nor for the same hour again within
        a minute: a service whose observations lag would be asked by every page. Who may ask says when it is done (`note_answered`).
        """
        hour = now.replace(minute=0, second=0, microsecond=0)
        with self._lock:
            asked_hour, at_s = self._asked.get(place, (None, 0.0))
            is_again = asked_hour == hour and self.clock_s() - at_s < AGAIN_S
            if self.is_paused or is_again or place in self._asking:
                return False
            self._asked[place] = (hour, self.clock_s())
            self._asking.add(place)
            return True

    def note_answered(self, place: str) -> None:
        with self._lock:
            self._asking.discard(place)

    def _ask(self, path: str, params: dict[str, Any]) -> Any:
        import httpx

        if not self.url:
            raise WeatherServiceError("No weather service is named yet.")
        with self._opening:
            if self._is_closed:
                raise WeatherServiceError("The application ends; the weather service is not asked any more.")
            if self._http is None:
                # trust_env off: a proxy from the environment must not see a building's whereabouts.
                # Nothing packed is asked for: what is read is then what is counted.
                self._http = httpx.Client(timeout=self.timeout_s, trust_env=False, headers={"accept-encoding": "identity"})
            http = self._http
        try:
            with http.stream("GET", f"{self.url}{path}", params=params) as answer:
                answer.raise_for_status()
                if answer.headers.get("content-encoding", "identity") != "identity":
                    raise WeatherServiceError("The weather service sent something packed, which was not asked for.")
                content = bytearray()
                for chunk in answer.iter_bytes():
                    content += chunk
                    if len(content) > MOST_BYTES:
                        raise WeatherServiceError(f"The weather service sent more than {MOST_BYTES / 1e6:g} MB.")
            return json.loads(content)
        except httpx.TimeoutException as fault:
            raise WeatherServiceError("The weather service is too slow to answer.") from fault
        except httpx.HTTPStatusError as fault:
            raise WeatherServiceError(f"The weather service answers with error {fault.response.status_code}.") from fault
        except (ValueError, RecursionError) as fault:
            raise WeatherServiceError("The weather service sent something unreadable.") from fault
        # Closed by who would not wait any longer, it is a RuntimeError.
        except (httpx.HTTPError, httpx.StreamError, RuntimeError) as fault:
            raise WeatherServiceError("The weather service cannot be reached.") from fault

    def _within_deadline(self, questions: Callable[[], tuple[Any, Any]]) -> tuple[Any, Any]:
        """Return what `questions` gives within the time-out; a thread that takes longer is left behind, its connection closed."""
        answers: Future[tuple[Any, Any]] = Future()

        def ask() -> None:
            try:
                answers.set_result(questions())
            except BaseException as fault:
                answers.set_exception(fault)

        threading.Thread(target=ask, daemon=True, name="weather").start()
        try:
            return answers.result(self.timeout_s)
        except TimeoutError as fault:
            self._hang_up()
            raise WeatherServiceError("The weather service is too slow to answer.") from fault

    def close(self) -> None:
        """Let go of the connection for good: a question that comes late opens no other, which nobody would close."""
        self._is_closed = True
        self._hang_up()

    def _hang_up(self) -> None:
        """Let go of the connection; the next question opens another."""
        with self._opening:
            if self._http is not None:
                self._http.close()
                self._http = None

    def fetch(self, place: Place, now: datetime) -> tuple[ServiceForecast, ServiceObserved]:
        """Return the newest issue and the observed hours of the last two days.

        Raises
        ------
        WeatherServiceError
            And leaves the service alone for a while.
        """
        import httpx  # noqa: F401  (before the time is taken: the first import is slow)

        where = {"latitude": place.latitude_deg, "longitude": place.longitude_deg, "altitude": place.altitude_m}
        as_of = {"as_of": now.isoformat()}
        since = {"from": (now - OBSERVED_BEFORE).isoformat(), "to": now.isoformat()}
        try:
            ahead, seen = self._within_deadline(
                lambda: (self._ask("/v1/forecast", where | as_of), self._ask("/v1/observed", where | as_of | since))
            )
            return self._read(ahead, seen, now)
        except WeatherServiceError as fault:
            self.quiet_until_s = self.clock_s() + PAUSE_S
            self.last_fault = str(fault)
            raise

    def _read(self, ahead: Any, seen: Any, now: datetime) -> tuple[ServiceForecast, ServiceObserved]:
        hours, dropped = good_hours(ahead)
        before, dropped_before = good_hours(seen)
        try:
            forecast = ServiceForecast.model_validate({"issued_at": ahead.get("issued_at"), "hours": []})
        except ValidationError as fault:
            raise WeatherServiceError("The weather service does not say when its forecast was made.") from fault
        if forecast.issued_at > now + _AHEAD:
            raise WeatherServiceError("The weather service sent a forecast from the future. Check this machine's clock.")
        forecast.hours = _unbroken(hours)[:MAX_HOURS]
        if len(forecast.hours) < _LEAST_HOURS:
            raise WeatherServiceError("The weather service sent a forecast without usable hours.")
        count = dropped + dropped_before
        self.warning = f"The weather service sent {count} hours that cannot be; they were left out." if count else ""
        # Hours of another time than was asked for, or that are not over yet, are left out.
        return forecast, ServiceObserved(hours=[h for h in before if now - OBSERVED_BEFORE - timedelta(hours=1) <= h.time <= now])

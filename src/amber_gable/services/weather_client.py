"""The weather service's client: asks over HTTP, believes nothing, keeps its temper.

A service that is down, slow or talks rubbish costs a page at most one time-out; then it is left
alone for a while.
Not here: what is kept of its answers (forecasts).
"""

import threading
import time
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Annotated, Any

from pydantic import AwareDatetime, BaseModel, Field, ValidationError

from amber_gable.core.sun import Place
from amber_gable.errors import PlanError

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
        self._opening = threading.Lock()
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

        with self._opening:
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

    def close(self) -> None:
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

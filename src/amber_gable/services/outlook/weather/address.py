"""Where the weather service is: its address, said on the Settings page or on the first day, tried before it is relied on.

What the environment names (AMBER_GABLE_WEATHER_URL) counts before what was said on a page. Not here: asking for a forecast (forecasts).
"""

from dataclasses import dataclass
from datetime import datetime
from urllib.parse import urlsplit

from amber_gable.core.air.sun import Place
from amber_gable.errors import FieldErrors
from amber_gable.services.app.app import App
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook.weather.client import WeatherClient, WeatherServiceError
from amber_gable.store import queries
from amber_gable.store.models import AppState

_KEY = "weather service"
_LONGEST = 200
# Any place: a service that answers at all answers there, or says why not.
_ANYWHERE = Place(45.0, 0.0)


@dataclass(frozen=True)
class Address:
    """Where the service is, who says so, and when it answered last.

    Parameters
    ----------
    url : str
        Empty where nobody has said.
    is_fixed : bool
        The environment names it: a page cannot change it.
    answered_at : datetime or None
        When the newest forecast came from a service.
    fault : str
        Why it could not be used at the last question; empty where it could.
    """

    url: str
    is_fixed: bool
    answered_at: datetime | None
    fault: str


def address(scope: Scope) -> Address:
    """Return where the weather service is, as the Settings page shows it."""
    with scope.reading() as session:
        answered = queries.last_answer_at(session)
    return Address(scope.weather.url, _is_fixed(scope.app), answered, scope.weather.last_fault)


def adopt(app: App) -> None:
    """Let an opened application ask the service that was named on a page, unless the environment names one."""
    if _is_fixed(app):
        return
    with app.reading() as session:
        row = session.get(AppState, _KEY)
    if row is not None:
        app.weather.move_to(row.value)


def change(scope: Scope, url: str) -> None:
    """Name the weather service; an empty address is none.

    Raises
    ------
    FieldErrors
        If it is no address, or the environment names another.
    """
    url = checked(url)
    if _is_fixed(scope.app):
        raise FieldErrors({"weather_url": "The environment names it (AMBER_GABLE_WEATHER_URL): change it there, and start again."})
    with scope.writing() as session:
        session.merge(AppState(key=_KEY, value=url))
    scope.weather.move_to(url)


def checked(url: str) -> str:
    """Return an address as it is asked by.

    Raises
    ------
    FieldErrors
    """
    url = url.strip().rstrip("/")
    if not url:
        return ""
    try:
        parts = urlsplit(url)
        is_good = parts.scheme in ("http", "https") and bool(parts.hostname) and (parts.port or 1) > 0 and len(url) <= _LONGEST
    except ValueError:
        is_good = False
    if not is_good or parts.query or parts.fragment or parts.username:
        raise FieldErrors({"weather_url": f"“{url[:60]}” is no address of a service. Write it like https://weather.example:8790."})
    return url


def tried(scope: Scope, url: str) -> str:
    """Return in words what a weather service answers; nothing of it is kept.

    Raises
    ------
    FieldErrors
        If it is no address, or cannot be used.
    """
    url = checked(url)
    if not url:
        raise FieldErrors({"weather_url": "Type the address of the service first."})
    of_jobs = jobs.list_jobs(scope)
    place = Place(of_jobs[0].latitude_deg, of_jobs[0].longitude_deg, of_jobs[0].altitude_m) if of_jobs else _ANYWHERE
    client = WeatherClient(url, scope.settings.weather_timeout_s)
    try:
        ahead, seen = client.fetch(place, scope.clock.now())
    except WeatherServiceError as fault:
        raise FieldErrors({"weather_url": f"{fault} Check the address, and that the service runs."}) from fault
    finally:
        client.close()
    days = (ahead.hours[-1].time - ahead.hours[0].time).days
    return f"It answers: a forecast of {days} days, {len(seen.hours)} observed hours."


def _is_fixed(app: App) -> bool:
    return "weather_url" in app.settings.model_fields_set

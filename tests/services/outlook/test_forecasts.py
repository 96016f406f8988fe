"""Forecasts: every issue is kept; a service that is down, slow or talks rubbish costs nothing but news."""

from datetime import timedelta

import httpx
import numpy as np
import pytest
from sqlalchemy import func, select

from amber_gable.core.coat.colour import lrv_pct
from amber_gable.errors import PlanError
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.weather import client as weather_client
from amber_gable.services.outlook.weather import forecasts
from amber_gable.services.outlook.weather.client import WeatherClient, WeatherServiceError
from amber_gable.store import queries
from amber_gable.store.models import ForecastIssue, ObservedHour
from tests.support.seeded import forget_weather
from tests.support.serving import DEMO_NOW

pytestmark = pytest.mark.small


@pytest.fixture
def opened(opened):
    """Before any forecast came."""
    return forget_weather(opened)


def counts(opened) -> tuple[int, int]:
    with opened.reading() as session:
        return tuple(session.scalar(select(func.count()).select_from(model)) for model in (ForecastIssue, ObservedHour))


def test_one_issue_is_fetched_once_and_the_next_six_hours_later(opened, weather, job):
    first = outlook.status(opened, job)
    asked = weather.calls
    assert first.fault == ""
    assert DEMO_NOW - first.issued_at == timedelta(minutes=50)
    outlook.status(opened, job)
    assert weather.calls == asked, "nothing new, nobody asked"
    opened.clock.set(DEMO_NOW + timedelta(hours=6))
    later = outlook.status(opened, job)
    assert later.issued_at - first.issued_at == timedelta(hours=6)
    assert counts(opened)[0] == 2, "every issue is kept"


def test_a_service_whose_observations_lag_is_not_asked_by_every_page(opened, weather, job, monkeypatch):
    real = weather._ask
    monkeypatch.setattr(weather, "_ask", lambda path, params: {"hours": []} if "observed" in path else real(path, params))
    now = [1000.0]
    weather.clock_s = lambda: now[0]
    for _ in range(5):
        assert outlook.status(opened, job).fault == ""
    assert weather.calls == 1
    now[0] += weather_client.AGAIN_S
    outlook.status(opened, job)
    assert weather.calls == 2


def test_observed_hours_are_kept_once_each(opened, weather, job):
    for hours in range(8):
        opened.clock.set(DEMO_NOW + timedelta(hours=hours))
        outlook.status(opened, job)
    with opened.reading() as session:
        times = list(session.scalars(select(ObservedHour.time).order_by(ObservedHour.time)))
    assert len(times) == len(set(times)) == 47 + 7
    assert np.diff([t.timestamp() for t in times]).tolist() == [3600.0] * (len(times) - 1)


def test_weather_runs_from_two_observed_days_into_the_forecast(opened, weather, job):
    known = forecasts.weather_of(opened, outlook.place_of(job), outlook.status(opened, job))
    assert known.times[0] <= DEMO_NOW - timedelta(hours=47)
    assert known.times[-1] >= DEMO_NOW + timedelta(days=9)
    assert set(np.diff(known.epoch_s)) == {3600.0}


def test_without_the_service_the_last_forecast_goes_on_with_its_age(opened, weather, job):
    kept = outlook.status(opened, job)
    weather.down = "The weather service cannot be reached."
    opened.clock.set(DEMO_NOW + timedelta(hours=9))
    late = outlook.status(opened, job)
    assert late.fault == "The weather service cannot be reached."
    assert late.issued_at == kept.issued_at
    ahead = outlook.outlook(opened, job, late)
    assert ahead.issued_at == kept.issued_at
    # The hours that nobody observed since are the forecast's own.
    weather.down = ""
    assert outlook.status(opened, job).fault, "left alone for a while, even if it is up again"
    weather.quiet_until_s = 0.0
    assert outlook.status(opened, job).fault == ""


def test_a_place_without_any_forecast_says_so(opened, weather, job):
    weather.down = "down"
    with pytest.raises(PlanError, match="No forecast yet: the weather service has not answered"):
        outlook.outlook(opened, job, outlook.status(opened, job))


def test_a_new_forecast_or_colour_is_a_new_outlook_and_an_old_one_is_found_again(opened, weather, job):
    first = outlook.outlook(opened, job, outlook.status(opened, job))
    assert outlook.outlook(opened, job, outlook.status(opened, job)) is first
    with opened.writing() as session:
        lighter_job = queries.job_whole(session, job.id)
        for elevation in lighter_job.building.elevations:
            wall = elevation.surfaces[0]
            # What is on the wall now, not what is still in the can.
            wall.old_hex, wall.old_lrv_pct = None, min((lrv_pct(wall.old_hex) if wall.old_hex else wall.lrv_pct) + 20, 95)
            wall.version += 1
    lighter = outlook.outlook(opened, lighter_job, outlook.status(opened, job))
    assert lighter is not first
    assert lighter.windows.climate.surface_temp_c.mean() < first.windows.climate.surface_temp_c.mean()
    opened.clock.set(DEMO_NOW + timedelta(hours=6))
    assert outlook.outlook(opened, job, outlook.status(opened, job)).issued_at > first.issued_at


HOUR = {
    "time": "2026-09-15T11:00:00Z", "air_temp_c": 12.0, "rel_humidity_pct": 90.0, "wind_m_s": 1.0, "wind_gust_m_s": 2.0,
    "wind_from_deg": 200, "cloud_pct": 10.0, "rain_mm": 0.0, "rain_probability_pct": 2.0,
}  # fmt: skip


def refuse(_request: httpx.Request) -> httpx.Response:
    raise httpx.ConnectError("nobody there")


def dawdle(_request: httpx.Request) -> httpx.Response:
    raise httpx.ReadTimeout("still waiting")


@pytest.mark.parametrize(
    ("answer", "words"),
    [
        (refuse, "cannot be reached"),
        (dawdle, "too slow"),
        (lambda _r: httpx.Response(503), "error 503"),
        (lambda _r: httpx.Response(200, text="<html>hello</html>"), "unreadable"),
        (lambda _r: httpx.Response(200, json={"hours": "none"}), "not weather"),
        (
            lambda _r: httpx.Response(200, json={"issued_at": "2026-09-15T11:00:00Z", "hours": [HOUR, HOUR | {"air_temp_c": 120}]}),
            "usable hours",
        ),
        (lambda _r: httpx.Response(200, text='{"issued_at": "2026-09-15T11:00:00Z", "hours": [NaN]}'), "usable hours"),
    ],
)
def test_each_way_to_fail_has_its_words_and_then_a_pause(opened, job, answer, words):
    now = [100.0]
    client = WeatherClient("http://weather.test", 0.5, clock_s=lambda: now[0])
    client._http = httpx.Client(transport=httpx.MockTransport(answer))
    with pytest.raises(WeatherServiceError, match=words):
        client.fetch(outlook.place_of(job), DEMO_NOW)
    assert client.is_paused
    opened.app.weather = client
    client._http = None  # asked again, it would fail in another way
    assert words in outlook.status(opened, job).fault
    now[0] += weather_client.PAUSE_S
    assert not client.is_paused

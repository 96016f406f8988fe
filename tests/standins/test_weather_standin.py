"""The stand-in: the same weather for the same seed, honest about what cannot be known yet."""

import csv
import io
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from fastapi.testclient import TestClient

from amber_gable.standins.climate_truth import HOUR, TrueSite, weather
from amber_gable.standins.forecast import forecast, issue_before
from amber_gable.standins.weather import COLUMNS, create_app

PLACE = {"latitude": 43.8, "longitude": -91.25, "altitude": 205}
AS_OF = "2026-09-15T11:50:00Z"


@pytest.fixture(scope="module")
def service() -> TestClient:
    return TestClient(create_app())


def epoch(text: str) -> float:
    return datetime.fromisoformat(text).timestamp()


def observed(service: TestClient, start: str, hours: int, **place: float) -> list[dict]:
    first = datetime.fromisoformat(start)
    last = first + timedelta(hours=hours - 1)
    query = PLACE | place | {"from": first.isoformat(), "to": last.isoformat(), "as_of": (last + timedelta(days=1)).isoformat()}
    return service.get("/v1/observed", params=query).json()["hours"]


def test_same_request_same_answer_other_seed_other_weather(service):
    ask = PLACE | {"as_of": AS_OF}
    once = service.get("/v1/forecast", params=ask).json()
    assert TestClient(create_app()).get("/v1/forecast", params=ask).json() == once
    assert TestClient(create_app(seed=8)).get("/v1/forecast", params=ask).json() != once
    assert len(once["hours"]) == 241


def test_issues_come_every_six_hours(service):
    seen = {service.get("/v1/forecast", params=PLACE | {"as_of": f"2026-09-15T{h:02d}:30:00Z"}).json()["issued_at"] for h in range(24)}
    assert seen == {f"2026-09-{d}T{h:02d}:00:00Z" for d, h in ((14, 23), (15, 5), (15, 11), (15, 17), (15, 23))}


def test_nothing_is_observed_before_it_is_over(service):
    query = PLACE | {"from": "2026-09-15T00:00:00Z", "to": "2026-09-16T00:00:00Z", "as_of": AS_OF}
    hours = service.get("/v1/observed", params=query).json()["hours"]
    assert hours[-1]["time"] == "2026-09-15T10:00:00Z"
    assert hours[0]["rain_probability_pct"] is None


def test_csv_says_the_same_as_json(service):
    ask = PLACE | {"as_of": AS_OF}
    rows = list(csv.DictReader(io.StringIO(service.get("/v1/forecast", params=ask | {"format": "csv"}).text)))
    hours = service.get("/v1/forecast", params=ask).json()["hours"]
    assert tuple(rows[0]) == COLUMNS
    assert [float(r["air_temp_c"]) for r in rows] == [h["air_temp_c"] for h in hours]


@pytest.mark.parametrize("bad", [{"latitude": 91}, {"as_of": "today"}, {"as_of": "2026-09-15T11:50:00"}, {"format": "xml"}])
def test_bad_requests_are_refused(service, bad):
    assert service.get("/v1/forecast", params=PLACE | {"as_of": AS_OF} | bad).status_code == 422


def test_the_demonstration_week_tells_its_story(service):
    week = {h["time"]: h for h in observed(service, "2026-09-14T05:00:00+00:00", 7 * 24)}

    def local_day(day: int, hours: range) -> list[dict]:
        return [week[f"2026-09-{day + (h + 5) // 24:02d}T{(h + 5) % 24:02d}:00:00Z"] for h in hours]

    for day in (15, 16):
        assert max(h["rel_humidity_pct"] for h in local_day(day, range(3, 7))) > 94, "dewy mornings"
        assert 20 < max(h["air_temp_c"] for h in local_day(day, range(12, 18))) < 27, "warm afternoons"
        assert sum(h["rain_mm"] for h in local_day(day, range(24))) == 0
    assert sum(h["rain_mm"] for h in local_day(17, range(24))) > 4, "a wet front on Thursday"
    night = local_day(19, range(20, 24)) + local_day(20, range(0, 7))
    assert min(h["air_temp_c"] for h in night) < 4, "a cold night on Saturday"
    assert max(h["cloud_pct"] for h in night) < 20, "and a clear one"


def test_forecast_error_grows_with_lead():
    site = TrueSite(7, 43.8, -91.25, 205.0)
    errors: dict[int, list[float]] = {12: [], 72: [], 216: []}
    for day in range(60):
        issued = issue_before(epoch("2026-04-01T12:00:00+00:00") + day * 24 * HOUR)
        for lead, found in errors.items():
            at = issued + lead * HOUR
            found.append(forecast(site, issued, at).hour.air_temp_c - weather(site, at).air_temp_c)
    spread = [float(np.sqrt(np.mean(np.square(e)))) for e in errors.values()]
    assert spread[0] < 0.9
    assert spread[0] < spread[1] < spread[2]


def test_chances_of_rain_are_roughly_honest():
    site = TrueSite(7, 43.8, -91.25, 205.0)
    told: list[tuple[float, bool]] = []
    for day in range(120):
        issued = issue_before(epoch("2026-04-01T12:00:00+00:00") + day * 24 * HOUR)
        for lead in range(6, 60, 3):
            at = issued + lead * HOUR
            told.append((forecast(site, issued, at).rain_probability_pct, weather(site, at).rain_mm > 0.1))
    low = [rained for chance, rained in told if chance < 10]
    high = [rained for chance, rained in told if chance > 50]
    assert len(high) > 20
    # A stand-in need not be perfectly calibrated, but dry must mean dry and likely likely.
    assert np.mean(low) < 0.08
    assert np.mean(high) > 0.4


def test_thunder_comes_with_rain_in_warm_air_and_is_forecast_before():
    site = TrueSite(7, 43.8, -91.25, 205.0)
    year = [weather(site, epoch("2027-01-01T00:00:00+00:00") + h * HOUR) for h in range(0, 365 * 24)]
    loud = [h for h in year if h.has_thunder]
    assert 8 <= len(loud) <= 250
    assert all(h.rain_mm > 0 and h.air_temp_c > 12 for h in loud)
    told: list[tuple[float, bool]] = []
    for day in range(120):
        issued = issue_before(epoch("2027-05-15T12:00:00+00:00") + day * 24 * HOUR)
        for at in (issued + lead * HOUR for lead in range(2, 40, 2)):
            told.append((forecast(site, issued, at).thunder_probability_pct, weather(site, at).has_thunder))
    said = [loud for chance, loud in told if chance >= 30]
    assert np.mean(said) > 0.2 > 10 * np.mean([loud for chance, loud in told if chance < 15])
    january = issue_before(epoch("2027-01-15T12:00:00+00:00"))
    assert all(forecast(site, january, january + h * HOUR).thunder_probability_pct == 0 for h in range(0, 240, 5))


def test_seasons_follow_the_hemisphere(service):
    def mean(start: str, latitude: float) -> float:
        return float(np.mean([h["air_temp_c"] for h in observed(service, start, 240, latitude=latitude)]))

    assert mean("2027-07-05T00:00:00+00:00", 43.8) > mean("2027-01-05T00:00:00+00:00", 43.8) + 10
    assert mean("2027-07-05T00:00:00+00:00", -43.8) < mean("2027-01-05T00:00:00+00:00", -43.8) - 10


def test_it_is_coherent_weather(service):
    hours = observed(service, "2026-10-01T00:00:00+00:00", 24 * 14)
    air = np.array([h["air_temp_c"] for h in hours])
    assert np.abs(np.diff(air)).max() < 5, "no jumps"
    assert all(1 <= h["rel_humidity_pct"] <= 100 and h["wind_gust_m_s"] > h["wind_m_s"] > 0 for h in hours)
    assert all(h["cloud_pct"] > 30 for h in hours if h["rain_mm"] > 0.5), "rain falls from clouds"
    assert datetime.fromisoformat(hours[0]["time"]).tzinfo == UTC

"""The gauge stand-in and what reads it: paired by its code, near the simulated truth, silent now and then, never trusted blindly."""

import json
from datetime import datetime
from statistics import median

import pytest
from fastapi.testclient import TestClient

from amber_gable.standins.climate_truth import TrueSite, weather
from amber_gable.standins.gauge import PROBES, create_app, samples, wall_temp_c
from amber_gable.standins.weather import DEMO_STORY

HERE = {"latitude": 43.80, "longitude": -91.25, "azimuth": 90.0, "tilt": 90.0, "count": 20}
SITE = TrueSite(7, 43.80, -91.25, 0.0, DEMO_STORY)


@pytest.fixture
def gauge() -> TestClient:
    return TestClient(create_app(code="2580"))


def stream(gauge: TestClient, token: str, at: str) -> list[dict]:
    answer = gauge.get("/v1/stream", params=HERE | {"as_of": at, "token": token})
    assert answer.status_code == 200
    return [json.loads(line) for line in answer.text.splitlines()]


def test_it_is_paired_by_the_code_on_its_display(gauge):
    assert gauge.post("/v1/pair", json={"code": "0000"}).status_code == 403
    assert gauge.get("/v1/stream", params=HERE | {"as_of": "2026-09-15T09:00:00-05:00"}).status_code == 401
    paired = gauge.post("/v1/pair", json={"code": "2580"}).json()
    assert stream(gauge, paired["token"], "2026-09-15T09:00:00-05:00")
    assert gauge.get("/v1/stream", params=HERE | {"as_of": "nine", "token": paired["token"]}).status_code == 422


def test_its_samples_are_the_weathers_with_noise_and_gaps(gauge):
    token = gauge.post("/v1/pair", json={"code": "2580"}).json()["token"]
    at = "2026-09-15T11:00:00-05:00"
    sent = stream(gauge, token, at)
    assert stream(gauge, token, at) == sent, "the same moment shows the same"
    air = [s["values"]["air_temp_c"] for s in sent if s["probe"] == "air"]
    truth = weather(SITE, datetime.fromisoformat(at).timestamp())
    # A sample strays by 0.12 K, the instrument drifts by 0.25 K at most.
    assert median(air) == pytest.approx(truth.air_temp_c, abs=0.4)
    assert len(set(air)) > 3
    assert len(sent) < HERE["count"] * len(PROBES), "some are missing"


def test_a_probe_is_silent_for_minutes_now_and_then():
    start = datetime.fromisoformat("2026-09-15T06:00:00-05:00").timestamp()
    silent = [all(s["probe"] != "wall" for s in samples(SITE, start + 180 * n, 90.0, 90.0, 4)) for n in range(120)]
    assert 0 < sum(silent) < 30


def test_the_sun_is_on_the_east_wall_in_the_morning_and_on_the_west_wall_in_the_afternoon():
    morning, evening = (datetime.fromisoformat(f"2026-09-15T{hour}:00-05:00").timestamp() for hour in ("09:00", "17:00"))
    assert wall_temp_c(SITE, morning, 90.0, 90.0) > wall_temp_c(SITE, morning, 270.0, 90.0) + 3
    assert wall_temp_c(SITE, evening, 270.0, 90.0) > wall_temp_c(SITE, evening, 90.0, 90.0) + 3
    night = datetime.fromisoformat("2026-09-16T04:00:00-05:00").timestamp()
    assert wall_temp_c(SITE, night, 90.0, 90.0) == pytest.approx(wall_temp_c(SITE, night, 270.0, 90.0))

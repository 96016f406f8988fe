"""The first run: an empty database asks whose books these are, and what was said is used from the first house on."""

import pytest
from fastapi.testclient import TestClient

from amber_gable.demo.seed import write_samples
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs import beginning, jobs
from amber_gable.services.outlook.weather import address
from amber_gable.web.app import create_app
from tests.support.pages import errors, send
from tests.support.seeded import forget_weather
from tests.support.serving import open_at, weather_behind_a_port

FIRM = {"name": "Ada & Daughter", "painters": "Ada,  Ben ", "country": "eu", "units": "", "currency": "", "labour_per_h": "41,5",
        "margin_pct": "14", "tax_pct": "19"}  # fmt: skip


@pytest.fixture
def empty(tmp_path):
    scope = open_at(tmp_path / "data")
    scope.app.samples = write_samples
    yield scope
    scope.app.close()


@pytest.fixture
def first(empty):
    return TestClient(create_app(running=empty.app), base_url="http://localhost")


def fresh(empty: Scope) -> Scope:
    return Scope(empty.app, "office", holds=True)


def test_the_first_page_of_an_empty_database_asks_and_uses_what_is_said(first, empty):
    page = first.get("/")
    assert page.url.path == "/begin"
    assert "Whose books are these?" in page.text
    assert send(first, "/begin", FIRM).headers["hx-redirect"].endswith("/jobs/new")
    owner = fresh(empty).owner
    assert (owner.name, owner.units, owner.painters, owner.country) == ("Ada & Daughter", "metric", ("Ada", "Ben"), "eu")
    money = owner.knowledge.money
    assert (money.labour_per_h, money.margin_pct, money.tax_pct, money.currency, money.locale) == (41.5, 14, 19, "EUR", "en_IE")
    assert set(owner.crew) == {"Ada", "Ben"}
    page = first.get("/jobs/new").text
    assert '<option value="eu" selected>' in page
    assert '<option value="metric" selected>' in page
    assert first.get("/").url.path == "/"
    # It is said once; a second tab that still shows the page changes nothing.
    assert "begun already" in errors(send(first, "/begin", FIRM | {"name": "Other"}))["the-form-form"]
    assert "These books have begun" in first.get("/begin").text


def test_what_cannot_be_is_said_at_its_field(first, empty):
    wrong = FIRM | {"name": "", "painters": "Ada, ada", "currency": "euros", "labour_per_h": "much", "country": "moon"}
    said = errors(send(first, "/begin", wrong))
    assert {f"the-form-{field}" for field in ("name", "painters", "currency", "labour_per_h", "country")} <= set(said)
    assert "family name" in said["the-form-painters"]
    assert "the-form-tax_pct" in errors(send(first, "/begin", FIRM | {"tax_pct": "900"}))
    assert beginning.is_first_run(fresh(empty))


@pytest.mark.takes(8)
def test_sample_jobs_come_with_the_firm_s_own_painters_and_go_one_by_one(first, empty):
    assert send(first, "/begin", FIRM | {"samples": "on"}).headers["hx-redirect"].endswith("/jobs")
    scope = fresh(empty)
    listed = jobs.list_jobs(scope)
    assert len(listed) == 4
    assert all(job.crew == ["Ada", "Ben"] for job in listed)
    jobs.remove(scope, listed[0].id)
    assert len(jobs.list_jobs(fresh(empty))) == 3
    assert changes.last_removed(fresh(empty)) is not None


def test_the_weather_service_is_named_tried_and_kept(client, opened, weather_behind):
    settings = client.get("/settings").text
    assert "Address of the weather service" in settings
    assert "The last forecast came" in settings
    for typed, words in (("ftp://x", "is no address"), ("http://", "is no address"), ("http://127.0.0.1:9", "cannot be reached")):
        answer = send(client, "/settings/weather", {"weather_url": typed, "try": "1"}, "weather-service")
        assert words in errors(answer)["weather-service-weather_url"]
    said = send(client, "/settings/weather", {"weather_url": weather_behind.url, "try": "1"}, "weather-service")
    assert said.status_code == 200
    assert "It answers: a forecast of" in said.text
    assert opened.weather.url != weather_behind.url, "tried is not kept"
    assert send(client, "/settings/weather", {"weather_url": weather_behind.url + "/"}, "weather-service").status_code == 200
    assert opened.weather.url == weather_behind.url
    # It is there after a new start.
    opened.weather.move_to("http://elsewhere.example")
    address.adopt(opened.app)
    assert opened.weather.url == weather_behind.url


def test_pages_without_weather_say_what_is_to_be_entered(client, opened, job):
    forget_weather(opened)
    opened.weather.down = "The weather service cannot be reached."
    opened.weather.move_to("")
    for stage in ("windows", "schedule"):
        page = client.get(f"/jobs/{job.id}/{stage}").text
        assert "enter the address of a weather service under Settings" in page, stage


@pytest.fixture
def weather_behind():
    return weather_behind_a_port()

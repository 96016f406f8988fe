"""Without a usable forecast every page works and says so; one job's fault stays in its own card; a dead start page is noticed."""

import json
from datetime import UTC, datetime, timedelta

import pytest

from amber_gable.services.app.keeper import Keeper
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook import sightings as found
from amber_gable.services.planning import morning
from amber_gable.services.planning.mending import Mender
from amber_gable.store import queries
from amber_gable.web.routes.plan import morning as morning_routes
from amber_gable.web.views.plan import startpage
from tests.support.seeded import forget_weather
from tests.support.serving import DEMO_NOW

pytestmark = pytest.mark.small


@pytest.fixture
def opened(opened):
    """Before any forecast came."""
    return forget_weather(opened)


HEAD = "time,air temp (°C),humidity (%),wind (m/s),cloud (%),rain (mm)\n"


def hours(start: datetime, count: int) -> str:
    return HEAD + "".join(f"{(start + timedelta(hours=h)).isoformat()},15,60,2,20,0\n" for h in range(count))


def a_file(client, job, weather, count: int) -> None:
    """Hours from a file, and no service to ask."""
    weather.down = "The weather service cannot be reached."
    file = {"file": ("w.csv", hours(DEMO_NOW.replace(minute=0), count).encode())}
    assert client.post(f"/jobs/{job.id}/windows/weather", files=file, headers={"hx-request": "true"}).status_code == 200


def file_of_three_days_on_the_fourth(opened, client, job, weather):
    a_file(client, job, weather, 72)
    opened.clock.set(DEMO_NOW + timedelta(days=3, hours=2))


def service_silent_for_eleven_days(opened, client, job, weather):
    outlook.status(opened, job)
    weather.down = "The weather service cannot be reached."
    opened.clock.set(DEMO_NOW + timedelta(days=11))


def forecast_of_two_hours(opened, client, job, weather):
    real = weather._ask

    def ask(path, params):
        answer = real(path, params)
        return answer if "observed" in path else answer | {"hours": answer["hours"][:2]}

    weather._ask = ask


def forecast_of_three_hours(opened, client, job, weather):
    a_file(client, job, weather, 4)


def hours_of_2001(opened, client, job, weather):
    real = weather._ask

    def ask(path, params):
        answer = json.loads(json.dumps(real(path, params)).replace('"time": "2026', '"time": "2001'))
        return answer | {"hours": answer["hours"][:240]}

    weather._ask = ask


def no_forecast_at_all(opened, client, job, weather):
    weather.down = "The weather service cannot be reached."


CASES = [
    file_of_three_days_on_the_fourth, service_silent_for_eleven_days, forecast_of_two_hours, forecast_of_three_hours, hours_of_2001,
    no_forecast_at_all,
]  # fmt: skip
RUN_OUT = [case for case in CASES if case is not forecast_of_three_hours]


@pytest.mark.takes(5)
@pytest.mark.parametrize("case", CASES, ids=lambda c: c.__name__)
def test_every_page_of_hours_works_and_says_why(opened, client, job, weather, surface_named, case):
    case(opened, client, job, weather)
    wall = surface_named("East wall")
    at = int(opened.clock.now().timestamp())
    for path in ("/", "/bids", *(f"/jobs/{job.id}/{p}" for p in (
        "windows", "windows?days=10&work=wash", "windows/compare", "windows/sheet", f"windows/{wall.id}?at={at}",
        f"windows/{wall.id}/chance?at={at}", "schedule", "log", f"stop/{wall.id}", "systems/colours", "survey", "takeoff", "price", "truck",
    ))):  # fmt: skip
        answer = client.get(path)
        assert answer.status_code == 200, f"{path}: {answer.status_code}"
        if (case in RUN_OUT and any(word in path for word in ("windows", "stop", "schedule"))) or (case in RUN_OUT and path == "/"):
            assert "forecast" in answer.text
    refused = client.post(f"/jobs/{job.id}/schedule", headers={"hx-request": "true"})
    assert refused.status_code == (422 if case in RUN_OUT else 200)
    assert client.get("/healthz").json()["status"] == "ok"


def test_what_ran_out_says_when_and_an_older_forecast_that_still_reaches_is_taken(opened, client, job, weather):
    outlook.status(opened, job)
    file_of_three_days_on_the_fourth(opened, client, job, weather)
    assert "no newer one" not in client.get(f"/jobs/{job.id}/windows").text, "the service's ten days still reach"
    opened.clock.set(DEMO_NOW + timedelta(days=10, hours=1))
    said = client.get(f"/jobs/{job.id}/windows").text
    assert "The last forecast of this place ended on" in said
    assert "September 2026" in said


def broken(opened, job_id: str) -> None:
    """A job whose rows hold what no form lets in."""
    with opened.writing() as session:
        job = queries.job_whole(session, job_id)
        job.revision, job.house_revision = job.revision + 1000, job.house_revision + 1000
        for elevation in job.building.elevations:
            elevation.outline = []


@pytest.mark.takes(5)
@pytest.mark.four
def test_one_jobs_fault_stays_in_its_own_card_and_the_health_check_names_it(opened, client, job):
    other = jobs.list_jobs(opened)[1]
    broken(opened, other.id)
    answer = client.get("/")
    assert answer.status_code == 200
    assert answer.text.count("This job cannot be shown") == 1
    assert f'id="job-{job.id}"' in answer.text
    assert "Its hours" not in answer.text
    health = client.get("/healthz")
    assert (health.status_code, health.json()) == (200, {"status": "degraded", "jobs_at_fault": [other.name]})
    assert client.get("/bids").status_code == 200


def test_a_dead_start_page_is_noticed(client, monkeypatch):
    assert client.get("/healthz").json() == {"status": "ok"}
    monkeypatch.setattr(morning_routes, "start_page", lambda *_: 1 / 0)
    health = client.get("/healthz")
    assert (health.status_code, health.json()["status"]) == (503, "failing")
    assert "ZeroDivisionError" in health.json()["start_page"]


@pytest.mark.takes(9)
@pytest.mark.four
def test_the_full_health_check_gives_figures(client):
    client.get("/")
    figures = client.get("/healthz?full=1").json()
    assert figures["cache"]["results"] > 4
    assert figures["cache"]["size_bytes"] < figures["cache"]["limit_bytes"]
    assert figures["jobs"] == {"running": 4}


@pytest.mark.takes(15)
@pytest.mark.four
def test_a_card_is_made_once_and_again_when_its_job_the_forecast_or_the_quarter_changes(opened, client, job, surface_named, monkeypatch):
    made = []
    real = startpage._made
    monkeypatch.setattr(startpage, "_made", lambda *a: (made.append(a[2].name), real(*a))[1])
    client.get("/")
    assert len(made) == 4
    client.get("/")
    assert len(made) == 4, "kept"
    found.feel(opened, job, [surface_named("East wall").id], "damp")
    client.get("/")
    assert made[4:] == [job.name], "its job changed"
    opened.clock.set(opened.clock.now() + timedelta(minutes=15))
    client.get("/")
    assert len(made) == 9, "the quarter-hour changed"


@pytest.mark.four
def test_a_job_that_is_still_computed_shows_so_and_fills_in(opened, client, job):
    class Keeper:
        is_alive, is_me, hurried, ready, mender = True, False, [], False, Mender()

        def is_ready(self, mark):
            return self.ready

        def was_ready(self, job_id):
            return self.hurried == []

        def hurry(self, job_id):
            self.hurried.append(job_id)

        def take(self, scope, mark, today):
            pass

    opened.app.keeper = Keeper()
    page = client.get("/").text
    assert page.count("Its hours are being computed") == 4
    assert job.id in opened.app.keeper.hurried
    card = f"/jobs/{job.id}/morning-card?most=3"
    assert card in page
    assert "being computed" in client.get(card).text
    opened.app.keeper.ready = True
    filled = client.get(card).text
    assert "being computed" not in filled
    assert "data-hours-of" in filled
    # What is said of a job moves none of its hours: nobody waits for the keeper; the next hour does move them.
    opened.app.keeper.hurried, opened.app.keeper.ready = [], False
    note = {"kind": "note", "text": "Gate left open"}
    assert client.post(f"/jobs/{job.id}/log/entries", data=note, headers={"hx-request": "true"}).status_code == 200
    assert "data-hours-of" in client.get(card).text
    assert opened.app.keeper.hurried == []
    opened.clock.set(DEMO_NOW + timedelta(hours=1))
    assert "being computed" in client.get(card).text
    assert opened.app.keeper.hurried == [job.id]
    opened.app.keeper = None


def test_only_running_jobs_are_on_the_start_page_and_scheduled(opened, client, job):
    for state in ("enquiry", "resting", "done", "archived"):
        jobs.set_state(opened, job.id, state)
        assert job.name.replace("'", "&#39;") not in client.get("/").text
        page = client.get(f"/jobs/{job.id}/schedule").text
        assert 'id="not-running"' in page
        refused = client.post(f"/jobs/{job.id}/schedule", headers={"hx-request": "true", "hx-trigger": "make"})
        assert (refused.status_code, "Only running jobs" in refused.text) == (422, True)
    for other in jobs.list_jobs(opened)[1:]:
        jobs.set_state(opened, other.id, "done")
    assert "No job is running" in client.get("/").text


@pytest.mark.takes(11)
@pytest.mark.four
def test_the_keeper_prepares_running_jobs_and_keeps_their_faults(opened, job, monkeypatch):
    keeper = Keeper(opened.app)
    keeper._prepare_all()
    heads = morning.running(opened)
    marks = [morning.mark_of(opened, h, morning.standing_of(opened, h, asks=False)) for h in heads]
    assert all(keeper.is_ready(mark) for mark in marks)
    misses = opened.app.cache.figures().misses
    outlook.outlook(opened, job, outlook.status(opened, job))
    assert opened.app.cache.figures().misses == misses, "the first page of the morning is warm"
    opened.clock.set(datetime(2026, 9, 15, 14, 1, tzinfo=UTC))
    assert not any(keeper.is_ready(morning.mark_of(opened, h, morning.standing_of(opened, h, asks=False))) for h in heads)
    real = morning.job_morning
    monkeypatch.setattr(morning, "job_morning", lambda c, j: 1 / 0 if j.id == heads[1].id else real(c, j))
    keeper._prepare_all()
    assert [bool(keeper.fault_of(h.id)) for h in heads] == [False, True, False, False]

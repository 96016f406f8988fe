"""Pages over HTTP: what every answer carries, what is refused, what survives bad weather."""

import gzip
import json
import re
from datetime import timedelta
from xml.etree import ElementTree
from zoneinfo import ZoneInfo

import pytest
from icalendar import Calendar

from amber_gable.core.wall.climate import ClimateSurface as Face
from amber_gable.core.wall.climate import simulate
from amber_gable.core.windows import HouseRules, SiteLimits, find_windows
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.web.views.windows import hours
from tests.support.pages import errors, send, stages
from tests.support.seeded import forget_weather
from tests.support.serving import DEMO_NOW
from tests.support.weathers import HERON_FERRY, simulated

pytestmark = pytest.mark.small

NEW_JOB = {
    "name": "Ferry Cottage", "units": "us", "year_built": "1950", "crew": "Ines, Marlow", "latitude_deg": "43.81", "longitude_deg": "-91.2",
    "altitude_m": "680", "time_zone": "America/Chicago", "across_m": "32' 6\"", "deep_m": "24 ft", "eaves_height_m": "9'",
    "ridge_height_m": "17", "overhang_m": "1'", "plinth_height_m": "", "front_azimuth_deg": "180", "roof": "gable", "ridge_runs": "to back",
}  # fmt: skip


def test_every_page_answers_with_its_policy_and_nothing_inline(client, job):
    for path in ("/", "/jobs", "/jobs/new", "/reckoner", *stages(job)):
        answer = client.get(path)
        assert answer.status_code == 200, path
        policy = answer.headers["content-security-policy"]
        assert "default-src 'none'" in policy
        assert "unsafe" not in policy
        assert answer.headers["cache-control"] == "no-store"
        assert not re.search(r"<script(?![^>]*(src=|application/json))", answer.text), path
        assert not re.search(r"\son\w+=|\sstyle=|<style|javascript:", answer.text), path
        # Nothing is asked of another host.
        assert not re.search(r'(?:src|href|action|hx-\w+)="(?:https?:)?//(?!testserver)', answer.text), path


def test_static_files_are_there_may_be_kept_and_carry_their_licences(client):
    page = client.get("/").text
    for url in re.findall(r'(?:src|href)="(/static/[^"]+)"', page):
        found = client.get(url)
        assert found.status_code == 200, url
        assert "immutable" in found.headers["cache-control"]
    css = client.get("/static/css/look.css").text
    for url in re.findall(r'url\("\.\./([^"]+)"\)', css):
        assert client.get(f"/static/{url}").status_code == 200
    for name in ("bootstrap/LICENSE", "htmx/LICENSE", "icons/LICENSE", "fonts/LICENSE-barlow-condensed"):
        assert client.get(f"/static/vendor/{name}").status_code == 200


def test_unknown_addresses_are_friendly(client, job):
    for path in ("/jobs/none", "/jobs/none/windows", "/nowhere", "/reckoner/none"):
        answer = client.get(path)
        assert answer.status_code == 404
        assert "To the morning page" in answer.text
        assert "Traceback" not in answer.text
    assert client.get(f"/jobs/{job.id}/windows/none?at=0").status_code == 404
    assert client.get(f"/jobs/{job.id}", follow_redirects=False).headers["location"].endswith("/windows")


def test_changes_asked_for_by_another_site_are_refused(client, job):
    for headers in ({"sec-fetch-site": "cross-site"}, {"sec-fetch-site": "same-site"}, {"origin": "http://elsewhere.test"}):
        assert client.post(f"/jobs/{job.id}/remove", headers=headers).status_code == 403
        assert client.get("/", headers=headers).status_code == 200
    assert client.get(f"/jobs/{job.id}/survey").status_code == 200
    own = {"sec-fetch-site": "same-origin", "origin": "http://testserver"}
    assert client.post(f"/jobs/{job.id}/remove", headers=own).status_code == 200


def test_an_unforeseen_fault_shows_no_trace_and_keeps_the_policy(client, job, monkeypatch):
    monkeypatch.setattr(jobs, "whole", lambda *_: 1 / 0)
    answer = client.get(f"/jobs/{job.id}/survey")
    assert answer.status_code == 500
    assert "ZeroDivisionError" not in answer.text
    assert "nothing was changed" in answer.text


def test_a_new_house_is_drawn_from_what_was_typed(client, opened):
    answer = send(client, "/jobs", NEW_JOB)
    address = answer.headers["hx-redirect"]
    job = jobs.whole(opened, address.rsplit("/", 2)[1])
    building = job.building
    house = building.blocks[0]
    assert (house.across_m, house.deep_m) == pytest.approx((32.5 * 0.3048, 24 * 0.3048))
    assert (job.altitude_m, house.plinth_height_m) == pytest.approx((680 * 0.3048, 0))
    assert [e.name for e in building.elevations if e.kind == "wall"] == ["North gable", "East", "South gable", "West"]
    assert "32&#39; 6&#34;" in client.get(f"/jobs/{job.id}/survey/blocks").text


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"ridge_height_m": "8'"}, "ridge_height_m", "above the eaves"),
        ({"across_m": "long"}, "across_m", "Cannot read"),
        ({"across_m": ""}, "across_m", "Fill this in"),
        ({"across_m": "nan"}, "across_m", "Cannot read"),
        ({"across_m": "3 km"}, "across_m", "not a unit"),
        ({"latitude_deg": "91"}, "latitude_deg", "between -90 and 90"),
        ({"latitude_deg": "north"}, "latitude_deg", "like 43.80"),
        ({"time_zone": "Heron/Ferry"}, "time_zone", "Not a time zone"),
        ({"time_zone": "../../etc/passwd"}, "time_zone", "Not a time zone"),
        ({"name": "  "}, "name", "Give the job a name"),
        ({"year_built": "19x1"}, "year_built", "A year like 1931"),
        ({"units": "cubits"}, "units", "US or metric"),
    ],
)
def test_bad_measurements_get_words_at_their_field(client, opened, change, field, words):
    before = len(jobs.list_jobs(opened))
    found = errors(send(client, "/jobs", NEW_JOB | change, "new-job"))
    assert words in found[f"new-job-{field}"]
    assert len(jobs.list_jobs(opened)) == before


def test_every_fault_of_a_form_is_named_at_once(client):
    found = errors(send(client, "/jobs", NEW_JOB | {"across_m": "?", "latitude_deg": "100", "ridge_height_m": "1'"}, "new-job"))
    assert set(found) == {"new-job-across_m", "new-job-latitude_deg", "new-job-ridge_height_m"}


def test_openings_come_and_go_with_their_drawing(client, opened, job):
    north = job.building.elevations[0]
    path = f"/jobs/{job.id}/elevations/{north.id}/openings"
    door = {"kind": "entry-door", "width_m": "3'", "height_m": "6' 8\"", "left_m": "12'", "sill_m": "1' 8\""}
    added = send(client, path, door)
    assert added.status_code == 200, added.text
    assert "North gable entry door" in added.text, "a door is a surface of its own"
    assert 'id="band"' in added.text
    assert "Undo: add the entry door" in added.text
    too_wide = errors(send(client, path, door | {"width_m": "40'"}, "f"))
    assert "Wider than the wall" in too_wide["f-width_m"]
    assert "over the entry door" in errors(send(client, path, door, "f"))["f-left_m"]
    opening = next(o for o in jobs.whole(opened, job.id).building.elevations[0].openings if o.kind == "entry-door")
    gone = send(client, f"/jobs/{job.id}/openings/{opening.id}/remove", {})
    assert "Undo: remove the entry door" in gone.text
    assert "North gable entry door" not in gone.text


def test_a_surface_is_saved_or_refused_where_it_stands(client, opened, job, surface_named):
    wall = surface_named("East wall")
    path = f"/jobs/{job.id}/surfaces/{wall.id}"
    facts = {
        "substrate": "stucco",
        "profile": "flat",
        "texture": "light-stucco",
        "lrv_pct": "55",
        "is_painted": "on",
        "version": str(wall.version),
    }
    assert send(client, path, facts).status_code == 200
    assert "0 (black) to 100 (white)" in errors(send(client, path, facts | {"lrv_pct": "155"}, "s"))["s-lrv_pct"]
    assert "from the list" in errors(send(client, path, facts | {"substrate": "straw"}, "s"))["s-substrate"]
    assert "Somebody changed this" in errors(send(client, path, facts | {"lrv_pct": "60"}, "s"))["s-form"]
    again = jobs.whole(opened, job.id)
    assert next(s for e in again.building.elevations for s in e.surfaces if s.id == wall.id).substrate == "stucco"


def test_house_rules_move_the_windows(client, opened, job):
    rules = {
        "product": "rivermark-exterior-satin", "method": "sprayer", "access": "tower", "sun_rule": "shade",
        "max_rain_probability_pct": "20",
        "coats": "3", "painters": "1", "day_starts_h": "8", "day_ends_h": "17",
    }  # fmt: skip
    assert send(client, f"/jobs/{job.id}/rules", rules).headers["hx-redirect"]
    page = client.get(f"/jobs/{job.id}/systems/limits").text
    assert "3 coats of Rivermark Exterior Satin" in page
    assert "10 mph" in page, "the stricter of tower and sprayer"
    bad = rules | {"coats": "9", "max_rain_probability_pct": "120", "day_ends_h": "7", "method": "mop"}
    assert set(errors(send(client, f"/jobs/{job.id}/rules", bad, "r"))) >= {"r-coats", "r-max_rain_probability_pct", "r-method"}
    assert "end after it starts" in errors(send(client, f"/jobs/{job.id}/rules", rules | {"day_ends_h": "7"}, "r"))["r-day_ends_h"]


@pytest.mark.four
def test_take_off_shows_its_arithmetic(client, job):
    text = client.get(f"/jobs/{job.id}/takeoff").text
    assert "552 ft²" in text
    assert "× 1.111" in text
    assert "÷ (1 − 8 %)" in text
    assert "Windows, 14" in text
    assert "3.9 mil" in text
    assert "µm" not in text, "nothing metric in a US job"


@pytest.mark.four
def test_the_windows_payload_is_small_and_complete(client, job):
    answer = client.get(f"/jobs/{job.id}/windows")
    payload = json.loads(re.search(r'data-hours-of="job">(.*?)</script>', answer.text, re.S)[1])
    assert len(payload["x"]) == 5 * 96 + 1
    assert len(payload["surfaces"]) == 7
    assert {s for surface in payload["surfaces"] for _, s, _ in surface["runs"]} == {0, 1, 2}
    assert len(answer.content) < 120_000


def test_sixty_surfaces_of_ten_days_go_over_the_wire_in_less_than_three_hundred_kilobytes(knowledge):
    wood = knowledge.claddings["wood"]
    skin = (wood.areal_heat_capacity_kj_m2k, wood.water_store_mm)
    faces = [Face(f"Face {n}", 6.0 * n, 90 - n % 3 * 20, 0.3 + 0.01 * n, *skin) for n in range(60)]
    weather = simulated(7, 11)
    climate = simulate(HERON_FERRY, weather, faces)
    rules = HouseRules(9.0, 30.0, "surface-cap", knowledge.limits, knowledge.tight, SiteLimits())
    windows = find_windows(climate, knowledge.products["rivermark-exterior-satin"], rules)
    names, zone = [f.name for f in faces], ZoneInfo("America/Chicago")
    ahead = Outlook(("k",), names, windows, zone, DEMO_NOW, DEMO_NOW, HERON_FERRY, weather, tuple(faces), (rules,) * len(faces))
    found = hours.drawn_hours({name: (name, "side") for name in names}, ahead, hours.axis_over(ahead, ahead.local(24), 240), "us")
    assert len(found.payload["x"]) == 961
    sent = json.dumps(found.payload) + "".join(row.ribbon for row in found.rows)
    assert "NaN" not in sent
    assert len(gzip.compress(sent.encode())) < 300_000


@pytest.mark.parametrize("query", ["days=2&order=next", "work=wash", "work=putty&days=10", "work=mask&order=next"])
def test_windows_can_be_asked_for_in_many_ways(client, job, query, surface_named):
    page = client.get(f"/jobs/{job.id}/windows?{query}")
    assert page.status_code == 200
    at = DEMO_NOW.timestamp() + 5 * 3600
    fragment = client.get(f"/jobs/{job.id}/windows/{surface_named('East wall').id}?at={at}&{query}")
    assert fragment.status_code == 200
    assert ("Done at" in fragment.text) == ("work=" in query)


@pytest.mark.parametrize("query", ["days=7", "order=loud", "work=juggling"])
def test_windows_that_cannot_be_asked_for(client, job, query):
    assert client.get(f"/jobs/{job.id}/windows?{query}").status_code in (404, 422)


def test_a_card_tells_what_becomes_of_a_coat_and_how_likely_it_holds(client, job, surface_named):
    wall = surface_named("East wall")
    at = DEMO_NOW.timestamp() + 5 * 3600
    text = client.get(f"/jobs/{job.id}/windows/{wall.id}?at={at}").text
    for words in (
        "touch-dry",
        "bears dew and rain, may dull",
        "last stroke by",
        "next coat from",
        "Moisture by meter",
        "chance of rain",
        "mil",
    ):
        assert words in text
    chance = client.get(f"/jobs/{job.id}/windows/{wall.id}/chance?at={at}").text
    assert 50 <= int(re.search(r"<strong>(\d+)&nbsp;%", chance)[1]) <= 100
    assert "Where overspray goes" not in text, "nobody sprays here"


def test_the_sheet_for_the_van_stands_alone(client, job):
    answer = client.get(f"/jobs/{job.id}/windows/sheet.svg?days=5")
    assert answer.headers["content-type"].startswith("image/svg+xml")
    sheet = ElementTree.fromstring(answer.text)
    assert sheet.tag == "{http://www.w3.org/2000/svg}svg"
    said = " ".join(t.text or "" for t in sheet.iter("{http://www.w3.org/2000/svg}text"))
    assert "East wall" in said
    assert "by the forecast of Tue 15 Sep" in said
    assert "var(" not in answer.text
    assert "class=" not in answer.text, "it opens anywhere: no style but its own"
    assert "NaN" not in answer.text
    assert client.get(f"/jobs/{job.id}/windows/sheet").status_code == 200


def test_palm_and_meter_by_form(client, job, surface_named):
    wall = surface_named("East wall")
    path = f"/jobs/{job.id}/windows/{wall.id}/found"
    assert "/log" in send(client, path, {"what": "damp", "back": "log"}).headers["hx-redirect"]
    assert "damp at 06:50" in client.get(f"/jobs/{job.id}/log").text
    assert send(client, path, {"what": "meter", "moisture_pct": "19,5"}).headers["hx-redirect"]
    refused = send(client, path, {"what": "meter", "moisture_pct": "wet"})
    assert refused.status_code == 422
    assert "percent" in refused.text


def test_two_ways_compared(client, job, surface_named):
    wall = surface_named("East wall")
    page = client.get(f"/jobs/{job.id}/windows/compare?surface={wall.id}&first=as-is&second=sun:shade").text
    assert "gains" in page
    assert "follow the shade strictly" in page
    assert client.get(f"/jobs/{job.id}/windows/compare?surface={wall.id}&first=as-is&second=magic").status_code == 422


def test_reasons_of_one_surface_on_request(client, job, surface_named):
    client.get("/")
    wall = surface_named("North gable wall")
    at = DEMO_NOW.timestamp()
    text = client.get(f"/jobs/{job.id}/windows/{wall.id}?at={at}").text
    assert "North gable wall, Tue 06:45" in text
    assert "wet surface" in text
    assert "below the dew point" in text
    assert client.get(f"/jobs/{job.id}/windows/{wall.id}?at=never").status_code == 422


@pytest.mark.four
def test_schedule_and_its_calendar_file(client, job):
    assert client.get(f"/jobs/{job.id}/schedule.ics").status_code == 422
    assert send(client, f"/jobs/{job.id}/schedule", {}).headers["hx-redirect"].endswith("/schedule")
    page = client.get(f"/jobs/{job.id}/schedule").text
    assert "Coat by coat" in page
    file = client.get(f"/jobs/{job.id}/schedule.ics")
    assert file.headers["content-type"].startswith("text/calendar")
    events = list(Calendar.from_ical(file.content).walk("VEVENT"))
    # All of the work, not the coats alone.
    assert {"first coat", "tape off, inspect", "mask"} <= {str(e["SUMMARY"]).rsplit(": ", 1)[1] for e in events}
    # Nobody may start where lead is not cleared: no coat is planned there, and the page says why.
    assert not [e for e in events if "West wall" in e["SUMMARY"] or "held up" in e["SUMMARY"]]
    assert re.search(r"West wall: lead is not cleared", page, re.S)
    assert min(e.decoded("dtstart") for e in events) > DEMO_NOW


def test_a_reading_is_answered_and_logged(client, opened, job, surface_named):
    opened.clock.set(DEMO_NOW + timedelta(hours=6))
    reading = {
        "surface_id": surface_named("North gable wall").id,
        "air_temp_c": "70F",
        "rel_humidity_pct": "52",
        "surface_temp_c": "68",
        "painter": "Ines",
    }
    yes = send(client, f"/jobs/{job.id}/log", reading).text
    assert "Yes" in yes
    assert "last stroke" in yes
    no = send(client, f"/jobs/{job.id}/log", reading | {"rel_humidity_pct": "95"}).text
    assert ">No</p>" in no
    assert "Humidity 95 %" in no
    found = errors(
        send(client, f"/jobs/{job.id}/log", reading | {"rel_humidity_pct": "101", "surface_temp_c": "700", "air_temp_c": "warm"}, "r")
    )
    assert set(found) == {"r-rel_humidity_pct", "r-surface_temp_c", "r-air_temp_c"}
    assert client.get(f"/jobs/{job.id}/log").text.count("Reading, North gable wall") == 2


def test_pages_come_without_the_weather_service(client, opened, weather, job):
    client.get("/")
    weather.down = "The weather service cannot be reached."
    opened.clock.set(DEMO_NOW + timedelta(hours=8))
    for path in ("/", *stages(job)):
        answer = client.get(path)
        assert answer.status_code == 200
    late = client.get(f"/jobs/{job.id}/windows").text
    assert "cannot be reached" in late
    assert "9 h old" in late


def test_pages_come_where_there_never_was_a_forecast(client, opened, weather, job):
    forget_weather(opened)
    weather.down = "The weather service is too slow to answer."
    for path in ("/", *stages(job)):
        assert client.get(path).status_code == 200
    assert "No forecast yet: the weather service has not answered" in client.get(f"/jobs/{job.id}/windows").text
    refused = send(client, f"/jobs/{job.id}/schedule", {}, "make")
    assert "No forecast yet" in refused.text


def test_the_demo_clock_is_a_demo_only(client, opened):
    before = opened.clock.now()
    assert send(client, "/demo/clock", {"hours": "3"}).headers["hx-refresh"] == "true"
    assert opened.clock.now() - before >= timedelta(hours=3)
    assert "Demo clock" in client.get("/").text
    opened.app.settings = opened.settings.model_copy(update={"demo": False})
    assert send(client, "/demo/clock", {"hours": "3"}).status_code == 422
    assert "Demo clock" not in client.get("/").text


def test_morning_lists_the_work_of_today_and_tomorrow(client, job):
    assert "Until tomorrow evening" not in client.get("/").text
    send(client, f"/jobs/{job.id}/schedule", {})
    text = client.get("/").text
    mine = text[text.index(f'id="job-{job.id}"') :].split("</article>")[0]
    listed = re.findall(r"<time datetime=[^>]+>(\w{3} \d\d:\d\d)</time> ([^<]+) <small>", mine)
    assert len(listed) >= 4
    assert listed[0][1].strip().endswith("first coat"), "the crew is sent where it may start"
    assert {day[:3] for day, _ in listed} == {"Tue", "Wed"}


@pytest.mark.takes(5)
@pytest.mark.four
def test_eight_jobs_share_the_start_page(client, opened):
    for n in range(4):
        assert send(client, "/jobs", NEW_JOB | {"name": f"Ferry Cottage {n}"}).status_code == 200
    text = client.get("/").text
    articles = text.split("<article")[1:]
    assert len(articles) == 8
    for article in articles:
        assert article.count('class="ribbon"') == 3, "the ribbons are shared out"
        assert re.search(r"\d+ more surfaces", article)
        assert article.count("answer-lead") == 1
    # Four of them stand where the demonstration's forecast is known, four in one new place: asked for once, forecast and observed hours.
    assert opened.weather.calls == 2


def test_undo_over_http_brings_a_removed_job_back_once(client, job):
    assert send(client, f"/jobs/{job.id}/remove", {}).headers["hx-redirect"].endswith("/jobs")
    assert client.get(f"/jobs/{job.id}/survey").status_code == 404
    undo = re.search(r"/undo/[\w-]+", client.get("/jobs").text)[0]
    assert send(client, undo, {}).headers["hx-refresh"] == "true"
    assert client.get(f"/jobs/{job.id}/survey").status_code == 200
    again = send(client, undo, {}, "jobs")
    assert "nothing to undo" in errors(again)["jobs-form"]


def test_health(client):
    assert client.get("/healthz").json() == {"status": "ok"}

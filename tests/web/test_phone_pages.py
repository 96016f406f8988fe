"""What phones ask for: the signal, the worker with its files, the pages to carry; entries that waited; the gauge; who may hear."""

import io
import json
import re
from datetime import datetime, timedelta

import httpx
import pytest
from PIL import ExifTags, Image

from amber_gable.services.log import entries, record
from amber_gable.services.outlook.weather import gauge
from amber_gable.services.planning import schedules
from amber_gable.standins.gauge import create_app as create_gauge
from amber_gable.web.app import create_app
from amber_gable.web.templating import version
from tests.support.pages import HTMX, errors, send
from tests.support.serving import Served

pytestmark = pytest.mark.small


def test_the_signal_is_the_servers_time_and_version(client, opened):
    said = client.get("/signal").json()
    assert said["version"] == version()
    assert abs((opened.clock.now() - datetime.fromisoformat(said["now"])).total_seconds()) < 60


def test_the_worker_names_files_that_are_there(client):
    answer = client.get("/worker.js")
    assert answer.headers["content-type"].startswith("text/javascript")
    carried = json.loads(re.match(r"self\.CARRIED = (.*?);\n", answer.text)[1])
    assert carried["version"] == version()
    assert len(carried["files"]) > 15
    assert {client.get(file).status_code for file in carried["files"]} == {200}
    # Every style, script and font that a page asks for is among them.
    asked = set(re.findall(r'(?:href|src)="(/static/[^"]+\.(?:css|js|svg)[^"]*)"', client.get("/today").text))
    assert asked <= set(carried["files"])


def test_whoever_holds_the_phone_is_who_says_it(client, job):
    """Each list of painters on the pages of the site opens at the one who holds the phone, whoever stands first in the crew."""
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.is_painted)
    asked = 0
    for painter in job.crew:
        client.cookies.set("who", painter)
        for path in ("log", f"surfaces/{wall.id}/tests/rub"):
            page = client.get(f"/jobs/{job.id}/{path}").text
            for options in re.findall(r'<select[^>]* name="painter"[^>]*>(.*?)</select>', page, re.S):
                assert re.findall(r'value="([^"]+)" selected', options) == [painter], path
                asked += 1
    assert asked >= 4 * len(job.crew)


def test_a_phone_carries_the_days_the_walls_and_the_cards_of_who_holds_it(client, opened, job):
    schedules.make(opened, job)
    assert client.get("/today/carried").json() == {"pages": []}
    client.cookies.set("who", "Tobias")
    pages = client.get("/today/carried").json()["pages"]
    assert sum("/today" in page for page in pages) == 3
    assert any("/stop/" in page for page in pages)
    for name in ("log", "inspection", "windows", "systems/cards", "systems/limits"):
        assert any(page.endswith(f"/jobs/{job.id}/{name}") for page in pages), name
    assert {client.get(page).status_code for page in pages} == {200}


def test_an_entry_that_waited_counts_as_whose_it_is_from_when_it_was_made(client, opened, job):
    made = opened.clock.now() - timedelta(hours=2)
    form = {"kind": "note", "text": "Scaffold tied", "entry": "made-on-a-phone", "form_key": "key-of-the-note", "made_at": made.isoformat(),
            "made_by": "Marlow"}  # fmt: skip
    off = {"x-phone-now": (opened.clock.now() + timedelta(hours=3)).isoformat()}
    first = client.post(f"/jobs/{job.id}/log/entries", data=form, headers=HTMX | off)
    again = client.post(f"/jobs/{job.id}/log/entries", data=form, headers=HTMX)
    # Straight from the page it had no made_at: it is the same entry all the same.
    bare = {k: v for k, v in form.items() if k not in ("made_at", "made_by")}
    assert [first.status_code, again.status_code, client.post(f"/jobs/{job.id}/log/entries", data=bare, headers=HTMX).status_code] == [
        200
    ] * 3
    rows = entries.standing_lines(opened, job)
    assert [(row.said_by, row.at, row.details["clock_off_min"]) for row in rows] == [("Marlow", made, 180)]
    page = client.get(f"/jobs/{job.id}/log").text
    assert "the phone&#39;s clock was set by 180 min meanwhile" in page


def test_a_start_without_a_signal_is_kept_with_what_spoke_against_it(client, opened, job):
    plan = schedules.make(opened, job)
    coat = next(s for s in plan.stints if s.coat)
    tasks = " ".join(task.replace(" ", "_") for task in coat.tasks)
    form = {"tasks": tasks, "verb": "began", "painter": "Ines", "entry": "begun-on-a-phone"}
    # Now, before the dew is off, it takes a reason; what was begun without a signal is begun.
    assert "why you begin all the same" in " ".join(errors(send(client, f"/jobs/{job.id}/work", form)).values())
    opened.clock.set(opened.clock.now() + timedelta(hours=1))
    late = form | {"made_at": (opened.clock.now() - timedelta(minutes=1)).isoformat()}
    assert send(client, f"/jobs/{job.id}/work", late).status_code == 200
    row = next(row for row in record.rows_of(opened, job) if row.entry == "begun-on-a-phone")
    assert row.details["against"]


def test_work_at_a_wall_is_written_down_though_nobody_planned_it(client, opened, job):
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    assert "Tap a wall on the house" in client.get(f"/jobs/{job.id}/log").text
    page = client.get(f"/jobs/{job.id}/log", params={"surface": wall.id}).text
    assert "Work at east wall" in page
    steps = re.findall(r'<option value="([^"]+)"[^>]*>First coat', page)
    opened.clock.set(opened.clock.now() + timedelta(hours=6))
    form = {
        "verb": "done",
        "tasks": steps[0],
        "from": "10:30",
        "until": "12:00",
        "litres": "2",
        "comb": "6, 7",
        "method": "roller",
        "painter": "Ines",
        "back": "log",
    }
    answer = send(client, f"/jobs/{job.id}/work", form)
    assert answer.headers["hx-redirect"].endswith("/log#lines")
    row = record.rows_of(opened, job)[-1]
    assert (row.told, row.painters, row.details["method"], len(row.details["comb_um"])) == ("done", ["Ines"], "roller", 2)
    # The weather of that coat as it was believed then stays with it.
    assert {"air_temp_c", "surface_temp_c", "dew_margin_c", "forecast_issued_at"} <= set(row.details["weather"])
    assert "margin" in client.get(f"/jobs/{job.id}/log").text


def test_photographs_belong_to_their_entry_whichever_comes_first_and_keep_their_place_to_themselves(client, opened, job):
    exif = Image.Exif()
    exif[ExifTags.IFD.GPSInfo] = {1: "N", 2: (43.0, 48.0, 0.0)}
    out = io.BytesIO()
    Image.new("RGB", (400, 300), "#b8742f").save(out, "JPEG", exif=exif)
    path = f"/jobs/{job.id}/log/photos"
    sent = client.post(path, data={"entry": "note-on-a-phone"}, files={"photo": ("a.jpg", out.getvalue(), "image/jpeg")}, headers=HTMX)
    assert sent.status_code == 200
    # By content, whatever it is called.
    script = client.post(path, data={"entry": "note-on-a-phone"}, files={"photo": ("a.jpg", b"<svg onload=x>", "image/jpeg")}, headers=HTMX)
    assert script.status_code == 422
    send(client, f"/jobs/{job.id}/log/entries", {"kind": "delivery", "text": "Six cans", "entry": "note-on-a-phone"})
    page = client.get(f"/jobs/{job.id}/log").text
    shown = re.search(r'<img[^>]*src="([^"]+/small)"', page)[1]
    picture = Image.open(io.BytesIO(client.get(httpx.URL(shown).path).content))
    assert dict(picture.getexif()) == {}


def test_the_gauge_fills_a_reading_and_says_what_is_silent(client, opened, job, monkeypatch):
    served = Served(create_gauge(code="2580"))
    monkeypatch.setattr(opened.app, "settings", opened.settings.model_copy(update={"gauge_url": served.url}))
    assert "Pair the" in client.get(f"/jobs/{job.id}/log").text
    assert "not the code" in errors(send(client, f"/jobs/{job.id}/log/gauge", {"code": "1111"}, "pair"))["pair-code"]
    assert send(client, f"/jobs/{job.id}/log/gauge", {"code": "2580"}).status_code == 200
    assert gauge.paired(opened).name == "Gauge 214"
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    shown = client.get(f"/jobs/{job.id}/log/gauge", params={"surface": wall.id}).json()
    assert set(shown["fields"]) <= {"air_temp_c", "rel_humidity_pct", "surface_temp_c", "moisture_pct", "wind"}
    assert "samples" in shown["words"]
    form = {"surface_id": wall.id, "air_temp_c": "62", "rel_humidity_pct": "60", "surface_temp_c": "60"} | shown["fields"]
    answer = send(client, f"/jobs/{job.id}/log", form | {"instrument": "Gauge 214", "is_by_gauge": "1", "wind": "2"})
    assert answer.status_code == 200
    assert "verdict-word" in answer.text
    served.stop()
    said = client.get(f"/jobs/{job.id}/log/gauge", params={"surface": wall.id}).json()
    assert said["fields"] == {}
    assert "does not answer" in said["words"]


@pytest.mark.parametrize(("field", "value", "words"), [("moisture_pct", "85", "at most 60"), ("wind", "500", "134 mph")])
def test_what_no_instrument_shows_is_refused_and_a_wet_board_shuts_the_wall(client, job, field, value, words):
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    form = {"surface_id": wall.id, "air_temp_c": "68", "rel_humidity_pct": "50", "surface_temp_c": "70"}
    assert words in errors(send(client, f"/jobs/{job.id}/log", form | {field: value}, "reading"))[f"reading-{field}"]
    wet = send(client, f"/jobs/{job.id}/log", form | {"moisture_pct": "28"})
    assert ">No</p>" in wet.text
    assert "moisture" in wet.text


def test_what_listens_hears_of_changes_and_alarms(opened, job):
    served = Served(create_app(running=opened.app))
    heard: list[str] = []
    with httpx.stream("GET", f"{served.url}/live", timeout=60) as stream:
        assert stream.headers["content-type"].startswith("text/event-stream")
        for line in stream.iter_lines():
            heard.append(line)
            if line == "event: alarms":
                send_to = f"{served.url}/jobs/{job.id}/log/entries"
                assert httpx.post(send_to, data={"kind": "note", "text": "heard"}, headers=HTMX, timeout=60).status_code == 200
            if line == "event: changed":
                break
    assert heard[0].startswith("retry:")
    assert "event: alarms" in heard
    served.server.force_exit = True
    served.stop()


def test_kit_says_what_to_see_to_first_and_boxes(client, opened, job):
    page = client.get("/kit").text
    assert "<h1" in page
    can = re.search(r'name="can" value="([^"]+)"', page)[1]
    assert "Boxing" in client.get("/kit", params={"can": can}).text
    assert send(client, f"/kit/cans/{can}/opened", {}).status_code == 200
    assert "open since" in client.get("/kit").text
    assert "at least two" in " ".join(errors(send(client, "/kit/box", {}, "box")).values())

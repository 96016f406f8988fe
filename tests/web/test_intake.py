"""What comes in: bodies counted as they arrive, uploads that stall dropped, strange hosts refused, odd numbers read by one reader."""

import asyncio
import socket
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from xml.etree import ElementTree

import httpx
import pytest

from amber_gable.services.app.machine.addresses import own_addresses
from amber_gable.web.app import create_app
from amber_gable.web.door.intake import IntakeMiddleware, limit_of
from amber_gable.web.door.security import Hosts
from amber_gable.web.forms import TypedForm, number_in, whole_in
from tests.support.pages import HTMX, send
from tests.support.serving import Served

pytestmark = pytest.mark.small


def test_a_body_over_its_limit_is_refused_before_it_is_read(client, opened, job):
    for path, size in (("/jobs", 2_000_000), (f"/jobs/{job.id}/facts", 2_000_000), ("/api/jobs", 9_000_000)):
        answer = client.post(path, content=b"x" * size, headers={"content-type": "application/x-www-form-urlencoded"})
        assert answer.status_code == 413, path
        assert "more than" in answer.text
    long = client.post("/api/reckon/dew-point", content=b"[" * 3_500_000)
    assert long.status_code in (413, 422)


def test_a_body_that_does_not_say_its_length_is_counted_as_it_arrives():
    got = []

    async def app(scope, receive, send):
        while (message := await receive()).get("more_body"):
            got.append(len(message["body"]))

    async def endless():
        return {"type": "http.request", "body": b"x" * 100_000, "more_body": True}

    async def ask():
        await IntakeMiddleware(app)({"type": "http", "method": "POST", "path": "/jobs", "headers": []}, endless, None)

    # On a thread of its own: a browser's tests leave a loop running on this one.
    with ThreadPoolExecutor(1) as own, pytest.raises(Exception, match="more than 1 MB"):
        own.submit(lambda: asyncio.run(ask())).result()
    assert sum(got) <= 1_000_000


def test_an_upload_that_stalls_is_dropped_without_a_traceback(opened, caplog):
    application = create_app(running=opened.app)
    for middleware in application.user_middleware:
        if middleware.cls is IntakeMiddleware:
            middleware.kwargs["stalls_s"] = 0.3
    served = Served(application)
    head = "POST /jobs HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 5000\r\n\r\nname=a"
    with socket.create_connection(("127.0.0.1", int(served.url.rsplit(":", 1)[1]))) as stalled:
        stalled.sendall(head.encode())
        stalled.settimeout(60)
        assert b" 408 " in stalled.recv(4000)
    for _ in range(5):
        with socket.create_connection(("127.0.0.1", int(served.url.rsplit(":", 1)[1]))) as aborted:
            aborted.sendall(head.encode())
    time.sleep(0.3)
    assert httpx.get(f"{served.url}/healthz", timeout=60).status_code == 200
    served.stop()
    assert "Traceback" not in caplog.text


@pytest.mark.parametrize("path", ["/jobs/{job}/elevations/{side}/findings", "/jobs/{job}/windows/weather", "/jobs/import", "/jobs"])
def test_limits_are_those_of_what_is_sent(path):
    assert limit_of(path) >= 1_000_000
    assert limit_of("/jobs/1/facts") == 1_000_000 < limit_of("/jobs/import") < limit_of("/jobs/1/elevations/2/findings")


@pytest.mark.parametrize(
    "host", ["evil.example", "evil.example:8000", "localhost.evil.example", "127.0.0.1.evil.example", "[::2]", "", "192.0.2.7", "\\", "["]
)
def test_a_foreign_host_is_refused_for_reading_and_writing(client, host):
    for method in ("GET", "POST"):
        answer = client.request(method, "/jobs", headers={"host": host, "origin": f"http://{host}"})
        assert answer.status_code == 421, method
        assert "AMBER_GABLE_HOSTS" in answer.text


def test_this_machine_is_known_by_its_names_and_addresses(portal):
    hosts = Hosts("office.example")
    assert all(portal.call(hosts.allow, f"[{a}]:8000" if ":" in a else f"{a}:8000") for a in own_addresses())
    assert {"127.0.0.1", "::1"} <= set(own_addresses())
    assert all(portal.call(hosts.allow, name) for name in ("localhost", "LOCALHOST:80", socket.gethostname(), "office.example"))
    assert portal.call(Hosts("*").allow, "anything.example")


# Digits of other scripts, powers, underscores, words for numbers, too many of them.
ODD = [
    "²",
    "١٢",
    "1_000",
    "0x10",
    "nan",
    "inf",
    "-inf",
    "1e999",
    "9" * 400,
    "1e5000",
    "٣.٥",
    "½",
    "1.2.3",
    "--1",
    "+",
    ".",
    "e5",
    "①",
    "12\x00x",
]


@pytest.mark.parametrize("text", ODD)
def test_what_is_no_plain_number_is_none(text):
    assert number_in(text) is None
    assert whole_in(text) is None


def test_numbers_are_read_as_painters_type_them():
    assert [number_in(t) for t in ("12", " 3.5 ", "3,5", "−4", "+.5", "1e3")] == [12, 3.5, 3.5, -4, 0.5, 1000]
    assert [whole_in(t) for t in ("0", "007", "999999999", "1.0", "-1", "")] == [0, 7, 999999999, None, None, None]


ODDER = [*ODD[::2], "\ud800", "x" * 5000, "\x00", "🏠" * 50, "<b>"]


@pytest.mark.takes(5)
def test_no_field_of_any_form_breaks_on_odd_text(client, job):
    side = job.building.elevations[0]
    wall = side.surfaces[0]
    sent = {
        "/jobs": ["name", "units", "altitude_m", "latitude_deg", "year_built", "across_m", "kind", "roof", "version"],
        f"/jobs/{job.id}/surfaces/{wall.id}": ["version", "substrate", "lrv_pct", "hex", "coated_year", "exposure_mm"],
        f"/jobs/{job.id}/rules": ["painters", "coats", "version", "method", "day_starts_h"],
        f"/jobs/{job.id}/blocks": ["kind", "side", "parent", "roof", "from_left_m", "steps"],
        f"/jobs/{job.id}/log": ["surface_id", "air_temp_c", "rel_humidity_pct"],
        f"/jobs/{job.id}/elevations/{side.id}/findings": ["x_m", "kind", "extent", "depth_mm"],
        f"/jobs/{job.id}/elevations/{side.id}/cuts": ["points", "divide_at_m", "how"],
        f"/jobs/{job.id}/stop/{wall.id}": ["coat", "painters", "done_m", "verb", "rain_at"],
        f"/jobs/{job.id}/bid": ["state", "follow_up_on", "version"],
        f"/jobs/{job.id}/truck/on": ["key", "work", "way"],
        f"/jobs/{job.id}/samples": ["made_on", "due_on", "part", "kind"],
        f"/jobs/{job.id}/state": ["state", "version"],
    }  # fmt: skip
    queries = ("truck?work", "survey?at", "windows?surface", "systems?part", f"stop/{wall.id}?coat")
    for odd in (text.encode("utf-8", "replace").decode() for text in ODDER):
        for path, names in sent.items():
            assert send(client, path, dict.fromkeys(names, odd)).status_code < 500, f"{path} {odd}"
    for odd in ("²", "\x00", "9" * 400, "<b>"):
        for path, names in sent.items():
            # By itself the one that everything else waits for.
            assert send(client, path, {names[0]: odd}).status_code < 500, f"{path} {odd}"
        for query in queries:
            where, name = query.split("?")
            assert client.get(f"/jobs/{job.id}/{where}", params={name: odd}).status_code < 500
        for path in ("/jobs", "/bids"):
            assert client.get(path, params={"q": odd, "page": odd, "state": odd}).status_code == 200


def test_controls_never_reach_a_name(client, job):
    form = TypedForm.of(httpx.QueryParams())  # type: ignore[arg-type]
    assert form.raw("x") == ""
    page = client.get(f"/jobs/{job.id}/survey/facts").text
    version = page.split('name="version"')[1].split('value="')[1].split('"')[0]
    facts = {"name": "Mill\x07 of\x0b Heron\x00", "units": "us", "latitude_deg": "43.8", "longitude_deg": "-91",
             "time_zone": "America/Chicago", "front_azimuth_deg": "0", "version": version}  # fmt: skip
    assert send(client, f"/jobs/{job.id}/facts", facts).status_code == 200
    drawing = client.get(f"/jobs/{job.id}/drawing.svg")
    assert drawing.status_code == 200
    ElementTree.fromstring(drawing.text)
    assert "Mill of Heron" in client.get("/jobs").text


def test_waiting_for_the_end_of_a_connection_is_no_stall(opened):
    """A long answer to a short form: the body was whole, nothing has stalled."""
    served = Served(create_app(running=opened.app))
    threads = [threading.Thread(target=lambda: httpx.get(f"{served.url}/jobs", headers=HTMX, timeout=60)) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(timeout=90)
    served.stop()


def test_the_api_describes_itself(client):
    found = client.get("/openapi.json").json()
    assert found["openapi"].startswith("3.")
    paths = found["paths"]
    assert {"/api/reckon", "/api/reckon/dew-point", "/api/jobs", "/api/schema/job-bundle.json"} <= set(paths)
    asked = paths["/api/reckon/windows"]["post"]["requestBody"]["content"]["application/json"]["schema"]
    assert asked["$ref"].rsplit("/", 1)[1] in found["components"]["schemas"]
    assert not any("{" in p or not p.startswith("/api/") for p in paths), "the pages' own routes are nobody's business"


DAYS = ("0001-01-01", "9999-12-31", "-001-01-01", "2026-13-01", "2026-02-30", "20260915", "x" * 5000, "")


@pytest.mark.parametrize("day", DAYS)
def test_days_at_the_ends_of_the_calendar_are_no_fault_of_ours(client, job, day):
    for path in (f"/crew?day={day}", f"/crew/hours?week={day}", f"/crew/hours.csv?week={day}", f"/jobs/{job.id}/schedule?day={day}",
                 f"/jobs/{job.id}/schedule/may?stint=x&day={day}", f"/today?day={day}"):  # fmt: skip
        assert client.get(path).status_code < 500, path


def test_what_may_be_read_may_be_asked_for_without_its_body(client):
    for path in ("/", "/jobs", "/api/reckon", "/signal", "/openapi.json"):
        assert client.head(path).status_code == 200, path


@pytest.mark.parametrize("kind", ["application/x-www-form-urlencoded", "multipart/form-data; boundary=x", "text/plain", "application/json"])
def test_the_api_reads_json_whatever_it_is_called(client, kind):
    body = b'{"air_temp_c": 20, "rel_humidity_pct": 60}'
    answer = client.post("/api/reckon/dew-point", content=body, headers={"content-type": kind, "idempotency-key": "12345678"})
    assert answer.status_code == 200
    assert client.post("/api/jobs", content=b"a=1", headers={"content-type": kind}).status_code == 422

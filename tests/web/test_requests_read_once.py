"""A page reads in one session, each thing once; two processes serve two contractors from one database."""

import json
import os
import subprocess
import sys
import time
import urllib.request
from contextlib import suppress

import pytest
from fastapi.testclient import TestClient
from markupsafe import escape
from sqlalchemy import event

from amber_gable.demo.run import free_port
from amber_gable.services.app.machine.opening import add_contractor
from amber_gable.services.jobs import jobs
from amber_gable.services.office import rates, stock
from amber_gable.services.office.stock import StockFacts
from tests.support.pages import send

pytestmark = pytest.mark.small

PAGES = (
    "/", "/jobs", "/bids", "/settings", "/reckoner", *(
        f"/jobs/JOB/{page}" for page in (
            "survey", "survey/walk", "survey/blocks", "survey/items", "survey/around", "survey/gates", "systems", "systems/colours",
            "systems/samples", "systems/schools", "systems/strokes", "takeoff", "takeoff/sundries", "takeoff/ways", "takeoff/hours",
            "price", "price/alternatives", "price/changes", "rates", "truck", "papers", "windows", "windows/compare", "schedule", "log",
        )
    ),
)  # fmt: skip
# The twelve of before, and the record of work.
MOST_STATEMENTS = 13
# The log lists what was written down of everything: its own lines, their photographs, the sky of two weeks.
OF_THE_LOG = 16


@pytest.fixture
def asked(opened):
    """What the database was asked, transactions among it."""
    said: list[str] = []
    event.listen(opened.app.engine, "begin", lambda _: said.append("BEGIN"))
    event.listen(opened.app.engine, "before_cursor_execute", lambda *given: given[2].startswith("BEGIN") or said.append(given[2]))
    return said


@pytest.mark.takes(8)
def test_a_warm_page_reads_each_thing_once_in_one_session(client, job, asked):
    over = {}
    for page in PAGES:
        address = page.replace("JOB", job.id)
        for _ in range(3):
            asked.clear()
            assert client.get(address).status_code == 200, address
        statements = [one for one in asked if one != "BEGIN"]
        if len(statements) > (OF_THE_LOG if page.endswith("/log") else MOST_STATEMENTS) or len(statements) != len(asked) - 1:
            over[page] = (len(statements), len(asked) - len(statements))
    assert over == {}


def test_a_device_has_a_name_that_stands_beside_its_changes(client, opened, job):
    send(client, f"/jobs/{job.id}/state", {"state": "resting"})
    assert send(client, "/settings/who", {"who": "Nobody"}).status_code == 422
    send(client, "/settings/who", {"who": "Tobias"})
    send(client, f"/jobs/{job.id}/state", {"state": "running"})
    page = client.get(f"/jobs/{job.id}/takeoff").text
    assert "Undo: Tollkeeper&#39;s House: running" in page
    assert '<small class="undo-who">Tobias, 06:' in page
    client.cookies.set("who", "Stranger")
    assert "Stranger" not in client.get("/settings").text


def _ask(address: str, post: dict[str, str] | None = None) -> str:
    body = None if post is None else "&".join(f"{k}={v}" for k, v in post.items()).encode()
    # A form is taken only from a page of the application itself.
    request = urllib.request.Request(address, body, {"sec-fetch-site": "same-origin", "hx-request": "true"})
    with suppress(urllib.error.HTTPError), urllib.request.urlopen(request, timeout=60) as answer:
        return str(answer.read(), "utf-8")
    return ""


@pytest.fixture
def beside(opened):
    """Another process on the same database, for a contractor of its own."""
    port = free_port()
    settings = {"DATA_DIR": str(opened.settings.data_dir), "CONTRACTOR": "Marsh & Daughter", "PREPARES": "0"}
    own = {f"AMBER_GABLE_{name}": value for name, value in settings.items()}
    add_contractor(opened.settings, "Marsh & Daughter", "us", ("Edda",))
    process = subprocess.Popen(
        [sys.executable, "-m", "amber_gable.cli", "serve", "--port", str(port)], env=os.environ | own, stdout=subprocess.DEVNULL
    )
    address = f"http://127.0.0.1:{port}"
    until = time.monotonic() + 30
    while time.monotonic() < until and process.poll() is None:
        with suppress(OSError):
            _ask(f"{address}/healthz")
            break
        time.sleep(0.1)
    yield address
    process.terminate()
    process.wait(timeout=60)


@pytest.mark.four
def test_two_contractors_two_processes_one_database(client: TestClient, opened, job, beside):
    rates.change_prices(opened, {"money.labour_per_h": 61.0})
    stock.add(opened, StockFacts("rivermark-exterior-satin", "#446655", 3.0, "", "our own van"), None)
    removal = jobs.remove(opened, job.id)
    listed = _ask(f"{beside}/jobs")
    assert "Marsh" in _ask(f"{beside}/settings")
    assert "Tollkeeper" not in listed, "neither jobs nor the undo of one that is gone"
    assert escape(removal) in client.get("/jobs").text
    other = jobs.list_jobs(opened)[0]
    for page in ("survey", "takeoff", "windows", "price", "rates", "truck"):
        assert _ask(f"{beside}/jobs/{other.id}/{page}") == ""
    bundle = client.get(f"/jobs/{other.id}/survey.json").text
    made = urllib.request.Request(f"{beside}/api/jobs", bundle.encode(), {"content-type": "application/json"})
    with urllib.request.urlopen(made, timeout=60) as answer:
        own = json.loads(answer.read())["job_id"]
    theirs = _ask(f"{beside}/jobs/{own}/rates")
    assert 'value="61' not in theirs
    assert client.get(f"/jobs/{own}/rates").status_code == 404
    # What one of them sets holds for it alone.
    _ask(f"{beside}/jobs/{own}/state", {"state": "resting"})
    assert other.name in _ask(f"{beside}/jobs?state=resting")
    assert jobs.counts(opened) == {"running": len(jobs.list_jobs(opened))}
    assert opened.knowledge.money.labour_per_h == 61.0

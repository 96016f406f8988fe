"""A survey leaves and comes back over HTTP, and what an edit changes on its page comes with the answer."""

import csv
import io
import json
import re
import xml.etree.ElementTree as ET

import pytest

from amber_gable.services.jobs import jobs
from tests.support.pages import HTMX, errors, send
from tests.support.surveys import path_of


def test_files_go_out(client, opened, job):
    schema = client.get("/api/schema/job-bundle.json").json()
    assert schema["properties"]["bundle_version"]["const"] == 1
    assert {"job", "building", "findings", "site_tests"} <= set(schema["properties"])
    bundle = client.get(path_of(job, "survey.json"))
    assert bundle.headers["content-disposition"] == 'attachment; filename="tollkeeper-s-house.json"'
    assert set(bundle.json()) == set(schema["properties"])
    ring = bundle.json()["building"]["elevations"][0]["outline"]["coordinates"][0]
    assert ring[0] == ring[-1], "closed, as GeoJSON has it"
    rows = list(csv.DictReader(io.StringIO(client.get(path_of(job, "surfaces.csv")).text)))
    assert len(rows) == sum(len(e.surfaces) for e in job.building.elevations)
    east = next(r for r in rows if r["surface"] == "East wall")
    assert (east["access"], east["profile_factor"], east["is_painted"]) == ("tower", "1.1111", "yes")
    drawing = ET.fromstring(client.get(path_of(job, "drawing.svg")).content)
    assert "10 ft" in {t.text for t in drawing.iter("{http://www.w3.org/2000/svg}text")}
    pdf = client.get(path_of(job, "drawing.pdf")).content
    assert pdf.startswith(b"%PDF-")
    assert len(pdf) > 20_000, "the drawing, the table and both fonts"


def test_a_bundle_is_read_in_by_form_and_by_api_or_not_at_all(client, opened, job):
    content = client.get(path_of(job, "survey.json")).content
    made = client.post("/api/jobs", content=content)
    assert made.status_code == 201
    assert jobs.whole(opened, made.json()["job_id"]).name == "Tollkeeper's House"
    form = {"hx-request": "true", "hx-trigger": "import"}
    sent = client.post("/jobs/import", files=[("bundle", ("house.json", content, "application/json"))], headers=form)
    assert sent.headers["hx-redirect"].endswith("/survey")
    count = len(jobs.list_jobs(opened))
    broken = json.loads(content)
    broken["building"]["blocks"][1]["parent"] = "nobody"
    broken["job"]["time_zone"] = "Heron/Ferry"
    refused = client.post("/api/jobs", json=broken)
    assert refused.status_code == 422
    assert {p["path"] for p in refused.json()["problems"]} == {"building.blocks.1.parent", "job.time_zone"}
    by_form = client.post("/jobs/import", files=[("bundle", ("x.json", json.dumps(broken).encode(), "application/json"))], headers=form)
    assert "2 to put right" in errors(by_form)["import-bundle"]
    assert "Choose a job bundle" in errors(client.post("/jobs/import", data={}, headers=form))["import-bundle"]
    assert len(jobs.list_jobs(opened)) == count


def test_a_quick_survey_over_http(client, opened):
    page = client.get("/quick").text
    assert 'value="43.8000"' in page, "it stands where the last job stands, until told otherwise"
    typed = {
        "name": "Miller's",
        "perimeter_m": "140'",
        "eaves_height_m": "18'",
        "storeys": "2",
        "gables": "2",
        "substrate": "wood-siding",
        "grade": "poor",
        "units": "us",
        "front_azimuth_deg": "180",
        "latitude_deg": "43.8",
        "longitude_deg": "-91.2",
        "altitude_m": "",
        "time_zone": "America/Chicago",
        "crew": "",
        "windows": "9",
        "doors": "1",
        "year_built": "",
    }
    bad = errors(send(client, "/quick", typed | {"perimeter_m": "4'", "windows": "lots", "grade": "grim"}, "q"))
    assert {"q-perimeter_m", "q-windows", "q-grade"} <= set(bad)
    priced = send(client, "/quick", typed).headers["hx-redirect"]
    assert "Paced and counted, not measured" in client.get(priced).text, "the answer is the price"
    made = priced.replace("/price", "/survey")
    text = client.get(made).text
    assert "quick: estimated, not measured" in text
    job_id = made.split("/")[-2]
    assert "Measurements: the building is estimated" in client.get(f"/jobs/{job_id}/survey/walk").text
    send(client, f"/jobs/{job_id}/measured", {})
    assert "quick: estimated" not in client.get(made).text


def marks(html: str) -> dict[str, str]:
    """What the page shows beside the heads of its cards, its headline, gates, stages and choices."""
    shown = {k: re.sub(r"<[^>]+>|\s+", " ", v).strip() for k, v in re.findall(r'<span id="(mark-\w+)"[^>]*>(.*?)</span>', html, re.S)}
    shown["head"] = re.sub(r"<[^>]+>|\s+", " ", re.search(r'id="page-head".*?</h1>', html, re.S)[0].split(">", 1)[1]).strip()
    shown["choices"] = re.findall(r'<option value="([^"]*)"', re.search(r'<select[^>]*id="finding-kind".*?</select>', html, re.S)[0])
    buttons = re.search(r'<div id="test-buttons".*?</div>\s*</div>|<div id="test-buttons".*?</div>', html, re.S)[0]
    shown["tests"] = re.findall(r"tests/([\w-]+)\"", buttons)
    shown["gates"] = re.findall(r'id="gate-(\w+)"', html)
    shown["done"] = html.count("is-done")
    shown["tint"] = re.findall(r'<svg class="mark-tint".*?fill="([^"]*)"', html, re.S)
    return shown


def edits(job, wall):
    surface = {"substrate": "stucco", "profile": "flat", "texture": "light-stucco", "lrv_pct": "", "hex": "#aabbcc", "is_painted": "on",
               "coating": "film-unknown", "surface_name": "Front", "version": str(wall.version)}  # fmt: skip
    opening = {"kind": "vent", "width_m": "1 ft", "height_m": "1 ft", "left_m": "1 ft", "sill_m": "16 ft"}
    return {
        "a surface": (f"surfaces/{wall.id}", surface | {"coating": "unknown"}),
        "an opening": (f"elevations/{wall.elevation_id}/openings", opening),
        "a finding": (f"elevations/{wall.elevation_id}/findings", {"kind": "peeling", "extent": "spots", "x_m": "3 ft", "y_m": "5 ft"}),
        "a test": (f"surfaces/{wall.id}/tests/rub", {"rating": "6"}),
        "a division": (f"elevations/{wall.elevation_id}/cuts", {"how": "level", "divide_at_m": "9 ft"}),
        "the access": (f"elevations/{wall.elevation_id}/access", {"ground": "soft", "ground_slope_pct": "30", "access": "lift"}),
    }


@pytest.mark.parametrize("name", ["a surface", "an opening", "a finding", "a test", "a division", "the access"])
def test_what_an_edit_changes_on_the_page_is_sent_with_its_answer(client, opened, job, surface_named, name):
    wall = surface_named("East wall")
    page = path_of(job, f"survey?at={wall.id}")
    before = marks(client.get(page).text)
    path, data = edits(job, wall)[name]
    answer = client.post(path_of(job, path), data=data, headers=HTMX | {"hx-current-url": f"http://testserver{page}"})
    assert answer.status_code == 200, answer.text[:300]
    after = marks(client.get(page).text)
    assert marks(answer.text) == after, "as a reload would show it"
    if name not in ("a test", "a division"):
        assert after != before

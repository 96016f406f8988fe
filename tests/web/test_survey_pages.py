"""The survey over HTTP: every part saves, refuses at the field with the place, and shows what was saved."""

import csv
import io
import json
import re
import xml.etree.ElementTree as ET

import pytest

from amber_gable.services import jobs
from amber_gable.services.survey.gates import gates_of
from tests.support.pages import HTMX, errors, send, stages
from tests.support.surveys import CLEARED, picture


@pytest.fixture
def again(opened, job):
    """Read the job anew."""
    return lambda: jobs.whole(opened, job.id)


def side(job, name):
    return next(e for e in job.building.elevations if e.name == name)


def path_of(job, rest: str) -> str:
    return f"/jobs/{job.id}/{rest}"


def test_every_part_of_the_survey_answers(client, job):
    for part in ("blocks", "items", "around", "gates", "walk", "facts", "files", "walk/around/year"):
        answer = client.get(path_of(job, f"survey/{part}"))
        assert answer.status_code == 200, part
        assert not re.search(r"\son\w+=|\sstyle=|<style|javascript:", answer.text), part
    assert client.get(path_of(job, "survey/walk/nowhere/year")).status_code == 404
    assert client.get(path_of(job, "survey/walk/go"), follow_redirects=False).status_code == 303
    for kind in ("wing", "lean-to", "porch", "dormer", "bay", "chimney", "deck", "nonsense"):
        assert "form" in client.get(path_of(job, f"survey/blocks/fields/{kind}")).text


def test_a_surface_or_elevation_in_the_address_is_the_one_shown(client, job):
    west = side(job, "West")
    for at in (west.id, west.surfaces[0].id):
        assert re.search(r'<h2 id="elevation-name">West ', client.get(path_of(job, f"survey?at={at}")).text)
    shown = client.get(path_of(job, f"survey?at={west.surfaces[1].id}&dims=1")).text
    assert '<span id="mark-name">West plinth</span>' in shown
    assert "dimension-word" in shown
    assert "most sun" in shown


WING = {
    "kind": "wing",
    "name": "",
    "side": "3",
    "from_left_m": "2'",
    "roof": "gable",
    "ridge_runs": "to back",
    "across_m": "12'",
    "projects_m": "10'",
    "eaves_height_m": "8'",
    "ridge_height_m": "11'",
    "overhang_m": "",
    "plinth_height_m": "",
}


def test_blocks_come_are_measured_again_and_go(client, job, again):
    house = next(b for b in job.building.blocks if b.kind == "house")
    wing = WING | {"parent": house.id}
    assert send(client, path_of(job, "blocks"), wing).headers["hx-redirect"].endswith("/survey/blocks")
    row = next(b for b in again().building.blocks if b.kind == "wing")
    assert (row.name, round(row.across_m, 4), row.deep_m) == ("Wing", 3.6576, row.projects_m)
    assert {"Wing north", "Wing east", "Wing west"} <= {e.name for e in again().building.elevations}
    bad = errors(send(client, path_of(job, "blocks"), wing | {"across_m": "wide", "ridge_height_m": "2'", "side": "9"}, "b"))
    assert {"b-across_m", "b-ridge_height_m", "b-side"} == set(bad)
    assert "Choose the block" in errors(send(client, path_of(job, "blocks"), wing | {"parent": "nobody"}, "b"))["b-parent"]
    changed = send(client, path_of(job, f"blocks/{row.id}"), wing | {"name": "Kitchen", "eaves_height_m": '20 x 4 1/2"', "version": "1"})
    assert changed.status_code == 200
    kitchen = next(b for b in again().building.blocks if b.id == row.id)
    assert (kitchen.name, kitchen.eaves_height_m) == ("Kitchen", pytest.approx(20 * 4.5 * 0.0254))
    stale = errors(send(client, path_of(job, f"blocks/{row.id}"), wing | {"name": "Scullery", "version": "1"}, "b"))
    assert "Somebody changed this" in stale["b-form"]
    assert "stands against it" in errors(send(client, path_of(job, f"blocks/{house.id}/remove"), {}, "b"))["b-form"]
    send(client, path_of(job, f"blocks/{row.id}/remove"), {})
    assert not any(e.name.startswith(("Wing", "Kitchen")) for e in again().building.elevations)


def test_a_wall_stands_alone_by_shapes_or_by_corners(client, job, again):
    shapes = {
        "name": "Garden wall",
        "azimuth_deg": "90",
        "width_m": "20'",
        "height_m": "6'",
        "gable_rise_m": "",
        "side_rise_m": "2'",
        "corners": "",
    }
    send(client, path_of(job, "alone"), shapes)
    wall = side(again(), "Garden wall")
    assert wall.outline == [[0, 0], [6.096, 0], [6.096, 2.4384], [0, 1.8288]]
    assert wall.surfaces[0].is_painted
    corners = {"name": "Garden wall", "azimuth_deg": "90", "corners": "0', 0'\n20', 0'\n20', 7'\n0', 7'", "version": str(wall.version)}
    assert send(client, path_of(job, f"alone/{wall.id}"), corners).status_code == 200
    crossing = corners | {"corners": "0', 0'; 20', 7'; 20', 0'; 0', 7'", "version": ""}
    answer = send(client, path_of(job, f"alone/{wall.id}"), crossing, "a")
    assert "crosses itself" in errors(answer)["a-corners"]
    assert json.loads(answer.headers["hx-trigger"])["fault-at"]["spots"][-1]["point"]
    assert "not a corner" in errors(send(client, path_of(job, "alone"), corners | {"corners": "20'"}, "a"))["a-corners"]
    assert "Cannot read" in errors(send(client, path_of(job, "alone"), corners | {"corners": "0', 0'; 20', x; 1', 1'"}, "a"))["a-corners"]
    assert "Give it a name" in errors(send(client, path_of(job, "alone"), shapes | {"name": ""}, "a"))["a-name"]
    # It takes part in everything that follows.
    assert "Garden wall" in client.get(path_of(job, "windows")).text
    assert "Garden wall" in client.get(path_of(job, "takeoff")).text
    send(client, path_of(job, f"alone/{wall.id}/remove"), {})
    assert "Garden wall" not in {e.name for e in again().building.elevations}


WINDOW = {
    "kind": "casement-window",
    "width_m": "2'",
    "height_m": "2'",
    "left_m": "1'",
    "sill_m": "8'",
    "panes_across": "2",
    "panes_up": "1",
}


def test_openings_are_changed_copied_repeated_and_mirrored(client, job, again):
    west = side(job, "West")
    here = path_of(job, f"elevations/{west.id}")
    assert send(client, f"{here}/openings", WINDOW).status_code == 200
    made = next(o for o in side(again(), "West").openings if o.kind == "casement-window")
    card = client.get(path_of(job, f"openings/{made.id}")).text
    assert "Copy along" in card
    assert 'value="8&#39;"' in card
    assert send(client, path_of(job, f"openings/{made.id}/copies"), {"count": "2", "apart_m": "3'"}).status_code == 200
    assert sum(o.kind == "casement-window" for o in side(again(), "West").openings) == 3
    over = send(client, path_of(job, f"openings/{made.id}/copies"), {"count": "1", "apart_m": "1'"}, "c")
    assert "would overlap" in errors(over)["c-apart_m"]
    beyond = send(client, path_of(job, f"openings/{made.id}/copies"), {"count": "30", "apart_m": "3'"}, "c")
    assert errors(beyond)
    assert json.loads(beyond.headers["hx-trigger"])["fault-at"]["spots"][0]["elevation"] == west.id
    assert sum(o.kind == "casement-window" for o in side(again(), "West").openings) == 3, "none is made where one does not fit"
    moved = WINDOW | {"left_m": "1' 6\"", "moves": "painted-shut", "version": str(made.version)}
    assert "painted shut" in send(client, path_of(job, f"openings/{made.id}"), moved).text
    none = errors(send(client, f"{here}/storey", {"sill_from_m": "30'", "sill_to_m": "31'", "rise_m": "9'"}, "s"))
    assert "No window has its sill" in none["s-sill_from_m"]
    north = side(job, "North gable")
    assert (
        "no openings to mirror"
        in errors(send(client, f"{here}/mirror", {"from_elevation_id": side(job, "East roof").id}, "m"))["m-from_elevation_id"]
    )
    roof = side(job, "West roof")
    assert send(client, path_of(job, f"elevations/{roof.id}/mirror"), {"from_elevation_id": north.id}).status_code == 200
    assert len(side(again(), "West roof").openings) == 2


def test_surfaces_take_their_own_profile_and_colours(client, job, again):
    wall = side(job, "West").surfaces[0]
    facts = {
        "substrate": "wood-siding",
        "profile": "lap",
        "texture": "smooth",
        "lrv_pct": "",
        "hex": "#C0A060",
        "coating": "acrylic",
        "coated_year": "2014",
        "old_lrv_pct": "40",
        "old_hex": "",
        "exposure_mm": "6",
        "butt_mm": "0.5 in",
        "is_painted": "on",
        "surface_name": "Garden side",
    }
    saved = send(client, path_of(job, f"surfaces/{wall.id}"), facts)
    assert "Profile factor 1.083" in saved.text
    row = next(s for s in side(again(), "West").surfaces if s.id == wall.id)
    assert (row.profile_mm, row.hex, row.name, row.is_named) == ({"exposure_mm": 152.4, "butt_mm": 12.7}, "#c0a060", "Garden side", True)
    assert row.lrv_pct == pytest.approx(37.3, abs=0.5)
    for change, field, words in (
        ({"hex": "ochre"}, "hex", "six digits"),
        ({"exposure_mm": "0"}, "exposure_mm", "above 0"),
        ({"coated_year": "20x"}, "coated_year", "year"),
        ({"old_lrv_pct": "400"}, "old_lrv_pct", "0 (black)"),
        ({"butt_mm": ""}, "butt_mm", "Give the butt"),
        ({"coating": "tar"}, "coating", "list"),
    ):
        assert words in errors(send(client, path_of(job, f"surfaces/{wall.id}"), facts | change, "s"))[f"s-{field}"]
    # A new profile leaves the old one's dimensions behind.
    assert send(client, path_of(job, f"surfaces/{wall.id}"), facts | {"profile": "flat"}).status_code == 200
    assert next(s for s in side(again(), "West").surfaces if s.id == wall.id).profile_mm == {}
    assert send(client, path_of(job, f"surfaces/{wall.id}/alike"), {}).status_code == 200
    assert {s.profile for e in again().building.elevations for s in e.surfaces if s.kind in ("wall", "gable")} == {"flat"}


def test_divisions_drawn_in_metres_or_typed_in_feet(client, job, again):
    west = side(job, "West")
    here = path_of(job, f"elevations/{west.id}/cuts")
    assert send(client, here, {"drawn": "1", "points": "-0.1, 3.0;12, 3.05"}).status_code == 200
    assert send(client, here, {"points": "2', 3'\n6', 3'\n6', 6'\n2', 6'"}).status_code == 200
    assert send(client, here, {"how": "upright", "divide_at_m": "20'"}).status_code == 200
    divided = side(again(), "West")
    assert len(divided.cuts) == 3
    assert len([s for s in divided.surfaces if s.kind == "wall"]) == 4
    assert "Fill this in" in errors(send(client, here, {"how": "level", "divide_at_m": ""}, "d"))["d-divide_at_m"]
    missed = send(client, here, {"drawn": "1", "points": "30, 1;31, 2"}, "d")
    assert "misses the wall" in errors(missed)["d-points"]
    for _ in range(3):
        assert send(client, f"{here}/0/remove", {}).status_code == 200
    assert [s.kind for s in side(again(), "West").surfaces if s.opening_id is None] == ["wall", "plinth"]
    assert send(client, f"{here}/0/remove", {}).status_code == 404


def test_a_finding_with_photographs_and_the_owners_acknowledgement(client, job):
    west = side(job, "West")
    here = path_of(job, f"elevations/{west.id}/findings")
    pin = {"kind": "leak", "extent": "spots", "x_m": "3.2 m", "y_m": "6'", "depth_mm": '1/8"', "note": "Below the gutter joint"}
    files = [("photo", ("a.jpg", picture((640, 480), place=True), "image/jpeg")), ("photo", ("b.png", picture(form="PNG"), "image/png"))]
    answer = client.post(here, data=pin, files=files, headers={"hx-request": "true", "hx-trigger": "finding"})
    assert answer.status_code == 200
    shown = re.findall(r'src="(http://testserver/jobs/[^"]+/small)"', answer.text)
    assert len(shown) >= 2
    sent = client.get(shown[-1])
    assert (sent.status_code, sent.headers["content-type"]) == (200, "image/jpeg")
    assert b"Exif" not in sent.content
    finding_id = re.findall(r'id="finding-([\w-]{36})"', answer.text)[-1]
    assert (
        "write the name"
        in errors(send(client, path_of(job, f"findings/{finding_id}/acknowledged"), {"acknowledged_by": " "}, "k"))[
            "k-acknowledged_by"
        ].lower()
    )
    assert (
        "Acknowledged by The heir"
        in send(client, path_of(job, f"findings/{finding_id}/acknowledged"), {"acknowledged_by": "The heir"}).text
    )
    for change, field in (
        ({"kind": "ghosts"}, "kind"),
        ({"extent": "all"}, "extent"),
        ({"x_m": "90 m"}, "x_m"),
        ({"depth_mm": "9 m"}, "depth_mm"),
    ):
        assert f"f-{field}" in errors(send(client, here, pin | change, "f"))
    bad = client.post(
        here, data=pin, files=[("photo", ("x.jpg", b"no picture", "image/jpeg"))], headers={"hx-request": "true", "hx-trigger": "f"}
    )
    assert "no photograph we can read" in errors(bad)["f-photo"]
    moved = send(client, path_of(job, f"findings/{finding_id}"), pin | {"x_m": "1 m", "note": "Above"})
    assert "Above" in moved.text
    gone = send(client, path_of(job, f"findings/{finding_id}/remove"), {})
    assert f"finding-{finding_id}" not in gone.text
    assert client.get(path_of(job, "photos/none/small")).status_code == 404


def test_a_test_card_guides_judges_and_keeps(client, job):
    wall = side(job, "West").surfaces[0]
    card = client.get(path_of(job, f"surfaces/{wall.id}/tests/moisture")).text
    assert "Press the pins in along the grain" in card
    here = path_of(job, f"surfaces/{wall.id}/tests/moisture")
    answer = send(client, here, {"readings_pct": "12 13,5 17.2%", "painter": "Ines"})
    assert "worst 17.2 %, mean 14.2 % of 3" in answer.text
    assert "is not a number" in errors(send(client, here, {"readings_pct": "12 wet"}, "t"))["t-readings_pct"]
    assert "is not a reading" in errors(send(client, here, {"readings_pct": "12 170"}, "t"))["t-readings_pct"]
    assert "Write down a number" in errors(send(client, here.replace("moisture", "rub"), {"rating": ""}, "t"))["t-rating"]
    assert "Choose one" in errors(send(client, here.replace("moisture", "tape-pull"), {"fibres": ""}, "t"))["t-fibres"]
    test_id = re.findall(r"/tests/([\w-]{36})/remove", answer.text)[0]
    assert test_id not in send(client, path_of(job, f"tests/{test_id}/remove"), {"at": wall.id}).text


def test_what_stands_round_the_house(client, job, again):
    here = path_of(job, "features")
    tree = {"kind": "tree", "elevation_id": "", "distance_m": "30'", "shade_from_deg": "80", "shade_to_deg": "110", "shade_up_to_deg": "",
            "height_m": "40'", "note": "Linden"}  # fmt: skip
    send(client, here, tree)
    linden = next(f for f in again().features if f.note == "Linden")
    # 40 ft less eye height over 30 ft.
    assert linden.shade_up_to_deg == pytest.approx(49.4, abs=0.5)
    assert {"f-shade_from_deg", "f-shade_up_to_deg"} <= set(errors(send(client, here, tree | {"shade_from_deg": "", "height_m": ""}, "f")))
    assert "how near" in errors(send(client, here, {"kind": "power-line", "distance_m": ""}, "f"))["f-distance_m"]
    send(client, here, {"kind": "power-line", "distance_m": "8'", "elevation_id": side(job, "West").id})
    assert "1 thing too near" in client.get(path_of(job, "survey/around")).text
    card = client.get(path_of(job, f"survey?at={side(job, 'West').id}")).text
    assert "Power line 8 ft away" in card
    send(client, path_of(job, f"features/{linden.id}/remove"), {})
    assert not any(f.note == "Linden" for f in again().features)


def test_access_follows_ground_and_choice(client, job, again):
    west = side(job, "West")
    here = path_of(job, f"elevations/{west.id}/access")
    assert "Extension ladder" in send(client, here, {"ground": "soft", "ground_slope_pct": "4", "access": ""}).text
    assert "Tower" in send(client, here, {"ground": "paved", "ground_slope_pct": "", "access": ""}).text
    assert {"a-ground"} <= set(errors(send(client, here, {"ground": "lava", "access": ""}, "a")))
    assert "a-ground_slope_pct" in errors(send(client, here, {"ground": "firm", "ground_slope_pct": "steep"}, "a"))
    send(client, here, {"ground": "firm", "ground_slope_pct": "0", "access": "lift"})
    assert side(again(), "West").access == "lift"


def test_gates_stand_in_every_stage_until_they_are_cleared(client, opened, job, again):
    for path in stages(job):
        assert "Preparation cannot start" in client.get(path).text, path
    start_page = client.get("/").text
    assert "7 parts not cleared" in start_page
    tollkeepers = start_page.split('class="morning-job"')[1]
    assert "no sanding or scraping, lead not cleared" in tollkeepers
    assert "sand what is dry" not in tollkeepers
    here = path_of(job, "clearances")
    assert "c-tester" in errors(
        send(client, here, {"hazard": "lead", "basis": "test", "surface_id": side(job, "West").surfaces[0].id}, "c")
    )
    for part in gates_of(opened, job)[0].open_components:
        assert send(client, here, CLEARED | {"hazard": "lead", "basis": "test", "surface_id": part}).status_code == 200
    assert "Lead: cleared" in client.get(path_of(job, "survey/gates")).text
    for path in stages(job):
        assert "Preparation cannot start" not in client.get(path).text, path
    record = re.findall(r"clearances/([\w-]{36})/remove", client.get(path_of(job, "survey/gates")).text)[0]
    send(client, path_of(job, f"clearances/{record}/remove"), {})
    assert "Preparation cannot start" in client.get(path_of(job, "windows")).text
    under = {
        "hazard": "lead",
        "basis": "works-under",
        "certificate": "FR-12",
        "notice": "Handed over 1 Sep",
        "containment": "Sheets, HEPA, tape",
    }
    send(client, here, under)
    assert "Worked under the rules on record" in client.get(path_of(job, "windows")).text


def test_the_walk_over_http(client, job):
    west = side(job, "West").id
    asked = path_of(job, f"survey/walk/{west}/ground")
    assert "Where will the ladder stand?" in client.get(asked).text
    went_on = send(client, asked, {"answer": "soft"})
    assert "/survey/walk/" in went_on.headers["hx-redirect"]
    assert "is-given" in client.get(asked).text
    assert "Choose one" in errors(send(client, asked, {"answer": "quicksand"}, "q"))["q-answer"]
    assert "Choose one" in errors(send(client, asked, {}, "q"))["q-answer"]


def test_items_over_http(client, job, again):
    send(client, path_of(job, "items"), {"kind": "post", "item_name": "Gate posts", "length_m": "5'", "girth_m": "1' 4\"", "count": "3"})
    posts = next(i for i in again().building.items if i.name == "Gate posts")
    assert posts.count == 3
    assert {"i-length_m", "i-girth_m"} <= set(
        errors(send(client, path_of(job, "items"), {"kind": "post", "length_m": "x", "girth_m": ""}, "i"))
    )
    assert "i-kind" in errors(send(client, path_of(job, "items"), {"kind": "turret", "length_m": "1'", "girth_m": "1'"}, "i"))
    fascia = next(i for i in again().building.items if i.kind == "fascia")
    send(client, path_of(job, f"items/{fascia.id}"), {"girth_m": '9"', "version": str(fascia.version)})
    changed = next(i for i in again().building.items if i.id == fascia.id)
    assert (changed.girth_m, changed.is_painted) == (pytest.approx(9 * 0.0254), False)
    assert "follows from the blocks" in errors(send(client, path_of(job, f"items/{fascia.id}/remove"), {}, "i"))["i-form"]
    send(client, path_of(job, f"items/{posts.id}/remove"), {})
    assert not any(i.name == "Gate posts" for i in again().building.items)


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
    made = send(client, "/quick", typed).headers["hx-redirect"]
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

"""The survey over HTTP: every part saves, refuses at the field with the place, and shows what was saved."""

import json
import re

import pytest

from amber_gable.services.survey.evidence import findings
from tests.support.pages import errors, send
from tests.support.surveys import path_of, side


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
        ({"coated_year": "2031"}, "coated_year", "has not come yet"),
        ({"surface_name": ""}, "surface_name", "keeps a name"),
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


def test_a_finding_is_measured_from_the_surface_that_was_chosen(client, opened, job):
    """Two feet up from the foot of the gable top; and all of a surface needs no place at all."""
    gable = next(e for e in job.building.elevations if e.name == "North gable")
    top = next(s for s in gable.surfaces if s.kind == "gable")
    at = path_of(job, f"elevations/{gable.id}/findings")
    typed = {"kind": "peeling", "extent": "spots", "x_m": "13 ft", "y_m": "2 ft", "on_surface": top.id}
    assert send(client, at, typed).status_code == 200
    assert send(client, at, {"kind": "mildew", "extent": "all", "x_m": "", "y_m": "", "on_surface": top.id}).status_code == 200
    measured, whole = findings.findings_of(opened, job.id)[-2:]
    # Eaves at 18 1/2 ft: the gable top stands on them.
    assert (measured.surface_id, measured.y_m) == (top.id, pytest.approx(20.5 * 0.3048, abs=0.01))
    assert (whole.surface_id, whole.extent) == (top.id, "all")
    # A tap says its place on the whole side.
    assert send(client, at, typed | {"y_m": "20 ft", "on_surface": ""}).status_code == 200
    assert findings.findings_of(opened, job.id)[-1].y_m == pytest.approx(20 * 0.3048)
    assert "x_m" in str(errors(send(client, at, typed | {"x_m": ""})))

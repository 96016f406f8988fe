"""What is found on a house, over HTTP: findings, tests, what stands round it, the way up, gates, the walk."""

import re

import pytest

from amber_gable.services.survey.evidence.gates import gates_of
from tests.support.pages import errors, send, stages
from tests.support.surveys import CLEARED, path_of, picture, side


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
        ({"extent": "most"}, "extent"),
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


@pytest.mark.takes(5)
def test_gates_stand_in_every_stage_until_they_are_cleared(client, opened, job, again):
    for path in stages(job):
        assert "Preparation cannot start" in client.get(path).text, path
    start_page = client.get("/").text
    assert "3 parts not cleared" in start_page
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

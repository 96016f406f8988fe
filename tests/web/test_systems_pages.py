"""Systems over HTTP: every part answers, schools and changes by hand are taken or refused at their fields."""

import html
import io
import re

import pytest
from pypdf import PdfReader
from sqlalchemy import text

from amber_gable.services.jobs import jobs
from amber_gable.services.systems.cards import hazards_of
from amber_gable.services.systems.specs import schools_of, specs_of
from tests.support.pages import errors, send


@pytest.mark.parametrize("part", ["", "/schools", "/colours", "/samples", "/shelf", "/strokes", "/cards", "/limits"])
def test_every_part_of_systems_answers_for_every_job(client, opened, part):
    for job in jobs.list_jobs(opened):
        answer = client.get(f"/jobs/{job.id}/systems{part}")
        assert answer.status_code == 200
        assert "label" in answer.text.lower()


def test_each_part_can_be_looked_at_and_one_that_is_gone_says_so(client, opened, job):
    for spec in specs_of(opened, job):
        text = client.get(f"/jobs/{job.id}/systems?part={spec.part.key}").text
        for step in spec.system.steps:
            assert step.label in text
            assert step.reasons[0].why in text
    assert client.get(f"/jobs/{job.id}/systems?part=nowhere").status_code == 404


def test_a_school_over_http(client, opened, job):
    address = f"/jobs/{job.id}/systems/schools/washing"
    assert "would change" in client.get(f"{address}?option=soft").text
    assert client.get(f"{address}?option=never").status_code == 422
    assert send(client, address, {"option": "soft", "for": "job"}).headers["hx-redirect"].endswith("/schools")
    assert schools_of(opened, jobs.whole(opened, job.id)) == {"washing": "soft"}
    send(client, address, {"option": "pressure", "for": "all"})
    assert schools_of(opened, jobs.whole(opened, job.id)) == {"washing": "pressure"}
    assert send(client, address, {"option": "never", "for": "job"}).status_code == 422


def test_the_label_form_keeps_schools(client, opened, job):
    send(client, f"/jobs/{job.id}/systems/schools/washing", {"option": "soft", "for": "job"})
    rules = {
        "product": "", "method": "brush", "access": "tower", "sun_rule": "shade", "max_rain_probability_pct": "20", "coats": "",
        "painters": "1", "day_starts_h": "8", "day_ends_h": "17",
    }  # fmt: skip
    assert send(client, f"/jobs/{job.id}/rules", rules).headers["hx-redirect"].endswith("/limits")
    again = jobs.rules_of(jobs.whole(opened, job.id))
    assert (again.method, again.coats, again.schools) == ("brush", None, {"washing": "soft"})


def test_wishes_and_changes_by_hand_over_http(client, opened, job):
    wall = next(s for s in specs_of(opened, job) if s.part.name == "East wall").part.key
    base = f"/jobs/{job.id}/systems/parts/{wall}"
    assert "Choose from the list" in errors(send(client, f"{base}/wanted", {"wanted": "tar"}, "w"))["w-wanted"]
    send(client, f"{base}/wanted", {"wanted": "trim-enamel"})
    assert "what to change" in errors(send(client, f"{base}/edits", {"op": "sing"}, "e"))["e-op"]
    assert "not there" in errors(send(client, f"{base}/edits", {"op": "drop", "step": "strip"}, "e"))["e-step"]
    assert send(client, f"{base}/edits", {"op": "drop", "step": "caulk", "note": "new"}).headers["hx-redirect"]
    text = client.get(f"/jobs/{job.id}/systems?part={wall}").text
    assert "Caulk joints was dropped" in text
    assert send(client, f"{base}/edits/0/forget", {}).headers["hx-redirect"]
    assert send(client, f"{base}/edits/7/forget", {}).status_code == 404
    assert "Caulk joints was dropped" not in client.get(f"/jobs/{job.id}/systems?part={wall}").text


def test_a_brush_out_and_a_patch_over_http(client, opened, job):
    wall = next(s for s in specs_of(opened, job) if s.part.name == "East wall").part.key
    address = f"/jobs/{job.id}/systems/samples"
    given = {"kind": "brush-out", "part": wall, "made_on": "2026-09-14", "code": "RM 214", "sheen": "satin", "base": "deep", "batch": ""}
    assert "the batch" in errors(send(client, address, given, "sample"))["sample-batch"]
    assert send(client, address, given | {"batch": "B-7"}).headers["hx-redirect"]
    page = client.get(address).text
    assert "of 5 colours not approved" in page
    row = re.search(r"samples/([\w-]+)/result", page)[1]
    assert "owner's name" in html.unescape(errors(send(client, f"{address}/{row}/result", {"result": "approved"}, "r"))["r-signed_by"])
    send(client, f"{address}/{row}/result", {"result": "approved", "signed_by": "The heir"})
    page = client.get(address).text
    assert "4 of 5 colours not approved" in page
    assert "approved by The heir" in page
    assert "Signed: The heir" in page
    patch = {"kind": "test-patch", "part": wall, "made_on": "2026-09-14", "due_on": "2026-09-15"}
    assert "7 to 14 days" in errors(send(client, address, patch, "sample"))["sample-due_on"]
    assert send(client, f"{address}/{row}/remove", {}).headers["hx-redirect"]


def test_sheets_go_out_and_come_in_over_http(client, opened, job):
    address = f"/jobs/{job.id}/systems/shelf"
    assert "Choose a file" in errors(send(client, address, {}, "shelf-file"))["shelf-file-file"]
    assert client.get("/shelf/wine.csv").status_code == 404
    text = client.get("/shelf/coatings.csv").text
    assert client.get("/shelf/shelf.json").json()["shelf_version"] == 1
    assert client.get("/shelf/sundries.csv").text.startswith("key,name,family")

    def sent(content: str, **more):
        headers = {"hx-request": "true", "hx-trigger": "shelf-file", "origin": "http://testserver"}
        return client.post(address, data=more, files={"file": ("shelf.csv", content)}, headers=headers)

    assert "all 40 rows are as the shelf has them" in sent(text).text
    bad = text.replace("62.00", "free", 1).replace("Rivermark Exterior Flat", "Mill House Flat", 1)
    refused = sent(bad)
    assert refused.status_code == 422
    assert "Nothing was taken: 1 row at fault, 39 good" in refused.text
    assert re.search(r"<td>2</td><td>rivermark-exterior-satin</td><td>sizes must read like", refused.text)
    assert "1 changed" in sent(bad, leaves_faulty="on").text
    shelf = client.get(address).text
    assert "Mill House Flat" in shelf
    assert "Back to the shipped sheet" in shelf
    row = re.search(r"/systems/shelf/([\w-]+)/forget", shelf).group(1)
    assert send(client, f"{address}/{row}/forget", {}).headers["hx-redirect"].endswith("/shelf")
    assert "<strong>Mill House Flat" not in client.get(address).text
    assert send(client, f"{address}/{row}/forget", {}).status_code in (404, 422)


def test_colours_and_candidates_over_http(client, opened, job):
    address = f"/jobs/{job.id}/systems/colours"
    page = client.get(address).text
    assert "5 zones, every one with its colour" in page
    for light in ("now", "morning", "noon", "evening", "midnight"):
        assert client.get(f"{address}?light={light}").status_code == 200
    body = f"{address}/body-ca8a34"
    assert "six digits" in errors(send(client, body, {"hex": "ochre"}, "zone-colour"))["zone-colour-hex"]
    assert "six digits" in errors(send(client, body, {}, "zone-colour"))["zone-colour-hex"]
    full = errors(send(client, f"{body}/candidates", {"code": "", "hex": "#zzz"}, "candidate"))
    assert set(full) == {"candidate-code", "candidate-hex"}
    send(client, f"{body}/candidates", {"code": "Kiln", "hex": "#b0602a"})
    assert "Kiln" in client.get(address).text
    taken = send(client, body, {"hex": "#B0602A"})
    assert taken.headers["hx-redirect"].endswith("zone=body-b0602a")
    assert client.get(taken.headers["hx-redirect"]).status_code == 200
    # The old address is gone with the old colour, and says so.
    assert send(client, body, {"hex": "#ffffff"}).status_code in (404, 422)
    assert client.get(f"{address}?zone=body-ca8a34").status_code == 404
    row = re.search(r"/candidates/([\w-]+)/remove", client.get(address).text).group(1)
    assert send(client, f"{address}/body-b0602a/candidates/{row}/remove", {}).headers["hx-redirect"]


def test_the_brush_outs_page_needs_no_forecast(client, opened, job):
    opened.weather.base_url = "http://127.0.0.1:9"
    with opened.writing() as session:
        session.execute(text("DELETE FROM forecast_issues"))
    assert client.get(f"/jobs/{job.id}/systems/samples").status_code == 200
    assert client.get(f"/jobs/{job.id}/systems/colours").status_code == 200


def test_silica_is_opened_by_equipment_on_record(client, opened):
    cottage = next(j for j in jobs.list_jobs(opened) if j.name == "Quarry Lane 9")
    gates = f"/jobs/{cottage.id}/survey/gates"
    assert "Silica: 1 part not cleared" in client.get(gates).text
    assert "Grinding cannot start" in client.get(f"/jobs/{cottage.id}/systems").text
    record = {"hazard": "silica", "basis": "works-under", "shroud": "Grinder 1, its shroud on", "vacuum": "M class"}
    refused = errors(send(client, f"/jobs/{cottage.id}/clearances", record, "clear-silica"))
    assert set(refused) == {"clear-silica-respirator", "clear-silica-checked_by"}
    tested = {**record, "basis": "test", "surface_id": ""}
    assert "No test clears silica" in errors(send(client, f"/jobs/{cottage.id}/clearances", tested, "c"))["c-basis"]
    send(client, f"/jobs/{cottage.id}/clearances", record | {"respirator": "Tobias, half mask P3", "checked_by": "Marlow"})
    assert "Silica: worked under the rules" in client.get(gates).text
    assert "Grinding cannot start" not in client.get(f"/jobs/{cottage.id}/systems").text


@pytest.mark.parametrize("number", [2, *(pytest.param(n, marks=pytest.mark.slow) for n in (0, 1, 3))])
def test_the_safety_card_on_paper_says_what_the_page_says(client, opened, number):
    whole = jobs.whole(opened, jobs.list_jobs(opened)[number].id)
    hazards = hazards_of(specs_of(opened, whole), opened.knowledge)
    answer = client.get(f"/jobs/{whole.id}/systems/cards.pdf")
    assert answer.headers["content-type"] == "application/pdf"
    said = " ".join(" ".join(p.extract_text() for p in PdfReader(io.BytesIO(answer.content)).pages).split())
    page = html.unescape(client.get(f"/jobs/{whole.id}/systems/cards").text)
    for hazard in hazards:
        assert hazard.caution.label in said
        assert hazard.caution.label in page
    assert "licensed professionals come first" in said
    assert whole.name in said

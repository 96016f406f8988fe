"""A form that is sent twice is taken once: two quick clicks, a lost answer, another day. And two people at one form see both values."""

import re
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from fastapi.testclient import TestClient

from amber_gable.services.changes import sentforms
from amber_gable.services.jobs import jobs
from amber_gable.store.models import SentForm
from amber_gable.web.app import create_app
from tests.support.pages import HTMX, errors, send
from tests.support.records import everything
from tests.web.test_pages import NEW_JOB

pytestmark = pytest.mark.small

KEY = "a-key-of-a-form-1"


def count(opened) -> int:
    return len(jobs.list_jobs(opened))


def rows(opened) -> list[SentForm]:
    with opened.reading() as session:
        return list(session.query(SentForm))


def test_two_quick_clicks_on_draw_the_house_make_one_job(client, opened):
    before = count(opened)

    def click(_):
        return client.post("/jobs", data=NEW_JOB | {"form_key": KEY}, headers=HTMX)

    with ThreadPoolExecutor(4) as pool:
        answers = list(pool.map(click, range(4)))
    assert count(opened) == before + 1
    assert {a.headers["hx-redirect"] for a in answers} == {answers[0].headers["hx-redirect"]}, "each click gets the same answer"


CREATES = {
    "/jobs/{job}/features": {"kind": "plants", "note": "roses", "elevation_id": ""},
    "/jobs/{job}/price/extras": {"what": "Two boards", "unit_price": "board", "quantity": "10 ft"},
    "/jobs/{job}/takeoff/stock": {"product": "rivermark-exterior-satin", "litres": "2 gal"},
    "/jobs/{job}/items": {"kind": "window-trim", "length_m": "10 ft", "girth_m": "4 in"},
    "/jobs/{job}/schedule": {},
    "/quick": NEW_JOB | {"perimeter_m": "140 ft", "storeys": "2", "gables": "2", "substrate": "wood-siding", "grade": "fair"},
}


def test_a_form_that_the_browser_brought_back_is_taken_with_what_was_typed_since(client, opened):
    """Back, another name, sent again: the page has its old key, and it is another house."""
    before = count(opened)
    first, other, again = (
        client.post("/jobs", data=NEW_JOB | {"form_key": KEY, "name": name}, headers=HTMX).headers["hx-redirect"]
        for name in ("Gate Cottage", "Gate Barn", "Gate Cottage")
    )
    assert count(opened) == before + 2
    assert first == again != other
    head = {"idempotency-key": KEY}
    for path in ("/jobs", "/quick"):
        # The same key at another address is another form.
        assert client.post(path, data={"name": ""}, headers=HTMX | head).status_code == 422


@pytest.mark.parametrize("path", CREATES)
def test_any_form_sent_again_changes_nothing_and_answers_the_same(client, opened, job, path):
    where = path.format(job=job.id)
    first = client.post(where, data=CREATES[path] | {"form_key": KEY}, headers=HTMX)
    assert first.status_code == 200, first.text[:300]
    after = everything(opened)
    again = client.post(where, data=CREATES[path] | {"form_key": KEY}, headers=HTMX)
    assert everything(opened) == after
    assert (again.status_code, again.headers.get("hx-redirect")) == (200, first.headers.get("hx-redirect"))
    other = client.post(where, data=CREATES[path] | {"form_key": KEY + "-2"}, headers=HTMX)
    assert other.status_code == 200, "another key is another form"


def test_a_form_that_was_refused_may_be_put_right_with_the_same_key(client, opened):
    before = count(opened)
    assert "the-form-name" in errors(send(client, "/jobs", NEW_JOB | {"name": "", "form_key": KEY}))
    assert rows(opened) == []
    assert send(client, "/jobs", NEW_JOB | {"form_key": KEY}).headers["hx-redirect"]
    assert count(opened) == before + 1


def test_an_answer_that_was_lost_is_given_by_another_process(client, opened):
    first = client.post("/jobs", data=NEW_JOB | {"form_key": KEY}, headers=HTMX)
    with opened.writing() as session:
        # As if the process had died between the change and its answer.
        row = session.query(SentForm).one()
        row.answer = {"job_id": row.answer["job_id"]}
    other = TestClient(create_app(running=opened.app), raise_server_exceptions=False)
    again = other.post("/jobs", data=NEW_JOB | {"form_key": KEY}, headers=HTMX)
    assert again.headers["hx-redirect"].split("/")[-2] == first.headers["hx-redirect"].split("/")[-2], "to the job that was made"


@pytest.mark.four
def test_an_import_by_the_api_is_taken_once_by_its_header(client, opened, job):
    bundle = client.get(f"/jobs/{job.id}/survey.json").content
    head = {"idempotency-key": KEY}
    first, again = (client.post("/api/jobs", content=bundle, headers=head) for _ in range(2))
    assert first.json() == again.json()
    assert count(opened) == 5


def test_keys_are_forgotten_after_days(client, opened):
    client.post("/jobs", data=NEW_JOB | {"form_key": KEY}, headers=HTMX)
    assert sentforms.forget_old(opened.app) == 0
    opened.clock.set(opened.clock.now() + sentforms.KEPT_FOR + timedelta(hours=1))
    assert sentforms.forget_old(opened.app) == 1


def fields_of(client, path: str, form: str) -> dict[str, str]:
    """The fields of one form as a browser would send them."""
    page = client.get(path).text
    html = re.search(rf'<form[^>]*id="{form}".*?</form>', page, re.S)[0]
    out = {}
    for tag in re.findall(r"<input[^>]*>", html):
        if 'type="checkbox"' in tag and " checked" not in tag:
            continue
        if name := re.search(r'name="([^"]*)"', tag):
            value = re.search(r'value="([^"]*)"', tag)
            out[name[1]] = value[1].replace("&#34;", '"').replace("&#39;", "'") if value else "on"
    for name, body in re.findall(r'<select[^>]*name="([^"]*)".*?>(.*?)</select>', html, re.S):
        chosen = re.search(r'value="([^"]*)" selected', body)
        out[name] = chosen[1] if chosen else re.search(r'value="([^"]*)"', body)[1]
    return out


def told(answer) -> dict[str, str]:
    """What each field is told, with its markup."""
    assert answer.status_code == 422
    return dict(re.findall(r'<p id="([\w.-]+)-error"[^>]*>(.*?)</p>', answer.text, re.S))


def test_two_people_at_one_form_see_both_values_and_either_can_be_kept(client, opened, job, surface_named):
    wall = surface_named("East wall")
    path, form = f"/jobs/{job.id}/surfaces/{wall.id}", f"surface-{wall.id}"
    mine = fields_of(client, f"/jobs/{job.id}/survey?at={wall.id}", form)
    theirs = mine | {"lrv_pct": "61", "hex": "", "surface_name": "East side"}
    assert send(client, path, theirs | {"form_key": KEY}, form).status_code == 200
    mine |= {"lrv_pct": "33.5", "hex": "", "coated_year": "2001", "form_key": KEY + "-mine"}
    answer = send(client, path, mine, form)
    said = told(answer)
    assert re.search(r"Saved meanwhile:.*61.*Yours:.*33\.5", said[f"{form}-lrv_pct"], re.S)
    assert "East side" in said[f"{form}-surface_name"]
    assert "East wall" in said[f"{form}-surface_name"]
    assert f"{form}-texture" not in said, "what nobody changed is not asked about"
    version = re.search(r'data-conflict-version="(\d+)"', answer.text)[1]
    again = send(client, path, mine | {"form_key": KEY + "-hasty"}, form)
    assert "lrv_pct" in str(told(again)), "until it is decided, nothing is saved over what the other saved"
    kept = send(client, path, mine | {"version": version, "surface_name": "East side"}, form)
    assert kept.status_code == 200
    now = next(s for e in jobs.whole(opened, job.id).building.elevations for s in e.surfaces if s.id == wall.id)
    assert (now.lrv_pct, now.name, now.coated_year) == (33.5, "East side", 2001), "mine and theirs, field by field"


# Every form that edits a row: where it stands, what is typed first and second.
EDITING = [
    ("survey/facts", "facts", "facts", {"name": "One"}, {"name": "Two"}),
    ("systems/limits", "rules", "rules", {"painters": "4"}, {"painters": "5"}),
    ("rates", "rates", "rates", {"money.labour_per_h": "61"}, {"money.labour_per_h": "62"}),
]


@pytest.mark.parametrize(("shows", "form", "path", "first", "second"), EDITING)
def test_every_editing_form_notices_who_was_there_before(client, job, shows, form, path, first, second):
    where = f"/jobs/{job.id}/{shows}"
    shown = re.search(rf'<form[^>]*id="([^"]*)"[^>]*hx-post="[^"]*/{path}"', client.get(where).text)[1]
    typed = fields_of(client, where, shown)
    assert send(client, f"/jobs/{job.id}/{path}", typed | first | {"form_key": KEY}, shown).status_code == 200
    answer = send(client, f"/jobs/{job.id}/{path}", typed | second | {"form_key": KEY + "-2"}, shown)
    name, (mine,) = next(iter(second)), second.values()
    said = told(answer)[f"{shown}-{name}"]
    assert next(iter(first.values())) in said
    assert mine in said

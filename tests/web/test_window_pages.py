"""The Windows pages over HTTP: what is heard, felt and blown about is said on them, and what cannot be asked is refused."""

import html
import re
from datetime import timedelta
from pathlib import Path

import pvlib
import pytest

from amber_gable.services.app.democlock import step_clock
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.joinery import joinery
from amber_gable.services.outlook.stepwindows import kinds
from tests.support.pages import HTMX, errors, send
from tests.support.serving import DEMO_NOW

pytestmark = pytest.mark.small


@pytest.fixture
def boathouse(opened):
    return jobs.whole(opened, next(j.id for j in jobs.list_jobs(opened) if j.name == "Slipway Boathouse"))


def gable_of(job):
    return next(s for e in job.building.elevations for s in e.surfaces if s.name == "East gable wall")


def fragment(client, job, surface, hours=5.0, query=""):
    at = (DEMO_NOW + timedelta(hours=hours)).timestamp()
    return html.unescape(client.get(f"/jobs/{job.id}/windows/{surface.id}?at={at}{query}").text)


@pytest.mark.four
def test_where_overspray_goes_is_said_where_somebody_sprays(client, boathouse):
    text = fragment(client, boathouse, gable_of(boathouse))
    drift = re.findall(r"<li>(.*?)</li>", text.split("Where overspray goes")[1].split("</ul>")[0])
    assert re.match(r"The mist goes \d+ ft, (as dry dust|wet) to the [a-z-]+; most of the paint \d+ ft", drift[0])
    # Each of what stands there is named once: reached, or clear of this wind.
    said = " ".join(drift)
    assert said.count("Two moored boats") == said.count("The river") == 1


def test_thunder_is_said_on_every_wall_and_is_over_after_half_an_hour(client, opened, job, surface_named):
    step_clock(opened.app, 5.0)
    wall = surface_named("East wall")
    answer = send(
        client, f"/jobs/{job.id}/stop/{wall.id}", {"verb": "thunder", "coat": "1", "painters": "2", "begins": "left", "done_m": "0"}
    )
    assert "Do not paint here now" in html.unescape(answer.text)
    assert "everybody down" in fragment(client, job, surface_named("North gable wall"), 5.0)
    assert "everybody down" not in fragment(client, job, surface_named("North gable wall"), 6.0)
    assert "everybody down" in fragment(client, job, wall, 5.0, "&work=mask")


def test_a_chance_beyond_the_forecast_is_nobodys(client, job, surface_named):
    at = (DEMO_NOW + timedelta(days=9, hours=16)).timestamp()
    text = client.get(f"/jobs/{job.id}/windows/{surface_named('East wall').id}/chance?at={at}").text
    assert "The forecast ends before it is known" in text


@pytest.mark.parametrize("typed", [{"what": "soggy"}, {"what": "meter", "moisture_pct": ""}, {"what": "meter", "moisture_pct": "0"}])
def test_what_a_palm_cannot_say_is_refused_at_its_field(client, job, surface_named, typed):
    answer = send(client, f"/jobs/{job.id}/windows/{surface_named('East wall').id}/found", typed)
    assert answer.status_code == 422
    assert any("moisture_pct" in key or "palm" in key for key in errors(answer))


def test_the_page_asks_for_every_kind_of_work_there_is(client, opened, job):
    page = client.get(f"/jobs/{job.id}/windows").text
    offered = re.findall(r'<option value="([a-z]+)"', page.split('id="work"')[1].split("</select>")[0])
    assert offered == list(kinds(opened, job, outlook.outlook(opened, job, outlook.status(opened, job))))
    assert {"coats", "later", "wash", "treat", "putty"} <= set(offered)
    for work in offered:
        assert client.get(f"/jobs/{job.id}/windows?work={work}&order=next").status_code == 200


def test_what_opens_next_comes_first(client, opened, job):
    step_clock(opened.app, 2.0)
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    now = ahead.step_at(opened.clock.now())
    rows = re.findall(r'data-row="([^"]+)"', client.get(f"/jobs/{job.id}/windows?order=next").text)
    opens = [ahead.windows.states[ahead.row(i), now:] > 0 for i in rows]
    # What lead holds up opens in no weather, and comes last.
    waits = [int(row.argmax()) if row.any() else len(row) for row in opens]
    assert len(opens[-1]) in waits
    assert waits == sorted(waits)
    assert set(rows) == set(ahead.surface_ids)


@pytest.mark.four
def test_windows_shutters_and_trim_have_hours_of_their_own(client, opened, job):
    address = f"/jobs/{job.id}/windows"
    page = client.get(f"{address}?of=round&work=undercoat").text
    rows = re.findall(r'data-row="([^"]+)"', page)
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    hung = joinery(opened, job, ahead)
    assert rows == outlook.of_turn(opened, job, hung, "undercoat").surface_ids
    assert set(rows) < set(hung.surface_ids)
    assert f'data-why="http://testserver{address}/round"' in page
    moment = ahead.local(60).timestamp()
    card = client.get(f"{address}/round/{rows[0]}?at={moment}&work=undercoat").text
    assert "A coat put on at" in card
    assert "How far now, by when?" not in card, "a wall has a stop line, a window has none"
    assert re.search(r"Reckoned in the colour that is on it now: it reflects \d+ %", card)
    assert client.get(f"{address}/round/{rows[0]}/chance?at={moment}&work=undercoat").status_code == 200
    assert client.get(f"{address}/round/no-such-side?at={moment}").status_code == 404
    assert client.get(f"{address}?of=round&work=sealer").status_code == 404


@pytest.mark.four
def test_a_coat_that_few_surfaces_have_has_its_page_on_every_job(client, opened):
    """The surface that the day proposes may not have such a coat: another one is shown."""
    for row in jobs.list_jobs(opened):
        whole = jobs.whole(opened, row.id)
        base = outlook.outlook(opened, whole, outlook.status(opened, whole))
        for of, ahead in (("surfaces", base), ("round", joinery(opened, whole, base))):
            offered = kinds(opened, whole, ahead)
            for work in ("primer", "undercoat", "sealer"):
                answer = client.get(f"/jobs/{row.id}/windows?work={work}&of={of}")
                assert answer.status_code == (200 if work in offered else 404), (row.name, work, of)


@pytest.mark.takes(8)
def test_a_typical_year_is_read_in_shown_by_month_and_taken_out(client, opened, job):
    base = f"/jobs/{job.id}/windows/year"
    assert "No typical year" in client.get(base).text
    said = errors(client.post(base, files={"file": ("year.csv", b"time,air\n1,2", "text/csv")}, headers=HTMX))
    assert "neither a TMY3 nor an EPW" in next(iter(said.values()))
    year = (Path(pvlib.__file__).parent / "data" / "723170TYA.CSV").read_bytes()
    sent = client.post(base, files={"file": ("year.csv", year, "text/csv")}, headers=HTMX)
    assert sent.headers["hx-redirect"].endswith("/windows/year")
    text = html.unescape(client.get(base).text)
    assert re.search(r"<h1>Most hours hold a coat in [A-Z][a-z]+ and [A-Z][a-z]+\.</h1>", text)
    months = [float(h) for h in re.findall(r'<th scope="row">[A-Z][a-z]{2}</th><td class="num">(\d+)</td>', text)]
    assert len(months) == 12
    assert months[0] < 0.2 * max(months)
    # It is no forecast: the windows are what they were.
    assert "measured far from here" in text
    client.post(f"{base}/forget", headers=HTMX)
    assert "No typical year" in client.get(base).text

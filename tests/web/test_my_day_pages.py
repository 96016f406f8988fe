"""My day over HTTP: nobody is sent to what is held, waits for work that is unsaid, or no longer holds by the newest forecast."""

import re
from dataclasses import replace
from datetime import timedelta

import pytest

from amber_gable.services.log.record import rows_of
from amber_gable.services.planning import schedules
from amber_gable.services.planning.myday import my_day
from amber_gable.web.views.site.today import answer_of, rows_in_words
from tests.support.pages import send
from tests.support.serving import DEMO_NOW

pytestmark = pytest.mark.small

A_MOMENT = timedelta(minutes=2)


@pytest.fixture
def planned(client, opened, job):
    kept = schedules.make(opened, job)
    answer = send(client, "/settings/who", {"who": "Tobias", "back": "today"})
    assert answer.headers["hx-redirect"].endswith("/today")
    client.cookies.set("who", "Tobias")
    return kept


def lead(page: str) -> str:
    return re.sub(r"<[^>]+>", "", re.search(r'class="answer-lead">(.*?)</h1>', page, re.S)[1]).strip()


def test_a_coat_that_no_longer_holds_is_waited_with(opened, planned):
    coat = next(s for s in planned.stints if s.coat and "Tobias" in s.painters)
    opened.clock.set(coat.starts_at + timedelta(minutes=1))
    piece = next(p for p in my_day(opened, "Tobias") if p.one.stint.id == coat.id)

    def said(**other):
        return answer_of(rows_in_words(opened, (replace(piece, **other),), "Tobias"), "Tobias", opened.clock.now())

    assert said().lead.endswith(", now.")
    broken = said(broken_by="rain")
    assert (broken.lead[:9], broken.alarm) == ("Wait with", True)
    assert "Stop: it no longer holds" in said(broken_by="rain", running_since=opened.clock.now()).rest
    # Held up by a gate, or behind work that is unsaid: it is nobody's answer.
    for state in ("held", "late"):
        assert said(one=replace(piece.one, state=state)).lead == "Nothing of yours can be begun now."


def test_what_waits_for_unsaid_work_is_not_the_answer_and_has_no_start(client, opened, job, planned):
    mine = [s for s in planned.stints if "Tobias" in s.painters and s.starts_at.date() == planned.stints[0].starts_at.date()]
    opened.clock.set(mine[0].ends_at + timedelta(hours=1))
    page = client.get("/today").text
    # What is due now is the answer; what nobody spoke of is asked below it.
    assert "was it done?" not in lead(page)
    assert "Yes, done" in page
    opened.clock.set(mine[-1].ends_at + timedelta(hours=1))
    assert "was it done?" in lead(client.get("/today").text)
    held = re.findall(r"<li class=\"is-(?:late|held)\">.*?</li>", page, re.S)
    assert all("<button" not in row for row in held)


def test_what_was_begun_yesterday_is_asked_after_and_has_no_night_in_its_hours(client, opened, job, planned):
    coat = next(s for s in planned.stints if s.coat and "Tobias" in s.painters)
    opened.clock.set(coat.starts_at + timedelta(minutes=30))
    form = {"tasks": " ".join(t.replace(" ", "_") for t in coat.tasks), "painter": "Tobias", "back": "today"}
    hours = {"planned_from": coat.starts_at.isoformat(), "planned_until": coat.ends_at.isoformat()}
    assert send(client, f"/jobs/{job.id}/work", form | hours | {"verb": "began"}).status_code < 400
    assert 'data-since="' in client.get("/today").text, "its hours run"
    opened.clock.set(coat.starts_at.replace(hour=17, minute=45))
    evening = client.get("/today").text
    assert re.search(r"Still running:</strong> [^.]*first coat, since \d\d:\d\d\.", evening), "whoever leaves is asked"
    opened.clock.set((coat.starts_at + timedelta(days=1)).replace(hour=6, minute=30))
    page = client.get("/today").text
    assert "first coat: was it done?" in lead(page)
    assert f"Begun {coat.starts_at + timedelta(minutes=30):%a %H:%M}" in page
    assert 'data-since="' not in page
    assert send(client, f"/jobs/{job.id}/work", form | hours | {"verb": "done"}).status_code < 400
    done = rows_of(opened, job)[-1]
    # The demo's clock runs on while the test does.
    assert abs(done.from_at - coat.starts_at - timedelta(minutes=30)) < A_MOMENT
    assert done.until_at - done.from_at == coat.ends_at - coat.starts_at


def test_who_says_done_while_it_runs_ends_it_now(client, opened, job, planned):
    coat = next(s for s in planned.stints if s.coat and "Tobias" in s.painters)
    form = {"tasks": " ".join(t.replace(" ", "_") for t in coat.tasks), "painter": "Tobias", "back": "today"}
    hours = {"planned_from": coat.starts_at.isoformat(), "planned_until": coat.ends_at.isoformat()}
    for at, verb in ((coat.starts_at, "began"), (coat.ends_at + timedelta(minutes=40), "done")):
        opened.clock.set(at)
        assert send(client, f"/jobs/{job.id}/work", form | hours | {"verb": verb}).status_code < 400
    done = rows_of(opened, job)[-1]
    assert abs(done.from_at - coat.starts_at) < A_MOMENT
    assert abs(done.until_at - coat.ends_at - timedelta(minutes=40)) < A_MOMENT


def test_what_was_begun_late_leads_until_it_is_ended(client, opened, job, planned):
    """Who is at a wall by the record is not sent to the next, nor asked before he can be done; the office reads when it was begun."""
    coat = next(s for s in planned.stints if s.coat and "Tobias" in s.painters)
    late = timedelta(minutes=95)
    opened.clock.set(coat.starts_at + late)
    form = {"tasks": " ".join(t.replace(" ", "_") for t in coat.tasks), "painter": "Tobias", "back": "today"}
    hours = {"planned_from": coat.starts_at.isoformat(), "planned_until": coat.ends_at.isoformat()}
    assert send(client, f"/jobs/{job.id}/work", form | hours | {"verb": "began"}).status_code < 400
    opened.clock.set(coat.ends_at + timedelta(minutes=45))
    page = client.get("/today").text
    assert lead(page) == f"{coat.places[0]}: first coat."
    assert f"Until about {coat.ends_at + late:%H:%M}" in page
    opened.clock.set(coat.ends_at + late + timedelta(minutes=40))
    page = client.get("/today").text
    assert lead(page) == f"{coat.places[0]}: first coat: is it done?"
    assert "Pause here" in page, "or only to the wet edge"
    assert f"begun {coat.starts_at + late:%H:%M}" in client.get(f"/jobs/{job.id}/schedule").text


def test_somebody_else_holds_the_phone(client, opened, planned):
    assert send(client, "/settings/who", {"who": "office", "back": "today"}).status_code < 400
    client.cookies.set("who", "office")
    assert "Who holds this phone?" in client.get("/today").text


@pytest.mark.takes(8)
def test_nobody_is_told_to_work_until_an_hour_that_is_over(client, opened, job, planned):
    heard = set()
    for quarter in range(0, 44, 3):
        opened.clock.set(DEMO_NOW.replace(hour=7, minute=0) + timedelta(minutes=15 * quarter))
        for painter in ("Ines", "Tobias"):
            client.cookies.set("who", painter)
            page = client.get("/today").text
            told = re.search(r"(Until about|Planned until) (\d\d:\d\d)", page)
            if told and lead(page).endswith("now."):
                heard.add(told[1])
                now = f"{opened.clock.now().astimezone(DEMO_NOW.tzinfo):%H:%M}"
                assert told[2] == now or (told[2] > now) == (told[1] == "Until about"), f"{painter}, {now}"
    assert heard == {"Until about", "Planned until"}

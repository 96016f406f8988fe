"""Crew, tomorrow, the record over HTTP: what is shown, what is refused, secret addresses."""

import re
from datetime import date, timedelta

import pytest

from amber_gable.services.app.scope import KEEPER, Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.office import crew
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import mending, schedules
from tests.support.pages import errors, send
from tests.support.serving import DEMO_NOW

pytestmark = pytest.mark.small


def made(opened, job):
    return schedules.make(opened, job)


@pytest.mark.takes(6)
@pytest.mark.four
def test_tomorrow_says_who_goes_where_and_drafts_the_messages(client, opened, job):
    assert "Nothing is" in client.get("/tomorrow").text
    kept = made(opened, job)
    page = client.get("/tomorrow").text
    day = DEMO_NOW.date() + timedelta(days=1)
    wanted = [s for s in kept.stints if s.starts_at.date() == day]
    assert wanted
    for name in {painter for s in wanted for painter in s.painters}:
        assert f"{name}, Wednesday 16 September:" in page
    assert "Good evening Odile Tansy," in page
    assert "keep the windows and doors of these sides shut" in page
    assert "not on record yet" not in page
    # On the day itself, in the evening, what nobody recorded is said there too.
    opened.clock.set(DEMO_NOW + timedelta(hours=12))
    evening = client.get("/tomorrow").text
    assert "not on record yet" in evening
    assert "Decide tomorrow" in client.get("/").text
    # The front of Thursday.
    doubtful = client.get("/tomorrow?day=2026-09-17").text
    assert "Rain may stop the work" in doubtful
    assert "If it rains or stays wet" in doubtful


@pytest.mark.four
def test_the_crew_page_and_its_forms(client, opened, job):
    made(opened, job)
    page = client.get("/crew").text
    assert "3 painters." in page
    assert page.count("board-mark") >= 8
    assert send(client, "/crew/Tobias/away", {"first": "2026-09-16", "why": "ill"}).headers["hx-redirect"].endswith("/crew")
    assert "Off Wed 16 Sep (ill)" in client.get("/crew").text
    assert "Tobias is off on Wednesday 16 September" in client.get(f"/jobs/{job.id}/schedule").text
    assert "first" in str(errors(send(client, "/crew/Tobias/away", {"first": "soon"}, "away-Tobias")))
    assert send(client, "/crew/Nobody/away", {"first": "2026-09-16"}).status_code == 404
    given = {"starts": "7:30", "ends": "16", "weekday": ["0", "1"], "skill": ["lift"], "until_lift": "2027-01-31"}
    assert send(client, "/crew/Marlow", given).headers["hx-redirect"].endswith("/crew")
    marlow = crew.person(opened, "Marlow")
    assert (marlow.starts_h, marlow.ends_h, marlow.weekdays, marlow.skills) == (7.5, 16.0, (0, 1), {"lift": date(2027, 1, 31)})
    assert "7 or 7:30" in str(errors(send(client, "/crew/Marlow", given | {"starts": "early"}, "person-form-Marlow")))
    assert "end after it starts" in str(errors(send(client, "/crew/Marlow", given | {"ends": "6"}, "person-form-Marlow")))


def test_a_calendar_is_behind_a_secret_address_only(client, opened, job):
    made(opened, job)
    token = crew.person(opened, "Ines").feed
    assert len(token) > 20
    answer = client.get(f"/calendar/{token}.ics")
    assert answer.headers["content-type"].startswith("text/calendar")
    assert "Ines" in answer.text
    assert client.get("/calendar/Ines.ics").status_code == 404
    assert client.get("/calendar/.ics").status_code == 404


def test_work_is_recorded_taken_back_and_refused_at_its_field(client, opened, job):
    made(opened, job)
    opened.clock.set(DEMO_NOW + timedelta(hours=6))
    page = client.get(f"/jobs/{job.id}/schedule").text
    form = page[page.index('<form id="work-') :]
    tasks = re.search(r'name="tasks" value="([^"]+)"', form)[1]
    key = re.search(r'id="(work-[0-9a-f]+)"', form)[1]
    entry = {"tasks": tasks, "verb": "done", "from": "09:30", "until": "11:00", "painter": ["Ines"], "entry": "phone-1"}
    assert "until" in str(errors(send(client, f"/jobs/{job.id}/work", entry | {"until": "17:00"}, key)))
    assert "why" in str(errors(send(client, f"/jobs/{job.id}/work", entry | {"verb": "again"}, key)))
    assert send(client, f"/jobs/{job.id}/work", entry | {"tasks": "nothing"}).status_code == 404
    assert "verb" in str(errors(send(client, f"/jobs/{job.id}/work", entry | {"verb": "withdrawn"}, key)))
    for _ in range(2):
        assert send(client, f"/jobs/{job.id}/work", entry).headers["hx-redirect"].endswith("/schedule")
    page = client.get(f"/jobs/{job.id}/schedule").text
    assert page.count("today 09:30 to 11:00; Ines") == 1, "sent twice, it is one entry"
    back = re.search(r'hx-post="[^"]*(/work/[^"]+/back)"', page)[1]
    send(client, f"/jobs/{job.id}{back}", {})
    assert "taken back by" in client.get(f"/jobs/{job.id}/schedule").text


def test_a_coat_that_is_spoilt_is_to_be_done_again_and_planned_again(client, opened, job):
    kept = made(opened, job)
    coat = next(s for s in kept.stints if s.coat == 1 and not s.is_expected)
    opened.clock.set(coat.ends_at + timedelta(hours=1))
    tasks = " ".join(i.replace(" ", "_") for i in coat.tasks)
    send(client, f"/jobs/{job.id}/work", {"tasks": tasks, "verb": "done"})
    assert not set(coat.tasks) & {t for s in made(opened, jobs.whole(opened, job.id)).stints for t in s.tasks}
    page = client.get(f"/jobs/{job.id}/schedule").text
    form = page[page.index('<form id="again-') :]
    key, offered = re.search(r'id="(again-[0-9a-f]+)"', form)[1], re.search(r'name="tasks" value="([^"]+)"', form)[1]
    assert offered == tasks
    assert "why" in str(errors(send(client, f"/jobs/{job.id}/work", {"tasks": offered, "verb": "again"}, key)))
    send(client, f"/jobs/{job.id}/work", {"tasks": offered, "verb": "again", "remark": "streaked by dew"}, key)
    assert "streaked by dew" in client.get(f"/jobs/{job.id}/schedule").text
    assert set(coat.tasks) <= {t for s in made(opened, jobs.whole(opened, job.id)).stints for t in s.tasks}


def test_machines_are_reserved_and_given_back_and_bad_terms_refused(client, opened, job):
    made(opened, job)
    page = client.get("/crew").text
    assert "Tower, Mon 7 Sep to Wed 30 Sep" in page
    # What stands at a house and is given back is missing: its coats move to where a tower can be had again, and say so.
    before = made(opened, job)
    first = min(s.starts_at for s in before.stints if "tower" in s.ways_up)
    assert 'id="overtaken"' not in client.get(f"/jobs/{job.id}/schedule").text
    assert send(client, "/machines/tower/release", {"job": job.id, "first": "2026-09-07"}).headers["hx-redirect"].endswith("/crew")
    assert "No tower is to be had on Tuesday 15 September" in client.get(f"/jobs/{job.id}/schedule").text
    assert "The plan is overtaken" in client.get("/").text
    after = made(opened, job)
    assert 'id="overtaken"' not in client.get(f"/jobs/{job.id}/schedule").text
    assert first.date() < date(2026, 9, 20)
    assert all(s.starts_at.date() >= date(2026, 9, 29) for s in after.stints if "tower" in s.ways_up)
    assert "the tower is not to be had then" in {m["why"] for m in after.moves}
    page = client.get("/crew").text
    assert "It is reserved" in page
    assert "Reserve by" in page
    given = {"job": job.id, "first": "2026-09-15", "last": "2026-10-02"}
    assert "before it begins" in str(errors(send(client, "/machines/tower/reserve", given | {"last": "2026-09-01"}, "mr-tower")))
    assert "2026-09-16" in str(errors(send(client, "/machines/tower/reserve", given | {"first": "soon"}, "mr-tower")))
    send(client, "/machines/tower/reserve", given)
    assert min(s.starts_at for s in schedules.make(opened, job, anew=True).stints if "tower" in s.ways_up) == first
    terms = {"units": "2", "per_day": "50", "delivery": "0", "lead_days": "3", "is_hired": "1", "not_until": ""}
    assert send(client, "/machines/tower", terms).headers["hx-redirect"].endswith("/crew")
    assert "2 to hire" in client.get("/crew").text
    assert send(client, f"/jobs/{job.id}/schedule", {"back": "crew"}).headers["hx-redirect"].endswith("/crew")
    for field, value in (("units", "many"), ("units", "99"), ("lead_days", "-1"), ("not_until", "soon"), ("per_day", "")):
        assert field in str(errors(send(client, "/machines/tower", terms | {field: value}, "mf-tower"))), (field, value)
    assert send(client, "/machines/crane", terms).status_code == 404


def ahead_of(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


def test_a_day_is_taken_along_as_text_and_on_paper(client, opened, job):
    kept = made(opened, job)
    text = client.get("/day.txt").text
    assert text.startswith("Tuesday 15 September")
    assert "Tollkeeper's House (chance of rain" in text
    assert "! Lead:" in text
    today = [s for s in kept.stints if s.starts_at.date() == DEMO_NOW.date()]
    assert today
    for name in {painter for s in today for painter in s.painters}:
        assert f"{name}, Tuesday 15 September:" in text
    assert "a surgeon at once" in text
    later = client.get("/day.txt?day=2026-09-16").text
    assert later.startswith("Wednesday 16 September")
    paper = client.get("/day.pdf?day=2026-09-16")
    assert paper.headers["content-type"] == "application/pdf"
    assert paper.content.startswith(b"%PDF")
    assert "day-2026-09-16" in paper.headers["content-disposition"]


def test_a_plan_that_mended_itself_says_when_and_why_and_is_taken_back(client, opened, job):
    before = made(opened, job)
    day = DEMO_NOW.date() + timedelta(days=1)
    send(client, "/crew/Tobias/away", {"first": day.isoformat(), "last": "", "why": "ill"})
    assert "By hand only" in client.get("/crew").text
    mending.Mender().look(Scope(opened.app, KEEPER, opened.contractor_id), {job.id: 1})
    page = client.get(f"/jobs/{job.id}/schedule").text
    assert "Mended by itself at 06:50" in page
    assert "Tobias is off on Wednesday 16 September" in page
    assert "Mended by itself at 06:50" in client.get("/").text
    send(client, re.search(r'id="take-back" hx-post="[^"]*(/undo/[^"]+)"', page)[1], {})
    assert "Mended by itself" not in client.get(f"/jobs/{job.id}/schedule").text
    assert [s.starts_at for s in schedules.saved(opened, job).stints] == [s.starts_at for s in before.stints]
    send(client, "/crew/mends", {"on": "no"})
    assert "Let it mend itself" in client.get("/crew").text


def test_two_at_two_painters_keep_both_and_two_at_one_see_both(client, opened):
    def form(name: str) -> dict[str, str]:
        seen = crew.seen_of(opened, name)
        return {"seen": seen, "starts": "7", "ends": "17", "weekday": "0"}

    ines, tobias, late = form("Ines"), form("Tobias"), form("Ines")
    assert send(client, "/crew/Ines", ines | {"starts": "6"}).status_code == 200
    assert send(client, "/crew/Tobias", tobias | {"starts": "8"}).status_code == 200
    # A sick day is no part of that form: nobody's view of the hours has changed by it.
    assert send(client, "/crew/Tobias/away", {"first": "2026-09-21", "why": "ill"}).status_code == 200
    refused = send(client, "/crew/Ines", late | {"starts": "9"}, "person-form-Ines")
    assert refused.status_code == 422
    assert "Decide at each field below" in refused.text
    assert 'id="person-form-Ines-starts-error"' in refused.text
    people = crew.people(opened)
    assert (people["Ines"].starts_h, people["Tobias"].starts_h, len(people["Tobias"].off)) == (6, 8, 1)

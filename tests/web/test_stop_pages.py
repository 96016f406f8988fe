"""The stop line over HTTP: every wall of every job answers at every hour, and what cannot be is refused at its field."""

import html
import json
import re
from zoneinfo import ZoneInfo

import pytest
from typer.testing import CliRunner

from amber_gable.cli import app
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook, skywatch
from amber_gable.services.planning import schedules
from amber_gable.services.planning.morning import job_morning
from amber_gable.services.reckonings import find
from amber_gable.store import queries
from amber_gable.web.sentences import next_step, visit_line
from tests.support.pages import errors, send

pytestmark = pytest.mark.small


def surfaces(opened):
    for row in jobs.list_jobs(opened):
        for surface in outlook.painted_surfaces(jobs.whole(opened, row.id)):
            yield row.id, surface


def lead(answer) -> str:
    return html.unescape(re.search(r'<h1 class="answer-lead">([^<]+)</h1>', answer.text)[1])


SAID = re.compile(
    r"(Do not (start|paint|begin).*|Stop where you are\.|This wall is done\.|Finish the wall, by \d\d:\d\d\."
    r"|Stop at the .+, by \d\d:\d\d\.)"
)


@pytest.mark.parametrize(
    "hours",
    [0, 15, pytest.param(4, marks=pytest.mark.slow), pytest.param(9, marks=pytest.mark.slow), pytest.param(50, marks=pytest.mark.slow)],
)
def test_every_wall_answers_in_one_of_few_sentences(client, opened, hours):
    if hours:
        step_clock(opened.app, float(hours))
    seen = set()
    for job_id, surface in surfaces(opened):
        answer = client.get(f"/jobs/{job_id}/stop/{surface.id}?painters=2")
        assert answer.status_code == 200, surface.name
        assert SAID.fullmatch(lead(answer)), lead(answer)
        assert answer.text.count('class="elevation"') == 1
        seen.add(lead(answer).split()[0])
    if hours in (0, 15):
        assert seen == {"Do"}, "before the dew is off, and at night"
    if hours == 4:
        assert seen & {"Finish", "Stop"}, "some wall is open before noon"


@pytest.fixture
def east(opened, job):
    step_clock(opened.app, 4.0)
    return next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")


def test_the_address_says_where_work_stands(client, job, east):
    base = f"/jobs/{job.id}/stop/{east.id}"
    fresh, half = client.get(base), client.get(f"{base}?done_m=19'&begins=left&painters=1&coat=2")
    assert "second coat" in half.text
    assert 'value="19&#39;"' in half.text
    to_go = [float(re.search(r"([\d,]+) ft² to go", html.unescape(a.text))[1].replace(",", "")) for a in (fresh, half)]
    assert to_go[1] < 0.6 * to_go[0]
    right = client.get(f"{base}?begins=right")
    assert "the left corner" in right.text
    done = client.get(f"{base}?done_m=38'")
    assert lead(done) == "This wall is done."


@pytest.mark.parametrize(
    ("typed", "field", "words"),
    [
        ({"painters": "many"}, "painters", "1 to 20"), ({"painters": "50"}, "painters", "1 to 20"),
        ({"done_m": "99'"}, "done_m", "wet edge"),
        ({"done_m": "soon"}, "done_m", "read"), ({"verb": "rain", "rain_at": "later"}, "rain_at", "15:00"),
        ({"verb": "rain", "rain_at": "15"}, "rain_at", "15:00"), ({"coat": "9"}, "coat", "sixth"),
        ({"verb": "rain", "strength": "wild"}, "strength", "Light"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_at_its_field(client, opened, job, east, typed, field, words):
    said = errors(send(client, f"/jobs/{job.id}/stop/{east.id}", typed))
    assert words in said[f"the-form-{field}"]
    with opened.reading() as session:
        assert not queries.sightings(session, job.id, opened.clock.now())


def test_rain_that_is_seen_stands_on_every_page_it_changes(client, opened, job, east):
    before = client.get(f"/jobs/{job.id}/windows").text
    assert "Rain seen for" not in before
    answer = send(client, f"/jobs/{job.id}/stop/{east.id}", {"verb": "rain", "rain_at": "12:30", "painters": "1"})
    assert lead(answer) == "Do not paint here now."
    assert "Rain seen for 12:30" in answer.text
    after = client.get(f"/jobs/{job.id}/windows").text
    assert "Rain seen for 12:30" in after
    # Other jobs have their own sky.
    others = [row.id for row in jobs.list_jobs(opened) if row.id != job.id]
    assert all("Rain seen for" not in client.get(f"/jobs/{other}/windows").text for other in others)


def test_a_joint_is_added_in_feet_and_refused_beyond_the_wall(client, opened, job, east):
    base = f"/jobs/{job.id}/stop/{east.id}"
    said = errors(send(client, f"{base}/joints", {"joint_kind": "downspout", "joint_at": "60'"}))
    assert "Between the corners" in said["the-form-joint_at"]
    assert "read" in errors(send(client, f"{base}/joints", {"joint_kind": "downspout", "joint_at": "there"}))["the-form-joint_at"].lower()
    send(client, f"{base}/joints", {"joint_kind": "downspout", "joint_at": "27' 6\""})
    wall = next(e for e in jobs.whole(opened, job.id).building.elevations if e.name == "East")
    assert wall.joints == [[pytest.approx(27.5 * 0.3048, abs=1e-3), "downspout"]]
    assert "the downspout" in client.get(base).text
    assert client.get(f"/jobs/{job.id}/stop/nowhere").status_code == 404


def test_an_hour_that_is_not_open_says_what_would_help(client, opened, job, east):
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    row = ahead.row(east.id)
    for step in range(0, ahead.windows.states.shape[1], 61):
        at = ahead.local(step).timestamp()
        text = client.get(f"/jobs/{job.id}/windows/{east.id}?at={at:.0f}").text
        is_open = int(ahead.windows.states[row, step]) == 2
        assert ("What would make it better" in text) != is_open


def test_the_command_line_says_from_like_the_api():
    given = json.dumps(find("windows").example)
    done = CliRunner().invoke(app, ["reckon", "windows"], input=given)
    assert done.exit_code == 0
    assert set(json.loads(done.stdout)["surfaces"][0]["starts"][0]) == {"from", "until"}
    bad = CliRunner().invoke(app, ["reckon", "drift"], input="{}")
    assert bad.exit_code == 2
    assert json.loads(bad.stderr)["field"] == "droplet_um"


def test_a_plan_that_rain_on_site_breaks_says_that_it_was_the_rain(client, opened, job, east):
    schedules.make(opened, job)
    skywatch.see_rain(opened, job, strength="heavy")
    said = next_step(job_morning(opened, jobs.whole(opened, job.id)), opened.clock.now().astimezone(ZoneInfo(job.time_zone)))
    assert said.alarm
    assert said.rest == "Rain was seen on site; make the schedule again once it has stopped."


def test_a_coat_that_rain_found_is_named_on_the_start_page_after_it_stopped(client, opened, job, east):
    kept = schedules.make(opened, job)
    first = min(kept.visits, key=lambda v: v.starts_at)
    step_clock(opened.app, (first.starts_at - opened.clock.now()).total_seconds() / 3600 + 0.5)
    assert "Rain found a fresh coat" not in client.get(f"/jobs/{job.id}/morning-card").text
    skywatch.see_rain(opened, job)
    step_clock(opened.app, 0.5)
    skywatch.rain_stopped(opened, job)
    card = html.unescape(client.get(f"/jobs/{job.id}/morning-card").text)
    named = card.split("Rain found a fresh coat")[1].split("</p>")[0]
    assert f"{first.surface_name}, first coat" in named
    assert visit_line(max(kept.visits, key=lambda v: v.starts_at)) not in named

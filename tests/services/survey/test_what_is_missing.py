"""What each stage of a job still lacks, and on what a price rests."""

import pytest

from amber_gable.services.jobs import jobs
from amber_gable.services.jobs.progress import stages_of
from amber_gable.services.survey.evidence import walk
from amber_gable.services.systems.colours import colours_of, set_colours
from amber_gable.services.systems.specs import specs_of
from amber_gable.services.takeoff.assumed import rests_on
from amber_gable.services.takeoff.job import job_takeoff
from tests.support.pages import errors, send
from tests.web.test_pages import NEW_JOB


@pytest.fixture
def fresh(client, opened):
    made = send(client, "/jobs", NEW_JOB | {"year_built": ""}).headers["hx-redirect"]
    return jobs.whole(opened, made.rsplit("/", 2)[1])


def test_a_new_job_is_never_filled_in_and_says_what_it_lacks(client, opened, fresh):
    states = stages_of(opened, fresh)
    assert not any(states[name].is_done for name in ("survey", "systems", "takeoff", "schedule", "log"))
    words = {name: " · ".join(m.words for m in state.missing) for name, state in states.items()}
    assert "Walk round: " in words["survey"]
    assert "The year it was built" in words["survey"]
    assert "What is on it now is not known" in words["survey"]
    assert "New colours: " in words["systems"]
    assert "Lead: tests or rules on record" in words["systems"]
    assert "owner’s name" in words["takeoff"]
    page = client.get(f"/jobs/{fresh.id}/survey").text
    assert "filled in" not in page
    assert "not begun" in page
    assert f"/jobs/{fresh.id}/survey/walk" in page.split('class="missing"')[1].split("</details>")[0]
    for state in states.values():
        for one in state.missing:
            assert client.get(str(client.app.url_path_for(one.page, job_id=fresh.id))).status_code == 200


def test_what_was_entered_is_missing_no_more(opened, fresh):
    before = stages_of(opened, fresh)
    for station in walk.stations_of(fresh):
        for question in walk.walk.questions_at(station.key):
            walk.answer(opened, fresh, station.key, question.key, [] if question.is_many else [question.options[0][0]])
    fresh = jobs.whole(opened, fresh.id)
    after = stages_of(opened, fresh)
    assert not any(m.words.startswith("Walk round") for m in after["survey"].missing)
    assert len(after["survey"].missing) < len(before["survey"].missing)
    colours = colours_of(opened, specs_of(opened, fresh), ())
    set_colours(opened, fresh, [(c, "#b8742e") for c in colours])
    fresh = jobs.whole(opened, fresh.id)
    assert not any(m.words.startswith("New colours") for m in stages_of(opened, fresh)["systems"].missing)


def test_a_price_says_on_what_it_rests_and_the_owner_reads_what_concerns_them(client, opened, job, fresh):
    said = " ".join(rests_on(opened, fresh, job_takeoff(opened, fresh)))
    for words in ("Lead counts as there", "year it was built", "New colours are not chosen", "old coating", "was not judged", "No test"):
        assert words in said
    assert "as shipped" in said
    for_owner = " ".join(rests_on(opened, fresh, job_takeoff(opened, fresh), is_for_owner=True))
    assert "as shipped" not in for_owner
    assert "Lead counts as there" in for_owner
    assert "It rests on" in client.get(f"/jobs/{fresh.id}/price").text
    known = " ".join(rests_on(opened, job, job_takeoff(opened, job)))
    assert "New colours" not in known
    assert "No test" not in known


def test_colours_of_all_zones_at_once_or_none(client, opened, fresh):
    colours = colours_of(opened, specs_of(opened, fresh), ())
    assert len(colours) > 1
    path = f"/jobs/{fresh.id}/systems/colours"
    typed = {f"hex-{c.key}": "#b8742e" for c in colours}
    bad = errors(send(client, path, typed | {f"hex-{colours[1].key}": "ochre"}, "all-colours"))
    assert set(bad) == {f"all-colours-hex-{colours[1].key}"}
    assert all(c.hex is None for c in colours_of(opened, specs_of(opened, jobs.whole(opened, fresh.id)), ()))
    assert send(client, path, typed).status_code == 200
    assert all(c.hex == "#b8742e" for c in colours_of(opened, specs_of(opened, jobs.whole(opened, fresh.id)), ()))
    assert "No colour was changed" in errors(send(client, path, {}, "all-colours"))["all-colours-form"]

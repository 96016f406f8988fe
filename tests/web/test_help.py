"""Each page has help of its own, and the list of jobs says where each stands."""

from starlette.routing import NoMatchFound

from amber_gable.services.jobs import jobs
from amber_gable.web.help import HELP, help_for


def _is_there(app, name: str, keys: tuple[str, ...]) -> bool:
    try:
        app.url_path_for(name, **dict.fromkeys(keys, "x"))
    except NoMatchFound:
        return False
    return True


def test_each_page_has_help_of_its_own(client, job):
    for name in HELP:
        assert any(
            _is_there(client.app, name, keys)
            for keys in ((), ("job_id",), ("name",), ("job_id", "station", "question"), ("job_id", "surface_id"))
        ), name
    seen = set()
    for path in ("/", "/jobs", "/jobs/new", "/quick", "/bids", "/crew", "/reckoner", "/reckoner/dew-point", "/settings", "/today"):
        text = client.get(path).text
        seen.add(text.split('class="help-words">')[1].split("</p>")[0])
        assert "data-help" in text
    for part in ("survey", "survey/blocks", "systems", "systems/colours", "takeoff", "price", "windows", "schedule", "log"):
        seen.add(client.get(f"/jobs/{job.id}/{part}").text.split('class="help-words">')[1].split("</p>")[0])
    assert len(seen) == 19, "none says what another says"
    assert help_for("no-such-page").startswith("The stages on the left")


def test_the_list_of_jobs_says_where_each_stands(client, opened):
    page = client.get("/jobs").text
    for head in jobs.list_jobs(opened):
        assert f"/jobs/{head.id}/standing" in page
        standing = client.get(f"/jobs/{head.id}/standing").text
        assert "<svg" in standing
        assert "Survey" in standing
        assert "missing" in standing

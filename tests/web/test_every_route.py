"""Every route with ids that are unknown, another job's, or removed: 404, nothing changed. Every form: its key, its version."""

import re
from html.parser import HTMLParser

import pytest
from fastapi.routing import APIRoute

from amber_gable.core.planning.state import Told
from amber_gable.core.systems.samples import SampleFacts
from amber_gable.core.windows.readings import InstrumentReading as Measured
from amber_gable.services.changes import ownership
from amber_gable.services.jobs import jobs
from amber_gable.services.log import entries, record, sitelog
from amber_gable.services.log.entries import Written
from amber_gable.services.log.record import Said
from amber_gable.services.office import extras
from amber_gable.services.office.extras import ExtraFacts
from amber_gable.services.outlook import outlook
from amber_gable.services.survey.around import features
from amber_gable.services.survey.around.features import FeatureFacts
from amber_gable.services.survey.evidence import findings, gates, photos, site_tests
from amber_gable.services.survey.evidence.findings import FindingFacts
from amber_gable.services.systems.colours import add_candidate
from amber_gable.services.systems.samples import add as add_sample
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.web.door.formroute import KEY, FormRoute
from amber_gable.web.door.gate import LOOSE
from tests.support.pages import HTMX
from tests.support.records import everything
from tests.support.surveys import CLEARED, picture

pytestmark = pytest.mark.small

# What else an address may hold, each with a word that is right where it is asked for.
WORDS = {
    "kind": "rub", "size": "small", "index": "0", "number": "0", "station": "around", "question": "damp", "key": "sun", "part": "trim",
    "state": "on", "verb": "keep", "row_id": "nothing", "set_id": "nothing", "name": "dew-point", "mark": "nothing",
}  # fmt: skip
# Routes whose own words are checked by what they show.
NOT_A_ROW = {"photo"}


def routes(client) -> list[APIRoute]:
    routers = [getattr(r, "original_router", None) for r in client.app.routes]
    return [r for router in routers if router is not None for r in router.routes if isinstance(r, APIRoute)]


def rows_of(opened, job) -> dict[str, str]:
    """One row of each kind that an address may name."""
    with opened.reading() as session:
        return {
            name: row.id
            for name, (model, _) in ownership.ROWS.items()
            for row in session.query(model).all()
            if ownership.queries.of_job(session, model, row.id, job.id) is not None
        }


def filled(opened, job) -> None:
    """Give a job a row of every kind, so that there is something of another's to ask for."""
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.is_painted and s.kind == "wall")
    finding = findings.add_finding(opened, job.id, wall.elevation_id, FindingFacts("peeling", "spots", 1.0, 1.5))
    photos.add_photo(opened, job.id, picture(), finding)
    features.add_feature(opened, job.id, FeatureFacts("plants", "", None, 1.0))
    gates.record(opened, job.id, "lead", "test", [wall.id], CLEARED)
    site_tests.record(opened, job, wall.id, "rub", {"rating": 8}, "Ines")
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    sitelog.log_reading(opened, job, ahead, wall.id, Measured(15.0, 60.0, 15.0), "Ines")
    entries.write(opened, job, Written("note", "The gate stood open"))
    record.enter(opened, job, [tasks_of(opened, job)[0]], Said(Told.BEGAN, opened.clock.now(), opened.clock.now()))
    add_candidate(opened, job, "Body", "Ochre 9", "#b8742f")
    extras.add(opened, job.id, ExtraFacts("Paint the mailbox", hours=2.0))
    add_sample(opened, job, SampleFacts("test-patch", wall.id, "2026-09-10", {}, "2026-09-20", ""), {wall.id: wall.name})


def address(route: APIRoute, ids: dict[str, str]) -> str:
    return re.sub(r"\{(\w+)(?::\w+)?\}", lambda m: ids.get(m[1]) or WORDS[m[1]], route.path)


def asked(client, route: APIRoute, path: str):
    method = next(iter(route.methods - {"HEAD"}))
    return client.request(method, path, headers=HTMX if method == "POST" else {}, follow_redirects=False)


@pytest.mark.takes(7)
@pytest.mark.four
def test_what_is_unknown_or_another_jobs_is_not_found_and_nothing_changes(client, opened, job):
    other = jobs.whole(opened, jobs.list_jobs(opened)[1].id)
    filled(opened, other)
    filled(opened, job)
    own, foreign = rows_of(opened, job), rows_of(opened, other)
    assert set(own) == set(foreign) == set(ownership.ROWS), "each kind is there to be asked for"
    before = everything(opened)
    walked = 0
    for route in routes(client):
        names = re.findall(r"\{(\w+)", route.path)
        if "job_id" not in names:
            continue
        assert isinstance(route, FormRoute), f"{route.path} finds rows by another way"
        cases = [own | {"job_id": "nobody"}]
        for name in names:
            if name in ownership.ROWS:
                cases += [own | {"job_id": job.id, name: "nothing"}, own | {"job_id": job.id, name: foreign[name]}]
        for ids in cases:
            answer = asked(client, route, address(route, ids))
            assert answer.status_code == 404, f"{route.methods} {address(route, ids)}: {answer.status_code}"
            assert "not here" in answer.text
            walked += 1
    assert walked > 150
    assert everything(opened) == before


def test_an_address_of_the_api_that_is_not_there_answers_in_its_own_shape(client):
    answer = client.get("/api/nothing")
    assert (answer.status_code, set(answer.json())) == (404, {"error", "field"})


class Forms(HTMLParser):
    """The forms of a page: where they are sent, and their fields with values."""

    def __init__(self) -> None:
        super().__init__()
        self.forms: list[tuple[str, dict[str, str], set[str]]] = []

    def handle_starttag(self, tag, attributes):
        values = dict(attributes)
        if tag == "form" and "hx-post" in values:
            self.forms.append((values["hx-post"], {}, set()))
        elif tag in ("input", "select", "textarea") and self.forms and values.get("name"):
            self.forms[-1][1][values["name"]] = values.get("value") or ""
            if values.get("type") not in ("hidden", "submit"):
                self.forms[-1][2].add(values["name"])

    def handle_endtag(self, tag):
        if tag == "form" and self.forms:
            self.forms.append(("", {}, set()))


def forms_on(client, path: str) -> list[tuple[str, dict[str, str], set[str]]]:
    answer = client.get(path)
    assert answer.status_code == 200, path
    parser = Forms()
    parser.feed(answer.text)
    return [f for f in parser.forms if f[0]]


def pages(client, job, own) -> list[str]:
    """Every page and fragment that answers."""
    found = ["/", "/jobs", "/jobs/new", "/quick", "/bids", "/settings"]
    for route in routes(client):
        if "GET" in route.methods and "{job_id}" in route.path and not re.search(r"\.\w+$", route.path):
            path = address(route, own | {"job_id": job.id})
            answer = client.get(path)
            if answer.status_code == 200 and "text/html" in answer.headers["content-type"]:
                found.append(path)
    return found


# Forms that change one row by typed values: they must know which state of it they were filled in from.
EDITS = re.compile(
    r"/(facts|rules|rates|bid|state|wanted|surfaces/[^/]+|openings/[^/]+|findings/[^/]+|findings/[^/]+/acknowledged|blocks/[^/]+|items/[^/]+"
    r"|elevations/[^/]+/access|samples/[^/]+/result|extras/[^/]+/sign|alone/[^/]+)$"
)


@pytest.mark.takes(7)
def test_every_form_has_a_key_of_its_own_and_every_editing_form_its_version(client, opened, job):
    filled(opened, job)
    job = jobs.whole(opened, job.id)
    own = rows_of(opened, job)
    keys, edits = [], set()
    for path in pages(client, job, own):
        for action, fields, _ in forms_on(client, path):
            assert re.fullmatch(r"[\w-]{8,64}", fields.get(KEY, "")), f"{path}: the form to {action} has no key"
            keys.append(fields[KEY])
            where = re.sub(r"^https?://[^/]+", "", action)
            if EDITS.search(where):
                assert "version" in fields, f"{path}: the form to {where} does not know which version it shows"
                edits.add(EDITS.search(where)[1].split("/")[0])
    assert len(keys) == len(set(keys)) > 60
    assert {"facts", "rules", "rates", "state", "wanted", "surfaces", "openings", "findings", "blocks", "items", "elevations",
            "samples", "extras"} <= edits  # fmt: skip


def test_routes_that_take_forms_take_each_once(client):
    for route in routes(client):
        if "POST" in route.methods and not route.path.startswith("/api/reckon"):
            assert isinstance(route, FormRoute), route.path


def test_only_what_needs_no_thread_passes_the_gate_beside_the_lines(client):
    unlined = {route.path for route in routes(client) if route.endpoint.__code__.co_name != "works"}
    assert {path for path in unlined if path.startswith(LOOSE)} == {path for path in LOOSE if path != "/static/"}
    assert unlined <= set(LOOSE), "what computes stands in a line"

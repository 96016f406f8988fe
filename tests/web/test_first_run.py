"""The first run: an empty database asks whose books these are, and what was said is used from the first house on."""

import pytest
from fastapi.testclient import TestClient

from amber_gable.demo.seed import write_samples
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs import beginning, jobs
from amber_gable.web.app import create_app
from tests.support.pages import errors, send
from tests.support.serving import open_at

FIRM = {"name": "Ada & Daughter", "painters": "Ada,  Ben ", "country": "eu", "units": "", "currency": "", "labour_per_h": "41,5",
        "margin_pct": "14", "tax_pct": "19"}  # fmt: skip


@pytest.fixture
def empty(tmp_path):
    scope = open_at(tmp_path / "data")
    scope.app.samples = write_samples
    yield scope
    scope.app.close()


@pytest.fixture
def first(empty):
    return TestClient(create_app(running=empty.app), base_url="http://localhost")


def fresh(empty: Scope) -> Scope:
    return Scope(empty.app, "office", holds=True)


def test_the_first_page_of_an_empty_database_asks_and_uses_what_is_said(first, empty):
    page = first.get("/")
    assert page.url.path == "/begin"
    assert "Whose books are these?" in page.text
    assert send(first, "/begin", FIRM).headers["hx-redirect"].endswith("/jobs/new")
    owner = fresh(empty).owner
    assert (owner.name, owner.units, owner.painters, owner.country) == ("Ada & Daughter", "metric", ("Ada", "Ben"), "eu")
    money = owner.knowledge.money
    assert (money.labour_per_h, money.margin_pct, money.tax_pct, money.currency, money.locale) == (41.5, 14, 19, "EUR", "en_IE")
    assert set(owner.crew) == {"Ada", "Ben"}
    page = first.get("/jobs/new").text
    assert '<option value="eu" selected>' in page
    assert '<option value="metric" selected>' in page
    assert first.get("/").url.path == "/"
    # It is said once; a second tab that still shows the page changes nothing.
    assert "begun already" in errors(send(first, "/begin", FIRM | {"name": "Other"}))["the-form-form"]
    assert "These books have begun" in first.get("/begin").text


def test_what_cannot_be_is_said_at_its_field(first, empty):
    wrong = FIRM | {"name": "", "painters": "Ada, ada", "currency": "euros", "labour_per_h": "much", "country": "moon"}
    said = errors(send(first, "/begin", wrong))
    assert {f"the-form-{field}" for field in ("name", "painters", "currency", "labour_per_h", "country")} <= set(said)
    assert "family name" in said["the-form-painters"]
    assert "the-form-tax_pct" in errors(send(first, "/begin", FIRM | {"tax_pct": "900"}))
    assert beginning.is_first_run(fresh(empty))


def test_sample_jobs_come_with_the_firm_s_own_painters_and_go_one_by_one(first, empty):
    assert send(first, "/begin", FIRM | {"samples": "on"}).headers["hx-redirect"].endswith("/jobs")
    scope = fresh(empty)
    listed = jobs.list_jobs(scope)
    assert len(listed) == 4
    assert all(job.crew == ["Ada", "Ben"] for job in listed)
    jobs.remove(scope, listed[0].id)
    assert len(jobs.list_jobs(fresh(empty))) == 3
    assert changes.last_removed(fresh(empty)) is not None

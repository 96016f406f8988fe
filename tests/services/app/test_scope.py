"""Scope: what belongs to one contractor is found by nobody else; one request reads once; the way back says whose change it is."""

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import pytest
from sqlalchemy import event
from typer.testing import CliRunner

from amber_gable.cli import app as cli
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.errors import ConflictError, NotFoundError
from amber_gable.services.app.machine.opening import open_app
from amber_gable.services.app.owners import ContractorError, home_of, open_books
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.office import rates, shelf, stock
from amber_gable.services.office.stock import StockFacts
from amber_gable.services.survey.building import blocks, openings
from amber_gable.services.survey.building.openings import OpeningFacts
from amber_gable.services.survey.evidence import findings
from amber_gable.services.survey.evidence.findings import FindingFacts, findings_of
from tests.support.records import everything, last
from tests.support.surveys import WING

DOOR = OpeningFacts("entry-door", 0.9, 2.0, 1.0, 0.5)


@pytest.fixture
def rival(opened):
    """Another contractor in the same database, served by an application of its own."""
    command = ["contractor", "Marsh & Daughter", "--units", "metric", "--painter", "Edda"]
    assert CliRunner().invoke(cli, command, env={"AMBER_GABLE_DATA_DIR": str(opened.settings.data_dir)}).exit_code == 0
    app = open_app(opened.settings.model_copy(update={"contractor": "Marsh & Daughter"}))
    app.weather = opened.weather
    yield Scope(app, "Edda")
    app.engine.dispose()


def test_neither_sees_nor_changes_what_is_the_others(opened, rival, job):
    before = everything(opened)
    assert jobs.list_jobs(rival) == []
    assert jobs.counts(rival) == {}
    assert stock.rows(rival) == []
    for read in (jobs.whole, jobs.head, jobs.remove):
        with pytest.raises(NotFoundError):
            read(rival, job.id)
    with pytest.raises(NotFoundError):
        openings.add_opening(rival, job.id, job.building.elevations[0].id, DOOR)
    jobs.remove(opened, job.id)
    removal = changes.last_removed(opened)
    assert changes.last_removed(rival) is None
    with pytest.raises(NotFoundError):
        changes.undo(rival, removal.set_id)
    changes.undo(opened, removal.set_id)
    assert everything(opened) == before


def test_prices_and_shelves_are_each_contractors_own(opened, rival):
    path = "money.labour_per_h"
    rates.change_prices(rival, {path: 77.0})
    opened.renew()
    assert (rival.knowledge.money.labour_per_h, opened.knowledge.money.labour_per_h) == (77.0, shipped().money.labour_per_h)
    ours = stock.rows(opened)[0]
    for act in (stock.keep_for, stock.remove):
        with pytest.raises(NotFoundError):
            act(rival, ours.id, "no job", *([True] if act is stock.keep_for else []))
    stock.add(rival, StockFacts("rivermark-exterior-satin", "#446655", 3.0, "", "van"), None)
    assert len(stock.rows(rival)) == 1
    assert all(row.place != "van" for row in stock.rows(opened))
    assert shelf.own_keys(opened) == shelf.own_keys(rival) == {}


def test_what_another_process_changed_holds_from_the_next_request_on(opened, job):
    beside = open_app(opened.settings)
    first = Scope(beside, "office", holds=True)
    assert first.knowledge.money == opened.knowledge.money
    rates.change_prices(opened, {"money.labour_per_h": 61.0})
    assert first.knowledge.money.labour_per_h != 61.0, "one request sees one state"
    first.release()
    assert Scope(beside, "office", holds=True).knowledge.money.labour_per_h == 61.0
    beside.engine.dispose()


def test_a_process_says_for_whom_it_works_where_that_is_not_clear(opened, rival):
    with opened.reading() as session:
        with pytest.raises(ContractorError, match="several contractors: “Fennel & Rook Painting”, “Marsh & Daughter”"):
            home_of(session, "")
        with pytest.raises(ContractorError, match="AMBER_GABLE_CONTRACTOR is “Nobody”"):
            home_of(session, "Nobody")
        assert home_of(session, rival.contractor_id) == rival.contractor_id
    with pytest.raises(ContractorError, match="already"), opened.writing() as session:
        open_books(session, "Marsh & Daughter")


def test_one_request_reads_in_one_session_that_is_let_go_before_anything_long(opened, job):
    began: list[str] = []
    event.listen(opened.app.engine, "begin", lambda _: began.append("begin"))
    scope = Scope(opened.app, "Ines", holds=True)
    findings_of(scope, job.id)
    jobs.head(scope, job.id)
    assert len(began) == 1
    # What is short to compute reads in the transaction that its key was read in; what is long has none, nor has who waits for it.
    scope.cached(("test", job.id), lambda: [jobs.head(scope, job.id), began.append("computed")])
    assert scope.calculated(sum, (1, 2)) == 3
    findings_of(scope, job.id)
    with scope.reading():
        scope.release()
        findings_of(scope, job.id)
    assert began == ["begin", "computed", "begin"]
    scope.release()
    assert opened.app.engine.pool.checkedout() == 0


def test_who_waits_for_anothers_result_holds_no_connection(opened, job):
    scope, begun, ends = Scope(opened.app, "Ines", holds=True), threading.Event(), threading.Event()

    def slow() -> str:
        begun.set()
        ends.wait(60)
        return "computed"

    jobs.head(scope, job.id)
    assert opened.app.engine.pool.checkedout() == 1
    with ThreadPoolExecutor(2) as threads:
        one = threads.submit(opened.app.cache.get, ("slow",), slow)
        assert begun.wait(60)
        other = threads.submit(scope.cached, ("slow",), lambda: "computed twice")
        until = time.monotonic() + 60
        while opened.app.engine.pool.checkedout() and time.monotonic() < until:
            time.sleep(0.005)
        assert (opened.app.engine.pool.checkedout(), other.done()) == (0, False)
        ends.set()
        assert one.result() == other.result() == "computed"


def test_undo_names_who_did_it_and_what_stands_on_it(opened, job, surface_named):
    ines, tobias = (Scope(opened.app, name) for name in ("Ines", "Tobias"))
    elevation = job.building.elevations[0]
    openings.add_opening(ines, job.id, elevation.id, DOOR)
    done = changes.undoable(opened, job.id)
    assert (done.label, done.who) == ("add the entry door", "Ines")
    opening = next(
        o for e in jobs.whole(opened, job.id).building.elevations for o in e.openings if o.kind == "entry-door" and o.left_m == 1
    )
    openings.remove_opening(tobias, job.id, opening.id)
    with pytest.raises(ConflictError, match=r"“add the entry door” by Ines cannot be undone: a later change stands on it, .* by Tobias"):
        changes.undo(opened, done.set_id)


def test_what_hangs_on_a_row_or_bears_it_holds_undo_up(opened, job):
    ines, tobias = (Scope(opened.app, name) for name in ("Ines", "Tobias"))
    wing = blocks.add_block(ines, job.id, replace(WING, parent=job.building.blocks[0].id, from_left_m=1.0))
    built = last(opened, job.id)[0]
    side = next(e for e in jobs.whole(opened, job.id).building.elevations if e.block_id == wing)
    findings.add_finding(tobias, job.id, side.id, FindingFacts(kind="peeling", extent="spots", x_m=1.0, y_m=1.0))
    with pytest.raises(ConflictError, match=r"by Tobias\. Undo that one first"):
        changes.undo(opened, built)
    # And the other way: a pin comes back only while its wall is there.
    pin = findings_of(opened, job.id)[-1]
    findings.remove_finding(tobias, job.id, pin.id)
    removed = last(opened, job.id)[0]
    blocks.remove_block(ines, job.id, wing)
    with pytest.raises(ConflictError, match=r"a later change stands on it, .* by Ines"):
        changes.undo(opened, removed)

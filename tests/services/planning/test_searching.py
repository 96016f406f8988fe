"""The search for a better plan: it runs beside the pages, can be stopped, may die, and changes nothing until it is taken."""

import time
from dataclasses import asdict

import pytest

from amber_gable.core.planning.crew.values import Habits
from amber_gable.errors import NotFoundError
from amber_gable.services.changes import changes
from amber_gable.services.planning import schedules
from amber_gable.services.planning.making import searching
from amber_gable.store.models import PlanSearch
from amber_gable.store.types import new_id
from tests.support.pages import errors, send

pytestmark = pytest.mark.small


@pytest.fixture
def kept(opened, job):
    return schedules.make(opened, job)


@pytest.fixture
def wasteful(opened, job):
    """A plan whose crew waits ten hours on a house before it goes to another, by a way that was taken once."""
    way = {"jobs": [], "habits": asdict(Habits(patience_steps=40, worth_the_way_h=8.0, each_h=3.0)), "pressing": {}}
    with opened.writing() as session:
        session.add(search_row(opened, "taken", way))
    return schedules.make(opened, job)


def search_row(scope, state: str, way: dict) -> PlanSearch:
    return PlanSearch(
        id=new_id(), contractor_id=scope.contractor_id, asked_at=scope.clock.now(), asked_by="office", mark="", state=state,
        tries=100, tried=12, first_cost={}, best_cost={}, way=way, fault="",
    )  # fmt: skip


def ended(scope, seconds: float = 60.0):
    until = time.monotonic() + seconds
    while scope.app.searches and time.monotonic() < until:
        time.sleep(0.05)
    assert not scope.app.searches, "it has not ended"
    return searching.newest(scope)


def starts(schedule):
    return [(s.id, s.starts_at, s.painters) for s in schedule.stints]


@pytest.mark.takes(7)
@pytest.mark.four
def test_a_search_is_followed_taken_and_undone(client, opened, job, wasteful):
    assert "Look for a better plan" in client.get("/crew").text
    searching.begin_search(opened, tries=12)
    first = next(iter(opened.app.searches.values()))
    searching.begin_search(opened, tries=12)
    assert list(opened.app.searches.values()) == [first], "two who ask at once share one search"
    page = client.get("/crew/search").text
    assert "Stop here" in page
    assert "of 12 plans" in page
    look = ended(opened)
    assert (look.state, look.tried, look.tries) == ("done", 12, 12)
    assert look.first is not None
    # What a plan is made from, before it is settled, which only makes it cheaper.
    assert look.first.total >= wasteful.cost.total - 0.01
    assert look.is_better, "this crew waits for hours beside work of other houses"
    page = client.get("/crew").text
    assert "less was found" in page
    assert starts(schedules.saved(opened, job)) == starts(wasteful), "nothing is changed until it is taken"
    assert send(client, f"/crew/search/{look.id}", {}).headers["hx-redirect"].endswith("/crew#plan-cost")
    taken = schedules.saved(opened, job)
    assert taken.cost.total <= look.best.total + 0.01
    # Mending goes on in the way that was taken, and moves nothing by itself.
    again = schedules.make(opened, job)
    assert [s for s in starts(again) if s[1] < again.stints[0].starts_at] == []
    assert not again.moves
    assert errors(send(client, f"/crew/search/{look.id}", {})) or searching.newest(opened).state == "taken"
    undoable = changes.undoable(opened, job.id)
    assert undoable is not None


def test_a_stopped_search_keeps_its_best_and_what_it_found_may_be_left(client, opened, kept):
    searching.begin_search(opened, tries=5000)
    until = time.monotonic() + 60
    while (look := searching.newest(opened)).tried < 3 and time.monotonic() < until:
        time.sleep(0.05)
    send(client, "/crew/search/stop", {})
    look = ended(opened, 15)
    assert look.state == "stopped"
    assert 3 <= look.tried < 5000
    assert not look.fault
    send(client, f"/crew/search/{look.id}", {"how": "leave"})
    assert not searching.newest(opened).is_better
    with pytest.raises(NotFoundError):
        schedules.take_found(opened, look.id)


def test_a_search_that_dies_says_so_and_the_plan_stands(client, opened, job, kept):
    searching.begin_search(opened, tries=5000)
    next(iter(opened.app.searches.values()))._process.kill()
    look = ended(opened, 15)
    assert look.state == "failed"
    page = client.get("/crew").text
    assert "did not come to its end" in page
    assert "Look for a better plan" in page
    assert starts(schedules.saved(opened, job)) == starts(kept)


def test_a_search_that_was_running_when_the_application_ended_is_over(opened, kept):
    with opened.writing() as session:
        session.add(search_row(opened, "running", {}))
    look = searching.newest(opened)
    assert look.state == "failed"
    assert "started anew" in look.fault
    searching.begin_search(opened, tries=2)
    assert ended(opened).state == "done"

"""A plan that is being made says how far it is, is made once at a time, and can be stopped; then nothing has changed."""

import threading

import pytest

from amber_gable.services.planning import schedules
from amber_gable.services.planning.making import underway
from amber_gable.services.planning.making.underway import StoppedError

pytestmark = pytest.mark.small


def test_a_planning_says_how_far_it_is_and_is_written_once(opened, job):
    said = []
    step = underway.Making._step

    def heard(self, words, done, of):
        said.append((done / of, words))
        step(self, words, done, of)

    underway.Making._step = heard
    try:
        making = underway.begin(opened, lambda own: schedules.make(own, job))
        assert making.wait(300)
    finally:
        underway.Making._step = step
    assert making.fault is None
    assert [share for share, _ in said] == sorted(share for share, _ in said), "it never goes back"
    assert any(job.name in words for _, words in said)
    assert schedules.saved(opened, job) is not None
    assert underway.of_firm(opened) is None


def test_a_planning_that_is_stopped_writes_nothing_and_two_are_one(opened, job):
    begun, goes_on = threading.Event(), threading.Event()

    def work(own):
        begun.set()
        goes_on.wait(60)
        schedules.make(own, job)

    before = schedules.saved(opened, job)
    making = underway.begin(opened, work)
    assert begun.wait(60)
    assert underway.begin(opened, work) is making, "one at a time"
    making.stop()
    goes_on.set()
    assert making.wait(300)
    assert isinstance(making.fault, StoppedError)
    assert schedules.saved(opened, job) == before


def test_the_page_shows_a_planning_and_stops_it(client, opened, job):
    goes_on = threading.Event()
    making = underway.begin(opened, lambda _own: (goes_on.wait(60), underway.told("Hours of Tollkeeper's House", 1, 4)))
    page = client.get(f"/jobs/{job.id}/schedule").text
    assert "Planning all running jobs" in page
    assert client.post(f"/jobs/{job.id}/schedule/making/stop", headers={"hx-request": "true"}).status_code == 200
    goes_on.set()
    assert making.wait(60)
    said = client.get(f"/jobs/{job.id}/schedule/making").text
    assert "The planning was stopped" in said


def test_a_fault_of_ours_does_not_hang_the_page(opened):
    def work(_own):
        raise ZeroDivisionError

    making = underway.begin(opened, work)
    assert making.wait(60)
    assert underway.said_of(making).startswith("Something went wrong on our side")
    with pytest.raises(ZeroDivisionError):
        raise making.fault

"""State of work: derived from the record alone; what nobody recorded is not done."""

import math

import pytest

from amber_gable.core.knowledge import Phase, Wait
from amber_gable.core.planning.state import Entry, State, Told, on_record, states_of
from amber_gable.core.planning.work import WaitsFor, WorkTask

H = 3600.0


def task(name: str, hours: float, after: str = "", wait: Wait | None = None, held: tuple[str, ...] = ()) -> WorkTask:
    waits = (WaitsFor(after, wait or Wait(law="clock")),) if after else ()
    return WorkTask(
        name, "wall", "north", "North wall", name, name, Phase.MEND, hours, (1, 4), "ground", (), "any", after=waits, held_by=held
    )


WASH, DRY, SAND = task("wash", 1.0), task("dry", 0.0, "wash"), task("sand", 2.0, "dry", Wait(law="wetness"))
COAT = task("coat", 2.0, "sand", Wait(hours=1, law="clock"))
TASKS = (WASH, DRY, SAND, COAT)


def done(name: str, until_h: float, share: float = 1.0, entry: str = "") -> Entry:
    return Entry(entry or f"e-{name}-{until_h}", name, Told.DONE, (until_h - 1) * H, until_h * H, share, until_h * H)


def ready_s(before: WorkTask, wait: WaitsFor, end_s: float) -> float:
    """Ten hours until dry; otherwise the hours of the wait."""
    return end_s + (10 if wait.wait.law == "wetness" else wait.wait.hours) * H


def states(entries, now_h: float, tasks=TASKS) -> dict[str, State]:
    return {i: s.state for i, s in states_of(tasks, on_record(entries), now_h * H, ready_s).items()}


def test_nothing_counts_as_done_that_was_not_recorded():
    assert states([], 1000.0) == {"wash": State.READY, "dry": State.TO_DO, "sand": State.TO_DO, "coat": State.TO_DO}


def test_work_goes_on_as_its_waits_are_over():
    washed = [done("wash", 9)]
    assert states(washed, 10) == {"wash": State.DONE, "dry": State.DRYING, "sand": State.TO_DO, "coat": State.TO_DO}
    waiting = states_of(TASKS, on_record(washed), 10 * H, ready_s)["sand"]
    assert waiting.ready_s == pytest.approx(19 * H)
    assert states(washed, 19)["sand"] is State.READY
    begun = [*washed, Entry("b", "sand", Told.BEGAN, 20 * H, 20 * H)]
    assert states(begun, 21)["sand"] is State.UNDER_WAY
    half = [*begun, done("sand", 22, 0.5)]
    assert states_of(TASKS, on_record(half), 23 * H, ready_s)["sand"].done_frac == pytest.approx(0.5)
    whole = [*half, done("sand", 24, 0.5)]
    assert states(whole, 24.5) == {"wash": State.DONE, "dry": State.DONE, "sand": State.DRYING, "coat": State.TO_DO}
    assert states(whole, 25)["coat"] is State.READY


def test_a_correction_takes_an_entry_back_and_the_state_with_it():
    entries = [done("wash", 9, entry="first"), Entry("c", "wash", Told.WITHDRAWN, 0, 0, corrects="first")]
    assert states(entries, 30) == states([], 30)


def test_what_is_spoilt_is_to_be_done_again_until_it_is_done_anew():
    entries = [done("wash", 9), Entry("a", "wash", Told.AGAIN, 10 * H, 10 * H, said_s=10 * H, remark="mud")]
    assert states(entries, 30)["wash"] is State.AGAIN
    assert states(entries, 30)["sand"] is State.TO_DO
    assert states([*entries, done("wash", 31)], 32)["wash"] is State.DONE


def test_what_is_left_out_holds_nothing_up_and_says_why():
    entries = [Entry("l", "wash", Told.LEFT_OUT, 1 * H, 1 * H, remark="rained clean")]
    found = states_of(TASKS, on_record(entries), 40 * H, ready_s)
    assert (found["wash"].state, found["wash"].why) == (State.LEFT_OUT, "rained clean")
    assert found["sand"].state is State.READY


def test_a_gate_holds_a_step_and_what_waits_for_it():
    held = (WASH, DRY, task("sand", 2.0, "dry", Wait(law="wetness"), ("lead",)), COAT)
    found = states_of(held, on_record([done("wash", 9)]), 40 * H, ready_s)
    assert (found["sand"].state, found["sand"].why) == (State.HELD, "lead")
    assert (found["coat"].state, found["coat"].waits_for) == (State.TO_DO, "sand")


def test_a_wait_that_the_weather_never_ends_is_not_over():
    found = states_of(TASKS, on_record([done("wash", 9)]), 500 * H, lambda *_: math.inf)
    assert found["sand"].state is State.TO_DO
    assert found["dry"].state is State.DRYING

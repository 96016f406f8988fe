"""Results are computed once each, whoever asks; nobody waits for another's; the longest unused go first, by their bytes."""

import os
import signal
import threading
import time

import numpy as np
import pytest

from amber_gable.core.air.weather import WeatherError
from amber_gable.services.app.cache import ResultCache, size_bytes
from amber_gable.services.app.calculator import Calculator


def together(*acts):
    threads = [threading.Thread(target=act) for act in acts]
    for thread in threads:
        thread.start()
    return threads


def test_many_who_ask_for_the_same_get_one_computation():
    cache, computed, got = ResultCache(10**6), [], []
    begin = threading.Barrier(8)

    def compute():
        computed.append(1)
        time.sleep(0.1)
        return "result"

    def ask():
        begin.wait()
        got.append(cache.get("key", compute))

    for thread in together(*[ask] * 8):
        thread.join()
    assert (len(computed), got) == (1, ["result"] * 8)


def test_nobody_waits_for_another_key():
    cache, may_end = ResultCache(10**6), threading.Event()
    slow = together(lambda: cache.get("slow", lambda: may_end.wait(10)))[0]
    while not cache._under_way:
        time.sleep(0.001)
    assert cache.get("quick", lambda: 1) == 1
    assert cache.peek("slow") is None, "it is still being computed"
    may_end.set()
    slow.join()
    assert cache.peek("slow") is True


def test_what_is_computed_may_rest_on_something_else_that_is_kept():
    cache = ResultCache(10**6)
    assert cache.get("outer", lambda: cache.get("inner", lambda: 2) + 1) == 3
    assert cache.peek("inner") == 2


def test_a_fault_reaches_everybody_and_is_not_kept():
    cache, begin, faults = ResultCache(10**6), threading.Barrier(3), []

    def compute():
        time.sleep(0.05)
        raise ValueError("no")

    def ask():
        begin.wait()
        try:
            cache.get("key", compute)
        except ValueError as fault:
            faults.append(str(fault))

    for thread in together(ask, ask, ask):
        thread.join()
    assert faults == ["no"] * 3
    assert cache.get("key", lambda: "now it works") == "now it works"


def test_the_longest_unused_go_when_the_bytes_are_full():
    cache = ResultCache(100_000)
    for name in "abc":
        cache.get(name, lambda: np.zeros(4000))  # 32 kB
    cache.peek("a")
    cache.get("d", lambda: np.zeros(4000))
    assert [name for name in "abcd" if cache.peek(name) is not None] == ["a", "c", "d"]
    figures = cache.figures()
    assert figures.size_bytes <= figures.limit_bytes
    assert (figures.results, figures.evicted) == (3, 1)
    assert len(cache.get("huge", lambda: np.zeros(10**6))) == 10**6, "what is larger than all is given and not kept"
    assert cache.peek("huge") is None


def test_sizes_count_arrays_once_and_views_by_their_whole():
    array = np.zeros(10_000)
    assert size_bytes([array, array]) == pytest.approx(80_000, rel=0.01)
    assert size_bytes(array[:10]) == 80_000, "a view holds on to all of it"
    assert size_bytes({"a": "x" * 5000}) == pytest.approx(5000, rel=0.1)


@pytest.fixture
def calculator():
    made = Calculator()
    yield made
    made.close()


def refuse(value: float) -> float:
    raise WeatherError(f"not {value}", "hours")


def test_the_calculator_gives_what_the_function_gives_and_raises_what_it_raises(calculator):
    assert calculator.run(os.getpid) != os.getpid(), "in a process of its own"
    assert calculator.run(max, [1, 3, 2]) == 3
    with pytest.raises(WeatherError, match="not 2"):
        calculator.run(refuse, 2)


def test_a_calculator_that_is_busy_or_killed_keeps_nobody_from_an_answer(calculator):
    pid = calculator.run(os.getpid)
    busy = together(lambda: calculator.run(time.sleep, 0.5, waits=True))[0]
    time.sleep(0.1)
    assert calculator.run(os.getpid) == os.getpid(), "busy: computed in place"
    busy.join()
    os.kill(pid, signal.SIGKILL)
    time.sleep(0.1)
    assert calculator.run(max, [1, 2]) == 2
    assert calculator.run(os.getpid) not in (os.getpid(), pid), "started anew"


def test_the_calculator_ends_with_its_parent_or_when_told(calculator):
    pid = calculator.run(os.getpid)
    calculator.close()
    with pytest.raises(ProcessLookupError):
        os.kill(pid, 0)
    assert calculator.run(max, [1, 2]) == 2, "computed in place from then on"

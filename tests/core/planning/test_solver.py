"""The solver: published instances to their optimum, tiny ones against all plans, an answer for what does not fit."""

import time

import pytest

from amber_gable.errors import PlanError
from amber_gable.services.reckonings import find, reckon
from tests.support import schedules


def solved(request: dict) -> dict:
    return reckon(find("schedule"), request).model_dump()


def test_published_job_shops_are_solved():
    # Optima by Fisher and Thompson's and Lawrence's sets.
    for text, optimum in ((schedules.FT06, 55), (schedules.LA01, 666)):
        answer = solved(schedules.job_shop(text))
        assert (answer["status"], answer["makespan_steps"], answer["bound_steps"]) == ("optimal", optimum, optimum)
        assert schedules.faults(schedules.job_shop(text), answer["starts"]) == []


@pytest.mark.slow
def test_the_ten_by_ten_job_shop_comes_within_two_percent():
    answer = solved(schedules.job_shop(schedules.FT10))
    assert 930 <= answer["makespan_steps"] <= 930 * 1.02
    assert answer["bound_steps"] <= 930
    assert schedules.faults(schedules.job_shop(schedules.FT10), answer["starts"]) == []


@pytest.mark.parametrize("seed", range(8))
def test_projects_of_thirty_tasks_are_solved_to_the_optimum(seed):
    request = schedules.project(seed)
    answer = solved(request)
    assert answer["status"] == "optimal"
    assert schedules.faults(request, answer["starts"]) == []


@pytest.mark.takes(7)
def test_tiny_problems_equal_a_search_of_all_plans():
    for seed in range(150):
        request = schedules.tiny(seed)
        answer = solved(request)
        assert schedules.faults(request, answer["starts"]) == [], seed
        best = schedules.best_of_all(request)
        assert schedules.rank(request, answer["starts"]) == pytest.approx(best), seed
        assert answer["status"] == ("infeasible" if best[0] else "optimal"), seed
        assert answer["makespan_steps"] == best[1]
        assert {one["id"] for one in answer["unplaced"]} == {t["id"] for t in request["tasks"]} - set(answer["starts"])
        assert all(one["why"] for one in answer["unplaced"])


def test_the_same_request_has_the_same_answer_and_an_answer_is_a_good_hint():
    request = schedules.project(3) | {"time_limit_s": 0.5}
    first = solved(request)
    assert solved(request) == first
    assert solved(request | {"hint": first["starts"]})["makespan_steps"] <= first["makespan_steps"]
    some = dict(list(first["starts"].items())[::3])
    kept = solved(request | {"keep": some})
    assert {i: kept["starts"][i] for i in some} == some


def task(name: str, steps: int, **more) -> dict:
    return {"id": name, "duration_steps": steps, **more}


BASE = {"step_min": 30, "horizon_steps": 12, "crew": 2, "equipment": {"lift": 1}, "time_limit_s": 5, "seed": 1}


def test_what_does_not_fit_is_named_with_what_stands_in_its_way():
    # Two tasks that take all of the crew in the same hour; a third has the day to itself.
    request = BASE | {"tasks": [
        task("far", 1, allowed_starts=[9]), task("one", 3, crew=2, allowed_starts=[4]), task("two", 3, crew=2, allowed_starts=[5]),
        task("later", 1, after=[{"task": "two"}]),
    ]}  # fmt: skip
    answer = solved(request)
    assert answer["status"] == "infeasible"
    assert set(answer["starts"]) == {"far", "two", "later"}
    assert answer["unplaced"][0]["id"] == "one"
    assert "two" in answer["unplaced"][0]["why"]
    assert "far" not in answer["unplaced"][0]["why"]
    chain = BASE | {"tasks": [task("wash", 2, release=8), task("coat", 2, after=[{"task": "wash", "lag_steps": 6}]), task("sand", 1)]}
    why = solved(chain)["unplaced"]
    assert [one["id"] for one in why] == ["coat"]
    assert "wash" in why[0]["why"]


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        (
            {"tasks": [task("a", 1, after=[{"task": "b"}]), task("b", 1, after=[{"task": "a"}])]},
            "tasks.1.after.0.task",
            "wait for one another",
        ),
        ({"tasks": [task("a", 1, after=[{"task": "a"}])]}, "tasks.0.after.0.task", "wait for one another"),
        ({"tasks": [task("a", 1), task("b", 1, after=[{"task": "c"}])]}, "tasks.1.after.0.task", "no task named 'c'"),
        ({"tasks": [task("a", 1, crew=3)]}, "tasks.0.crew", "the crew has 2"),
        ({"tasks": [task("a", 1, equipment=["crane"])]}, "tasks.0.equipment.0", "no equipment named 'crane'"),
        ({"tasks": [task("a", 1, equipment={"lift": 2})]}, "tasks.0.equipment.lift", "takes 2 of lift; there is 1"),
        ({"tasks": [task("a", -1)]}, "tasks.0.duration_steps", "must be 0 to"),
        ({"tasks": [task("a", True)]}, "tasks.0.duration_steps", "number"),
        ({"tasks": [task("a", 1, allowed_starts=[[3, 2]])]}, "tasks.0.allowed_starts.0", "lies after its last"),
        ({"tasks": [task("a", 1, allowed_starts=[1.5])]}, "tasks.0.allowed_starts.0", "whole step"),
        ({"tasks": [task("a", 1), task("a", 1)]}, "tasks.1.id", "Two tasks"),
        ({"tasks": [task("a", 1, after=[{"task": "a", "lag_steps": 1, "ready_at": [1]}])]}, "tasks.0.after.0.ready_at", "not both"),
        ({"tasks": [], "horizon_steps": 20_001}, "horizon_steps", "1 to 20000"),
        ({"tasks": [], "time_limit_s": 21}, "time_limit_s", "20 s"),
        ({"tasks": [], "hint": {"x": 1}}, "hint.x", "no task named"),
        ({"tasks": [], "keep": {"x": 1}}, "keep.x", "no task named"),
    ],
)
def test_bad_requests_are_refused_at_their_path(change, field, words):
    with pytest.raises(PlanError, match=words) as fault:
        solved(BASE | change)
    assert fault.value.field == field


@pytest.mark.takes(20)
def test_a_large_request_is_answered_within_its_limit():
    """A thousand tasks that cannot all fit, and five thousand with a second: an answer all the same, in about that time."""
    crowd = BASE | {"horizon_steps": 300, "crew": 6, "tasks": [task(f"t{n}", 3, crew=n % 4) for n in range(1000)], "time_limit_s": 1}
    began = time.monotonic()
    answer = solved(crowd)
    assert answer["status"] == "infeasible"
    assert schedules.faults(crowd, answer["starts"]) == []
    many = BASE | {"horizon_steps": 20_000, "tasks": [task(f"t{n}", 2, crew=1) for n in range(5000)], "time_limit_s": 1}
    answer = solved(many)
    # Two people, two steps each: no plan ends before step 5,000.
    assert (answer["makespan_steps"], answer["bound_steps"]) == (5000, 5000)
    assert time.monotonic() - began < 120

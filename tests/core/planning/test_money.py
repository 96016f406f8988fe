"""What plans cost, reckoned by hand; better ones are better and break no rule; the bound is one."""

import random
from dataclasses import replace
from datetime import date
from itertools import pairwise

import numpy as np
import pytest

from amber_gable.core.planning.crew.dispatch import dispatched
from amber_gable.core.planning.crew.machines import Machine, Reserved
from amber_gable.core.planning.crew.mend import mended
from amber_gable.core.planning.crew.money import Promise, Terms, cost_of, days_in
from amber_gable.core.planning.crew.search import Given, improved, soonest_ends, tried, usual_way
from amber_gable.core.planning.crew.values import AfterTask, CrewTask, Painter, Stretch
from tests.core.planning.test_dispatch import COUNT, CREW, faults, random_tasks

MONDAY = date(2026, 9, 14)
TERMS = Terms(50.0, 8.0, 1.25, days_in(MONDAY, 0, 4 * 96))


def task(name: str, job: str = "A", hours: float = 1.0, **more) -> CrewTask:
    return CrewTask(name, job, "north", hours, (1, 3), more.pop("gear", ()), np.ones(4 * 96, dtype=bool), **more)


def test_wages_are_paid_from_the_first_to_the_last_work_of_a_day_with_setting_up():
    tasks = {"a": task("a"), "b": task("b", "B")}
    # Eight to nine at A, eleven to twelve at B: four hours, of them two without work, and two houses to set up at.
    plan = {"a": Stretch("a", 32, 36, ("Ines",), ""), "b": Stretch("b", 44, 48, ("Ines",), "")}
    cost = cost_of(plan, tasks, TERMS)
    assert cost.wages == (4 + 2 * 1.25) * 50
    assert cost.waiting_h == 2.0
    assert (cost.overtime, cost.hire, cost.rework, cost.late, cost.missing) == (0, 0, 0, 0, 0)
    # Both jobs are open for their first day: each an hour and a half of a wage.
    assert cost.open_days == 2 * 1.5 * 50
    assert cost.total == cost.wages + cost.open_days


def test_overtime_costs_half_more_and_work_without_a_place_ten_times_its_wages():
    tasks = {"a": task("a", hours=9.0), "lost": task("lost", hours=2.0)}
    cost = cost_of({"a": Stretch("a", 32, 68, ("Ines",), "")}, tasks, TERMS)
    assert cost.overtime == (9 + 1.25 - 8) * 0.5 * 50
    assert cost.missing == 2.0 * 10 * 50


def test_hire_promises_and_failing_coats():
    tower = Machine(label="Tower", is_hired=True, per_day=40.0, delivery=100.0, lead_days=0)
    risk = np.zeros(4 * 96)
    risk[97] = 0.1
    tasks = {"a": task("a", gear=("tower@A",), is_wet=True, risk=risk), "b": task("b", gear=("tower@A",))}
    plan = {"a": Stretch("a", 96, 100, ("Ines",), ""), "b": Stretch("b", 192, 196, ("Ines",), "")}
    terms = replace(TERMS, machines={"tower@A": tower}, promises={"A": Promise(MONDAY, 75.0)})
    cost = cost_of(plan, tasks, terms)
    assert cost.hire == 2 * 40 + 100
    assert cost.late == 2 * 75
    # A tenth of an hour's coat is done again, and as long taken off.
    assert cost.rework == pytest.approx(0.1 * 2 * 50)
    agreed = tower.model_copy(update={"reserved": (Reserved(first=MONDAY, last=date(2026, 9, 20), job="A"),)})
    assert cost_of(plan, tasks, replace(terms, machines={"tower@A": agreed})).hire == 0


@pytest.mark.parametrize("block", range(8))
def test_a_mended_plan_breaks_no_rule_keeps_what_it_may_and_is_mended_once(block):
    """A day off, or a day of rain, comes over random plans: 160 of them, by the independent checker."""
    better = 0
    for seed in range(20 * block, 20 * (block + 1)):
        chance, given = random.Random(f"mend {seed}"), given_of(seed)
        plan = tried(given, usual_way(given)).plan
        day = slice(96 * chance.randint(0, 3), None)
        day = slice(day.start, day.start + 96)
        if chance.random() < 0.5:
            works = np.ones(COUNT, dtype=bool)
            works[day] = False
            crew = tuple(replace(p, works=works) if p.name == "Tobias" else p for p in CREW)
            now = replace(given, painters=crew, keep=tuple(plan.values()))
        else:
            shut = np.ones(COUNT, dtype=bool)
            shut[day] = False
            crew, tasks = CREW, [replace(t, may=t.may & shut) if t.is_wet else t for t in given.tasks]
            now = replace(given, tasks=tasks, keep=tuple(plan.values()))
        stiff, found = tried(now, usual_way(now)), mended(now, usual_way(now))
        assert faults(list(now.tasks), found.plan, crew) == [], seed
        assert found.cost.missing <= stiff.cost.missing + 1e-9
        again = replace(now, keep=tuple(found.plan.values()))
        assert mended(again, usual_way(again)).plan == found.plan, f"{seed}: mended twice it moves nothing"
        better += found.cost.total < stiff.cost.total - 1
    assert better, "it is worth something"


def test_a_coat_whose_painter_is_ill_gets_the_one_who_has_work_that_can_wait():
    """The coat may go on today or on the fourth day; Tobias, who was to put it on, is ill, and Ines scrapes, which she may do any day."""
    works = np.array([32 <= n % 96 < 68 for n in range(4 * 96)])
    open_hours = works & np.array([40 <= n < 56 or 328 <= n < 344 for n in range(4 * 96)])
    coat = replace(task("coat", hours=4.0, is_wet=True), may=open_hours)
    scrape = replace(task("scrape", hours=8.0), may=works, side="south")
    after = replace(task("finish", hours=1.0), may=works, after=(AfterTask("coat", None, "the coat"),))
    was = (Stretch("coat", 40, 56, ("Tobias",), ""), Stretch("scrape", 32, 64, ("Ines",), ""), Stretch("finish", 128, 132, ("Ines",), ""))
    given = Given([coat, scrape, after], [Painter("Ines")], ("A",), 4 * 96, works, {}, was, replace(TERMS, days=days_in(MONDAY, 0, 4 * 96)))
    stiff, plan = tried(given, usual_way(given)), mended(given, usual_way(given))
    assert stiff.plan["coat"].start >= 328, "while all that can stay stays, the coat waits for the fourth day"
    assert plan.plan["coat"].start < 96
    assert plan.cost.total < stiff.cost.total
    # Mended again it moves nothing.
    again = replace(given, keep=tuple(plan.plan.values()))
    assert mended(again, usual_way(again)).plan == plan.plan
    # What was put there by hand is not set free.
    pinned = replace(given, keep=(was[0], replace(was[1], is_pinned=True), was[2]))
    assert mended(pinned, usual_way(pinned)).plan["scrape"].start == 32


def test_days_change_at_midnight():
    assert days_in(MONDAY, 94, 4) == (MONDAY, MONDAY, date(2026, 9, 15), date(2026, 9, 15))


def given_of(seed: int) -> Given:
    tasks = random_tasks(seed)
    return Given(tasks, CREW, ("A", "B"), COUNT, np.ones(COUNT, dtype=bool), {}, (), replace(TERMS, days=days_in(MONDAY, 0, COUNT)))


@pytest.mark.parametrize("seed", range(6))
def test_a_search_never_makes_a_plan_worse_loses_work_or_breaks_a_rule(seed):
    given, said = given_of(seed), []
    first = tried(given, usual_way(given))
    best = improved(given, 25, seed, lambda nth, found: said.append((nth, found.cost.total)))
    assert best.cost.total <= first.cost.total
    assert best.cost.missing <= first.cost.missing
    assert faults(list(given.tasks), dict(best.plan)) == []
    assert [nth for nth, _ in said] == list(range(1, 26))
    assert all(b <= a + 1e-9 for (_, a), (_, b) in pairwise(said))
    assert improved(given, 25, seed).cost == best.cost


def test_a_search_finds_what_is_cheaper_where_it_is_plain_to_see():
    # By the usual habits the first job is served first; the second is promised for today and takes all of it.
    tasks = [task("a", "A", 24.0), task("b", "B", 24.0)]
    works = np.array([28 <= n % 96 < 60 for n in range(4 * 96)])
    tasks = [replace(t, may=works, crew=(3, 3)) for t in tasks]
    terms = replace(TERMS, promises={"B": Promise(MONDAY, 500.0)})
    given = Given(tasks, CREW, ("A", "B"), 4 * 96, works, {}, (), terms)
    assert tried(given, usual_way(given)).cost.late == 500
    assert improved(given, 30).cost.late == 0


def test_no_plan_ends_before_its_bound_and_one_piece_alone_ends_at_it():
    for seed in range(40):
        tasks = random_tasks(seed)
        bound = soonest_ends(tasks, COUNT)
        plan = dispatched(tasks, CREW, ("A", "B"), COUNT, np.ones(COUNT, dtype=bool))
        for job, soonest in bound.items():
            own = [t.id for t in tasks if t.job == job]
            if all(i in plan for i in own):
                assert max(plan[i].end for i in own) >= soonest, (seed, job)
        # What the bound has no end for, no plan can place.
        for job in {t.job for t in tasks} - bound.keys():
            assert not all(t.id in plan for t in tasks if t.job == job), (seed, job)
    alone = [replace(random.Random(1).choice(random_tasks(3)), after=())]
    plan = dispatched(alone, CREW, (alone[0].job,), COUNT, np.ones(COUNT, dtype=bool))
    assert soonest_ends(alone, COUNT)[alone[0].job] <= plan[alone[0].id].end

"""Dispatch: an independent checker finds no broken rule in two hundred random plans; a crew behaves as crews do."""

import random
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from amber_gable.core.planning.crew.dispatch import dispatched
from amber_gable.core.planning.crew.values import AfterTask, CrewTask, Painter

DAYS = 4
COUNT = DAYS * 96
NAMES = ("Ines", "Tobias", "Marlow")
CREW = tuple(Painter(name) for name in NAMES)


def working() -> np.ndarray:
    hour = np.arange(COUNT) % 96 / 4
    return (hour >= 7) & (hour < 18)


def windows(chance: random.Random) -> np.ndarray:
    """Hours of the day in which something may be done, other ones each day, none on some."""
    may = np.zeros(COUNT, bool)
    for day in range(DAYS):
        if chance.random() < 0.8:
            first = chance.randint(26, 48)
            may[day * 96 + first : day * 96 + min(first + chance.randint(8, 40), 72)] = True
    return may & working()


def drying(chance: random.Random) -> np.ndarray:
    """By the step at which something ended, when it is dry: slower at night."""
    hours, steps = chance.randint(1, 6), np.arange(COUNT + 1)
    out = np.empty(COUNT + 1, dtype=np.int64)
    for end in steps:
        at, left = int(end), hours * 4.0
        while left > 0 and at < COUNT:
            left -= 1.0 if 32 <= at % 96 < 72 else 0.3
            at += 1
        out[end] = at if left <= 0 else COUNT + 1
    return out


def random_tasks(seed: int) -> list[CrewTask]:
    chance = random.Random(seed)
    tasks: list[CrewTask] = []
    for n in range(chance.randint(3, 18)):
        job = chance.choice("AB")
        earlier = [t.id for t in tasks if t.job == job]
        after = tuple(
            AfterTask(i, drying(chance) if chance.random() < 0.5 else None, "in order")
            for i in chance.sample(earlier, min(len(earlier), chance.choice([0, 1, 1, 2])))
        )
        low = chance.choice([1, 1, 1, 2])
        tasks.append(
            CrewTask(
                f"{job}{n}", job, f"side{chance.randint(1, 2)}", chance.uniform(0.1, 6), (low, chance.randint(low, 3)),
                ("sprayer",) if chance.random() < 0.3 else (), windows(chance), after,
                chance.choice([0, 0, 60]), chance.random() < 0.4, chance.uniform(1, 9),
            )
        )  # fmt: skip
    return tasks


def faults(tasks: list[CrewTask], plan: dict, crew: tuple[Painter, ...] = CREW) -> list[str]:
    """Return every rule that a plan breaks; written from the rules, not from the planner."""
    out, by_id = [], {t.id: t for t in tasks}
    on: dict[str, list[tuple[int, int, str]]] = {name: [] for name in NAMES}
    people = {painter.name: painter for painter in crew}
    for i, at in plan.items():
        task = by_id[i]
        hands = len(at.painters)
        if not task.crew[0] <= hands <= task.crew[1] or len(set(at.painters)) != hands:
            out.append(f"{i}: {hands} painters")
        if (at.end - at.start) * 0.25 * hands < task.hours - 1e-6:
            out.append(f"{i}: too short")
        if not task.may[at.start : at.end].all():
            out.append(f"{i}: not permitted")
        if at.start < task.release:
            out.append(f"{i}: before its release")
        for after in task.after:
            before = plan.get(after.task)
            if before is None:
                out.append(f"{i}: waits for nothing")
            elif at.start < (before.end if after.ready_at is None else max(before.end, after.ready_at[before.end])):
                out.append(f"{i}: does not wait for {after.task}")
        for skill in task.one_with:
            if not any(people[name].skills is None or people[name].skills.get(skill, -1) >= at.end for name in at.painters):
                out.append(f"nobody at {i} has {skill}")
        for name in at.painters:
            works, skills = people[name].works, people[name].skills
            if works is not None and not works[at.start : at.end].all():
                out.append(f"{name} is off at {i}")
            if skills is not None and any(skills.get(skill, -1) < at.end for skill in task.needs):
                out.append(f"{name} may not do {i}")
            on[name].append((at.start, at.end, task.job))
    for name, spans in on.items():
        spans.sort()
        for (_, end, job), (start, _, then) in pairwise(spans):
            if start < end:
                out.append(f"{name} is at two places")
            # Half an hour from house to house, but for those who come from home in the morning.
            if job != then and start // 96 == end // 96 and start < end + 2:
                out.append(f"{name} flies from {job} to {then}")
    for step in range(COUNT):
        if sum("sprayer" in by_id[i].gear for i, at in plan.items() if at.start <= step < at.end) > 1:
            out.append(f"two sprayers at {step}")
    return out


@pytest.mark.parametrize("first", range(0, 200, 50))
def test_an_independent_checker_finds_no_broken_rule(first):
    placed = 0
    for seed in range(first, first + 50):
        tasks = random_tasks(seed)
        plan = dispatched(tasks, CREW, "AB", COUNT, working())
        assert faults(tasks, plan) == [], seed
        assert plan == dispatched(tasks, CREW, "AB", COUNT, working()), "the same once more"
        placed += len(plan)
    assert placed > 150


def some_off(seed: int) -> tuple[Painter, ...]:
    """Return a crew of whom one is away for a day and one may not go up a lift."""
    away = working()
    away[96 * (seed % DAYS) : 96 * (seed % DAYS + 1)] = False
    return Painter("Ines", away), Painter("Tobias", None, {"sprayer": COUNT, "lead": 100}), Painter("Marlow")


def test_days_off_skills_and_kept_work_are_respected():
    moved = 0
    for seed in range(60):
        tasks = [
            replace(t, needs=("lift",)) if n % 4 == 0 else replace(t, one_with=("lead",)) if n % 4 == 1 else t
            for n, t in enumerate(random_tasks(seed))
        ]
        first = dispatched(tasks, CREW, "AB", COUNT, working())
        assert dispatched(tasks, CREW, "AB", COUNT, working(), list(first.values())) == first, f"kept, it is the same plan: {seed}"
        crew = some_off(seed)
        again = dispatched(tasks, crew, "AB", COUNT, working(), list(first.values()))
        assert faults(tasks, again, crew) == [], seed
        # What nobody's absence touches stays where it was.
        for i, at in again.items():
            touched = {"Ines", "Tobias"} & set(first[i].painters) if i in first else True
            moved += (at.start, at.painters) != (first[i].start, first[i].painters) if i in first and not touched else 0
        fresh = dispatched(tasks, crew, "AB", COUNT, working())
        assert faults(tasks, fresh, crew) == [], seed
        assert dispatched(tasks, crew, "AB", COUNT, working(), list(again.values())) == again, "mended twice, it moves nothing"
    # Only what waits for something that had to move.
    assert moved < 40


def always(**more) -> CrewTask:
    given = {"job": "A", "side": "n", "hours": 1.0, "crew": (1, 3), "gear": (), "may": working()} | more
    return CrewTask(**given)


def test_coats_go_first_while_the_weather_lets_them_through():
    noon = np.zeros(COUNT, bool)
    noon[44:60] = True
    tasks = [always(id="sand", hours=30.0, tail_h=99.0), always(id="coat", hours=3.0, may=noon & working(), is_wet=True)]
    pieces = [always(id=f"sand{n}", hours=2.0, tail_h=50.0) for n in range(10)]
    plan = dispatched([*pieces, tasks[1]], CREW, "A", COUNT, working())
    assert plan["coat"].start < 60
    assert plan["coat"].end <= 60


def test_a_crew_leaves_for_a_house_where_a_coat_may_go_on_and_not_for_a_trifle():
    noon = np.zeros(COUNT, bool)
    noon[44:66] = True
    busy = [always(id=f"sand{n}", hours=1.0) for n in range(40)]
    coat = always(id="coat", job="B", hours=2.0, may=noon & working(), is_wet=True)
    assert dispatched([*busy, coat], CREW, "AB", COUNT, working())["coat"].start <= 50
    trifle = always(id="trifle", job="B", hours=0.1, may=noon & working(), is_wet=True)
    assert "trifle" not in dispatched([*busy, trifle], CREW, "AB", 96, working()[:96])


def test_nobody_works_at_night_and_what_has_no_window_has_no_place():
    plan = dispatched([always(id="a", hours=40.0, crew=(3, 3)), always(id="b", may=np.zeros(COUNT, bool))], CREW, "A", COUNT, working())
    assert set(plan) == set(), "forty hours of three are longer than a day's light"


def test_a_window_too_short_for_a_coat_draws_nobody_away_from_other_work():
    brief = np.zeros(COUNT, bool)
    brief[44:48] = True
    busy = [always(id=f"sand{n}", hours=1.0) for n in range(20)]
    # Four hours of three painters do not fit into one hour.
    coat = always(id="coat", job="B", hours=12.0, may=brief & working(), is_wet=True)
    plan = dispatched([*busy, coat], CREW, "AB", 96, working()[:96])
    assert "coat" not in plan
    at_work = sum((at.end - at.start) * len(at.painters) for at in plan.values()) / 4
    assert at_work >= 20.0, "nobody stood before it idle"


def test_pinned_work_comes_first_and_frees_its_painters_where_it_cannot_be():
    tasks = [always(id="one", hours=3.0, crew=(3, 3)), always(id="two", hours=3.0, crew=(3, 3))]
    first = dispatched(tasks, CREW, "A", COUNT, working())
    early, late = sorted(first.values(), key=lambda s: s.start)
    swapped = replace(late, start=early.start, end=early.end, is_pinned=True)
    plan = dispatched(tasks, CREW, "A", COUNT, working(), [early, swapped])
    assert (plan[late.task].start, plan[late.task].is_pinned) == (early.start, True)
    assert plan[early.task].start >= plan[late.task].end
    # At night it cannot be: its painters are free for the rest of it, and it finds another place.
    night = replace(late, start=4, end=8, is_pinned=True)
    plan = dispatched(tasks, CREW, "A", COUNT, working(), [night])
    assert set(plan) == {"one", "two"}
    assert not plan[late.task].is_pinned
    blocked = replace(late, start=early.start, end=early.end, is_pinned=True)
    waits = [tasks[0], replace(tasks[1], after=(AfterTask("one", None, "in order"),))]
    plan = dispatched(waits, CREW, "A", COUNT, working(), [blocked])
    assert plan["one"].start == early.start, "what waits for another cannot hold its painters back"


@pytest.mark.parametrize("seed", range(0, 40, 4))
def test_a_plan_does_not_hang_on_what_ids_happen_to_be(seed):
    tasks = random_tasks(seed)
    other = {t.id: f"{len(tasks) - n:03d}-{t.id}" for n, t in enumerate(tasks)}
    renamed = [replace(t, id=other[t.id], after=tuple(replace(a, task=other[a.task]) for a in t.after)) for t in tasks]
    first, second = (dispatched(some, CREW, ("A", "B"), COUNT, working()) for some in (tasks, renamed))
    assert {other[i]: (s.start, s.end, s.painters) for i, s in first.items()} == {
        i: (s.start, s.end, s.painters) for i, s in second.items()
    }

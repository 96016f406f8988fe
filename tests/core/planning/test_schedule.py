"""The list scheduler: what every plan must keep, and the order painters work in."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.planning.coats import CoatPiece, Pace, coat_id, recoat_steps, tasks_for
from amber_gable.core.planning.schedule import After, Task, plan
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import SHUT, HouseRules, find_windows
from tests.support.pace import examples
from tests.support.weathers import HERON_FERRY, september

COUNT = 60


def task(
    name: str, allowed: list[bool] | None = None, duration: int = 4, unease: float = 0.0, after: tuple[After, ...] = (), rank: int = 1
) -> Task:
    may = np.ones(COUNT, bool) if allowed is None else np.array(allowed)
    return Task(name, name.split(":")[0], rank, duration, may, np.full(COUNT, unease), after)


@st.composite
def task_lists(draw):
    tasks = []
    for name in "abcd":
        allowed = draw(st.lists(st.booleans(), min_size=COUNT, max_size=COUNT))
        duration = draw(st.integers(min_value=1, max_value=8))
        lag = draw(st.integers(min_value=0, max_value=20))
        tasks.append(task(f"{name}:1", allowed, duration))
        ready = np.arange(COUNT) + duration + lag
        tasks.append(task(f"{name}:2", allowed, duration, after=(After(f"{name}:1", ready, "recoat"),)))
    return tasks


@given(tasks=task_lists(), now=st.integers(min_value=0, max_value=30))
@settings(max_examples=examples(80), deadline=None)
def test_every_plan_keeps_the_rules(tasks, now):
    made = plan(tasks, now)
    by_id = {t.id: t for t in tasks}
    placed = {v.task: v for v in made.visits}
    in_time = sorted(made.visits, key=lambda v: v.start)
    assert all(a.end <= b.start for a, b in itertools.pairwise(in_time)), "one crew, one wall"
    for visit in made.visits:
        assert visit.start >= now
        assert by_id[visit.task].allowed[visit.start]
        for wait in by_id[visit.task].after:
            assert visit.start >= wait.ready_at[placed[wait.task].start]
    assert {v.task for v in made.visits} | {u.task for u in made.unplaced} == set(by_id)
    assert plan(tasks, now) == made


def test_it_waits_for_the_shade_but_not_for_long():
    sunny = task("south", unease=1.0)
    shaded_soon = task("north", [q >= 6 for q in range(COUNT)])
    assert [v.task for v in plan([sunny, shaded_soon], 0).visits] == ["north", "south"]
    shaded_late = task("north", [q >= 12 for q in range(COUNT)])
    assert [v.task for v in plan([sunny, shaded_late], 0).visits] == ["south", "north"]


def test_top_before_bottom_and_a_side_begun_is_finished():
    order = [task("e:wall", rank=1), task("n:wall", rank=1), task("n:gable", rank=0)]
    assert [v.task for v in plan(order, 0).visits] == ["n:gable", "n:wall", "e:wall"]


@pytest.mark.parametrize(
    ("tasks", "why"),
    [
        ([task("a", [False] * COUNT)], "no window"),
        ([task("a", [q < 3 for q in range(COUNT)])], "crew busy"),
        ([task("a:1", [False] * COUNT), task("a:2", after=(After("a:1", np.arange(COUNT), "recoat"),))], "waits"),
    ],
)
def test_what_cannot_be_placed_says_why(tasks, why):
    assert plan(tasks, 5).unplaced[-1].why == why


@pytest.fixture(scope="module")
def house():
    surfaces = [ClimateSurface(f"{a}", a, 90, 0.3, 12.0, 0.4) for a in (348, 78, 168, 258)]
    climate = simulate(HERON_FERRY, september(240), surfaces)
    rules = HouseRules(9.0, 30.0, "surface-cap", shipped().limits, shipped().tight)
    return find_windows(climate, shipped().products["rivermark-exterior-satin"], rules)


def test_a_real_house_two_coats_within_windows_and_dried_between(house):
    pieces = [CoatPiece(name, name, "wall", 45.0) for name in ("n", "e", "s", "w")]
    pace = Pace(10.0, 13.0, 2)
    made = plan(tasks_for(house, pieces, pace, np.ones(house.states.shape[1], bool)), 4 * 24)
    assert not made.unplaced
    placed = {v.task: v for v in made.visits}
    recoat = recoat_steps(house)
    for row, name in enumerate("nesw"):
        first, second = placed[coat_id(name, 1)], placed[coat_id(name, 2)]
        assert first.end - first.start == 9  # 45 m2 / 20 m2/h = 2.25 h
        for visit in (first, second):
            assert (house.states[row, visit.start : visit.end] != SHUT).all(), "no coat is left half done"
        assert second.start >= recoat[row, first.end]
        # The label's four hours hold at 25 °C; September walls are colder.
        assert (second.start - first.end) / 4 >= 4.0


def test_doors_and_plinths_come_after_the_body_of_their_side(house):
    pieces = [CoatPiece("wall", "north", "wall", 30.0), CoatPiece("door", "north", "door", 2.0), CoatPiece("foot", "north", "plinth", 5.0)]
    padded = house.__class__(house.climate, house.checks, house.states[[0, 0, 0]], (house.products[0],) * 3)
    made = plan(tasks_for(padded, pieces, Pace(10.0, 13.0, 2), np.ones(house.states.shape[1], bool)), 4 * 24)
    placed = {v.task: v for v in made.visits}
    assert placed["door:1"].start >= placed["wall:2"].end
    assert placed["foot:1"].start >= placed["wall:2"].end
    assert placed["door:1"].end - placed["door:1"].start == 2


def test_each_coat_goes_on_from_the_top(house):
    pieces = [CoatPiece("wall", "north", "wall", 40.0), CoatPiece("top", "north", "gable", 12.0)]
    pair = house.__class__(house.climate, house.checks, house.states[[0, 0]], (house.products[0],) * 2)
    made = plan(tasks_for(pair, pieces, Pace(10.0, 13.0, 2), np.ones(house.states.shape[1], bool)), 4 * 24)
    placed = {v.task: v for v in made.visits}
    assert len(placed) == 4
    for coat in (1, 2):
        assert placed[f"wall:{coat}"].start >= placed[f"top:{coat}"].end


def test_the_crew_works_only_in_its_hours(house):
    working = np.zeros(house.states.shape[1], bool)
    hour = (np.arange(len(working)) // 4 - 5) % 24
    working[(hour >= 8) & (hour < 16)] = True
    made = plan(tasks_for(house, [CoatPiece("n", "n", "wall", 40.0)], Pace(10.0, 13.0, 2), working), 4 * 24)
    assert made.visits
    assert all(working[v.start : v.end].all() for v in made.visits)

"""Stints: every hour of work in exactly one of them, no circles, and what painters keep to on a side."""

import pytest

from amber_gable.core.knowledge import Phase, Wait
from amber_gable.core.planning.stints import Place, left_of, stints_of, tails_h
from amber_gable.core.planning.work import WaitsFor, WorkTask
from amber_gable.services.jobs import jobs
from amber_gable.services.planning.making.laying import places_in
from amber_gable.services.takeoff.tasks import tasks_of

CHAIN = (
    ("clear", Phase.CLEAR, 0.5, "clock"), ("wash", Phase.CLEAN, 1.0, "clock"), ("dry", Phase.PROVE, 0.0, "clock"),
    ("sand", Phase.MEND, 2.0, "wetness"), ("caulk", Phase.CAULK, 1.0, "clock"), ("mask", Phase.MASK, 0.5, "drying"),
    ("coat 1", Phase.COAT, 2.0, "clock"), ("coat 2", Phase.COAT, 2.0, "label"), ("tape-off", Phase.UNMASK, 0.1, "label"),
)  # fmt: skip


def chain(place: str, side: str = "north", held: tuple[str, ...] = (), held_step: str = "") -> list[WorkTask]:
    """Return the steps of a wall, each behind the one before it."""
    out: list[WorkTask] = []
    for step, phase, hours, law in CHAIN:
        after = (WaitsFor(out[-1].id, Wait(law=law, hours=2 if law == "drying" else 0)),) if out else ()
        weather = "coat" if phase is Phase.COAT else "any"
        out.append(
            WorkTask(
                f"{place}:{step}", place, side, place, step, step, phase, hours, (1, 4), "tower", (), weather, after=after,
                held_by=held if step == held_step else (), raises_dust=step == "sand",
            )
        )  # fmt: skip
    return out


PLACES = {
    "wall": Place("wall"),
    "top": Place("gable"),
    "door": Place("door"),
    "foot": Place("plinth"),
    "windows@north": Place(None, "windows"),
}


def before(stints, later: str, earlier: str) -> bool:
    """Return whether a stint stands, by however many others, behind another one; both by family, stage and number."""
    by_id = {s.id: s for s in stints}
    of = {f"{s.family} {s.stage} {s.coat or ''}".strip(): s.id for s in stints}
    seen, open_ids = set(), [of[later]]
    while open_ids:
        at = open_ids.pop()
        if at not in seen:
            seen.add(at)
            open_ids += [a.stint for a in by_id[at].after]
    return of[earlier] in seen


def test_a_side_is_washed_as_a_whole_and_each_coat_is_a_stint_of_its_own():
    stints = stints_of([*chain("wall"), *chain("windows@north")], PLACES)
    stages = [(s.family, s.stage, s.coat) for s in stints]
    assert stages.count(("all", "wash", 0)) == stages.count(("all", "clear", 0)) == 1
    assert {("walls", "coat", 1), ("walls", "coat", 2), ("windows", "coat", 1), ("windows", "coat", 2)} <= set(stages)
    # Sanding and caulking go in one; masking waits until the caulk is dry.
    prepare = next(s for s in stints if (s.family, s.stage) == ("walls", "prepare"))
    assert [t.step for t in prepare.tasks] == ["sand", "caulk"]
    # "Until dry" is nobody's work: its wait is that of the wash.
    wait = next(a for a in prepare.after if a.task is not None)
    assert (wait.task.step, wait.wait.law) == ("wash", "wetness")


def test_order_on_a_side():
    stints = stints_of([t for place in PLACES for t in chain(place)], PLACES)
    assert before(stints, "walls coat 1", "windows prepare"), "dust before paint"
    assert before(stints, "doors coat 1", "walls coat 2"), "body first"
    assert before(stints, "foundation coat 1", "walls coat 2"), "nothing wet under work overhead"
    by_place = {s.tasks[0].part: s for s in stints if s.coat == 1}
    assert by_place["top"].id in {a.stint for a in by_place["wall"].after if a.why == "top first"}
    trim_first = stints_of([t for place in PLACES for t in chain(place)], PLACES, trim_first=True)
    assert before(trim_first, "walls coat 1", "windows coat 2")
    assert not before(trim_first, "windows coat 1", "walls coat 1")


def test_what_is_held_up_holds_up_its_own_part_alone():
    stints = stints_of([*chain("wall", held=("lead",), held_step="sand"), *chain("door")], PLACES)
    held = [s for s in stints if s.held_by]
    assert [s.tasks[0].part for s in held] == ["wall"]
    waiting = {s.id for s in held}
    for stint in stints:
        if any(a.stint in waiting for a in stint.after):
            waiting.add(stint.id)
    parts = {t.part for s in stints if s.id in waiting for t in s.tasks}
    assert parts == {"wall"}
    assert not any(t.step in ("clear", "wash") for s in stints if s.id in waiting for t in s.tasks)


def test_the_work_of_every_sample_job_is_in_exactly_one_stint_and_nothing_waits_in_a_circle(opened):
    for row in jobs.list_jobs(opened):
        job = jobs.whole(opened, row.id)
        tasks = tasks_of(opened, job)
        stints = stints_of(tasks, places_in(job))
        inside = [t.id for s in stints for t in s.tasks]
        assert len(inside) == len(set(inside))
        assert set(inside) >= {t.id for t in tasks if t.hours}
        assert sum(s.hours for s in stints) == pytest.approx(sum(t.hours for t in tasks))
        seen = set()
        for stint in stints:
            assert {a.stint for a in stint.after} <= seen, f"{job.name}: {stint.id} waits for what comes behind it"
            seen.add(stint.id)


def test_what_is_left_and_what_hangs_on_it():
    stints = stints_of(chain("wall"), PLACES)
    rest = left_of(stints, {"wall:sand": 0.25}, {"wall:clear", "wall:wash"})
    assert [s.stage for s in rest] == ["prepare", "mask", "coat", "coat", "finish"]
    assert rest[0].hours == pytest.approx(2.0 * 0.75 + 1.0)
    tail = tails_h({s.id: s.hours for s in rest}, {s.id: [a.stint for a in s.after] for s in rest})
    assert tail[rest[0].id] == pytest.approx(sum(s.hours for s in rest)), "all of it is one chain"
    assert tail[rest[-1].id] == pytest.approx(0.1)

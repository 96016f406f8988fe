"""The plan of all work of the sample jobs: every hour placed or named, no rule broken, the record followed."""

from collections import Counter, defaultdict
from datetime import timedelta
from itertools import pairwise

import pytest

from amber_gable.core.planning.state import State, Told
from amber_gable.core.planning.stints import STAGE_OF
from amber_gable.core.wall.climate import Observation, simulate
from amber_gable.core.wall.moisture import first_dry
from amber_gable.core.windows import SHUT
from amber_gable.errors import FieldErrors
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.log import record
from amber_gable.services.log.record import Said
from amber_gable.services.log.standing import standing_work
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import evenings, morning, onwalls, schedules
from amber_gable.services.planning.making.far import Passing, far_outlook
from amber_gable.services.planning.making.keeping import of_coat
from amber_gable.services.planning.making.laying import Frame, lay_out
from amber_gable.services.takeoff.access import moving_by_side
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.web.sentences import next_step

pytestmark = pytest.mark.small


def ahead_of(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


@pytest.fixture
def planned(opened, job):
    """All four jobs of the sample world, planned together."""
    schedules.make(opened, job)
    return {j.id: (j, schedules.saved(opened, j)) for j in (jobs.whole(opened, row.id) for row in jobs.list_jobs(opened))}


@pytest.mark.four
def test_every_hour_of_the_take_off_is_done_planned_or_named(opened, planned):
    for job, kept in planned.values():
        standing = standing_work(opened, job, ahead_of(opened, job))
        accounted = standing.hours_done + sum(s.hours for s in kept.stints) + sum(u["hours"] for u in kept.unplaced)
        assert accounted == pytest.approx(sum(t.hours for t in tasks_of(opened, job)), abs=0.1), job.name
        assert all(u["why"] for u in kept.unplaced)
        # Moving ladders and towers takes its hours on the sides where they stand: no more than the take-off says.
        moving = moving_by_side(opened, job)
        assert sum(moving.values()) == pytest.approx(job_takeoff(opened, job).days.ladder_h, abs=0.01)
        planned_h = Counter()
        for stint in kept.stints:
            planned_h[stint.side] += stint.moving_h
        assert all(hours <= moving.get(side, 0.0) + 0.01 for side, hours in planned_h.items())
        if job.name == "Slipway Boathouse":
            assert sum(planned_h.values()) > 0.8 * sum(moving.values()) > 1
    # Without gates nearly all of it has its place.
    boathouse, kept = next(pair for pair in planned.values() if pair[0].name == "Slipway Boathouse")
    assert sum(s.hours for s in kept.stints) > 0.9 * sum(t.hours for t in tasks_of(opened, boathouse))
    assert {s.stage for s in kept.stints} >= {"clear", "wash", "prepare", "mask", "prime", "coat", "finish"}


def test_nobody_is_at_two_places_and_the_way_between_takes_its_time(planned):
    spans = defaultdict(list)
    for job, kept in planned.values():
        for stint in kept.stints:
            assert stint.painters
            for name in stint.painters:
                spans[name].append((stint.starts_at, stint.ends_at, job.name))
    assert set(spans) == {"Ines", "Tobias", "Marlow"}
    for name, own in spans.items():
        own.sort()
        for (_, end, at), (start, _, then) in pairwise(own):
            gap = timedelta(minutes=30) if at != then and end.date() == start.date() else timedelta(0)
            assert start >= end + gap, f"{name}: {at} until {end}, {then} from {start}"


def test_steps_follow_one_another_dry_and_coats_lie_in_their_windows(opened, planned):
    for job, kept in planned.values():
        tasks, ahead = {t.id: t for t in tasks_of(opened, job)}, ahead_of(opened, job)
        starts = {t: s.starts_at for s in reversed(kept.stints) for t in s.tasks}
        ends = {t: s.ends_at for s in kept.stints for t in s.tasks}
        for i, start in starts.items():
            for wait in tasks[i].after:
                if wait.task in ends and ends[wait.task] > start:
                    assert any(i in s.tasks and wait.task in s.tasks for s in kept.stints), "in one go"
                if wait.task in ends and wait.wait.law == "label":
                    # Never sooner than the label says, whatever the weather.
                    product = opened.knowledge.products[tasks[wait.task].product]
                    assert start - ends[wait.task] >= timedelta(hours=product.recoat_h) - timedelta(minutes=15)
        for visit in kept.visits:
            row = ahead.row(visit.surface_id)
            judged = of_coat(opened, job, ahead, visit.coat)
            span = slice(ahead.step_at(visit.starts_at), ahead.step_at(visit.ends_at))
            assert (judged.windows.states[row, span] != SHUT).all(), f"{job.name}: {visit.surface_name}"


@pytest.mark.four
def test_a_wall_that_the_plan_washes_waits_until_what_lies_under_its_film_is_dry(opened, job):
    other = next(j for row in jobs.list_jobs(opened) if (j := jobs.whole(opened, row.id)).name == "Slipway Boathouse")
    ahead = ahead_of(opened, other)
    frame = Frame(float(ahead.hour.timestamp()), 96 * 20)
    laid = lay_out(Passing(opened), other, ahead, frame, 3)
    far, looked = far_outlook(Passing(opened), ahead), 0
    for task in laid.tasks:
        stint = laid.stints[task.id.split("#")[0]]
        for wait in task.after:
            before = laid.stints[wait.task.split("#")[0]]
            if before.stage != "wash" or wait.ready_at is None or not stint.coat or not task.id.endswith("#0"):
                continue
            row = far.row(stint.tasks[0].id.rpartition(":")[0])
            # The weather of that wall run anew, a wash told that ends at noon on the second day.
            ended, stock = 96 + 48 - round(ahead.hour.hour * 4), far.surfaces[row].stock
            told = Observation(0, frame.at_s(ended), 0.2, stock.washed_pct)
            climate = simulate(far.place, far.weather, [far.surfaces[row]], observations=[told])
            first = far.step_at(ahead.hour) + ended
            dry = first_dry(climate.moisture_pct[0], stock.max_pct, first) - first
            # Looked at each hour; the wash cools the wall a little, which the plan leaves out.
            assert wait.ready_at[ended] - ended == pytest.approx(dry, abs=8)
            looked += dry > 24
    assert looked


def test_a_side_is_washed_before_it_is_scraped_and_dust_comes_before_paint(planned):
    for job, kept in planned.values():
        by_side = defaultdict(list)
        for stint in kept.stints:
            by_side[stint.side].append(stint)
        for of_side in by_side.values():
            washed = [s.ends_at for s in of_side if s.stage == "wash"]
            later = [s.starts_at for s in of_side if s.stage not in ("clear", "wash")]
            if washed and later:
                assert max(washed) <= min(later), job.name


def test_what_was_recorded_is_not_planned_again_and_what_was_not_is_asked_for(opened, job, planned):
    _, kept = planned[job.id]
    first = kept.stints[0]
    opened.clock.set(first.ends_at + timedelta(hours=1))
    today = morning.job_morning(opened, job)
    assert first.id in {one.stint.id for one in today.unsaid}, "its time has passed and nobody spoke of it"
    tasks = [t for t in tasks_of(opened, job) if t.id in first.tasks]
    record.enter(opened, job, tasks, Said(Told.DONE, first.starts_at, first.ends_at, painters=first.painters))
    assert first.id not in {one.stint.id for one in morning.job_morning(opened, job).unsaid}
    schedules.make(opened, job)
    assert not set(first.tasks) & {t for s in schedules.saved(opened, job).stints for t in s.tasks}


def test_a_plan_waits_for_the_coat_as_it_was_really_put_on(opened, job, planned):
    """The first coat went on four hours later than planned: the second one waits for it."""
    _, kept = planned[job.id]
    first = next(v for v in kept.visits if v.coat == 1)
    late = first.ends_at + timedelta(hours=4)
    opened.clock.set(late + timedelta(minutes=10))
    tasks = [t for t in tasks_of(opened, job) if t.id in first.tasks]
    record.enter(opened, job, tasks, Said(Told.DONE, first.starts_at + timedelta(hours=4), late))
    again = schedules.make(opened, job)
    second = next(s for s in again.stints if s.coat == 2 and any(t.startswith(first.surface_id) for t in s.tasks))
    product = opened.knowledge.products[tasks[0].product]
    assert second.starts_at >= late + timedelta(hours=product.recoat_h)
    assert onwalls.coat_due(opened, job, first.surface_id) == 2


def test_the_next_thing_is_never_what_waits_for_work_of_which_nobody_spoke(opened, job, planned):
    opened.clock.set(opened.clock.now() + timedelta(days=2))
    said = next_step(morning.job_morning(opened, job), opened.clock.now())
    assert "was" in said.lead
    assert "done?" in said.lead
    assert said.wants_schedule
    morning.record_as_planned(opened, job)
    today = morning.job_morning(opened, job)
    assert today.unsaid == []
    assert today.standing.hours_done > 43


def test_undo_of_an_entry_is_a_line_of_its_own(opened, job):
    task = next(t for t in tasks_of(opened, job) if t.side and standing_work(opened, job, None).states[t.id].state is State.READY)
    before = len(record.rows_of(opened, job))
    now = opened.clock.now()
    entry = record.enter(opened, job, [task], Said(Told.DONE, now - timedelta(hours=1), now, entry="from-a-phone"))
    assert record.enter(opened, job, [task], Said(Told.DONE, now, now, entry="from-a-phone")) == entry, "sent twice, it is one"
    assert standing_work(opened, job, None).states[task.id].state.is_over
    changes.undo(opened, changes.undoable(opened, job.id).set_id)
    assert standing_work(opened, job, None).states[task.id].state is State.READY
    assert len(record.rows_of(opened, job)) == before + 2, "both stay readable"


@pytest.mark.parametrize(
    ("said", "field"),
    [
        (lambda now: Said(Told.DONE, now, now + timedelta(hours=2)), "until"),
        (lambda now: Said(Told.DONE, now, now - timedelta(hours=2)), "from"),
        (lambda now: Said(Told.DONE, now, now, share_pct=140.0), "share_pct"),
        (lambda now: Said(Told.DONE, now, now, litres=-1.0), "litres"),
        (lambda now: Said(Told.AGAIN, now, now), "remark"),
        (lambda now: Said(Told.LEFT_OUT, now, now, remark=" "), "remark"),
    ],
)
def test_an_entry_that_cannot_be_is_refused_at_its_field(opened, job, said, field):
    with pytest.raises(FieldErrors) as caught:
        record.enter(opened, job, tasks_of(opened, job)[:1], said(opened.clock.now()))
    assert set(caught.value.errors) == {field}


@pytest.mark.four
def test_evenings_show_the_record_then_the_plan(opened, job, planned):
    _, kept = planned[job.id]
    ahead = ahead_of(opened, job)
    now = opened.clock.now().astimezone(ahead.zone)
    days = evenings.evenings(standing_work(opened, job, ahead), kept, ahead, ahead.surface_ids, now)
    assert [d.kind for d in days][:1] == ["recorded"]
    assert sum(d.kind == "today" for d in days) == 1
    names = {s.id: s.name for s in outlook.painted_surfaces(job)}
    east = next(i for i, name in names.items() if name == "East wall")
    order = list(evenings.LOOKS)
    looks = [order.index(d.looks[east]) for d in days]
    assert looks == sorted(looks), "a part never goes back by itself"
    today = next(d for d in days if d.kind == "today")
    assert today.looks[east] == "first coat"
    assert today.looks[next(i for i, n in names.items() if n == "West wall")] == "held up"
    assert {STAGE_OF[t.phase] for t in tasks_of(opened, job)} >= {s.stage for d in days for s in d.work}


def test_work_that_was_begun_and_is_over_its_time_is_asked_for(opened, job, planned):
    _, kept = planned[job.id]
    first = next(s for s in kept.stints if s.coat == 1)
    tasks = [t for t in tasks_of(opened, job) if t.id in first.tasks]
    opened.clock.set(first.starts_at + timedelta(minutes=5))
    record.enter(opened, job, tasks, Said(Told.BEGAN, first.starts_at, first.starts_at))
    assert next(one.state for one in morning.job_morning(opened, job).work if one.stint.id == first.id) == "under way"
    opened.clock.set(first.ends_at + timedelta(hours=1))
    assert first.id in {one.stint.id for one in morning.job_morning(opened, job).unsaid}
    ahead = ahead_of(opened, job)
    days = evenings.evenings(
        standing_work(opened, job, ahead), kept, ahead, ahead.surface_ids, opened.clock.now().astimezone(ahead.zone)
    )  # fmt: skip
    wall = first.tasks[0].rsplit(":", 1)[0]
    looks = {d.looks[wall] for d in days if d.kind in ("today", "planned")}
    assert looks == {"primed"}, "no evening counts a coat that nobody recorded, nor one upon it"

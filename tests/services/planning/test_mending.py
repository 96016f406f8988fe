"""A plan that mends itself: once for each reason; not while work is unsaid, nor over what somebody put somewhere by hand."""

from datetime import timedelta

import pytest

from amber_gable.core.planning.state import Told
from amber_gable.errors import ConflictError
from amber_gable.services.app.scope import KEEPER, Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.log.record import Said, enter
from amber_gable.services.office import crew
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import mending, morning, schedules
from amber_gable.services.planning.myday import my_day
from amber_gable.services.takeoff.tasks import tasks_of

pytestmark = pytest.mark.small


@pytest.fixture
def keeper(opened, job):
    schedules.make(opened, job)
    return Scope(opened.app, KEEPER, opened.contractor_id)


def look(keeper, mender, mark):
    keeper.renew()
    return mender.look(keeper, {head.id: mark for head in morning.running(keeper)})


def tomorrow(opened):
    return opened.clock.now().date() + timedelta(days=1)


def test_nothing_is_mended_while_nothing_overtook_it(keeper, opened, job):
    made_at = schedules.saved(opened, job).made_at
    assert not look(keeper, mending.Mender(), 1)
    assert schedules.saved(opened, job).made_at == made_at


def test_a_look_computes_only_the_jobs_that_changed(keeper, opened, job, monkeypatch):
    computed, real = [], morning.job_morning
    monkeypatch.setattr(morning, "job_morning", lambda scope, job: (computed.append(job.id), real(scope, job))[1])
    mender = mending.Mender()
    look(keeper, mender, 1)
    look(keeper, mender, 1)
    assert computed == [job.id]
    # A page that was shown meanwhile has computed it under the new mark.
    mender.seen(opened, 2, real(opened, job))
    look(keeper, mender, 2)
    assert computed == [job.id]
    look(keeper, mender, 3)
    opened.clock.set(opened.clock.now() + timedelta(minutes=15))
    look(keeper, mender, 3)
    assert computed == [job.id] * 3


def test_somebody_ill_is_mended_once_and_can_be_taken_back_for_good(keeper, opened, job):
    mender, before = mending.Mender(), schedules.saved(opened, job)
    crew.away(opened, "Tobias", tomorrow(opened), tomorrow(opened), "ill")
    assert look(keeper, mender, 1)
    after = schedules.saved(opened, job)
    assert any("Tobias is off" in why for why in after.because)
    assert any("Tobias is off" in move["why"] for move in after.moves)
    assert not [s for s in after.stints if "Tobias" in s.painters and s.starts_at.date() == tomorrow(opened)]
    # Once: the second look finds nothing, under whatever mark.
    assert not look(keeper, mender, 2)
    # It hides nobody's own last action, and is taken back whole; for the same reasons it does not mend again, even begun anew.
    assert changes.undoable(opened, job.id).label == "make the schedule"
    last = mending.last_mending(opened)
    assert last.undoable.who == KEEPER
    changes.undo(opened, last.undoable.set_id)
    assert [(s.id, s.starts_at) for s in schedules.saved(opened, job).stints] == [(s.id, s.starts_at) for s in before.stints]
    assert not look(keeper, mending.Mender(), 3)
    # Another reason is another matter.
    crew.away(opened, "Ines", tomorrow(opened), tomorrow(opened), "ill")
    assert look(keeper, mending.Mender(), 4)


def test_by_hand_only_is_by_hand_only(keeper, opened, job):
    mending.switch(opened, is_on=False)
    crew.away(opened, "Tobias", tomorrow(opened), tomorrow(opened), "ill")
    assert not look(keeper, mending.Mender(), 1)
    mending.switch(opened, is_on=True)
    assert look(keeper, mending.Mender(), 1)


@pytest.mark.takes(8)
def test_work_of_which_nobody_spoke_is_waited_for_until_the_next_morning(keeper, opened, job):
    mender, kept = mending.Mender(), schedules.saved(opened, job)
    first = kept.stints[0]
    opened.clock.set(first.ends_at + timedelta(hours=1))
    crew.away(opened, "Tobias", tomorrow(opened), tomorrow(opened), "ill")
    # It may be done and only not written down: sent there again the crew would paint it twice.
    assert not look(keeper, mender, 1)
    assert mender.against.unsaid
    assert mender.against.waits_until.date() == tomorrow(opened)
    for row in jobs.list_jobs(opened):
        other = jobs.whole(opened, row.id)
        for one in morning.job_morning(opened, other).work:
            if one.stint.ends_at <= opened.clock.now() and one.left:
                tasks = {t.id: t for t in tasks_of(opened, other)}
                said = Said(Told.DONE, one.stint.starts_at, one.stint.ends_at, 100.0 / one.stint.of)
                enter(opened, other, [tasks[i] for i in one.left], said)
    assert look(keeper, mender, 2)
    # The evening's work stays unsaid: next morning it is not done, and finds another place.
    opened.clock.set(mending._next_morning(morning.job_morning(opened, job), opened.clock.now()) + timedelta(minutes=5))
    assert look(keeper, mender, 3)
    saved = [schedules.saved(opened, jobs.whole(opened, row.id)) for row in jobs.list_jobs(opened)]
    assert any("not recorded" in why for one in saved if one for why in one.because)
    # It is asked for all the same; said to be done after all, it leaves the plan by itself.
    there = [jobs.whole(opened, row.id) for row in jobs.list_jobs(opened)]
    late = next(j for j in there if morning.job_morning(opened, j).asked)
    asked = {one.stint.id for one in morning.job_morning(opened, late).asked}
    assert asked & {s.id for s in schedules.saved(opened, late).stints if s.starts_at > opened.clock.now()}
    # On the list of who was to do it stand both: the old place that asks, and the new one; what is due now comes before what is asked.
    mine = next(one for one in morning.job_morning(opened, late).asked).stint
    twice = [p for p in my_day(opened, mine.painters[0]) if p.one.stint.id == mine.id]
    assert twice[0].asks
    assert twice[0].one.stint.starts_at == mine.starts_at
    assert all(not p.asks and p.one.stint.starts_at > mine.ends_at for p in twice[1:])
    morning.record_as_planned(opened, late)
    assert not morning.job_morning(opened, late).to_say
    assert look(keeper, mender, 4)
    assert any("done already" in why for why in schedules.saved(opened, late).because)
    assert not asked & {s.id for s in schedules.saved(opened, late).stints}


@pytest.mark.takes(8)
@pytest.mark.four
def test_two_who_plan_at_once_lose_nothing(keeper, opened, job, monkeypatch):
    """Somebody pins work while the keeper plans: what is pinned stands, the keeper's plan is thrown away."""
    every = [s for row in jobs.list_jobs(opened) if (kept := schedules.saved(opened, jobs.whole(opened, row.id))) for s in kept.stints]
    day = min(s.starts_at.date() for s in every if "Tobias" in s.painters and s.starts_at.date() > tomorrow(opened))
    crew.away(opened, "Tobias", day, day, "ill")
    whole, once = schedules.plan_jobs, []
    wanted = next(s for s in schedules.saved(opened, job).stints if s.starts_at.date() == tomorrow(opened))

    def slowly(scope, *rest):
        found = whole(scope, *rest)
        if scope.actor == KEEPER and not once:
            once.append(schedules.put(opened, job, wanted.id, wanted.starts_at))
        return found

    monkeypatch.setattr(schedules, "plan_jobs", slowly)
    mender = mending.Mender()
    assert not look(keeper, mender, 1)
    assert once
    # Who puts work somewhere mends the rest with it: the next round finds nothing left to do.
    assert not look(keeper, mender, 1)
    assert mender.against.because == {}
    pinned = next(s for s in schedules.saved(opened, job).stints if s.id == wanted.id)
    assert pinned.is_pinned
    assert pinned.starts_at == wanted.starts_at


@pytest.mark.takes(7)
def test_a_person_who_plans_against_another_is_planned_anew_on_what_stands(opened, job, monkeypatch):
    schedules.make(opened, job)
    whole, others = schedules.plan_jobs, [2]

    def interrupted(scope, *rest):
        found = whole(scope, *rest)
        if others[0]:
            others[0] -= 1
            monkeypatch.setattr(schedules, "plan_jobs", whole)
            opened.clock.set(opened.clock.now() + timedelta(minutes=15))
            schedules.make(opened, job)
            monkeypatch.setattr(schedules, "plan_jobs", interrupted)
        return found

    monkeypatch.setattr(schedules, "plan_jobs", interrupted)
    assert schedules.make(opened, job)
    others[0] = 9
    with pytest.raises(ConflictError):
        schedules.make(opened, job)


def test_a_new_forecast_is_mended_by_itself(keeper, opened, job):
    jobs.update_rules(opened, job.id, jobs.rules_of(job).model_dump() | {"max_rain_probability_pct": 1.0})
    today = morning.job_morning(opened, jobs.whole(opened, job.id))
    assert today.schedule.is_broken
    assert outlook.status(opened, job).issue_id
    assert look(keeper, mending.Mender(), 1)
    assert not morning.job_morning(opened, jobs.whole(opened, job.id)).schedule.is_broken

"""Planning again: what nothing forbids stays, each move has its reason, twice is once; people, days off, calendars."""

import re
from datetime import date, timedelta

import pytest
from icalendar import Calendar

from amber_gable.core.planning.state import Told
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.exchange.icalendar import calendar
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs import jobs
from amber_gable.services.log.record import Said, enter
from amber_gable.services.office import crew
from amber_gable.services.planning import morning, schedules
from amber_gable.services.planning.making.permitted import permitted_starts
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store import queries
from amber_gable.web.views.plan.crew import feed_entries
from amber_gable.web.views.plan.evenings import headline

pytestmark = pytest.mark.small


def plan(opened, job, **how):
    job = jobs.whole(opened, job.id)
    return schedules.make(opened, job, **how)


def places(schedule) -> dict:
    return {s.id: (s.starts_at, s.ends_at, s.painters) for s in schedule.stints}


def of_all(opened) -> dict:
    every = [schedules.saved(opened, jobs.whole(opened, one.id)) for one in jobs.list_jobs(opened)]
    return {s.id: (s.starts_at, s.ends_at, s.painters) for kept in every if kept for s in kept.stints if not s.is_expected}


def test_planning_twice_moves_nothing(opened, job):
    first = plan(opened, job)
    assert places(plan(opened, job)) == places(first)
    assert schedules.saved(opened, job).moves == ()


@pytest.mark.takes(9)
@pytest.mark.four
def test_somebody_ill_moves_that_ones_work_and_what_waits_for_it(opened, job):
    first = plan(opened, job)
    before_all = of_all(opened)
    day = opened.clock.now().date() + timedelta(days=1)
    theirs = {s.id for s in first.stints if "Tobias" in s.painters and s.starts_at.date() == day}
    assert theirs, "there is something to move"
    crew.away(opened, "Tobias", day, day, "ill")
    again = plan(opened, job)
    assert not [s for s in again.stints if "Tobias" in s.painters and s.starts_at.date() == day]
    told = {m["id"]: m["why"] for m in again.moves}
    assert any("Tobias is off" in why for i, why in told.items() if i in theirs)
    before, now = places(first), places(again)
    moved = {i for i in before if i in now and before[i] != now[i]}
    assert theirs <= moved | (set(before) - set(now))
    # Within the forecast, most of the work of all jobs is touched by nobody's absence: it stays to the minute.
    now_all = of_all(opened)
    stirred = [i for i in before_all if now_all.get(i) != before_all[i]]
    assert len(stirred) < len(before_all) / 4
    for i in moved - theirs:
        assert i in told or before[i][0] == now[i][0] or any(s.is_expected for s in again.stints if s.id == i)
    assert places(plan(opened, job)) == now, "mended twice, it moves nothing"
    crew.back(opened, "Tobias", day)
    assert places(plan(opened, job, anew=True)) == before, "from nothing, as it was"


def test_what_is_being_worked_at_goes_on_when_the_plan_is_mended(opened, job):
    first = plan(opened, job)
    begun = next(s for s in first.stints if s.ends_at - s.starts_at >= timedelta(hours=2))
    opened.clock.set(begun.starts_at + timedelta(minutes=50))
    again = plan(opened, job)
    # To the minute: what is left of it, by those who are at it. Nobody has recorded anything yet.
    assert places(again)[begun.id] == places(first)[begun.id]
    assert begun.id not in {m["id"] for m in again.moves}
    opened.clock.set(begun.ends_at + timedelta(minutes=1))
    late = plan(opened, job)
    assert "not recorded" in next(m["why"] for m in late.moves if m["id"] == begun.id)


def test_a_piece_that_is_recorded_leaves_the_others_where_they_are(opened, job):
    # One painter alone takes a wall in several pieces.
    crew.remove(opened, "Tobias")
    crew.remove(opened, "Marlow")
    plan(opened, job)
    others = {j.id: j for row in jobs.list_jobs(opened) if (j := jobs.whole(opened, row.id)).id}
    saved = {i: schedules.saved(opened, j) for i, j in others.items()}
    where, one = next((i, s) for i, kept in saved.items() if kept for s in kept.stints if s.of > 1 and s.piece == 0 and not s.is_expected)
    before = {s.id: s for s in saved[where].stints}
    tasks = {t.id: t for t in tasks_of(opened, others[where])}
    opened.clock.set(one.ends_at)
    said = Said(Told.DONE, one.starts_at, one.ends_at, 100.0 / one.of, one.painters)
    for other in saved[where].stints:
        if other.ends_at <= one.ends_at and other.id != one.id:
            enter(opened, others[where], [tasks[i] for i in other.tasks], Said(Told.DONE, other.starts_at, other.ends_at, 100.0 / other.of))
    enter(opened, others[where], [tasks[i] for i in one.tasks], said)
    now = plan(opened, others[where])
    rest = {s.id: s for s in now.stints}
    stint = one.id.split("#")[0]
    assert one.id not in rest
    assert one.id not in {m["id"] for m in now.moves}
    for n in range(1, one.of):
        assert rest[f"{stint}#{n}"].hours == pytest.approx(before[f"{stint}#{n}"].hours, abs=0.01)
        assert rest[f"{stint}#{n}"].starts_at == before[f"{stint}#{n}"].starts_at


def test_a_stricter_house_rule_moves_a_coat_and_says_why(opened, job):
    first = plan(opened, job)
    coats = {s.id for s in first.stints if s.coat and not s.is_expected}
    jobs.update_rules(opened, job.id, jobs.rules_of(job).model_dump() | {"max_rain_probability_pct": 1.0})
    again = plan(opened, job)
    told = {m["id"]: m["why"] for m in again.moves if m["id"] in coats}
    assert any(why.startswith("rain by the newest forecast for") for why in told.values())


def test_a_crew_is_who_is_entered(opened, job):
    crew.add(opened, "Wren")
    assert {name for s in plan(opened, job, anew=True).stints for name in s.painters} <= {"Ines", "Tobias", "Marlow", "Wren"}
    assert schedules.saved(opened, job).painters == 4
    crew.remove(opened, "Wren")
    crew.remove(opened, "Tobias")
    left = plan(opened, job)
    assert {name for s in left.stints for name in s.painters} <= {"Ines", "Marlow"}
    for name, field in (("", "name"), ("ines", "name"), ("office", "name"), ("x" * 60, "name")):
        with pytest.raises(FieldErrors) as caught:
            crew.add(opened, name)
        assert set(caught.value.errors) == {field}
    with pytest.raises(NotFoundError):
        crew.remove(opened, "Nobody")
    with pytest.raises(FieldErrors, match="before the first"):
        crew.away(opened, "Ines", date(2026, 9, 20), date(2026, 9, 18), "")
    with pytest.raises(FieldErrors, match="end after it starts"):
        crew.change(opened, "Ines", {"starts_h": 18.0, "ends_h": 7.0})
    crew.remove(opened, "Marlow")
    with pytest.raises(FieldErrors, match="one painter at least"):
        crew.remove(opened, "Ines")


@pytest.mark.four
def test_only_who_may_spray_leads_spraying(opened):
    boathouse = next(jobs.whole(opened, row.id) for row in jobs.list_jobs(opened) if row.name == "Slipway Boathouse")
    plan(opened, boathouse)
    sprayed = [s for s in schedules.saved(opened, boathouse).stints if "sprayer" in s.equipment]
    assert sprayed
    # Marlow alone has not learned it.
    assert all({"Ines", "Tobias"} & set(s.painters) for s in sprayed)


def test_a_calendar_tells_changes_and_what_was_called_off(opened, job):
    plan(opened, job)
    token = crew.person(opened, "Tobias").feed
    assert feed_entries(opened, "") is None
    assert feed_entries(opened, token + "x") is None
    name, before = feed_entries(opened, token)
    assert name == "Tobias"
    made = opened.clock.now()
    read = {str(e["uid"]): e for e in Calendar.from_ical(calendar(name, made, before)).walk("VEVENT")}
    assert len(read) == len(before), "each has an address of its own"
    assert all(e["status"] == "CONFIRMED" for e in read.values())
    assert all(e.decoded("dtstart").utcoffset() == timedelta(0) for e in read.values())
    crew.away(opened, "Tobias", made.date(), made.date() + timedelta(days=60), "leave")
    plan(opened, job)
    _, after = feed_entries(opened, token)
    assert not [e for e in after if not e.is_off], "nothing is left to do for whom is on leave"
    # What has no place within the plan any more is called off where it was told.
    assert {e.uid for e in after} <= {e.uid for e in before}


def test_work_is_put_elsewhere_by_hand_where_that_may_be(opened, job):
    first = plan(opened, job)
    coats = [s for s in first.stints if s.coat == 1 and not s.is_expected]
    # A short one whose painters have nothing else in the half hour after it.
    half = timedelta(minutes=30)
    coat = next(
        s
        for s in coats
        if s.ends_at - s.starts_at < timedelta(hours=3)
        and not any(set(o.painters) & set(s.painters) and s.ends_at <= o.starts_at < s.ends_at + half for o in first.stints)
    )
    # At night, before what it waits for, and in the past: refused with the reason, and nothing changes.
    night = coat.starts_at.replace(hour=22, minute=0)
    for wanted, words in ((night, "Not then: .*(permit|forecast)"), (opened.clock.now() - timedelta(hours=3), "has passed")):
        with pytest.raises(FieldErrors) as caught:
            schedules.put(opened, job, coat.id, wanted)
        assert set(caught.value.errors) == {"start"}
        assert re.search(words, caught.value.errors["start"]), caught.value.errors
    assert places(schedules.saved(opened, job)) == places(first)
    with pytest.raises(NotFoundError):
        schedules.put(opened, job, "nothing#0", coat.starts_at)
    later = coat.starts_at + half
    schedules.put(opened, job, coat.id, later)
    kept = {s.id: s for s in schedules.saved(opened, job).stints}
    assert (kept[coat.id].starts_at, kept[coat.id].is_pinned) == (later, True)
    # It stays there through other planning, and is free again once it is let go.
    assert {s.id: s for s in plan(opened, job).stints}[coat.id].starts_at == later
    schedules.put(opened, job, coat.id, None)
    assert not {s.id: s for s in schedules.saved(opened, job).stints}[coat.id].is_pinned


def test_a_preference_warns_and_does_not_forbid(opened, job):
    kept = plan(opened, job)
    coat = next(s for s in kept.stints if s.coat and not s.is_expected)
    midnight = coat.starts_at.replace(hour=0, minute=0)
    # The last hour of the day in which it may begin: allowed, and said to be tight; nothing that is said keeps it from there.
    last = permitted_starts(opened, job, kept.stints, coat.id, midnight.date())[-1][1]
    schedules.put(opened, job, coat.id, midnight + timedelta(hours=last))
    now = schedules.saved(opened, job)
    assert next(s for s in now.stints if s.id == coat.id).starts_at == midnight + timedelta(hours=last)
    assert any("tight hours" in one for one in now.news)
    # What stands on the wall a day later than it could is said in days.
    ended = max(s.ends_at for s in kept.stints).date()
    if max(s.ends_at for s in now.stints).date() > ended:
        assert any(f"{job.name} ends" in one for one in now.news)


def test_a_piece_may_begin_where_it_is_planned_and_nowhere_that_it_is_refused(opened, job):
    kept = plan(opened, job)
    for stint in [s for s in kept.stints if not s.is_expected]:
        spans = permitted_starts(opened, job, kept.stints, stint.id, stint.starts_at.date())
        hour = stint.starts_at.hour + stint.starts_at.minute / 60
        assert any(first <= hour <= last for first, last in spans), stint.id
    # The first coat of the day: an hour that is not among them is refused.
    coat = next(s for s in kept.stints if s.coat)
    midnight = coat.starts_at.replace(hour=0, minute=0)
    spans = permitted_starts(opened, job, kept.stints, coat.id, midnight.date())
    barred = next(q / 4 for q in range(28, 72) if not any(first <= q / 4 <= last for first, last in spans))
    with pytest.raises(FieldErrors, match=r"Not then|passed"):
        schedules.put(opened, job, coat.id, midnight + timedelta(hours=barred))
    with pytest.raises(NotFoundError):
        permitted_starts(opened, job, kept.stints, "none", midnight.date())


def test_a_plan_of_an_earlier_version_asks_to_be_made_anew(opened, job):
    plan(opened, job)
    with changing(opened, "as it was kept before", job.id) as change:
        row = queries.schedule_of(change.session, job.id)
        old = [{k: v for k, v in visit.items() if k not in ("tasks", "painters")} for visit in row.visits]
        unplaced = [{"surface_name": "East wall", "coat": "2", "why": "no window"}]
        change.update(row, {"stints": [], "finish": {}, "unplaced": unplaced, "visits": old})
    today = morning.job_morning(opened, job)
    assert today.visit is not None
    assert headline(today, today.schedule, opened.clock.now()).lead == "This plan knows coats only: plan anew."

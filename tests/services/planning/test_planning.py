"""From the job to the crew's next step: take-off, schedule, morning, site log on the sample house."""

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from amber_gable.core.geometry import area_m2
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.readings import InstrumentReading
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app import democlock as clockwork
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs, progress
from amber_gable.services.log import sitelog
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import morning, schedules
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.web.sentences import next_step
from tests.support.serving import DEMO_NOW, open_at

pytestmark = pytest.mark.small

CHICAGO = ZoneInfo("America/Chicago")
FT = 0.3048


@pytest.fixture
def ahead(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


@pytest.mark.four
def test_the_sample_house_is_the_one_that_was_described(job):
    openings = [o.kind for e in job.building.elevations for o in e.openings]
    assert {k: openings.count(k) for k in set(openings)} == {"sash-window": 14, "entry-door": 1, "shutter": 8}
    assert job.year_built == 1931


@pytest.mark.four
def test_take_off_of_the_sample_house_by_hand(opened, job):
    found = job_takeoff(opened, job)
    by_name = {t.name: t for t in found.by_surface.values()}
    east = by_name["East wall"]
    # 38 ft x (18.5 - 1 2/3) ft, less five sashes of 2 2/3 x 5 ft and a door of 3 x 6 5/6 ft;
    # shutters come down and deduct nothing.
    net_ft2 = 38 * (18.5 - 5 / 3) - 5 * (8 / 3 * 5) - 3 * 41 / 6
    assert east.net_area_m2 == pytest.approx(net_ft2 * FT**2, rel=1e-6)
    # 4 1/2 in shown and a butt of 1/2 in: 5 / 4.5; 10 m2/L; 8 % lost.
    assert east.litres_per_coat == pytest.approx(east.net_area_m2 * 5 / 4.5 / 10 / 0.92, rel=1e-6)
    assert by_name["East entry door"].net_area_m2 == pytest.approx(3 * 41 / 6 * FT**2, rel=1e-6)
    # What is no wall is taken off too: windows, shutters and trim have paint and hours of their own.
    pieces = {p.spec.part.key: p for p in found.parts if not p.spec.part.surfaces}
    assert set(pieces) == {"windows", "shutters", "trim"}
    assert all(p.litres_total > 0 and p.hours > 0 for p in pieces.values())
    gable = next(s for e in job.building.elevations for s in e.surfaces if s.name == "North gable top")
    assert area_m2([tuple(p) for p in gable.outline]) == pytest.approx(26.5 * 9.5 / 2 * FT**2)


def test_the_demonstration_week_has_the_windows_its_story_promises(ahead):
    windows = ahead.windows

    def rules_at(day: int, hour: int) -> set[str]:
        step = ahead.step_at(datetime(2026, 9, day, hour, tzinfo=CHICAGO))
        return {r.rule for r in windows.reasons(0, step) if r.broken}

    assert "wet" in rules_at(15, 7)
    assert rules_at(15, 13) == set(), "a dry warm afternoon on the north wall"
    assert "rain" in rules_at(17, 13)
    assert "hold" in rules_at(19, 13), "the cold night after it is seen from noon"


def test_a_schedule_is_kept_and_held_against_the_next_forecast(opened, job, ahead):
    made = schedules.make(opened, job)
    kept = schedules.saved(opened, job, ahead)
    assert [(v.surface_id, v.coat, v.starts_at) for v in kept.visits] == [(v.surface_id, v.coat, v.starts_at) for v in made.visits]
    assert not kept.is_broken
    held = [u["surface_name"] for u in kept.unplaced if not u["does"]]
    assert len(held) == len(set(held)), "what is held up is said once"
    assert len(kept.visits) >= 4
    for visit in kept.visits:
        row = ahead.row(visit.surface_id)
        span = slice(ahead.step_at(visit.starts_at), ahead.step_at(visit.ends_at))
        judged_by = ahead if visit.coat == 1 else outlook.of_turn(opened, job, ahead, "later")
        assert (judged_by.windows.states[row, span] != SHUT).all()
        assert 7 <= visit.starts_at.astimezone(CHICAGO).hour < 18
        assert visit.starts_at.astimezone(CHICAGO).weekday() != 6
        assert visit.ends_at <= visit.last_stroke_at
    # A stricter house rule shuts the hours that were planned: the plan says so by itself.
    jobs.update_rules(opened, job.id, jobs.rules_of(job).model_dump() | {"sun_rule": "shade", "max_rain_probability_pct": 1.0})
    strict = jobs.whole(opened, job.id)
    newer = outlook.outlook(opened, strict, outlook.status(opened, strict))
    broken = [v for v in schedules.saved(opened, job, newer).visits if v.broken_by]
    assert broken
    assert broken[0].broken_by in {"rain", "sun on a warm wall"}


def test_making_it_again_replaces_it_and_can_be_undone(opened, job, ahead):
    first = schedules.make(opened, job)
    opened.clock.set(DEMO_NOW + timedelta(hours=6))
    second = schedules.make(opened, job)
    assert second.made_at > first.made_at
    assert all(v.ends_at > opened.clock.now() for v in second.visits)
    done = changes.undoable(opened, job.id)
    assert done.label == "make the schedule"
    changes.undo(opened, done.set_id)
    back = schedules.saved(opened, job)
    assert [(v.surface_id, v.starts_at) for v in back.visits] == [(v.surface_id, v.starts_at) for v in first.visits]


@pytest.mark.four
def test_morning_says_one_thing_to_do_and_what_until_then(opened, job, ahead):
    now = DEMO_NOW.astimezone(CHICAGO)
    unplanned = next_step(morning.job_morning(opened, job), now)
    assert unplanned.wants_schedule
    assert "opens at" in unplanned.lead
    schedules.make(opened, job)
    planned = morning.job_morning(opened, job)
    said = next_step(planned, now)
    start = planned.visit.starts_at.astimezone(CHICAGO)
    assert said.lead == f"Start on the {planned.visit.surface_name[0].lower()}{planned.visit.surface_name[1:]} at {start:%H:%M}."
    assert "last stroke" in said.rest
    assert "All 7 surfaces are wet" in said.until
    assert "is dry first, at" in said.until
    opened.clock.set(planned.visit.starts_at + timedelta(minutes=20))
    working = next_step(morning.job_morning(opened, job), opened.clock.now().astimezone(CHICAGO))
    assert working.lead.startswith("Paint the ")
    assert working.lead.endswith(" now.")


def test_a_broken_plan_is_an_alarm(opened, job, ahead):
    schedules.make(opened, job)
    jobs.update_rules(opened, job.id, jobs.rules_of(job).model_dump() | {"max_rain_probability_pct": 0.5})
    said = next_step(morning.job_morning(opened, jobs.whole(opened, job.id)), DEMO_NOW.astimezone(CHICAGO))
    assert said.alarm
    assert said.lead.startswith("Do not paint ")
    assert "make the schedule again" in said.rest


def test_a_reading_is_answered_kept_and_traced(opened, job, ahead, surface_named):
    wall = surface_named("North gable wall")
    opened.clock.set(datetime(2026, 9, 15, 13, 0, tzinfo=CHICAGO))
    later = outlook.outlook(opened, job, outlook.status(opened, job))
    answer = sitelog.log_reading(opened, job, later, wall.id, InstrumentReading(21.0, 52.0, 20.0), "Ines")
    assert answer.verdict.may_paint
    assert answer.until.astimezone(CHICAGO).date() == answer.taken_at.astimezone(CHICAGO).date()
    kept = sitelog.latest(opened, job)[0]
    assert (kept.painter, kept.surface_name, kept.verdict["may_paint"]) == ("Ines", "North gable wall", True)
    assert kept.verdict["dew_point_c"] == pytest.approx(answer.verdict.dew_point_c)
    wet = sitelog.log_reading(opened, job, later, wall.id, InstrumentReading(21.0, 93.0, 20.0), "Ines")
    assert not wet.verdict.may_paint
    assert [r.verdict["may_paint"] for r in sitelog.latest(opened, job)] == [False, True], "the newest first"
    assert progress.stages_of(opened, job)["log"].is_done


def test_a_reading_at_no_painted_wall_is_refused(opened, job, ahead, surface_named):
    with pytest.raises(FieldErrors, match="Choose the wall"):
        sitelog.log_reading(opened, job, ahead, surface_named("East plinth").id, InstrumentReading(20, 50, 20), "Ines")


def test_a_calendar_needs_a_schedule(opened, job):
    with pytest.raises(PlanError, match="Make the schedule first"):
        schedules.calendar_entries(opened, job)


def test_the_demonstration_clock_steps_forward_only_and_survives_a_restart(opened, seeded_folder):
    clockwork.step_clock(opened.app, 3)
    reached = opened.clock.now()
    assert reached - DEMO_NOW >= timedelta(hours=3)
    again = open_at(opened.settings.data_dir)
    assert abs((again.clock.now() - reached).total_seconds()) < 60
    for hours in (-1, 0, 1000):
        with pytest.raises(PlanError, match="forward"):
            clockwork.step_clock(opened.app, hours)
    again.app.close()

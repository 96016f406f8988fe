"""What overtook a plan: said once it did, gone once the plan is mended."""

from datetime import timedelta

import pytest

from amber_gable.services.jobs import jobs
from amber_gable.services.office import crew
from amber_gable.services.planning import morning, schedules
from amber_gable.services.planning.overtaken import overtaken
from amber_gable.services.systems import colours, samples
from amber_gable.services.systems.specs import specs_of

pytestmark = pytest.mark.small


def said(opened, job) -> list[str]:
    return overtaken(opened, morning.job_morning(opened, jobs.whole(opened, job.id)))


def plan(opened, job):
    job = jobs.whole(opened, job.id)
    return schedules.make(opened, job)


def test_a_plan_that_was_just_made_is_overtaken_by_nothing(opened, job):
    assert said(opened, job) == []
    plan(opened, job)
    assert said(opened, job) == []


def test_people_and_colours_overtake_it_until_it_is_mended(opened, job):
    kept = plan(opened, job)
    day = opened.clock.now().date() + timedelta(days=1)
    count = sum(1 for s in kept.stints if "Tobias" in s.painters and s.starts_at.date() == day)
    crew.away(opened, "Tobias", day, day, "ill")
    pieces = f"{count} piece{'s' if count != 1 else ''}"
    assert said(opened, job) == [f"Tobias is off on {day:%A} {day.day} {day:%B}: {pieces} of work"]
    fresh = jobs.whole(opened, job.id)
    zones = colours.colours_of(opened, specs_of(opened, fresh), samples.samples_of(opened, job.id))
    body = next(c for c in zones if c.zone == "Body")
    colours.set_colour(opened, fresh, body, "#1f2226")
    assert any("another colour than the plan was made for" in why for why in said(opened, job))
    plan(opened, job)
    assert said(opened, job) == []


def test_the_newest_forecast_overtakes_coats(opened, job):
    plan(opened, job)
    opened.clock.set(opened.clock.now() + timedelta(days=2))
    today = morning.job_morning(opened, jobs.whole(opened, job.id))
    broken = [v for v in today.schedule.visits if v.broken_by]
    told = overtaken(opened, today)
    assert bool(broken) == any("by the newest forecast" in why for why in told)
    # What nobody recorded is asked for, and is no reason of its own.
    assert today.unsaid
    assert not any("record" in why for why in told)

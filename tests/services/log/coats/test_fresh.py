"""Fresh films and alarms: stages by the label's hours in the real weather, what comes upon a film, who is called and when."""

from datetime import datetime, timedelta

import numpy as np
import pytest

from amber_gable.core.coat.drying import drying_rate
from amber_gable.core.planning.state import Told
from amber_gable.services.log import record
from amber_gable.services.log.alarms import alarms_of
from amber_gable.services.log.coats.fresh import fresh_films
from amber_gable.services.log.coats.starting import against_start
from amber_gable.services.log.inspection.looking import look_over, sides_to_look
from amber_gable.services.log.record import Said
from amber_gable.services.outlook import outlook, skywatch
from amber_gable.services.planning import morning, schedules
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.web.sentences import next_step

pytestmark = pytest.mark.small


@pytest.fixture
def wall(job):
    return next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")


def coated(opened, job, wall, at: str) -> datetime:
    """Put the first coat on a wall, its last stroke at a moment; return it."""
    opened.clock.set(datetime.fromisoformat(at))
    now = opened.clock.now()
    task = next(t for t in tasks_of(opened, job) if t.id == f"{wall.id}:coat 1")
    record.enter(opened, job, [task], Said(Told.DONE, now - timedelta(hours=2), now, painters=("Ines",)))
    return now


def film(opened, job, wall):
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    return next(f for f in fresh_films(opened, job, ahead) if f.surface.id == wall.id)


def test_a_film_is_young_then_tender_then_ready_by_its_own_weather(opened, job, wall):
    ended = coated(opened, job, wall, "2026-09-15T12:00:00-05:00")
    story = film(opened, job, wall)
    assert story.stage == "young"
    # The label's hours run at the rate of drying: summed here hour by hour, by trapezoids of a quarter-hour.
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    row, product = ahead.row(wall.id), ahead.windows.products[ahead.row(wall.id)]
    climate = ahead.windows.climate
    rate = drying_rate(product.kind, climate.surface_temp_c[row], climate.vapour_pa, climate.wind_m_s)
    first = ahead.step_at(ended)
    done = np.concatenate([[0.0], np.cumsum((rate[first:-1] + rate[first + 1 :]) / 2 * climate.grid.step_s / 3600)])
    ready = ahead.local(first + int(np.argmax(done >= product.rain_free_h)))
    assert abs(story.ready_at - ready) <= timedelta(minutes=16)
    half = ahead.local(first + int(np.argmax(done >= product.rain_free_h / 2)))
    by_clock = (ended + timedelta(hours=product.rain_free_h)).astimezone(half.tzinfo)
    assert abs(story.tender_at - max(half, by_clock)) <= timedelta(minutes=16)
    opened.clock.set(story.tender_at + timedelta(minutes=1))
    assert film(opened, job, wall).stage == "tender"
    opened.clock.set(story.ready_at + timedelta(minutes=1))
    assert film(opened, job, wall).stage == "ready"


def test_rain_upon_a_young_film_rings_before_it_comes_and_a_dry_wall_is_to_be_inspected(opened, job, wall):
    coated(opened, job, wall, "2026-09-15T12:00:00-05:00")
    assert [a for a in alarms_of(opened, job) if a.is_urgent] == []
    skywatch.see_rain(opened, job, "13:30", "14:00", "heavy", "Ines")
    urgent = [a for a in alarms_of(opened, job) if a.is_urgent]
    assert [a.words for a in urgent] == ["East wall: rain from about 13:30 finds the film young: cover it, or stop now."]
    opened.clock.set(datetime.fromisoformat("2026-09-15T17:30:00-05:00"))
    dry = film(opened, job, wall).dry_at
    assert dry is not None
    assert dry < opened.clock.now()
    calls = [a.words for a in alarms_of(opened, job) if a.id.startswith("inspect")]
    assert calls == ["East wall: rain at Tue 13:30 met the film young. Look it over before the next coat."]
    # The next coat takes a reason until somebody looked it over.
    second = [t for t in tasks_of(opened, job) if t.id == f"{wall.id}:coat 2"]
    assert any("nobody has looked it over" in why for why in against_start(opened, job, second, opened.clock.now()))
    east = next(
        s for s in sides_to_look(opened, job, outlook.outlook(opened, job, outlook.status(opened, job))) if s.elevation.name == "East"
    )
    look_over(opened, job, east, ("left", "right", "off", "above"), ["Ines"])
    assert [a for a in alarms_of(opened, job) if a.id.startswith("inspect")] == []
    assert not any("looked it over" in why for why in against_start(opened, job, second, opened.clock.now()))


def test_a_dry_wall_is_to_be_inspected_by_day_only(opened, job, wall):
    coated(opened, job, wall, "2026-09-15T12:00:00-05:00")
    opened.clock.set(datetime.fromisoformat("2026-09-15T17:30:00-05:00"))
    dry = film(opened, job, wall).dry_at
    assert [a.words for a in alarms_of(opened, job)] == [f"East wall is dry since {dry:%H:%M}: inspect it."]
    # At night nobody is called.
    opened.clock.set(datetime.fromisoformat("2026-09-15T21:00:00-05:00"))
    assert [a for a in alarms_of(opened, job) if a.id.startswith("inspect")] == []


@pytest.mark.takes(5)
def test_what_a_film_met_stays_so_for_as_long_as_it_is_fresh(opened, job):
    """Its weather does not end where the two observed days of the outlook begin: it would grow younger, and meet what it never met."""
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "North gable wall")
    coated(opened, job, wall, "2026-09-15T16:15:00-05:00")
    stories = []
    for days in range(1, 5):
        opened.clock.set(datetime.fromisoformat("2026-09-15T18:50:00-05:00") + timedelta(days=days))
        now = film(opened, job, wall)
        stories.append((now.stage, now.tender_at, now.ready_at, [(h.kind, h.at, h.stage) for h in now.harms if h.chance_pct is None]))
    assert stories[0][0] == "ready"
    assert stories[0][3], "dew met it in the first night"
    assert stories == [stories[0]] * 4


def test_a_film_of_which_no_weather_is_known_is_not_made_younger(opened, job):
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "North gable wall")
    coated(opened, job, wall, "2026-09-15T16:15:00-05:00")
    # Nobody looked for three days: of its first hours nothing was observed, and rain of the 17th finds it dry.
    opened.clock.set(datetime.fromisoformat("2026-09-18T18:50:00-05:00"))
    late = film(opened, job, wall)
    assert (late.stage, late.harms) == ("ready", ())


def test_a_coat_that_nobody_ended_is_not_painted_on_through_the_night(opened, job, wall):
    opened.clock.set(datetime.fromisoformat("2026-09-15T10:50:00-05:00"))
    task = next(t for t in tasks_of(opened, job) if t.id == f"{wall.id}:coat 1")
    record.enter(opened, job, [task], Said(Told.BEGAN, opened.clock.now(), opened.clock.now(), painters=("Tobias",)))
    opened.clock.set(datetime.fromisoformat("2026-09-15T17:30:00-05:00"))
    assert film(opened, job, wall).is_under_way
    assert [a for a in alarms_of(opened, job) if a.id.startswith("stroke")]
    opened.clock.set(datetime.fromisoformat("2026-09-16T08:50:00-05:00"))
    left = film(opened, job, wall)
    assert (left.is_under_way, left.last_stroke_at) == (False, None)
    # Nobody said when it ended: at the end of that day's work, by the job's rules, it had.
    assert left.ended_at == datetime.fromisoformat("2026-09-15T18:00:00-05:00")
    assert [a for a in alarms_of(opened, job) if a.id.startswith("stroke")] == []


@pytest.mark.four
def test_what_waits_for_a_word_is_asked_before_what_comes_days_later(opened, job):
    schedules.make(opened, job)
    today = [s for s in schedules.saved(opened, job).stints if s.starts_at.date() == opened.clock.now().date() and not s.is_expected]
    first = next(s for s in today if s.coat)
    steps = {t.id: t for t in tasks_of(opened, job)}
    opened.clock.set(first.starts_at + timedelta(minutes=30))
    record.enter(opened, job, [steps[i] for i in first.tasks if i in steps], Said(Told.BEGAN, opened.clock.now(), opened.clock.now()))
    # All else of the day is on record; the next morning the second coat of this wall is due, and of the first nobody spoke.
    opened.clock.set(max(s.ends_at for s in today) + timedelta(hours=1))
    for one in today:
        if one.id != first.id:
            said = Said(Told.DONE, one.starts_at, one.ends_at, 100.0 / one.of, one.painters)
            record.enter(opened, job, [steps[i] for i in one.tasks if i in steps], said)
    opened.clock.set(datetime.fromisoformat("2026-09-16T08:50:00-05:00"))
    said = next_step(morning.job_morning(opened, job), opened.clock.now())
    assert said.lead == "1 piece of work: was it done?"

"""The stop line of a real wall: it follows hours, hands and what somebody sees coming."""

from datetime import datetime

import pytest

from amber_gable.core.planning.state import Told
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.log import record
from amber_gable.services.log.record import Said
from amber_gable.services.outlook import outlook, skywatch
from amber_gable.services.planning import onwalls, schedules, stopline
from amber_gable.services.planning.stopline import StopQuestion, stop_for
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.web.views.windows.stopline import words_of

pytestmark = pytest.mark.small


def stop(opened, job, name="East wall", **asked):
    whole = jobs.whole(opened, job.id)
    surface = next(s for e in whole.building.elevations for s in e.surfaces if s.name == name)
    ahead = outlook.outlook(opened, whole, outlook.status(opened, whole))
    return stop_for(opened, whole, ahead, surface.id, StopQuestion(**asked))


@pytest.fixture
def morning(opened, job):
    """Four hours on: the dew is gone and the walls are open."""
    step_clock(opened.app, 4.0)
    return jobs.whole(opened, job.id)


def test_a_wet_wall_is_not_begun(opened, job):
    found = stop(opened, job)
    assert found.line is None
    assert found.why.rule in ("wet", "dew-margin", "humidity", "air-temp-low", "surface-temp-low")
    assert found.limit_at > found.now


@pytest.mark.four
def test_pace_and_areas_are_those_of_the_take_off(opened, morning):
    found = stop(opened, morning)
    coat = coatings_of(opened, morning)[found.surface.id].hours[0]
    assert found.pace_m2_h == pytest.approx(51.329 / coat * 2, rel=1e-3)
    assert found.line.ahead[-1].area_m2 == pytest.approx(51.329, abs=0.01)
    assert found.line.ahead[-1].at_h == pytest.approx(coat / 2, rel=1e-3)
    assert stop(opened, morning, painters=4).line.ahead[-1].at_h == pytest.approx(coat / 4, rel=1e-3)
    # Half of the width done: what is left is counted from there.
    half = stop(opened, morning, done_m=38 * 0.3048 / 2)
    assert half.line.ahead[-1].area_m2 < 0.55 * 51.329
    assert stop(opened, morning, begins="right").line.ahead[-1].joint.name == "the left corner"


@pytest.mark.takes(5)
@pytest.mark.four
def test_rain_that_somebody_sees_moves_the_stop_at_once_and_is_taken_back(opened, morning):
    before = stop(opened, morning, painters=1)
    assert before.line.is_whole or before.line.stop
    skywatch.see_rain(opened, morning, "16:30")
    seen = stop(opened, morning, painters=1)
    # Four rain-free hours before half past four: the quarter-hour that begins at half past twelve is the last.
    assert f"{seen.limit_at:%H:%M}" == "12:45"
    assert seen.why.rule == "rain"
    assert seen.line.stop.area_m2 < before.line.stop.area_m2
    assert seen.line.stop.at_h <= (seen.limit_at - seen.now).total_seconds() / 3600
    assert seen.rain[0].strftime("%H:%M") == "16:30"
    skywatch.see_rain(opened, morning, "14:00")
    sooner = stop(opened, morning, painters=1)
    assert sooner.line is None
    assert sooner.why.rule == "rain"
    assert any("Shutters" in words for words in sooner.dry_work)
    done = changes.undoable(opened, morning.id)
    assert done.label == "rain seen at 14:00"
    changes.undo(opened, done.set_id)
    assert stop(opened, morning, painters=1).line.stop == seen.line.stop
    # Nothing opens by itself while it rains by somebody's eyes; once it is said to have stopped, nothing is overruled any more.
    step_clock(opened.app, 24.0)
    assert stop(opened, morning).why.rule == "rain"
    skywatch.rain_stopped(opened, morning)
    assert stop(opened, morning).rain is None


@pytest.mark.parametrize("typed", ["soon", "25:00", "15"])
def test_a_time_that_says_nothing_is_refused(opened, morning, typed):
    with pytest.raises(FieldErrors) as caught:
        skywatch.see_rain(opened, morning, typed)
    assert set(caught.value.errors) == {"rain_at"}


def test_a_downspout_is_a_place_to_stop(opened, morning):
    east = next(e for e in morning.building.elevations if e.name == "East")
    plain = [r.joint.name for r in stop(opened, morning).line.ahead]
    stopline.add_joint(opened, morning, east.id, "downspout", 8.2)
    names = [r.joint.name for r in stop(opened, morning).line.ahead]
    assert set(names) - set(plain) == {"the downspout"}
    with pytest.raises(FieldErrors) as caught:
        stopline.add_joint(opened, morning, east.id, "tree", 80.0)
    assert set(caught.value.errors) == {"joint_kind", "joint_at"}
    stopline.remove_joint(opened, morning, east.id, 0)
    assert [r.joint.name for r in stop(opened, morning).line.ahead] == plain


def test_what_cannot_be_is_refused(opened, morning):
    for asked, field in (({"painters": 30}, "painters"), ({"done_m": 99.0}, "done_m")):
        with pytest.raises(FieldErrors) as caught:
            stop(opened, morning, **asked)
        assert set(caught.value.errors) == {field}
    ahead = outlook.outlook(opened, morning, outlook.status(opened, morning))
    with pytest.raises(NotFoundError):
        stop_for(opened, morning, ahead, "nowhere", StopQuestion())
    assert isinstance(stop(opened, morning).limit_at, datetime)


def test_a_coat_waits_for_the_one_before_it(opened, morning):
    kept = schedules.make(opened, morning)
    first = min((v for v in kept.visits if v.coat == 1), key=lambda v: v.starts_at)
    # Painted by now: the next coat is due another day, and not the hour after.
    step_clock(opened.app, (first.ends_at - opened.clock.now()).total_seconds() / 3600 + 0.25)
    due = onwalls.coat_due(opened, morning, first.surface_id)
    assert due == 1, "what nobody recorded is not done"
    tasks = [t for t in tasks_of(opened, morning) if t.id in first.tasks]
    record.enter(opened, morning, tasks, Said(Told.DONE, first.starts_at, first.ends_at))
    morning = jobs.whole(opened, morning.id)
    due = onwalls.coat_due(opened, morning, first.surface_id)
    assert due == 2
    later = stop(opened, morning, first.surface_name, coat=due)
    assert later.line is None
    assert later.coat_before_at > later.now
    second = next((v for v in kept.visits if v.surface_id == first.surface_id and v.coat == 2), None)
    if second is not None:
        assert later.coat_before_at <= second.starts_at
    assert words_of(later, "us").lead == "Do not start this coat yet."
    # The first coat itself waits for nothing.
    assert stop(opened, morning, first.surface_name, coat=1).coat_before_at is None

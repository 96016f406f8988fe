"""The sky as somebody on site sees it: nothing opens while it rains by somebody's eyes, and the wall is as wet as that rain makes it."""

from datetime import timedelta

import numpy as np
import pytest

from amber_gable.core.windows import SHUT
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook, sightings, skywatch

pytestmark = pytest.mark.small


def ahead_of(opened, job):
    return outlook.outlook(opened, jobs.whole(opened, job.id), outlook.status(opened, job))


@pytest.fixture
def noon(opened, job):
    step_clock(opened.app, 6.0)
    return jobs.whole(opened, job.id)


def side(job, name):
    return next(e for e in job.building.elevations if e.name == name)


def rows_of(ahead, job, *names):
    return [ahead.row(s.id) for e in job.building.elevations if e.name in names for s in e.surfaces if s.is_painted]


@pytest.mark.takes(5)
def test_rain_goes_on_until_somebody_says_that_it_stopped(opened, noon):
    dry = ahead_of(opened, noon)
    assert (dry.windows.states[:, dry.step_at(opened.clock.now())] != SHUT).any()
    skywatch.see_rain(opened, noon, strength="heavy", who="Ines")
    # By itself nothing opens, however many hours the forecast calls dry.
    for hours in (0.1, 0.5, 1.5, 2.0):
        step_clock(opened.app, hours)
        ahead = ahead_of(opened, noon)
        step = ahead.step_at(opened.clock.now())
        assert (ahead.windows.states[:, step] == SHUT).all()
        assert "rain" in {r.rule for r in ahead.windows.reasons(0, step) if r.broken}
    skywatch.rain_stopped(opened, noon)
    after = ahead_of(opened, noon)
    step = after.step_at(opened.clock.now())
    assert not skywatch.seen_on(opened, noon, opened.clock.now()).raining(opened.clock.now())
    assert after.windows.climate.rain_mm_h[step + 1] == dry.windows.climate.rain_mm_h[dry.step_at(opened.clock.now()) + 1]
    # What fell is on the walls, and in the boards: more than without it.
    assert after.windows.climate.wet[:, step].any()
    taken = rows_of(after, noon, "East", "West")
    assert (
        after.windows.climate.moisture_pct[taken, step] > dry.windows.climate.moisture_pct[taken, dry.step_at(opened.clock.now())]
    ).all()
    with pytest.raises(NotFoundError, match="said already"):
        skywatch.rain_stopped(opened, noon)
    assert changes.undoable(opened, noon.id).label == "rain has stopped"
    changes.undo(opened, changes.undoable(opened, noon.id).set_id)
    assert skywatch.seen_on(opened, noon, opened.clock.now()).raining(opened.clock.now())[0].said_by == "Ines"


def test_heavy_rain_leaves_more_than_light_and_what_never_came_leaves_nothing(opened, noon):
    left = {}
    for strength in ("light", "heavy"):
        skywatch.see_rain(opened, noon, "11:30", "12:30", strength)
        left[strength] = ahead_of(opened, noon).windows.climate.rain_mm_h.sum()
        changes.undo(opened, changes.undoable(opened, noon.id).set_id)
    assert left["heavy"] > left["light"] > ahead_of(opened, noon).windows.climate.rain_mm_h.sum()
    before = ahead_of(opened, noon).key
    skywatch.see_rain(opened, noon, "15:00")
    assert ahead_of(opened, noon).key != before
    skywatch.rain_stayed_away(opened, noon)
    assert ahead_of(opened, noon).key == before


def test_an_end_that_is_known_ends_it_by_itself(opened, noon):
    skywatch.see_rain(opened, noon, "13:30", "14:15")
    seen = skywatch.seen_on(opened, noon, opened.clock.now())
    assert seen.rain[0].until_s - seen.rain[0].from_s == 45 * 60
    step_clock(opened.app, 3.0)
    seen = skywatch.seen_on(opened, noon, opened.clock.now())
    assert seen.rain, "the walls remember it"
    assert not seen.raining(opened.clock.now())
    for at, until, field in (("13:00", "12:00", "rain_until"), ("", "soon", "rain_until")):
        with pytest.raises(FieldErrors) as caught:
            skywatch.see_rain(opened, noon, at, until)
        assert set(caught.value.errors) == {field}


def test_several_sides_are_felt_at_once_earlier_and_by_somebody(opened, noon):
    ids = [s.id for name in ("East", "West") for s in side(noon, name).surfaces if s.is_painted]
    sightings.feel(opened, noon, ids, "wet", "11:40", "Tobias")
    felt = sightings.latest_palms(opened, noon, opened.clock.now())
    assert set(felt) == set(ids)
    assert {(f.word, f.said_by, f"{f.at.astimezone(outlook.ZoneInfo(noon.time_zone)):%H:%M}") for f in felt.values()} == {
        ("wet", "Tobias", "11:40")
    }
    ahead = ahead_of(opened, noon)
    felt_at = ahead.step_at(opened.clock.now() - timedelta(minutes=70))
    rows = rows_of(ahead, noon, "East", "West")
    assert ahead.windows.climate.wet[rows, felt_at].all(), "from the quarter-hour in which it was felt"
    others = [r for r in range(len(ahead.surface_ids)) if r not in rows]
    assert not ahead.windows.climate.wet[others, felt_at].any()
    for at, field in (("15:00", "found_at"), ("noonish", "found_at")):
        with pytest.raises(FieldErrors) as caught:
            sightings.feel(opened, noon, ids, "dry", at)
        assert set(caught.value.errors) == {field}
    with pytest.raises(FieldErrors):
        sightings.wash(opened, noon, [])


def test_a_later_wash_or_rain_ends_what_a_palm_said(opened, noon):
    wall = next(s for s in side(noon, "East").surfaces if s.is_painted)
    sightings.feel(opened, noon, [wall.id], "dry", "11:00")
    step_clock(opened.app, 0.25)
    sightings.wash(opened, noon, [wall.id])
    assert sightings.latest_palms(opened, noon, opened.clock.now())[wall.id].word == "washed"
    ahead = ahead_of(opened, noon)
    assert ahead.windows.climate.wet[ahead.row(wall.id), ahead.step_at(opened.clock.now())], "at once"
    # A word for an earlier moment, said later, does not undo what came after it.
    sightings.feel(opened, noon, [wall.id], "dry", "11:30")
    assert np.array_equal(
        ahead_of(opened, noon).windows.climate.wet[:, ahead.step_at(opened.clock.now())],
        ahead.windows.climate.wet[:, ahead.step_at(opened.clock.now())],
    )
    assert sightings.latest_palms(opened, noon, opened.clock.now())[wall.id].word == "washed"
    skywatch.see_rain(opened, noon)
    assert wall.id not in sightings.latest_palms(opened, noon, opened.clock.now())

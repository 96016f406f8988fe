"""What palm, meter and hose say on a real house: it overrules what was computed at once, is undone, and no answer goes stale."""

from datetime import timedelta

import numpy as np
import pytest

from amber_gable.core.windows import SHUT
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook, skywatch
from amber_gable.services.outlook import sightings as found
from amber_gable.services.outlook.compare import compare, ways_of
from amber_gable.services.outlook.drift import overspray_at
from amber_gable.services.outlook.stepwindows import kinds, outlook_for, step_card
from amber_gable.services.outlook.windowcard import card, chance_at, chances_of
from amber_gable.services.survey.around.shade import lit_tables
from amber_gable.services.survey.building import surfaces
from amber_gable.store import queries
from amber_gable.store.models import Base, Sighting
from tests.support.records import everything, last

pytestmark = pytest.mark.small


def ahead_of(opened, job):
    return outlook.outlook(opened, jobs.whole(opened, job.id), outlook.status(opened, job))


@pytest.fixture
def wall(job):
    return next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")


def now_on(opened, job, wall):
    ahead = ahead_of(opened, job)
    row, step = ahead.row(wall.id), ahead.step_at(opened.clock.now())
    return ahead.windows.climate, row, step, ahead


def test_a_dry_palm_opens_what_was_computed_wet_and_is_taken_back(opened, job, wall):
    climate, row, step, before = now_on(opened, job, wall)
    assert climate.wet[row, step + 1]
    found.feel(opened, job, [wall.id], "dry")
    climate, row, step, after = now_on(opened, job, wall)
    # A palm speaks from the next quarter-hour on, of this wall alone.
    assert not climate.wet[row, step + 1]
    others = [r for r in range(len(after.surface_ids)) if r != row]
    assert np.array_equal(climate.wet[others], before.windows.climate.wet[others])
    done = changes.undoable(opened, job.id)
    assert done.label == "East wall felt dry"
    changes.undo(opened, done.set_id)
    assert np.array_equal(ahead_of(opened, job).windows.states, before.windows.states)


def test_a_wet_palm_at_noon_shuts_until_it_has_dried(opened, job, wall):
    step_clock(opened.app, 6.0)
    climate, row, step, _ = now_on(opened, job, wall)
    assert not climate.wet[row, step : step + 8].any()
    found.feel(opened, job, [wall.id], "wet")
    climate, row, step, after = now_on(opened, job, wall)
    assert climate.wet[row, step + 1]
    assert after.windows.states[row, step + 1] == SHUT
    assert not climate.wet[row, step + 1 : step + 25].all(), "a warm wall dries within the afternoon"
    assert found.latest_palms(opened, job, opened.clock.now())[wall.id].word == "wet"


def test_a_meter_reading_and_a_wash_hold_the_coat_until_it_is_dry_inside(opened, job, wall):
    step_clock(opened.app, 6.0)
    found.measure(opened, job, wall.id, 22.0)
    climate, row, step, ahead = now_on(opened, job, wall)
    assert climate.moisture_pct[row, step + 1] == pytest.approx(22.0, abs=0.3)
    assert "moisture" in {r.rule for r in ahead.windows.reasons(row, step + 1) if r.broken}
    about = card(opened, jobs.whole(opened, job.id), ahead, wall.id, step + 1)
    assert about.sound_from is not None
    assert about.sound_from > ahead.local(step) + timedelta(hours=12)
    found.wash(opened, job, [wall.id])
    climate, row, step, _ = now_on(opened, job, wall)
    # The newest word wins, and the wall drips.
    assert climate.moisture_pct[row, step + 1] == pytest.approx(opened.knowledge.stocks["wood-painted"].washed_pct, abs=0.5)
    assert climate.wet[row, step + 1]


@pytest.mark.parametrize(
    ("act", "field"),
    [
        (lambda c, j, w: found.feel(c, j, [w], "moist"), "palm"),
        (lambda c, j, w: found.feel(c, j, ["nobody"], "dry"), "surface_id"),
        (lambda c, j, w: found.measure(c, j, w, 0.0), "moisture_pct"),
        (lambda c, j, w: found.measure(c, j, w, 400.0), "moisture_pct"),
        (lambda c, j, w: found.wash(c, j, ["nobody"]), "surface_id"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(opened, job, wall, act, field):
    with pytest.raises(FieldErrors) as fault:
        act(opened, job, wall.id)
    assert set(fault.value.errors) == {field}


def test_starts_end_where_the_states_do_and_the_next_coat_waits_its_label(opened, job, wall):
    step_clock(opened.app, 4.0)
    ahead = ahead_of(opened, job)
    row, step = ahead.row(wall.id), ahead.step_at(opened.clock.now())
    about = card(opened, jobs.whole(opened, job.id), ahead, wall.id, step)
    assert about.stretches
    for s in about.stretches:
        first, end = ahead.step_at(s.earliest), ahead.step_at(s.last_stroke)
        assert (ahead.windows.states[row, first:end] != SHUT).all()
        assert ahead.windows.states[row, end] == SHUT
        assert s.binding is not None
        assert not s.closest.broken, "within the stretch every limit is kept"
        assert s.latest + timedelta(hours=about.coat_h) <= s.last_stroke + timedelta(minutes=1)
        assert s.next_coat_from >= s.earliest + timedelta(hours=about.coat_h + ahead.windows.products[row].recoat_h)


def test_a_chance_is_high_in_a_long_window_and_known_to_nobody_beyond_the_forecast(opened, job, wall):
    step_clock(opened.app, 4.0)
    ahead = ahead_of(opened, job)
    whole = jobs.whole(opened, job.id)
    chances = chances_of(opened, whole, ahead, wall.id)
    now = opened.clock.now()
    assert chance_at(chances, now) > 0.8
    # Thursday's front: hardly any member holds.
    assert chance_at(chances, now + timedelta(hours=48)) < 0.2
    assert chance_at(chances, now + timedelta(hours=239)) is None
    assert chances_of(opened, whole, ahead, wall.id) is chances, "reckoned once"


def test_each_kind_of_work_has_windows_of_its_own(opened, job, wall):
    step_clock(opened.app, 2.0)
    ahead, whole = ahead_of(opened, job), jobs.whole(opened, job.id)
    states = {work: outlook_for(opened, whole, ahead, work).windows.states for work in kinds(opened, whole, ahead)}
    assert states["coats"] is ahead.windows.states
    assert (states["wash"] != SHUT).sum() > (states["caulk"] != SHUT).sum() > (states["coats"] != SHUT).sum()
    washed = step_card(opened, whole, ahead, wall.id, "wash", ahead.step_at(opened.clock.now()) + 12)
    assert washed.face_dry_at < washed.sound_at
    with pytest.raises(NotFoundError):
        outlook_for(opened, whole, ahead, "juggling")


def test_two_ways_side_by_side_differ_by_what_only_one_of_them_has(opened, job, wall):
    ahead, whole = ahead_of(opened, job), jobs.whole(opened, job.id)
    ways = ways_of(opened, whole, wall.id)
    assert {"as-is", "method:sprayer", "sun:shade", "rain:50"} <= set(ways)
    for key in ways:
        found_ = compare(opened, whole, ahead, wall.id, "as-is", key)
        assert found_.second.hours - found_.first.hours == pytest.approx(found_.only_second - found_.only_first)
    shade = compare(opened, whole, ahead, wall.id, "as-is", "sun:shade")
    assert shade.only_second == 0, "a stricter school opens nothing"
    bold = compare(opened, whole, ahead, wall.id, "as-is", "rain:50")
    assert bold.only_first == 0
    with pytest.raises(FieldErrors):
        compare(opened, whole, ahead, wall.id, "as-is", "product:snake-oil")


@pytest.mark.four
def test_on_the_boathouse_overspray_is_held_against_the_boats(opened):
    boathouse = next(j for j in jobs.list_jobs(opened) if j.name == "Slipway Boathouse")
    whole = jobs.whole(opened, boathouse.id)
    ahead = outlook.outlook(opened, whole, outlook.status(opened, whole))
    climate = ahead.windows.climate
    gable = next(s for e in whole.building.elevations for s in e.surfaces if s.name == "East gable wall")
    to_boats = np.abs((climate.wind_from_deg + 180 - 95 + 180) % 360 - 180) <= 60
    assert to_boats.any()
    assert not to_boats.all()
    for toward, by in ((True, ("paint", "mist")), (False, ("clear",))):
        step = int(np.flatnonzero(to_boats == toward)[20])
        boats = next(r for r in overspray_at(opened, whole, ahead, gable.id, step).reached if "boats" in r.near.name)
        assert boats.by in by
        limit = next(c for c in ahead.windows.checks if c.rule == "wind").limit_of(ahead.row(gable.id), step)
        assert limit == (4.5 if toward else 6.7)


@pytest.mark.four
def test_eaves_and_wings_of_the_sample_houses_take_some_sun(opened):
    quarry = next(j for j in jobs.list_jobs(opened) if j.name == "Quarry Lane 9")
    whole = jobs.whole(opened, quarry.id)
    names = {s.id: s.name for e in whole.building.elevations for s in e.surfaces}
    tables = {names[i]: t for i, t in lit_tables(opened, whole).items()}
    # A high sun straight ahead: the eaves keep the top of the wall in shade, and the foot of it bright.
    front = np.array([172.0])
    assert 0.3 < tables["South wall 2"].at(front, np.array([55.0]))[0] < 0.95
    assert tables["South wall"].at(front, np.array([20.0]))[0] == pytest.approx(1, abs=0.02)


def test_thunder_brings_everybody_down_for_half_an_hour(opened, job):
    step_clock(opened.app, 5.0)
    before = ahead_of(opened, job)
    step = before.step_at(opened.clock.now())
    assert (before.windows.states[:, step + 1] != SHUT).any()
    skywatch.hear_thunder(opened, job)
    after = ahead_of(opened, job)
    assert (after.windows.states[:, step : step + 2] == SHUT).all()
    assert "thunder" in {r.rule for r in after.windows.reasons(0, step) if r.broken}
    # Half an hour on it is what it was; no step that is done from a ladder goes on meanwhile.
    assert np.array_equal(after.windows.states[:, step + 4 :], before.windows.states[:, step + 4 :])
    assert (outlook_for(opened, jobs.whole(opened, job.id), after, "mask").windows.states[:, step] == SHUT).all()


@pytest.mark.parametrize(("note", "follows"), [("wet", True), ("damp", True), ("dry", False), ("washed", True), ("meter", True)])
def test_a_note_outlives_the_joining_of_its_surface_and_undo_brings_it_back(opened, job, wall, note, follows):
    side = next(e for e in job.building.elevations if e.id == wall.elevation_id)
    surfaces.add_cut(opened, job.id, side.id, ((0.0, 3.0), (20.0, 3.0)))
    whole = jobs.whole(opened, job.id)
    parts = [s for e in whole.building.elevations if e.id == side.id for s in e.surfaces if s.kind == "wall"]
    assert len(parts) == 2
    noted = next(s for s in parts if s.id != wall.id)
    if note == "washed":
        found.wash(opened, whole, [noted.id])
    elif note == "meter":
        found.measure(opened, whole, noted.id, 19.0)
    else:
        found.feel(opened, whole, [noted.id], note)

    def row() -> Sighting:
        with opened.reading() as session:
            return session.query(Sighting).filter(Sighting.job_id == job.id, Sighting.kind.not_in(("rain", "thunder"))).one()

    before = everything(opened)
    surfaces.remove_cut(opened, job.id, side.id, 0)
    left = [s.id for e in jobs.whole(opened, job.id).building.elevations if e.id == side.id for s in e.surfaces if s.kind == "wall"]
    gone = noted.id not in left
    # Water on a part is on the wall that takes it in; a dry part says nothing of the rest.
    assert row().surface_id == (noted.id if not gone else left[0] if follows else None)
    changes.undo(opened, last(opened, job.id)[0])
    assert everything(opened) == before
    assert row().surface_id == noted.id


def test_every_table_that_points_to_a_surface_is_let_go_of():
    """Held against the tables' own keys, so that one added later is not forgotten."""
    pointing = {m.__tablename__ for m, _ in queries.POINTERS["surfaces"]}
    assert {"findings", "site_tests", "clearances", "readings", "sightings"} <= pointing
    keyed = {t.name for t in Base.metadata.tables.values() for k in t.foreign_keys if k.column.table.name in ("surfaces", "elevations")}
    parts = {"openings", "surfaces"}
    assert pointing | {m.__tablename__ for m, _ in queries.POINTERS["elevations"]} == keyed - parts
    hanging = {m.__tablename__ for m in queries.HANGING}
    to_jobs = {t.name for t in Base.metadata.tables.values() for k in t.foreign_keys if k.column.table.name == "jobs"}
    assert hanging == to_jobs - {"buildings", "stock_rows"}

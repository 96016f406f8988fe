"""Windows of real jobs: by side, by what lies downwind, by the building's own shape; and no answer that has gone stale."""

from dataclasses import replace

import numpy as np
import pytest

from amber_gable.core.windows import OPEN, SHUT, STATE_NAMES
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook, skywatch
from amber_gable.services.outlook import sightings as found
from amber_gable.services.outlook.compare import compare, ways_of
from amber_gable.services.outlook.stepwindows import kinds, outlook_for, step_card
from amber_gable.services.outlook.windowcard import card, chance_at, chances_of
from amber_gable.services.survey.around import features
from amber_gable.services.survey.around.features import FeatureFacts
from amber_gable.services.survey.around.shade import lit_tables
from amber_gable.services.survey.building import blocks
from amber_gable.services.survey.building.rows import block_of
from tests.support.surveys import by_name


def ahead_of(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


def house(job):
    return next(block_of(b) for b in job.building.blocks if b.kind == "house")


def side(job, name):
    return next(e for e in job.building.elevations if e.name == name)


def test_each_side_has_the_gusts_of_the_way_it_is_reached(opened, job):
    known = opened.knowledge.access
    for name, way in (("East", "tower"), ("West", "ground"), ("North gable", "lift")):
        features.set_access(opened, job.id, side(job, name).id, way, "firm", 0.0)
    whole = jobs.whole(opened, job.id)
    each = outlook.rules_each(opened, whole)
    for name, way in (("East", "tower"), ("West", "ground"), ("North gable", "lift")):
        assert {each[s.id].max_wind_m_s for s in side(whole, name).surfaces if s.is_painted} == {known[way].max_wind_m_s}
    # What nobody said goes by the job's own way.
    assert {each[s.id].max_wind_m_s for s in side(whole, "South gable").surfaces if s.is_painted} == {known["ladder"].max_wind_m_s}
    ahead = ahead_of(opened, whole)
    wind = next(c for c in ahead.windows.checks if c.rule == "wind")
    limits = {wind.limit_of(row, 60) for row in range(len(ahead.surface_ids))}
    assert limits == {known[way].max_wind_m_s for way in ("tower", "ground", "lift", "ladder")}


@pytest.mark.parametrize(
    "change",
    [
        lambda c, j, s: found.feel(c, j, [s], "dry"),
        lambda c, j, s: found.measure(c, j, s, 19.0),
        lambda c, j, s: found.wash(c, j, [s]),
        lambda c, j, s: skywatch.see_rain(c, j, "15:00"),
        lambda c, j, s: skywatch.hear_thunder(c, j),
        lambda c, j, s: features.set_access(c, j.id, side(j, "East").id, "tower", "firm", 0.0),
        lambda c, j, s: jobs.update_rules(c, j.id, {**j.rules, "method": "sprayer"}),
        lambda c, j, s: blocks.update_block(c, j.id, replace(house(j), overhang_m=1.2)),
    ],
)
def test_what_changes_the_hours_is_a_new_outlook_and_taken_back_the_old_one(opened, job, change):
    wall = side(job, "East").surfaces[0]
    before = ahead_of(opened, job)
    change(opened, job, wall.id)
    after = ahead_of(opened, jobs.whole(opened, job.id))
    assert after.key != before.key
    assert ahead_of(opened, jobs.whole(opened, job.id)) is after, "the same question is not reckoned twice"


def test_a_wider_overhang_keeps_more_sun_off_and_nothing_comes_of_it_at_night(opened, job):
    before = ahead_of(opened, job).windows.climate
    blocks.update_block(opened, job.id, replace(house(job), overhang_m=1.5))
    whole = jobs.whole(opened, job.id)
    after = ahead_of(opened, whole).windows.climate
    assert (after.seen_frac <= before.seen_frac + 0.02).all()
    sunny = before.direct_sun & (before.seen_frac - after.seen_frac > 0.1)
    assert sunny.any()
    assert (after.surface_temp_c[sunny] < before.surface_temp_c[sunny] + 0.05).all()
    assert set(lit_tables(opened, whole)) == {s.id for e in whole.building.elevations for s in e.surfaces if s.is_painted}


def test_property_noted_all_round_shuts_the_gun_in_every_wind(opened):
    boathouse = by_name(opened, "Slipway Boathouse")
    before = ahead_of(opened, boathouse)
    features.add_feature(opened, boathouse.id, FeatureFacts("car", "The neighbour's cars"))
    whole = jobs.whole(opened, boathouse.id)
    after = ahead_of(opened, whole)
    wind = next(c for c in after.windows.checks if c.rule == "wind")
    assert {wind.limit_of(0, q) for q in range(0, after.windows.states.shape[1], 50)} == {opened.knowledge.spray.near_m_s}
    assert (after.windows.states <= before.windows.states).all()


@pytest.mark.parametrize(
    "name",
    [
        "Tollkeeper's House",
        "Orchard Deck",
        pytest.param("Slipway Boathouse", marks=pytest.mark.slow),
        pytest.param("Quarry Lane 9", marks=pytest.mark.slow),
    ],
)
def test_every_surface_of_every_job_has_its_card_at_any_hour(opened, name):
    job = by_name(opened, name)
    ahead = ahead_of(opened, job)
    for row, surface_id in enumerate(ahead.surface_ids):
        now, last = ahead.step_at(opened.clock.now()) + 3, ahead.windows.states.shape[1] - 2
        for step in (now, last):
            about = card(opened, job, ahead, surface_id, step)
            product = ahead.windows.products[row]
            assert [s.label_h for s in about.after.stages] == sorted(s.label_h for s in about.after.stages)
            assert about.after.film_um[step] == pytest.approx(product.dry_film_um / product.volume_solids_pct * 100)
            assert all(s.at is None or s.at >= step for s in about.after.stages)
        for work in ("wash", "putty", "mask"):
            assert step_card(opened, job, ahead, surface_id, work, now).step.label == kinds(opened, job, ahead)[work]


@pytest.mark.parametrize("name", ["Orchard Deck", pytest.param("Slipway Boathouse", marks=pytest.mark.slow)])
def test_every_way_of_a_surface_can_be_held_against_how_it_is(opened, name):
    job = by_name(opened, name)
    ahead = ahead_of(opened, job)
    surface_id = ahead.surface_ids[0]
    for key, way in ways_of(opened, job, surface_id).items():
        both = compare(opened, job, ahead, surface_id, key, "as-is")
        back = compare(opened, job, ahead, surface_id, "as-is", key)
        assert (both.only_first, both.only_second) == (back.only_second, back.only_first), way.label
    same = compare(opened, job, ahead, surface_id, "as-is", "as-is")
    assert same.only_first == same.only_second == 0
    assert np.array_equal(same.first.windows.states[0], ahead.windows.states[ahead.row(surface_id)])


def test_masking_follows_the_dew_and_washing_does_not_wait_for_it(opened, job):
    ahead = ahead_of(opened, job)
    now = ahead.step_at(opened.clock.now())
    masked, washed = (outlook_for(opened, job, ahead, work).windows for work in ("mask", "wash"))
    wet = ahead.windows.climate.wet[:, now + 2]
    assert wet.all()
    assert (masked.states[:, now + 2] == SHUT).all()
    assert (washed.states[:, now + 2] == OPEN).any()
    assert {r.rule for r in masked.reasons(0, now + 2) if r.broken} == {"wet"}
    assert STATE_NAMES[int(masked.states[0, now + 30])] != "shut", "by the afternoon the tape holds"


def test_chances_fall_toward_the_evening_and_agree_with_the_windows_where_these_are_sure(opened, job):
    step_clock(opened.app, 4.0)
    whole = jobs.whole(opened, job.id)
    ahead = ahead_of(opened, whole)
    wall = next(s for s in side(whole, "North gable").surfaces if s.name == "North gable wall")
    chances = chances_of(opened, whole, ahead, wall.id)
    row, now = ahead.row(wall.id), ahead.step_at(opened.clock.now())
    hours = [now + 4 * h for h in range(12)]
    said = [chance_at(chances, ahead.local(q)) for q in hours]
    # The wall is still sage, lighter than the ochre in the can, and so nearer to the dew of the evening.
    assert said[0] > 0.7
    assert said[-1] == pytest.approx(0, abs=0.02), "nobody paints at night"
    for q, chance in zip(hours, said, strict=True):
        if chance > 0.9:
            assert ahead.windows.states[row, q] != SHUT

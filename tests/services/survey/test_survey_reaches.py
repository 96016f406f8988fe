"""What the survey knows reaches the stages after it: shade, slopes, walls alone, pieces and gates."""

import json
from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest

from amber_gable.core.survey.site_tests import card_for
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.exchange import jobbundle
from amber_gable.exchange.surfaces_csv import HEAD, surfaces_csv
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.jobs.jobs import JobFacts
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import schedules
from amber_gable.services.survey.around import features
from amber_gable.services.survey.around.features import FeatureFacts
from amber_gable.services.survey.around.sunside import sun_side
from amber_gable.services.survey.building import blocks, items, openings, surfaces
from amber_gable.services.survey.building.areas import net_area_m2
from amber_gable.services.survey.building.openings import OpeningFacts
from amber_gable.services.survey.building.rows import block_of
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.services.survey.bundle.export import export
from amber_gable.services.survey.bundle.read import read_in
from amber_gable.services.survey.evidence import findings, gates, site_tests
from amber_gable.services.survey.evidence.findings import FindingFacts
from amber_gable.services.systems.specs import AsIf, specs_of
from amber_gable.services.takeoff import ranges
from amber_gable.services.takeoff.alternatives import take_off_as_if
from amber_gable.services.takeoff.job import job_takeoff, under_rules
from amber_gable.store import queries
from tests.support.records import everything, last
from tests.support.surveys import CLEARED, elevation


def ahead_of(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


def named(opened, name):
    return jobs.whole(opened, next(j.id for j in jobs.list_jobs(opened) if j.name == name))


def test_a_tree_noted_in_the_survey_takes_the_sun_off_its_wall_only(opened, job):
    west, south = (next(s.id for s in elevation(job, n).surfaces if s.kind == "wall") for n in ("West", "South gable"))
    before = ahead_of(opened, job)
    features.add_feature(opened, job.id, FeatureFacts("tree", "Spruce", elevation(job, "West").id, 5.0, 150.0, 355.0, 88.0))
    after = ahead_of(opened, jobs.whole(opened, job.id))
    sun = {name: (a.windows.climate.direct_sun, a) for name, a in (("before", before), ("after", after))}
    assert sun["before"][0][before.row(west)].any()
    assert not sun["after"][0][after.row(west)].any()
    assert np.array_equal(sun["before"][0][before.row(south)], sun["after"][0][after.row(south)])
    # Shaded, it is cooler in the afternoon and stays so until the sun is gone.
    hot = before.windows.climate.direct_sun[before.row(west)]
    cooler = before.windows.climate.surface_temp_c[before.row(west)] - after.windows.climate.surface_temp_c[after.row(west)]
    # The first quarter-hour behind the tree starts out alike.
    assert cooler[hot].min() > -0.01
    assert cooler[hot].max() > 5


def test_a_roof_and_a_deck_are_sloped_and_flat_to_the_weather(opened):
    boathouse, deck = named(opened, "Slipway Boathouse"), named(opened, "Orchard Deck")
    roof = next(s for s in elevation(boathouse, "South roof").surfaces)
    wall = next(s for s in elevation(boathouse, "South").surfaces)
    ahead = ahead_of(opened, boathouse)
    climate = ahead.windows.climate
    night = ~climate.sky.is_day
    # A metal roof faces the sky: colder than the wall by night, and wet more often.
    assert climate.surface_temp_c[ahead.row(roof.id), night].mean() < climate.surface_temp_c[ahead.row(wall.id), night].mean() - 0.5
    assert climate.wet[ahead.row(roof.id)].sum() > climate.wet[ahead.row(wall.id)].sum()
    boards = ahead_of(opened, deck)
    flat = boards.row(elevation(deck, "Deck boards").surfaces[0].id)
    noon = int(np.argmax(boards.windows.climate.sky.elevation_deg[:96]))
    assert boards.windows.climate.direct_sun[flat, noon]


def test_only_what_is_painted_is_scheduled(opened):
    boathouse = named(opened, "Slipway Boathouse")
    schedules.make(opened, boathouse)
    visits = schedules.saved(opened, boathouse).visits
    names = {s.id: s.name for s in outlook.painted_surfaces(boathouse)}
    assert {v.surface_id for v in visits} <= set(names)
    painted = [s.name for s in outlook.painted_surfaces(named(opened, "Orchard Deck"))]
    assert painted == ["Deck east railing", "Deck south railing", "Deck steps", "Deck south railing 2", "Deck west railing", "Deck boards"]


def test_take_off_uses_the_profile_measured_on_the_surface(opened, job, knowledge):
    wall = next(s for s in elevation(job, "West").surfaces if s.kind == "wall")
    before = job_takeoff(opened, job).by_surface[wall.id]
    facts = SurfaceFacts("wood-siding", "lap", "smooth", 31.0, True, {"exposure_mm": 60.0, "butt_mm": 30.0})
    surfaces.update_surface(opened, job.id, wall.id, facts)
    after = job_takeoff(opened, jobs.whole(opened, job.id)).by_surface[wall.id]
    assert after.net_area_m2 == pytest.approx(before.net_area_m2)
    assert after.litres_per_coat / before.litres_per_coat == pytest.approx(1.5 / (127 / 114.3), rel=1e-6)


def test_railings_take_off_by_their_balusters(opened, knowledge):
    deck = named(opened, "Orchard Deck")
    rail = elevation(deck, "Deck east railing").surfaces[0]
    found = job_takeoff(opened, deck).by_surface[rail.id]
    # Handbook 7: count x perimeter x height; 14 ft of railing 3 ft high, 38 mm square at 127 mm.
    count = 14 * 0.3048 / 0.127
    assert found.uptake_m2 == pytest.approx(count * 4 * 0.038 * 3 * 0.3048, rel=2e-3)


def test_the_sun_side_is_computed_and_moves_when_it_is_shaded(opened, job):
    now = opened.clock.now()
    assert sun_side(opened, job, now) == elevation(job, "South gable").id
    features.add_feature(opened, job.id, FeatureFacts("hill", "Cliff", None, 20.0, 100.0, 250.0, 80.0))
    assert sun_side(opened, jobs.whole(opened, job.id), now + timedelta(hours=1)) != elevation(job, "South gable").id


def test_a_door_that_becomes_a_window_gives_its_surface_up(opened, job):
    east = elevation(job, "East")
    door = next(o for o in east.openings if o.kind == "entry-door")
    area = net_area_m2(next(s for s in east.surfaces if s.name == "East wall"), east, opened.knowledge)
    openings.update_opening(opened, job.id, door.id, OpeningFacts("fixed-window", 0.6, 0.6, 5.4, 1.2))
    again = elevation(jobs.whole(opened, job.id), "East")
    assert [s.kind for s in again.surfaces] == ["wall", "plinth"]
    wall = next(s for s in again.surfaces if s.kind == "wall")
    assert net_area_m2(wall, again, opened.knowledge) == pytest.approx(area + 0.9144 * 2.0828 - 0.36)
    openings.update_opening(opened, job.id, door.id, OpeningFacts("entry-door", 0.9, 2.0, 5.4, 0.51))
    assert "door" in {s.kind for s in elevation(jobs.whole(opened, job.id), "East").surfaces}


def test_a_test_speaks_of_the_substrate_it_was_done_on(opened, job):
    wall, plinth = (next(s for s in elevation(job, "West").surfaces if s.kind == kind) for kind in ("wall", "plinth"))
    chalk = [site_tests.record(opened, job, s.id, "rub", {"rating": 4}).means for s in (wall, plinth)]
    assert "prime with one made for chalk" in chalk[0]
    assert "masonry conditioner" in chalk[1]
    with pytest.raises(NotFoundError):
        site_tests.record(opened, job, "nowhere", "rub", {"rating": 4})
    with pytest.raises(FieldErrors):
        site_tests.record(opened, job, wall.id, "rub", {"rating": 40})
    assert "metal" in card_for("magnet").families


def test_a_material_that_may_hold_asbestos_raises_the_gate_by_itself(opened, job):
    # Only the putty that is to come out, and a sample of it was negative.
    assert gates.gates_of(opened, job)[1].state == "cleared"
    wall = next(s for s in elevation(job, "West").surfaces if s.kind == "wall")
    surfaces.update_surface(opened, job.id, wall.id, SurfaceFacts("cement-siding", "lap-wide", "smooth", 31.0, True))
    raised = gates.gates_of(opened, jobs.whole(opened, job.id))[1]
    assert (raised.state, raised.open_components) == ("partly", (wall.id,))
    assert "sampled" in raised.rules[0]


@pytest.mark.parametrize(("substrate", "profile"), [("fibre-cement", "lap-wide"), ("textured-coating", "flat"), ("cement-siding", "flat")])
@pytest.mark.parametrize(
    ("built", "own_year", "is_raised"), [(1962, None, True), (None, None, True), (1995, 1989, False), (1962, 1989, True)]
)
def test_old_cement_boards_and_coats_raise_asbestos_by_the_local_year(opened, job, substrate, profile, built, own_year, is_raised):
    wall = next(s for s in elevation(job, "West").surfaces if s.kind == "wall")
    surfaces.update_surface(opened, job.id, wall.id, SurfaceFacts(substrate, profile, "smooth", 31.0, True))
    names = (
        "name",
        "latitude_deg",
        "longitude_deg",
        "altitude_m",
        "time_zone",
        "units",
        "country",
        "lead_before_year",
        "crew",
        "is_heated",
    )
    facts = JobFacts(**{n: getattr(job, n) for n in names}, year_built=built, asbestos_before_year=own_year)
    jobs.update_facts(opened, job.id, facts, next(e for e in job.building.elevations if e.name == "North gable").azimuth_deg)
    gate = gates.gates_of(opened, jobs.whole(opened, job.id))[1]
    assert gate.is_raised == is_raised
    assert (wall.id in gate.open_components) == is_raised


def test_putty_is_cleared_by_its_own_sample_alone(opened, job):
    (sample,) = [r for r in gates.clearances_of(opened, job.id) if r.hazard == "asbestos"]
    windows = next(s for s in specs_of(opened, job) if s.part.key == "windows")
    assert not any("asbestos" in step.blocked_by for step in windows.system.steps)
    gates.withdraw(opened, job.id, sample.id)
    whole = jobs.whole(opened, job.id)
    assert gates.gates_of(opened, whole)[1].open_components == ("windows",)
    windows = next(s for s in specs_of(opened, whole) if s.part.key == "windows")
    assert "asbestos" in next(step for step in windows.system.steps if step.key == "putty-out").blocked_by
    others = [s for s in specs_of(opened, whole) if s.part.key != "windows"]
    assert not any("asbestos" in step.blocked_by for s in others for step in s.system.steps)


def test_work_under_the_lead_rules_has_steps_with_hours_sheets_and_money(opened, job):
    # Until a test clears it, it counts as lead: its hours, sheets and money are in the price, and held up.
    before = job_takeoff(opened, job)
    held = [s for p in before.parts for s in p.spec.system.steps if s.key.startswith("rules-") and s.key != "rules-notice"]
    assert held
    assert all("lead" in s.blocked_by for s in held)
    cleared = float(take_off_as_if(opened, job, AsIf(lead_cleared=True)).price.total)
    driver = next(d for d in ranges.range_of(opened, job).drivers if d.key == "lead")
    assert (driver.low, driver.high) == (cleared, float(before.price.total))
    under = {"certificate": "FR-12", "notice": "Handed over 1 Sep", "containment": "Sheets 3 m out, tape, signs"}
    gates.record(opened, job.id, "lead", "works-under", (), under)
    whole = jobs.whole(opened, job.id)
    after = job_takeoff(opened, whole)
    added = {s.label for p in after.parts for s in p.spec.system.steps if s.key.startswith("rules-")}
    assert len(added) == 6, "notice, containment, wet methods, cleaning, verification, waste"
    # Only on what was not cleared, and never on a cleared wall.
    west = next(s for e in whole.building.elevations for s in e.surfaces if s.name == "West wall")
    east = next(s for e in whole.building.elevations for s in e.surfaces if s.name == "East wall")
    assert any(s.key.startswith("rules-") for s in after.by_surface[west.id].spec.system.steps)
    assert not any(s.key.startswith("rules-") for s in after.by_surface[east.id].spec.system.steps)
    # Hand count: once 2 x 0.25 h, and every square metre at 25, 20, 30 and 80 an hour, before height.
    tasks = [t for t in after.tasks if t.part == west.id and t.step.startswith("rules-")]
    area = after.by_surface[west.id].net_area_m2
    least = 0.5 + area * (1 / 25 + 1 / 20 + 1 / 30 + 1 / 80)
    assert least * 0.99 <= sum(t.hours for t in tasks) <= 1.35 * least
    assert {line.key for line in after.sundries} >= {"containment-sheet", "wipes", "waste-bags"}
    assert under_rules(after, opened.knowledge).money > 0
    assert after.price.total == before.price.total, "who works under the rules pays for them, tested or not"
    assert not any("lead" in s.blocked_by for p in after.parts for s in p.spec.system.steps)
    assert float(after.price.total) > cleared + float(under_rules(after, opened.knowledge).money)


def test_a_block_that_others_hang_on_moves_them_with_it(opened, job):
    porch = next(e for e in job.building.elevations if e.name == "Porch east roof")
    house = next(b for b in job.building.blocks if b.kind == "house")
    blocks.update_block(opened, job.id, replace(block_of(house), deep_m=house.deep_m + 1.0, ridge_height_m=house.ridge_height_m + 0.3))
    again = jobs.whole(opened, job.id)
    same = next(e for e in again.building.elevations if e.id == porch.id)
    assert same.depth_m == pytest.approx(porch.depth_m), "it hangs on the front, which stayed"
    chimney = [e for e in again.building.elevations if e.name.startswith("Chimney")]
    assert len(chimney) == 4


def test_a_soffit_is_as_wide_as_the_overhang_and_is_changed_there(opened, job):
    house = next(b for b in job.building.blocks if b.kind == "house")

    def soffit():
        return next(i for i in jobs.whole(opened, job.id).building.items if i.kind == "soffit" and i.name.startswith(house.name))

    before = soffit()
    assert before.girth_m == pytest.approx(house.overhang_m)
    with pytest.raises(FieldErrors, match="as wide as the overhang of its block"):
        items.update_item(opened, job.id, before.id, 0.9, True)
    items.update_item(opened, job.id, before.id, before.girth_m, False)
    blocks.update_block(opened, job.id, replace(block_of(house), overhang_m=0.75))
    assert (soffit().girth_m, soffit().is_painted) == (0.75, False)
    # A fascia's girth was measured on its board and stays.
    fascia = next(i for i in job.building.items if i.kind == "fascia")
    items.update_item(opened, job.id, fascia.id, 0.33, True)
    blocks.update_block(opened, job.id, replace(block_of(house), overhang_m=0.5))
    assert next(i for i in jobs.whole(opened, job.id).building.items if i.id == fascia.id).girth_m == 0.33


def test_records_of_a_door_outlive_it_and_come_back_with_undo(opened, job):
    east = elevation(job, "East")
    door = next(s for s in east.surfaces if s.kind == "door")
    pin = findings.add_finding(opened, job.id, east.id, FindingFacts("rot", "spots", *door.outline[0]))
    findings.update_finding(opened, job.id, pin, FindingFacts("rot", "spots", door.outline[0][0] + 0.2, door.outline[0][1] + 0.2))
    site_tests.record(opened, job, door.id, "rub", {"rating": 8})
    gates.record(opened, job.id, "lead", "test", [door.id], CLEARED)
    start = everything(opened)
    openings.update_opening(opened, job.id, door.opening_id, OpeningFacts("fixed-window", 0.6, 0.6, 5.4, 1.2))
    assert door.id not in {s.id for e in jobs.whole(opened, job.id).building.elevations for s in e.surfaces}
    with opened.reading() as session:
        assert [f.surface_id for f in queries.findings(session, job.id) if f.id == pin] == [None]
        assert door.name in [t.surface_name for t in queries.site_tests(session, job.id) if t.surface_id is None]
        assert (door.name, None) in [(c.component, c.surface_id) for c in queries.clearances(session, job.id)]
    changes.undo(opened, last(opened, job.id)[0])
    assert everything(opened) == start
    openings.remove_opening(opened, job.id, door.opening_id)
    changes.undo(opened, last(opened, job.id)[0])
    assert everything(opened) == start


def test_records_keep_their_dates_from_bundle_to_bundle(opened, job):
    wall = elevation(job, "West").surfaces[0]
    site_tests.record(opened, job, wall.id, "rub", {"rating": 8}, "Ines")
    text = jobbundle.write(export(opened, job))
    step_clock(opened.app, 240)
    again = read_in(opened, jobbundle.read(text.encode()))
    with opened.reading() as session:
        for query, moment in ((queries.findings, "found_at"), (queries.site_tests, "taken_at"), (queries.clearances, "recorded_at")):
            times = [sorted(getattr(row, moment) for row in query(session, key)) for key in (job.id, again)]
            assert times[0] == times[1], moment
    # A test taken from a wall that is gone cannot be judged anew, and says so.
    bundle = json.loads(text)
    bundle["site_tests"][0] |= {"elevation": None, "surface": None, "verdict": None}
    with pytest.raises(FieldErrors) as caught:
        read_in(opened, jobbundle.read(json.dumps(bundle).encode()))
    assert set(caught.value.errors) == {"site_tests.0.verdict"}


def test_csv_keeps_what_a_spreadsheet_would_run_as_text():
    text = surfaces_csv([("=cmd()", "+1", "-x", "@y", None, 1.5)])
    head, row = text.splitlines()
    assert head.split(",") == list(HEAD)
    assert row == "'=cmd(),'+1,'-x,'@y,,1.5"

"""Colours of a job: set by zone, tried on boards, seen in the light of a day."""

import pytest

from amber_gable.core.coat.colour import linear_rgb, lrv_pct
from amber_gable.core.systems.samples import SampleFacts
from amber_gable.errors import FieldErrors
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.changes import changes
from amber_gable.services.systems import choices, samples
from amber_gable.services.systems.choices import Wish
from amber_gable.services.systems.colours import add_candidate, colours_of, day_of, remove_candidate, set_colour, trial_of
from amber_gable.services.systems.specs import specs_of
from amber_gable.store import queries
from tests.support.records import everything, last
from tests.support.systems import BRUSHED, named, spec, steps


def zones(opened, job):
    with opened.reading() as session:
        rows = queries.samples(session, job.id)
    return {c.zone: c for c in colours_of(opened, specs_of(opened, job), rows)}


def candidates(opened, job):
    with opened.reading() as session:
        return list(queries.candidates(session, job.id))


def test_a_zone_is_coloured_at_once_and_undone_at_once(opened, job):
    start, body = everything(opened), zones(opened, job)["Body"]
    assert len(body.specs) == 6
    set_colour(opened, job, body, "#1E2A38")
    job = named(opened, job.name)
    walls = [s for e in job.building.elevations for s in e.surfaces if s.kind in ("wall", "gable") and s.is_painted]
    assert {(s.hex, s.lrv_pct) for s in walls} == {("#1e2a38", round(lrv_pct("#1e2a38"), 2))}
    # Sage to night blue: from light to dark, so every wall is primed whole.
    assert spec(opened, job, "West wall").system.prime == "full"
    changes.undo(opened, last(opened, job.id)[0])
    assert everything(opened) == start
    with pytest.raises(FieldErrors, match="six digits"):
        set_colour(opened, job, body, "ochre")


def test_what_is_on_windows_and_their_colour_reach_their_system(opened, job):
    before = spec(opened, job, "windows")
    assert before.part.facts.coating == "alkyd"
    choices.want(opened, job.id, "windows", Wish(coating="none"))
    job = named(opened, job.name)
    bare = spec(opened, job, "windows")
    assert (bare.part.facts.coating, bare.part.facts.coating_age_y) == ("none", None)
    assert "prime" in steps(bare)
    assert "spot-prime" in steps(before)
    choices.want(opened, job.id, "windows", Wish(old_hex="#20242a", coating="alkyd", coated_year=2006))
    set_colour(opened, job, zones(opened, named(opened, job.name))["Windows"], "#f4f1e8")
    light = spec(opened, named(opened, job.name), "windows")
    assert light.part.facts.coating_age_y == 20
    assert "colour:dark-to-light" in light.system.tags
    with pytest.raises(FieldErrors) as caught:
        choices.want(opened, job.id, "windows", Wish("marble", old_hex="x", coating="fur", coated_year=3))
    assert set(caught.value.errors) == {"wanted", "old_hex", "coating", "coated_year"}


def test_candidates_are_three_or_four_colours_with_names(opened, job):
    for row in candidates(opened, job):
        remove_candidate(opened, job.id, row.id)
    for number, tint in enumerate(("#ca8a34", "#b8742e", "#d39a4a", "#a9682a")):
        body = zones(opened, job)["Body"]
        assert trial_of(opened, job, body, candidates(opened, job)).plan.too_few == (number < 3)
        add_candidate(opened, job, "Body", f"card {number}", tint)
    bad = (
        ("Body", "fifth", "#ffffff", "code"),
        ("Trim", " ", "#ffffff", "code"),
        ("Trim", "x", "white", "hex"),
        ("Moat", "x", "#fff", "zone"),
    )
    for zone, code, tint, field in bad:
        with pytest.raises(FieldErrors) as caught:
            add_candidate(opened, job, zone, code, tint)
        assert field in caught.value.errors
    remove_candidate(opened, job.id, candidates(opened, job)[0].id)
    with pytest.raises(FieldErrors, match="among them"):
        add_candidate(opened, job, "Body", "again", "#b8742e")


def test_boards_hang_in_most_and_in_least_sun_and_are_looked_at_through_the_day(opened, job):
    body, chosen = zones(opened, job)["Body"], candidates(opened, job)
    trial = trial_of(opened, job, body, chosen)
    # The house looks a little north of east, so its south gable has most sun and its north gable none.
    assert trial.walls == ("South gable", "North gable")
    assert trial.plan.boards == 2 * len(chosen)
    times = [look.at for look in trial.looks]
    assert times == sorted(times)
    by = {(look.wall, look.light): look for look in trial.looks}
    assert {light for wall, light in by if wall == "North gable"} == {"in its shade"}
    early, late = by[("South gable", "early in its sun")], by[("South gable", "late in its sun")]
    assert 8 <= early.at.hour < 12 < late.at.hour < 18
    sunlit, shaded = linear_rgb(early.seen[0]), linear_rgb(by[("North gable", "in its shade")].seen[0])
    assert sunlit[0] / sunlit[2] > shaded[0] / shaded[2], "shade is cooler"
    assert sum(sunlit) > sum(shaded)
    # A window hangs on the walls that have one, a shutter on the front alone.
    assert trial_of(opened, job, zones(opened, job)["Shutters"], ()).walls == ("East",)


@pytest.mark.parametrize(("days", "hours"), [(0, 24), (47, 25)])
def test_the_light_of_a_day_that_the_clock_is_changed_on_is_whole(opened, job, days, hours):
    for _ in range(days // 9):
        step_clock(opened.app, 9 * 24)
    step_clock(opened.app, 24 * (days % 9) or 0.1)
    day = day_of(opened, job)
    assert len(day.sky.elevation_deg) == hours * 4
    assert list(day.hours) == ["morning", "noon", "evening"]
    assert 11 <= day.local(day.hours["noon"]).hour <= 13
    lit = {name: {e for e, light in day.lights(step).items() if light.is_direct} for name, step in day.hours.items()}
    names = {e.id: e.name for e in job.building.elevations}
    assert "East" in {names[e] for e in lit["morning"]} - {names[e] for e in lit["evening"]}


def test_an_approved_brush_out_counts_for_its_zone_and_not_for_another_tint(opened, job):
    part = spec(opened, job, "East wall").part.key
    row = samples.add(opened, job, SampleFacts("brush-out", part, "2026-09-14", BRUSHED), {part: "East wall"}, "#ca8a34")
    samples.sign(opened, job, row, "approved", "The heir")
    assert zones(opened, job)["Body"].approved_by == "The heir"
    assert not zones(opened, job)["Trim"].approved_by
    set_colour(opened, job, zones(opened, job)["Body"], "#b8742e")
    assert not zones(opened, named(opened, job.name))["Body"].approved_by, "another tint asks for another brush-out"

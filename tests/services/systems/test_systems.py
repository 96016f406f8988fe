"""Systems of a job: facts from the survey, schools with what they change, changes by hand, cards."""

import tomllib
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from amber_gable.core.planning.stints import stints_of
from amber_gable.core.systems.overrides import Edit
from amber_gable.core.systems.samples import SampleFacts
from amber_gable.core.windows import find_windows
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook
from amber_gable.services.planning.making.laying import places_in
from amber_gable.services.survey.building import openings, surfaces
from amber_gable.services.survey.building.openings import OpeningFacts
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.services.survey.evidence import findings, gates
from amber_gable.services.survey.evidence.findings import FindingFacts
from amber_gable.services.systems import choices, samples
from amber_gable.services.systems.cards import chemistry_of, hazards_of
from amber_gable.services.systems.choices import Wish
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.services.systems.heat import peak_of
from amber_gable.services.systems.specs import difference, schools_of, specs_of, total
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.services.takeoff.tasks import tasks_of
from tests.support.pace import calls
from tests.support.records import everything, last
from tests.support.surveys import CLEARED, elevation
from tests.support.systems import BRUSHED, named, spec, steps


def in_order(wanted, keys) -> bool:
    at = iter(keys)
    return all(key in at for key in wanted)


# What a painter of twenty years would write down for each demonstration building, before looking at the program.
SIGNED = {
    "Tollkeeper's House": {
        "South gable wall": (["soft-wash", "scrape", "feather", "spot-prime", "fill", "sand-filled", "prime", "coat 1"], "acrylic", 2),
        "East wall": (["mildew-wash", "soft-wash", "dry", "caulk", "coat 1", "coat 2"], "acrylic", 2),
        "West wall": (["soft-wash", "cut-out-rot", "harden-rot", "fill-rot", "sand-filled", "dust", "coat 1", "coat 2"], "acrylic", 2),
        "East entry door": (["degloss", "dust", "mask-hardware", "coat 1", "coat 2"], "trim-enamel", 2),
        "windows": (["scrape-glass-lip", "putty-out", "spot-prime", "replace-putty", "dust", "undercoat 1", "coat 1"], "trim-enamel", 1),
        "shutters": (["take-down", "wash-pieces", "dry", "spot-prime", "coat 1", "coat 2", "turn", "put-back"], "trim-enamel", 2),
    },
    "Slipway Boathouse": {
        "North roof": (["power-wash", "dry", "treat-rust", "fix-fasteners", "prime", "coat 1", "coat 2"], "metal-finish", 2),
        "East gable wall": (["soft-wash", "dry", "set-nails", "spot-prime", "coat 1", "coat 2"], "acrylic", 2),
    },
    "Quarry Lane 9": {
        "West wall": (["power-wash", "dry", "open-cracks", "fill-cracks", "prime", "coat 1", "coat 2"], "masonry-paint", 2),
        "South wall": (["find-cause", "brush-salts", "plastic-sheet", "prime", "coat 1", "coat 2"], "masonry-paint", 2),
        "South wall 2": (["power-wash", "dry", "prime", "coat 1", "coat 2"], "masonry-paint", 2),
        "Garage east garage door": (["degrease", "rinse", "dry", "scuff", "spot-prime", "prime", "coat 1", "coat 2"], "metal-finish", 2),
    },
    "Orchard Deck": {
        "Deck boards": (["grey-wood-clean", "rinse-long", "acid-rinse", "dry", "sand-deck", "water-drop", "coat 1"], "stain-semi", 1),
        "Deck steps": (["strip-test-patch", "strip", "rinse-long", "acid-rinse", "dry", "sand-deck", "coat 1"], "stain-semi", 1),
        "Deck east railing": (["deck-clean", "dry", "coat 1"], "stain-semi", 1),
    },
}  # fmt: skip


@pytest.mark.parametrize("name", SIGNED)
def test_the_demonstration_has_systems_a_painter_would_sign(opened, name):
    found = {key: s for s in specs_of(opened, named(opened, name)) for key in (s.part.key, s.part.name)}
    for part, (wanted, finish, coats) in SIGNED[name].items():
        assert in_order(wanted, steps(found[part])), f"{part}: {steps(found[part])}"
        assert (found[part].system.finish, found[part].system.coats) == (finish, coats), part
    for s in found.values():
        assert s.system.refusals == ()
        assert not [c for c in s.clashes if c.level == "never"], s.part.name
        # Every coat has a product whose family it is.
        for step in s.system.steps:
            if step.family:
                assert opened.knowledge.products[s.products[step.key]].family == step.family


def test_lead_holds_preparation_up_until_a_part_is_cleared(opened, job):
    before = spec(opened, job, "South gable wall")
    blocked = {s.key for s in before.system.steps if "lead" in s.blocked_by and not s.key.startswith("rules-")}
    assert blocked == {"dull", "scrape", "feather", "sand-filled"}
    assert "power-wash" not in steps(before)
    wall = next(s for s in elevation(job, "South gable").surfaces if s.kind == "wall")
    gates.record(opened, job.id, "lead", "test", [wall.id], CLEARED)
    after = spec(opened, job, "South gable wall")
    assert not any("lead" in s.blocked_by or s.key.startswith("rules-") for s in after.system.steps)
    assert "lead" not in {c.key for c in after.system.cautions}
    assert spec(opened, job, "West wall").is_blocked, "one negative clears nothing else"


def test_a_pin_a_test_and_a_colour_reach_the_system(opened, job):
    north = elevation(job, "North gable")
    wall = next(s for s in north.surfaces if s.kind == "wall")
    assert "scrape" not in steps(spec(opened, job, wall.id))
    findings.add_finding(opened, job.id, north.id, FindingFacts("blistering", "spots", 4.0, 3.0))
    assert in_order(["find-cause", "soft-wash", "dry", "scrape", "feather"], steps(spec(opened, job, wall.id)))
    dark = SurfaceFacts("vinyl", "lap", "smooth", 20.0, True, hex="#3a4a44", old_hex="#d8d5c8", coating="none")
    surfaces.update_surface(opened, job.id, wall.id, dark)
    refused = spec(opened, job, wall.id)
    assert [r.key for r in refused.system.refusals] == ["vinyl-darker"]
    choices.want(opened, job.id, wall.id, Wish(is_heat_reflective=True))
    assert spec(opened, job, wall.id).system.refusals == ()


@pytest.mark.parametrize(
    ("name", "key", "option", "part", "added", "removed"),
    [
        ("Tollkeeper's House", "peeling-wood", "build-up", "South gable wall", "High-build bonding primer", "Feather the edges"),
        ("Quarry Lane 9", "washing", "soft", "West wall", "Soft wash", "Pressure wash"),
        ("Quarry Lane 9", "render-cracks", "0.2", "North wall", "", ""),
        ("Orchard Deck", "deck-film", "sanding", "Deck steps", "Sand the film off", "Strip chemically"),
        ("Orchard Deck", "raised-fibres", "leave", "Deck boards", "", "Sand off raised fibres"),
    ],
)
def test_a_school_says_what_it_changes_and_then_does(opened, name, key, option, part, added, removed):
    job = named(opened, name)
    told = difference(opened, job, key, option)
    changed = next((c for c in told.parts if c.part.name == part), None)
    if added or removed:
        assert added in ("", *changed.added)
        assert removed in ("", *changed.removed)
    before = total(specs_of(opened, job))
    start = everything(opened)
    choices.set_school(opened, job.id, key, option)
    again = jobs.whole(opened, job.id)
    after = total(specs_of(opened, again))
    assert schools_of(opened, again) == {key: option}
    assert after.labour_h - before.labour_h == pytest.approx(told.labour_h)
    assert after.money - before.money == pytest.approx(told.money)
    changes.undo(opened, last(opened, job.id)[0])
    assert everything(opened) == start


def test_a_school_of_the_firm_holds_for_all_jobs_that_have_none_of_their_own(opened, job):
    other = named(opened, "Quarry Lane 9")
    choices.set_school(opened, job.id, "washing", "pressure")
    choices.set_school(opened, other.id, "washing", "soft", for_all=True)
    assert schools_of(opened, jobs.whole(opened, job.id)) == {"washing": "pressure"}
    assert schools_of(opened, named(opened, "Orchard Deck")) == {"washing": "soft"}
    # The usual, chosen for one job, wins over the firm's.
    choices.set_school(opened, other.id, "washing", "by-surface")
    assert schools_of(opened, jobs.whole(opened, other.id)) == {}
    with pytest.raises(FieldErrors):
        choices.set_school(opened, job.id, "washing", "never")
    with pytest.raises(FieldErrors):
        difference(opened, job, "singing", "loud")


def test_changes_by_hand_stand_are_warned_of_and_can_be_taken_back(opened, job):
    part = spec(opened, job, "South gable wall").part.key
    start = everything(opened)
    edits = [
        Edit("drop", "caulk", note="The joints are new"),
        Edit("add", "power-wash", "soft-wash", note="Quick rinse"),
        Edit("add", "own", "dry", note="Take the satellite dish down"),
        Edit("move", "prime", "clear"),
        Edit("replace", "feather", instead="sand", note="Sander is at hand"),
        Edit("note", "coat 1", note="Two painters"),
    ]
    for made in edits:
        choices.edit(opened, job.id, part, made)
    found = spec(opened, job, "South gable wall")
    keys = steps(found)
    assert "caulk" not in keys
    assert "feather" not in keys
    assert keys.index("prime") == keys.index("clear") + 1
    assert keys.index("power-wash") == keys.index("soft-wash") + 1
    assert next(s for s in found.system.steps if s.key == "own 1").label == "Take the satellite dish down"
    # What was put in brings its hazard, what is left out takes it along.
    assert "pressure-washer" in {c.key for c in found.system.cautions}
    assert next(s for s in found.system.steps if s.key == "power-wash").blocked_by == ("lead",), "held to the gates like any other"
    said = " ".join(found.warnings)
    for words in ("Caulk joints was dropped", "Never pressure on suspected lead", "comes before", "Feather the edges was replaced by sand"):
        assert words in said, words
    # The rules may change below them: the edits stay, and what has nothing to stand on is told.
    choices.set_school(opened, job.id, "peeling-wood", "build-up")
    later = spec(opened, job, "South gable wall")
    assert len(later.edits) == 6
    assert any("nothing to stand on" in w for w in later.warnings)
    choices.forget_edit(opened, job.id, part, 0)
    assert "caulk" in steps(spec(opened, job, "South gable wall"))
    for _ in range(8):
        changes.undo(opened, last(opened, job.id)[0])
    assert everything(opened) == start


@pytest.mark.parametrize(
    ("made", "field"),
    [
        (Edit("drop", "acid-rinse"), "step"),
        (Edit("add", "flying"), "step"),
        (Edit("add", "own"), "note"),
        (Edit("add", "caulk"), "step"),
        (Edit("add", "scuff", "flying"), "after"),
        (Edit("move", "caulk", "caulk"), "after"),
        (Edit("replace", "feather", instead="caulk"), "instead"),
        (Edit("note", "caulk"), "note"),
        (Edit("drop", "caulk", note="x" * 501), "note"),
    ],
)
def test_a_change_that_means_nothing_is_refused(opened, job, made, field):
    before = everything(opened)
    with pytest.raises(FieldErrors) as caught:
        choices.edit(opened, job.id, spec(opened, job, "South gable wall").part.key, made)
    assert field in caught.value.errors
    with pytest.raises(NotFoundError):
        choices.edit(opened, job.id, "nowhere", Edit("drop", "caulk"))
    assert everything(opened) == before


def test_cautions_follow_the_steps_that_are_really_done(opened, job):
    part = spec(opened, job, "East wall").part.key
    said = {c.key for c in spec(opened, job, part).system.cautions}
    assert {"bleach", "wash-water"} <= said
    choices.edit(opened, job.id, part, Edit("drop", "mildew-wash"))
    assert {c.key for c in spec(opened, job, part).system.cautions} == said - {"bleach"}
    choices.edit(opened, job.id, part, Edit("drop", "soft-wash"))
    assert {c.key for c in spec(opened, job, part).system.cautions} == said - {"bleach", "wash-water"}
    for words in ("Mind the bees", "Feed the dog"):
        choices.edit(opened, job.id, part, Edit("add", "own", "clear", note=words))
    assert {"own 1", "own 2"} <= set(steps(spec(opened, job, part)))


def test_cards_name_each_hazard_and_its_parts(opened):
    deck = specs_of(opened, named(opened, "Orchard Deck"))
    hazards = {h.caution.key: h for h in hazards_of(deck, opened.knowledge)}
    assert {"caustic", "acid", "wash-water"} <= set(hazards)
    assert set(hazards["caustic"].parts) == {"Deck steps", "Deck boards"}
    assert "lead" not in hazards
    cards = {c.key: c for c in chemistry_of(deck, opened.knowledge)}
    boards = next(s for s in deck if s.part.name == "Deck boards").part.extent.area_m2
    # 4 m2 a litre of mix, 1 to 1 at its strongest: half of it is concentrate.
    grey = cards["grey-wood-cleaner"]
    assert grey.area_m2 == pytest.approx(boards)
    assert grey.mixes[0].concentrate_l == pytest.approx(boards / 4 / 2)
    assert grey.mixes[1].concentrate_l == pytest.approx(boards / 4 / 5)
    assert cards["acid-rinse"].sundry.never_with == ("bleach", "caustic")


def test_a_job_of_sixty_parts_is_specified_quickly(opened):
    """Reading, geometry, products and arithmetic included; nothing kept from before."""
    whole = [jobs.whole(opened, j.id) for j in jobs.list_jobs(opened)]
    found = [spec for one in whole for spec in specs_of(opened, one)]
    assert len(found) > 40
    opened.app.cache.clear()
    # By calls, which are the same on each machine: some 0.2 s.
    assert calls(lambda: [specs_of(opened, one) for one in whole]) * 60 / len(found) < 560_000


SCHOOLS = {s["key"]: s for s in tomllib.loads((Path(__file__).parents[2] / "core" / "systems" / "schools.toml").read_text())["school"]}


def test_schools_of_weather_reach_the_windows(opened, job):
    """Sides asked of the label in schools.toml: band, sun, cold nights."""
    wall = next(s for s in elevation(job, "East").surfaces if s.kind == "wall")

    def label():
        return coatings_of(opened, jobs.whole(opened, job.id))[wall.id].product

    for key, school in (("temperature-band", SCHOOLS["temperature-band"]), ("cold-nights", SCHOOLS["cold-nights"])):
        for side, asked in school["sides"].items():
            choices.set_school(opened, job.id, key, side)
            found = label()
            if "air_band_c" in asked:
                assert [found.min_air_temp_c, found.max_air_temp_c] == asked["air_band_c"], side
            if "surface_min_c" in asked:
                assert found.min_surface_temp_c == asked["surface_min_c"]
            if "hold_h" in asked:
                assert found.hold_h == asked["hold_h"]
        choices.set_school(opened, job.id, key, school["default"])
    for side, asked in SCHOOLS["sun"]["sides"].items():
        choices.set_school(opened, job.id, "sun", side)
        assert outlook.rules_for(opened, jobs.whole(opened, job.id)).sun_rule == asked["sun_rule"]


def test_small_openings_stay_in_as_reserve_where_the_firm_says_so(opened, job):
    west = elevation(job, "West")
    openings.add_opening(opened, job.id, west.id, OpeningFacts("fixed-window", 0.6, 0.6, 0.4, 4.0))
    wall = next(s.id for s in west.surfaces if s.kind == "wall")

    def net():
        return job_takeoff(opened, jobs.whole(opened, job.id)).by_surface[wall].net_area_m2

    before = net()
    choices.set_school(opened, job.id, "small-openings", "leave-in")
    # The small window's 0.36 m2 stays in; the sash windows of 1.24 m2 do not.
    assert net() - before == pytest.approx(0.36)


def test_trim_first_lets_the_door_go_before_its_wall(opened):
    boathouse = named(opened, "Slipway Boathouse")
    tasks, places = tasks_of(opened, boathouse), places_in(boathouse)
    for trim_first, waits in ((False, "body first"), (True, "trim first")):
        stints = stints_of(tasks, places, trim_first=trim_first)
        later = "doors" if waits == "body first" else "walls"
        assert any(a.why == waits for s in stints for a in s.after if s.family == later and s.stage == "coat")
        assert not any(
            a.why == waits for s in stints for a in s.after if s.family != later and s.family not in ("windows", "trim", "shutters")
        )


def test_each_surface_has_the_hours_of_its_own_product(opened):
    boathouse = named(opened, "Slipway Boathouse")
    ahead = outlook.outlook(opened, boathouse, outlook.status(opened, boathouse))
    finishes = {s.part.key: s.products["coat 1"] for s in specs_of(opened, boathouse) if s.part.surfaces}
    for row, surface_id in enumerate(ahead.surface_ids):
        assert ahead.windows.products[row].name == opened.knowledge.products[finishes[surface_id]].name
    # Row by row they are what the product's own windows are.
    for product in set(ahead.windows.products):
        alone = find_windows(ahead.windows.climate, product, outlook.rules_for(opened, boathouse)).also(ahead.windows.check("film-risk"))
        for row, own in enumerate(ahead.windows.products):
            if own == product:
                assert np.array_equal(ahead.windows.states[row], alone.states[row])
                assert ahead.windows.reasons(row, 40) == alone.reasons(row, 40)


def test_coats_wait_for_the_test_patch_until_it_holds(opened, job):
    part = spec(opened, job, "South gable wall").part.key
    coats = [s for s in spec(opened, job, part).system.steps if s.family]
    assert {s.blocked_by for s in coats} == {("the test patch",)}, "the cross-cut failed there"
    names = {part: "South gable wall"}
    patch = samples.add(opened, job, SampleFacts("test-patch", part, "2026-09-12", {}, "2026-09-20"), names)
    with pytest.raises(FieldErrors, match="Too soon"):
        samples.sign(opened, job, patch, "holds", "Ines")
    samples.sign(opened, job, patch, "fails", "Ines")
    failed = [s.blocked_by for s in spec(opened, job, part).system.steps if s.family]
    assert set(failed) == {("a test patch that holds",)}
    changes.undo(opened, last(opened, job.id)[0])
    step_clock(opened.app, 24 * 6)
    samples.sign(opened, job, patch, "holds", "Ines")
    assert not any(s.blocked_by for s in spec(opened, job, part).system.steps if s.family)
    # Where nothing is doubtful, nothing waits.
    assert not any(s.blocked_by for s in spec(opened, job, "East wall").system.steps if s.family)


@pytest.mark.parametrize(
    ("facts", "fields"),
    [
        (SampleFacts("brush-out", "P", "2026-09-14", {"code": "RM 214"}), {"sheen", "base", "batch"}),
        (SampleFacts("brush-out", "P", "2026-09-30", BRUSHED), {"made_on"}),
        (SampleFacts("brush-out", "P", "last week", BRUSHED), {"made_on"}),
        (SampleFacts("test-patch", "P", "2026-09-10", {}, "2026-09-12"), {"due_on"}),
        (SampleFacts("test-patch", "P", "2026-09-10", {}), {"due_on"}),
        (SampleFacts("test-patch", "P", "2026-09-10", {}, "2026-10-30"), {"due_on"}),
        (SampleFacts("screen", "P", "2026-09-10", {}), {"kind"}),
        (SampleFacts("brush-out", "nowhere", "2026-09-14", BRUSHED), {"part"}),
    ],
)
def test_a_sample_that_proves_nothing_is_refused(opened, job, facts, fields):
    before = everything(opened)
    with pytest.raises(FieldErrors) as caught:
        samples.add(opened, job, facts, {"P": "Porch"})
    assert set(caught.value.errors) == fields
    assert everything(opened) == before


def test_a_colour_is_approved_by_a_signature_and_undone_like_anything(opened, job):
    part = spec(opened, job, "East wall").part.key
    start = everything(opened)
    row = samples.add(opened, job, SampleFacts("brush-out", part, "2026-09-14", BRUSHED), {part: "East wall"})
    with pytest.raises(FieldErrors) as caught:
        samples.sign(opened, job, row, "approved", " ")
    assert "owner's name" in caught.value.errors["signed_by"]
    with pytest.raises(FieldErrors):
        samples.sign(opened, job, row, "holds", "The heir")
    samples.sign(opened, job, row, "approved", "The heir")
    samples.remove(opened, job.id, row)
    for _ in range(3):
        changes.undo(opened, last(opened, job.id)[0])
    assert everything(opened) == start


def test_a_dark_metal_roof_shows_its_peak_and_a_wooden_wall_none(opened):
    boathouse = named(opened, "Slipway Boathouse")
    roof = next(s.part for s in specs_of(opened, boathouse) if s.part.name == "South roof")
    wall = next(s.part for s in specs_of(opened, boathouse) if s.part.name == "South wall")
    assert 50 < peak_of(opened, boathouse, roof).new_c < 95
    assert peak_of(opened, boathouse, wall) is None


def test_ages_of_the_survey_reach_the_system(opened):
    """Bare render is as old as its house; a deck of treated wood is as old as somebody says, and unknown is new."""
    cottage = named(opened, "Quarry Lane 9")
    assert "cure-check" not in steps(spec(opened, cottage, "North wall")), "the house stands since 1996"
    deck = named(opened, "Orchard Deck")
    boards = next(s for e in deck.building.elevations for s in e.surfaces if s.kind == "deck")
    treated = SurfaceFacts("treated-wood", "flat", "smooth", 28.0, True, hex="#b08358", coating="none")
    pins = [f for f in findings.findings_of(opened, deck.id) if f.surface_id == boards.id]
    for pin in pins:
        findings.remove_finding(opened, deck.id, pin.id)
    for year, month, seasons_h in ((2024, None, 0), (2026, 7, 2520 - 62 * 24), (None, None, 2520)):
        surfaces.update_surface(opened, deck.id, boards.id, replace(treated, coated_year=year, coated_month=month))
        found = spec(opened, deck, boards.id)
        waits = [s.wait.hours for s in found.system.steps if s.key == "season"]
        assert waits == pytest.approx([seasons_h] if seasons_h else [], abs=24), (year, month)
    with pytest.raises(FieldErrors, match="has not come yet"):
        surfaces.update_surface(opened, deck.id, boards.id, replace(treated, coated_year=2031))

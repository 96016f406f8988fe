"""Tests on site, gates, access, the walk, the quick survey, colour and shade: each rule at its edge."""

from datetime import UTC, datetime

import numpy as np
import pytest

from amber_gable.core.air.sun import Place, Shade, elevation_angle_deg, on_planes, sky, unhidden
from amber_gable.core.coat.colour import lrv_pct, solar_absorptance
from amber_gable.core.geometry import Rect
from amber_gable.core.survey import walk
from amber_gable.core.survey.access import Site, suggest
from amber_gable.core.survey.gates import Component, Record, check_record, gate
from amber_gable.core.survey.quick import QuickFacts, block_of, openings_for
from amber_gable.core.survey.site_tests import CARDS, card_for
from amber_gable.core.survey.site_tests.judge import Subject
from amber_gable.core.takeoff.items import item_area_m2, opening_area_m2
from amber_gable.errors import FieldErrors, NotFoundError, PlanError

WOOD, BRICK, STEEL = Subject("wood"), Subject("masonry"), Subject("metal")

# Every test with a passing, a borderline and a failing case; the borderline ones lie on the edge.
CASES = [
    ("rub", WOOD, {"rating": 8}, {"rating": 6}, {"rating": 4}),
    ("water-drop", WOOD, {"soaks_after_s": 30}, {"soaks_after_s": 119}, {"soaks_after_s": 120}),
    ("tape-pull", WOOD, {"fibres": "none"}, {"fibres": "few"}, {"fibres": "many"}),
    ("cross-cut", WOOD, {"rating": 4}, {"rating": 3}, {"rating": 2}),
    ("moisture", WOOD, {"readings_pct": [11.0, 13.5]}, {"readings_pct": [11.0, 15.0]}, {"readings_pct": [11.0, 15.1]}),
    ("moisture", BRICK, {"readings_pct": [4.5]}, {"readings_pct": [6.0]}, {"readings_pct": [6.1]}),
    ("crack-width", BRICK, {"width_mm": 0.1}, {"width_mm": 1.4}, {"width_mm": 1.5}),
    ("ph", BRICK, {"ph": 9.0}, {"ph": 10.0}, {"ph": 10.1}),
    ("ph", WOOD, {"ph": 7.5}, {"ph": 9.0}, {"ph": 11.0}),
    ("magnet", STEEL, {"holds": "no", "rust": "no"}, {"holds": "yes", "rust": "no"}, {"holds": "yes", "rust": "yes"}),
    ("plastic-sheet", BRICK, {"hours": 16, "under": "dry"}, {"hours": 12, "under": "dry"}, {"hours": 16, "under": "wet"}),
    (
        "lead", WOOD, {"amount": 0.1, "unit": "mg/cm2", "qualified": "yes"}, {"amount": 0.1, "unit": "mg/cm2", "qualified": "no"},
        {"amount": 1.0, "unit": "mg/cm2", "qualified": "yes"},
    ),
]  # fmt: skip


@pytest.mark.parametrize(("key", "subject", "good", "edge", "bad"), CASES)
def test_each_test_on_site_passes_doubts_and_fails(knowledge, key, subject, good, edge, bad):
    card = card_for(key)
    verdicts = [card.judge(card.read(values), subject, knowledge.site_tests) for values in (good, edge, bad)]
    assert [v.result for v in verdicts] == ["pass", "doubt", "fail"]
    assert len({v.means for v in verdicts}) == 3, "each says what it means for the work"


def test_every_card_has_cases_steps_and_a_family():
    assert {case[0] for case in CASES} == {card.key for card in CARDS}
    assert all(card.steps and card.families for card in CARDS)
    with pytest.raises(NotFoundError):
        card_for("taste")


def test_moisture_tells_mean_and_worst_and_where_to_look(knowledge):
    card = card_for("moisture")
    local = card.judge({"readings_pct": [10.0, 11.0, 19.0]}, WOOD, knowledge.site_tests)
    assert "worst 19.0 %, mean 13.3 % of 3" in local.headline
    assert "look for the cause" in local.means
    assert "three sunny days" in card.judge({"readings_pct": [19.0]}, WOOD, knowledge.site_tests).means


@pytest.mark.parametrize(
    ("key", "values", "field"),
    [
        ("rub", {"rating": 11}, "rating"),
        ("rub", {}, "rating"),
        ("rub", {"rating": True}, "rating"),
        ("tape-pull", {"fibres": "lots"}, "fibres"),
        ("moisture", {"readings_pct": []}, "readings_pct"),
        ("moisture", {"readings_pct": [12, 120]}, "readings_pct"),
        ("ph", {"ph": float("nan")}, "ph"),
        ("magnet", {"holds": "yes"}, "rust"),
    ],
)
def test_what_cannot_be_read_off_is_refused_at_its_field(key, values, field):
    with pytest.raises(FieldErrors) as caught:
        card_for(key).read(values)
    assert field in caught.value.errors


PARTS = [
    Component("south", "South wall", False),
    Component("door", "Door", False),
    Component("bare", "Bare deck", False, has_old_coating=False),
]


def lead(year, records=(), known=None, own=None, country="us"):
    return gate("lead", year, known.countries[country], PARTS, records, own)


def test_lead_is_raised_by_year_country_and_ignorance(knowledge):
    assert lead(1977, known=knowledge).state == "closed"
    assert lead(1978, known=knowledge).state == "not raised"
    assert lead(None, known=knowledge).is_raised
    assert "not entered" in lead(1990, known=knowledge, country="other").why
    assert lead(1990, known=knowledge, country="other", own=1985).state == "not raised"
    assert lead(1980, known=knowledge, own=1992).is_raised, "local law wins over the table"
    assert lead(1931, known=knowledge).open_components == ("south", "door"), "what was never coated holds no lead paint"


def test_one_negative_clears_one_component_and_nothing_else(knowledge):
    one = lead(1931, [Record("lead", "test", "south")], known=knowledge)
    assert (one.state, one.open_components, one.cleared_components) == ("partly", ("door",), ("south",))
    assert (one.blocks("door"), one.blocks("south")) == (True, False)
    assert lead(1931, [Record("lead", "test", "south"), Record("lead", "test", "door")], known=knowledge).state == "cleared"
    both = [Record("lead", "test", "south"), Record("lead", "test", "south", negative=False)]
    assert lead(1931, both, known=knowledge).cleared_components == (), "a positive outweighs a negative on the same part"
    assert lead(1999, [Record("lead", "test", "door", negative=False)], known=knowledge).why == "a test was positive"
    under = lead(1931, [Record("lead", "works-under", None)], known=knowledge)
    assert (under.state, under.blocks("door")) == ("works-under", False)
    assert lead(1931, [Record("asbestos", "test", "south")], known=knowledge).state == "closed", "of another hazard"


def test_asbestos_follows_the_material(knowledge):
    tiles = [Component("roof", "Roof", True), *PARTS]
    us = knowledge.countries["us"]
    assert gate("asbestos", 1960, us, PARTS, []).state == "not raised"
    assert gate("asbestos", 1960, us, tiles, []).open_components == ("roof",)
    assert gate("asbestos", 1996, us, tiles, [], own_threshold=1989).state == "not raised"


GOOD = {"tester": "A", "qualification": "B-1", "method": "XRF", "result": "negative", "tested_on": "2026-09-01"}


@pytest.mark.parametrize(
    ("basis", "component", "details", "field"),
    [
        ("test", "south", GOOD | {"tester": " "}, "tester"),
        ("test", None, GOOD, "surface_id"),
        ("test", "south", GOOD | {"result": "fine"}, "result"),
        ("test", "south", GOOD | {"tested_on": "last week"}, "tested_on"),
        ("works-under", None, {"certificate": "C"}, "containment"),
        ("hope", None, {}, "basis"),
    ],
)
def test_a_record_that_would_not_stand_is_refused(basis, component, details, field):
    check_record("lead", "test", "south", GOOD)
    with pytest.raises(FieldErrors) as caught:
        check_record("lead", basis, component, details)
    assert field in caught.value.errors


@pytest.mark.parametrize(
    ("top", "ground", "slope", "line", "access"),
    [
        (2.4, "soft", 20, None, "ground"),
        (2.9, "firm", 0, None, "step-ladder"),
        (3.1, "firm", 0, None, "tower"),
        (12, "firm", 0, None, "lift"),
        (6, "soft", 2, None, "ladder"),
        (6, "firm", 7, None, "lift"),
        (6, "firm", 0, 2.9, "tower"),
        (12, "soft", 0, None, "scaffold"),
    ],
)
def test_access_is_the_least_that_is_safe_with_the_reason(knowledge, top, ground, slope, line, access):
    found = suggest(knowledge.access, Site(top, knowledge.grounds[ground], slope, line))
    assert found.access == access
    assert found.reasons
    assert bool(found.cautions) == (line == 2.9 or (ground == "soft" and top > 3))
    if access == "tower":
        assert any("above 3.0 m" in r for r in found.reasons)


def test_a_walk_goes_on_where_it_stopped_and_says_what_is_missing():
    where = walk.stations([("n", "North"), ("e", "East")])
    assert [s.key for s in where] == ["n", "e", "around"]
    first = walk.progress(where, set())
    assert (first.done, first.next_station.key, first.next_question.key) == (0, "n", "grade")
    answers = {(s.key, q.key): "right" for s in where for q in walk.questions_at(s.key)}
    all_but_one = walk.progress(where, set(answers) - {("e", "damp")})
    assert (all_but_one.total - all_but_one.done, all_but_one.next_station.key, all_but_one.next_question.key) == (1, "e", "damp")
    assert walk.progress(where, set(answers)).next_station is None
    nothing = walk.Known(1999, [], [], False, 0, 0, False)
    assert walk.missing(where, answers, nothing) == []
    much = walk.Known(None, ["North"], ["East wall"], True, 2, 3, True)
    said = " ".join(walk.missing(where, answers | {("n", "openings"): "wrong"}, much))
    for word in ("quick survey", "not right yet", "year", "2 damage", "East wall", "3 windows", "No test", "North"):
        assert word in said


def test_a_quick_survey_makes_a_house_of_that_perimeter_with_the_counted_openings():
    counts = {"windows": 12, "doors": 2, "small_windows": 2, "garage_doors": 1}
    facts = QuickFacts(44.0, 5.5, 2, 2, "wood-siding", "fair", counts)
    facts.check()
    block = block_of(facts)
    assert 2 * (block.across_m + block.deep_m) == pytest.approx(44.0)
    walls = {"front": (block.across_m, 5.5), "back": (block.across_m, 5.5), "left": (block.deep_m, 5.5), "right": (block.deep_m, 5.5)}
    placed = openings_for(facts, walls)
    kinds = [kind for found in placed.values() for kind, _ in found]
    assert {k: kinds.count(k) for k in set(kinds)} == {"sash-window": 14, "entry-door": 2, "garage-door": 1}
    for key, found in placed.items():
        rects = [r for _, r in found]
        assert all(r.left >= 0 and r.right <= walls[key][0] and r.top <= 5.5 for r in rects)
        assert not any(a.overlaps(b) for i, a in enumerate(rects) for b in rects[i + 1 :])
    with pytest.raises(FieldErrors) as caught:
        QuickFacts(3.0, 1.0, 9, 1, "wood", "bad", {"doors": -1}).check()
    assert set(caught.value.errors) == {"perimeter_m", "eaves_height_m", "storeys", "gables", "grade", "doors"}


def test_items_by_run_and_piece_and_windows_by_their_bars(knowledge):
    kinds = knowledge.items
    assert item_area_m2(kinds["fascia"], 1, 10, 0.2) == pytest.approx(2)
    assert item_area_m2(kinds["post"], 4, 2.4, 0.5) == pytest.approx(4.8)
    sash = knowledge.openings["sash-window"]
    # Frame 2 x (0.8 + 1.5) x 0.3 and one upright, one level bar of 0.06.
    assert opening_area_m2(sash, Rect(0, 0, 0.8, 1.5), 2, 2) == pytest.approx(4.6 * 0.3 + (1.5 + 0.8) * 0.06)
    assert opening_area_m2(knowledge.openings["shutter"], Rect(0, 0, 0.4, 1.5)) == pytest.approx(0.6 * 2 * 2)


def test_light_reflectance_of_known_greys():
    # sRGB mid grey #808080 reflects 21.6 % (IEC 61966-2-1 linearisation of 128/255).
    assert [lrv_pct(h) for h in ("#000000", "#ffffff", "#808080")] == pytest.approx([0, 100, 21.586], abs=1e-3)
    assert solar_absorptance(30) == pytest.approx(0.7)
    for bad in ("808080", "#80808", "#80808g", "#808080ff"):
        with pytest.raises(PlanError, match="six digits"):
            lrv_pct(bad)


def test_a_tree_takes_the_beam_and_leaves_the_sky():
    hours = np.arange(0, 86400, 900) + datetime(2026, 9, 15, 5, tzinfo=UTC).timestamp()
    above = sky(Place(43.8, -91.25, 205), hours, 0.0)
    tree = Shade(240, 300, 35)
    free, shaded = (on_planes(above, [258.0], [90.0], seen=s) for s in (None, unhidden(above, [[tree]])))
    behind = tree.hides(above.azimuth_deg, above.elevation_deg) & (above.elevation_deg > 0)
    assert behind.any()
    assert not shaded.direct_sun[0, behind].any()
    assert (shaded.total_w_m2[0, behind] > 0).all(), "the rest of the sky still lights the wall"
    assert (shaded.total_w_m2[0] <= free.total_w_m2[0] + 1e-9).all()
    assert np.array_equal(shaded.total_w_m2[0, ~behind], free.total_w_m2[0, ~behind])
    assert Shade(350, 20, 10).hides(np.array([0.0, 30.0]), np.array([5.0, 5.0])).tolist() == [True, False], "over north"
    assert elevation_angle_deg(11.6, 10.0) == pytest.approx(45.0)

"""Geometry against areas worked out by hand, and laws that hold for any building."""

import math
from dataclasses import replace

import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from amber_gable.core.geometry import Block, Cut, Rect, Region, build, check_block, check_cut, check_opening, divide, openings_area_m2
from amber_gable.core.geometry.alone import from_shapes, parse_corners, standing
from amber_gable.core.geometry.openings import along, mirrored_opening, storey_up
from amber_gable.core.geometry.outlines import check_outline
from amber_gable.errors import FieldErrors
from tests.support.pace import examples

HOUSE = Block("main", "House", "house", across_m=12, deep_m=8, eaves_height_m=6, ridge_height_m=9, plinth_height_m=0.5)
WING = Block("wing", "Wing", "wing", 4, 3, 4, 5.5, "gable", "to back", parent="main", side=0, from_left_m=2, projects_m=3)


def areas(*blocks: Block, front: float = 180.0) -> dict[str, float]:
    return {e.key: e.region.area_m2 for e in build(blocks, front).elevations}


def test_a_gabled_house_by_hand():
    found = areas(HOUSE)
    slope = math.hypot(4, 3)
    assert found == pytest.approx(
        {
            "main/front": 72,
            "main/back": 72,
            "main/left": 8 * 6 + 12,
            "main/right": 60,
            "main/roof 1": 12 * slope,
            "main/roof 2": 12 * slope,
        },
        rel=1e-6,
    )
    by_key = {e.key: e for e in build([HOUSE], 170.0).elevations}
    assert [by_key[f"main/{s}"].azimuth_deg for s in ("front", "left", "back", "right")] == pytest.approx([170, 260, 350, 80])
    assert [e.name for e in build([HOUSE], 170.0).elevations if e.kind == "wall"] == ["North", "East gable", "South", "West gable"]
    gable = divide(by_key["main/left"])
    assert {p.kind: p.region.area_m2 for p in gable} == pytest.approx({"wall": 44, "gable": 12, "plinth": 4})


def test_what_touches_hides_what_lies_behind_it():
    found = areas(HOUSE, WING)
    # The wing's section, 4 wide, 4 to 5.5 high, is gone from the front: 4 x 4 + 4 x 1.5 / 2 = 19.
    assert found["main/front"] == pytest.approx(72 - 19, rel=1e-4)
    assert found["wing/front"] == pytest.approx(19, rel=1e-4)
    assert found["wing/left"] == pytest.approx(12, rel=1e-4)
    assert "wing/back" not in found
    # Higher than the eaves its roof runs on into the main roof: the wall is cut in two.
    tall = build([HOUSE, replace(WING, eaves_height_m=5.5, ridge_height_m=8)], 180)
    assert {"main/front", "main/front 2"} <= {e.key for e in tall.elevations}


def test_a_dormer_and_a_chimney_show_only_what_comes_out_of_the_roof():
    dormer = Block("d", "Dormer", "dormer", 2, 1, 7.75, 8.5, parent="main", side=0, from_left_m=5, projects_m=-1)
    chimney = Block("c", "Chimney", "chimney", 1, 0.8, 10, roof="flat", parent="main", side=0, from_left_m=1, projects_m=-3.6)
    found = areas(HOUSE, dormer, chimney)
    # One metre behind the eaves the roof stands at 6.75: the dormer's front shows 1 m, and a gable where its ridge runs along.
    assert found["d/front"] == pytest.approx(2 * 1, rel=1e-3)
    # A chimney that straddles the ridge: its long sides show 1 m above the ridge less what the slope gives back.
    assert found["c/left"] == pytest.approx(0.8 * 1 + 0.8 * 0.4 * 0.75 / 2, rel=1e-3)
    assert found["main/roof 1"] < areas(HOUSE)["main/roof 1"] - 2
    with pytest.raises(FieldErrors, match="higher than the roof"):
        build([HOUSE, replace(dormer, eaves_height_m=9, ridge_height_m=9.5)], 0)


def test_roofs_by_hand():
    hip = replace(HOUSE, roof="hip")
    # All four slopes rise 3 over 4: plan area by the slope, the overhang with it.
    assert sum(a for k, a in areas(hip).items() if "roof" in k) == pytest.approx(96 * 1.25, rel=1e-6)
    wide = areas(replace(hip, overhang_m=0.5))
    assert sum(a for k, a in wide.items() if "roof" in k) == pytest.approx(13 * 9 * 1.25, rel=1e-6)
    shed = areas(replace(HOUSE, roof="shed", ridge_height_m=8))
    assert shed["main/roof 1"] == pytest.approx(12 * math.hypot(8, 2), rel=1e-5)
    assert (shed["main/left"], shed["main/back"]) == pytest.approx((8 * 7, 12 * 8))
    bay = Block("b", "Bay", "bay", 2.4, 0.8, 3, roof="flat", parent="main", side=3, from_left_m=2, projects_m=0.8, splay_m=0.5)
    splayed = [e for e in build([HOUSE, bay], 0).elevations if e.block == "b" and e.kind == "wall"]
    assert sorted(round(e.region.area_m2, 3) for e in splayed) == pytest.approx([0.9, 0.9, 2.121, 2.121, 4.2], abs=2e-3)


def test_what_stands_against_a_bay_counts_from_its_square_corner():
    bay = Block("b", "Bay", "bay", 2.4, 1.0, 3, roof="flat", parent="main", side=0, from_left_m=2, projects_m=1.0, splay_m=0.5)
    step = Block("s", "Step", "deck", 1.2, 0.6, 0.3, roof="none", parent="b", side=0, from_left_m=0.6, projects_m=0.6)
    corners = dict(build([HOUSE, bay, step], 0).footprints)["s"]
    # The house's front is y = 0, the bay's 1 m before it, the step's 0.6 m before that.
    assert corners == ((2.6, -1.6), (3.8, -1.6), (3.8, -1.0), (2.6, -1.0))


def test_trim_follows_from_the_blocks():
    trim = {t.kind: t.length_m for t in build([replace(HOUSE, overhang_m=0.5)], 0).trim}
    assert trim["fascia"] == pytest.approx(2 * 13)
    assert trim["verge"] == pytest.approx(4 * 4.5 * 1.25)
    assert trim["corner-board"] == pytest.approx(4 * 5.5)
    assert trim["foundation-strip"] == pytest.approx(40, rel=1e-3)
    with_wing = {t.key: t.length_m for t in build([HOUSE, WING], 0).trim}
    assert with_wing["main/foundation"] == pytest.approx(36, rel=1e-3)
    assert with_wing["wing/corner-board"] == pytest.approx(2 * 4)


# A garage against the right wall: 6 m wide, 4 m out, eaves at 2.5 m, ridge at 4 m running out; half a metre of overhang.
GARAGE = Block("g", "Garage", "wing", 6, 4, 2.5, 4.0, "gable", "to back", parent="main", side=3, projects_m=4, overhang_m=0.5)


@pytest.mark.parametrize("house_overhang", [0.0, 0.5])
@pytest.mark.parametrize(
    ("from_left_m", "across_m"), [(0, 6), (2, 6), (1, 6), (0, 8)], ids=["flush before", "flush behind", "between", "both"]
)
def test_eaves_and_verges_stop_at_the_corner_of_the_house_they_meet(from_left_m, across_m, house_overhang):
    wing = replace(GARAGE, from_left_m=from_left_m, across_m=across_m)
    built = build([replace(HOUSE, overhang_m=house_overhang), wing], 180.0)
    trim = {t.key: t.length_m for t in built.trim}
    # Two eaves from the wall of the house to the overhang of the gable end; its two rakes on the slope.
    rake = math.hypot(1, 1.5 / (across_m / 2)) * (across_m / 2 + 0.5)
    assert trim["g/fascia"] == pytest.approx(2 * (4 + 0.5), abs=3e-3)
    assert trim["g/verge"] == pytest.approx(2 * rake, abs=3e-3)
    assert trim["g/soffit"] == pytest.approx(2 * 4.5 + 2 * rake, abs=3e-3)
    roofs = [e.region.area_m2 for e in built.elevations if e.key.startswith("g/roof")]
    assert roofs == pytest.approx([4.5 * rake] * 2, rel=1e-4)
    if house_overhang:
        assert trim["main/fascia"] == pytest.approx(2 * 13)
        assert trim["main/verge"] == pytest.approx(4 * 4.5 * 1.25), "the garage lies below the eaves of the house"


def test_a_wing_as_high_as_the_house_takes_its_part_of_the_verge_away():
    """In line and as high: the roofs run on, eaves meet at the corner, and no verge stands between them."""
    house = replace(HOUSE, overhang_m=0.5)
    wing = replace(GARAGE, across_m=8, eaves_height_m=6, ridge_height_m=9)
    trim = {t.key: t.length_m for t in build([house, wing], 180.0).trim}
    assert trim["main/fascia"] == pytest.approx(2 * 12.5, abs=3e-3)
    assert trim["main/verge"] == pytest.approx(2 * 4.5 * 1.25, abs=3e-3)
    assert trim["g/fascia"] == pytest.approx(2 * 4.5, abs=3e-3)
    # A front wing flush with the corner: one eaves ends there, the other runs into the roof behind.
    front = replace(WING, from_left_m=0, overhang_m=0.4, eaves_height_m=3, ridge_height_m=4.5)
    trim = {t.key: t.length_m for t in build([replace(HOUSE, overhang_m=0), front], 180.0).trim}
    assert trim["wing/fascia"] == pytest.approx(2 * 3.4, abs=3e-3)


def test_a_deck_has_boards_railings_and_steps():
    deck = Block(
        "k",
        "Deck",
        "deck",
        6,
        4,
        0.75,
        roof="none",
        parent="main",
        side=2,
        from_left_m=3,
        projects_m=4,
        rail_height_m=0.9,
        steps=4,
        steps_width_m=1.5,
        tread_m=0.28,
        riser_m=0.18,
    )
    found = areas(HOUSE, deck)
    rails = sum(a for k, a in found.items() if "railing" in k)
    assert found["k/floor"] == pytest.approx(24)
    assert found["k/steps"] == pytest.approx(1.5 * 4 * 0.46)
    # Three free edges less the way down; none along the house.
    assert rails == pytest.approx((6 - 1.5 + 2 * 4) * 0.9, rel=0.01)
    # Round a chimney that stands in the middle of it the boards end.
    chimney = Block("c", "Oven", "chimney", 0.8, 0.8, 2.5, roof="flat", parent="k", side=0, from_left_m=1, projects_m=-1)
    assert areas(HOUSE, deck, chimney)["k/floor"] == pytest.approx(24 - 0.64)


def test_walls_that_cover_one_another_get_views_of_their_own():
    # A U of two wings: the inner sides face one another, and each is seen.
    left = replace(WING, key="l", from_left_m=0, projects_m=4, deep_m=4, across_m=3)
    right = replace(left, key="r", from_left_m=9)
    made = build([HOUSE, left, right], 180)
    inner = [e for e in made.elevations if e.key in ("l/right", "r/right")]
    assert len({e.view for e in inner}) == 2
    order = [e.azimuth_deg for e in made.elevations if e.kind == "wall"]
    assert order == sorted(order, key=lambda a: (a + 45) % 360)


@st.composite
def blocks(draw):
    eaves = draw(st.floats(2.5, 12))
    return Block(
        "main", "House", "house", draw(st.floats(3, 30)), draw(st.floats(3, 30)), eaves, eaves + draw(st.floats(0.5, 8)),
        draw(st.sampled_from(["gable", "hip", "shed", "flat"])), draw(st.sampled_from(["along", "to back"])),
        overhang_m=draw(st.floats(0, 1)), plinth_height_m=draw(st.sampled_from([0.0, 0.4])),
    )  # fmt: skip


@settings(max_examples=examples(40))
@given(block=blocks(), turn=st.floats(0, 360))
def test_areas_do_not_change_when_the_house_turns(block, turn):
    assert areas(block, front=turn) == pytest.approx(areas(block), rel=1e-9)


@settings(max_examples=examples(40))
@given(block=blocks())
def test_walls_and_roof_close_the_house(block):
    made = build([block], 0)
    level = [e for e in made.elevations if e.kind == "wall"]
    around = sum(e.width_m for e in level)
    assert around == pytest.approx(2 * (block.across_m + block.deep_m), rel=1e-3)
    plan = sum(e.region.area_m2 * math.cos(math.radians(e.tilt_deg)) for e in made.elevations if e.kind == "roof")
    assert plan == pytest.approx((block.across_m + 2 * block.overhang_m) * (block.deep_m + 2 * block.overhang_m), rel=1e-3)
    for e in made.elevations:
        assert sum(p.region.area_m2 for p in divide(e)) == pytest.approx(e.region.area_m2, rel=1e-3)


@settings(max_examples=examples(40))
@given(block=blocks(), at=st.floats(0, 1), out=st.floats(1, 6), low=st.floats(1, 2.4))
def test_two_flat_blocks_lose_twice_where_they_touch(block, at, out, low):
    house = replace(block, roof="flat")
    width = min(house.across_m, house.deep_m) / 2
    assume(width >= 1)
    other = Block(
        "o",
        "Other",
        "lean-to",
        width,
        out,
        low,
        roof="flat",
        parent="main",
        side=1,
        from_left_m=at * (house.deep_m - width),
        projects_m=out,
    )
    walls = {k: a for k, a in areas(house, other).items() if "roof" not in k}
    apart = 2 * (house.across_m + house.deep_m) * house.eaves_height_m + 2 * (width + out) * low
    assert sum(walls.values()) == pytest.approx(apart - 2 * width * low, rel=2e-3)


lines = st.tuples(*(st.tuples(st.floats(-1, 13), st.floats(-1, 10)) for _ in range(2))).map(lambda p: Cut(p))


@settings(max_examples=examples(60))
@given(cuts=st.lists(lines, max_size=5), side=st.sampled_from(["main/left", "main/front"]))
@example(cuts=[Cut(((0.0, 3.765625), (0.015625, 0.0)))] * 2, side="main/left")
def test_area_adds_up_however_a_side_is_divided(cuts, side):
    elevation = next(e for e in build([HOUSE], 0).elevations if e.key == side)
    cuts = [c for c in cuts if math.dist(*c.points) > 0.1]
    pieces = divide(elevation, cuts)
    assert sum(p.region.area_m2 for p in pieces) == pytest.approx(elevation.region.area_m2, rel=2e-3)
    for i, a in enumerate(pieces):
        for b in pieces[i + 1 :]:
            assert a.region.polygon.intersection(b.region.polygon).area < 0.01


@settings(max_examples=examples(60))
@given(left=st.floats(-2, 9), sill=st.floats(-2, 9), width=st.floats(0.1, 9), height=st.floats(0.1, 9))
def test_openings_never_exceed_their_wall(left, sill, width, height):
    wall = next(e for e in build([HOUSE], 0).elevations if e.key == "main/left").region
    rect = Rect(left, sill, width, height)
    taken = openings_area_m2(wall, [rect])
    if taken < width * height - 0.005 * (width + height) or left < -0.005 or sill < -0.005:
        with pytest.raises(FieldErrors) as caught:
            check_opening(wall, rect, [])
        assert caught.value.spots[0].outline == rect.outline
        return
    assert taken <= wall.area_m2
    assert taken == pytest.approx(width * height, abs=0.005 * (width + height) + 1e-9)


def test_a_part_marked_in_the_middle_leaves_a_hole():
    front = next(e for e in build([HOUSE], 0).elevations if e.key == "main/front")
    ring = Cut(((2, 2), (4, 2), (4, 5), (2, 5)))
    pieces = divide(front, [ring])
    holed = next(p for p in pieces if p.region.holes)
    assert sorted(round(p.region.area_m2, 6) for p in pieces if p.kind == "wall") == [6.0, 60.0]
    assert openings_area_m2(holed.region, [Rect(2.5, 3, 1, 1)]) == 0
    check_cut(front, [], ring)


@pytest.mark.parametrize(
    ("cut", "words"),
    [
        (Cut(((3, 3), (3, 3))), "from one edge"),
        (Cut(((20, 3), (25, 3))), "misses the wall"),
        (Cut(((0, 0.5), (12, 0.5))), "divides nothing"),
        (Cut(((1, 1), (3, 3), (3, 1), (1, 3))), "crosses itself near 2.00 m"),
        (Cut(((50, 1), (52, 1), (52, 3))), "outside"),
    ],
)
def test_a_division_that_is_none_is_refused_with_its_place(cut, words):
    front = next(e for e in build([HOUSE], 0).elevations if e.key == "main/front")
    with pytest.raises(FieldErrors, match=words) as caught:
        check_cut(front, [], cut)
    assert caught.value.spots[0].outline == cut.points


def test_a_self_crossing_outline_says_where():
    with pytest.raises(FieldErrors) as caught:
        check_outline(((0, 0), (4, 4), (4, 0), (0, 4)))
    assert "2.00 m from the left, 2.00 m up" in str(caught.value)
    assert caught.value.spots[-1].point == (2.0, 2.0)
    with pytest.raises(FieldErrors, match="enclose no area"):
        check_outline(((0, 0), (4, 0), (8, 0)))


def test_elevations_that_stand_alone():
    assert Region(from_shapes(8, 3, gable_rise_m=2)).area_m2 == pytest.approx(8 * 3 + 8 * 2 / 2)
    assert Region(from_shapes(8, 0, side_rise_m=2)).area_m2 == pytest.approx(8)
    wall = standing("alone/1", "Garden wall", 90, ((2, 0), (6, 0), (6, 2), (2, 1)))
    assert (wall.region.bounds, wall.region.area_m2) == (pytest.approx((0, 0, 4, 2)), pytest.approx(6))
    with pytest.raises(FieldErrors, match="height"):
        from_shapes(8, 0)
    assert parse_corners("0', 0'; 24', 9' 6\"\n24 | 3") == [("0'", "0'"), ("24'", "9' 6\""), ("24", "3")]
    with pytest.raises(FieldErrors, match="not a corner"):
        parse_corners("24'")


def test_copies_mirrors_and_storeys():
    window = Rect(1, 1, 0.8, 1.5)
    assert [r.left for r in along(window, 3, 2)] == [3, 5, 7]
    assert mirrored_opening(mirrored_opening(window, 12), 12) == window
    assert storey_up([window], 2.75)[0].bottom == 3.75
    with pytest.raises(FieldErrors, match="overlap"):
        along(window, 2, 0.5)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"across_m": 0.5}, "across_m"),
        ({"eaves_height_m": 0.1}, "eaves_height_m"),
        ({"ridge_height_m": 5}, "ridge_height_m"),
        ({"plinth_height_m": 7}, "plinth_height_m"),
        ({"overhang_m": 4}, "overhang_m"),
        ({"parent": "x"}, "parent"),
        ({"splay_m": 7}, "splay_m"),
    ],
)
def test_what_cannot_stand_is_refused_at_its_field(change, field):
    with pytest.raises(FieldErrors) as caught:
        check_block(replace(HOUSE, **change))
    assert field in caught.value.errors


def test_blocks_that_hang_on_each_other_are_refused():
    with pytest.raises(FieldErrors, match="hangs on itself"):
        build([replace(WING, key="a", parent="b"), replace(WING, key="b", parent="a")], 0)

"""Outlines and areas, by hand and as properties."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.geometry import (
    GabledBlock,
    Rect,
    area_m2,
    check_opening,
    clipped,
    compass_name,
    elevations,
    openings_area_m2,
)
from amber_gable.errors import FieldErrors

HOUSE = GabledBlock(12.0, 8.0, 6.0, 9.0, 78.0, "long side", 0.4, 0.5)

sizes = st.floats(min_value=2, max_value=30)


@st.composite
def blocks(draw):
    eaves = draw(st.floats(min_value=2, max_value=10))
    return GabledBlock(
        draw(sizes), draw(sizes), eaves, eaves + draw(st.floats(min_value=0.5, max_value=8)),
        draw(st.floats(min_value=0, max_value=360)), draw(st.sampled_from(["long side", "gable end"])),
        0.3, draw(st.floats(min_value=0, max_value=1)),
    )  # fmt: skip


def test_the_sample_house_by_hand():
    sides = elevations(HOUSE)
    assert [s.name for s in sides] == ["North gable", "East", "South gable", "West"]
    north, east = sides[0], sides[1]
    assert east.azimuth_deg == 78.0
    assert east.side == 0
    assert not east.is_gable
    # 12 x 6 under the eaves; 8 x 6 and a triangle of 8 x 3 / 2 on the gable.
    assert area_m2(east.outline) == pytest.approx(72.0)
    assert area_m2(north.outline) == pytest.approx(48.0 + 12.0)
    by_kind = {s.kind: area_m2(s.outline) for s in north.surfaces}
    assert by_kind == pytest.approx({"wall": 8 * 5.5, "gable": 12.0, "plinth": 4.0})


@given(block=blocks())
def test_surfaces_tile_their_elevation_and_opposite_sides_are_alike(block):
    sides = elevations(block)
    for side in sides:
        assert sum(area_m2(s.outline) for s in side.surfaces) == pytest.approx(area_m2(side.outline), rel=1e-9)
    by_turn = {s.side: s for s in sides}
    for turn in (0, 1):
        assert area_m2(by_turn[turn].outline) == pytest.approx(area_m2(by_turn[turn + 2].outline))
        assert abs(by_turn[turn].azimuth_deg - by_turn[turn + 2].azimuth_deg) == pytest.approx(180)


@given(block=blocks(), turn=st.floats(min_value=0, max_value=360), mirror=st.booleans())
def test_area_does_not_change_when_turned_or_mirrored(block, turn, mirror):
    for side in elevations(block):
        c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
        moved = [
            ((-x if mirror else x) * c - y * s, x * s + y * c) if not mirror else (-x * c - y * s, -x * s + y * c) for x, y in side.outline
        ]
        assert area_m2(moved) == pytest.approx(area_m2(side.outline), rel=1e-9)


@given(block=blocks(), share=st.floats(min_value=0.05, max_value=0.95))
def test_area_adds_up_when_a_side_is_split(block, share):
    for side in elevations(block):
        top = max(y for _, y in side.outline) + 1
        cut = side.width_m * share
        left = clipped(side.outline, Rect(0, 0, cut, top))
        right = clipped(side.outline, Rect(cut, 0, side.width_m - cut, top))
        assert area_m2(left) + area_m2(right) == pytest.approx(area_m2(side.outline), rel=1e-9)


def test_an_opening_across_the_eaves_is_shared_between_wall_and_gable():
    north = elevations(HOUSE)[0]
    window = Rect(3.5, 5.5, 1.0, 1.2)  # half a metre below the eaves, 0.7 m above
    parts = {s.kind: openings_area_m2(s.outline, [window]) for s in north.surfaces}
    assert parts == pytest.approx({"wall": 0.5, "gable": 0.7, "plinth": 0.0})


@given(block=blocks(), data=st.data())
def test_openings_that_pass_never_exceed_their_wall(block, data):
    side = data.draw(st.sampled_from(elevations(block)))
    rect = Rect(
        *(data.draw(st.floats(min_value=-1, max_value=12)) for _ in range(2)),
        *(data.draw(st.floats(min_value=0.1, max_value=9)) for _ in range(2)),
    )
    try:
        check_opening(side.outline, rect, [])
    except FieldErrors:
        return
    assert openings_area_m2(side.outline, [rect]) == pytest.approx(area_m2(rect.outline), abs=0.02 * (rect.width + rect.height))
    assert openings_area_m2(side.outline, [rect]) <= area_m2(side.outline) + 1e-9


@pytest.mark.parametrize(
    ("rect", "field", "words"),
    [
        (Rect(0.5, 1, 9, 1), "width_m", "Wider than the wall, which is 26' 3\" (8.00 m)"),
        (Rect(7.5, 1, 1, 1), "left_m", "stick out of the wall"),
        (Rect(-0.2, 1, 1, 1), "left_m", "stick out"),
        (Rect(1, 1, 1, 12), "height_m", "Taller than the wall"),
        (Rect(1, -0.1, 1, 1), "sill_m", "below the ground"),
        (Rect(0.2, 6.5, 1, 1), "sill_m", "above the wall here"),  # inside the gable's height, outside its slope
        (Rect(1, 1, 0, 1), "width_m", "above zero"),
        (Rect(2.5, 1.5, 1, 1), "left_m", "over the sash window"),
    ],
)
def test_openings_that_cannot_be_are_refused_at_their_field(rect, field, words):
    north = elevations(HOUSE)[0]
    with pytest.raises(FieldErrors) as caught:
        check_opening(north.outline, rect, [("sash window", Rect(2, 1, 1, 1.5))])
    assert words in caught.value.errors[field]


def test_touching_openings_are_allowed():
    check_opening(elevations(HOUSE)[0].outline, Rect(3, 1, 1, 1.5), [("sash window", Rect(2, 1, 1, 1.5))])


@pytest.mark.parametrize(
    ("changes", "fields"),
    [
        ({"ridge_height_m": 5.0}, {"ridge_height_m"}),
        ({"ridge_height_m": 6.0}, {"ridge_height_m"}),
        ({"length_m": 0.0, "overhang_m": -1.0}, {"length_m", "overhang_m"}),
        ({"width_m": float("nan")}, {"width_m"}),
        ({"plinth_height_m": 6.0}, {"plinth_height_m"}),
        ({"front_azimuth_deg": 400.0}, {"front_azimuth_deg"}),
    ],
)
def test_buildings_that_cannot_stand_name_every_fault(changes, fields):
    with pytest.raises(FieldErrors) as caught:
        elevations(GabledBlock(**{**HOUSE.__dict__, **changes}))
    assert set(caught.value.errors) == fields


def test_walls_are_named_by_the_nearest_wind():
    assert [compass_name(a) for a in (0, 22, 23, 348, 359, 180)] == ["North", "North", "North-east", "North", "North", "South"]

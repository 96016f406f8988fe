"""Geometry against plain sampling: what is seen of walls and roofs, point by point, with no polygon arithmetic."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from amber_gable.core.geometry import Block, build
from amber_gable.core.geometry.blocks import OPEN, solids
from amber_gable.errors import FieldErrors
from tests.support.pace import examples

STEP_M = 0.05


@st.composite
def buildings(draw):
    """A house with up to three blocks against it, in whole tenths of a metre."""
    tenths = lambda low, high: draw(st.integers(round(low * 10), round(high * 10))) / 10  # noqa: E731
    eaves = tenths(3, 6)
    roof = draw(st.sampled_from(["gable", "hip", "shed", "flat"]))
    runs = draw(st.sampled_from(["along", "to back"]))
    blocks = [Block("h", "House", "house", tenths(6, 12), tenths(6, 10), eaves, eaves + tenths(1, 4), roof, runs)]
    for n in range(draw(st.integers(0, 3))):
        low = tenths(2, 5)
        blocks.append(
            Block(
                f"w{n}", f"Wing {n}", "wing", tenths(2, 5), 0, low, low + tenths(0.5, 3),
                draw(st.sampled_from(["gable", "hip", "shed", "flat"])), draw(st.sampled_from(["along", "to back"])),
                parent="h", side=draw(st.integers(0, 3)), from_left_m=tenths(-1, 6), projects_m=(out := tenths(1.5, 4)),
            )
        )  # fmt: skip
        blocks[-1] = Block(**{**blocks[-1].__dict__, "deep_m": out})
    return blocks


def inside(solid, x, y):
    """Return where points lie within a footprint: left of every edge, going round it."""
    ok = np.ones_like(x, dtype=bool)
    corners = solid.corners
    for (x1, y1), (x2, y2) in zip(corners, (*corners[1:], corners[0]), strict=True):
        ok &= (x2 - x1) * (y - y1) - (y2 - y1) * (x - x1) > 1e-9
    return ok


def height(solid, x, y):
    return np.min([p.a * x + p.b * y + p.c for p in solid.planes], axis=0)


def seen_wall_m2(placed) -> float:
    """Return the area of all walls that is in no other block, by counting small squares just before each wall."""
    total = 0.0
    for solid in placed.values():
        corners = solid.corners
        for (x1, y1), (x2, y2) in zip(corners, (*corners[1:], corners[0]), strict=True):
            length = math.dist((x1, y1), (x2, y2))
            ax, ay = (x2 - x1) / length, (y2 - y1) / length
            s = np.arange(STEP_M / 2, length, STEP_M)
            z = np.arange(STEP_M / 2, solid.block.top_m + 1, STEP_M)
            s, z = np.meshgrid(s, z)
            x, y = x1 + ax * s, y1 + ay * s
            visible = z < height(solid, x, y)
            for other in placed.values():
                if other is not solid and other.block.kind not in OPEN:
                    bx, by = x + ay * 1e-4, y - ax * 1e-4
                    visible &= ~(inside(other, bx, by) & (z < height(other, bx, by)))
            total += visible.sum() * STEP_M**2
    return total


def seen_roof_m2(placed) -> float:
    """Return the area of all roofs on the slope that no other block stands above, by counting squares of the plan."""
    total = 0.0
    for solid in placed.values():
        xs, ys = [c[0] for c in solid.corners], [c[1] for c in solid.corners]
        x, y = np.meshgrid(np.arange(min(xs) + STEP_M / 2, max(xs), STEP_M), np.arange(min(ys) + STEP_M / 2, max(ys), STEP_M))
        each = np.array([p.a * x + p.b * y + p.c for p in solid.planes])
        slope = np.array([math.hypot(1, p.slope) for p in solid.planes])[each.argmin(axis=0)]
        top = inside(solid, x, y)
        for other in placed.values():
            if other is not solid:
                top &= ~(inside(other, x, y) & (height(other, x, y) > each.min(axis=0) + 1e-9))
        total += (slope * top).sum() * STEP_M**2
    return total


@settings(max_examples=examples(25), suppress_health_check=[HealthCheck.too_slow])
@given(blocks=buildings())
def test_what_is_seen_is_what_sampling_sees(blocks):
    try:
        made = build(blocks, 0)
    except FieldErrors:
        return
    placed = solids(blocks)
    walls = sum(e.region.area_m2 for e in made.elevations if e.kind == "wall")
    roofs = sum(e.region.area_m2 for e in made.elevations if e.kind == "roof")
    # Squares of 5 cm miss up to half of one along every edge; edges are some 150 m in all.
    assert walls == pytest.approx(seen_wall_m2(placed), rel=0.015, abs=0.5)
    # Two roofs at one height are counted once by geometry and twice by sampling: rare, and then left out.
    heights = {(round(b.eaves_height_m, 3), b.roof) for b in blocks}
    if len(heights) == len(blocks):
        assert roofs == pytest.approx(seen_roof_m2(placed), rel=0.015, abs=0.5)


@settings(max_examples=examples(25))
@given(blocks=buildings())
def test_the_order_of_blocks_changes_nothing(blocks):
    try:
        first = build(blocks, 0)
        second = build([blocks[0], *reversed(blocks[1:])], 0)
    except FieldErrors:
        return

    def sizes(made):
        return sorted(round(e.region.area_m2, 2) for e in made.elevations if e.kind == "wall")

    assert sizes(first) == pytest.approx(sizes(second), abs=0.02)


def measured(blocks):
    """Return all areas and trim lengths of a building, whatever they are called."""
    made = build(blocks, 0)
    kinds = sorted({e.kind for e in made.elevations})
    areas = [(kind, sum(e.region.area_m2 for e in made.elevations if e.kind == kind)) for kind in kinds]
    trim = [(kind, sum(t.length_m for t in made.trim if t.kind == kind)) for kind in sorted({t.kind for t in made.trim})]
    return dict([*areas, *trim])


def mirrored(blocks):
    """Return a building as a mirror shows it: what stood left stands right, as far from the other corner."""
    house = blocks[0]
    on_side = {0: house.across_m, 1: house.deep_m, 2: house.across_m, 3: house.deep_m}
    return [house, *(replace(b, side=-b.side % 4, from_left_m=on_side[b.side] - b.from_left_m - b.across_m) for b in blocks[1:])]


def quarter_turned(blocks):
    """Return the same building, its left side called its front."""
    house = blocks[0]
    runs = {"along": "to back", "to back": "along"}[house.ridge_runs]
    turned = replace(house, across_m=house.deep_m, deep_m=house.across_m, ridge_runs=runs)
    return [turned, *(replace(b, side=(b.side - 1) % 4) for b in blocks[1:])]


@settings(max_examples=examples(40), suppress_health_check=[HealthCheck.too_slow])
@given(blocks=buildings(), overhang=st.sampled_from([0.0, 0.4]))
def test_areas_and_trim_are_the_same_in_a_mirror_and_from_another_side(blocks, overhang):
    blocks = [replace(b, overhang_m=overhang, plinth_height_m=0.3) for b in blocks]
    # Verges of two wings that stand within each other are not cut to each other: nobody builds so.
    try:
        wings = [s.footprint for s in solids(blocks).values() if s.block.kind == "wing"]
        assume(not any(a.intersection(b).area > 0.01 for a, b in itertools.combinations(wings, 2)))
        plain = measured(blocks)
    except FieldErrors:
        return
    assert measured(mirrored(blocks)) == pytest.approx(plain, rel=1e-3, abs=0.02)
    # A shed falls to its front and to nowhere else: turned, it would be another roof.
    if blocks[0].roof != "shed":
        assert measured(quarter_turned(blocks)) == pytest.approx(plain, rel=1e-3, abs=0.02)

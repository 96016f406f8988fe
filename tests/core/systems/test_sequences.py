"""Order of strokes: in the handbook's order, inside the piece, nothing twice, nothing left out."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Polygon, box
from shapely.ops import unary_union

from amber_gable.core.geometry import Rect
from amber_gable.core.systems import sequences
from amber_gable.drawing.paint.strokes import strokes_svg

sizes = st.floats(0.5, 1.6)


def labels(order) -> list[str]:
    return [s.label for s in order.strokes]


def in_order(wanted, found) -> bool:
    at = iter(found)
    return all(any(w in label.lower() for label in at) for w in wanted)


# Handbook 9, its words in its order.
@pytest.mark.parametrize(
    ("order", "wanted"),
    [
        (sequences.sash_window(0.8, 1.5, 2, 2), ["swap the sashes", "swap them back", "beads", "rails", "stiles", "frame", "sill", "move"]),
        (sequences.casement(0.9, 1.2, 2, 1), ["beads", "cross rails", "stiles", "hinge edge", "frame", "sill"]),
        (sequences.panel_door(0.9, 2.08), ["lock", "panels", "middle uprights", "cross rails", "outer uprights", "edges", "ajar"]),
        (sequences.sectional_door(2.4, 2.1), ["gasket", "section 1", "section 2", "section 3", "section 4", "joints", "seals", "trim"]),
        (sequences.shutter(0.38, 1.5), ["number", "louvres", "rails", "stiles", "night"]),
        (sequences.wall(11.6, 5.6, []), ["cut in", "upper floor, section 1", "ground floor, section 1", "bottom edge"]),
        (sequences.deck(6.1, 4.3), ["railings", "boards 1", "boards 2", "steps"]),
    ],
)  # fmt: skip
def test_the_order_is_the_handbooks(order, wanted):
    assert in_order(wanted, labels(order)), labels(order)


def test_what_slides_stays_bare():
    sash = sequences.sash_window(0.8, 1.5, 2, 2)
    assert [s.label for s in sash.strokes if s.stays_bare] == ["Sliding faces and runners"]
    assert "never gloss" in sash.strokes[0].why


@given(width=st.floats(2, 20), height=st.floats(2, 9), lefts=st.lists(st.floats(0, 18), max_size=6))
def test_sections_cover_a_wall_once_and_are_no_longer_than_a_wet_edge_holds(width, height, lefts):
    openings = [Rect(x, 1.0, 0.9, 1.2) for x in lefts if x + 0.9 < width]
    parts = [p for s in sequences.wall(width, height, openings).strokes for p in s.parts]
    assert sum(p.width * p.height for p in parts) == pytest.approx(width * height)
    assert unary_union([Polygon(p.outline) for p in parts]).symmetric_difference(box(0, 0, width, height)).area < 1e-6
    assert max(p.width for p in parts if p.height > 0.1) <= 4.5 + 1e-6


def test_panels_and_sections_are_as_surveyed():
    flush, six = sequences.OPENINGS["entry-door"](0.9, 2.0, 1, 1), sequences.OPENINGS["entry-door"](0.9, 2.0, 2, 3)
    panels = {order: sum(len(s.parts) for s in order.strokes if s.label.startswith("Panels")) for order in (flush, six)}
    assert (panels[flush], panels[six]) == (1, 6)
    assert "Middle uprights" not in labels(flush)
    five = sequences.OPENINGS["garage-door"](2.4, 2.1, 4, 5)
    assert sum(label.startswith("Section ") for label in labels(five)) == 5


@given(width=sizes, height=st.floats(1.2, 2.4), columns=st.integers(1, 3), rows=st.integers(1, 4))
def test_a_door_is_covered_once_whatever_its_panels(width, height, columns, rows):
    order = sequences.panel_door(width, height, columns, rows)
    parts = [Polygon(p.outline) for s in order.strokes if s.label != "Edges" for p in s.parts]
    assert sum(p.area for p in parts) == pytest.approx(width * height, rel=1e-6)
    assert unary_union(parts).symmetric_difference(box(0, 0, width, height)).area < 1e-6


def test_the_drawing_numbers_every_painted_part_once_and_no_two_numbers_collide():
    for kind, make in sequences.OPENINGS.items():
        order = make(0.9, 1.6, 2, 2)
        svg = strokes_svg(order, f"{kind} <1>")
        painted = [s for s in order.strokes if s.parts and not s.stays_bare]
        assert svg.count('class="stroke-mark"') == len(painted)
        assert "&lt;1&gt;" in svg
        spots = [tuple(map(float, p)) for p in re.findall(r'<circle cx="([\d.-]+)" cy="([\d.-]+)"', svg)]
        for i, (x, y) in enumerate(spots):
            assert all(abs(x - a) + abs(y - b) > 20 for a, b in spots[:i]), kind

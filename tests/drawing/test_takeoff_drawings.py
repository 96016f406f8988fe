"""Drawings of the take-off and the stop line: to scale, in their place, in words too."""

import re
from xml.etree import ElementTree

import pytest

from amber_gable.core.geometry import Region
from amber_gable.drawing.hours.workdays import days_svg
from amber_gable.drawing.house.building import DrawnElevation, DrawnSurface
from amber_gable.drawing.house.ladders import Stand, stands_svg
from amber_gable.drawing.house.stop_line import Stretches, stop_drawing
from amber_gable.drawing.paint.cans import can_sizes, cans_svg
from amber_gable.drawing.paint.spread import spread_svg

WALL = Region(((0, 0), (10, 0), (10, 4), (0, 4)))
ELEVATION = DrawnElevation("e", "East", "wall", "v", 90.0, 90.0, WALL, [DrawnSurface("s", "East wall", "wall", WALL)])


def parsed(svg: str) -> ElementTree.Element:
    return ElementTree.fromstring(svg)


def of_class(root: ElementTree.Element, name: str) -> list[ElementTree.Element]:
    return [e for e in root.iter() if name in e.get("class", "").split()]


def test_cans_are_drawn_by_what_they_hold_the_largest_first():
    root = parsed(cans_svg([("quart", 0.946, 2), ("5 gallons", 18.93, 1)], "#ca8a34", "1 × 5 gallons, 2 × quart"))
    widths = [float(c.get("width")) for c in of_class(root, "can")]
    assert widths == sorted(widths, reverse=True)
    assert len(widths) == 3
    assert root.get("aria-label") == "1 × 5 gallons, 2 × quart"
    # Eight times the paint is a can twice as high, but for its lid and rim.
    assert can_sizes(8.0)[0] - can_sizes(0.0)[0] == pytest.approx(2 * (can_sizes(1.0)[0] - can_sizes(0.0)[0]))


def test_ladders_stand_where_they_are_set_as_high_as_they_reach():
    svg = stands_svg(
        [Stand(7, 2.0, 3.0), Stand(8, 6.0, 3.5, "tower"), Stand(9, 8.0, 3.0, is_barred=True)], left=100.0, ground=200.0, scale=20.0
    )
    root = parsed(f"<svg>{svg}</svg>")
    badges = of_class(root, "stand-badge")
    assert [float(b.get("cx")) for b in badges] == [140.0, 220.0, 260.0]
    assert [t.text for t in of_class(root, "stand-number")] == ["7", "8", "×"]
    tops = [min(float(v) for v in re.findall(r"V([\d.]+)", p.get("d"))) for p in root.iter("path")]
    assert tops == pytest.approx([140.0, 130.0, 140.0])
    assert "is-barred" in badges[2].get("class")


def test_days_are_as_high_as_their_hours_and_name_what_is_done():
    root = parsed(days_svg([[(0, "Wash", 4.0), (1, "Prime & wait", 4.0)], [(1, "Prime & wait", 2.0)]], "2 days"))
    blocks = of_class(root, "work")
    heights = [float(b.get("height")) for b in blocks]
    assert heights[0] == heights[1] == 2 * heights[2]
    assert [b.find("title").text for b in blocks] == ["Day 1: Wash, 4.0 h", "Day 1: Prime & wait, 4.0 h", "Day 2: Prime & wait, 2.0 h"]
    assert float(blocks[1].get("y")) == pytest.approx(float(blocks[0].get("y")) - heights[1])


def test_the_spread_runs_round_the_likely_price():
    rows = [("Pace", 800.0, 1200.0, "$800", "$1,200"), ("Hidden", 1000.0, 1100.0, "$1,000", "$1,100")]
    root = parsed(spread_svg(1000.0, rows, "What moves it"))
    likely = float(re.match(r"M([\d.]+)", of_class(root, "spread-likely")[0].get("d"))[1])
    pace, hidden = of_class(root, "spread-bar")
    assert float(pace.get("x")) + float(pace.get("width")) / 2 == pytest.approx(likely, abs=0.1)
    assert float(hidden.get("x")) == pytest.approx(likely, abs=0.1)
    assert float(pace.get("width")) == pytest.approx(4 * float(hidden.get("width")))
    assert parsed(spread_svg(5.0, [], "nothing")).get("role") == "img"


@pytest.mark.parametrize(
    ("along", "parts"),
    [
        (Stretches(0, 2, 6, 10), {"done": 8.0, "next": 16.0, "later": 16.0}),
        (Stretches(10, 8, 3, 0), {"done": 8.0, "next": 20.0, "later": 12.0}),
        (Stretches(0, 0, None, 10), {"later": 40.0}), (Stretches(0, 4, 10, 10), {"done": 16.0, "next": 24.0}),
    ],
)  # fmt: skip
def test_the_wall_is_drawn_in_what_is_done_next_and_not_today(along, parts):
    said = [("done", "done"), ("next", "next <&> 18 m²"), ("later", "not today")]
    root = parsed(stop_drawing(ELEVATION, "s", along, "15:20", said, [2.0, 6.0, 10.0]))
    scale = float(root.get("data-scale"))
    drawn = {e.get("data-surface"): e for e in root.iter() if e.get("data-surface")}
    areas = {}
    for name, element in drawn.items():
        points = [
            tuple(map(float, p.split())) for p in re.findall(r"[\d.]+ [\d.]+", next(e.get("d") for e in element.iter() if e.get("d")))
        ]
        turned = zip(points, [*points[1:], points[0]], strict=True)
        areas[name] = abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in turned)) / 2 / scale**2
    assert areas == pytest.approx(parts, rel=0.02)
    assert len(of_class(root, "stop-joint")) == 3
    marks = of_class(root, "stop-mark")
    assert len(marks) == (along.stop is not None)
    if along.stop is not None:
        assert [t.text for t in of_class(root, "stop-time")] == ["15:20"]
    assert len(of_class(root, "stop-edge")) == (along.edge != along.began)

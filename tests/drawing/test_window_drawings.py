"""Film, traces, sheet and calibration as drawings: to scale, complete, and told apart by more than colour."""

from datetime import datetime, timedelta
from itertools import pairwise
from xml.etree import ElementTree as ET
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from amber_gable.core.air.forecast_errors import reliability
from amber_gable.drawing.calibration import calibration_plot
from amber_gable.drawing.hours import timeaxis
from amber_gable.drawing.hours.ribbon_sheet import RibbonRow, Sheet, ribbon_sheet
from amber_gable.drawing.hours.traces import HEIGHT, Trace, trace
from amber_gable.drawing.paint.film import Section, film_section
from amber_gable.drawing.tokens import token

SVG = "{http://www.w3.org/2000/svg}"
DAY = np.array([7 <= (q / 4) % 24 < 19 for q in range(96 * 3)])
AXIS = timeaxis.squeezed(DAY, 0, 96 * 2)
NONE = np.zeros(96 * 3, dtype=bool)


def test_the_film_is_drawn_to_one_scale():
    sections = [Section("wet", "10:30", 100.0, "100 µm", True), Section("dry", "in the end", 40.0, "40 µm", False)]
    drawn = ET.fromstring(film_section(sections, 100.0))
    wet, dry = (next(r for r in drawn.iter("rect") if r.get("class") == f"film-{name}") for name in ("wet", "dry"))
    assert float(dry.get("height")) / float(wet.get("height")) == pytest.approx(0.4, abs=0.001)
    # Both stand on the same ground.
    feet = {round(float(r.get("y")) + float(r.get("height")), 2) for r in (wet, dry)}
    assert len(feet) == 1
    assert {t.text for t in drawn.iter("text")} >= {"100 µm", "40 µm", "10:30", "in the end"}


def points_of(drawn, name):
    line = next(p for p in drawn.iter("path") if f"trace-{name}" in p.get("class"))
    return [tuple(map(float, pair.split())) for pair in line.get("d")[1:].split("L")]


def test_a_trace_rises_with_its_value_and_leaves_out_what_is_not_known():
    values = np.linspace(0, 100, 96 * 3)
    values[40:50] = np.nan
    drawn = ET.fromstring(trace(AXIS, Trace("humidity", values, 0, 100, 50.0), DAY))
    points = points_of(drawn, "humidity")
    assert len(points) == 96 * 2 - 10
    assert all(a[1] >= b[1] and a[0] < b[0] for a, b in pairwise(points))
    limit = next(line for line in drawn.iter("line") if line.get("class") == "trace-limit")
    assert float(limit.get("y1").rstrip("%")) == pytest.approx(50.0)
    assert "nan" not in ET.tostring(drawn, encoding="unicode").lower()


def test_a_trace_stays_in_its_strip_and_shows_no_limit_that_lies_beyond():
    drawn = ET.fromstring(trace(AXIS, Trace("wind", np.full(96 * 3, 50.0), 0, 10, 20.0, True), DAY))
    assert {y for _, y in points_of(drawn, "wind")} == {4.0}
    assert HEIGHT > 4
    assert not [line for line in drawn.iter("line") if line.get("class") == "trace-limit"]
    assert ET.fromstring(trace(AXIS, Trace("moisture", np.full(96 * 3, np.nan), 0, 20), DAY)) is not None


@pytest.fixture
def sheet():
    start = datetime(2026, 9, 15, tzinfo=ZoneInfo("America/Chicago"))
    times = [start + timedelta(minutes=15 * q) for q in range(96 * 2)]
    rain = np.zeros(96 * 3)
    rain[48:60] = 1.0
    wet = NONE.copy()
    wet[24:32] = True
    rows = [
        RibbonRow("North wall", [(0, 0), (32, 1), (40, 2), (72, 0)], NONE, wet),
        RibbonRow("A name that is much longer than a row", [(0, 2)], DAY, NONE),
    ]
    return ET.fromstring(ribbon_sheet(AXIS, rows, Sheet("Ferry & Sons", "Coats · printed today", times, DAY, rain, np.zeros(96 * 3))))


def test_the_sheet_tells_states_apart_in_black_and_white(sheet):
    blocks = {
        fill: {float(r.get("height")) for r in sheet.iter(f"{SVG}rect") if r.get("fill") == fill}
        for fill in (token("open"), token("shut-line"))
    }
    # Open is a full block and shut a thin line, in the rows and in the legend.
    assert min(blocks[token("open")]) > 5 * max(blocks[token("shut-line")])
    tight = [r for r in sheet.iter(f"{SVG}rect") if r.get("fill") == token("amber") and float(r.get("height")) > 5]
    bars = [r for r in sheet.iter(f"{SVG}rect") if r.get("fill") == "#22303a"]
    assert len(bars) == len(tight) - 1, "each half block but the legend's has its bar"


def test_the_sheet_says_whose_it_is_and_cuts_no_name_in_its_middle(sheet):
    said = [t.text for t in sheet.iter(f"{SVG}text")]
    assert "Ferry & Sons" in said
    assert "Tue 15 Sep" in said
    assert "North wall" in said
    assert any(name.endswith("…") for name in said)
    assert not any(len(name) > 60 for name in said if name.startswith("A name"))


def test_what_lies_beyond_the_sheet_is_not_on_it(sheet):
    width = float(sheet.get("viewBox").split()[2])
    for rect in sheet.iter(f"{SVG}rect"):
        assert float(rect.get("x")) + float(rect.get("width")) <= width + 0.01
    strokes = [line for line in sheet.iter(f"{SVG}line") if line.get("stroke") == token("water")]
    assert len(strokes) == 3, "three hours of rain"


def test_perfect_chances_lie_on_the_line():
    chance = np.repeat([0.05, 0.25, 0.75], 400)
    held = np.concatenate([np.arange(400) < 400 * c for c in (0.05, 0.25, 0.75)])
    drawn = ET.fromstring(calibration_plot(reliability(chance, held)))
    dots = [(float(c.get("cx")), float(c.get("cy"))) for c in drawn.iter(f"{SVG}circle")]
    assert len(dots) == 3
    for (x, y), share in zip(sorted(dots), (0.05, 0.25, 0.75), strict=True):
        assert x == pytest.approx(64 + 360 * share, abs=0.02)
        assert y == pytest.approx(34 + 360 * (1 - share), abs=0.02)

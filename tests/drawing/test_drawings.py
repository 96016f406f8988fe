"""Drawings are to scale, well formed, and say their state by more than colour."""

import re
import xml.etree.ElementTree as ET
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from amber_gable.core.geometry import GabledBlock, Rect, elevations
from amber_gable.drawing import timeaxis
from amber_gable.drawing.band import BandElevation, BandStyle, BandSurface, Look, house_band
from amber_gable.drawing.curves import curves
from amber_gable.drawing.patterns import FILLS, definitions
from amber_gable.drawing.ribbons import ribbon, scale
from amber_gable.drawing.strip import Block, strip
from amber_gable.drawing.sunplan import PlanSide, sun_plan, sun_position

BLOCK = GabledBlock(12.0, 8.0, 6.0, 9.0, 90.0, "long side", 0.4, 0.5)


def band(**style: object) -> ET.Element:
    sides = [
        BandElevation(
            e.name, e.name, e.is_gable, e.outline, [BandSurface(f"{e.name}/{s.kind}", s.name, s.kind, s.outline) for s in e.surfaces],
            [("sash-window", Rect(2, 1.5, 1, 1.5)), ("shutter", Rect(3.1, 1.5, 0.4, 1.5)), ("entry-door", Rect(5, 0.5, 1, 2))],
            9.0, 0.4,
        )
        for e in elevations(BLOCK)
    ]  # fmt: skip
    look = BandStyle(lambda s: Look(FILLS["open"], f"{s.name}: open & <dry>", f"?surface={s.id}"), **style)
    return ET.fromstring(house_band(sides, look))


def corners(shape: ET.Element) -> np.ndarray:
    return np.array([[float(n) for n in pair.split()] for pair in re.split("[ML]", shape.get("d").rstrip("Z"))[1:]])


def test_the_band_is_to_scale_and_in_walking_order():
    drawing = band(captions={"East": "6 openings"})
    groups = [g for g in drawing.findall("g") if g.get("data-elevation")]
    assert [g.get("data-elevation") for g in groups] == ["North gable", "East", "South gable", "West"]
    spans = {}
    for g in groups:
        wall = next(s for s in g.iter("path") if (s.get("data-surface") or "").endswith("/wall"))
        spans[g.get("data-elevation")] = np.ptp(corners(wall), axis=0)
    px_per_m = spans["East"][0] / 12.0
    assert spans["North gable"][0] / 8.0 == pytest.approx(px_per_m, rel=1e-3)
    assert spans["North gable"][1] / 5.5 == pytest.approx(px_per_m, rel=1e-3)
    gable = next(s for s in groups[0].iter("path") if (s.get("data-surface") or "").endswith("/gable"))
    assert np.ptp(corners(gable), axis=0) / px_per_m == pytest.approx([8.0, 3.0], rel=1e-3)
    window = next(r for r in groups[1].iter("rect") if "band-sash-window" in r.get("class"))
    assert float(window.get("width")) == pytest.approx(px_per_m, rel=1e-2)


def test_every_surface_is_a_labelled_link_and_text_is_escaped():
    links = list(band().iter("a"))
    assert len(links) == 10  # four walls, four plinths, two gable tops
    assert all(a.get("aria-label").endswith(": open & <dry>") for a in links)
    assert "style" not in ET.tostring(band()).decode(), "the page's policy allows no inline style"


def test_the_states_differ_in_texture_not_only_in_colour():
    known = ET.fromstring(definitions())
    assert {p.get("id") for p in known.iter("pattern")} == {"fill-tight", "fill-shut"}
    assert len(set(FILLS.values())) == 4


def a_day(count: int = 96 * 3) -> np.ndarray:
    hour = (np.arange(count) // 4) % 24
    return (hour >= 7) & (hour < 19)


def test_nights_are_drawn_narrow_and_time_never_runs_back():
    axis = timeaxis.squeezed(a_day(), 0, 96 * 3)
    assert (np.diff(axis.x) > 0).all()
    assert axis.x[0] == 0
    assert axis.x[-1] == pytest.approx(100)
    by_day = axis.at(12 * 4 + 1) - axis.at(12 * 4)
    by_night = axis.at(2 * 4 + 1) - axis.at(2 * 4)
    assert by_night == pytest.approx(timeaxis.NIGHT_SHARE * by_day)
    # Dawn is at full width: dew is decided there.
    assert axis.at(6 * 4 + 1) - axis.at(6 * 4) == pytest.approx(by_day)
    assert len(timeaxis.nights(axis, a_day())) == 4


def test_a_polar_night_is_not_squeezed_to_nothing():
    axis = timeaxis.squeezed(np.zeros(96, bool), 0, 96)
    assert np.diff(axis.x) == pytest.approx(100 / 96)


def test_a_ribbon_shows_height_by_state_sun_above_and_water_below():
    axis = timeaxis.squeezed(a_day(), 0, 96)
    sun, wet = np.zeros(288, bool), np.zeros(288, bool)
    sun[40:50], wet[0:32] = True, True
    drawing = ET.fromstring(ribbon(axis, [(0, 0), (40, 2), (50, 1), (60, 0)], a_day(), sun, wet))
    heights = {r.get("class"): float(r.get("height")) for r in drawing.findall("rect")}
    assert heights["ribbon-open"] > 1.5 * heights["ribbon-tight"] > 3 * heights["ribbon-shut"]
    assert {"ribbon-sun", "ribbon-wet", "ribbon-night"} <= set(heights)
    opened = next(r for r in drawing.findall("rect") if r.get("class") == "ribbon-open")
    assert float(opened.get("x").rstrip("%")) == pytest.approx(axis.at(40), abs=0.01)
    assert float(opened.get("width").rstrip("%")) == pytest.approx(axis.at(50) - axis.at(40), abs=0.01)


def test_the_head_names_days_hours_and_rain():
    axis = timeaxis.squeezed(a_day(), 0, 96 * 2)
    start = datetime(2026, 9, 15, tzinfo=UTC)
    days = timeaxis.days(axis, [start + timedelta(minutes=15 * q) for q in range(192)])
    rain, chance = np.zeros(288), np.zeros(288)
    rain[48:52], chance[100:104] = 1.0, 60.0
    words = ET.fromstring(scale(axis, days, rain, chance))
    texts = [t.text for t in words.findall("text")]
    assert texts[:6] == ["Tue 15 Sep", "6", "9", "12", "15", "18"]
    assert [m.get("class") for m in words.findall("line")][:2] == ["axis-rain", "axis-rain-likely"]


def test_curves_stay_in_their_frame():
    axis = timeaxis.squeezed(a_day(), 0, 96)
    t = np.linspace(5, 30, 288)
    svg, levels = curves(axis, t + 3, t, t - 6, a_day(), [-10.0, 0.0, 10.0, 20.0])
    drawn = [p.get("d") for p in ET.fromstring(svg).iter("path")]
    ys = [float(pair.split()[1]) for d in drawn for pair in re.split("[ML]", d.rstrip("Z"))[1:]]
    assert min(ys) >= 0
    assert max(ys) <= 150
    assert [m.temp_c for m in levels] == [0.0, 10.0]
    assert levels[0].y > levels[1].y


def test_the_plan_puts_the_sun_where_it_stands():
    assert sun_position(90.0, 0.0) == pytest.approx((212.0, 120.0))
    assert sun_position(180.0, 90.0) == pytest.approx((120.0, 120.0))
    sides = [PlanSide(n, a, w, n) for n, a, w in (("N", 0, 8.0), ("E", 90, 12.0), ("S", 180, 8.0), ("W", 270, 12.0))]
    plan = ET.fromstring(sun_plan(sides, [(90, 1), (180, 50), (270, 1), (300, -5)]))
    walls = {line.get("data-plan-wall"): line for line in plan.findall("line")}
    east, north = walls["E"], walls["N"]
    assert float(east.get("x1")) == pytest.approx(float(east.get("x2")))
    assert float(east.get("x1")) == pytest.approx(120 + 92 * 8 / 12 / 2, abs=0.01)
    assert abs(float(north.get("x2")) - float(north.get("x1"))) == pytest.approx(92 * 8 / 12, abs=0.01)


def test_a_coat_that_no_longer_holds_is_marked_by_more_than_colour():
    axis = timeaxis.squeezed(a_day(), 0, 96)
    row = ET.fromstring(strip(axis, [Block(30, 40, 1, False), Block(50, 60, 2, True), Block(200, 210, 2, False)], a_day()))
    assert [t.text for t in row.findall("text")] == ["1", "2!"]

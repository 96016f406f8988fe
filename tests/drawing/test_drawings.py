"""Drawings are to scale, well formed, and say their state by more than colour."""

import re
import xml.etree.ElementTree as ET
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from amber_gable.core.geometry import Block as HouseBlock
from amber_gable.core.geometry import Cut, Rect, Region, build, divide
from amber_gable.drawing.hatch import Hatch, definition
from amber_gable.drawing.hours import timeaxis
from amber_gable.drawing.hours.curves import curves
from amber_gable.drawing.hours.ribbons import ribbon, scale
from amber_gable.drawing.hours.strip import CoatBlock, strip
from amber_gable.drawing.hours.sunplan import PlanShade, PlanWall, sun_plan, sun_position
from amber_gable.drawing.house.band import BandStyle, house_band
from amber_gable.drawing.house.building import DrawnElevation, DrawnOpening, DrawnSurface, Look, Pin
from amber_gable.drawing.house.elevation import DimensionWords, elevation_drawing
from amber_gable.drawing.patterns import FILLS, LOOK_FILLS, definitions
from amber_gable.drawing.sheet import house_sheet

BLOCK = HouseBlock("main", "House", "house", 12.0, 8.0, 6.0, 9.0, plinth_height_m=0.5)


def drawn(hatch: Hatch | None = None) -> list[DrawnElevation]:
    openings = [
        DrawnOpening(kind, Rect(left, sill, width, height))
        for kind, left, sill, width, height in (
            ("sash-window", 2, 1.5, 1, 1.5),
            ("shutter", 3.1, 1.5, 0.4, 1.5),
            ("entry-door", 5, 0.5, 1, 2),
        )
    ]
    return [
        DrawnElevation(
            e.name, e.name, e.kind, e.view, e.azimuth_deg, e.tilt_deg, e.region,
            [DrawnSurface(f"{e.name}/{p.kind}", f"{e.name} {p.kind}", p.kind, p.region, hatch=hatch) for p in divide(e)],
            openings if e.kind == "wall" else [], [Pin(3, 1.0, 2.0, "Finding 3: rot")] if e.name == "East" else [],
            e.place.start_m, e.place.base_m, e.place.depth_m, e.gable_from_m > 0,
        )
        for e in build([BLOCK], 90.0).elevations
    ]  # fmt: skip


def look(surface: DrawnSurface) -> Look:
    return Look(FILLS["open"], f"{surface.name}: open & <dry>", f"?surface={surface.id}")


def band(**style: object) -> ET.Element:
    return ET.fromstring(house_band(drawn(), BandStyle(look, **style)))


def corners(shape: ET.Element) -> np.ndarray:
    return np.array([[float(n) for n in pair.split()] for pair in re.split("[ML]", shape.get("d").rstrip("Z"))[1:]])


def surfaces_of(drawing: ET.Element) -> dict[str, ET.Element]:
    return {p.get("data-surface"): p for p in drawing.iter("path") if p.get("data-surface")}


def test_the_band_is_to_scale_and_in_walking_order():
    drawing = band(captions={"East": "6 openings"})
    groups = [g for g in drawing.findall("g") if g.get("data-view")]
    assert [next(t.text for t in g.iter("text") if t.get("class") == "band-name") for g in groups] == [
        "North gable",
        "East",
        "South gable",
        "West",
    ]
    spans = {name: np.ptp(corners(shape), axis=0) for name, shape in surfaces_of(drawing).items()}
    px_per_m = spans["East/wall"][0] / 12.0
    assert spans["North gable/wall"] / px_per_m == pytest.approx([8.0, 5.5], rel=1e-3)
    assert spans["North gable/gable"] / px_per_m == pytest.approx([8.0, 3.0], rel=1e-3)
    # A roof is seen foreshortened: 3 m high, though 5 m long on the slope.
    assert spans["East roof/roof"] / px_per_m == pytest.approx([12.0, 3.0], rel=1e-3)
    window = next(r for r in groups[1].iter("rect") if "band-sash-window" in r.get("class"))
    assert float(window.get("width")) == pytest.approx(px_per_m, rel=1e-2)


def test_every_surface_is_a_labelled_link_and_text_is_escaped():
    links = list(band().iter("a"))
    assert len(links) == 12  # four walls, four plinths, two gable tops, two roofs
    assert all(a.get("aria-label").endswith(": open & <dry>") for a in links)
    assert "style" not in ET.tostring(band()).decode(), "the page's policy allows no inline style"


def test_one_elevation_tells_its_scale_and_shows_dimensions_and_pins():
    east = next(e for e in drawn() if e.name == "East")
    drawing = ET.fromstring(elevation_drawing(east, look, measured=DimensionWords("39' 4\"", ((0.5, "1' 8\""), (6.0, "18'")))))
    scale = float(drawing.get("data-scale"))
    wall = corners(surfaces_of(drawing)["East/wall"])
    assert np.ptp(wall, axis=0) == pytest.approx([12 * scale, 5.5 * scale], rel=1e-3)
    assert wall[:, 0].min() == pytest.approx(float(drawing.get("data-left")), abs=0.02)
    pin = next(c for c in drawing.iter("circle") if "pin" in c.get("class", ""))
    x, y = float(drawing.get("data-left")) + scale, float(drawing.get("data-ground")) - 2 * scale
    assert (float(pin.get("cx")), float(pin.get("cy"))) == pytest.approx((x, y), abs=0.02)
    assert {"39' 4\"", "1' 8\"", "18'"} <= {t.text for t in drawing.iter("text")}


@pytest.mark.parametrize(("px_per_m", "boards"), [(52.0, 1), (20.0, 2), (6.0, 10)])
def test_boards_are_hatched_at_their_spacing_or_a_whole_number_of_it(px_per_m, boards):
    pattern = ET.fromstring(definition(Hatch("lap", 0.1143), px_per_m, "t", 0, 0))
    assert float(pattern.get("height")) == pytest.approx(boards * 0.1143 * px_per_m, abs=0.01)


def test_the_sheet_stands_alone_with_a_scale_bar():
    sheet = ET.fromstring(house_sheet(drawn(Hatch("lap", 0.1)), "Tower & Mill", {}, (3.0, "3 m")))
    ns = "{http://www.w3.org/2000/svg}"
    wall = next(p for p in sheet.iter(f"{ns}path") if p.get("data-surface") == "East/wall")
    bar = next(p for p in sheet.iter(f"{ns}path") if p.get("class") == "scale")
    long = float(re.search(r"H([\d.]+)", bar.get("d")).group(1)) - 2
    assert np.ptp(corners(wall), axis=0)[0] / 12 == pytest.approx(long / 3, rel=1e-2)
    # The printer does not read the font shorthand, and draws letters over everything instead.
    assert "font:" not in sheet.find(f"{ns}style").text
    used = set(re.findall(r"url\(#([^)]+)\)", ET.tostring(sheet).decode()))
    assert used == {p.get("id") for p in sheet.iter(f"{ns}pattern")}


def test_the_states_differ_in_texture_not_only_in_colour():
    known = ET.fromstring(definitions())
    assert {p.get("id") for p in known.iter("pattern")} >= {"fill-tight", "fill-shut"}
    # Each look of a part but the plain ones has a texture of its own.
    drawn = {f"url(#{p.get('id')})" for p in known.iter("pattern")}
    assert {fill for fill in LOOK_FILLS.values() if fill.startswith("url")} <= drawn
    assert len(set(LOOK_FILLS.values())) == len(LOOK_FILLS)
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
    walls = [PlanWall("front", ((0, 0), (12, 0)), "F"), PlanWall("right", ((12, 0), (12, 8)), "R")]
    drawing = sun_plan(
        [(((0, 0), (12, 0), (12, 8), (0, 8)), 5.0)], walls, 90.0, [(90, 1), (180, 50), (300, -5)], [PlanShade("Elm", 350, 20, 30)]
    )
    plan = ET.fromstring(drawing)
    lines = {line.get("data-plan-wall"): [float(line.get(k)) for k in ("x1", "y1", "x2", "y2")] for line in plan.findall("line")}
    # The front faces east: an upright line right of the middle, its left end in the south.
    (x1, y1, x2, y2), north = lines["F"], lines["R"]
    assert x1 == pytest.approx(x2)
    assert x1 > 120
    assert y1 > y2
    assert north[1] == pytest.approx(north[3])
    assert north[1] < 120
    assert abs(y1 - y2) / abs(north[0] - north[2]) == pytest.approx(12 / 8, rel=1e-3)


def test_a_coat_that_no_longer_holds_is_marked_by_more_than_colour():
    axis = timeaxis.squeezed(a_day(), 0, 96)
    row = ET.fromstring(strip(axis, [CoatBlock(30, 40, 1, False), CoatBlock(50, 60, 2, True), CoatBlock(200, 210, 2, False)], a_day()))
    assert [t.text for t in row.findall("text")] == ["1", "2!"]


DECK = HouseBlock(
    "deck",
    "Deck",
    "deck",
    5.0,
    3.0,
    0.9,
    roof="none",
    parent="main",
    side=2,
    from_left_m=2.0,
    projects_m=3.0,
    rail_height_m=0.9,
    steps=3,
    steps_width_m=1.2,
)


def drawn_with(*blocks: HouseBlock) -> list[DrawnElevation]:
    return [
        DrawnElevation(
            e.name, e.name, e.kind, e.view, e.azimuth_deg, e.tilt_deg, e.region,
            [DrawnSurface(f"{e.name}/{p.kind}", e.name, p.kind, p.region) for p in divide(e)],
            start_m=e.place.start_m, base_m=e.place.base_m, depth_m=e.place.depth_m, has_gable=e.gable_from_m > 0,
        )
        for e in build([BLOCK, *blocks], 180.0).elevations
    ]  # fmt: skip


def test_a_deck_is_drawn_from_above_and_its_railing_before_the_wall():
    drawing = ET.fromstring(house_band(drawn_with(DECK), BandStyle(look)))
    views_named = [t.text for t in drawing.iter("text") if t.get("class") == "band-name"]
    assert views_named[-1] == "From above"
    shapes = surfaces_of(drawing)
    px_per_m = np.ptp(corners(shapes["South/wall"]), axis=0)[0] / 12.0
    assert np.ptp(corners(shapes["Deck boards/deck"]), axis=0) / px_per_m == pytest.approx([5.0, 3.0], rel=1e-2)
    order = [p.get("data-surface") for p in drawing.iter("path") if p.get("data-surface")]
    assert order.index("North/wall") < order.index("Deck north railing/railing"), "what is nearer is drawn over what is farther"
    assert sum(p.get("class") == "band-balusters" for p in drawing.iter("path")) == 5, "four railings and the steps"


def test_a_dormer_stands_before_the_roof_it_comes_out_of():
    dormer = HouseBlock("d", "Dormer", "dormer", 2.0, 1.0, 7.9, 8.6, parent="main", side=0, from_left_m=5.0, projects_m=-1.0)
    order = list(surfaces_of(ET.fromstring(house_band(drawn_with(dormer), BandStyle(look)))))
    assert order.index("South roof/roof") < order.index("Dormer south/wall")
    assert order.index("South roof/roof") < order.index("South/wall")


def test_an_estimate_says_so_and_the_sunny_side_is_marked():
    drawing = ET.fromstring(house_band(drawn_with(), BandStyle(look, is_quick=True, sunny="South")))
    assert "quick: estimated, not measured" in {t.text for t in drawing.iter("text")}
    on = [c for c in drawing.iter("circle") if "is-on" in (c.get("class") or "")]
    assert [c.get("data-sun") for c in on] == ["South"]
    assert sum(t.text == "most sun" for t in drawing.iter("text")) == 1


def test_what_leads_nowhere_does_not_lie_in_the_way():
    bare = BandStyle(lambda s: Look("none", s.name, None if s.kind == "roof" else f"?at={s.id}"))
    drawing = ET.fromstring(house_band(drawn_with(), bare))
    for name, shape in surfaces_of(drawing).items():
        assert ("is-mute" in shape.get("class")) == name.endswith("/roof")


def test_a_part_cut_out_of_a_wall_is_not_painted_over():
    elevation = next(e for e in build([BLOCK], 180.0).elevations if e.name == "South")
    pieces = divide(elevation, [Cut(((2, 2), (4, 2), (4, 4), (2, 4)))])
    one = DrawnElevation(
        "e",
        "South",
        "wall",
        "v",
        180.0,
        90.0,
        elevation.region,
        [DrawnSurface(str(i), str(i), p.kind, p.region) for i, p in enumerate(pieces)],
    )
    shapes = surfaces_of(ET.fromstring(elevation_drawing(one, look)))
    holed = next(s for s in shapes.values() if s.get("d").count("M") == 2)
    assert holed.get("fill-rule") == "evenodd"


def test_a_low_wall_leaves_no_empty_paper_above_it():
    low = DrawnElevation("e", "Wall", "wall", "v", 0.0, 90.0, Region(Rect(0, 0, 20, 2).outline), [])
    box = [float(v) for v in ET.fromstring(elevation_drawing(low, look)).get("viewBox").split()]
    scale = float(ET.fromstring(elevation_drawing(low, look)).get("data-scale"))
    assert box[3] < 2 * scale + 40

"""Quantities worked by hand, and the knowledge they rest on."""

import math

import pytest

from amber_gable.core.geometry import Rect, Region
from amber_gable.core.geometry.profiles import (
    Factor,
    balusters,
    board_batten,
    check_dimensions,
    corrugated,
    factor_of,
    lap,
    louvre,
    panel_door,
    shake,
    standing_seam,
)
from amber_gable.core.knowledge import KnowledgeError
from amber_gable.core.knowledge.shipped import build, read_tables, shipped
from amber_gable.core.takeoff import Face, Quantity, coverage, measure, spread_of, with_reserve
from amber_gable.errors import FieldErrors


def face(openings: list[Rect], factor: float = 1.1) -> Face:
    return Face("wall", Region(Rect(0, 0, 10, 3).outline), openings, Factor(factor, "by hand"), "lap", 1.2, "rough")


def test_a_wall_on_paper():
    # 10 x 3 = 30 m2, less 2 x 1.5 = 27 m2; x 1.1 x 1.2 = 35.64 m2 of uptake; / 10 m2/L / 0.8 = 4.455 L a coat.
    found = measure(face([Rect(1, 1, 2, 1.5)]))
    assert (found.gross_area_m2, found.openings_area_m2, found.net_area_m2) == pytest.approx((30, 3, 27))
    assert found.uptake_m2 == pytest.approx(35.64)
    assert Quantity(found.net_area_m2, 10.0, 1.1, 1.2, loss_pct=20).litres == pytest.approx(4.455)
    # Sprayed bare in a breeze with a tip half worn: 35.64 x 1.3 / 10 = 4.6332 L in the film; / 0.7 / 0.96 x 1.075.
    sprayed = Quantity(27, 10.0, 1.1, 1.2, 1.3, 30, 4, 7.5)
    assert sprayed.film_litres == pytest.approx(4.6332)
    assert sprayed.litres == pytest.approx(4.6332 / 0.7 / 0.96 * 1.075)


def test_openings_never_take_more_than_the_wall():
    # Overlapping openings count once: the survey refuses them, and the sum stays true besides.
    assert measure(face([Rect(0, 0, 10, 3), Rect(0, 0, 10, 3)])).net_area_m2 == 0


def test_film_and_label_agree_or_say_why(knowledge):
    low = knowledge.products["rivermark-exterior-low-lustre"]
    agreed = spread_of(low)
    assert agreed.agrees
    # 38 % solids at 38 µm: 10 m2/L, a wet film of 100 µm.
    assert (agreed.m2_per_l, agreed.wet_film_um) == pytest.approx((10.0, 100.0))
    thick = spread_of(low.model_copy(update={"spread_low_m2_per_l": 12.0, "spread_high_m2_per_l": 14.0}))
    assert (thick.m2_per_l, thick.agrees) == (12.0, False)
    assert "less than the label's 12 to 14" in thick.why
    thirsty = spread_of(low.model_copy(update={"spread_low_m2_per_l": 4.0, "spread_high_m2_per_l": 8.0}))
    assert (thirsty.m2_per_l, thirsty.wet_film_um) == pytest.approx((8.0, 125.0))
    assert "more than the label's 4 to 8" in thirsty.why
    assert spread_of(low.model_copy(update={"spread_low_m2_per_l": 0.0, "spread_high_m2_per_l": 0.0})).m2_per_l == pytest.approx(10.0)


def test_a_reserve_is_a_share_but_at_least_a_quart():
    assert with_reserve(100.0, 5.0, 0.946) == pytest.approx(105.0)
    assert with_reserve(3.0, 5.0, 0.946) == pytest.approx(3.946)
    assert with_reserve(0.0, 5.0, 0.946) == 0.0


def test_coverage_from_solids_and_film():
    # Handbook 7: ft2/gal = 1604 x solids fraction / dry mils; 38 % at 1.5 mil makes 406.
    found = coverage(38.0, 38.1)
    assert found.theoretical_m2_per_l == pytest.approx(406.3 * 0.09290304 / 3.785411784, rel=2e-3)
    assert found.wet_film_um == pytest.approx(38.1 / 0.38)
    assert coverage(40, 40, 25, 2, 1.25).practical_m2_per_l == pytest.approx(10 * 0.75 / 2 / 1.25)


def test_profiles_from_their_own_dimensions():
    assert lap(100, 12).value == pytest.approx(1.12)
    assert "12 mm butt" in lap(100, 12).how
    assert board_batten(250, 60, 20).value == pytest.approx(1.16)
    assert standing_seam(400, 40).value == pytest.approx(1.2)
    # A shallow sine: 1 + (pi depth / pitch)^2 / 4, to second order.
    assert corrugated(100, 2).value == pytest.approx(1 + (math.pi * 2 / 100) ** 2 / 4, rel=1e-5)
    # Handbook 7's own ranges, from dimensions that are common.
    assert 1.25 <= shake(190, 14, 150).value <= 1.35
    assert louvre(45, 6, 25).value >= 2
    assert 1.1 <= panel_door(915, 2080, 6, 1500, 25).value <= 1.2
    assert balusters(38, 127).value == pytest.approx(4 * 38 / 127)


@pytest.mark.parametrize(
    ("shape", "mm", "field", "words"),
    [
        ("lap", {"exposure_mm": 0, "butt_mm": 12}, "exposure_mm", "above 0"),
        ("lap", {"exposure_mm": 100}, "butt_mm", "Give the butt"),
        ("lap", {"exposure_mm": 100, "butt_mm": 12, "seam_mm": 3}, "seam_mm", "has no seam"),
        ("board-batten", {"board_mm": 200, "batten_width_mm": 200, "batten_depth_mm": 20}, "batten_width_mm", "narrower"),
    ],
)
def test_dimensions_that_cannot_be_are_refused(shape, mm, field, words):
    with pytest.raises(FieldErrors) as caught:
        check_dimensions(shape, mm)
    assert words in caught.value.errors[field]


def test_every_shipped_profile_has_a_factor_and_every_row_a_source():
    known = shipped()
    assert all(factor_of(p).value >= 1 for p in known.profiles.values())
    tables = (
        known.claddings,
        known.substrates,
        known.profiles,
        known.textures,
        known.products,
        known.access,
        known.methods,
        known.openings,
        known.items,
        known.conditions,
        known.features,
        known.coatings,
        known.countries,
    )
    assert all(row.source for table in tables for row in table.values())


def test_a_bad_table_names_its_row_and_column():
    tables = read_tables()
    tables["claddings"]["wood"]["areal_heat_capacity_kj_m2k"] = -1
    with pytest.raises(KnowledgeError, match=r"claddings\.wood\.areal_heat_capacity_kj_m2k"):
        build(tables)
    tables = read_tables()
    tables["substrates"]["brick"]["cladding"] = "straw"
    with pytest.raises(KnowledgeError, match=r"substrates\.brick\.cladding: no “straw”"):
        build(tables)


def test_a_table_that_is_no_toml_names_its_file(tmp_path):
    (tmp_path / "weather").mkdir()
    (tmp_path / "weather" / "claddings.toml").write_text("[wood\n")
    with pytest.raises(KnowledgeError, match=r"claddings\.toml"):
        read_tables(tmp_path)

"""Quantities worked by hand, and the knowledge they rest on."""

import pytest

from amber_gable.core.geometry import Rect
from amber_gable.core.knowledge import KnowledgeError, build, read_tables, shipped
from amber_gable.core.profiles import Factor, board_batten, factor_of, lap
from amber_gable.core.takeoff import Face, Paint, coverage, take_off
from amber_gable.errors import PlanError


def face(openings: list[Rect], factor: float = 1.1) -> Face:
    return Face("wall", Rect(0, 0, 10, 3).outline, openings, Factor(factor, "by hand"), "lap", 1.2, "rough")


PAINT = Paint("paint", 10.0, "brush", 20.0, 2)


def test_a_wall_on_paper():
    # 10 x 3 = 30 m2, less 2 x 1.5 = 27 m2; x 1.1 x 1.2 = 35.64 m2 of uptake;
    # / 10 m2/L / 0.8 = 4.455 L a coat, 8.91 L in two.
    found = take_off(face([Rect(1, 1, 2, 1.5)]), PAINT)
    assert (found.gross_area_m2, found.openings_area_m2, found.net_area_m2) == pytest.approx((30, 3, 27))
    assert found.uptake_m2 == pytest.approx(35.64)
    assert found.litres_per_coat == pytest.approx(4.455)
    assert found.litres_total == pytest.approx(8.91)


def test_openings_larger_than_the_wall_are_refused():
    with pytest.raises(PlanError, match="more than the surface has"):
        take_off(face([Rect(0, 0, 10, 3), Rect(0, 0, 10, 3)]), PAINT)


def test_coverage_from_solids_and_film():
    # Handbook 7: ft2/gal = 1604 x solids fraction / dry mils; 38 % at 1.5 mil makes 406.
    found = coverage(38.0, 38.1)
    assert found.theoretical_m2_per_l == pytest.approx(406.3 * 0.09290304 / 3.785411784, rel=2e-3)
    assert found.wet_film_um == pytest.approx(38.1 / 0.38)
    assert coverage(40, 40, 25, 2, 1.25).practical_m2_per_l == pytest.approx(10 * 0.75 / 2 / 1.25)


def test_profiles_from_their_own_dimensions():
    assert lap(100, 12).value == pytest.approx(1.12)
    assert "12 mm butt" in lap(100, 12).how
    assert board_batten(250, 20).value == pytest.approx(1.16)


def test_every_shipped_profile_has_a_factor_and_every_row_a_source():
    known = shipped()
    assert all(factor_of(p).value >= 1 for p in known.profiles.values())
    tables = (known.claddings, known.substrates, known.profiles, known.textures, known.products, known.access, known.methods)
    assert all(row.source for table in tables for row in table.values())


def test_a_bad_table_names_its_row_and_column():
    tables = read_tables()
    tables["claddings"]["wood"]["areal_heat_capacity_kj_m2k"] = -1
    with pytest.raises(KnowledgeError, match=r"claddings\.wood\.areal_heat_capacity_kj_m2k"):
        build(tables)
    tables = read_tables()
    tables["substrates"]["brick"]["cladding"] = "straw"
    with pytest.raises(KnowledgeError, match=r"substrates\.brick\.cladding: no row “straw”"):
        build(tables)


def test_a_table_that_is_no_toml_names_its_file(tmp_path):
    (tmp_path / "claddings.toml").write_text("[wood\n")
    with pytest.raises(KnowledgeError, match=r"claddings\.toml"):
        read_tables(tmp_path)

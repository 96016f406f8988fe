"""Reckonings: exact in and out, strict about what they take, the same by API, page and command line."""

import copy
import json
import subprocess
import sys

import pytest

from amber_gable.services.reckonings import REGISTRY, find, reckon
from amber_gable.web.views.reckoner.answers import example_of, fields_of
from tests.support.reckonings import refused

DEW = {"air_temp_c": 20.0, "rel_humidity_pct": 60.0}
SUN = find("sun-on-surface").example
WALL = find("surface-temperature").example


def answer(name: str, values: dict) -> dict:
    return reckon(find(name), values).model_dump()


def test_dew_point_fields():
    found = answer("dew-point", DEW)
    # ASHRAE psychrometric chart: 20 °C, 60 %: dew point 12.0, wet bulb 15.1 °C, 1.403 kPa.
    assert found["dew_point_c"] == pytest.approx(12.0, abs=0.05)
    assert found["wet_bulb_c"] == pytest.approx(15.1, abs=0.1)
    assert found["vapour_pressure_kpa"] == pytest.approx(1.403, abs=0.002)
    assert found["vapour_pressure_deficit_kpa"] == pytest.approx(2.339 - 1.403, abs=0.003)
    assert found["frost_point_c"] is None
    assert answer("dew-point", {"air_temp_c": -10, "rel_humidity_pct": 70})["frost_point_c"] < -10


def test_pressure_moves_the_wet_bulb_and_nothing_else():
    sea, hill = answer("dew-point", DEW), answer("dew-point", DEW | {"pressure_kpa": 80.0})
    assert hill["wet_bulb_c"] < sea["wet_bulb_c"]
    assert {k for k in sea if sea[k] != hill[k]} == {"wet_bulb_c"}


def test_coverage_fields():
    found = answer("coverage", {"volume_solids_pct": 40, "dry_film_um": 50, "loss_pct": 20, "profile_factor": 1.25, "texture_factor": 1.6})
    assert found == pytest.approx(
        {
            "theoretical_m2_per_l": 8.0,
            "practical_m2_per_l": 3.2,
            "practical_ft2_per_gal": 3.2 * 3.785411784 / 0.09290304,
            "wet_film_um": 125.0,
        }
    )


def test_sun_on_surface_fields():
    found = answer("sun-on-surface", SUN)
    assert found["direct_sun"] is True
    assert found["sunrise"].startswith("2026-09-15T06:4")
    assert found["sunset"].endswith("-05:00")
    assert answer("sun-on-surface", SUN | {"azimuth_deg": 270.0})["direct_sun"] is False
    assert answer("sun-on-surface", SUN | {"cloud_pct": 100.0})["direct_sun"] is False
    polar = answer("sun-on-surface", SUN | {"latitude_deg": 80.0, "time": "2026-06-21T00:00:00+00:00"})
    assert polar["sunrise"] is polar["sunset"] is None


def test_surface_temperature_echoes_its_times_and_starts_dry():
    found = answer("surface-temperature", WALL)["hours"]
    assert [h["time"] for h in found] == [h["time"] for h in WALL["hours"]]
    assert found[0]["wet"] is False, "the dew store is empty at the first listed hour"
    morning = {h["time"][11:13]: h for h in found}
    assert morning["06"]["dew_margin_c"] < 0
    assert morning["07"]["wet"] is True
    assert morning["09"]["direct_sun"] is True
    assert morning["09"]["surface_temp_c"] > 30, "an east wall of half-dark colour in the morning sun"
    assert morning["15"]["direct_sun"] is False


def test_gaps_up_to_three_hours_are_bridged_in_any_offset():
    values = copy.deepcopy(WALL)
    del values["hours"][4:6]
    values["hours"][6]["time"] = values["hours"][6]["time"].replace("T13:00:00-05:00", "T20:00:00+02:00")
    found = answer("surface-temperature", values)["hours"]
    assert len(found) == len(WALL["hours"]) - 2
    assert found[6]["time"].endswith("+02:00")


@pytest.mark.parametrize(
    ("body", "field", "words"),
    [
        ({"air_temp_c": 20.0}, "rel_humidity_pct", "Give rel_humidity_pct"),
        (DEW | {"rel_humidity_pct": 0.6}, "rel_humidity_pct", "multiply it by 100"),
        (DEW | {"rel_humidity_pct": 101}, "rel_humidity_pct", "1 to 100"),
        (DEW | {"air_temp_c": 72}, "air_temp_c", "Fahrenheit"),
        (DEW | {"air_temp_c": "20"}, "air_temp_c", "without quotes"),
        (DEW | {"air_temp_c": True}, "air_temp_c", "finite JSON number"),
        (DEW | {"air_temp_c": None}, "air_temp_c", "finite JSON number"),
        (DEW | {"pressure_kpa": 1013}, "pressure_kpa", "1013 hPa is 101.3 kPa"),
        (DEW | {"humidity": 5}, "humidity", "no field humidity"),
        (b'{"air_temp_c": NaN, "rel_humidity_pct": 60}', "air_temp_c", "finite"),
        (b'{"air_temp_c": 1e999, "rel_humidity_pct": 60}', "air_temp_c", "finite"),
        (b'{"air_temp_c": -Infinity, "rel_humidity_pct": 60}', "air_temp_c", "finite"),
        (b'{"air_temp_c": 1' + b"0" * 400 + b', "rel_humidity_pct": 60}', "air_temp_c", "number"),
        (b"[]", "", "one JSON object"),
        (b"20", "", "one JSON object"),
        (b"", "", "not JSON"),
        (b"\xff\xfe", "", "not JSON"),
        (b"[" * 200_000, "", "not JSON"),
        (b" " * 2_000_001, "", "larger than 2 MB"),
    ],
)
def test_bad_input_is_refused_at_its_field_in_words(body, field, words):
    found, said = refused("dew-point", body)
    assert found == field
    assert words in said


def hours_with(index: int, **change: object) -> dict:
    values = copy.deepcopy(WALL)
    values["hours"][index] |= change
    return values


@pytest.mark.parametrize(
    ("values", "field"),
    [
        (hours_with(3, air_temp_c=80), "hours.3.air_temp_c"),
        (hours_with(3, cloud_pct=None), "hours.3.cloud_pct"),
        (hours_with(3, time="09:00"), "hours.3.time"),
        (hours_with(3, time="2026-09-15T09:00:00"), "hours.3.time"),
        (hours_with(3, time=WALL["hours"][2]["time"]), "hours.3.time"),
        (hours_with(15, time="2026-09-15T23:30:00-05:00"), "hours.15.time"),
        (WALL | {"hours": WALL["hours"] * 26}, "hours"),
        (WALL | {"hours": WALL["hours"][:1]}, "hours"),
        (WALL | {"hours": {}}, "hours"),
        (WALL | {"hours": [5, 6]}, "hours.0"),
        (WALL | {"solar_absorptance": 60}, "solar_absorptance"),
        (WALL | {"latitude_deg": 91}, "latitude_deg"),
        (WALL | {"tilt_deg": -1}, "tilt_deg"),
    ],
)
def test_faults_in_hours_carry_a_dotted_path(values, field):
    assert refused("surface-temperature", values)[0] == field


@pytest.mark.parametrize("entry", REGISTRY, ids=lambda e: e.name)
def test_page_api_and_function_are_one(client, entry):
    direct = reckon(entry, entry.example).model_dump(by_alias=True)
    by_api = client.post(f"/api/reckon/{entry.name}", json=entry.example)
    assert by_api.status_code == 200
    assert by_api.json() == direct
    page = client.get(f"/reckoner/{entry.name}")
    assert page.status_code == 200
    assert all(f'name="{field}"' in page.text for field in entry.input_model.model_fields)


@pytest.mark.parametrize("entry", REGISTRY, ids=lambda e: e.name)
def test_the_form_sends_what_the_page_shows(client, entry):
    # The firm of the demonstration thinks in US units.
    fields = {f.name: f.value for f in fields_of(entry, "us")}
    answered = client.post(f"/reckoner/{entry.name}", data=fields, headers={"hx-request": "true"})
    assert answered.status_code == 200, answered.text
    lead = reckon(entry, example_of(entry, "us")).model_dump().get(entry.lead)
    if isinstance(lead, float):
        assert f"{lead:,.2f}" in answered.text or f"{lead:,.1f}" in answered.text


def test_dilution_is_parts_of_the_whole():
    # Handbook 6: 1 part bleach to 3 of water; 10 L of mix are 2.5 and 7.5.
    assert answer("dilution", {"concentrate_parts": 1, "water_parts": 3, "mix_l": 10.0}) == {"concentrate_l": 2.5, "water_l": 7.5}
    assert answer("dilution", {"concentrate_parts": 1, "water_parts": 0, "mix_l": 4.0}) == {"concentrate_l": 4.0, "water_l": 0.0}
    assert refused("dilution", {"concentrate_parts": 0, "water_parts": 3, "mix_l": 10.0})[0] == "concentrate_parts"


COLOURS = {"sage": "#a8b59a", "near sage": "#aab79c", "ochre": "#b8752e", "night": "#26302c", "cream": "#e9e6da", "red": "#b3201f"}


@pytest.mark.parametrize(
    ("old", "new", "hiding", "tinted", "primer", "coats"),
    [
        ("sage", "near sage", "high", False, False, 2),
        ("night", "cream", "high", False, True, 2),
        ("cream", "night", "high", True, True, 2),
        ("cream", "red", "low", False, True, 3),
        ("cream", "red", "low", True, True, 2),
        ("sage", "sage", "low", False, False, 2),
    ],
)
def test_coats_for_a_colour(old, new, hiding, tinted, primer, coats):
    given = {"old_hex": COLOURS[old], "new_hex": COLOURS[new], "hiding": hiding, "primer_tinted": tinted}
    found = answer("coats-for-colour", given)
    assert (found["primer"], found["coats"]) == (primer, coats)
    assert all(line.endswith(".") for line in found["why"])


def test_vinyl_bears_no_darker_colour():
    found = answer("vinyl-safe", {"original_hex": "#808080", "new_hex": "#7b7b7b"})
    # sRGB 128 reflects 21.59 %, 123 reflects 19.81 %: within the two points of a card's own error.
    assert (found["safe"], round(found["lrv_original_pct"], 1), round(found["lrv_new_pct"], 1)) == (True, 21.6, 19.8)
    assert answer("vinyl-safe", {"original_hex": "#808080", "new_hex": "#787878"})["safe"] is False
    assert refused("vinyl-safe", {"original_hex": "#808080", "new_hex": "grey"})[0] == "new_hex"


def test_a_system_by_itself_is_ordered_and_says_why():
    found = answer("system", find("system").example)
    assert (found["prime"], found["primer"], found["finish"]) == ("full", "wood-primer", "acrylic")
    assert [s["step"] for s in found["steps"]][:4] == ["clear", "soft-wash", "dry", "scrape"]
    assert all(s["why"] and s["source"] for s in found["steps"])
    assert next(s for s in found["steps"] if s["step"] == "coat 1")["product"] == "rivermark-exterior-low-lustre"
    for change, field in (
        ({"substrate": "straw"}, "substrate"),
        ({"findings": [{"kind": "gremlins"}]}, "findings.0.kind"),
        ({"schools": {"washing": "never"}}, "schools.washing"),
        ({"new_hex": "ochre"}, "new_hex"),
        ({"kind": "tent"}, "kind"),
    ):
        assert refused("system", find("system").example | change)[0] == field


def test_the_api_speaks_json_of_every_fault(client):
    unknown = client.post("/api/reckon/dew", json={})
    assert (unknown.status_code, unknown.json()["field"]) == (404, "")
    assert "dew-point" in unknown.json()["error"]
    bad = client.post("/api/reckon/dew-point", content=b"not json", headers={"origin": "http://elsewhere.test"})
    assert (bad.status_code, set(bad.json())) == (422, {"error", "field"})
    assert client.get("/api/reckon/dew-point").status_code == 405
    assert client.get("/api/reckon").json()["reckonings"] == [e.name for e in REGISTRY]


def command(name: str, stdin: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "amber_gable.cli", "reckon", name], input=stdin, capture_output=True, text=True, check=False
    )


def test_the_command_line_takes_and_gives_the_same_json():
    good = command("dew-point", json.dumps(DEW))
    assert (good.returncode, good.stderr) == (0, "")
    assert json.loads(good.stdout) == answer("dew-point", DEW)
    bad = command("dew-point", json.dumps(DEW | {"rel_humidity_pct": 120}))
    assert (bad.returncode, bad.stdout) == (2, "")
    assert json.loads(bad.stderr)["field"] == "rel_humidity_pct"
    assert command("nothing", "{}").returncode == 2


def test_paint_quantity_by_hand():
    # 60 x 1.111 x 1.0 / 10 / 0.92 = 7.2457 L a coat; two and 5 %: 15.216 L, 4.0196 US gal.
    found = answer("paint-quantity", find("paint-quantity").example)
    assert found["litres_per_coat"] == pytest.approx(60 * 1.111 / 10 / 0.92)
    assert found["litres_total"] == pytest.approx(60 * 1.111 / 10 / 0.92 * 2 * 1.05)
    assert found["us_gal_total"] == pytest.approx(found["litres_total"] / 3.785411784)
    body = find("paint-quantity").example
    assert refused("paint-quantity", body | {"coats": 2.5})[0] == "coats"
    assert refused("paint-quantity", body | {"loss_pct": 96})[0] == "loss_pct"
    assert refused("paint-quantity", {k: v for k, v in body.items() if k != "reserve_pct"})[0] == "reserve_pct"


def test_packs_names_what_is_bought_and_no_more():
    sizes = [{"name": "small", "litres": 1.0, "price": 10.0}, {"name": "large", "litres": 4.0, "price": 30.0}]
    found = answer("packs", {"litres_needed": 5.5, "sizes": sizes})
    # 4 + 1 + 1 for 50 against 4 + 4 for 60.
    assert found == {
        "packs": [{"name": "small", "count": 2}, {"name": "large", "count": 1}],
        "litres": 6.0,
        "price": 50.0,
        "leftover_l": 0.5,
    }
    assert answer("packs", {"litres_needed": 0, "sizes": sizes}) == {"packs": [], "litres": 0.0, "price": 0.0, "leftover_l": 0.0}
    assert refused("packs", {"litres_needed": 1, "sizes": [*sizes, sizes[0]]})[0] == "sizes.2.name"
    assert refused("packs", {"litres_needed": 1, "sizes": []})[0] == "sizes"
    assert refused("packs", {"litres_needed": 1, "sizes": [{"name": "a", "litres": 0, "price": 1}]})[0] == "sizes.0.litres"
    assert refused("packs", {"litres_needed": -1, "sizes": sizes})[0] == "litres_needed"


def test_caulk_spray_and_ladders_by_hand():
    # A full round of 6 mm: 300 cm3 / (pi x 0.3^2 cm2) = 10.61 m; 120 m and a tenth take 12.44.
    found = answer("caulk", {"joint_m": 120, "bead_mm": 6})
    assert (found["metres_per_cartridge"], found["cartridges"]) == (pytest.approx(10.6103, rel=1e-4), 13)
    assert answer("caulk", {"joint_m": 0, "bead_mm": 6})["cartridges"] == 0
    spray = answer("spray-setup", find("spray-setup").example)
    # 0.31 gal/min of which 73 % lands: 0.8566 L/min over 100 µm are 8.566 m2; / (0.254 x 0.5) / 60 = 1.124 m/s.
    assert spray["flow_l_per_min"] == pytest.approx(0.31 * 3.785411784)
    assert spray["area_m2_per_min"] == pytest.approx(8.566, rel=1e-3)
    assert spray["gun_speed_m_per_s"] == pytest.approx(1.1242, rel=1e-3)
    assert refused("spray-setup", find("spray-setup").example | {"tip_code": "51"})[0] == "tip_code"
    assert refused("spray-setup", find("spray-setup").example | {"transfer_efficiency_pct": 0.73})[0] == "transfer_efficiency_pct"
    assert answer("ladder-sets", {"wall_width_m": 11.6, "reach_each_side_m": 0.6, "extension_m": 0.6}) == {"sets": 5}
    assert answer("ladder-sets", {"wall_width_m": 2.4, "reach_each_side_m": 1.2}) == {"sets": 1}
    assert refused("ladder-sets", {"wall_width_m": 2.4, "reach_each_side_m": 0})[0] == "reach_each_side_m"

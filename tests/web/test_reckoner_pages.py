"""The Reckoner's pages: forms in the reader's units, reckonings found by what one wants to know, answers carried into a job."""

import json
import re

import pytest

from amber_gable.services.reckonings import REGISTRY
from amber_gable.web.views.reckoner.lists import read, shape_of, written
from tests.support.pages import errors, send

LISTS = [(e, n) for e in REGISTRY for n, info in e.input_model.model_fields.items() if shape_of(info.annotation) and e.example.get(n)]


@pytest.mark.parametrize(("entry", "name"), LISTS, ids=[f"{e.name} {n}" for e, n in LISTS])
def test_a_list_is_typed_in_lines_and_read_as_it_was_meant(entry, name):
    kind, value = entry.input_model.model_fields[name].annotation, entry.example[name]
    assert read(kind, written(kind, value, "metric"), "metric") == value
    assert read(kind, json.dumps(value), "us") == value, "as the API takes it, too"
    # Three figures in the reader's units; what that is worth: half a percent, or a third of a degree.
    near = pytest.approx(flat(value), rel=0.006, abs=0.35)
    assert flat(read(kind, written(kind, value, "us"), "us")) == near


def flat(value):
    """Return the numbers of a list in their order."""
    if isinstance(value, dict | list):
        return [n for one in (value.values() if isinstance(value, dict) else value) for n in flat(one)]
    return [value] if isinstance(value, int | float) else []


def test_hours_are_pasted_from_a_spreadsheet_whatever_its_columns_are_in(client):
    entry = next(e for e in REGISTRY if e.name == "drying")
    kind = entry.input_model.model_fields["hours"].annotation
    # 50 °F is 10 °C; 10 mph are 4.4704 m/s; a column named as the contract names it is in its unit.
    pasted = "time\twind (mph)\tAIR  temperature °F\trel_humidity_pct\tsurface_temp_c\n2026-09-15T09:00:00-05:00\t10\t50\t80\t10,5\n\n"
    row = {"time": "2026-09-15T09:00:00-05:00", "wind_m_s": 4.4704, "air_temp_c": 10, "rel_humidity_pct": 80, "surface_temp_c": 10.5}
    for system in ("us", "metric"):
        assert read(kind, pasted, system) == [{k: v if k == "time" else pytest.approx(v) for k, v in row.items()}]
    typed = "Time, Air temperature °F, Relative humidity %, Wind mph, Surface temperature °F\n2026-09-15T09:00:00-05:00, 57, {}, 2, {}"
    for text, words in (
        ("Time, Air, Wind\n1, 2, 3", "“Air” is no column here. There are Time, Air temperature °F"),
        ("Time, Wind\n1, 2", "No column for Air temperature °F, Relative humidity %, Surface temperature °F"),
        (typed.format("78", "warm"), "Row 1, surface temperature: Cannot read “warm”"),
        (typed.format("178", "58"), "Row 1, relative humidity: "),
        (typed.format("78, 3", "58"), "Row 1 has 6 values for 5 columns"),
        ("\n", "Give hours."),
    ):
        assert words in errors(send(client, "/reckoner/drying", {"hours": text}, "reckon"))["reckon-hours"]


def test_the_reckoner_form_keeps_its_words_at_the_field(client):
    bad = {"air_temp_c": "72C", "rel_humidity_pct": "", "pressure_kpa": "101.3"}
    found = errors(send(client, "/reckoner/dew-point", bad, "reckon"))
    assert "Fahrenheit" in found["reckon-air_temp_c"]
    assert found["reckon-rel_humidity_pct"] == "Give relative humidity."
    good = send(client, "/reckoner/dew-point", {"air_temp_c": "68", "rel_humidity_pct": "60"})
    assert "12.01 °C" in good.text
    assert "53.6 °F" in good.text, "a contractor on US units reads both"
    assert "12.01 °C" in send(client, "/reckoner/dew-point", {"air_temp_c": "20C", "rel_humidity_pct": "60"}).text
    hours = errors(send(client, "/reckoner/surface-temperature", {"hours": "[{}]"}, "reckon"))
    assert "reckon-latitude_deg" in hours
    assert "not JSON" in errors(send(client, "/reckoner/surface-temperature", {"hours": "[{"}, "reckon"))["reckon-hours"]


def test_reckonings_are_found_by_what_one_wants_to_know_and_carried_into_a_job(client, job):
    listed = client.get("/reckoner").text
    assert all(listed.count(f'/reckoner/{entry.name}"') == 1 for entry in REGISTRY), "each stands in one group"
    for search, name in (
        ("tubes", "caulk"),
        ("red over", ""),
        ("GALLONS need", "paint-quantity"),
        ("tip gun", "spray-setup"),
        ("condens", "dew-point"),
    ):
        found = re.findall(r'href="[^"]*/reckoner/([\w-]+)"', client.get("/reckoner", params={"q": search}).text)
        assert found == ([name] if name else []), search
    typed = {"object_shadow_m": 9.0, "stick_m": 1.2, "stick_shadow_m": 1.8}
    form = {"typed": json.dumps(typed), "job": job.id}
    # A height goes to the field of a block: 9 / 1.8 x 1.2 = 6 m, 19.7 ft.
    to = send(client, "/reckoner/height-by-shadow/carry", form | {"to": "0"}).headers["hx-redirect"]
    assert f"/jobs/{job.id}/survey/blocks?fill-eaves_height_m=19%27+8" in to
    assert client.get(to).status_code == 200
    noted = send(client, "/reckoner/height-by-shadow/carry", form | {"to": "note"}).headers["hx-redirect"]
    assert "Reckoned, height by shadow: Height 19.7 ft" in client.get(noted).text
    assert "Choose the job" in errors(send(client, "/reckoner/height-by-shadow/carry", form | {"job": ""}, "carry"))["carry-job"]

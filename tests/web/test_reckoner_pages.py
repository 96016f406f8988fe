"""The Reckoner's pages: forms in the reader's units, reckonings found by what one wants to know, answers carried into a job."""

import json
import re

from amber_gable.services.reckonings import REGISTRY
from tests.support.pages import errors, send


def test_the_reckoner_form_keeps_its_words_at_the_field(client):
    bad = {"air_temp_c": "72C", "rel_humidity_pct": "", "pressure_kpa": "101.3"}
    found = errors(send(client, "/reckoner/dew-point", bad, "reckon"))
    assert "Fahrenheit" in found["reckon-air_temp_c"]
    assert found["reckon-rel_humidity_pct"] == "Give rel_humidity_pct."
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

"""Reckonings of step 5: drying by its own integral, drift, and windows held to the contract's sentences."""

import copy
import json
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from amber_gable.services.reckonings import find, reckon
from tests.support.reckonings import refused

WINDOWS, DRYING = find("windows").example, find("drying").example


def answer(name, values):
    return reckon(find(name), values).model_dump(by_alias=True)


def steady(hours=60, **over):
    """A request of weather that never changes, and a label that any of it would please."""
    row = {"air_temp_c": 20.0, "rel_humidity_pct": 50.0, "wind_m_s": 2.0, "cloud_pct": 100.0, "wind_from_deg": 200.0, "rain_mm": 0.0,
           "rain_probability_pct": 0.0}  # fmt: skip
    start = datetime.fromisoformat("2026-06-10T00:00:00-05:00")
    listed = [{"time": (start + timedelta(hours=n)).isoformat(), **row, **over} for n in range(hours)]
    return {**copy.deepcopy(WINDOWS), "hours": listed}


def hour(found, n):
    return found["surfaces"][0]["hours"][n]


def rules(of_hour):
    return [r["rule"] for r in of_hour["reasons"]]


def test_times_are_reached_when_the_integral_equals_the_label():
    air = {"air_temp_c": 15.0, "rel_humidity_pct": 40.0, "wind_m_s": 3.0, "surface_temp_c": 15.0}
    hours = [{"time": f"2026-09-15T{h:02d}:00:00+00:00", **air} for h in range(24)]
    given = {
        "kind": "alkyd",
        "label_touch_h": 2.0,
        "label_recoat_h": 6.0,
        "label_rain_h": 30.0,
        "start": "2026-09-15T02:30:00+00:00",
        "hours": hours,
    }
    found = answer("drying", given)
    # Ten degrees under the reference: half as fast, so 2 h take 4 and 6 take 12; 30 lie beyond the data.
    assert datetime.fromisoformat(found["touch_dry_at"]) == datetime.fromisoformat("2026-09-15T06:30:00+00:00")
    assert datetime.fromisoformat(found["recoat_at"]) == datetime.fromisoformat("2026-09-15T14:30:00+00:00")
    assert (found["rain_ready_at"], found["slowest_factor"]) == (None, "temperature")
    # Warm, dry and windy: the label's own times, and nothing holds it up.
    warm = [h | {"surface_temp_c": 30.0, "air_temp_c": 28.0} for h in hours]
    quick = answer("drying", given | {"hours": warm, "label_rain_h": 4.0, "kind": "waterborne"})
    assert quick["rain_ready_at"].startswith("2026-09-15T06:30")
    assert quick["slowest_factor"] == "none"
    damp = [h | {"surface_temp_c": 24.0, "air_temp_c": 24.0, "rel_humidity_pct": 90.0, "wind_m_s": 0.0} for h in hours]
    assert answer("drying", given | {"hours": damp, "kind": "waterborne"})["slowest_factor"] == "evaporation"


def test_drying_agrees_with_plain_steps_through_a_changing_day():
    found = answer("drying", DRYING)
    t = np.array([datetime.fromisoformat(h["time"]).timestamp() for h in DRYING["hours"]])
    start = datetime.fromisoformat(DRYING["start"]).timestamp()

    def es(c):
        # Magnus over water, WMO-No. 8.
        return 611.2 * np.exp(17.62 * c / (243.12 + c))

    done, at = 0.0, start
    while done < DRYING["label_recoat_h"]:
        air, rh, wind, wall = (
            np.interp(at, t, [h[k] for h in DRYING["hours"]]) for k in ("air_temp_c", "rel_humidity_pct", "wind_m_s", "surface_temp_c")
        )
        draw = (es(wall) - rh / 100 * es(air)) / (0.5 * es(25.0)) * (1 + 0.5 * wind) / 1.5
        done += min(1.0, 2 ** ((wall - 25) / 10), max(draw, 0.0)) * 5 / 3600
        at += 5
    # Five-second steps and another formula for saturation: a minute.
    assert datetime.fromisoformat(found["recoat_at"]).timestamp() == pytest.approx(at, abs=60)


def test_a_fair_day_is_open_and_the_night_is_dark():
    found = answer("windows", steady())
    assert hour(found, 12)["state"] == "open"
    assert hour(found, 12)["reasons"] == []
    assert (hour(found, 1)["state"], rules(hour(found, 1))) == ("shut", ["daylight"])
    assert [h["time"] for h in found["surfaces"][0]["hours"]] == [h["time"] for h in steady()["hours"]]
    # The coat must fit into daylight: the last start lies its own length before dark.
    (today, *_) = found["surfaces"][0]["starts"]
    begin, until = (datetime.fromisoformat(today[k]) for k in ("from", "until"))
    assert (begin.hour, begin.utcoffset()) == (5, timedelta(hours=-5))
    assert timedelta(hours=12) < until - begin < timedelta(hours=14)
    longer = answer("windows", steady() | {"coat_h": 3.0})["surfaces"][0]["starts"][0]
    assert until - datetime.fromisoformat(longer["until"]) == timedelta(hours=1)


@pytest.mark.parametrize(
    ("over", "product", "rule", "state"),
    [
        ({"air_temp_c": 8.0}, {}, "air-temp-low", "shut"), ({"air_temp_c": 12.0, "rel_humidity_pct": 30.0}, {}, "air-temp-low", "tight"),
        ({"rel_humidity_pct": 90.0}, {"min_dew_margin_c": 0.0}, "humidity", "shut"), ({"rel_humidity_pct": 80.0}, {}, "humidity", "tight"),
        ({"wind_m_s": 9.5}, {}, "wind", "shut"), ({"wind_m_s": 3.0, "wind_gust_m_s": 7.0}, {}, "wind", "tight"),
        ({"rain_probability_pct": 31.0}, {}, "rain", "shut"), ({"rain_probability_pct": 15.0}, {"rain_free_h": 3.0}, "rain", "tight"),
        ({"rain_mm": 0.2}, {}, "rain", "shut"), ({}, {"hold_min_surface_temp_c": 25.0}, "hold", "shut"),
        ({}, {"max_surface_temp_c": 28.0}, "surface-temp-high", "tight"), ({}, {"min_dew_margin_c": 21.0}, "dew-margin", "shut"),
    ],
)  # fmt: skip
def test_each_limit_speaks_in_its_own_name(over, product, rule, state):
    given = steady(**over)
    given["product"] = given["product"] | product
    noon = hour(answer("windows", given), 12)
    assert rule in rules(noon)
    assert noon["state"] == state
    margin = next(r["margin"] for r in noon["reasons"] if r["rule"] == rule)
    assert (margin < 0) == (state == "shut")


def test_rain_is_one_chance_over_its_blocks_and_an_amount_shuts_the_hours_before():
    given = steady(rain_probability_pct=12.0)
    given["product"] = given["product"] | {"rain_free_h": 7.0}
    reason = next(r for r in hour(answer("windows", given), 12)["reasons"] if r["rule"] == "rain")
    # Two spells, of six hours and of one: 1 - 0.88² = 22.56 %.
    assert reason["value"] == pytest.approx(22.56)
    assert reason["limit"] == 30.0
    shower = steady(wind_from_deg=90.0, rel_humidity_pct=80.0)
    shower["hours"][15]["rain_mm"] = 5.0
    found = answer("windows", shower)
    # Four rain-free hours from every quarter of the hour: what is put on from 11:00 on is rained on.
    assert [n for n in range(9, 16) if "rain" in rules(hour(found, n))] == [11, 12, 13, 14, 15]
    wet = [n for n in range(24) if hour(found, n)["wet"]]
    assert wet[0] == 16
    assert len(wet) > 1, "a wall is not ready the hour the rain stops"
    assert "wet" in rules(hour(found, 16))


def test_what_lies_beyond_the_data_is_shut():
    found = answer("windows", steady(hours=48))
    last = hour(found, 47)
    assert last["state"] == "shut"
    assert "forecast-end" in rules(last)
    # Hold of 12 h: from noon of the second day on it is not known.
    assert "forecast-end" not in rules(hour(found, 34))
    assert "forecast-end" in rules(hour(found, 36))


def test_the_sun_rule_decides_what_a_warm_wall_in_the_sun_is():
    given = steady(cloud_pct=0.0, air_temp_c=24.0, rel_humidity_pct=35.0)
    given["surfaces"] = [{"name": "East wall", "azimuth_deg": 90.0, "tilt_deg": 90.0, "solar_absorptance": 0.7, "cladding": "wood"}]
    given["product"] = given["product"] | {"max_surface_temp_c": 60.0}
    capped, shaded = (hour(answer("windows", given | {"sun_rule": r}), 8) for r in ("surface-cap", "shade"))
    assert (capped["state"], shaded["state"]) == ("tight", "shut")
    assert "sun" in rules(capped)
    assert "sun" in rules(shaded)


@pytest.mark.parametrize(
    ("first", "offsets"), [("2026-03-07T00:00:00-06:00", ("-06:00", "-05:00")), ("2026-10-31T00:00:00-05:00", ("-05:00", "-06:00"))]
)
def test_no_hour_is_lost_or_doubled_when_the_clocks_change(first, offsets):
    """Chicago springs forward on 8 March and falls back on 1 November 2026; the sun does not."""
    start = datetime.fromisoformat(first).astimezone(UTC)
    given = steady(hours=72)
    for n, one in enumerate(given["hours"]):
        one["time"] = (start + timedelta(hours=n)).isoformat()
    found = answer("windows", given)["surfaces"][0]
    assert len(found["hours"]) == 72
    days = [(datetime.fromisoformat(s["from"]), datetime.fromisoformat(s["until"])) for s in found["starts"]]
    assert {d[0].isoformat()[-6:] for d in days[:2]} == set(offsets)
    # From one day to the next the first start moves by the minutes of the season, not by an hour of the clock.
    gap = days[1][0] - days[0][0]
    assert abs(gap - timedelta(hours=24)) <= timedelta(minutes=15)


def test_polar_day_and_night():
    summer, winter = steady(hours=60), steady(hours=60)
    for n, (light, dark) in enumerate(zip(summer["hours"], winter["hours"], strict=True)):
        light["time"] = (datetime.fromisoformat("2026-06-20T00:00:00+00:00") + timedelta(hours=n)).isoformat()
        dark["time"] = (datetime.fromisoformat("2026-12-20T00:00:00+00:00") + timedelta(hours=n)).isoformat()
    north = {"latitude_deg": 78.2, "longitude_deg": 15.6, "time_zone": "Arctic/Longyearbyen"}
    days, nights = (answer("windows", given | north)["surfaces"][0] for given in (summer, winter))
    assert not any("daylight" in rules(h) for h in days["hours"])
    assert all("daylight" in rules(h) for h in nights["hours"])
    assert nights["starts"] == []


@given(st.floats(35, 70), st.floats(1, 25))
@settings(max_examples=12)
def test_drier_air_never_shuts_an_hour_by_dew(humidity, drier):
    damp, dry = (
        answer("windows", steady(hours=48, rel_humidity_pct=round(h, 2), cloud_pct=0.0)) for h in (humidity, max(humidity - drier, 2))
    )
    by_dew = ("dew-margin", "wet", "humidity")
    for one, other in zip(damp["surfaces"][0]["hours"], dry["surfaces"][0]["hours"], strict=True):
        broken = {r["rule"] for r in other["reasons"] if r["margin"] < 0 and r["rule"] in by_dew}
        assert broken <= {r["rule"] for r in one["reasons"] if r["margin"] < 0}
        assert other["dew_margin_c"] >= one["dew_margin_c"] - 1e-6


@given(st.floats(-15, 25), st.floats(0.5, 10))
@settings(max_examples=12)
def test_warmer_air_never_cools_a_wall(temp, warmer):
    cool, warm = (answer("windows", steady(hours=30, air_temp_c=round(t, 2), cloud_pct=30.0)) for t in (temp, temp + warmer))
    pairs = zip(cool["surfaces"][0]["hours"], warm["surfaces"][0]["hours"], strict=True)
    assert all(b["surface_temp_c"] >= a["surface_temp_c"] - 1e-6 for a, b in pairs)


@pytest.mark.parametrize(
    ("name", "stricter"),
    [
        ("min_surface_temp_c", 16.0), ("max_surface_temp_c", 24.0), ("min_air_temp_c", 21.5), ("max_rel_humidity_pct", 54.0),
        ("min_dew_margin_c", 14.0), ("rain_free_h", 14.0), ("hold_h", 36.0), ("touch_h", 6.0),
    ],
)  # fmt: skip
def test_a_stricter_label_never_opens_an_hour(name, stricter):
    order = ("shut", "tight", "open")
    loose = copy.deepcopy(WINDOWS)
    strict = loose | {"product": loose["product"] | {name: stricter}}
    states = [[order.index(h["state"]) for h in answer("windows", b)["surfaces"][0]["hours"]] for b in (loose, strict)]
    assert all(b <= a for a, b in zip(*states, strict=True))
    assert states[0] != states[1], "the limit does speak"


@pytest.mark.parametrize(
    ("change", "field"),
    [
        (lambda b: b["hours"][3].update(air_temp_c=72.0), "hours.3.air_temp_c"),
        (lambda b: b["hours"][3].pop("rain_mm"), "hours.3.rain_mm"),
        (lambda b: b["hours"].__setitem__(2, b["hours"][1]), "hours.2.time"), (lambda b: b.update(time_zone="Nowhere"), "time_zone"),
        (lambda b: b["surfaces"][0].update(cladding="paper"), "surfaces.0.cladding"),
        (lambda b: b["product"].update(touch_h="1"), "product.touch_h"),
        (lambda b: b["product"].update(min_air_temp_c=40.0), "product.min_air_temp_c"), (lambda b: b.update(coat_h=0), "coat_h"),
        (lambda b: b["surfaces"].extend(b["surfaces"] * 100), "surfaces"), (lambda b: b["hours"].extend(b["hours"] * 9), "hours"),
    ],
)  # fmt: skip
def test_windows_refuse_by_the_dotted_field(change, field):
    body = copy.deepcopy(WINDOWS)
    change(body)
    assert refused("windows", body)[0] == field


def test_a_start_outside_the_data_is_refused():
    assert refused("drying", DRYING | {"start": "2026-09-16T11:00:00-05:00"})[0] == "start"


def test_the_api_says_from_and_the_page_shows_every_hour(client: TestClient):
    found = client.post("/api/reckon/windows", content=json.dumps(WINDOWS)).json()
    assert set(found["surfaces"][0]["starts"][0]) == {"from", "until"}
    page = client.get("/reckoner/windows").text
    assert "East wall" in page
    sent = {k: json.dumps(v) if isinstance(v, dict | list) else str(v) for k, v in WINDOWS.items()}
    shown = client.post("/reckoner/windows", data=sent, headers={"hx-request": "true"}).text
    assert shown.count("<tr>") == 1 + len(WINDOWS["hours"])

"""Weather files: units by the heads, faults by row and column, gaps bridged or the rest left out."""

import json
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.errors import FieldErrors
from amber_gable.exchange.weatherfile import read_weather

ZONE = ZoneInfo("America/Chicago")
HEAD = "time,air temp (°C),humidity (%),wind (m/s),cloud (%),rain (mm)"


def csv_of(*rows: str, head: str = HEAD) -> bytes:
    return "\n".join([head, *rows]).encode()


GOOD = ("2026-09-15T06:00,12.5,92,1.0,20,0", "2026-09-15T07:00,13.0,90,1.2,20,0", "2026-09-15T08:00,14.5,84,1.5,30,0.4")


def faults(content: bytes) -> dict[str, str]:
    with pytest.raises(FieldErrors) as caught:
        read_weather(content, ZONE)
    return caught.value.errors


def test_times_without_an_offset_are_the_sites_own():
    found = read_weather(csv_of(*GOOD), ZONE)
    assert [h["time"] for h in found.hours] == [f"2026-09-15T0{n}:00:00-05:00" for n in (6, 7, 8)]
    assert found.hours[2] == {
        "time": "2026-09-15T08:00:00-05:00", "air_temp_c": 14.5, "rel_humidity_pct": 84.0, "wind_m_s": 1.5, "cloud_pct": 30.0,
        "wind_gust_m_s": 1.5, "wind_from_deg": None, "rain_mm": 0.4, "rain_probability_pct": 100.0,
        "thunder_probability_pct": None,
    }  # fmt: skip
    assert (found.filled, found.left_out) == (0, 0)


def test_other_units_separators_and_json_come_to_the_same():
    rows = ("06:00;54,5;92;2,2369;20;0", "07:00;55.4;90;2.68432;20;0", "08:00;58.1;84;3.3554;30;0.015748")
    head = "Time;Temperature (°F);RH (%);Wind speed [mph];Cloud cover (%);Rain (in)"
    us = csv_of(*(f"2026-09-15 {row}" for row in rows), head=head)
    plain = read_weather(csv_of(*GOOD), ZONE).hours
    for one, other in zip(plain, read_weather(us, ZONE).hours, strict=True):
        assert {k: v for k, v in other.items() if k != "time"} == pytest.approx({k: v for k, v in one.items() if k != "time"}, abs=1e-3)
    listed = [{k: v for k, v in h.items() if v is not None} for h in plain]
    assert read_weather(json.dumps({"hours": listed}).encode(), ZONE).hours == plain
    assert read_weather(json.dumps(listed).encode(), ZONE).hours == plain


@pytest.mark.parametrize(
    ("head", "cells", "chances"),
    [
        ("thunder (%)", ("0", "35", ""), [0, 35, 0]), ("Thunder", ("no", "yes", ""), [0, 100, 0]),
        ("thunder", ("0", "1", "0"), [0, 100, 0]),
        ("chance of thunder (percent)", ("5", "80 %", "0"), [5, 80, 0]),
    ],
)  # fmt: skip
def test_thunder_is_a_chance_or_a_yes(head, cells, chances):
    rows = [f"{row},{cell}" for row, cell in zip(GOOD, cells, strict=True)]
    hours = read_weather(csv_of(*rows, head=f"{HEAD},{head}"), ZONE).hours
    assert [h["thunder_probability_pct"] for h in hours] == chances
    assert faults(csv_of(*GOOD, f"2026-09-15T09:00,15,80,1,10,0,{'140' if '%' in head else 'maybe'}", head=f"{HEAD},{head}"))


@pytest.mark.parametrize(
    ("content", "field", "words"),
    [
        (csv_of(*GOOD, "2026-09-15T09:00,72,80,1,10,0"), "row 5, air temp", "Fahrenheit"),
        (csv_of(*GOOD, "2026-09-15T09:00,15,0.8,1,10,0"), "row 5, humidity", "fraction"),
        (csv_of(*GOOD, "2026-09-15T09:00,15,,1,10,0"), "row 5, humidity", "leave the whole hour out"),
        (csv_of(*GOOD, "2026-09-15T09:00,NaN,80,1,10,0"), "row 5, air temp", "not a number"),
        (csv_of(*GOOD, "2026-09-15T08:00,15,80,1,10,0"), "row 5, time", "twice"),
        (csv_of(*GOOD, "2026-09-15T05:00,15,80,1,10,0"), "row 5, time", "sort"),
        (csv_of(*GOOD, "tomorrow,15,80,1,10,0"), "row 5, time", "Write the time"),
        (csv_of(*GOOD, head=HEAD.replace("humidity (%)", "dampness (%)")), "column humidity", "no column"),
        (csv_of(*GOOD, head=HEAD.replace("air temp (°C)", "air temp")), "column air temp", "unit"),
        (csv_of(*GOOD, head=HEAD.replace("(m/s)", "(beaufort)")), "column wind (beaufort)", "beaufort is not known"),
        (csv_of(*GOOD, head=HEAD.replace("rain (mm)", "snow (mm)")), "column rain", "nothing can be said"),
        (b"\xff\xfe\x00", "file", "text"), (b"[1, 2", "file", "read"), (b'{"hours": []}', "file", "list of hours"),
        (b"", "file", "two hours"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_at_its_place(content, field, words):
    found = faults(content)
    assert words in found[field], found


def test_short_gaps_are_bridged_and_long_ones_end_the_file():
    found = read_weather(
        csv_of(*GOOD, "2026-09-15T11:00,16,70,1,10,0", "2026-09-15T16:00,18,60,1,10,0", "2026-09-15T17:00,18,60,1,10,0"), ZONE
    )
    assert (len(found.hours), found.filled, found.left_out) == (4, 2, 2)


@given(st.lists(st.tuples(st.floats(-30, 45), st.floats(1, 100), st.floats(0, 40), st.floats(0, 30)), min_size=2, max_size=30))
def test_what_is_written_is_what_is_read(values):
    start = datetime.fromisoformat("2026-09-15T06:00:00-05:00")
    rows = [f"{(start + timedelta(hours=n)).isoformat()},{t!r},{h!r},{w!r},50,{r!r}" for n, (t, h, w, r) in enumerate(values)]
    found = read_weather(csv_of(*rows), ZONE).hours
    assert [(h["air_temp_c"], h["rel_humidity_pct"], h["wind_m_s"], h["rain_mm"]) for h in found] == values

"""Typical years: read by their kind, refused in words, and held against what painters know of the months."""

from pathlib import Path

import numpy as np
import pvlib
import pytest

from amber_gable.core.air.sun import Place
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.planning.months import hours_by_month
from amber_gable.core.wall.climate import ClimateSurface
from amber_gable.core.windows import HouseRules, SiteLimits
from amber_gable.errors import FieldErrors
from amber_gable.exchange.typicalyear import HOURS, YEAR, read_typical_year

SHIPPED = Path(pvlib.__file__).parent / "data"
MILD, COLD = SHIPPED / "723170TYA.CSV", SHIPPED / "703165TY.csv"
KNOWN = shipped()


def epw_of(year) -> bytes:
    """Write a year in the other kind, by its published layout: what is read from it must be the same."""
    place = (year.latitude_deg, year.longitude_deg, year.utc_offset_h, year.altitude_m)
    head = [",".join(["LOCATION,Somewhere,-,-,TMY3,0", *(f"{v:g}" for v in place)])]
    head += ["DESIGN CONDITIONS,0", "TYPICAL/EXTREME PERIODS,0", "GROUND TEMPERATURES,0", "HOLIDAYS/DAYLIGHT SAVINGS,No,0,0,0"]
    head += ["COMMENTS 1,", "COMMENTS 2,", "DATA PERIODS,1,1,Data,Sunday,1/1,12/31"]
    c, rows = year.columns, []
    for h in range(HOURS):
        day = np.datetime64(f"{YEAR}-01-01") + np.timedelta64(h // 24, "D")
        _, month, date = str(day).split("-")
        rain = f"{c['rain_mm'][h]:g}"
        wind = "999" if np.isnan(c["wind_from_deg"][h]) else f"{c['wind_from_deg'][h]:g}"
        rows.append(
            f"{YEAR},{int(month)},{int(date)},{h % 24 + 1},60,src,{c['air_temp_c'][h]:g},5,{c['rel_humidity_pct'][h]:g},"
            f"101325,0,0,300,0,0,0,0,0,0,0,"
            f"{wind},{c['wind_m_s'][h]:g},{c['cloud_pct'][h] / 10:g},5,10,1000,9,999999999,10,0.1,0,0,0.2,{rain},1"
        )
    return "\n".join([*head, *rows]).encode()


def test_both_kinds_are_read_to_the_same_year():
    tmy = read_typical_year(MILD.read_bytes())
    assert {len(v) for v in tmy.columns.values()} == {HOURS}
    assert -10 < tmy.utc_offset_h < 0
    epw = read_typical_year(epw_of(tmy))
    assert (epw.latitude_deg, epw.longitude_deg, epw.utc_offset_h) == (tmy.latitude_deg, tmy.longitude_deg, tmy.utc_offset_h)
    for name, values in tmy.columns.items():
        assert np.allclose(epw.columns[name], values, atol=0.06, equal_nan=True), name


def test_rain_is_that_of_an_hour_in_millimetres():
    # A lowland in the rain of westerlies and summer storms: about a metre a year (climate normals); the file has tenths.
    rain = read_typical_year(MILD.read_bytes()).columns["rain_mm"]
    assert 700 < rain.sum() < 1300
    assert rain.max() < 80
    assert rain.max() > 20


@pytest.mark.parametrize("content", [b"", b"time,air\n1,2", b"LOCATION,nowhere", MILD.read_bytes()[:200_000]])
def test_what_is_no_year_is_refused_in_words(content):
    with pytest.raises(FieldErrors) as caught:
        read_typical_year(content)
    assert set(caught.value.errors) == {"year"}


def months_of(file: Path) -> np.ndarray:
    year = read_typical_year(file.read_bytes())
    wood = KNOWN.claddings["wood"]
    walls = [ClimateSurface.clad(n, a, 90, 0.6, wood, is_heated=True) for n, a in zip("NESW", (0, 90, 180, 270), strict=True)]
    rules = HouseRules(9.0, 30.0, "surface-cap", KNOWN.limits, KNOWN.tight, SiteLimits())
    place = Place(year.latitude_deg, year.longitude_deg, year.altitude_m)
    paint = KNOWN.products["rivermark-exterior-satin"]
    return hours_by_month(place, year.columns, year.utc_offset_h, YEAR, walls, [paint] * 4, [rules] * 4, (7.0, 18.0)).mean(axis=1)


@pytest.mark.takes(8)
def test_the_months_are_as_painters_know_them():
    mild = months_of(MILD)
    # Spring and early autumn are the busy windows (handbook 3): May and September have the most hours, July is hot, January shut.
    assert set(np.argsort(-mild)[:2]) == {4, 8}
    assert mild[6] < 0.6 * mild[4]
    assert mild[0] < 0.05 * mild[4]
    cold = months_of(COLD)
    # A cool wet coast: nothing from November to March, the summer alone.
    assert cold[[10, 11, 0, 1, 2]].sum() < 1
    assert int(np.argmax(cold)) == 6

"""The sun against pvlib plane by plane, and against what must always hold."""

from datetime import UTC, datetime, timedelta, timezone
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
import pytest
from pvlib import irradiance, location, solarposition

from amber_gable.core.air import sun
from tests.support.weathers import HERON_FERRY

DAY = datetime(2026, 9, 15, tzinfo=UTC).timestamp() + np.arange(0, 86_400, 1800.0)
CHICAGO = ZoneInfo("America/Chicago")


@pytest.mark.parametrize("cloud_pct", [0.0, 60.0])
@pytest.mark.parametrize(("azimuth", "tilt"), [(0, 90), (78, 90), (180, 90), (258, 90), (180, 0), (135, 35), (0, 180)])
def test_planes_agree_with_pvlib(azimuth, tilt, cloud_pct):
    sky = sun.sky(HERON_FERRY, DAY, cloud_pct)
    light = sun.on_planes(sky, azimuth, tilt)
    times = pd.DatetimeIndex(pd.to_datetime(DAY, unit="s", utc=True))
    site = location.Location(43.80, -91.25, altitude=205)
    position = site.get_solarposition(times)
    ghi = site.get_clearsky(times)["ghi"] * (1 - 0.75 * (cloud_pct / 100) ** 3.4)
    split = irradiance.erbs(ghi, position["zenith"], times)
    theirs = irradiance.get_total_irradiance(
        tilt, azimuth, position["apparent_zenith"], position["azimuth"], split["dni"], ghi, split["dhi"],
        dni_extra=irradiance.get_extra_radiation(times), albedo=0.2, model="haydavies",
    )  # fmt: skip
    expected = theirs["poa_global"].fillna(0).to_numpy()
    assert light.total_w_m2[0] == pytest.approx(expected, abs=0.01)
    angle = irradiance.aoi(tilt, azimuth, position["apparent_zenith"], position["azimuth"]).to_numpy()
    assert light.incidence_deg[0] == pytest.approx(angle, abs=1e-6)
    seen = (angle < 90) & (position["apparent_elevation"] > 0).to_numpy() & (split["dni"] >= 120).to_numpy()
    assert (light.direct_sun[0] == seen).all()


@pytest.mark.parametrize("day", ["2026-03-20", "2026-06-21", "2026-09-15", "2026-12-21"])
def test_rise_and_set_agree_with_pvlib(day):
    # On the meridian of Greenwich; elsewhere pvlib may answer for the neighbouring UTC date.
    rise, sets = sun.rise_and_set(sun.Place(43.8, 0.0), datetime.fromisoformat(day).replace(hour=12, tzinfo=UTC))
    theirs = solarposition.sun_rise_set_transit_spa(pd.DatetimeIndex([day], tz="UTC"), 43.8, 0.0).iloc[0]
    # Both take refraction and radius as 0.833°; SPA interpolates the day, we search it.
    assert abs(rise.timestamp() - theirs["sunrise"].timestamp()) < 5
    assert abs(sets.timestamp() - theirs["sunset"].timestamp()) < 5


@pytest.mark.parametrize(("lat", "lon", "zone"), [(43.8, -91.25, "America/Chicago"), (-33.9, 151.2, "Australia/Sydney")])
@pytest.mark.parametrize("month", [3, 6, 9, 12])
def test_rise_and_set_stand_on_the_horizon_within_their_date(lat, lon, zone, month):
    local = datetime(2026, month, 21, 12, tzinfo=ZoneInfo(zone))
    rise, sets = sun.rise_and_set(sun.Place(lat, lon), local)
    assert rise.date() == sets.date() == local.date()
    assert rise < sets
    heights = solarposition.get_solarposition(pd.DatetimeIndex([rise, sets]), lat, lon)["elevation"]
    # 0.003° is less than a second of the sun's way.
    assert heights.to_numpy() == pytest.approx([-0.833, -0.833], abs=0.003)


def test_polar_day_and_night_have_no_rise_or_set():
    north = sun.Place(78.2, 15.6)
    for month in (6, 12):
        assert sun.rise_and_set(north, datetime(2026, month, 21, 12, tzinfo=timezone(timedelta(hours=1)))) == (None, None)
    assert sun.sky(north, np.array([datetime(2026, 6, 21, 0, tzinfo=UTC).timestamp()]), 0).is_day.all()
    assert not sun.sky(north, np.array([datetime(2026, 12, 21, 12, tzinfo=UTC).timestamp()]), 0).is_day.any()


def test_rise_belongs_to_the_offset_of_the_time_given():
    # The same instant as a date in Chicago and, written in UTC, already the next one.
    local = datetime(2026, 9, 15, 22, tzinfo=CHICAGO)
    assert sun.rise_and_set(HERON_FERRY, local)[0].day == 15
    assert sun.rise_and_set(HERON_FERRY, local.astimezone(UTC))[0].day == 16


@pytest.mark.parametrize("day", [datetime(2026, 3, 8, 12), datetime(2026, 11, 1, 12)])
def test_clock_changes_move_neither_sunrise_nor_the_length_of_the_day(day):
    rise, sets = sun.rise_and_set(HERON_FERRY, day.replace(tzinfo=CHICAGO))
    before = sun.rise_and_set(HERON_FERRY, (day - timedelta(days=2)).replace(tzinfo=CHICAGO))
    # Days lengthen or shorten by about three minutes at this latitude.
    assert abs((sets - rise) - (before[1] - before[0])) < timedelta(minutes=8)


def test_east_and_west_mirror_about_solar_noon():
    noon = solarposition.sun_rise_set_transit_spa(pd.DatetimeIndex(["2026-06-21"], tz="UTC"), 43.8, -91.25)["transit"].iloc[0]
    offsets = np.arange(1, 7) * 3600.0
    before = sun.on_planes(sun.sky(HERON_FERRY, noon.timestamp() - offsets, 0), 90, 90).total_w_m2[0]
    after = sun.on_planes(sun.sky(HERON_FERRY, noon.timestamp() + offsets, 0), 270, 90).total_w_m2[0]
    # The sun's declination moves a little within the day.
    assert before == pytest.approx(after, rel=0.01)


def test_hemispheres_swap_which_wall_is_shaded():
    noon = np.array([datetime(2026, 12, 21, 12, tzinfo=UTC).timestamp()])
    for latitude, sunny, shaded in ((44.0, 180, 0), (-44.0, 0, 180)):
        light = sun.on_planes(sun.sky(sun.Place(latitude, 0.0), noon, 0), [sunny, shaded], [90, 90])
        assert light.direct_sun[:, 0].tolist() == [True, False]


def test_cloud_takes_light_away_as_its_formula_says():
    clear, overcast = (sun.sky(HERON_FERRY, DAY, c).global_w_m2.max() for c in (0, 100))
    assert overcast == pytest.approx(clear * 0.25)
    # Under an overcast sky nobody casts a shadow.
    assert not sun.on_planes(sun.sky(HERON_FERRY, DAY, 100), 180, 90).direct_sun.any()

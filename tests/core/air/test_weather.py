"""Weather that cannot be computed with is refused at its hour; gaps up to three hours are bridged."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from amber_gable.core.air.weather import Grid, Weather, WeatherError
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.planning.advice import best_next, dry_from, first_dry
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.wall.wetness import rain_on_surfaces_mm_h
from amber_gable.core.windows import SHUT, HouseRules, find_windows
from tests.support.weathers import HERON_FERRY, MIDNIGHT_UTC, september, steady


def weather(hours: list[float], **values: np.ndarray) -> Weather:
    n = len(hours)
    base = {"air_temp_c": np.linspace(10, 20, n), "rel_humidity_pct": np.full(n, 50.0), "wind_m_s": np.ones(n), "cloud_pct": np.zeros(n)}
    return Weather([MIDNIGHT_UTC + timedelta(hours=h) for h in hours], **(base | values))


@pytest.mark.parametrize(
    ("hours", "field", "words"),
    [
        ([0, 1, 1, 2], "hours.2.time", "rise from hour to hour"),
        ([0, 2, 1, 3], "hours.2.time", "rise from hour to hour"),
        ([0, 1, 4.5, 5], "hours.2.time", "3.5 h without weather"),
        ([0], "hours", "at least two"),
        (list(range(2401)), "hours", "at most 2400"),
    ],
)
def test_times_out_of_order_or_too_far_apart(hours, field, words):
    with pytest.raises(WeatherError, match=words) as caught:
        weather(hours)
    assert caught.value.field == field


def test_a_missing_value_is_named():
    with pytest.raises(WeatherError) as caught:
        weather([0, 1, 2], air_temp_c=np.array([1.0, np.nan, 2.0]))
    assert caught.value.field == "hours.1.air_temp_c"


def test_a_gap_of_three_hours_is_a_straight_line():
    gappy = weather([0, 3, 4], air_temp_c=np.array([10.0, 16.0, 20.0]))
    grid = Grid.over(gappy)
    assert len(grid.epoch_s) == 17
    assert grid.sampled(gappy, gappy.air_temp_c)[[0, 4, 12, 16]].tolist() == [10.0, 12.0, 16.0, 20.0]
    assert grid.at_listed(gappy, grid.sampled(gappy, gappy.air_temp_c)).tolist() == [10.0, 16.0, 20.0]


def test_rain_belongs_to_its_hour_and_a_missing_hour_is_dry():
    gappy = weather([0, 3, 4], rain_mm=np.array([2.0, 0.0, 0.0]))
    climate = simulate(HERON_FERRY, gappy, [ClimateSurface("s", 180, 90, 0.5, 12.0)])
    assert climate.rain_mm_h[:4].tolist() == [2.0] * 4
    assert climate.rain_mm_h[4:].max() == 0


def test_driving_rain_wets_the_windward_wall_and_spares_the_lee():
    rain, wind, south = np.array([2.0]), np.array([5.0]), np.array([180.0])
    on = rain_on_surfaces_mm_h(rain, wind, south, [180, 90, 0, 0], [90, 90, 90, 0])[:, 0]
    # ISO 15927-3: 0.222 x 5 x 2^0.88 = 2.04 mm/h, but no more than falls.
    assert on[0] == pytest.approx(2.0)
    assert on[1] == on[2] == pytest.approx(0.1)
    assert on[3] == pytest.approx(2.0)
    assert rain_on_surfaces_mm_h(rain, wind, None, [0], [90])[0, 0] == pytest.approx(0.222 * 5 * 2**0.88 / 2)


def test_advice_names_the_wall_that_dries_and_opens_first():
    surfaces = [ClimateSurface(f"{a}", a, 90, 0.7, 12.0, 0.4) for a in (348, 78, 168, 258)]
    climate = simulate(HERON_FERRY, september(120), surfaces)
    rules = HouseRules(9.0, 30.0, "surface-cap", shipped().limits, shipped().tight)
    windows = find_windows(climate, shipped().products["rivermark-exterior-satin"], rules)
    dawn = 4 * (24 + 11)
    all_dry, wet = dry_from(windows, dawn)
    assert wet == [0, 1, 2, 3]
    assert first_dry(windows, wet, dawn)[0] == 1
    assert not climate.wet[:, all_dry].any()
    assert climate.wet[:, all_dry - 1].any()
    run = best_next(windows, dawn)
    assert run.first > dawn
    assert (windows.states[run.surface, run.first : run.last] != SHUT).all()
    assert not run.is_open_now
    assert best_next(windows, windows.states.shape[1] - 8) is None


def test_a_day_at_the_clock_change_loses_no_hour():
    start = datetime(2026, 11, 1, 4, tzinfo=UTC)  # 23:00 on Saturday in Chicago; clocks go back at 07 UTC
    climate = simulate(HERON_FERRY, steady(30, start=start), [ClimateSurface("s", 180, 90, 0.5, 12.0)])
    assert np.diff(climate.grid.epoch_s).tolist() == [900.0] * (29 * 4)

"""Moisture under the paint: the relaxation against plain steps, boards and masonry against what painters know."""

import numpy as np
import pytest

from amber_gable.core.air.humid import vapour_pressure_pa
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, Observation, simulate
from amber_gable.core.wall.moisture import moisture_pct, relaxed
from amber_gable.core.wall.wood_moisture import equilibrium_moisture_pct
from tests.support.weathers import HERON_FERRY, september, steady

STOCKS, WOOD = shipped().stocks, shipped().claddings["wood"]
DAYS = 8
COUNT = 96 * DAYS + 1


def through(stock: str, *, rain_h: tuple[float, float] | None = None, observations=(), air_c=20.0, humidity=55.0):
    """Moisture in steady air, soaked by rain for some hours."""
    water, falls = np.zeros(COUNT), np.zeros(COUNT)
    if rain_h:
        part = slice(int(4 * rain_h[0]), int(4 * rain_h[1]))
        water[part], falls[part] = 0.4, 1e-3
    air = np.full(COUNT, air_c)
    vapour = np.full(COUNT, float(vapour_pressure_pa(air_c, humidity)))
    return moisture_pct(STOCKS[stock], air, vapour, np.full(COUNT, 1.0), water, falls, 900.0, observations)


def test_relaxation_is_that_of_plain_steps_however_fast_and_long():
    rng = np.random.default_rng(1)
    target, rate = rng.uniform(5, 28, (2, 3000)), 1 / rng.choice([600.0, 3600 * 8, 3600 * 56], (2, 3000))
    found = relaxed(np.array([10.0, 20.0]), target, rate, 900.0)
    value = np.array([10.0, 20.0])
    for q in range(3000):
        assert found[:, q] == pytest.approx(value, abs=1e-9)
        value = target[:, q] + (value - target[:, q]) * np.exp(-rate[:, q] * 900)


def test_left_alone_wood_comes_to_the_wood_handbooks_equilibrium():
    # Wood Handbook, table 4-2: 21.1 °C and 55 %: 10.1 %.
    found = through("wood-open", air_c=21.1)
    assert found[-1] == pytest.approx(10.1, abs=0.15)
    assert found[-1] == pytest.approx(float(equilibrium_moisture_pct(21.1, 55.0)), abs=0.01)


def test_a_soaked_bare_board_takes_about_three_days():
    # Handbook 3: "expect about three sunny days after a soaking".
    found = through("wood-open", rain_h=(10, 34))
    dry = np.flatnonzero(found[4 * 34 :] <= 15)[0] / 96
    assert found[4 * 34] > 25
    assert 2 <= dry <= 4
    assert through("wood-painted", rain_h=(10, 34)).max() < 18, "the old film keeps most of it out"


@pytest.mark.parametrize(("stock", "least_h", "most_h"), [("render", 10, 30), ("brick", 36, 84), ("thick-masonry", 72, 170)])
def test_masonry_dries_after_a_wash_by_how_thick_it_is(stock, least_h, most_h):
    # Handbook 5: a floor 48-72 h; 2: masonry can need weeks. Good drying: 25 °C, 50 %.
    washed = through(stock, observations=[(0, STOCKS[stock].washed_pct)], air_c=25.0, humidity=50.0)
    ready_h = np.flatnonzero(washed <= STOCKS[stock].max_pct)[0] / 4
    assert least_h <= ready_h <= most_h
    cold = through(stock, observations=[(0, STOCKS[stock].washed_pct)], air_c=8.0, humidity=75.0)
    assert (cold <= STOCKS[stock].max_pct).sum() < (washed <= STOCKS[stock].max_pct).sum()


def test_a_meter_sets_it_anew_and_the_weather_goes_on_from_there():
    free, read = through("wood-open"), through("wood-open", observations=[(96, 22.0)])
    assert np.array_equal(free[:96], read[:96])
    assert read[96] == 22
    # By what is left of an error after one time constant.
    later = 96 + int(4 * STOCKS["wood-open"].dries_h)
    assert (read[later] - free[later]) / (22 - free[96]) == pytest.approx(np.exp(-1), rel=0.02)


def test_dew_soaks_nothing_and_rain_does():
    board = ClimateSurface("deck", 0, 0, 0.6, 12.0, WOOD.water_store_mm, stock=STOCKS["wood-open"])
    dewy = simulate(HERON_FERRY, september(96), [board])
    assert dewy.water_kg_m2.max() > 0.1
    assert dewy.moisture_pct.max() < 16
    rain = np.zeros(96)
    rain[30:38] = 2.0
    wet = simulate(HERON_FERRY, september(96, rain_mm=rain), [board]).moisture_pct[0]
    assert wet[4 * 38] > dewy.moisture_pct[0, 4 * 38] + 8


def test_what_was_told_before_the_data_begin_is_left_out():
    board = ClimateSurface("deck", 0, 0, 0.6, 12.0, WOOD.water_store_mm, stock=STOCKS["wood-open"])
    weather = steady(24)
    early = [Observation(0, float(weather.epoch_s[0]) - 7200, 0.2, 25.0)]
    assert np.array_equal(
        simulate(HERON_FERRY, weather, [board], observations=early).moisture_pct, simulate(HERON_FERRY, weather, [board]).moisture_pct
    )

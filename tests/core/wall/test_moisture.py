"""Moisture under the paint: the relaxation against plain steps, boards and masonry against what painters know."""

from dataclasses import replace

import numpy as np
import pytest

from amber_gable.core.air.humid import vapour_pressure_pa
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, Observation, simulate
from amber_gable.core.wall.moisture import first_dry, moisture_pct, paintable_after_wash, relaxed
from amber_gable.core.wall.wood_moisture import equilibrium_moisture_pct
from amber_gable.core.windows import SHUT, HouseRules, SiteLimits, find_windows
from tests.support.weathers import HERON_FERRY, september, steady

STOCKS, WOOD = shipped().stocks, shipped().claddings["wood"]
RULES = HouseRules(9.0, 30.0, "surface-cap", shipped().limits, shipped().tight, SiteLimits())
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


@pytest.mark.parametrize("stock", ["wood-painted", "wood-open", "brick"])
def test_after_a_wash_at_any_hour_a_wall_may_be_painted_when_a_washed_one_is_below_the_limit(stock):
    # The same weather run anew with a wash told at that instant; a shower on the third day soaks it again.
    row, most = STOCKS[stock], STOCKS[stock].max_pct
    water, falls = np.zeros(COUNT), np.zeros(COUNT)
    water[220:240], falls[220:240] = 0.4, 1e-3
    air = np.full(COUNT, 24.0)
    vapour = np.full(COUNT, float(vapour_pressure_pa(24.0, 45.0)))
    given = (air, vapour, np.full(COUNT, 1.0), water, falls, 900.0)
    ready = paintable_after_wash(row, moisture_pct(row, *given), *given, most)
    for at in (0, 37, 150, 230, 400, 700):
        plain = first_dry(moisture_pct(row, *given, [(at, row.washed_pct)]), most, at)
        if plain is None:
            assert np.isinf(ready[at])
        else:
            # Told by the hour: a wash within an hour counts as at its end (in the rain, where a later one soaks less, a little sooner).
            assert plain - 4 <= ready[at] <= plain + 8


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


@pytest.mark.parametrize(("stock", "kind", "least_h"), [
    ("brick", "masonry", 24), ("render", "render-on-masonry", 8), ("wood-open", "wood", 36), ("thick-masonry", "masonry", 48),
])  # fmt: skip
@pytest.mark.parametrize("azimuth", [180, 0])
def test_what_drank_drizzle_for_a_day_does_not_open_when_it_stops(stock, kind, least_h, azimuth):
    rain = np.zeros(168)
    rain[30:58] = 0.3
    damp = replace(
        september(168, mean_c=15, dew_c=8, rain_mm=rain, rain_probability_pct=100.0 * (rain > 0), wind_from_deg=np.full(168, 180.0)),
        cloud_pct=np.where(rain > 0, 100.0, 30.0), wind_m_s=np.full(168, 2.0),
    )  # fmt: skip
    wall = ClimateSurface.clad("wall", azimuth, 90, 0.6, shipped().claddings[kind], is_heated=True, stock=STOCKS[stock])
    stops, most = 4 * 58, STOCKS[stock].max_pct
    climate = simulate(HERON_FERRY, damp, [wall])
    moist = climate.moisture_pct[0]
    assert moist[4 * 29] < most < moist[stops]
    # The lee takes up less, and is sooner dry; neither in the hour in which the drizzle stops.
    assert (moist[stops : stops + 4 * (least_h if azimuth else 4)] > most).all()
    windows = find_windows(climate, shipped().products["rivermark-exterior-satin"], RULES)
    assert (windows.states[0, stops : stops + 8] == SHUT).all()
    assert "moisture" in {r.rule for r in windows.reasons(0, stops + 2) if r.broken}
    # A palm that finds its face dry, or a meter, overrules it from then on.
    at = float(climate.grid.epoch_s[stops + 4 * 12])
    for said in (Observation(0, at, 0.0), Observation(0, at, None, most - 1)):
        again = simulate(HERON_FERRY, damp, [wall], observations=[said]).moisture_pct[0]
        assert (again[stops + 48 : stops + 64] <= most).all()
        assert (again[: stops + 48] == moist[: stops + 48]).all()

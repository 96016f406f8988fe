"""The energy balance against hand-solved steady states, and what must always hold."""

import numpy as np
import pytest
from scipy.optimize import brentq

from amber_gable.core import sun
from amber_gable.core.air import dew_point_c, vapour_pressure_pa
from amber_gable.core.climate import Surface, simulate
from amber_gable.core.surface_temperature import (
    EMISSIVITY,
    STEFAN_BOLTZMANN,
    Forcing,
    Skin,
    convection_w_m2k,
    integrate,
    sky_emissivity,
    steady_gain_w_m2,
)
from tests.core.weathers import HERON_FERRY, september, steady

WOOD, METAL, BRICK = 12.0, 4.0, 150.0


def forcing(hours: float = 48, air_c: float = 20.0, rh: float = 40.0, wind: float = 1.0, light: float = 0.0, cloud: float = 0.0) -> Forcing:
    count = int(hours * 4) + 1
    return Forcing(
        step_s=900.0,
        air_temp_c=np.full(count, air_c),
        vapour_pa=np.full(count, float(vapour_pressure_pa(air_c, rh))),
        dew_point_c=np.full(count, float(dew_point_c(air_c, rh))),
        wind_m_s=np.full(count, wind),
        cloud_frac=np.full(count, cloud),
        irradiance_w_m2=np.full((1, count), light),
    )


def skin(tilt: float = 90.0, absorptance: float = 0.6, capacity_kj: float = WOOD) -> Skin:
    return Skin(np.array([tilt]), np.array([absorptance]), np.array([capacity_kj * 1000]))


@pytest.mark.parametrize("light", [0.0, 300.0, 800.0])
@pytest.mark.parametrize("tilt", [90.0, 20.0])
@pytest.mark.parametrize("capacity", [METAL, WOOD, BRICK])
def test_steady_state_is_the_root_of_the_balance(light, tilt, capacity):
    f, s = forcing(hours=96, light=light, cloud=0.3), skin(tilt, 0.6, capacity)
    view = (1 + np.cos(np.radians(tilt))) / 2
    e_sky = float(sky_emissivity(f.dew_point_c[0], 0.3))
    h = 5.7 + 3.8 * 0.6

    def balance(t: float) -> float:
        air4 = 293.15**4
        long_wave = EMISSIVITY * STEFAN_BOLTZMANN * (view * e_sky * air4 + (1 - view) * air4 - (t + 273.15) ** 4)
        return 0.6 * light + long_wave + h * (20.0 - t)

    assert integrate(f, s).temp_c[0, -1] == pytest.approx(brentq(balance, -20, 120), abs=0.01)


def test_sol_air_relation_of_ashrae():
    # Sol-air: To + aI/ho, no long-wave difference. At ho = 17 W/m2K all in all, radiation gives
    # 4 e s T^3 = 5.3 of it, so the wind gives 11.7: v = (11.7 - 5.7) / 2.28 m/s.
    wind = (17 - 4 * EMISSIVITY * STEFAN_BOLTZMANN * 298.15**3 - 5.7) / (3.8 * 0.6)
    for absorbed in (100.0, 200.0, 300.0):
        f = forcing(air_c=25.0, wind=wind, light=absorbed, cloud=0.0)
        s = skin(absorptance=1.0)
        # A wall that sees only ground at air temperature has no long-wave difference.
        s = Skin(np.array([180.0]), s.solar_absorptance, s.heat_capacity_j_m2k)
        assert integrate(f, s).temp_c[0, -1] == pytest.approx(25 + absorbed / 17, abs=1.0)


@pytest.mark.parametrize("capacity", [METAL, WOOD])
@pytest.mark.parametrize(("air_c", "rh"), [(10.0, 75.0), (18.0, 65.0), (22.0, 62.0)])
def test_clear_calm_nights_pull_light_cladding_below_the_air(capacity, air_c, rh):
    dry = forcing(hours=12, air_c=air_c, rh=rh, wind=0.5)
    assert 4 < dry.dew_point_c[0] < 16
    wall = air_c - integrate(dry, skin(90, capacity_kj=capacity)).temp_c[0, -1]
    roof = air_c - integrate(dry, skin(10, capacity_kj=capacity)).temp_c[0, -1]
    assert 2 <= wall <= 7
    assert roof > wall


def test_a_warm_wall_cools_with_the_time_constant_of_its_mass():
    f = forcing(hours=24, rh=30.0, cloud=1.0)
    step = forcing(hours=24, rh=30.0, cloud=1.0)
    hot = integrate(Forcing(**{**step.__dict__, "irradiance_w_m2": np.full((1, 97), 100.0)}), skin(capacity_kj=BRICK)).temp_c[0, -1]
    cold = integrate(f, skin(capacity_kj=BRICK)).temp_c[0, -1]
    light = np.where(np.arange(97) < 8, 100.0, 0.0)[None, :]
    cooling = integrate(Forcing(**{**f.__dict__, "irradiance_w_m2": light}), skin(capacity_kj=BRICK), spin_up_steps=8).temp_c[0]
    conductance = float(convection_w_m2k(1.0)) + 4 * EMISSIVITY * STEFAN_BOLTZMANN * 293.0**3
    constant_h = BRICK * 1000 / conductance / 3600
    start, later = cooling[8], cooling[8 + round(constant_h * 4)]
    assert hot > start > cold
    # One time constant leaves 1/e of the way; 3 % for rounding to quarter-hours.
    assert (later - cold) / (start - cold) == pytest.approx(np.exp(-1), abs=0.03)


@pytest.mark.parametrize("capacity", [METAL, WOOD, BRICK])
def test_energy_is_neither_made_nor_lost(capacity):
    # Air too dry for dew, so that the whole balance is heat.
    weather = september(24, dew_c=-4.0)
    climate = simulate(HERON_FERRY, weather, [Surface("s", 180, 90, 0.6, capacity)], step_s=60.0)
    assert climate.water_kg_m2.max() == 0
    t = climate.surface_temp_c[0]
    driven = Forcing(
        60.0, climate.air_temp_c, climate.vapour_pa, climate.dew_point_c, climate.wind_m_s,
        np.full(len(t), 0.1), sun.on_planes(climate.sky, 180, 90).total_w_m2,
    )  # fmt: skip
    flux = steady_gain_w_m2(driven, skin(90, 0.6, capacity))[0] - EMISSIVITY * STEFAN_BOLTZMANN * (t + 273.15) ** 4
    flux += convection_w_m2k(driven.wind_m_s) * (driven.air_temp_c - t)
    for hour in range(23):
        part = slice(hour * 60, hour * 60 + 61)
        stored = capacity * 1000 * (t[part][-1] - t[part][0]) / 3600
        assert abs(stored - np.trapezoid(flux[part], dx=60.0) / 3600) < 1.0


def test_dew_gives_off_its_latent_heat():
    f = forcing(hours=10, air_c=15.0, rh=98.0, wind=0.3)
    wet = integrate(f, skin())
    # The same night with no vapour to condense, the same sky: the wall falls lower.
    dry = integrate(Forcing(**{**f.__dict__, "vapour_pa": np.full_like(f.vapour_pa, 1.0)}), skin())
    assert wet.water_kg_m2[0, -1] > 0.05
    assert wet.temp_c[0, -1] > dry.temp_c[0, -1] + 0.5
    assert dry.water_kg_m2.max() == 0


def test_condensation_never_carries_a_thin_skin_past_the_dew_point():
    f = forcing(hours=6, air_c=40.0, rh=100.0, cloud=1.0)
    cold_start = np.where(np.arange(25) < 2, -30.0, 40.0)
    shock = Forcing(**{**f.__dict__, "air_temp_c": cold_start, "vapour_pa": np.where(cold_start < 0, 20.0, f.vapour_pa)})
    temp = integrate(shock, skin(capacity_kj=0.5)).temp_c[0]
    # Seventy degrees within one step: emission, straight over the step, leaves a few too many.
    assert temp.max() < 45
    assert temp[4:].max() < 40.1


def test_water_dries_off_and_never_goes_negative():
    climate = simulate(HERON_FERRY, september(72), [Surface(f"{a}", a, 90, 0.5, WOOD) for a in (0, 90, 180, 270)])
    assert climate.water_kg_m2.min() >= 0
    before_sunrise, afternoon = 4 * (24 + 11), 4 * (24 + 20)
    assert climate.wet[:, before_sunrise].all()
    assert not climate.wet[:, afternoon].any()
    # The east wall gets the first sun and dries before the north and west.
    dry_from = [int(np.argmin(row[before_sunrise:])) for row in climate.wet]
    assert dry_from[1] < min(dry_from[0], dry_from[3])


def test_a_limited_store_lets_the_rest_run_off():
    hours = 12
    rain = np.zeros(hours)
    rain[2:4] = 5.0
    weather = steady(hours, humidity_pct=95.0, cloud_pct=100.0, wind_m_s=4.0, wind_from_deg=np.full(hours, 180.0), rain_mm=rain)
    surfaces = [Surface("lee", 0, 90, 0.5, WOOD, 0.4), Surface("windward", 180, 90, 0.5, WOOD, 0.4)]
    water = simulate(HERON_FERRY, weather, surfaces).water_kg_m2
    assert water.max() == pytest.approx(0.4)
    # Hours after the rain the windward wall is still wet: not ready when the rain stops.
    assert water[1, 4 * 6] > 0.1


def test_steady_rain_makes_a_steady_wall():
    hours = 24
    weather = steady(hours, 15.0, 92.0, 3.0, 100.0, wind_from_deg=np.full(hours, 180.0), rain_mm=np.where(np.arange(hours) >= 8, 1.0, 0.0))
    pair = [Surface("lee", 0, 90, 0.7, METAL, 0.15), Surface("windward", 180, 90, 0.7, WOOD, 0.4)]
    temp = simulate(HERON_FERRY, weather, pair).surface_temp_c[:, 4 * 9 :]
    # No flicker between wet and dry from one quarter-hour to the next.
    turns = np.diff(np.sign(np.diff(temp, axis=1)), axis=1) != 0
    swing = np.abs(np.diff(temp, axis=1))[:, 1:]
    assert (turns & (swing > 0.3)).sum() == 0


def test_warmer_air_never_lowers_a_surface():
    surfaces = [Surface(f"{a}", a, 90, 0.7, c) for a in (0, 180) for c in (METAL, WOOD, BRICK)]
    dew = 8.0
    cool = simulate(HERON_FERRY, september(48, mean_c=16, dew_c=dew), surfaces).surface_temp_c
    warm = simulate(HERON_FERRY, september(48, mean_c=18, dew_c=dew), surfaces).surface_temp_c
    assert (warm >= cool - 0.02).all()


def test_a_darker_colour_is_warmer_in_the_sun_and_equal_at_night():
    pair = [Surface("light", 180, 90, 0.3, WOOD), Surface("dark", 180, 90, 0.9, WOOD)]
    climate = simulate(HERON_FERRY, september(48), pair)
    noon = int(np.argmax(climate.sky.elevation_deg))
    assert climate.surface_temp_c[1, noon] > climate.surface_temp_c[0, noon] + 8
    night = ~climate.sky.is_day & (np.arange(len(climate.air_temp_c)) > 4 * 34)
    assert np.abs(np.diff(climate.surface_temp_c, axis=0))[0, night].min() < 0.1


def test_a_finer_step_changes_little():
    surfaces = [Surface(f"{a}/{c}", a, 90, 0.6, c) for a in (0, 78, 168, 258) for c in (METAL, WOOD, BRICK)]
    coarse = simulate(HERON_FERRY, september(72), surfaces).surface_temp_c[:, ::4]
    fine = simulate(HERON_FERRY, september(72), surfaces, step_s=300).surface_temp_c[:, ::12]
    # But for the minute in which a thin skin dries out, quarter-hours are fine enough.
    assert np.quantile(np.abs(coarse - fine), 0.99) < 0.1
    assert np.abs(coarse - fine).max() < 1.5
    assert np.abs(coarse - fine).mean() < 0.05

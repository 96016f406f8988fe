"""The energy balance against hand-solved steady states, and what must always hold."""

import numpy as np
import pytest
from scipy.optimize import brentq

from amber_gable.core.air import sun
from amber_gable.core.air.humid import dew_point_c, pressure_at_altitude_pa, saturation_pressure_pa, vapour_pressure_pa
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.wall.slab import Inward, Slab
from amber_gable.core.wall.surface_temperature import (
    EMISSIVITY,
    STEFAN_BOLTZMANN,
    Forcing,
    Skin,
    convection_w_m2k,
    integrate,
    sky_emissivity,
    steady_gain_w_m2,
)
from amber_gable.core.wall.wetness import rain_on_surfaces_mm_h
from tests.support.weathers import HERON_FERRY, september, simulated, steady

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
    climate = simulate(HERON_FERRY, weather, [ClimateSurface("s", 180, 90, 0.6, capacity)], step_s=60.0)
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
    climate = simulate(HERON_FERRY, september(72), [ClimateSurface(f"{a}", a, 90, 0.5, WOOD) for a in (0, 90, 180, 270)])
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
    surfaces = [ClimateSurface("lee", 0, 90, 0.5, WOOD, 0.4), ClimateSurface("windward", 180, 90, 0.5, WOOD, 0.4)]
    water = simulate(HERON_FERRY, weather, surfaces).water_kg_m2
    assert water.max() == pytest.approx(0.4)
    # Hours after the rain the windward wall is still wet: not ready when the rain stops.
    assert water[1, 4 * 6] > 0.1


def test_steady_rain_makes_a_steady_wall():
    hours = 24
    weather = steady(hours, 15.0, 92.0, 3.0, 100.0, wind_from_deg=np.full(hours, 180.0), rain_mm=np.where(np.arange(hours) >= 8, 1.0, 0.0))
    pair = [ClimateSurface("lee", 0, 90, 0.7, METAL, 0.15), ClimateSurface("windward", 180, 90, 0.7, WOOD, 0.4)]
    temp = simulate(HERON_FERRY, weather, pair).surface_temp_c[:, 4 * 9 :]
    # No flicker between wet and dry from one quarter-hour to the next.
    turns = np.diff(np.sign(np.diff(temp, axis=1)), axis=1) != 0
    swing = np.abs(np.diff(temp, axis=1))[:, 1:]
    assert (turns & (swing > 0.3)).sum() == 0


def test_warmer_air_never_lowers_a_surface():
    surfaces = [ClimateSurface(f"{a}", a, 90, 0.7, c) for a in (0, 180) for c in (METAL, WOOD, BRICK)]
    dew = 8.0
    cool = simulate(HERON_FERRY, september(48, mean_c=16, dew_c=dew), surfaces).surface_temp_c
    warm = simulate(HERON_FERRY, september(48, mean_c=18, dew_c=dew), surfaces).surface_temp_c
    assert (warm >= cool - 0.02).all()


def test_a_darker_colour_is_warmer_in_the_sun_and_equal_at_night():
    pair = [ClimateSurface("light", 180, 90, 0.3, WOOD), ClimateSurface("dark", 180, 90, 0.9, WOOD)]
    climate = simulate(HERON_FERRY, september(48), pair)
    noon = int(np.argmax(climate.sky.elevation_deg))
    assert climate.surface_temp_c[1, noon] > climate.surface_temp_c[0, noon] + 8
    night = ~climate.sky.is_day & (np.arange(len(climate.air_temp_c)) > 4 * 34)
    assert np.abs(np.diff(climate.surface_temp_c, axis=0))[0, night].min() < 0.1


def test_halving_the_step_moves_no_hour_by_a_third_of_a_degree():
    # Three weeks of fronts, showers and dew; every cladding, walls all round and a metal roof.
    known = shipped().claddings
    faces = [(n, a, 90.0) for n in known for a in (0, 90, 180, 270)] + [("thin-metal", a, 25.0) for a in (0, 180)]
    surfaces = [
        ClimateSurface(f"{n}/{a}", a, t, 0.6, known[n].areal_heat_capacity_kj_m2k, known[n].water_store_mm, slab=known[n].slab)
        for n, a, t in faces
    ]
    for seed in (7, 8, 9):
        weather = simulated(seed, 7)
        coarse = simulate(HERON_FERRY, weather, surfaces).surface_temp_c[:, ::4]
        fine = simulate(HERON_FERRY, weather, surfaces, step_s=450).surface_temp_c[:, ::8]
        assert np.abs(coarse - fine).max() < 0.3


@pytest.mark.parametrize("period_h", [6.0, 24.0])
def test_a_slab_swings_as_carslaw_and_jaeger_say(period_h):
    # A face warmed by a small sine on a slab with an adiabatic back: amplitude q / (h + k m tanh mL), m = sqrt(i w / a).
    slab = shipped().claddings["masonry"].slab
    assert slab is not None
    count = int(period_h * 4 * 8) + 1
    omega, swing = 2 * np.pi / (period_h * 3600), 10.0
    f = forcing(hours=(count - 1) / 4, rh=20.0, cloud=1.0)
    light = 50 + swing * np.sin(omega * 900.0 * np.arange(count))[None, :]
    s = Skin(np.array([180.0]), np.array([1.0]), np.array([1.0]), slabs=(slab,))
    temp = integrate(Forcing(**{**f.__dict__, "irradiance_w_m2": light}), s).temp_c[0]
    m = np.sqrt(1j * omega * slab.capacity_j_m2k / slab.depth_m / slab.conductivity_w_mk)
    mean = temp[count // 2 :].mean()
    loss = float(convection_w_m2k(1.0)) + 4 * EMISSIVITY * STEFAN_BOLTZMANN * (mean + 273.15) ** 3
    expected = abs(swing / (loss + slab.conductivity_w_mk * m * np.tanh(m * slab.depth_m)))
    last = temp[-int(period_h * 4) :]
    # 3 %: five nodes stand for the whole depth.
    assert (last.max() - last.min()) / 2 == pytest.approx(expected, rel=0.03)


@pytest.mark.parametrize("step_s", [60.0, 900.0, 7200.0])
def test_a_slab_loses_no_heat_whatever_the_step(step_s):
    slab = Slab(0.1, 0.72, 150_000.0)
    inward = Inward([slab], step_s)
    inward.start(np.array([20.0]))
    before = inward.behind_c(0)
    given = 0.0
    for face in (60.0, -30.0, 25.0, 25.0):
        drawn = sum(inward.draws_w_m2(np.array([face]))) / 2
        inward.take(np.array([face]))
        given += step_s * float(inward.pull_w_m2k[0] * face - drawn[0])
    stored = float(((inward.behind_c(0) - before) * slab.node_capacity_j_m2k[1:]).sum())
    assert stored == pytest.approx(given, rel=1e-9)
    assert -30 <= inward.behind_c(0).min() <= inward.behind_c(0).max() <= 60


def test_members_of_an_ensemble_go_each_its_own_way():
    weathers = [september(30, mean_c=mean) for mean in (14.0, 18.0)]
    surfaces = [
        ClimateSurface("wood", 90, 90, 0.6, WOOD),
        ClimateSurface("brick", 90, 90, 0.6, BRICK, slab=shipped().claddings["masonry"].slab),
    ]
    alone = [simulate(HERON_FERRY, w, surfaces) for w in weathers]
    joined = Forcing(
        900.0, *(np.stack([getattr(c, n) for c in alone]) for n in ("air_temp_c", "vapour_pa", "dew_point_c", "wind_m_s")),
        np.full((2, len(alone[0].air_temp_c)), 0.1), np.stack([sun.on_planes(c.sky, [90, 90], [90, 90]).total_w_m2 for c in alone]),
        HERON_FERRY.altitude_m,
    )  # fmt: skip
    skins = Skin(np.full(2, 90.0), np.full(2, 0.6), np.array([WOOD, BRICK]) * 1000, np.full(2, np.inf), tuple(s.slab for s in surfaces))
    found = integrate(joined, skins)
    for member, climate in enumerate(alone):
        # Chords are drawn anew for all faces together: a few thousandths of a degree.
        assert np.abs(found.temp_c[member] - climate.surface_temp_c).max() < 0.02


def test_what_was_felt_on_a_wall_overrules_the_store():
    f = forcing(hours=10, air_c=15.0, rh=98.0, wind=0.3)
    dry = integrate(f, skin(), observations=[(0, 16, 0.0)]).water_kg_m2[0]
    wet = integrate(f, skin(), observations=[(0, 16, 0.5)]).water_kg_m2[0]
    assert (dry[16], wet[16]) == (0, 0.5)
    assert (dry[:16] == wet[:16]).all()
    assert wet[17] > 0.4 > dry[17] > 0


@pytest.mark.slow
def test_a_wet_day_on_brick_agrees_with_forty_nodes_in_plain_steps():
    # Written apart: explicit steps of two seconds, forty cells, no splitting of anything.
    hours = 30
    rain = np.where((np.arange(hours) >= 8) & (np.arange(hours) < 10), 1.5, 0.0)
    weather = september(hours, dew_c=9.0, wind_from_deg=np.full(hours, 180.0), rain_mm=rain)
    slab = shipped().claddings["masonry"].slab
    found = simulate(HERON_FERRY, weather, [ClimateSurface("brick", 180, 90, 0.6, BRICK, 2.0, slab=slab)])
    at = found.grid.epoch_s
    light = sun.on_planes(found.sky, 180, 90).total_w_m2[0]
    fall = rain_on_surfaces_mm_h(found.rain_mm_h, found.wind_m_s, np.full(len(at), 180.0), [180.0], [90.0])[0] / 3600
    cells, dt = 40, 2.0
    dx, pressure = slab.depth_m / cells, float(pressure_at_altitude_pa(HERON_FERRY.altitude_m))
    held, inner = slab.capacity_j_m2k / cells, slab.conductivity_w_mk / dx
    # From what the engine starts with, after the spin-up that both would need: warm throughout as the face is.
    temp, store, worst = np.full(cells, found.surface_temp_c[0, 8]), 0.0, 0.0
    begin = 8
    for step in range(int((at[-1] - at[begin]) / dt)):
        now = at[begin] + step * dt
        driven = (found.air_temp_c, found.vapour_pa, found.wind_m_s, light, found.dew_point_c)
        air, vapour, wind, sunlight, dew = (np.interp(now, at, values) for values in driven)
        h = 5.7 + 3.8 * 0.6 * wind
        # The face lies half a cell before the first node.
        face = temp[0] + (temp[0] - temp[1]) / 2
        flux = 0.6 * sunlight + EMISSIVITY * STEFAN_BOLTZMANN * (
            (0.5 * float(sky_emissivity(dew, 0.1)) + 0.5) * (air + 273.15) ** 4 - (face + 273.15) ** 4
        )
        flux += h * (air - face)
        store += fall[min(int((now - at[0]) / 900 + 1e-9), len(fall) - 1)] * dt
        lost = h * 0.621945 / (1006 * pressure * 0.894) * (float(saturation_pressure_pa(face)) - vapour)
        lost = min(lost, store / dt)
        store = min(store - lost * dt, 2.0)
        flux -= 2.5e6 * lost
        between = inner * np.diff(temp)
        temp = temp + dt / held * (np.concatenate([[flux], -between]) + np.concatenate([between, [0.0]]))
        hour = (now + dt - at[0]) / 3600
        if hour >= 14 and abs(hour - round(hour)) < 1e-9 and round(hour) < hours - 1:
            worst = max(worst, abs(temp[0] + (temp[0] - temp[1]) / 2 - found.surface_temp_c[0, 4 * round(hour)]))
    # Hours after the start both have forgotten how they began; five nodes stand for forty.
    assert worst < 0.4

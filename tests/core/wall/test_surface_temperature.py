"""The energy balance against hand-solved steady states, and what must always hold."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.optimize import brentq

from amber_gable.core.air import sun
from amber_gable.core.air.humid import dew_point_c, vapour_pressure_pa
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall import balance
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.wall.long_wave import EMISSIVITY, STEFAN_BOLTZMANN, sky_emissivity
from amber_gable.core.wall.surface_temperature import Forcing, Skin, integrate, steady_gain_w_m2
from tests.support.weathers import HERON_FERRY, september, simulated, steady

WOOD, METAL, BRICK = 12.0, 4.0, 150.0


def doe2(over_c: float, wind_m_s: float, tilt: float = 90.0, roughness: float = 1.13, side: str = "unknown") -> float:
    """Convection as reckonings.md words it, one number at a time."""
    size = abs(over_c) ** (1 / 3)
    if 45 <= tilt <= 135:
        natural = 1.31 * size
    elif (tilt < 45) == (over_c > 0):
        natural = 9.482 * size / (7.238 - abs(np.cos(np.radians(tilt))))
    else:
        natural = 1.810 * size / (1.382 + abs(np.cos(np.radians(tilt))))
    v = 0.6 * wind_m_s
    windward, leeward = 3.26 * v**0.89, 3.55 * v**0.617
    forced = windward if tilt < 45 else {"windward": windward, "leeward": leeward, "unknown": (windward + leeward) / 2}[side]
    return natural + roughness * (np.sqrt(natural**2 + forced**2) - natural)


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
    return Skin(np.array([0.0]), np.array([tilt]), np.array([absorptance]), np.array([1.13]), np.array([capacity_kj * 1000]))


@pytest.mark.parametrize("light", [0.0, 300.0, 800.0])
@pytest.mark.parametrize("tilt", [90.0, 20.0, 160.0])
@pytest.mark.parametrize("capacity", [METAL, WOOD, BRICK])
def test_steady_state_is_the_root_of_the_balance(light, tilt, capacity):
    f, s = forcing(hours=96, light=light, cloud=0.3), skin(tilt, 0.6, capacity)
    view = (1 + np.cos(np.radians(tilt))) / 2
    e_sky = float(sky_emissivity(f.dew_point_c[0], 0.3))

    def balance(t: float) -> float:
        air4 = 293.15**4
        long_wave = EMISSIVITY * STEFAN_BOLTZMANN * (view * e_sky * air4 + (1 - view) * air4 - (t + 273.15) ** 4)
        return 0.6 * light + long_wave + doe2(t - 20.0, 1.0, tilt) * (20.0 - t)

    assert integrate(f, s).temp_c[0, -1] == pytest.approx(brentq(balance, -20, 120), abs=0.01)


def test_sol_air_relation_of_ashrae():
    # Sol-air: To + aI/ho, no long-wave difference: ho is what convection and emission carry off together, 17 W/m2K in summer.
    for absorbed in (100.0, 200.0, 300.0):
        over = absorbed / 17
        emission = EMISSIVITY * STEFAN_BOLTZMANN * ((298.15 + over) ** 4 - 298.15**4) / over
        wind = brentq(lambda v: doe2(over, v, 180.0) + emission - 17, 0, 20)  # noqa: B023
        f = forcing(air_c=25.0, wind=wind, light=absorbed, cloud=0.0)
        # A wall that sees only ground at air temperature has no long-wave difference.
        s = skin(180.0, 1.0)
        assert integrate(f, s).temp_c[0, -1] == pytest.approx(25 + over, abs=0.05)


@pytest.mark.parametrize("side", [("windward", 90.0), ("windward", 179.0), ("leeward", 181.0), ("leeward", 270.0), ("unknown", np.nan)])
@pytest.mark.parametrize("roughness", [1.0, 1.67, 2.17])
def test_the_side_of_the_wind_and_the_roughness_decide_what_is_carried_off(side, roughness):
    name, wind_from = side
    f = forcing(hours=48, light=500.0, wind=5.0)
    f = Forcing(**{**f.__dict__, "wind_from_deg": np.full(len(f.air_temp_c), wind_from)})
    s = Skin(np.array([90.0]), np.array([90.0]), np.array([0.6]), np.array([roughness]), np.array([12_000.0]))
    e_sky = float(sky_emissivity(f.dew_point_c[0], 0.0))

    def balance(t: float) -> float:
        long_wave = EMISSIVITY * STEFAN_BOLTZMANN * ((e_sky + 1) / 2 * 293.15**4 - (t + 273.15) ** 4)
        return 300.0 + long_wave + doe2(t - 20, 5.0, 90.0, roughness, name) * (20 - t)

    assert integrate(f, s).temp_c[0, -1] == pytest.approx(brentq(balance, 0, 90), abs=0.01)


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
    # About where it cools through; convection changes a little on the way.
    conductance = doe2((cooling[8] + cold) / 2 - 20, 1.0) + 4 * EMISSIVITY * STEFAN_BOLTZMANN * 293.0**3
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
    flux += np.array([doe2(a - b, w) * (b - a) for a, b, w in zip(t, driven.air_temp_c, driven.wind_m_s, strict=True)])
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
    surfaces = [ClimateSurface.clad(f"{n}/{a}", a, t, 0.6, known[n], is_heated=a < 180) for n, a, t in faces]
    for seed in (7, 8, 9):
        weather = simulated(seed, 7)
        coarse, fine = simulate(HERON_FERRY, weather, surfaces), simulate(HERON_FERRY, weather, surfaces, step_s=450)
        apart = np.abs(coarse.surface_temp_c[:, ::4] - fine.surface_temp_c[:, ::8])
        assert apart.max() < 0.3


@pytest.mark.parametrize("period_h", [6.0, 24.0])
def test_a_slab_swings_as_carslaw_and_jaeger_say(period_h):
    # A face warmed by a small sine on a slab with an adiabatic back: amplitude q / (h + k m tanh mL), m = sqrt(i w / a).
    slab = shipped().claddings["masonry"].slab
    assert slab is not None
    (layer,) = slab.layers
    count = int(period_h * 4 * 12) + 1
    omega, swing, room = 2 * np.pi / (period_h * 3600), 10.0, 100.0
    f = forcing(hours=(count - 1) / 4, rh=20.0, cloud=1.0)
    light = room + swing * np.sin(omega * 900.0 * np.arange(count))[None, :]
    s = Skin(np.array([0.0]), np.array([180.0]), np.array([1.0]), np.array([1.67]), np.array([0.0]), slabs=(slab,))
    temp = integrate(Forcing(**{**f.__dict__, "irradiance_w_m2": light}), s).temp_c[0]
    m = np.sqrt(1j * omega * layer.capacity_j_m3k / layer.conductivity_w_mk)
    last = temp[-int(period_h * 4) :]
    # What convection carries off for a little more: its slope about the mean.
    over = last.mean() - 20
    slope = (doe2(over + 0.1, 1.0, 180.0, 1.67) * (over + 0.1) - doe2(over - 0.1, 1.0, 180.0, 1.67) * (over - 0.1)) / 0.2
    loss = slope + 4 * EMISSIVITY * STEFAN_BOLTZMANN * (last.mean() + 273.15) ** 3
    expected = abs(swing / (loss + layer.conductivity_w_mk * m * np.tanh(m * slab.depth_m)))
    # 3 %: seven nodes stand for the whole depth.
    assert (last.max() - last.min()) / 2 == pytest.approx(expected, rel=0.03)


def test_a_wall_with_a_room_behind_it_settles_where_ohm_says():
    render = shipped().claddings["render-on-masonry"]
    warm = ClimateSurface.clad("wall", 0, 90, 0.6, render, is_heated=True)
    assert warm.slab is not None
    f = forcing(hours=24 * 15, air_c=5.0, rh=30.0)
    s = Skin(np.array([0.0]), np.array([90.0]), np.array([0.6]), np.array([2.17]), np.array([0.0]), slabs=(warm.slab,))
    temp = float(integrate(f, s).temp_c[0, -1])
    through = (21 - temp) / (0.13 + 0.01 / 0.87 + 0.2 / 0.72)
    e_sky = float(sky_emissivity(f.dew_point_c[0], 0.0))
    away = doe2(temp - 5, 1.0, 90.0, 2.17) * (temp - 5)
    away += EMISSIVITY * STEFAN_BOLTZMANN * ((temp + 273.15) ** 4 - (e_sky + 1) / 2 * 278.15**4)
    assert through == pytest.approx(away, abs=0.2)


def test_members_of_an_ensemble_go_each_its_own_way():
    weathers = [september(30, mean_c=mean) for mean in (14.0, 18.0)]
    surfaces = [
        ClimateSurface("wood", 90, 90, 0.6, WOOD),
        ClimateSurface.clad("brick", 90, 90, 0.6, shipped().claddings["masonry"]),
    ]
    alone = [simulate(HERON_FERRY, w, surfaces) for w in weathers]
    joined = Forcing(
        900.0, *(np.stack([getattr(c, n) for c in alone]) for n in ("air_temp_c", "vapour_pa", "dew_point_c", "wind_m_s")),
        np.full((2, len(alone[0].air_temp_c)), 0.1), np.stack([sun.on_planes(c.sky, [90, 90], [90, 90]).total_w_m2 for c in alone]),
        HERON_FERRY.altitude_m,
    )  # fmt: skip
    skins = Skin(
        np.full(2, 90.0), np.full(2, 90.0), np.full(2, 0.6), np.array([1.13, 1.67]), np.array([WOOD, 0.0]) * 1000,
        np.array([np.inf, 2.0]), tuple(s.slab for s in surfaces),
    )  # fmt: skip
    found = integrate(joined, skins)
    for member, climate in enumerate(alone):
        assert np.abs(found.temp_c[member] - climate.surface_temp_c).max() < 1e-9


def test_what_was_felt_on_a_wall_overrules_the_store():
    f = forcing(hours=10, air_c=15.0, rh=98.0, wind=0.3)
    dry = integrate(f, skin(), observations=[(0, 16, 0.0)]).water_kg_m2[0]
    wet = integrate(f, skin(), observations=[(0, 16, 0.5)]).water_kg_m2[0]
    assert (dry[16], wet[16]) == (0, 0.5)
    assert (dry[:16] == wet[:16]).all()
    assert wet[17] > 0.4 > dry[17] > 0


def test_the_balance_is_compiled_for_one_kind_of_arguments():
    """Another kind, as a row that may not be written or a whole number of seconds, would hold a page up for the seconds of a compiler."""
    balance.compile_now()
    dry = forcing(hours=3)
    fixed = np.full_like(dry.air_temp_c, 1e-4)
    fixed.flags.writeable = False
    for wet in (dry, replace(dry, step_s=900, rain_kg_m2_s=fixed), replace(dry, rain_kg_m2_s=fixed.astype(np.float32))):
        integrate(wet, skin())
        integrate(wet, skin(), observations=[(0, 2, 0.5)])
    assert len(balance.courses.signatures) == 1

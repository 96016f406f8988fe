"""The engine against slow, plain code written from the contract alone, hour by hour.

Nothing here is shared with the engine but the sun: each law and limit is written out again as one
would on paper, one surface and one instant at a time.
"""

import math
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from amber_gable.core.air import sun
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import HouseRules, find_windows
from tests.support.pace import examples
from tests.support.weathers import HERON_FERRY, september
from tests.support.windows import fair

PAINT = shipped().products["rivermark-exterior-satin"]
RULES = HouseRules(9.0, 30.0, "surface-cap", shipped().limits, shipped().tight)


def magnus_pa(t: float) -> float:
    return 611.2 * math.exp(17.62 * t / (243.12 + t))


def plain_temperatures(weather: Weather, azimuth: float, tilt: float, absorptance: float, capacity_kj: float) -> list[tuple[float, float]]:
    """Return (temperature, water) at the listed hours: explicit steps of ten seconds."""
    step, hours = 10.0, len(weather.times)
    start = weather.times[0].timestamp()
    quarter = start + np.arange((hours - 1) * 12 + 1) * 300.0
    cloud = np.interp(quarter, weather.epoch_s, weather.cloud_pct)
    light = sun.on_planes(sun.sky(HERON_FERRY, quarter, cloud), azimuth, tilt).total_w_m2[0]
    view = (1 + math.cos(math.radians(tilt))) / 2
    pressure = 101325 * (1 - 2.25577e-5 * HERON_FERRY.altitude_m) ** 5.2559

    def hourly(values: np.ndarray) -> list[float]:
        return np.interp(start + np.arange(0, (hours - 1) * 3600, step), weather.epoch_s, values).tolist()

    airs, humidities = hourly(weather.air_temp_c), hourly(weather.rel_humidity_pct)
    winds, clouds = hourly(weather.wind_m_s), hourly(weather.cloud_pct / 100)
    sunlight = np.interp(start + np.arange(0, (hours - 1) * 3600, step), quarter, light).tolist()

    def run(t: float, water: float, end: int) -> list[tuple[float, float]]:
        out = [(t, water)]
        for n in range(int(end * 3600 / step)):
            air, rh, wind, n_cloud = airs[n], humidities[n], winds[n], clouds[n]
            vapour = magnus_pa(air) * rh / 100
            log = math.log(vapour / 611.2)
            dew = 243.12 * log / (17.62 - log) / 100
            clear = 0.711 + 0.56 * dew + 0.73 * dew**2
            sky = clear + 0.8 * (1 - clear) * n_cloud
            over, v = t - air, 0.6 * wind
            if 45 <= tilt <= 135:
                natural = 1.31 * abs(over) ** (1 / 3)
            elif over > 0:
                natural = 9.482 * abs(over) ** (1 / 3) / (7.238 - abs(math.cos(math.radians(tilt))))
            else:
                natural = 1.810 * abs(over) ** (1 / 3) / (1.382 + abs(math.cos(math.radians(tilt))))
            # From the south, steadily: the weather says so below.
            windward = tilt < 45 or abs((180 - azimuth + 180) % 360 - 180) <= 90
            forced = 3.26 * v**0.89 if windward else 3.55 * v**0.617
            h = natural + 1.13 * (math.sqrt(natural**2 + forced**2) - natural)
            black = 5.670374e-8 * (air + 273.15) ** 4
            heat = absorptance * sunlight[n] + h * (air - t)
            heat += 0.9 * (black * (view * sky + 1 - view) - 5.670374e-8 * (t + 273.15) ** 4)
            flux = h * 0.622 / (1006 * pressure * 0.894) * (vapour - magnus_pa(t))
            flux = max(flux, -water / step)
            water += flux * step
            t += (heat + 2.5e6 * flux) * step / (capacity_kj * 1000)
            if (n + 1) % 360 == 0:
                out.append((t, water))
        return out

    warm = run(float(weather.air_temp_c[0]), 0.0, min(24, hours - 1))[-1][0]
    return run(warm, 0.0, hours - 1)


@pytest.mark.parametrize(("azimuth", "tilt", "capacity"), [(90, 90, 12.0), (348, 90, 40.0), (200, 30, 4.0)])
def test_temperatures_and_dew_agree_with_small_explicit_steps(azimuth, tilt, capacity):
    weather = september(40, wind_from_deg=np.full(40, 180.0))
    plain = plain_temperatures(weather, azimuth, tilt, 0.6, capacity)
    climate = simulate(HERON_FERRY, weather, [ClimateSurface("s", azimuth, tilt, 0.6, capacity)])
    temp, water = climate.surface_temp_c[0, ::4], climate.water_kg_m2[0, ::4]
    apart = np.abs(temp - [t for t, _ in plain])
    # In the quarter-hour in which a thin skin dries out it warms by degrees within a minute or two.
    just_dried = np.zeros(len(temp), bool)
    just_dried[1:] = (climate.water_kg_m2[0, 3::4] > 0) & (water[1:] == 0)
    assert apart[~just_dried].max() < 0.15
    assert apart[just_dried].max(initial=0) < 2.0
    assert np.abs(water - [w for _, w in plain]).max() < 0.005


def plain_state(c, q: int) -> str:
    """Return the state of one quarter-hour of one surface, rule by rule as reckonings.md words them."""
    last = len(c.air_temp_c) - 1
    t, margin, rh = c.surface_temp_c[0], c.dew_margin_c[0], c.rel_humidity_pct[q]
    air, gust = c.air_temp_c[q], c.gust_m_s[q]
    # What must be known lies beyond the data: temperatures to the end, rain an hour longer.
    if q + 96 > last or c.sky.true_elevation_deg[q] <= -0.833:
        return "shut"
    # The film: young until half of its label-hours are done and all of them gone by the clock, tender until all are done.
    drying = [min(1.0, 2 ** ((v - 25) / 10)) for v in t]
    done = [0.0]
    for a, b in pairwise(drying):
        done.append(done[-1] + (a + b) / 8)
    rain_free = PAINT.rain_free_h

    def reached(label_h: float) -> float:
        k = next((k for k in range(q, last + 1) if done[k] - done[q] >= label_h - 1e-12), None)
        if k is None or k == q:
            return float("inf") if k is None else float(q)
        return k - 1 + (done[q] + label_h - done[k - 1]) / (done[k] - done[k - 1])

    young, ready = max(reached(rain_free / 2), q + 4 * rain_free), reached(rain_free)
    if young > last:
        return "shut"
    while_young = [k for k in range(q, last + 1) if k < young - 1e-9]
    while_tender = [k for k in range(q, last + 1) if k < ready - 1e-9]

    def chance_over(instants: list[int]) -> float:
        dry = 1.0
        for first in range(0, len(instants), 24):
            dry *= 1 - max(c.rain_probability_pct[k] for k in instants[first : first + 24]) / 100
        return round(100 * (1 - dry), 9)

    rained, chance = max(c.rain_mm_h[k] for k in while_young) > 0.1, chance_over(while_young)
    dewed = any(c.wet[0, k] for k in while_young[1:])
    broken = [air < 10, air > 29, t[q] > 38, rh > 85, gust > 9, margin[q] < 3, c.wet[0, q], t[q] <= 0]
    broken += [min(t[q : q + 17]) < 10, min(margin[q : q + 17]) <= 0, min(t[q : q + 97]) < 2, rained, dewed, chance > 30]
    if any(broken):
        return "shut"
    near = [air <= 12, air >= 27, min(t[q : q + 17]) <= 12, t[q] >= 36, margin[q] <= 4.5, rh >= 80, gust > 6.75, chance >= 15]
    near += [max(c.rain_mm_h[k] for k in while_tender) > 0.1, chance_over(while_tender) > 30, any(c.wet[0, k] for k in while_tender[1:])]
    near += [min(t[q : q + 97]) <= 4, bool(c.direct_sun[0, q]) and t[q] >= 27]
    return "tight" if any(near) else "open"


@st.composite
def climates(draw):
    """Climates that stray over every limit now and then; never so damp or cold as to hinder drying."""
    seed = draw(st.integers(min_value=0, max_value=2**31))
    rng = np.random.default_rng(seed)
    base = fair(140)
    count = 140

    def spells(usual: float, odd: tuple[float, ...], chance: float) -> np.ndarray:
        values = np.full(count, usual)
        for start in np.flatnonzero(rng.random(count) < chance):
            values[start : start + rng.integers(1, 5)] = rng.choice(odd)
        return values

    wet = rng.random(count) < 0.02
    surface = spells(22.0, (9.0, 11.0, 12.0, 37.0, 39.0, 1.5, 3.0, 28.0), 0.015)
    return base.__class__(
        **{
            **base.__dict__,
            "air_temp_c": spells(20.0, (9.0, 11.0, 28.0, 30.0, 12.0), 0.02),
            "rel_humidity_pct": spells(50.0, (80.0, 84.0, 86.0), 0.02),
            "gust_m_s": spells(2.0, (6.7, 7.0, 9.5), 0.02),
            "rain_mm_h": spells(0.0, (0.1, 0.3), 0.01),
            "rain_probability_pct": spells(2.0, (12.0, 20.0, 31.0), 0.02),
            "surface_temp_c": surface[None, :],
            "dew_margin_c": spells(12.0, (2.0, 4.0, 4.5, 5.0, -0.5), 0.015)[None, :],
            "direct_sun": (rng.random(count) < 0.3)[None, :],
            "wet": wet[None, :],
            # So dry that warmth alone decides how fast a film dries.
            "vapour_pa": np.full(count, 200.0),
            "water_kg_m2": (0.05 * wet)[None, :],
        }
    )


@given(climate=climates())
@settings(max_examples=examples(60), deadline=None)
def test_states_agree_with_the_contract_read_aloud(climate):
    windows = find_windows(climate, PAINT, RULES)
    names = ("shut", "tight", "open")
    for q in range(len(climate.air_temp_c)):
        found = names[int(windows.states[0, q])]
        assert found == plain_state(climate, q), f"quarter-hour {q}: {windows.reasons(0, q)}"
        reasons = windows.reasons(0, q)
        # A shut or tight hour has its reasons, an open one none; the worst one is the one that binds.
        assert bool(reasons) == (found != "open")
        assert any(r.broken for r in reasons) == (found == "shut")
        if reasons:
            assert windows.checks[windows.binding()[0, q]].rule == reasons[0].rule


def test_an_hour_is_the_worst_of_its_quarters():
    start = datetime(2026, 9, 15, tzinfo=UTC)
    times = [start + timedelta(hours=h) for h in range(72)]
    climate = simulate(HERON_FERRY, september(72), [ClimateSurface("s", 78, 90, 0.7, 12.0, 0.4)])
    windows = find_windows(climate, PAINT, RULES)
    for hour in range(len(times) - 1):
        quarters = [windows.reasons(0, 4 * hour + i) for i in range(4)]
        whole = windows.reasons(0, 4 * hour, 4 * hour + 4)
        assert {r.rule for r in whole} == {r.rule for q in quarters for r in q}
        assert any(r.broken for r in whole) == any(r.broken for q in quarters for r in q)

"""What one site asks besides, and many products and rules at once: each surface as if it stood alone."""

from dataclasses import replace

import numpy as np
import pytest

from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, Observation, simulate
from amber_gable.core.windows import SHUT, HouseRules, SiteLimits, find_windows, find_windows_each
from amber_gable.core.windows.words import spoken
from tests.support.weathers import HERON_FERRY, september, simulated, steady

KNOWN = shipped()
PAINT = KNOWN.products["rivermark-exterior-satin"]
COLD = PAINT.model_copy(
    update={"name": "Cold", "min_surface_temp_c": 1.7, "min_air_temp_c": 1.7, "max_moisture_pct": 12.0, "kind": "alkyd"}
)
RULES = HouseRules(9.0, 30.0, "surface-cap", KNOWN.limits, KNOWN.tight, SiteLimits())
OPEN_WOOD = KNOWN.stocks["wood-open"]


def walls():
    return [ClimateSurface(f"{a}", float(a), 90, 0.4 + a / 800, 12.0, 0.4, stock=OPEN_WOOD if a % 180 else None) for a in (0, 90, 180, 270)]


@pytest.mark.parametrize("seed", [7, 8])
def test_each_surface_is_judged_as_if_it_stood_alone(seed):
    climate = simulate(HERON_FERRY, simulated(seed, 6), walls())
    ladder, ground = replace(RULES, max_wind_m_s=4.0), RULES
    sprayer = replace(RULES, site=SiteLimits(KNOWN.spray, (90.0,)))
    products, rules = [PAINT, COLD, PAINT, COLD], [ladder, ground, sprayer, sprayer]
    together = find_windows_each(climate, products, rules)
    for row in range(4):
        alone = find_windows(climate.of_surfaces([row]), products[row], rules[row])
        assert np.array_equal(together.states[row], alone.states[0])
        for step in range(0, together.states.shape[1], 13):
            said, expected = (
                [(r.rule, round(r.limit, 6), round(r.margin, 6)) for r in w.reasons(n, step)] for w, n in ((together, row), (alone, 0))
            )
            assert sorted(said) == sorted(expected)


def test_gusts_are_held_against_the_way_a_side_is_reached():
    climate = simulate(HERON_FERRY, steady(72, 20.0, 55.0, 3.0, wind_gust_m_s=np.full(72, 8.0)), walls())
    found = find_windows_each(climate, [PAINT] * 4, [replace(RULES, max_wind_m_s=w) for w in (7.6, 9.0, 11.0, 12.5)])
    noon = 4 * 18
    winds = [{(r.rule, r.limit, r.broken) for r in found.reasons(row, noon) if r.rule == "wind"} for row in range(4)]
    # Tower, ladder, ground, lift (handbook 3): shut, tight above three quarters, tight or not.
    assert winds == [{("wind", 7.6, True)}, {("wind", 9.0, False)}, set(), set()]


def test_the_stricter_of_meter_limit_and_label_speaks():
    surfaces = walls()
    observations = [Observation(1, float(steady(2).epoch_s[0]) + 6 * 3600, None, 13.5)]
    climate = simulate(HERON_FERRY, steady(72, 20.0, 55.0), surfaces, observations=observations)
    step = 4 * 14
    wet = float(climate.moisture_pct[1, step])
    assert 12 < wet < 14
    for product, broken in ((PAINT, False), (COLD, True)):
        check = next(c for c in find_windows(climate, product, RULES).checks if c.rule == "moisture")
        assert check.limit_of(1, step) == min(OPEN_WOOD.max_pct, product.max_moisture_pct)
        assert check.value(1, step) == pytest.approx(wet)
        assert (check.margin[1, step] < 0) == broken
        assert np.isinf(check.margin[0]).all(), "a wall that takes up no water is far from it"


def test_thunder_shuts_from_the_quarter_hour_it_is_heard_in():
    climate = simulate(HERON_FERRY, steady(72, 20.0, 55.0), walls())
    epoch = climate.grid.epoch_s
    heard = float(epoch[70]) + 400
    rules = replace(RULES, site=SiteLimits(thunder_s=((heard, heard + 1800),)))
    calm, loud = find_windows(climate, PAINT, RULES).states, find_windows(climate, PAINT, rules).states
    assert (loud[:, 70:73] == SHUT).all()
    keeps = np.r_[0:70, 73 : len(epoch)]
    assert np.array_equal(calm[:, keeps], loud[:, keeps])


def test_thunder_that_is_forecast_brings_everybody_down_until_half_an_hour_after_its_last_hour():
    chance = np.zeros(72)
    chance[20:22], chance[30] = 40.0, 20.0
    storm = simulate(HERON_FERRY, replace(steady(72, 20.0, 55.0), thunder_probability_pct=chance), walls())
    windows = find_windows(storm, PAINT, RULES)
    thunder = next(c for c in windows.checks if c.rule == "thunder")
    # Hours 20 and 21, and half an hour after: quarters 80 to 89. An hour of which it is half as likely is a caution.
    assert np.flatnonzero(thunder.margin[0] < 0).tolist() == list(range(80, 90))
    assert (windows.states[:, 80:90] == SHUT).all()
    assert np.flatnonzero(thunder.is_tight[0]).tolist() == list(range(120, 124))
    calm = find_windows(simulate(HERON_FERRY, steady(72, 20.0, 55.0), walls()), PAINT, RULES)
    assert "thunder" not in {c.rule for c in calm.checks}


def test_sun_that_comes_soon_is_a_caution_on_dark_coats_alone():
    dark, light = (ClimateSurface(n, 180, 90, a, 12.0, 0.4) for n, a in (("dark", 0.9), ("light", 0.3)))
    climate = simulate(HERON_FERRY, september(72, dew_c=2), [dark, light])
    first = int(np.flatnonzero(climate.direct_sun[0])[0])
    found = find_windows(climate, PAINT, RULES)
    for before, said in ((8, True), (9, False), (0, False)):
        assert ("sun-soon" in {r.rule for r in found.reasons(0, first - before)}) == said
    assert "sun-soon" not in {r.rule for r in found.reasons(1, first - 4)}
    reason = next(r for r in found.reasons(0, first - 8) if r.rule == "sun-soon")
    assert not reason.broken
    assert reason.value == 2
    assert "in 2.0 h" in spoken(reason, "us").sentence


def test_the_nearest_limit_of_a_stretch_is_the_one_with_least_room_in_its_own_band():
    climate = simulate(HERON_FERRY, steady(96, 12.5, 55.0, 1.0, 100.0), [ClimateSurface("wall", 0, 90, 0.3, 12.0, 0.4)])
    found = find_windows(climate, PAINT, RULES)
    day = [q for q in range(48, 96) if found.states[0, q] != SHUT]
    closest = found.closest(0, day[0], day[-1] + 1)
    assert closest.rule in ("air-temp-low", "surface-temp-low")
    assert not closest.broken
    part = slice(day[0], day[-1] + 1)
    margins = [float(c.margin[0, part].min()) / c.band for c in found.checks if c.rule == closest.rule]
    assert closest.severity == pytest.approx(min(margins))

"""The limits one by one on a made-up climate, and what must always hold on a real one."""

from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from amber_gable.core.air.sun import Place
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import Climate, ClimateSurface, simulate
from amber_gable.core.windows import OPEN, SHUT, TIGHT, HouseRules, Windows, find_windows, spans
from amber_gable.core.windows.limits import forward_min, rain_chance_pct
from amber_gable.core.windows.starts import permitted
from amber_gable.core.windows.words import spoken
from tests.support.weathers import HERON_FERRY, september, steady
from tests.support.windows import COUNT, fair

PAINT = shipped().products["rivermark-exterior-satin"]
RULES = HouseRules(9.0, 30.0, "surface-cap", shipped().limits, shipped().tight)
SHUTTING = {"shut": SHUT, "tight": TIGHT, "open": OPEN}


def at(values: np.ndarray, where: slice, value: float) -> np.ndarray:
    out = values.copy()
    out[..., where] = value
    return out


def judged(climate: Climate, rules: HouseRules = RULES, **label: float) -> Windows:
    return find_windows(climate, PAINT.model_copy(update=label), rules)


def state_and_rule(windows: Windows, q: int) -> tuple[int, str]:
    reasons = windows.reasons(0, q)
    return int(windows.states[0, q]), reasons[0].rule if reasons else ""


def test_nothing_against_it_is_open_without_reasons():
    windows = judged(fair())
    assert (windows.states[0, : 4 * 30] == OPEN).all()
    assert windows.reasons(0, 8) == []


@pytest.mark.parametrize(
    ("field", "value", "state", "rule"),
    [
        ("air_temp_c", 9.9, "shut", "air-temp-low"),
        ("air_temp_c", 12.0, "tight", "air-temp-low"),  # edges of the band are included
        ("air_temp_c", 12.1, "open", ""),
        ("air_temp_c", 29.1, "shut", "air-temp-high"),
        ("air_temp_c", 27.5, "tight", "air-temp-high"),
        ("surface_temp_c", 38.1, "shut", "surface-temp-high"),
        ("surface_temp_c", 37.0, "tight", "surface-temp-high"),
        ("surface_temp_c", 9.0, "shut", "surface-temp-low"),
        ("surface_temp_c", -0.5, "shut", "frost"),
        ("dew_margin_c", 2.9, "shut", "dew-margin"),
        ("dew_margin_c", 4.4, "tight", "dew-margin"),
        ("dew_margin_c", 4.6, "open", ""),
        ("rel_humidity_pct", 86.0, "shut", "humidity"),
        ("rel_humidity_pct", 80.0, "tight", "humidity"),
        ("gust_m_s", 9.1, "shut", "wind"),
        ("gust_m_s", 6.8, "tight", "wind"),
        ("gust_m_s", 6.7, "open", ""),
        ("rain_mm_h", 0.2, "shut", "rain"),
        ("rain_mm_h", 0.1, "open", ""),  # a trace does not count
    ],
)
def test_each_limit_speaks_for_itself(field, value, state, rule):
    climate = fair()
    q = 40
    changed = replace(climate, **{field: at(getattr(climate, field), slice(q, q + 1), value)})
    windows = judged(changed, hold_min_surface_temp_c=-20.0)
    found, first = state_and_rule(windows, q)
    assert found == SHUTTING[state]
    assert rule in {r.rule for r in windows.reasons(0, q)} if rule else first == ""
    assert all(r.margin < 0 for r in windows.reasons(0, q) if r.broken)


def test_the_hours_after_count_too():
    climate = fair()
    q = 80
    cold = replace(climate, surface_temp_c=at(climate.surface_temp_c, slice(q, q + 1), 9.0))
    states = judged(cold).states[0]
    # Above the application minimum for four hours after the last stroke.
    assert (states[q - 16 : q + 1] == SHUT).all()
    assert states[q - 17] == states[q + 1] == OPEN

    night = replace(climate, surface_temp_c=at(climate.surface_temp_c, slice(200, 201), 1.5))
    hold = judged(night)
    assert state_and_rule(hold, 200 - 96) == (SHUT, "hold")
    assert hold.states[0, 200 - 97] == OPEN


def test_four_hours_of_dew_shut_with_limit_nought_and_no_band():
    climate = fair()
    q = 80
    near = replace(climate, dew_margin_c=at(climate.dew_margin_c, slice(q, q + 1), 0.2))
    assert judged(near).states[0, q - 1] == OPEN
    below = judged(replace(climate, dew_margin_c=at(climate.dew_margin_c, slice(q, q + 1), -0.2)))
    reason = below.reasons(0, q - 10)[0]
    assert (reason.rule, reason.limit) == ("dew-margin", 0.0)
    assert "within 4 h" in spoken(reason, "us").sentence


def test_dew_before_touch_dry_is_wet():
    climate = fair()
    wet = climate.wet.copy()
    wet[0, 50] = True
    water = at(climate.water_kg_m2, slice(50, 51), 0.02)
    windows = judged(replace(climate, wet=wet, water_kg_m2=water))
    # At 22 °C the label's hour takes 2^0.3 = 1.23 h: five quarter-hours.
    assert [state_and_rule(windows, q) for q in (46, 50)] == [(SHUT, "wet")] * 2
    assert windows.states[0, 44] == windows.states[0, 51] == OPEN


@pytest.mark.parametrize(
    ("rule", "temp", "state"),
    [("surface-cap", 26.9, OPEN), ("surface-cap", 27.0, TIGHT), ("shade", 26.9, TIGHT), ("shade", 27.0, SHUT)],
)
def test_the_two_schools_of_sun(rule, temp, state):
    climate = fair()
    sunny = replace(climate, direct_sun=np.ones_like(climate.direct_sun), surface_temp_c=np.full_like(climate.surface_temp_c, temp))
    windows = judged(sunny, replace(RULES, sun_rule=rule))
    assert windows.states[0, 10] == state
    if state != OPEN:
        assert windows.reasons(0, 10)[0].rule == "sun"


def test_rain_is_one_chance_over_the_span():
    climate = fair()
    chances = at(climate.rain_probability_pct, slice(0, 4), 20.0)
    chances = at(chances, slice(4, 8), 10.0)
    chances = at(chances, slice(16, 20), 30.0)
    # Four hours from 0: a block of three hours (largest 20 %), then one hour (0 %).
    # Six hours from 0: blocks of 20 % and 30 % make 1 - 0.8 x 0.7 = 44 %.
    climate = replace(climate, rain_probability_pct=chances)
    assert rain_chance_pct(climate, 4.0)[0] == pytest.approx(20.0)
    assert rain_chance_pct(climate, 6.0)[0] == pytest.approx(44.0)
    # Blocks are counted from the instant itself: from 02:00 the 30 % lies in the first block.
    assert rain_chance_pct(climate, 3.0)[8] == pytest.approx(30.0)
    assert judged(climate).states[0, 16] == TIGHT  # 30 % is the limit, not over it
    assert judged(climate, replace(RULES, max_rain_probability_pct=29.0)).states[0, 16] == SHUT


def test_night_and_the_end_of_the_forecast_shut():
    climate = fair()
    dark = replace(climate.sky, true_elevation_deg=at(climate.sky.true_elevation_deg, slice(20, 24), -1.0))
    windows = judged(replace(climate, sky=dark))
    assert state_and_rule(windows, 20) == (SHUT, "daylight")
    # Twenty-four hours of hold must be known: the last day is shut, whatever it is like.
    end = COUNT - 1
    assert state_and_rule(windows, end - 95) == (SHUT, "forecast-end")
    assert windows.states[0, end - 96] == OPEN


def test_worst_comes_first_and_shut_lists_its_cautions():
    climate = fair()
    bad = replace(
        climate,
        rel_humidity_pct=at(climate.rel_humidity_pct, slice(9, 10), 99.0),
        air_temp_c=at(climate.air_temp_c, slice(9, 10), 9.5),
        gust_m_s=at(climate.gust_m_s, slice(9, 10), 8.0),
    )
    windows = judged(bad)
    # Humidity is 14 points over a band of 5, the air half a degree over a band of 2.
    assert [r.rule for r in windows.reasons(0, 9)] == ["humidity", "air-temp-low", "wind"]
    assert [r.broken for r in windows.reasons(0, 9)] == [True, True, False]
    assert windows.checks[windows.binding()[0, 9]].rule == "humidity"
    assert windows.binding()[0, 8] == -1


def test_starts_need_the_whole_coat():
    states = np.array([[SHUT, OPEN, TIGHT, OPEN, SHUT, OPEN, OPEN]], dtype=np.int8)
    assert permitted(states, 2)[0].tolist() == [False, True, True, False, False, True, False]
    assert permitted(states, 3)[0].tolist() == [False, True] + [False] * 5
    assert not permitted(states, 8).any()
    assert [(s.first, s.last) for s in spans(permitted(states, 2)[0])] == [(1, 2), (5, 5)]


def test_forward_min_is_the_plain_minimum():
    rng = np.random.default_rng(7)
    values = rng.normal(size=(3, 50))
    for steps in (0, 1, 2, 3, 7, 16, 48, 60):
        plain = np.array([[row[q : q + steps + 1].min() for q in range(50)] for row in values])
        assert forward_min(values, steps) == pytest.approx(plain)


@pytest.fixture(scope="module")
def house() -> Climate:
    surfaces = [ClimateSurface(f"{a}", a, 90, 0.7, 12.0, 0.4) for a in (348, 78, 168, 258)]
    return simulate(HERON_FERRY, september(144), surfaces)


@pytest.mark.parametrize(
    "stricter",
    [
        {"min_surface_temp_c": 14.0},
        {"max_surface_temp_c": 30.0},
        {"min_air_temp_c": 15.0},
        {"max_air_temp_c": 22.0},
        {"min_dew_margin_c": 5.0},
        {"max_rel_humidity_pct": 70.0},
        {"hold_min_surface_temp_c": 8.0},
        {"hold_h": 48.0},
        {"rain_free_h": 24.0},
        {"touch_h": 4.0},
    ],
)
def test_a_stricter_label_never_opens_an_hour(house, stricter):
    assert (judged(house, **stricter).states <= judged(house).states).all()


def test_dew_margin_in_a_dry_spell_and_a_damp_one(house):
    damp = simulate(HERON_FERRY, september(144, dew_c=12.5), [ClimateSurface("n", 348, 90, 0.7, 12.0, 0.4)])
    assert (judged(house).states[0] > SHUT).sum() > (judged(damp).states[0] > SHUT).sum()


def test_shade_follows_the_sun_round_the_house(house):
    # On a clear day the east wall is in the sun first, the west wall last.
    day = slice(4 * 29, 4 * 53)
    middle = [float(np.flatnonzero(house.direct_sun[row, day]).mean()) for row in (1, 2, 3)]
    assert middle == sorted(middle)
    sunny = [np.flatnonzero(house.direct_sun[row, day]) for row in (1, 2, 3)]
    assert sunny[0][0] <= sunny[1][0] < sunny[2][0], "it comes to the east first, to the west last"
    assert sunny[0][-1] < sunny[1][-1] <= sunny[2][-1], "and leaves them in the same order"
    # They face opposite ways: the quarter-hour in which it leaves the one, it reaches the other.
    assert abs(int(sunny[2][0] - sunny[0][-1])) <= 1


def test_polar_night_has_no_windows_and_polar_day_no_dark():
    surface = [ClimateSurface("s", 180, 90, 0.6, 12.0)]
    north = Place(78.2, 15.6)
    winter = steady(48, 15.0, start=datetime(2026, 12, 20, tzinfo=UTC))
    summer = steady(60, 15.0, start=datetime(2026, 6, 20, tzinfo=UTC))
    assert (judged(simulate(north, winter, surface)).states == SHUT).all()
    bright = judged(simulate(north, summer, surface))
    assert "daylight" not in {r.rule for q in range(0, 96) for r in bright.reasons(0, q)}

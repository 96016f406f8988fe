"""The limits one by one on a made-up climate, and what must always hold on a real one."""

from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from amber_gable.core.air.rain import chance_pct
from amber_gable.core.air.sun import Place
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import Climate, ClimateSurface, simulate
from amber_gable.core.windows import OPEN, SHUT, TIGHT, HouseRules, Windows, find_windows, spans
from amber_gable.core.windows.check import forward_min
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
    assert [q for q in range(40, 54) if "wet" in {r.rule for r in windows.reasons(0, q)}] == [46, 47, 48, 49, 50]
    assert windows.states[0, 51] == OPEN


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
    chances = at(chances, slice(26, 28), 50.0)
    climate = replace(climate, rain_probability_pct=chances)

    def over(hours: float) -> np.ndarray:
        return chance_pct(chances, np.minimum(np.arange(COUNT) + int(4 * hours), COUNT)[None, :], 900.0)[0]

    # Six hours are one spell: its largest counts. Seven from 0: 30 % and 50 % make 1 - 0.7 x 0.5 = 65 %.
    assert over(4.0)[0] == pytest.approx(20.0)
    assert over(6.0)[0] == pytest.approx(30.0)
    assert over(7.0)[0] == pytest.approx(65.0)
    # Spells are counted from the instant itself: from 02:00 both lie in the first one.
    assert over(6.0)[8] == pytest.approx(50.0)
    climate = replace(climate, rain_probability_pct=at(climate.rain_probability_pct, slice(26, 28), 0.0))
    assert judged(climate).states[0, 16] == TIGHT  # 30 % is the limit, not over it
    assert judged(climate, replace(RULES, max_rain_probability_pct=29.0)).states[0, 16] == SHUT


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_chance_over_spells_is_that_of_paper_and_pencil(seed):
    rng = np.random.default_rng(seed)
    hourly = np.repeat(rng.choice([0.0, 5.0, 12.0, 60.0, 100.0], size=40), 4)
    end = np.minimum(np.arange(160) + rng.integers(0, 130, size=(3, 160)), 160)
    plain = np.zeros(end.shape)
    for row in range(3):
        for q in range(160):
            dry = 1.0
            for first in range(q, int(end[row, q]), 24):
                dry *= 1 - max(hourly[first : min(first + 24, end[row, q])]) / 100
            plain[row, q] = 100 * (1 - dry)
    assert chance_pct(hourly, end, 900.0) == pytest.approx(plain, abs=1e-9)


def with_dew(climate: Climate, q: int) -> Climate:
    return replace(
        climate, wet=at(climate.wet, slice(q, q + 1), True), water_kg_m2=at(climate.water_kg_m2, slice(q, q + 1), 0.02)
    )  # fmt: skip


def test_a_young_film_bears_neither_rain_nor_dew_and_a_tender_one_is_a_caution():
    # At 12 °C the waterborne rate is 2^-1.3 = 0.406: four label-hours take 9.85 h, half of them 4.92 h.
    # The air is dry enough that warmth alone decides.
    climate = replace(fair(), surface_temp_c=np.full((1, COUNT), 12.0), air_temp_c=np.full(COUNT, 14.0), vapour_pa=np.full(COUNT, 300.0))
    film = {"rain_free_h": 4.0, "min_surface_temp_c": 5.0}
    dew = with_dew(climate, 100)
    windows = judged(dew, **film)

    def of(name: str, q: int, some: Windows = windows):
        return next((r for r in some.reasons(0, q) if r.rule == name), None)

    # 19 quarter-hours before (4.75 h) it is young, 20 (5 h) tender, 40 (10 h) rain-ready.
    young, tender = of("young-film", 81), of("young-film", 80)
    assert (young.broken, tender.broken, of("young-film", 60)) == (True, False, None)
    assert young.value == pytest.approx(0.406 * 4.75 / 4, abs=0.002)
    assert tender.value == pytest.approx(0.406 * 5.0 / 4, abs=0.002)
    assert (young.limit, tender.limit) == (1.0, 1.0)
    assert windows.states[0, 80] == TIGHT
    said = spoken(tender, "us").sentence
    assert "51 % of the way to rain-ready" in said
    # The strict school waits for rain-ready, the clock's for the label's four hours.
    strict, clock = (find_windows(dew, PAINT.model_copy(update=film), replace(RULES, young_share=s)) for s in (1.0, 0.0))
    assert of("young-film", 61, strict).broken
    assert not of("young-film", 84, clock).broken
    assert of("young-film", 85, clock).broken

    rain = replace(climate, rain_mm_h=at(climate.rain_mm_h, slice(100, 104), 0.5))
    wet = judged(rain, **film)
    assert (of("rain", 81, wet).broken, of("rain", 81, wet).value) == (True, 0.5)
    assert (of("rain", 80, wet).broken, of("rain", 80, wet).value) == (False, 0.5)
    assert of("rain", 60, wet) is None
    chance = judged(replace(climate, rain_probability_pct=at(climate.rain_probability_pct, slice(100, 104), 60.0)), **film)
    assert (of("rain", 81, chance).broken, of("rain", 80, chance).broken) == (True, False)
    assert of("rain", 80, chance).value == pytest.approx(60.0)


def test_a_film_that_is_still_young_when_the_forecast_ends_is_not_known():
    cold = replace(fair(), surface_temp_c=np.full((1, COUNT), 6.0), vapour_pa=np.full(COUNT, 300.0))
    windows = judged(cold, rain_free_h=4.0, min_surface_temp_c=1.0, hold_h=1.0)
    # 2^-1.9 = 0.268: half of four hours takes 7.46 h, thirty quarter-hours.
    last = COUNT - 1
    assert "forecast-end" not in {r.rule for r in windows.reasons(0, last - 30)}
    assert "forecast-end" in {r.rule for r in windows.reasons(0, last - 29)}


def test_cold_nights_with_a_cold_rated_product_ask_for_its_own_warm_hours():
    # Two warm hours after the last stroke, then the drop: the four hours of other products do not shut it.
    climate = replace(fair(), surface_temp_c=at(fair().surface_temp_c, slice(120, 160), 1.0))
    label = {"min_surface_temp_c": 1.7, "hold_h": 2.0, "hold_min_surface_temp_c": 1.7, "min_air_temp_c": 1.7}
    usual = judged(climate, **label)
    cold = judged(climate, replace(RULES, is_cold_school=True), **label)
    assert usual.states[0, 120 - 12] == SHUT
    assert cold.states[0, 120 - 12] != SHUT
    assert cold.states[0, 120 - 8] == SHUT
    # A product that is not rated for the cold gains nothing by it.
    other = {"min_surface_temp_c": 10.0, "hold_h": 2.0, "hold_min_surface_temp_c": 0.5}
    assert (judged(climate, replace(RULES, is_cold_school=True), **other).states == judged(climate, **other).states).all()


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

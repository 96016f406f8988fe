"""A reading beats the forecast: the moment by what was measured, the hours after shifted by it."""

import numpy as np
import pytest

from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import SHUT, HouseRules, Windows, find_windows
from amber_gable.core.windows.readings import MAX_BIAS_C, InstrumentReading, bias_c, judge
from amber_gable.errors import FieldErrors
from tests.support.weathers import HERON_FERRY, september

NORTH = ClimateSurface("n", 348, 90, 0.7, 12.0, 0.4)
RULES = HouseRules(9.0, 30.0, "surface-cap", shipped().limits, shipped().tight)
NOON = 4 * (24 + 18)


def windows(shift_c: float = 0.0) -> Windows:
    climate = simulate(HERON_FERRY, september(120), [NORTH], surface_bias_c=np.array([shift_c]))
    return find_windows(climate, shipped().products["rivermark-exterior-satin"], RULES)


def answer(reading: InstrumentReading):
    bias = bias_c(reading, float(windows().climate.surface_temp_c[0, NOON]))
    return judge(reading, windows(bias), 0, NOON, bias, shipped().limits, shipped().tight)


def test_a_good_wall_may_be_painted_until_the_run_ends():
    computed = float(windows().climate.surface_temp_c[0, NOON])
    verdict = answer(InstrumentReading(22.0, 50.0, computed))
    assert verdict.may_paint
    # Magnus by hand: 22 °C at 50 % has its dew point at 11.1 °C.
    assert verdict.dew_point_c == pytest.approx(11.1, abs=0.05)
    assert verdict.dew_margin_c == pytest.approx(computed - 11.1, abs=0.05)
    states = windows().states[0]
    assert states[verdict.until_step - 1] != SHUT
    assert states[verdict.until_step] == SHUT


@pytest.mark.parametrize(
    ("reading", "rule"),
    [
        (InstrumentReading(22.0, 92.0, 24.0), "humidity"),
        (InstrumentReading(22.0, 60.0, 15.0), "dew-margin"),
        (InstrumentReading(8.0, 50.0, 20.0), "air-temp-low"),
        (InstrumentReading(22.0, 50.0, 9.0), "surface-temp-low"),
        (InstrumentReading(31.0, 30.0, 25.0), "air-temp-high"),
    ],
)
def test_what_was_measured_out_of_bounds_forbids(reading, rule):
    verdict = answer(reading)
    assert not verdict.may_paint
    assert verdict.until_step is None
    assert rule in {r.rule for r in verdict.reasons if r.broken}


def test_a_colder_wall_ends_its_day_sooner():
    computed = float(windows().climate.surface_temp_c[0, NOON])
    warm = answer(InstrumentReading(22.0, 50.0, computed))
    cold = answer(InstrumentReading(22.0, 45.0, computed - 4.0))
    assert cold.until_step is None or cold.until_step < warm.until_step
    assert cold.bias_c == pytest.approx(-4.0)


def test_one_reading_shifts_a_wall_only_so_far():
    assert bias_c(InstrumentReading(20.0, 50.0, 60.0), 20.0) == MAX_BIAS_C


def test_readings_that_cannot_be_are_refused_together():
    with pytest.raises(FieldErrors) as caught:
        InstrumentReading(200.0, 101.0, float("nan")).check()
    assert set(caught.value.errors) == {"air_temp_c", "rel_humidity_pct", "surface_temp_c"}
    assert "0.6 is 60 %" in caught.value.errors["rel_humidity_pct"]

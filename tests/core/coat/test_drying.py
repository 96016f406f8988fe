"""Drying: label times hold at label conditions, and nothing dries a wall faster than its label."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.air.humid import saturation_pressure_pa, vapour_pressure_pa
from amber_gable.core.coat.drying import drying_rate, progress_h, ready_index

REFERENCE_VAPOUR_PA = float(vapour_pressure_pa(25.0, 50.0))


@pytest.mark.parametrize("kind", ["waterborne", "alkyd"])
def test_label_conditions_give_the_label_rate(kind):
    assert drying_rate(kind, 25.0, REFERENCE_VAPOUR_PA, 1.0) == pytest.approx(1.0)


@pytest.mark.parametrize("kind", ["waterborne", "alkyd"])
def test_ten_degrees_colder_is_half_as_fast(kind):
    # In dry air and wind evaporation keeps up, so that coalescence alone decides.
    assert drying_rate(kind, 15.0, 200.0, 5.0) == pytest.approx(0.5)


def test_evaporation_decides_in_damp_still_air():
    vapour = 0.9 * float(saturation_pressure_pa(25.0))
    # A tenth of saturation left, of the half at the reference: 0.2, and still air takes 1/1.5 of it.
    assert drying_rate("waterborne", 25.0, vapour, 0.0) == pytest.approx(0.2 / 1.5)
    assert drying_rate("alkyd", 25.0, vapour, 0.0) == pytest.approx(1.0)


@given(t=st.floats(-10, 70), vapour=st.floats(0, 6000), wind=st.floats(0, 20))
def test_the_rate_stays_between_nought_and_one(t, vapour, wind):
    assert 0 <= float(drying_rate("waterborne", t, vapour, wind)) <= 1


def test_times_are_reached_when_the_integral_is():
    rate = np.concatenate([np.full(5, 1.0), np.full(40, 0.5)])[None, :]
    done = progress_h(rate, 900.0)
    ready = ready_index(done, 4.0)[0]
    # 1 h at full rate (to instant 4), a half-step between, then at half rate: 0.1875 + ...
    expected = np.interp(4.0, done[0], np.arange(45))
    assert ready[0] == pytest.approx(expected, abs=1e-6)
    assert 4 + 22 < ready[0] < 4 + 26
    assert np.isinf(ready[-1])


def test_where_nothing_dries_nothing_is_ready():
    still = np.zeros((1, 20))
    assert np.isinf(ready_index(progress_h(still, 900.0), 1.0)).all()
    # A stand-still in the middle only postpones: eleven quarter-hours at nought, two at half.
    rate = np.concatenate([np.ones(9), np.zeros(12), np.ones(20)])[None, :]
    held = ready_index(progress_h(rate, 900.0), 2.5)[0][0]
    free = ready_index(progress_h(np.ones((1, 41)), 900.0), 2.5)[0][0]
    assert held == pytest.approx(free + 12, abs=0.01)


def test_the_compiled_look_up_says_what_interpolation_says():
    rng = np.random.default_rng(5)
    # Rates that stand still for hours, over many rows: the same places, and the same ends beyond the data.
    rate = np.clip(rng.normal(0.3, 0.5, (300, 120)), 0.0, 1.0)
    done = progress_h(rate, 900.0)
    # However the rows lie in memory: of some surfaces of many members they are not one after another.
    strided = np.ascontiguousarray(done.reshape(30, 10, 120).transpose(1, 0, 2)).transpose(1, 0, 2)
    assert np.array_equal(ready_index(strided, 3.0).reshape(300, 120), ready_index(done, 3.0))
    assert np.array_equal(ready_index(strided[:2], 3.0).reshape(20, 120), ready_index(done[:20], 3.0))
    for label_h in (0.0, 0.5, 3.0, 8.0):
        many = ready_index(done, label_h)
        few = np.concatenate([ready_index(done[i : i + 100], label_h) for i in (0, 100, 200)])
        assert np.array_equal(np.isinf(many), np.isinf(few))
        assert np.allclose(many[np.isfinite(many)], few[np.isfinite(few)], rtol=0, atol=1e-6)

"""Humid air against PsychroLib, published steam tables, and what must always hold."""

import sys
from unittest.mock import patch

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.air import humid as air

# Where it finds Numba it compiles each of its functions first, five seconds for what plain Python does in a few hundredths.
with patch.dict(sys.modules, {"numba": None}):
    import psychrolib

psychrolib.SetUnitSystem(psychrolib.SI)

# Saturation pressure [Pa] by temperature [°C], IAPWS SR1-86(1992).
SAT_PA = {5: 872.5, 10: 1228.1, 20: 2339.2, 30: 4246.9}
# Over ice, Murphy and Koop (2005), Q. J. R. Meteorol. Soc. 131, table C1.
ICE_PA = {-10: 259.9, -20: 103.26}

temps = st.floats(min_value=-5, max_value=45)
humidities = st.floats(min_value=5, max_value=100)


@pytest.mark.parametrize(("temp_c", "pascals"), SAT_PA.items())
def test_saturation_agrees_with_the_steam_tables(temp_c, pascals):
    # 0.1 %: the spread between the ASHRAE and IAPWS fits in this range.
    assert air.saturation_pressure_pa(temp_c) == pytest.approx(pascals, rel=1e-3)


@pytest.mark.parametrize(("temp_c", "pascals"), ICE_PA.items())
def test_saturation_over_ice(temp_c, pascals):
    assert air.saturation_pressure_over_ice_pa(temp_c) == pytest.approx(pascals, rel=1e-3)


@pytest.mark.parametrize("pressure_pa", [101_325.0, 84_000.0])
def test_dew_point_and_wet_bulb_agree_with_psychrolib(pressure_pa):
    checked = 0
    for t in np.arange(1.0, 45.1, 4.0):
        for rh in (10.0, 30.0, 60.0, 85.0, 99.0, 100.0):
            dew = psychrolib.GetTDewPointFromRelHum(t, rh / 100)
            wet = psychrolib.GetTWetBulbFromRelHum(t, rh / 100, pressure_pa)
            if dew >= 0:
                assert air.dew_point_c(t, rh) == pytest.approx(dew, abs=0.02)
            if wet >= 0:
                # PsychroLib iterates to 0.001; its dew point is the coarser of the two.
                assert air.wet_bulb_c(t, rh, pressure_pa) == pytest.approx(wet, abs=0.02)
                checked += 1
    assert checked > 50


@pytest.mark.parametrize(("air_c", "dew_c"), [(10, 5), (20, 10), (30, 20)])
def test_dew_point_agrees_with_iapws(air_c, dew_c):
    rel_humidity_pct = 100 * SAT_PA[dew_c] / SAT_PA[air_c]
    assert air.dew_point_c(air_c, rel_humidity_pct) == pytest.approx(dew_c, abs=0.02)


@given(t=temps, rh=humidities)
def test_dew_point_wet_bulb_and_air_stand_in_order(t, rh):
    dew, wet = float(air.dew_point_c(t, rh)), float(air.wet_bulb_c(t, rh))
    assert dew <= wet + 1e-6 <= t + 2e-6
    # The dew point is where the vapour saturates: that is what the word means.
    assert air.saturation_pressure_pa(dew) == pytest.approx(float(air.vapour_pressure_pa(t, rh)), rel=1e-9)


@given(t=st.floats(min_value=-40, max_value=20), rh=humidities)
def test_frost_point_is_where_ice_saturates(t, rh):
    frost = float(air.frost_point_c(t, rh))
    vapour = float(air.vapour_pressure_pa(t, rh))
    # 611.15 Pa: ice and water meet at the triple point, within the fits' own join at 0 °C.
    if vapour > 611.5:
        assert np.isnan(frost)
    elif vapour < 610.5:
        assert air.saturation_pressure_over_ice_pa(frost) == pytest.approx(vapour, rel=1e-9)
        assert frost >= float(air.dew_point_c(t, rh))


def test_saturated_air_has_no_deficit_and_broadcasts():
    deficit = air.vapour_pressure_deficit_pa(np.array([[0.0], [20.0]]), np.array([100.0, 50.0]))
    assert deficit.shape == (2, 2)
    assert deficit[:, 0] == pytest.approx([0.0, 0.0])
    assert air.dew_point_c(20.0, 100.0) == pytest.approx(20.0, abs=1e-6)


def test_a_missing_hour_stays_missing():
    assert np.isnan(air.dew_point_c(np.nan, 50.0))


@pytest.mark.parametrize("rh", [0.8, 0.0, -5.0, 100.5])
def test_humidity_out_of_range_is_refused(rh):
    with pytest.raises(air.HumidityRangeError, match="multiply them by 100") as caught:
        air.dew_point_c(20, rh)
    assert caught.value.field == "rel_humidity_pct"


def test_pressure_falls_with_altitude_as_the_standard_atmosphere():
    # U.S. Standard Atmosphere 1976: 89 874.6 Pa at 1000 m.
    assert air.pressure_at_altitude_pa(1000.0) == pytest.approx(89_874.6, rel=1e-3)

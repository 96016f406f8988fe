"""Reckoning `dew-point`."""

import math

from amber_gable.core.air import humid as air
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import AirTempC, PressureKpa, RelHumidityPct


class DewPointIn(Strict):
    air_temp_c: AirTempC
    rel_humidity_pct: RelHumidityPct
    pressure_kpa: PressureKpa = 101.325


class DewPointOut(Answer):
    dew_point_c: float
    frost_point_c: float | None
    wet_bulb_c: float
    vapour_pressure_kpa: float
    vapour_pressure_deficit_kpa: float


def dew_point(given: DewPointIn) -> DewPointOut:
    t, rh = given.air_temp_c, given.rel_humidity_pct
    frost = float(air.frost_point_c(t, rh))
    return DewPointOut(
        dew_point_c=float(air.dew_point_c(t, rh)),
        frost_point_c=None if math.isnan(frost) else frost,
        wet_bulb_c=float(air.wet_bulb_c(t, rh, given.pressure_kpa * 1000)),
        vapour_pressure_kpa=float(air.vapour_pressure_pa(t, rh)) / 1000,
        vapour_pressure_deficit_kpa=float(air.vapour_pressure_deficit_pa(t, rh)) / 1000,
    )


DEW_POINT = Reckoning(
    name="dew-point",
    title="Dew point",
    question="At which temperature does a wall turn wet in this air?",
    input_model=DewPointIn,
    output_model=DewPointOut,
    function=dew_point,
    example={"air_temp_c": 20.0, "rel_humidity_pct": 60.0},
    lead="dew_point_c",
    notes=("A wall must stay 3 °C (5 °F) above it while paint goes on and hardens; the label wins.",),
)

"""Reckonings of air and sun: `dew-point`, `sun-on-surface`."""

import math
from datetime import datetime

import numpy as np

from amber_gable.core.air import humid as air
from amber_gable.core.air import sun
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import (
    AirTempC,
    Albedo,
    AltitudeM,
    AzimuthDeg,
    CloudPct,
    Instant,
    LatitudeDeg,
    LongitudeDeg,
    PressureKpa,
    RelHumidityPct,
    TiltDeg,
)
from amber_gable.units import both


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
    notes=(both("A wall must stay 3 °C (5 °F) above it while paint goes on and hardens; the label wins."),),
)


class SunOnSurfaceIn(Strict):
    latitude_deg: LatitudeDeg
    longitude_deg: LongitudeDeg
    altitude_m: AltitudeM = 0.0
    time: Instant
    azimuth_deg: AzimuthDeg
    tilt_deg: TiltDeg
    cloud_pct: CloudPct = 0.0
    albedo: Albedo = 0.2


class SunOnSurfaceOut(Answer):
    sun_elevation_deg: float
    sun_azimuth_deg: float
    incidence_deg: float
    direct_sun: bool
    irradiance_w_m2: float
    sunrise: str | None
    sunset: str | None


def sun_on_surface(given: SunOnSurfaceIn) -> SunOnSurfaceOut:
    moment = datetime.fromisoformat(given.time)
    place = sun.Place(given.latitude_deg, given.longitude_deg, given.altitude_m)
    sky = sun.sky(place, np.array([moment.timestamp()]), given.cloud_pct)
    light = sun.on_planes(sky, given.azimuth_deg, given.tilt_deg, given.albedo)
    rise, sets = sun.rise_and_set(place, moment)
    return SunOnSurfaceOut(
        sun_elevation_deg=float(sky.elevation_deg[0]),
        sun_azimuth_deg=float(sky.azimuth_deg[0]),
        incidence_deg=float(light.incidence_deg[0, 0]),
        direct_sun=bool(light.direct_sun[0, 0]),
        irradiance_w_m2=float(light.total_w_m2[0, 0]),
        sunrise=rise.isoformat() if rise else None,
        sunset=sets.isoformat() if sets else None,
    )


SUN_ON_SURFACE = Reckoning(
    name="sun-on-surface",
    title="Sun on a surface",
    question="Is the sun on this wall, and how strong?",
    input_model=SunOnSurfaceIn,
    output_model=SunOnSurfaceOut,
    function=sun_on_surface,
    example={
        "latitude_deg": 43.8,
        "longitude_deg": -91.25,
        "altitude_m": 205.0,
        "time": "2026-09-15T10:30:00-05:00",
        "azimuth_deg": 90.0,
        "tilt_deg": 90.0,
        "cloud_pct": 20.0,
    },
    lead="irradiance_w_m2",
    notes=("Azimuth is where the surface faces: 0 north, 90 east, 180 south, 270 west.",),
)

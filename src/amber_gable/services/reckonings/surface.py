"""Reckoning `surface-temperature`."""

from datetime import datetime
from typing import Annotated

import numpy as np
from pydantic import Field

from amber_gable.core.air import sun
from amber_gable.core.air.weather import MAX_HOURS, Weather
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.wall.convection import Roughness
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import (
    Absorptance,
    AirTempC,
    AltitudeM,
    AzimuthDeg,
    CloudPct,
    HeatCapacity,
    Instant,
    LatitudeDeg,
    LongitudeDeg,
    RelHumidityPct,
    TiltDeg,
    WindFromDeg,
    WindMs,
)


class HourIn(Strict):
    time: Instant
    air_temp_c: AirTempC
    rel_humidity_pct: RelHumidityPct
    wind_m_s: WindMs
    cloud_pct: CloudPct


class SurfaceHourIn(HourIn):
    wind_from_deg: WindFromDeg | None = None


class SurfaceTemperatureIn(Strict):
    latitude_deg: LatitudeDeg
    longitude_deg: LongitudeDeg
    altitude_m: AltitudeM = 0.0
    azimuth_deg: AzimuthDeg
    tilt_deg: TiltDeg
    solar_absorptance: Absorptance
    heat_capacity_kj_m2k: HeatCapacity
    roughness: Roughness = "medium-smooth"
    hours: Annotated[list[SurfaceHourIn], Field(min_length=2, max_length=MAX_HOURS)]


class HourOut(Answer):
    time: str
    surface_temp_c: float
    dew_margin_c: float
    direct_sun: bool
    wet: bool


class SurfaceTemperatureOut(Answer):
    hours: list[HourOut]


def surface_temperature(given: SurfaceTemperatureIn) -> SurfaceTemperatureOut:
    weather = Weather(
        times=[datetime.fromisoformat(h.time) for h in given.hours],
        air_temp_c=np.array([h.air_temp_c for h in given.hours]),
        rel_humidity_pct=np.array([h.rel_humidity_pct for h in given.hours]),
        wind_m_s=np.array([h.wind_m_s for h in given.hours]),
        cloud_pct=np.array([h.cloud_pct for h in given.hours]),
        # Not a number where it is not given: the mean of both sides counts there.
        wind_from_deg=np.array([h.wind_from_deg for h in given.hours], dtype=float),
    )
    place = sun.Place(given.latitude_deg, given.longitude_deg, given.altitude_m)
    surface = ClimateSurface(
        "surface", given.azimuth_deg, given.tilt_deg, given.solar_absorptance, given.heat_capacity_kj_m2k, roughness=given.roughness
    )
    climate = simulate(place, weather, [surface])
    temp = climate.grid.at_listed(weather, climate.surface_temp_c[0])
    margin = climate.grid.at_listed(weather, climate.dew_margin_c[0])
    wet = climate.grid.nearest_listed(weather, climate.wet[0])
    # The sun at the listed times themselves, which need not lie on the quarter-hours.
    light = sun.on_planes(sun.sky(place, weather.epoch_s, weather.cloud_pct), given.azimuth_deg, given.tilt_deg)
    return SurfaceTemperatureOut(
        hours=[
            HourOut(
                time=hour.time,
                surface_temp_c=float(temp[i]),
                dew_margin_c=float(margin[i]),
                direct_sun=bool(light.direct_sun[0, i]),
                wet=bool(wet[i]),
            )
            for i, hour in enumerate(given.hours)
        ]
    )


_EXAMPLE_HOURS = [
    # A clear September day on the river: dew at dawn, a warm afternoon.
    (5, 12.6, 97.0, 0.5), (6, 12.4, 98.0, 0.4), (7, 12.8, 96.0, 0.4), (8, 13.9, 90.0, 0.6),
    (9, 15.2, 83.0, 1.1), (10, 16.6, 76.0, 1.6), (11, 18.3, 68.0, 2.1), (12, 19.9, 61.0, 2.5),
    (13, 21.2, 56.0, 2.8), (14, 22.1, 52.0, 3.0), (15, 22.6, 50.0, 3.1), (16, 22.6, 50.0, 3.0),
    (17, 22.0, 52.0, 2.8), (18, 20.9, 56.0, 2.4), (19, 19.4, 62.0, 2.0), (20, 17.9, 68.0, 1.6),
]  # fmt: skip

SURFACE_TEMPERATURE = Reckoning(
    name="surface-temperature",
    title="Surface temperature",
    question="How warm is this wall hour by hour, and is it wet?",
    input_model=SurfaceTemperatureIn,
    output_model=SurfaceTemperatureOut,
    function=surface_temperature,
    example={
        "latitude_deg": 43.8,
        "longitude_deg": -91.25,
        "altitude_m": 205.0,
        "azimuth_deg": 90.0,
        "tilt_deg": 90.0,
        "solar_absorptance": 0.6,
        "heat_capacity_kj_m2k": 12.0,
        "hours": [
            {
                "time": f"2026-09-15T{hour:02d}:00:00-05:00",
                "air_temp_c": air,
                "rel_humidity_pct": humidity,
                "wind_m_s": wind,
                "cloud_pct": 20.0,
            }
            for hour, air, humidity, wind in _EXAMPLE_HOURS
        ],
    },
    lead="hours",
    notes=(
        "Heat capacity in kJ/m2K: thin metal 4, vinyl 3, wood siding 12, stucco 40, brick or block 150.",
        "Solar absorptance is about 1 - LRV/100 of the colour.",
    ),
)

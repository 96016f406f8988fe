"""Reckonings of a coat in the weather: `drying`, `wood-moisture`, `drift`."""

from datetime import datetime, timedelta
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from amber_gable.core.air.humid import wet_bulb_c
from amber_gable.core.air.weather import MAX_HOURS, Weather
from amber_gable.core.coat.drift import flight
from amber_gable.core.coat.drying import Exposure, dried_at
from amber_gable.core.wall.wood_moisture import equilibrium_moisture_pct
from amber_gable.errors import PlanError
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import AirTempC, DropletUm, HeightM, Instant, LabelH, RelHumidityPct, SurfaceTempC, WindMs
from amber_gable.units import both


class DryingHourIn(Strict):
    time: Instant
    air_temp_c: AirTempC
    rel_humidity_pct: RelHumidityPct
    wind_m_s: WindMs
    surface_temp_c: SurfaceTempC


class DryingIn(Strict):
    kind: Literal["waterborne", "alkyd"]
    label_touch_h: LabelH
    label_recoat_h: LabelH
    label_rain_h: LabelH
    start: Instant
    hours: Annotated[list[DryingHourIn], Field(min_length=2, max_length=MAX_HOURS)]


class DryingOut(Answer):
    touch_dry_at: str | None
    recoat_at: str | None
    rain_ready_at: str | None
    slowest_factor: Literal["evaporation", "temperature", "none"]


def drying(given: DryingIn) -> DryingOut:
    start = datetime.fromisoformat(given.start)
    air = np.array([h.air_temp_c for h in given.hours])
    humidity = np.array([h.rel_humidity_pct for h in given.hours])
    wind = np.array([h.wind_m_s for h in given.hours])
    times = [datetime.fromisoformat(h.time) for h in given.hours]
    # The same checks of order and gaps as everywhere.
    weather = Weather(times, air, humidity, wind, np.zeros(len(air)))
    if not times[0] <= start <= times[-1]:
        raise PlanError(f"The start must lie within the hours given: {given.hours[0].time} to {given.hours[-1].time}.", "start")
    exposure = Exposure(weather.epoch_s, air, humidity, wind, np.array([h.surface_temp_c for h in given.hours]))
    labels = (given.label_touch_h, given.label_recoat_h, given.label_rain_h)
    dried = dried_at(given.kind, labels, start.timestamp(), exposure)
    touch, recoat, rain = (None if s is None else (start + timedelta(seconds=s - start.timestamp())).isoformat() for s in dried.at_s)
    return DryingOut(touch_dry_at=touch, recoat_at=recoat, rain_ready_at=rain, slowest_factor=dried.slowest)


class WoodMoistureIn(Strict):
    temp_c: AirTempC
    rel_humidity_pct: RelHumidityPct


class WoodMoistureOut(Answer):
    equilibrium_moisture_pct: float


def wood_moisture(given: WoodMoistureIn) -> WoodMoistureOut:
    return WoodMoistureOut(equilibrium_moisture_pct=float(equilibrium_moisture_pct(given.temp_c, given.rel_humidity_pct)))


class DriftIn(Strict):
    kind: Literal["waterborne", "oil"] = "waterborne"
    droplet_um: DropletUm
    height_m: HeightM
    wind_m_s: WindMs
    air_temp_c: AirTempC
    rel_humidity_pct: RelHumidityPct


class DriftOut(Answer):
    fall_s: float
    dry_s: float | None
    distance_m: float
    lands: Literal["dry", "wet"]


def drift(given: DriftIn) -> DriftOut:
    # In saturated air the wet bulb is the air itself, and nothing evaporates: not by a hair either.
    wet_bulb = given.air_temp_c if given.rel_humidity_pct >= 100 else float(wet_bulb_c(given.air_temp_c, given.rel_humidity_pct))
    flown = flight(given.kind, given.droplet_um, given.height_m, given.wind_m_s, given.air_temp_c, wet_bulb)
    return DriftOut(fall_s=flown.fall_s, dry_s=flown.dry_s, distance_m=flown.distance_m, lands=flown.lands)


_DAY = ((9, 14.0, 78.0, 1.0, 14.5), (11, 17.0, 66.0, 1.5, 19.0), (13, 20.0, 55.0, 2.0, 23.0), (15, 22.0, 50.0, 2.5, 25.0),
        (17, 21.5, 52.0, 2.0, 23.0), (19, 18.0, 66.0, 1.0, 17.5), (21, 15.0, 80.0, 0.5, 13.5))  # fmt: skip

COAT_WEATHER = (
    Reckoning(
        "drying", "Drying", "When may the next coat follow?", DryingIn, DryingOut, drying,
        {
            "kind": "waterborne", "label_touch_h": 1.0, "label_recoat_h": 4.0, "label_rain_h": 4.0, "start": "2026-09-15T11:00:00-05:00",
            "hours": [
                {"time": f"2026-09-15T{h:02d}:00:00-05:00", "air_temp_c": air, "rel_humidity_pct": rh, "wind_m_s": wind,
                 "surface_temp_c": wall}
                for h, air, rh, wind, wall in _DAY
            ],
        },
        "recoat_at",
        (both("Label times hold at 25 °C (77 °F) and 50 %; warmer and drier never shortens them."),),
    ),
    Reckoning(
        "wood-moisture", "Wood moisture", "How dry does wood get in this air?", WoodMoistureIn, WoodMoistureOut, wood_moisture,
        {"temp_c": 18.0, "rel_humidity_pct": 70.0}, "equilibrium_moisture_pct",
        ("Where it ends, not where it is: a soaked board needs days. The meter on the board decides.",),
    ),
    Reckoning(
        "drift", "Drift", "How far does overspray go?", DriftIn, DriftOut, drift,
        {"droplet_um": 100.0, "height_m": 5.0, "wind_m_s": 3.0, "air_temp_c": 22.0, "rel_humidity_pct": 50.0}, "distance_m",
        ("Dry overspray still bonds to warm car paint: dry lowers the risk and never clears it. Cover what stands downwind.",),
    ),
)  # fmt: skip

"""Reckoning `windows`: the engine's own answer for surfaces, a product and weather that are given in the request."""

from datetime import UTC, datetime
from typing import Annotated, Any, Literal
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np
from pydantic import Field

from amber_gable.core.air import sun
from amber_gable.core.air.weather import MAX_HOURS, QUARTER_S, Weather
from amber_gable.core.knowledge import Product
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import STATE_NAMES, HouseRules, Windows, find_windows, spans
from amber_gable.core.windows.starts import permitted
from amber_gable.errors import PlanError
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import (
    Absorptance,
    AirTempC,
    AltitudeM,
    AzimuthDeg,
    ChancePct,
    CoatH,
    DewMarginC,
    GustMs,
    LabelH,
    LatitudeDeg,
    LongitudeDeg,
    RainMm,
    RelHumidityPct,
    SpanH,
    SurfaceTempC,
    TiltDeg,
    WindFromDeg,
    WindLimitMs,
    YoungShare,
)
from amber_gable.services.reckonings.surface import HourIn

_QUARTERS = 4
_MOST_SURFACES = 100


class WindowHourIn(HourIn):
    wind_gust_m_s: GustMs = None
    wind_from_deg: WindFromDeg
    rain_mm: RainMm
    rain_probability_pct: ChancePct


class WindowSurfaceIn(Strict):
    name: Annotated[str, Field(min_length=1, max_length=120)]
    azimuth_deg: AzimuthDeg
    tilt_deg: TiltDeg
    solar_absorptance: Absorptance
    cladding: Literal["thin-metal", "vinyl", "wood", "stucco", "render-on-masonry", "masonry"]


class WindowProductIn(Strict):
    kind: Literal["waterborne", "alkyd"]
    min_surface_temp_c: SurfaceTempC
    max_surface_temp_c: SurfaceTempC
    min_air_temp_c: AirTempC
    max_air_temp_c: AirTempC
    max_rel_humidity_pct: RelHumidityPct
    min_dew_margin_c: DewMarginC
    rain_free_h: SpanH
    hold_h: SpanH = 24.0
    hold_min_surface_temp_c: SurfaceTempC = 2.0
    touch_h: LabelH
    recoat_h: LabelH


class WindowsIn(Strict):
    latitude_deg: LatitudeDeg
    longitude_deg: LongitudeDeg
    altitude_m: AltitudeM = 0.0
    time_zone: str
    hours: Annotated[list[WindowHourIn], Field(min_length=2, max_length=MAX_HOURS)]
    surfaces: Annotated[list[WindowSurfaceIn], Field(min_length=1, max_length=_MOST_SURFACES)]
    product: WindowProductIn
    method: Literal["brush", "roller", "sprayer"]
    max_wind_m_s: WindLimitMs
    max_rain_probability_pct: ChancePct
    sun_rule: Literal["shade", "surface-cap"]
    coat_h: CoatH
    young_share: YoungShare = 0.5


class ReasonOut(Answer):
    rule: str
    value: float
    limit: float
    margin: float


class WindowHourOut(Answer):
    time: str
    state: Literal["open", "tight", "shut"]
    surface_temp_c: float
    dew_margin_c: float
    wet: bool
    reasons: list[ReasonOut]


class StartOut(Answer):
    # The contract calls it "from", which is a word of the language.
    from_: str = Field(serialization_alias="from")
    until: str


class WindowSurfaceOut(Answer):
    name: str
    hours: list[WindowHourOut]
    starts: list[StartOut]


class WindowsOut(Answer):
    surfaces: list[WindowSurfaceOut]


def _weather(hours: list[WindowHourIn]) -> Weather:
    def column(name: str) -> Any:
        return np.array([getattr(h, name) for h in hours], dtype=float)

    # Where no gust is given the wind itself counts.
    gust = np.array([h.wind_m_s if h.wind_gust_m_s is None else h.wind_gust_m_s for h in hours])
    return Weather(
        times=[datetime.fromisoformat(h.time) for h in hours], air_temp_c=column("air_temp_c"), rel_humidity_pct=column("rel_humidity_pct"),
        wind_m_s=column("wind_m_s"), cloud_pct=column("cloud_pct"), wind_gust_m_s=gust, wind_from_deg=column("wind_from_deg"),
        rain_mm=column("rain_mm"), rain_probability_pct=column("rain_probability_pct"),
    )  # fmt: skip


def _check(given: WindowsIn) -> ZoneInfo:
    product = given.product
    if product.min_surface_temp_c >= product.max_surface_temp_c:
        raise PlanError("The lowest surface temperature must lie below the highest.", "product.min_surface_temp_c")
    if product.min_air_temp_c >= product.max_air_temp_c:
        raise PlanError("The lowest air temperature must lie below the highest.", "product.min_air_temp_c")
    try:
        return ZoneInfo(given.time_zone)
    except (ZoneInfoNotFoundError, ValueError, OSError) as fault:
        raise PlanError("Not a time zone. Give it like America/Chicago or Europe/Oslo.", "time_zone") from fault


def windows(given: WindowsIn) -> WindowsOut:
    zone = _check(given)
    knowledge = shipped()
    weather = _weather(given.hours)
    surfaces = [
        ClimateSurface.clad(s.name, s.azimuth_deg, s.tilt_deg, s.solar_absorptance, knowledge.claddings[s.cladding]) for s in given.surfaces
    ]
    climate = simulate(sun.Place(given.latitude_deg, given.longitude_deg, given.altitude_m), weather, surfaces)
    # Film and solids play no part in when a coat may go on.
    product = Product(name="As given", volume_solids_pct=40.0, dry_film_um=40.0, **given.product.model_dump())
    rules = HouseRules(
        given.max_wind_m_s, given.max_rain_probability_pct, given.sun_rule, knowledge.limits, knowledge.tight, young_share=given.young_share
    )
    result = find_windows(climate, product, rules)
    allowed = permitted(result.states, int(np.ceil(given.coat_h * _QUARTERS - 1e-9)))
    return WindowsOut(
        surfaces=[
            WindowSurfaceOut(
                name=s.name,
                hours=_hours(given, weather, result, row),
                starts=[
                    StartOut(from_=_local(result, span.first, zone), until=_local(result, span.last, zone)) for span in spans(allowed[row])
                ],
            )
            for row, s in enumerate(given.surfaces)
        ]
    )


def _local(result: Windows, step: int, zone: ZoneInfo) -> str:
    grid = result.climate.grid
    return datetime.fromtimestamp(float(grid.epoch_s[step]), UTC).astimezone(zone).isoformat()


def _hours(given: WindowsIn, weather: Weather, result: Windows, row: int) -> list[WindowHourOut]:
    climate = result.climate
    grid, count = climate.grid, result.states.shape[1]
    temp = grid.at_listed(weather, climate.surface_temp_c[row])
    margin = grid.at_listed(weather, climate.dew_margin_c[row])
    wet = grid.nearest_listed(weather, climate.wet[row])
    first = np.minimum(np.floor((weather.epoch_s - grid.epoch_s[0]) / QUARTER_S + 1e-9).astype(int), count - 1)
    out = []
    for i, hour in enumerate(given.hours):
        last = min(int(first[i]) + _QUARTERS, count)
        # The worst of the hour's quarters; the lowest number is the worst state.
        state = STATE_NAMES[int(result.states[row, first[i] : last].min())]
        reasons = [ReasonOut(rule=r.rule, value=r.value, limit=r.limit, margin=r.margin) for r in result.reasons(row, int(first[i]), last)]
        out.append(
            WindowHourOut(
                time=hour.time,
                state=state,
                surface_temp_c=float(temp[i]),
                dew_margin_c=float(margin[i]),
                wet=bool(wet[i]),
                reasons=reasons,
            )
        )
    return out


def _example_hours() -> list[dict[str, Any]]:
    """A dewy September morning, a warm afternoon, a cool night, and the day after."""
    rows = []
    for n in range(48):
        hour = n % 24
        day = np.cos((hour - 15) / 24 * 2 * np.pi)
        rows.append(
            {
                "time": f"2026-09-{15 + n // 24:02d}T{hour:02d}:00:00-05:00",
                "air_temp_c": round(16.5 + 6 * day, 1),
                "rel_humidity_pct": round(73 - 22 * day, 1),
                "wind_m_s": round(1.8 + 1.2 * day, 1),
                "cloud_pct": 20.0,
                "wind_from_deg": 200.0,
                "rain_mm": 0.0,
                "rain_probability_pct": 5.0,
            }
        )
    return rows


WINDOWS = Reckoning(
    "windows", "Windows", "Which hours may a coat go on?", WindowsIn, WindowsOut, windows,
    {
        "latitude_deg": 43.8, "longitude_deg": -91.25, "altitude_m": 205.0, "time_zone": "America/Chicago", "hours": _example_hours(),
        "surfaces": [{"name": "East wall", "azimuth_deg": 90.0, "tilt_deg": 90.0, "solar_absorptance": 0.6, "cladding": "wood"}],
        "product": {
            "kind": "waterborne", "min_surface_temp_c": 10.0, "max_surface_temp_c": 38.0, "min_air_temp_c": 10.0, "max_air_temp_c": 32.0,
            "max_rel_humidity_pct": 85.0, "min_dew_margin_c": 3.0, "rain_free_h": 4.0, "hold_h": 12.0, "hold_min_surface_temp_c": 2.0,
            "touch_h": 1.0, "recoat_h": 4.0,
        },
        "method": "roller", "max_wind_m_s": 9.0, "max_rain_probability_pct": 30.0, "sun_rule": "surface-cap", "coat_h": 2.0,
    },
    "surfaces",
    ("The state of an hour speaks of paint put on in it, and of the hours after that the fresh film needs.",),
)  # fmt: skip

"""`amber-gable gauge`: stands in for the instruments on site: air and humidity, a probe on the wall, pins in the wood, a wind cup.

    POST /v1/pair      {"code": "4711"} -> {"token": ..., "name": ..., "calibrated_on": ...}
    GET  /v1/probes    what hangs on it
    GET  /v1/stream?as_of=...&latitude=...&longitude=...&azimuth=...&tilt=...&token=...   one JSON object a line

Samples are noisy, drift over days and drop out; a probe may be silent for a while. It knows the same simulated world as the weather
stand-in, and has no clock: every request says when it is (`as_of`). A wall's probe needs to know which way its wall faces.
"""

import json
import math
import time
from collections.abc import Iterator
from datetime import datetime
from typing import Annotated, Any

from fastapi import Body, FastAPI, HTTPException, Query
from fastapi.responses import StreamingResponse

from amber_gable.standins.climate_truth import DAY, HOUR, Hour, TrueSite, bell, chance, noise, solar_hour, weather
from amber_gable.standins.weather import DEMO_STORY

NAME, CALIBRATED_ON = "Gauge 214", "2026-06-02"
# What a probe measures, the spread of one sample, how far it drifts, how often a sample is missing.
PROBES: dict[str, dict[str, tuple[float, float]]] = {
    "air": {"air_temp_c": (0.12, 0.25), "rel_humidity_pct": (0.8, 1.5)},
    "wall": {"surface_temp_c": (0.15, 0.3)},
    "pins": {"moisture_pct": (0.3, 0.4)},
    "cup": {"wind_m_s": (0.5, 0.1)},
}
_DROPS = 0.12
# A probe is off its plug now and then, for minutes.
_OFF_SHARE, _OFF_S = 0.06, 180.0
_MOST_SAMPLES = 40


def wall_temp_c(site: TrueSite, at_s: float, azimuth_deg: float, tilt_deg: float) -> float:
    """Return the temperature of a light wall [°C]: the air an hour back, warmed by the sun it sees, cooled by a clear sky."""
    now, before = weather(site, at_s), weather(site, at_s - HOUR)
    day = math.radians(360 * (at_s / DAY - 80) / 365.25)
    declination = math.radians(23.44) * math.sin(day)
    hour_angle, latitude = math.radians(15 * (solar_hour(site, at_s) - 12)), math.radians(site.latitude_deg)
    up = math.sin(latitude) * math.sin(declination) + math.cos(latitude) * math.cos(declination) * math.cos(hour_angle)
    south = math.sin(latitude) * math.cos(declination) * math.cos(hour_angle) - math.cos(latitude) * math.sin(declination)
    west = math.cos(declination) * math.sin(hour_angle)
    facing, tilt = math.radians(azimuth_deg), math.radians(tilt_deg)
    on_wall = math.cos(tilt) * up + math.sin(tilt) * (-south * math.cos(facing) - west * math.sin(facing))
    clear = 1 - 0.75 * (now.cloud_pct / 100) ** 3.4
    sun_k: float = 17.0 * clear * max(on_wall, 0.0) * (up > 0) + 3.0 * clear * max(up, 0.0)
    night_k = 2.6 * (1 - now.cloud_pct / 100) * (up <= 0)
    wall: float = 0.5 * (now.air_temp_c + before.air_temp_c) + (sun_k - night_k) / (1 + 0.15 * now.wind_m_s)
    return wall


def _truth(site: TrueSite, at_s: float, azimuth_deg: float, tilt_deg: float) -> dict[str, float]:
    here: Hour = weather(site, at_s)
    rained = sum(weather(site, at_s - h * HOUR).rain_mm for h in range(1, 25))
    return {
        "air_temp_c": here.air_temp_c, "rel_humidity_pct": here.rel_humidity_pct, "wind_m_s": here.wind_gust_m_s,
        "surface_temp_c": wall_temp_c(site, at_s, azimuth_deg, tilt_deg), "moisture_pct": min(11.0 + 0.9 * min(rained, 12.0), 28.0),
    }  # fmt: skip


def samples(site: TrueSite, at_s: float, azimuth_deg: float, tilt_deg: float, count: int) -> Iterator[dict[str, Any]]:
    """Yield what the probes send within a second each, `count` times; the same for the same moment."""
    for number in range(count):
        then_s = at_s + number
        truth = _truth(site, then_s, azimuth_deg, tilt_deg)
        for probe, measures in PROBES.items():
            is_off = chance(f"{site.key}/off/{probe}/{math.floor(then_s / _OFF_S)}") < _OFF_SHARE
            if is_off or chance(f"{site.key}/drop/{probe}/{math.floor(then_s)}") < _DROPS:
                continue
            values = {
                name: round(
                    truth[name] + spread * bell(f"{site.key}/{name}/{math.floor(then_s)}") + drift * noise(name, then_s, 9 * DAY), 2
                )
                for name, (spread, drift) in measures.items()
            }
            if "rel_humidity_pct" in values:
                values["rel_humidity_pct"] = min(max(values["rel_humidity_pct"], 1.0), 100.0)
            if "wind_m_s" in values:
                values["wind_m_s"] = max(values["wind_m_s"], 0.0)
            yield {"second": number, "probe": probe, "values": values}


def create_app(seed: int = 7, code: str = "4711", pace_s: float = 0.0) -> FastAPI:
    """Return the gauge of one simulated world.

    Parameters
    ----------
    code : str
        What its display shows; who knows it may pair.
    pace_s : float
        Real time that a second of samples takes: a real gauge sends one a second, tests do not wait.
    """
    app = FastAPI(title="Gauge stand-in", docs_url=None, redoc_url=None)
    token = f"{code}-{NAME.replace(' ', '-').lower()}"

    @app.get("/healthz")
    def healthz() -> dict[str, str]:
        return {"status": "ok"}

    @app.post("/v1/pair")
    def pair(said: Annotated[dict[str, Any], Body()]) -> dict[str, str]:
        if said.get("code") != code:
            raise HTTPException(403, "not the code on the display")
        return {"token": token, "name": NAME, "calibrated_on": CALIBRATED_ON}

    @app.get("/v1/probes")
    def probes() -> dict[str, Any]:
        return {"name": NAME, "calibrated_on": CALIBRATED_ON, "probes": {name: list(measures) for name, measures in PROBES.items()}}

    @app.get("/v1/stream")
    def stream(
        as_of: str,
        latitude: Annotated[float, Query(ge=-90, le=90)],
        longitude: Annotated[float, Query(ge=-180, le=180)],
        sent: Annotated[str, Query(alias="token")] = "",
        azimuth: Annotated[float, Query(ge=0, le=360)] = 0.0,
        tilt: Annotated[float, Query(ge=0, le=180)] = 90.0,
        count: Annotated[int, Query(ge=1, le=_MOST_SAMPLES)] = 8,
    ) -> StreamingResponse:
        if sent != token:
            raise HTTPException(401, "pair first")
        try:
            at = datetime.fromisoformat(as_of)
        except ValueError as fault:
            raise HTTPException(422, "as_of: not an ISO 8601 time") from fault
        if at.tzinfo is None:
            raise HTTPException(422, "as_of: give the UTC offset")
        site = TrueSite(seed, latitude, longitude, 0.0, DEMO_STORY)

        def lines() -> Iterator[str]:
            second = 0
            for sample in samples(site, at.timestamp(), azimuth, tilt, count):
                if pace_s and sample["second"] != second:
                    second = sample["second"]
                    time.sleep(pace_s)
                yield f"{json.dumps(sample)}\n"

        return StreamingResponse(lines(), media_type="application/x-ndjson")

    return app


def serve(host: str, port: int, seed: int, code: str) -> None:
    """Run the gauge until it is stopped."""
    import uvicorn

    print(f"Gauge on http://{host}:{port}; its display shows the code {code}.", flush=True)
    uvicorn.run(create_app(seed, code, pace_s=0.1), host=host, port=port, log_level="warning")

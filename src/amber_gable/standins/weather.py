"""`amber-gable weather`: the HTTP face of the weather stand-in.

    GET /v1/forecast?latitude=43.8&longitude=-91.25&as_of=2026-09-15T11:50:00Z
    GET /v1/observed?latitude=43.8&longitude=-91.25&from=...&to=...&as_of=...

Both take `altitude` [m], `format=csv`, and answer hourly values in SI (docs/weather-service.md).
Nothing later than `as_of` is ever told but by a forecast.
"""

import csv
import io
import math
from datetime import UTC, datetime
from typing import Annotated, Any, Literal

from fastapi import FastAPI, HTTPException, Query
from fastapi.responses import JSONResponse, Response

from amber_gable.standins.climate_truth import HOUR, Front, Hour, Story, TrueSite, weather
from amber_gable.standins.forecast import issue, issue_before

COLUMNS = (
    "time", "air_temp_c", "rel_humidity_pct", "wind_m_s", "wind_gust_m_s", "wind_from_deg",
    "cloud_pct", "rain_mm", "rain_probability_pct", "thunder_probability_pct",
)  # fmt: skip
MAX_OBSERVED_H = 400

Format = Literal["json", "csv"]
Latitude = Annotated[float, Query(ge=-90, le=90)]
Longitude = Annotated[float, Query(ge=-180, le=180)]
Altitude = Annotated[float, Query(ge=-500, le=9000)]


def _epoch(text: str) -> float:
    return datetime.fromisoformat(text).timestamp()


# The week of the demonstration: dewy mornings and warm afternoons, a wet front on Thursday, and
# dry cold air on Saturday afternoon that makes a clear cold night.
DEMO_STORY = Story(
    first_s=_epoch("2026-09-10T00:00:00+00:00"),
    last_s=_epoch("2026-09-24T00:00:00+00:00"),
    fronts=(
        Front("thursday", _epoch("2026-09-17T17:00:00+00:00"), 4.0, 9.0, 2.2),
        Front("saturday", _epoch("2026-09-19T19:00:00+00:00"), 10.5, 0.0, 0.0),
    ),
)


def _instant(text: str, field: str) -> float:
    try:
        moment = datetime.fromisoformat(text)
    except ValueError as fault:
        raise HTTPException(422, f"{field}: not an ISO 8601 time") from fault
    if moment.tzinfo is None:
        raise HTTPException(422, f"{field}: give the UTC offset")
    return moment.timestamp()


def _row(at_s: float, hour: Hour, chance_pct: float | None, thunder_pct: float | None = None) -> dict[str, Any]:
    return {
        "time": datetime.fromtimestamp(at_s, UTC).strftime("%Y-%m-%dT%H:%M:%SZ"),
        "air_temp_c": round(hour.air_temp_c, 2),
        "rel_humidity_pct": round(max(1.0, hour.rel_humidity_pct), 1),
        "wind_m_s": round(hour.wind_m_s, 2),
        "wind_gust_m_s": round(hour.wind_gust_m_s, 2),
        "wind_from_deg": round(hour.wind_from_deg) % 360,
        "cloud_pct": round(hour.cloud_pct, 1),
        "rain_mm": round(hour.rain_mm, 2),
        "rain_probability_pct": None if chance_pct is None else round(chance_pct, 1),
        "thunder_probability_pct": round(100.0 * hour.has_thunder if thunder_pct is None else thunder_pct, 1),
    }


def _answer(head: dict[str, Any], rows: list[dict[str, Any]], format: Format) -> Response:
    if format == "json":
        return JSONResponse({**head, "hours": rows})
    text = io.StringIO()
    writer = csv.DictWriter(text, COLUMNS)
    writer.writeheader()
    writer.writerows(rows)
    return Response(text.getvalue(), media_type="text/csv")


def create_app(seed: int = 7, story: Story | None = DEMO_STORY) -> FastAPI:
    """Return the service for one simulated world.

    Parameters
    ----------
    seed : int
        Picks the world; the same seed, place and time always give the same weather.
    story : Story, optional
        Fronts told beforehand; None leaves all to chance.
    """
    app = FastAPI(title="Weather stand-in", docs_url=None, redoc_url=None)

    def site(latitude: float, longitude: float, altitude: float) -> TrueSite:
        return TrueSite(seed, latitude, longitude, altitude, story)

    @app.get("/healthz")
    def healthz() -> dict[str, str]:
        return {"status": "ok"}

    @app.get("/v1/forecast")
    def forecast(latitude: Latitude, longitude: Longitude, as_of: str, altitude: Altitude = 0.0, format: Format = "json") -> Response:
        issued_s = issue_before(_instant(as_of, "as_of"))
        here = site(latitude, longitude, altitude)
        rows = [_row(at, f.hour, f.rain_probability_pct, f.thunder_probability_pct) for at, f in issue(here, issued_s)]
        head = {"issued_at": datetime.fromtimestamp(issued_s, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")}
        return _answer(head, rows, format)

    @app.get("/v1/observed")
    def observed(
        latitude: Latitude,
        longitude: Longitude,
        as_of: str,
        from_: Annotated[str, Query(alias="from")],
        to: str,
        altitude: Altitude = 0.0,
        format: Format = "json",
    ) -> Response:
        here = site(latitude, longitude, altitude)
        known_to = math.floor(_instant(as_of, "as_of") / HOUR) * HOUR
        first = math.ceil(_instant(from_, "from") / HOUR)
        # The rain of an hour is known when the hour is over.
        last = math.floor(min(_instant(to, "to"), known_to - HOUR) / HOUR)
        if last - first >= MAX_OBSERVED_H:
            raise HTTPException(422, f"at most {MAX_OBSERVED_H} hours at a time")
        rows = [_row(h * HOUR, weather(here, h * HOUR), None) for h in range(first, last + 1)]
        return _answer({"as_of": as_of}, rows, format)

    return app


def serve(host: str, port: int, seed: int) -> None:
    """Run the service until it is stopped."""
    import uvicorn

    uvicorn.run(create_app(seed), host=host, port=port, log_level="warning")

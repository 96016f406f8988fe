"""Weather made up for tests: steady, or a plain clear day and night."""

from datetime import UTC, datetime, timedelta

import numpy as np

from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import Weather
from amber_gable.standins.climate_truth import TrueSite, weather

HERON_FERRY = Place(43.80, -91.25, 205.0)
MIDNIGHT_UTC = datetime(2026, 9, 15, tzinfo=UTC)


def steady(
    hours: int = 48,
    air_c: float = 20.0,
    humidity_pct: float = 50.0,
    wind_m_s: float = 1.0,
    cloud_pct: float = 0.0,
    start: datetime = MIDNIGHT_UTC,
    **more: np.ndarray,
) -> Weather:
    """The same air, hour after hour; only the sun moves."""
    return Weather(
        times=[start + timedelta(hours=h) for h in range(hours)],
        air_temp_c=np.full(hours, air_c),
        rel_humidity_pct=np.full(hours, humidity_pct),
        wind_m_s=np.full(hours, wind_m_s),
        cloud_pct=np.full(hours, cloud_pct),
        **more,
    )


def september(hours: int = 120, mean_c: float = 17.0, swing_c: float = 6.0, dew_c: float = 11.0, **more: np.ndarray) -> Weather:
    """Clear days of a river town: warmest at three in the afternoon, dewy before sunrise."""
    h = np.arange(hours)
    local = h - 5 - 15
    air = mean_c + swing_c * np.cos(2 * np.pi * local / 24)
    # Magnus, over water: near enough to make a humidity of a dew point for a test's weather.
    humidity = 100 * np.exp(17.62 * dew_c / (243.12 + dew_c) - 17.62 * air / (243.12 + air))
    return Weather(
        times=[MIDNIGHT_UTC + timedelta(hours=int(i)) for i in h],
        air_temp_c=air,
        rel_humidity_pct=np.clip(humidity, 5, 99.5),
        wind_m_s=np.full(hours, 1.0),
        cloud_pct=np.full(hours, 10.0),
        **more,
    )


def simulated(seed: int, days: int, start: datetime = datetime(2026, 9, 1, tzinfo=UTC)) -> Weather:
    """The stand-in's hidden weather: fronts, showers, dew and fog as they come."""
    site = TrueSite(seed, HERON_FERRY.latitude_deg, HERON_FERRY.longitude_deg, HERON_FERRY.altitude_m)
    rows = [weather(site, start.timestamp() + 3600 * h) for h in range(24 * days)]

    def column(name: str) -> np.ndarray:
        return np.array([getattr(row, name) for row in rows])

    rain = column("rain_mm")
    return Weather(
        [start + timedelta(hours=h) for h in range(24 * days)], column("air_temp_c"), np.clip(column("rel_humidity_pct"), 1, 100),
        column("wind_m_s"), column("cloud_pct"), column("wind_gust_m_s"), column("wind_from_deg"), rain, 100.0 * (rain > 0),
    )  # fmt: skip

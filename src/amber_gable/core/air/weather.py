"""Hourly weather as the engine takes it, and the even time grid that everything is computed on.

Values are instantaneous at their time and linear between; rain belongs to the hour that starts
at its time. Gaps of up to three hours are interpolated, longer ones refused.
Not here: where weather comes from (services.forecasts), or what is made of it (sun,
surface_temperature, windows).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Literal

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.errors import PlanError

QUARTER_S = 900
MAX_GAP_H = 3.0
# Of hours that somebody sends; what a plan makes of them for itself may be longer.
MAX_HOURS = 400
_MOST_ROWS = 2400
# Rain is known to one hour beyond the last listed time, and so is nothing else.
RAIN_HOUR_S = 3600

# What can be measured on earth, by quantity: whatever brings weather in (service, file, form) refuses what lies outside.
RANGES: dict[str, tuple[float, float]] = {
    "air_temp_c": (-60, 60),
    "rel_humidity_pct": (1, 100),
    "wind_m_s": (0, 60),
    "wind_gust_m_s": (0, 90),
    "wind_from_deg": (0, 360),
    "cloud_pct": (0, 100),
    "rain_mm": (0, 300),
    "rain_probability_pct": (0, 100),
    "thunder_probability_pct": (0, 100),
}
_OPTIONAL = ("wind_gust_m_s", "wind_from_deg", "rain_mm", "rain_probability_pct", "thunder_probability_pct")


class WeatherError(PlanError):
    """Hours that cannot be computed with: out of order, too far apart, missing."""


@dataclass(frozen=True)
class Weather:
    """Weather at one place, one row of arrays per listed time.

    Parameters
    ----------
    times : sequence of datetime, length N >= 2
        Timezone-aware, strictly increasing, at most three hours apart.
    air_temp_c, rel_humidity_pct, wind_m_s, cloud_pct : ndarray, shape (N,)
        Instantaneous values.
    wind_gust_m_s, wind_from_deg : ndarray, shape (N,), optional
    rain_mm, rain_probability_pct, thunder_probability_pct : ndarray, shape (N,), optional
        Of the hour that starts at each time; no rain and no thunder where absent.

    Raises
    ------
    WeatherError
        Naming the first hour at fault.
    """

    times: Sequence[datetime]
    air_temp_c: Array
    rel_humidity_pct: Array
    wind_m_s: Array
    cloud_pct: Array
    wind_gust_m_s: Array | None = None
    wind_from_deg: Array | None = None
    rain_mm: Array | None = None
    rain_probability_pct: Array | None = None
    thunder_probability_pct: Array | None = None
    epoch_s: Array = field(init=False)

    def __post_init__(self) -> None:
        if len(self.times) < 2:
            raise WeatherError("Give at least two hours of weather.", "hours")
        if len(self.times) > _MOST_ROWS:
            raise WeatherError(f"Give at most {_MOST_ROWS} hours, got {len(self.times)}.", "hours")
        epoch = np.array([t.timestamp() for t in self.times])
        object.__setattr__(self, "epoch_s", epoch)
        gaps = np.diff(epoch)
        for index in np.flatnonzero(gaps <= 0)[:1]:
            raise WeatherError("Times must rise from hour to hour; sort them and drop doubles.", f"hours.{index + 1}.time")
        for index in np.flatnonzero(gaps > MAX_GAP_H * 3600)[:1]:
            raise WeatherError(
                f"{gaps[index] / 3600:g} h without weather: fill gaps longer than {MAX_GAP_H:g} h.", f"hours.{index + 1}.time"
            )
        for name in ("air_temp_c", "rel_humidity_pct", "wind_m_s", "cloud_pct", *_OPTIONAL):
            values = getattr(self, name)
            if values is None:
                continue
            # Not a number where the wind's direction is not known.
            missing = ~np.isfinite(values) if name != "wind_from_deg" else np.isinf(values)
            for index in np.flatnonzero(missing)[:1]:
                raise WeatherError("Missing value: leave the hour out or fill it in.", f"hours.{index}.{name}")


Strength = Literal["light", "heavy"]
SEEN_RAIN_MM: Mapping[Strength, float] = {"light": assumed("seen_light_mm_h"), "heavy": assumed("seen_heavy_mm_h")}


def with_rain(weather: Weather, from_s: float, until_s: float, strength: Strength = "light") -> Weather:
    """Return the weather with rain that somebody sees: certain from one moment to another, whatever was forecast.

    Parameters
    ----------
    from_s, until_s : float
        Seconds since 1970. What lies outside the listed times is left out.
    strength : Strength
        Where more was forecast or measured, that stands.

    Notes
    -----
    Both moments become listed times, so that the rain begins and ends to the minute.
    """
    first, last = float(weather.epoch_s[0]), float(weather.epoch_s[-1])
    a, b = max(from_s, first), min(until_s, last)
    if a >= b:
        return weather
    epoch = np.unique(np.concatenate([weather.epoch_s, [a, b]]))
    lies_in = np.searchsorted(weather.epoch_s, epoch + 1e-6, side="right") - 1
    values: dict[str, Array | None] = {}
    for name in ("air_temp_c", "rel_humidity_pct", "wind_m_s", "cloud_pct", "wind_gust_m_s"):
        column = getattr(weather, name)
        values[name] = None if column is None else np.interp(epoch, weather.epoch_s, column)
    for name in ("wind_from_deg", "thunder_probability_pct"):
        column = getattr(weather, name)
        values[name] = None if column is None else column[lies_in]
    raining = (epoch >= a - 1e-6) & (epoch < b - 1e-6)
    for name, seen in (("rain_mm", SEEN_RAIN_MM[strength]), ("rain_probability_pct", 100.0)):
        column = getattr(weather, name)
        before = np.zeros(len(epoch)) if column is None else column[lies_in]
        values[name] = np.where(raining, np.maximum(before, seen), before)
    return Weather([datetime.fromtimestamp(float(s), UTC) for s in epoch], **values)  # type: ignore[arg-type]


@dataclass(frozen=True)
class Grid:
    """Even quarter-hours from the first listed time to the last.

    Parameters
    ----------
    epoch_s : ndarray, shape (Q,)
        Seconds since 1970 UTC.
    step_s : float
        Distance of two instants; a quarter-hour unless a test asks for less.
    """

    epoch_s: Array
    step_s: float

    @classmethod
    def over(cls, weather: Weather, step_s: float = QUARTER_S) -> "Grid":
        """Return the grid that covers all listed times."""
        first, last = float(weather.epoch_s[0]), float(weather.epoch_s[-1])
        # Up to one step beyond the last time, so that the last listed hour is always bracketed.
        count = int(np.ceil((last - first) / step_s - 1e-9)) + 1
        return cls(first + step_s * np.arange(count, dtype=np.float64), step_s)

    def sampled(self, weather: Weather, values: Array) -> Array:
        """Return hourly values interpolated to the instants, shape (Q,)."""
        result: Array = np.interp(self.epoch_s, weather.epoch_s, values)
        return result

    def at_listed(self, weather: Weather, values: Array) -> Array:
        """Return values [..., Q] at the listed times [..., N], linear between instants."""
        place = (weather.epoch_s - self.epoch_s[0]) / self.step_s
        low = np.minimum(np.floor(place + 1e-9).astype(int), len(self.epoch_s) - 1)
        high = np.minimum(low + 1, len(self.epoch_s) - 1)
        share = np.maximum(place - low, 0.0)
        share[share < 1e-9] = 0.0
        result: Array = values[..., low] * (1 - share) + values[..., high] * share
        return result

    def nearest_listed(self, weather: Weather, values: np.ndarray) -> np.ndarray:
        """Return flags or states [..., Q] as they stand at the listed times [..., N]."""
        place = np.floor((weather.epoch_s - self.epoch_s[0]) / self.step_s + 1e-9).astype(int)
        return values[..., np.minimum(place, len(self.epoch_s) - 1)]

    def instant(self, index: int) -> datetime:
        return datetime.fromtimestamp(float(self.epoch_s[index]), UTC)

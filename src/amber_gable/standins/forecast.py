"""What the stand-in's forecaster says: the hidden weather seen with error that grows with lead.

Every six hours a new issue. Fronts come early or late, temperatures wander, and chances of rain
are honest: an hour in which it rains in seven of ten possible timings is given 70 %.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from amber_gable.standins.climate_truth import (
    HOUR,
    Front,
    Hour,
    TrueSite,
    bell,
    front_rain_mm,
    fronts_near,
    is_thundery,
    moved,
    noise,
    shower_mm,
    solar_hour,
    weather,
)

ISSUE_EVERY_H = 6
# Issues are made at 05, 11, 17 and 23 UTC.
_FIRST_ISSUE_H = 5
LEAD_H = 240
_WARM_C = 17.0
# Of an afternoon in warm air: showers that thunder.
_SHOWERS_THUNDER = 0.02
# Timings tried for the chance of rain, in spreads of the front's timing error.
_TIMINGS = (-1.6, -1.0, -0.5, -0.2, 0.0, 0.2, 0.5, 1.0, 1.6)


@dataclass(frozen=True)
class Forecast:
    """One forecast hour, its chance of rain and that of thunder."""

    hour: Hour
    rain_probability_pct: float
    thunder_probability_pct: float = 0.0


def issue_before(as_of_s: float) -> float:
    """Return when the newest issue at `as_of_s` was made [s]."""
    step = ISSUE_EVERY_H * HOUR
    return math.floor((as_of_s - _FIRST_ISSUE_H * HOUR) / step) * step + _FIRST_ISSUE_H * HOUR


def _timing_spread_h(lead_h: float) -> float:
    return 0.4 + 0.075 * max(lead_h, 0.0)


def _wander(site: TrueSite, name: str, issued_s: float, at_s: float) -> float:
    """Return an error field, spread about 1: mostly shared by issues, partly their own."""
    shared = noise(f"{site.key}/err/{name}", at_s, 33 * HOUR)
    own = noise(f"{site.key}/err/{name}/{issued_s:.0f}", at_s, 26 * HOUR)
    return 1.5 * (0.8 * shared + 0.6 * own)


def _seen(site: TrueSite, front: Front, issued_s: float) -> Front:
    lead_h = (front.passes_s - issued_s) / HOUR
    if lead_h <= 0:
        return front
    miss = 0.8 * bell(f"{site.key}/{front.name}/miss") + 0.6 * bell(f"{site.key}/{front.name}/{issued_s:.0f}")
    return moved(front, miss * _timing_spread_h(lead_h) * HOUR * 0.8)


def _rain_chance(site: TrueSite, fronts: list[Front], issued_s: float, at_s: float, cloud: float) -> float:
    lead_h = (at_s - issued_s) / HOUR
    dry = 1.0
    for front in fronts:
        spread = _timing_spread_h((front.passes_s - issued_s) / HOUR) * HOUR
        wet = sum(front_rain_mm(moved(front, k * spread), at_s, site.key) > 0.1 for k in _TIMINGS)
        dry *= 1 - 0.97 * wet / len(_TIMINGS)
    # Showers cannot be timed a day ahead, only expected.
    usual = 0.02 + (0.06 if 12 <= solar_hour(site, at_s) <= 19 else 0.0) * cloud
    if lead_h < 6:
        coming = shower_mm(site, at_s, cloud) > 0.1
        usual = usual * lead_h / 6 + (0.75 if coming else 0.01) * (1 - lead_h / 6)
    return 100 * (1 - dry * (1 - usual))


def _thunder_chance(site: TrueSite, fronts: list[Front], issued_s: float, at_s: float, air_temp_c: float) -> float:
    """Return in how many of the possible timings a front that thunders rains, and what showers in warm air add."""
    quiet = 1.0
    for front in fronts:
        if is_thundery(front, air_temp_c):
            spread = _timing_spread_h((front.passes_s - issued_s) / HOUR) * HOUR
            quiet *= 1 - 0.97 * sum(front_rain_mm(moved(front, k * spread), at_s, site.key) > 0.05 for k in _TIMINGS) / len(_TIMINGS)
    if air_temp_c >= _WARM_C and 12 <= solar_hour(site, at_s) <= 19:
        quiet *= 1 - _SHOWERS_THUNDER
    return 100 * (1 - quiet)


def forecast(site: TrueSite, issued_s: float, at_s: float) -> Forecast:
    """Return what the issue made at `issued_s` says of the hour that starts at `at_s`."""
    lead_h = max(0.0, (at_s - issued_s) / HOUR)
    fronts = [_seen(site, front, issued_s) for front in fronts_near(site, at_s)]
    hour = weather(site, at_s, fronts)
    air = hour.air_temp_c + (0.25 + 0.011 * lead_h) * _wander(site, "air", issued_s, at_s)
    dew = min(air - 0.1, hour.dew_point_c + (0.25 + 0.010 * lead_h) * _wander(site, "dew", issued_s, at_s))
    cloud = min(100.0, max(0.0, hour.cloud_pct + (4 + 0.16 * lead_h) * _wander(site, "cloud", issued_s, at_s)))
    wind = max(0.2, hour.wind_m_s * (1 + (0.06 + 0.0016 * lead_h) * _wander(site, "wind", issued_s, at_s)))
    seen = Hour(air, dew, wind, wind * 1.45 + 0.6, hour.wind_from_deg, cloud, hour.rain_mm)
    thunder = _thunder_chance(site, fronts, issued_s, at_s, air)
    return Forecast(seen, _rain_chance(site, fronts, issued_s, at_s, cloud / 100), thunder)


def issue(site: TrueSite, issued_s: float) -> Iterator[tuple[float, Forecast]]:
    """Yield the hours of an issue: from the hour it was made in, ten days on."""
    first = math.floor(issued_s / HOUR) * HOUR
    for lead in range(LEAD_H + 1):
        yield first + lead * HOUR, forecast(site, issued_s, first + lead * HOUR)

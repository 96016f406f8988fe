"""The stand-in's hidden weather: coherent hour by hour, repeatable from a seed.

Any hour can be asked for on its own: smooth noise on hashed lattices, no state. Seasons follow
the latitude, days follow the sun's hour, fronts pass every few days with cloud, rain, a wind
shift and cooler, clearer air behind them; damp calm nights end in dew or fog.

Own simple laws on purpose: the application's physics must not find itself here.
"""

import hashlib
import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache

HOUR = 3600.0
DAY = 24 * HOUR
_FRONT_CELL = 5 * DAY
# Thunder: of fronts that cool so much, and of showers that bring so much, into air as warm as this.
_THUNDERY_K, _HARD_MM, _WARM_C = 5.0, 1.0, 17.0


@dataclass(frozen=True)
class Front:
    """A front: when it passes [s], how much it cools [K], how long and hard it rains."""

    name: str
    passes_s: float
    cooling_k: float
    rain_h: float
    rain_mm_h: float


@dataclass(frozen=True)
class Story:
    """Fronts that are told beforehand for one stretch of time, in place of chance ones."""

    first_s: float
    last_s: float
    fronts: tuple[Front, ...]


@dataclass(frozen=True)
class TrueSite:
    """Where and which world: the seed and the place pick the weather."""

    seed: int
    latitude_deg: float
    longitude_deg: float
    altitude_m: float = 0.0
    story: Story | None = None

    @property
    def key(self) -> str:
        # Neighbours share their weather: a tenth of a degree is about 10 km.
        return f"{self.seed}/{self.latitude_deg:.1f}/{self.longitude_deg:.1f}"


@dataclass(frozen=True)
class Hour:
    """Instantaneous values at a time; rain of the hour that starts then."""

    air_temp_c: float
    dew_point_c: float
    wind_m_s: float
    wind_gust_m_s: float
    wind_from_deg: float
    cloud_pct: float
    rain_mm: float
    has_thunder: bool = False

    @property
    def rel_humidity_pct(self) -> float:
        return min(100.0, 100 * _saturation_hpa(self.dew_point_c) / _saturation_hpa(self.air_temp_c))


def _saturation_hpa(temp_c: float) -> float:
    # Bolton, Monthly Weather Review 108 (1980), 1046-1053.
    return 6.112 * math.exp(17.67 * temp_c / (temp_c + 243.5))


@lru_cache(maxsize=200_000)
def chance(key: str) -> float:
    """Return a number in 0..1 that belongs to `key` for ever."""
    digest = hashlib.blake2b(key.encode(), digest_size=8).digest()
    return int.from_bytes(digest, "big") / 2**64


def bell(key: str) -> float:
    """Return a roughly normal number (mean 0, spread 1) that belongs to `key`."""
    return (sum(chance(f"{key}#{i}") for i in range(6)) - 3) * math.sqrt(2)


def noise(key: str, at_s: float, period_s: float) -> float:
    """Return smooth noise through time, about -1 to 1, repeatable."""
    place = at_s / period_s
    cell = math.floor(place)
    x = place - cell
    blend = x * x * (3 - 2 * x)
    low, high = 2 * chance(f"{key}/{cell}") - 1, 2 * chance(f"{key}/{cell + 1}") - 1
    return low + (high - low) * blend


def fronts_near(site: TrueSite, at_s: float, reach_s: float = 8 * DAY) -> list[Front]:
    """Return the fronts that can be felt at a time, told or chance."""
    fronts = []
    for cell in range(math.floor((at_s - reach_s) / _FRONT_CELL), math.floor((at_s + 2 * DAY) / _FRONT_CELL) + 1):
        front = _chance_front(site.key, cell)
        story = site.story
        if story and story.first_s <= front.passes_s <= story.last_s:
            continue
        fronts.append(front)
    if site.story:
        fronts += [f for f in site.story.fronts if at_s - reach_s <= f.passes_s <= at_s + 2 * DAY]
    return fronts


@lru_cache(maxsize=4_000)
def _chance_front(key: str, cell: int) -> Front:
    k = f"{key}/front/{cell}"
    return Front(
        name=f"cell {cell}",
        passes_s=(cell + 0.1 + 0.8 * chance(f"{k}/when")) * _FRONT_CELL,
        cooling_k=2 + 6 * chance(f"{k}/cold"),
        rain_h=3 + 9 * chance(f"{k}/long") if chance(f"{k}/wet") < 0.75 else 0.0,
        rain_mm_h=0.3 + 2.5 * chance(f"{k}/hard") ** 2,
    )


def _season_c(site: TrueSite, at_s: float) -> float:
    day_of_year = (at_s / DAY) % 365.25
    swing = math.cos(2 * math.pi * (day_of_year - 200) / 365.25)
    if site.latitude_deg < 0:
        swing = -swing
    lat = abs(site.latitude_deg)
    return 28 - 0.0085 * lat**2 + 0.29 * lat * swing - 0.0065 * site.altitude_m


def _front_warmth_k(front: Front, at_s: float) -> float:
    hours = (at_s - front.passes_s) / HOUR
    if hours < 0:
        return 0.25 * front.cooling_k * math.exp(hours / 24)
    return -front.cooling_k * math.exp(-hours / 44) * (1 - math.exp(-hours / 5))


def front_rain_mm(front: Front, at_s: float, key: str) -> float:
    """Return the front's rain in the hour that starts at a time."""
    if front.rain_h <= 0:
        return 0.0
    into = (at_s - (front.passes_s - 0.3 * front.rain_h * HOUR)) / (front.rain_h * HOUR)
    if not 0 <= into < 1:
        return 0.0
    return front.rain_mm_h * math.sin(math.pi * into) * (1 + 0.5 * noise(f"{key}/band", at_s, 1.7 * HOUR))


def shower_mm(site: TrueSite, at_s: float, cloud: float) -> float:
    """Return what a passing shower brings in the hour, mostly nothing."""
    cell = math.floor(at_s / (3 * HOUR))
    k = f"{site.key}/shower/{cell}"
    sun_hour = solar_hour(site, at_s)
    likely = 0.01 + (0.05 if 12 <= sun_hour <= 19 else 0.0) * cloud
    if chance(f"{k}/is") > likely or chance(f"{k}/{math.floor(at_s / HOUR) % 3}") < 0.4:
        return 0.0
    return 0.2 + 3 * chance(f"{k}/amount") ** 2


def is_thundery(front: Front, air_temp_c: float) -> bool:
    """Return whether a front that rains brings thunder: a strong one, into warm air."""
    return front.cooling_k >= _THUNDERY_K and air_temp_c >= _WARM_C


def solar_hour(site: TrueSite, at_s: float) -> float:
    """Return the hour of the local mean sun, 0 to 24."""
    return ((at_s / HOUR) + site.longitude_deg / 15) % 24


def weather(site: TrueSite, at_s: float, fronts: Iterable[Front] | None = None) -> Hour:
    """Return the weather at a time.

    Parameters
    ----------
    site : TrueSite
    at_s : float
        Seconds since 1970 UTC.
    fronts : iterable of Front, optional
        In place of the true ones: how a forecast sees them.
    """
    key = site.key
    near = list(fronts) if fronts is not None else fronts_near(site, at_s)
    mean = _season_c(site, at_s) + 2.0 * noise(f"{key}/air", at_s, 3.4 * DAY)
    cloud = 0.28 + 0.4 * noise(f"{key}/cloud", at_s, 19 * HOUR)
    wind = 1.9 + 1.2 * noise(f"{key}/wind", at_s, 15 * HOUR)
    wind_from = 225 + 40 * noise(f"{key}/from", at_s, 40 * HOUR)
    dry_k = 0.0
    rain = 0.0
    for front in near:
        hours = (at_s - front.passes_s) / HOUR
        warmth = _front_warmth_k(front, at_s)
        mean += warmth
        # Behind a front the air is not only cooler but drier, and the sky clears.
        dry_k += 0.45 * max(0.0, -warmth)
        cloud += (0.8 if front.rain_h else 0.4) * math.exp(-(((hours + 1) / 7) ** 2))
        if hours > 0:
            cloud -= 0.30 * math.exp(-hours / 40) * (1 - math.exp(-hours / 8))
            wind_from += 85 * math.exp(-hours / 50) * (1 - math.exp(-hours / 2))
        wind += 3.5 * math.exp(-abs(hours) / 7)
        rain += front_rain_mm(front, at_s, key)
    cloud = min(1.0, max(0.0, cloud))
    sun_hour = solar_hour(site, at_s)
    shower = shower_mm(site, at_s, cloud) if fronts is None else 0.0
    rain += shower
    # Clear days swing widely. The hottest hour is about three, the coldest about sunrise.
    swing = (6.9 - 4.4 * cloud) * (0.75 + 0.25 * math.cos(math.radians(site.latitude_deg)))
    phase = 2 * math.pi * (sun_hour - 14.6) / 24
    air = mean + swing * (math.cos(phase) + 0.16 * math.cos(2 * phase))
    dew = mean - 0.66 * (6.9 - 3.4 * cloud) - dry_k + 1.1 * noise(f"{key}/dew", at_s, 31 * HOUR)
    thunder = (shower >= _HARD_MM and air >= _WARM_C) or any(front_rain_mm(f, at_s, key) > 0 and is_thundery(f, air) for f in near)
    if rain > 0.05:
        air -= 1.2
        dew = max(dew, air - 1.2)
        cloud = max(cloud, 0.65)
    wind = max(0.3, wind + 1.6 * max(0.0, math.sin(math.pi * (sun_hour - 8) / 12)) - (0.7 if sun_hour < 7 else 0.0))
    if air < dew + 0.25:
        # The air stops cooling where dew and fog give off their heat.
        air = dew + 0.25
        if wind < 1.4:
            cloud = max(cloud, 0.75)
    return Hour(
        air_temp_c=air,
        dew_point_c=dew,
        wind_m_s=wind,
        wind_gust_m_s=wind * 1.45 + 0.6 + (1.5 if rain > 0.3 else 0.0),
        wind_from_deg=wind_from % 360,
        cloud_pct=100 * cloud,
        rain_mm=rain if rain >= 0.05 else 0.0,
        has_thunder=thunder and rain >= 0.05,
    )


def moved(front: Front, by_s: float) -> Front:
    return replace(front, passes_s=front.passes_s + by_s)

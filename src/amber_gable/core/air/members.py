"""Members: courses that the weather may take about a forecast, and about what is told of a site.

Errors of a forecast grow with its lead time and hang together from hour to hour; those of a site stay (site_errors).
Not here: how large they are (forecast_errors, site_errors), what a course does to surfaces (wall.climate), what may be painted in it
(windows.chances).
"""

from dataclasses import dataclass, replace
from statistics import NormalDist

import numpy as np

from amber_gable.core.air.humid import Array, dew_point_c, saturation_pressure_pa, vapour_pressure_pa
from amber_gable.core.air.site_errors import SiteErrors
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge import ErrorModel

MEMBERS = 100
# Rain of a member is at least this: a chance is of rain that counts [mm in the hour].
_SHOWER_MM = 0.5
_LEAST_GAP_C = 0.05
# Tails grow no heavier beyond so many spreads.
_FARTHEST = 3.0


def wander(rng: np.random.Generator, members: int, hours: int, hold: float) -> Array:
    """Return noise of spread 1 that hangs together from hour to hour, shape (members, hours).

    Parameters
    ----------
    hold : float
        What is left of an error an hour later, 0 to 1.
    """
    steps = rng.standard_normal((members, hours))
    steps[:, 1:] *= np.sqrt(1 - hold**2)
    out = np.empty_like(steps)
    out[:, 0] = steps[:, 0]
    for h in range(1, hours):
        out[:, h] = hold * out[:, h - 1] + steps[:, h]
    return out


def tailed(noise: Array, tail: float) -> Array:
    """Return normal noise with heavier tails, shape as given: Tukey's h-distribution.

    Parameters
    ----------
    noise : ndarray
        Of spread 1.
    tail : float
        h, 0 for normal.

    References
    ----------
    Hoaglin, Exploring Data Tables, Trends and Shapes (1985), ch. 11: z exp(h z²/2).
    """
    result: Array = noise * np.exp(tail * np.minimum(noise**2, _FARTHEST**2) / 2)
    return result


@dataclass(frozen=True)
class Members:
    """Hourly courses of weather, each shape (members, N), at a forecast's listed times."""

    air_temp_c: Array
    rel_humidity_pct: Array
    wind_m_s: Array
    wind_gust_m_s: Array
    cloud_pct: Array
    rain_mm: Array


def members_of(weather: Weather, issued_s: float, model: ErrorModel, count: int = MEMBERS, seed: int = 0) -> Members:
    """Return courses that the weather may take; what was observed before the issue is the same in all.

    Parameters
    ----------
    weather : Weather
        N hours, observed ones first.
    issued_s : float
        When the forecast was made; errors grow from there.
    model : ErrorModel
    count, seed : int
        The same seed gives the same members.
    """
    rng = np.random.default_rng(seed)
    lead = (weather.epoch_s - issued_s) / 3600
    ahead, hours = (lead > 0).astype(float), len(lead)
    # Errors between listed times that lie apart hang together less: by the hour is near enough for gaps of three.
    shared = wander(rng, count, hours, model.hold)
    part = np.sqrt(1 - model.air_dew**2)
    air_noise, dew_noise = shared, model.air_dew * shared + part * wander(rng, count, hours, model.hold)
    wind_noise, cloud_noise = wander(rng, count, hours, model.hold), wander(rng, count, hours, model.hold)

    air_noise, dew_noise = tailed(air_noise, model.air_tail), tailed(dew_noise, model.dew_tail)
    wind_noise, cloud_noise = tailed(wind_noise, model.wind_tail), tailed(cloud_noise, model.cloud_tail)

    def spread(base: float, per_h: float) -> Array:
        result: Array = ahead * (base + per_h * np.maximum(lead, 0.0))
        return result

    air = weather.air_temp_c + spread(model.air_c, model.air_c_per_h) * air_noise
    told_dew = dew_point_c(weather.air_temp_c, weather.rel_humidity_pct)
    dew = np.minimum(told_dew + spread(model.dew_c, model.dew_c_per_h) * dew_noise, air - np.where(lead > 0, _LEAST_GAP_C, 0.0))
    humidity = np.where(lead > 0, 100 * saturation_pressure_pa(dew) / saturation_pressure_pa(air), weather.rel_humidity_pct)
    gusty = np.exp(spread(model.wind_frac, model.wind_frac_per_h) * wind_noise)
    told_gust = weather.wind_m_s if weather.wind_gust_m_s is None else weather.wind_gust_m_s
    cloud = weather.cloud_pct + spread(model.cloud_pct, model.cloud_pct_per_h) * cloud_noise
    return Members(
        air, np.clip(humidity, 1.0, 100.0), weather.wind_m_s * gusty, told_gust * gusty, np.clip(cloud, 0.0, 100.0),
        _rains(weather, ahead, wander(rng, count, hours, model.rain_hold)),
    )  # fmt: skip


def _rains(weather: Weather, ahead: Array, noise: Array) -> Array:
    """Return the rain of members: it falls in an hour in as many of them as its chance says, and hangs together."""
    forecast_mm = np.zeros(len(ahead)) if weather.rain_mm is None else weather.rain_mm
    chance = 100.0 * (forecast_mm > 0) if weather.rain_probability_pct is None else weather.rain_probability_pct
    normal = NormalDist()
    # The noise is below this as often as the chance says; what is certain is certain.
    bound = np.array([normal.inv_cdf(p) if 0 < p < 1 else np.inf * (2 * p - 1) for p in chance / 100])
    falls = noise < bound
    amount = np.maximum(forecast_mm, _SHOWER_MM)
    result: Array = np.where(ahead > 0, np.where(falls, amount, 0.0), forecast_mm)
    return result


def at_site(members: Members, site: SiteErrors, seed: int = 0) -> Members:
    """Return members as the site may have them: each with constant errors of its own, in the observed hours too.

    Parameters
    ----------
    members : Members
    site : SiteErrors
        What is believed of the difference between the site and what is told of it.
    seed : int
        The same seed draws the same errors, whatever the members are.
    """
    air_k, vapour_frac, wind_frac = site.drawn(len(members.air_temp_c), seed)
    air = members.air_temp_c + air_k[:, None]
    vapour = vapour_pressure_pa(members.air_temp_c, members.rel_humidity_pct) * np.exp(vapour_frac)[:, None]
    gusty = np.exp(wind_frac)[:, None]
    return replace(
        members, air_temp_c=air, rel_humidity_pct=np.clip(100 * vapour / saturation_pressure_pa(air), 1.0, 100.0),
        wind_m_s=members.wind_m_s * gusty, wind_gust_m_s=members.wind_gust_m_s * gusty,
    )  # fmt: skip

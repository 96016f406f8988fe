"""The sun: where it stands, how much of it reaches a plane, when it rises and sets.

Position, clear sky and diffuse split come from pvlib; the transposition to planes is written out
over [surface, instant], since pvlib does one plane at a time.
Not here: what the light does to a surface's temperature (surface_temperature), or which hours
count as work (windows).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.air.pvlibs import modules
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.wall.self_shade import LitTable

# The upper limb on the horizon with standard refraction.
HORIZON_DEG = -0.833
# Below this, light casts no shadow that a painter would follow (reckonings.md).
DIRECT_MIN_W_M2 = 120.0
DEFAULT_ALBEDO = 0.2
SUNLIT_SHARE = assumed("sunlit_share")


@dataclass(frozen=True)
class Place:
    """A point on the earth: degrees north and east, metres above the sea."""

    latitude_deg: float
    longitude_deg: float
    altitude_m: float = 0.0


@dataclass(frozen=True)
class Sky:
    """Sun and sky at Q instants.

    Parameters
    ----------
    elevation_deg, azimuth_deg : ndarray, shape (Q,)
        Apparent (refracted) elevation; azimuth clockwise from north.
    true_elevation_deg : ndarray, shape (Q,)
        Without refraction, as rising and setting are defined.
    global_w_m2, direct_normal_w_m2, diffuse_w_m2 : ndarray, shape (Q,)
        Irradiance under the given cloud.
    extra_w_m2 : ndarray, shape (Q,)
        Normal irradiance outside the atmosphere.
    """

    elevation_deg: Array
    azimuth_deg: Array
    true_elevation_deg: Array
    global_w_m2: Array
    direct_normal_w_m2: Array
    diffuse_w_m2: Array
    extra_w_m2: Array

    @property
    def is_day(self) -> NDArray[np.bool_]:
        """Sun above the horizon, by the same definition as sunrise and sunset."""
        return self.true_elevation_deg > HORIZON_DEG


@dataclass(frozen=True)
class Irradiance:
    """Light on planes, each shape (S, Q).

    Parameters
    ----------
    total_w_m2 : ndarray
        Beam, sky and ground-reflected short wave on the plane.
    incidence_deg : ndarray
        Angle between the sun and the plane's normal.
    direct_sun : ndarray of bool
        Incidence under 90°, sun up, and at least 120 W/m2 direct normal.
    """

    total_w_m2: Array
    incidence_deg: Array
    direct_sun: NDArray[np.bool_]


@dataclass(frozen=True)
class Shade:
    """A sector of the horizon that something hides up to a height.

    Parameters
    ----------
    from_deg, to_deg : float
        Azimuths clockwise from north, from the left edge to the right; may pass over north.
    up_to_deg : float
        Elevation angle of its top, 0 to 90.
    """

    from_deg: float
    to_deg: float
    up_to_deg: float

    def hides(self, azimuth_deg: Array, elevation_deg: Array) -> NDArray[np.bool_]:
        """Return where the sun stands behind it."""
        width = (self.to_deg - self.from_deg) % 360 or 360.0
        within: NDArray[np.bool_] = (azimuth_deg - self.from_deg) % 360 <= width
        return within & (elevation_deg < self.up_to_deg)


def elevation_angle_deg(height_m: float, distance_m: float, eye_m: float = 1.6) -> float:
    """Return how high the top of something stands over the horizon [°], from its height and distance.

    Parameters
    ----------
    height_m : float
        Of its top over the ground [m].
    distance_m : float
        Level distance to it [m], above 0.
    eye_m : float
        Height of the eye over the ground [m].
    """
    return float(np.degrees(np.arctan2(max(height_m - eye_m, 0.0), distance_m)))


def _index(epoch_s: Array) -> Any:
    return modules().pandas.DatetimeIndex((epoch_s * 1e9).astype("int64").view("M8[ns]"), tz="UTC")


def sky(place: Place, epoch_s: Array, cloud_pct: ArrayLike) -> Sky:
    """Return sun position and irradiance at instants.

    Parameters
    ----------
    place : Place
    epoch_s : ndarray, shape (Q,)
        Seconds since 1970 UTC.
    cloud_pct : array_like, shape (..., Q) or scalar
        Cloud cover [%], 0 to 100.

    References
    ----------
    NREL solar position algorithm, Ineichen-Perez clear sky with the shipped Linke turbidity table,
    Erbs diffuse split (all pvlib); cloud reduction 1 - 0.75 n^3.4: Kasten and Czeplak, Solar
    Energy 24 (1980), 177-189.
    """
    clear = _clear(place, np.asarray(epoch_s, dtype=float).tobytes())
    cloud = np.asarray(cloud_pct, dtype=float) / 100
    ghi = clear.global_w_m2 * (1 - 0.75 * cloud**3.4)
    # By the day of the year: of members, irradiance has an axis more than the times.
    split = modules().irradiance.erbs(ghi, clear.zenith_deg, clear.day_of_year)
    return Sky(
        elevation_deg=clear.elevation_deg,
        azimuth_deg=clear.azimuth_deg,
        true_elevation_deg=clear.true_elevation_deg,
        global_w_m2=ghi,
        direct_normal_w_m2=np.asarray(split["dni"], dtype=float),
        diffuse_w_m2=np.asarray(split["dhi"], dtype=float),
        extra_w_m2=clear.extra_w_m2,
    )


@dataclass(frozen=True)
class _Clear:
    """Position and cloudless light of the sun at Q instants; shared, and so never written to."""

    elevation_deg: Array
    azimuth_deg: Array
    true_elevation_deg: Array
    zenith_deg: Array
    global_w_m2: Array
    extra_w_m2: Array
    day_of_year: Array


@lru_cache(maxsize=64)
def _clear(place: Place, epoch_s: bytes) -> _Clear:
    """Return what the clouds do not change: all walls of a house, and all forecasts of a day, ask for the same instants."""
    pv = modules()
    times = _index(np.frombuffer(epoch_s))
    site = pv.location.Location(place.latitude_deg, place.longitude_deg, altitude=place.altitude_m)
    position = site.get_solarposition(times)
    clear = site.get_clearsky(times, model="ineichen", solar_position=position)
    columns = (
        *(position[name] for name in ("apparent_elevation", "azimuth", "elevation", "zenith")),
        clear["ghi"], pv.irradiance.get_extra_radiation(times), times.day_of_year,
    )  # fmt: skip
    arrays = [np.array(one, dtype=float) for one in columns]
    for array in arrays:
        array.setflags(write=False)
    return _Clear(*arrays)


def on_planes(
    sky: Sky, azimuth_deg: ArrayLike, tilt_deg: ArrayLike, albedo: float = DEFAULT_ALBEDO, seen: Array | None = None
) -> Irradiance:
    """Return the irradiance on planes of any azimuth and tilt.

    Parameters
    ----------
    sky : Sky
        At Q instants; a leading axis is that of an ensemble's members.
    azimuth_deg, tilt_deg : array_like, shape (S,)
        Where each plane faces, clockwise from north, and its tilt (0 flat, 90 wall).
    albedo : float
        Reflectance of the ground, 0 to 1.
    seen : ndarray, shape (S, Q), optional
        The share of each plane that the sun reaches, from `unhidden`. The beam and the bright sky round the sun are gone
        where it does not; the rest of the sky is left as it is.

    Returns
    -------
    Irradiance
        Arrays of shape (..., S, Q); of incidence (S, Q).

    References
    ----------
    Hay and Davies (1980), as in pvlib's `haydavies`; tests hold it to pvlib plane by plane.
    """
    azimuth = np.radians(np.atleast_1d(np.asarray(azimuth_deg, dtype=float)))[:, None]
    tilt = np.radians(np.atleast_1d(np.asarray(tilt_deg, dtype=float)))[:, None]
    zenith = np.radians(90 - sky.elevation_deg)
    sun_azimuth = np.radians(sky.azimuth_deg)
    cos_zenith = np.cos(zenith)
    cos_tilt = np.cos(tilt)
    cos_incidence = np.clip(cos_tilt * cos_zenith + np.sin(tilt) * np.sin(zenith) * np.cos(sun_azimuth - azimuth), -1, 1)
    projection = np.maximum(cos_incidence, 0)
    beam, diffuse, whole = (v[..., None, :] for v in (sky.direct_normal_w_m2, sky.diffuse_w_m2, sky.global_w_m2))
    anisotropy = beam / sky.extra_w_m2
    # 0.01745 is cos 89°: nearer the horizon the ratio would run away.
    ratio = projection / np.maximum(cos_zenith, 0.01745)
    view_sky = (1 + cos_tilt) / 2
    free = 1.0 if seen is None else seen
    # One sum over all surfaces, the sun's part and the rest: an ensemble's arrays are large.
    total = (free * projection) * beam + (free * ratio) * (diffuse * anisotropy)
    total += view_sky * (diffuse * (1 - anisotropy)) + ((1 - cos_tilt) * (albedo / 2)) * whole
    direct = ((cos_incidence > 0) & (sky.elevation_deg > 0) & (np.asarray(free) >= SUNLIT_SHARE)) & (beam >= DIRECT_MIN_W_M2)
    return Irradiance(np.maximum(total, 0), np.degrees(np.arccos(cos_incidence)), direct)


def unhidden(sky: Sky, shades: Sequence[Sequence[Shade]], lit: Sequence[LitTable | None] = ()) -> Array | None:
    """Return the share of each plane that the sun reaches, shape (S, Q); None where nothing stands in its way.

    Parameters
    ----------
    sky : Sky
    shades : sequence of sequences of Shade, length S
        What stands round the building.
    lit : sequence of LitTable or None, length S or 0
        What the building itself leaves of the sun.
    """
    if not any(shades) and not any(lit):
        return None
    seen = np.ones((len(shades), len(sky.azimuth_deg)))
    for row, of_plane in zip(seen, shades, strict=True):
        for shade in of_plane:
            row[shade.hides(sky.azimuth_deg, sky.elevation_deg)] = 0.0
    for row, table in zip(seen, lit, strict=False):
        if table is not None:
            row *= table.at(sky.azimuth_deg, sky.elevation_deg)
    return seen


def true_elevation_deg(place: Place, epoch_s: Array) -> Array:
    """Return the sun's elevation without refraction [°] at instants, shape (Q,).

    Parameters
    ----------
    place : Place
    epoch_s : ndarray, shape (Q,)
        Seconds since 1970.
    """
    position = modules().solarposition.get_solarposition(_index(epoch_s), place.latitude_deg, place.longitude_deg, place.altitude_m)
    result: Array = position["elevation"].to_numpy()
    return result


def rise_and_set(place: Place, day: datetime) -> tuple[datetime | None, datetime | None]:
    """Return sunrise and sunset within the calendar date of `day`, at its own offset.

    Parameters
    ----------
    day : datetime
        Timezone-aware; its date at its own UTC offset is the day asked about.

    Returns
    -------
    tuple of datetime or None
        First upward and first downward crossing of -0.833° in the date; None where there is none
        (polar day and night, or a set that falls past midnight).
    """
    midnight = day.replace(hour=0, minute=0, second=0, microsecond=0)
    start = midnight.timestamp()
    coarse = start + np.arange(0, 86_400 + 1, 600.0)
    height = true_elevation_deg(place, coarse) - HORIZON_DEG
    crossings: list[datetime | None] = []
    for rising in (True, False):
        below, above = (height[:-1] < 0, height[1:] >= 0) if rising else (height[:-1] >= 0, height[1:] < 0)
        where = np.flatnonzero(below & above)
        if not len(where):
            crossings.append(None)
            continue
        # Ten minutes bracket the crossing; a one-second ladder and a straight line finish it.
        fine = coarse[where[0]] + np.arange(0, 601.0, 10.0)
        level = true_elevation_deg(place, fine) - HORIZON_DEG
        order = np.argsort(level)
        crossing = float(np.interp(0.0, level[order], fine[order]))
        moment = datetime.fromtimestamp(crossing, UTC).astimezone(day.tzinfo)
        # A date's last second belongs to it, the next midnight does not.
        crossings.append(moment if moment < midnight + timedelta(days=1) else None)
    return crossings[0], crossings[1]

"""Light: how a painted plane looks at an hour, by the sun's height and by what reaches it.

For comparing colours on a drawing: low sun warms a wall, a wall in shade is cooler and darker.
A screen never settles a colour; a brush-out on the wall does.
Not here: how much light there is (sun), or what a colour does to primer and coats (systems).
"""

from dataclasses import dataclass

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.air.sun import Irradiance, Sky
from amber_gable.core.coat.colour import hex_of, linear_rgb
from amber_gable.core.knowledge.assumptions import assumed

# Where red, green and blue of sRGB lie in the spectrum [µm].
_WAVE_UM = np.array([0.610, 0.550, 0.465])
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
# Daylight is called neutral at this air mass: the sun two thirds of the way up.
_NEUTRAL_AIR_MASS = 1.5
# Haze of a clear country day.
_TURBIDITY, _ANGSTROM = 0.1, 1.3
_LEVEL_KEPT, _TINT_KEPT = assumed("light_kept"), assumed("tint_kept")


@dataclass(frozen=True)
class Light:
    """Light on one plane at one instant.

    Parameters
    ----------
    level : float
        As eyes take it, the best lit plane of the view being 1.
    tint : tuple of float
        Red, green, blue; of luminance 1.
    is_direct : bool
        The sun itself is on it.
    """

    level: float
    tint: tuple[float, float, float]
    is_direct: bool


def _depth() -> tuple[Array, Array]:
    """Return optical depths of clean air and of haze at the three wavelengths (Leckner 1978)."""
    return 0.008735 * _WAVE_UM**-4.08, _TURBIDITY * _WAVE_UM**-_ANGSTROM


def air_mass(elevation_deg: float) -> float:
    """Return the relative air mass that sunlight comes through, 1 from overhead to about 38 at the horizon.

    References
    ----------
    Kasten and Young, Applied Optics 28 (1989), 4735-4738.
    """
    height = max(elevation_deg, 0.0)
    return float(1 / (np.sin(np.radians(height)) + 0.50572 * (height + 6.07995) ** -1.6364))


def _even(tint: Array) -> Array:
    scaled: Array = tint / float(tint @ _LUMINANCE)
    return scaled


def sun_tint(elevation_deg: float) -> Array:
    """Return the tint of direct sunlight: red, green, blue, of luminance 1; neutral with a high sun, red with a low one.

    References
    ----------
    Leckner, Solar Energy 20 (1978), 143-150: spectral optical depths.
    """
    clean, haze = _depth()
    return _even(np.exp(-(air_mass(elevation_deg) - _NEUTRAL_AIR_MASS) * (clean + haze)))


def sky_tint(elevation_deg: float) -> Array:
    """Return the tint of a clear sky's light: what clean air scatters all, and haze half, of sunlight half way down."""
    clean, haze = _depth()
    return _even((clean + 0.5 * haze) * np.exp(-0.5 * (air_mass(elevation_deg) - _NEUTRAL_AIR_MASS) * (clean + haze)))


def lights_at(sky: Sky, planes: Irradiance, instant: int) -> list[Light]:
    """Return the light on each of S planes at one instant of a sky.

    Parameters
    ----------
    sky : Sky
        At Q instants.
    planes : Irradiance
        Shape (S, Q).
    instant : int
        Which of the Q; the sun must be up.
    """
    height = float(sky.elevation_deg[instant])
    lit = planes.direct_sun[:, instant]
    beam = np.where(lit, sky.direct_normal_w_m2[instant] * np.maximum(np.cos(np.radians(planes.incidence_deg[:, instant])), 0), 0.0)
    rest = np.maximum(planes.total_w_m2[:, instant] - beam, 1e-3)
    whole = beam + rest
    tints = (beam[:, None] * sun_tint(height) + rest[:, None] * sky_tint(height)) / whole[:, None]
    levels = (whole / whole.max()) ** _LEVEL_KEPT
    lights = []
    for level, tint, direct in zip(levels, tints, lit, strict=True):
        seen = _even(tint**_TINT_KEPT)
        lights.append(Light(float(level), (float(seen[0]), float(seen[1]), float(seen[2])), bool(direct)))
    return lights


def seen_hex(hex_code: str, light: Light) -> str:
    """Return how a colour looks in a light, as sRGB; what a screen cannot show is cut off.

    Parameters
    ----------
    hex_code : str
        "#rrggbb" in neutral light.
    light : Light
        That falls on it.

    Raises
    ------
    PlanError
        If the colour is not six hexadecimal digits after a #.
    """
    red, green, blue = (channel * tint * light.level for channel, tint in zip(linear_rgb(hex_code), light.tint, strict=True))
    return hex_of((red, green, blue))

"""Surface temperature: the energy balance of a painted skin, with dew, through time.

Each surface is one areal heat capacity with an adiabatic back, or a slab that conducts inward behind its face. It gains short
wave by its absorptance and long wave from sky and ground by view factor, loses by emission and by wind, and takes up or gives
off latent heat while dew forms or dries.
Not here: how one step is solved (surface_step), what lies behind a face (slab), where the light comes from (sun), how wet rain
leaves a wall (wetness), or which temperatures are allowed (windows).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from amber_gable.core.air.humid import Array, pressure_at_altitude_pa
from amber_gable.core.wall.slab import Inward, Slab
from amber_gable.core.wall.surface_step import EMISSIVITY, STEFAN_BOLTZMANN, Drive, Stepper

# The free wind of a forecast, at the wall (reckonings.md).
WIND_AT_WALL = 0.6
_CP_AIR = 1006.0
# (thermal / vapour diffusivity)^(2/3) of air near 10 °C: 0.845^(2/3).
_LEWIS = 0.894
_RATIO_WATER_AIR = 0.621945


@dataclass(frozen=True)
class Forcing:
    """Forcing of the surfaces at Q instants, evenly `step_s` apart.

    Parameters
    ----------
    air_temp_c, vapour_pa, dew_point_c, wind_m_s, cloud_frac : ndarray, shape (..., Q)
        Free air; a leading axis is that of an ensemble's members.
    irradiance_w_m2 : ndarray, shape (..., S, Q)
        Short wave on each plane.
    rain_kg_m2_s : ndarray, shape (..., S, Q), optional
        Water that reaches each plane; none where absent.
    """

    step_s: float
    air_temp_c: Array
    vapour_pa: Array
    dew_point_c: Array
    wind_m_s: Array
    cloud_frac: Array
    irradiance_w_m2: Array
    altitude_m: float = 0.0
    rain_kg_m2_s: Array | None = None


@dataclass(frozen=True)
class Skin:
    """The surfaces, one entry each, shape (S,).

    Parameters
    ----------
    tilt_deg, solar_absorptance : ndarray
    heat_capacity_j_m2k : ndarray
        Areal heat capacity of the cladding.
    water_capacity_kg_m2 : ndarray, optional
        What the surface can hold before the rest runs off; unlimited where absent.
    slabs : tuple of Slab or None, length S, optional
        What conducts inward; its own capacity counts then, in place of `heat_capacity_j_m2k`.
    """

    tilt_deg: Array
    solar_absorptance: Array
    heat_capacity_j_m2k: Array
    water_capacity_kg_m2: Array | None = None
    slabs: tuple[Slab | None, ...] = ()

    @property
    def face_capacity_j_m2k(self) -> Array:
        """Return the capacity of each face, shape (S,): of a slab, its first node."""
        out = self.heat_capacity_j_m2k.copy()
        for i, slab in enumerate(self.slabs):
            if slab is not None:
                out[i] = slab.node_capacity_j_m2k[0]
        return out


@dataclass(frozen=True)
class SurfaceState:
    """Temperature [°C] and water on the surface [kg/m2], each shape (..., S, Q)."""

    temp_c: Array
    water_kg_m2: Array


def sky_emissivity(dew_point_c: ArrayLike, cloud_frac: ArrayLike) -> Array:
    """Return the effective emissivity of the sky, 0 to 1.

    Parameters
    ----------
    dew_point_c : array_like, shape (...,)
    cloud_frac : array_like, shape (...,)
        0 clear to 1 overcast.

    References
    ----------
    Berdahl and Martin, Solar Energy 32 (1984), 663-664; cloud as e + 0.8 (1 - e) n.
    """
    d = np.asarray(dew_point_c, dtype=float) / 100
    clear = np.clip(0.711 + 0.56 * d + 0.73 * d**2, 0.0, 1.0)
    result: Array = clear + 0.8 * (1 - clear) * np.asarray(cloud_frac, dtype=float)
    return result


def convection_w_m2k(wind_m_s: ArrayLike) -> Array:
    """Return the convective coefficient at a wall [W/m2K] for a free wind [m/s].

    References
    ----------
    h = 5.7 + 3.8 v: McAdams, Heat Transmission (1954), with v at the wall 0.6 of the free wind.
    """
    result: Array = 5.7 + 3.8 * WIND_AT_WALL * np.asarray(wind_m_s, dtype=float)
    return result


def steady_gain_w_m2(forcing: Forcing, skin: Skin) -> Array:
    """Return the gains that do not depend on the surface itself, shape (..., S, Q) [W/m2].

    Parameters
    ----------
    forcing : Forcing
        Sun, sky and air at Q instants.
    skin : Skin
        Of S surfaces.
    """
    view_sky = ((1 + np.cos(np.radians(skin.tilt_deg))) / 2)[:, None]
    black = STEFAN_BOLTZMANN * (forcing.air_temp_c + 273.15) ** 4
    e_sky = sky_emissivity(forcing.dew_point_c, forcing.cloud_frac)
    # All that depends on the air first: of an ensemble's arrays only one is as large as all surfaces.
    sky, ground = (EMISSIVITY * black * e_sky)[..., None, :], (EMISSIVITY * black)[..., None, :]
    result: Array = skin.solar_absorptance[:, None] * forcing.irradiance_w_m2
    result += view_sky * sky + (1 - view_sky) * ground
    return result


# Water that is known to be on a surface from an instant on: (surface, instant, kg/m2).
Observation = tuple[int, int, float]


def integrate(forcing: Forcing, skin: Skin, spin_up_steps: int | None = None, observations: Sequence[Observation] = ()) -> SurfaceState:
    """Return temperature and surface water through time.

    Parameters
    ----------
    forcing : Forcing
    skin : Skin
    spin_up_steps : int, optional
        How many of the first steps are run once before, from air temperature, to find where the
        surfaces start; 24 h or the whole of a shorter list by default. The water store starts
        empty all the same.
    observations : sequence of (surface, instant, water)
        What somebody felt on a surface [kg/m2]; from there the balance goes on.

    Returns
    -------
    SurfaceState
        Arrays of shape (..., S, Q).
    """
    count = forcing.air_temp_c.shape[-1]
    if spin_up_steps is None:
        spin_up_steps = min(round(86_400 / forcing.step_s), count - 1)
    stepper = _stepper(forcing, skin)
    shape = forcing.irradiance_w_m2.shape[:-1]
    # Instants first: each step reads and writes one block.
    temp = np.empty((count, *shape))
    water = np.zeros((count, *shape))
    now = np.broadcast_to(forcing.air_temp_c[..., :1], shape).copy()
    store = np.zeros(shape)
    felt: dict[int, list[Observation]] = {}
    for entry in observations:
        felt.setdefault(entry[1], []).append(entry)
    stepper.start(now)
    for n in range(spin_up_steps):
        now, store = stepper.advance(n, now, store)
    store = np.zeros(shape)
    for n in range(count):
        for surface, _, kg_m2 in felt.get(n, ()):
            store[..., surface] = kg_m2
        temp[n], water[n] = now, store
        if n < count - 1:
            now, store = stepper.advance(n, now, store)
    return SurfaceState(_instants_last(temp), _instants_last(water))


def _stepper(forcing: Forcing, skin: Skin) -> Stepper:
    h = convection_w_m2k(forcing.wind_m_s)
    # Mass transfer by the Lewis relation: kg/m2s per Pa.
    pressure = float(pressure_at_altitude_pa(forcing.altitude_m))
    transfer = h * _RATIO_WATER_AIR / (_CP_AIR * pressure * _LEWIS)
    rain = forcing.rain_kg_m2_s
    drive = Drive(
        step_s=forcing.step_s,
        gain_w_m2=_instants_first(steady_gain_w_m2(forcing, skin)),
        convection_w_m2k=_air(h),
        transfer_kg_m2spa=_air(transfer),
        air_temp_c=_air(forcing.air_temp_c),
        vapour_pa=_air(forcing.vapour_pa),
        dew_point_c=_air(forcing.dew_point_c),
        rain_kg_m2_s=None if rain is None else _instants_first(rain),
        capacity_j_m2k=skin.face_capacity_j_m2k,
        water_capacity_kg_m2=skin.water_capacity_kg_m2,
    )
    inward = Inward(skin.slabs, forcing.step_s) if any(slab is not None for slab in skin.slabs) else None
    return Stepper(drive, inward)


def _air(values: Array) -> Array:
    """Return free air with its instants first; that of members broadcasts against (members, surfaces)."""
    return values if values.ndim == 1 else np.ascontiguousarray(np.moveaxis(values, -1, 0))[..., None]


def _instants_first(values: Array) -> Array:
    return np.ascontiguousarray(np.moveaxis(values, -1, 0))


def _instants_last(values: Array) -> Array:
    return np.ascontiguousarray(np.moveaxis(values, 0, -1))

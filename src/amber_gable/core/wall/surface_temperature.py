"""Surface temperature: the energy balance of a painted skin, with dew, through time.

Each surface is one areal heat capacity, its back adiabatic, or a wall that conducts inward behind its face.
It gains short wave by its absorptance and long wave from sky and ground by view factor, loses by emission and by wind, and
takes up or gives off latent heat while dew forms or dries.
Not here: how the balance is solved (balance), what lies behind a face (slab), where the light comes from (sun), how wet rain
leaves a wall (wetness), or which temperatures are allowed (windows).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array, pressure_at_altitude_pa
from amber_gable.core.wall.convection import forced_w_m2k, natural_of
from amber_gable.core.wall.long_wave import EMISSIVITY, LATENT_HEAT_J_KG, STEFAN_BOLTZMANN, sky_emissivity
from amber_gable.core.wall.slab import NODES, Slab

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
    wind_from_deg : ndarray, shape (Q,), optional
        Where the wind comes from; NaN, or absent, where that is not known.
    unknown_w_m2 : ndarray, shape (..., S), optional
        A constant gain of each surface that is in no other term: what the model of it does not know.
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
    wind_from_deg: Array | None = None
    unknown_w_m2: Array | None = None


@dataclass(frozen=True)
class Skin:
    """The surfaces, one entry each, shape (S,).

    Parameters
    ----------
    azimuth_deg, tilt_deg, solar_absorptance : ndarray
    roughness : ndarray
        Factor of convection by cladding, 1 for the smoothest.
    heat_capacity_j_m2k : ndarray
        Areal heat capacity of the cladding.
    water_capacity_kg_m2 : ndarray, optional
        What the surface can hold before the rest runs off; unlimited where absent.
    slabs : tuple of Slab or None, length S, optional
        What conducts inward; its own capacity counts then, in place of `heat_capacity_j_m2k`.
    """

    azimuth_deg: Array
    tilt_deg: Array
    solar_absorptance: Array
    roughness: Array
    heat_capacity_j_m2k: Array
    water_capacity_kg_m2: Array | None = None
    slabs: tuple[Slab | None, ...] = ()


@dataclass(frozen=True)
class SurfaceState:
    """Temperature [°C] and water on the surface [kg/m2], each shape (..., S, Q)."""

    temp_c: Array
    water_kg_m2: Array


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
    if forcing.unknown_w_m2 is not None:
        result += forcing.unknown_w_m2[..., None]
    return result


# Water that is known to be on a surface from an instant on: (surface, instant, kg/m2).
Observation = tuple[int, int, float]
# Short enough that halving them moves no hour by more than a few hundredths of a degree.
SHORT_STEP_S = 150.0


def integrate(
    forcing: Forcing, skin: Skin, spin_up_steps: int | None = None, observations: Sequence[Observation] = (),
    short_step_s: float = SHORT_STEP_S,
) -> SurfaceState:  # fmt: skip
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
    short_step_s : float
        The longest step of the balance within those of the forcing.

    Returns
    -------
    SurfaceState
        Arrays of shape (..., S, Q).
    """
    # Loaded where it is first used: a start that computes nothing need not wait for the compiler.
    from amber_gable.core.wall.balance import courses, filled

    count, shape = forcing.air_temp_c.shape[-1], forcing.irradiance_w_m2.shape
    if spin_up_steps is None:
        spin_up_steps = min(round(86_400 / forcing.step_s), count - 1)
    surfaces, rows = shape[-2], int(np.prod(shape[:-1]))
    constants = _constants(skin, surfaces)
    felt = np.full((surfaces, count), np.nan) if observations else np.empty((0, 0))
    for surface, instant, kg_m2 in observations:
        felt[surface, instant] = kg_m2
    # A direction holds until the next hour: the end of a step has the side that its beginning had.
    wind = forcing.wind_m_s, np.concatenate([forcing.wind_m_s[..., 1:], forcing.wind_m_s[..., -1:]], axis=-1)
    forced, then = (_rows(forced_w_m2k(v, forcing.wind_from_deg, skin.azimuth_deg, skin.tilt_deg), shape) for v in wind)
    rain = np.empty((0, 0)) if forcing.rain_kg_m2_s is None else _rows(forcing.rain_kg_m2_s, shape)
    temp, water = filled((rows, count))
    courses(  # type: ignore[call-arg]
        float(forcing.step_s), max(int(np.ceil(forcing.step_s / short_step_s - 1e-9)), 1), spin_up_steps,
        _rows(steady_gain_w_m2(forcing, skin), shape), forced, then, rain,
        *(_rows(v, (*v.shape[:-1], count)) for v in (forcing.air_temp_c, forcing.vapour_pa, forcing.dew_point_c)),
        constants, *_slabs(skin.slabs, surfaces), LATENT_HEAT_J_KG * _transfer_per_h(forcing.altitude_m), felt, temp, water,
    )  # fmt: skip
    return SurfaceState(temp.reshape(shape), water.reshape(shape))


def _transfer_per_h(altitude_m: float) -> float:
    """Return the mass transfer per convective coefficient, by the Lewis relation [kg/m2s per Pa, per W/m2K]."""
    return _RATIO_WATER_AIR / (_CP_AIR * float(pressure_at_altitude_pa(altitude_m)) * _LEWIS)


def _constants(skin: Skin, count: int) -> Array:
    natural = natural_of(skin.tilt_deg)
    most = np.full(count, np.inf) if skin.water_capacity_kg_m2 is None else skin.water_capacity_kg_m2
    return np.ascontiguousarray(np.stack([skin.heat_capacity_j_m2k, natural.warmer, natural.colder, skin.roughness, most], axis=1))


def _slabs(slabs: Sequence[Slab | None], count: int) -> tuple[NDArray[np.bool_], Array, Array, Array, Array]:
    """Return which surfaces conduct inward, and of those nodes, conductances, film and room."""
    is_slab = np.zeros(count, dtype=bool)
    capacity, conductance = np.ones((count, NODES)), np.ones((count, NODES - 1))
    film, room_c = np.zeros(count), np.zeros(count)
    for row, slab in enumerate(slabs):
        if slab is not None:
            is_slab[row], capacity[row], conductance[row] = True, slab.node_capacity_j_m2k, slab.conductance_w_m2k
            if slab.room is not None:
                film[row], room_c[row] = slab.film_w_m2k, slab.room.temp_c
    return is_slab, capacity, conductance, film, room_c


def _rows(values: Array, shape: tuple[int, ...]) -> Array:
    """Return values as rows of their own: the kernel is compiled anew, for seconds, where it meets an array that may not be written."""
    return np.require(np.broadcast_to(values, shape).reshape(-1, shape[-1]), dtype=float, requirements=["C", "W"])

"""Surface temperature: the energy balance of a painted skin, with dew, through time.

Each surface is one areal heat capacity with an adiabatic back. It gains short wave by its
absorptance and long wave from sky and ground by view factor, loses by emission and by wind, and
takes up or gives off latent heat while dew forms or dries.
Not here: where the light comes from (sun), how wet rain leaves a wall (wetness), or which
temperatures are allowed (windows). Masonry that conducts inward in several nodes is not modelled:
it has one capacity.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from amber_gable.core.air import Array, pressure_at_altitude_pa, saturation_pressure_pa

STEFAN_BOLTZMANN = 5.670374419e-8
EMISSIVITY = 0.9
# The free wind of a forecast, at the wall (reckonings.md).
WIND_AT_WALL = 0.6
LATENT_HEAT_J_KG = 2.5e6
_CP_AIR = 1006.0
# (thermal / vapour diffusivity)^(2/3) of air near 10 °C: 0.845^(2/3).
_LEWIS = 0.894
_RATIO_WATER_AIR = 0.621945
# d ln(es)/dT = L / (Rv T²), Clausius-Clapeyron; only the slope within one step rests on it.
_CLAUSIUS_K = LATENT_HEAT_J_KG / 461.5


@dataclass(frozen=True)
class Forcing:
    """What drives the surfaces at Q instants, evenly `step_s` apart.

    Parameters
    ----------
    air_temp_c, vapour_pa, dew_point_c, wind_m_s, cloud_frac : ndarray, shape (Q,)
        Free air.
    irradiance_w_m2 : ndarray, shape (S, Q)
        Short wave on each plane.
    rain_kg_m2_s : ndarray, shape (S, Q), optional
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
    """

    tilt_deg: Array
    solar_absorptance: Array
    heat_capacity_j_m2k: Array
    water_capacity_kg_m2: Array | None = None


@dataclass(frozen=True)
class SurfaceState:
    """Temperature [°C] and water on the surface [kg/m2], each shape (S, Q)."""

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
    """Return the gains that do not depend on the surface itself, shape (S, Q) [W/m2]."""
    view_sky = ((1 + np.cos(np.radians(skin.tilt_deg))) / 2)[:, None]
    black = STEFAN_BOLTZMANN * (forcing.air_temp_c + 273.15) ** 4
    e_sky = sky_emissivity(forcing.dew_point_c, forcing.cloud_frac)
    long_wave = EMISSIVITY * black * (view_sky * e_sky + (1 - view_sky))
    result: Array = skin.solar_absorptance[:, None] * forcing.irradiance_w_m2 + long_wave
    return result


def integrate(forcing: Forcing, skin: Skin, spin_up_steps: int | None = None) -> SurfaceState:
    """Return temperature and surface water through time.

    Within a step the balance is made linear about its beginning and solved exactly with forcing
    that runs straight between the instants (an exponential integrator). So it is stable for any
    step and any cladding, thin metal included, whose time constant is shorter than the step.

    Parameters
    ----------
    forcing : Forcing
    skin : Skin
    spin_up_steps : int, optional
        How many of the first steps are run once before, from air temperature, to find where the
        surfaces start; 24 h or the whole of a shorter list by default. The water store starts
        empty all the same.

    Returns
    -------
    SurfaceState
        Arrays of shape (S, Q).
    """
    dt, count = forcing.step_s, len(forcing.air_temp_c)
    if spin_up_steps is None:
        spin_up_steps = min(round(86_400 / dt), count - 1)
    surfaces = len(skin.tilt_deg)
    h = convection_w_m2k(forcing.wind_m_s)
    gain = steady_gain_w_m2(forcing, skin) + h * forcing.air_temp_c
    # Mass transfer by the Lewis relation: kg/m2s per Pa.
    pressure = float(pressure_at_altitude_pa(forcing.altitude_m))
    transfer = h * _RATIO_WATER_AIR / (_CP_AIR * pressure * _LEWIS)

    temp = np.empty((count, surfaces))
    water = np.zeros((count, surfaces))
    now = np.full(surfaces, forcing.air_temp_c[0])
    store = np.zeros(surfaces)
    stepper = _Stepper(forcing, skin, gain, h, transfer)
    for n in range(spin_up_steps):
        now, store = stepper.advance(n, now, store)
    store = np.zeros(surfaces)
    temp[0] = now
    for n in range(count - 1):
        now, store = stepper.advance(n, now, store)
        temp[n + 1] = now
        water[n + 1] = store
    return SurfaceState(np.ascontiguousarray(temp.T), np.ascontiguousarray(water.T))


class _Stepper:
    """One step of the balance for all surfaces; holds what does not change from step to step."""

    def __init__(self, forcing: Forcing, skin: Skin, gain: Array, h: Array, transfer: Array) -> None:
        self.dt = forcing.step_s
        self.gain = np.ascontiguousarray(gain.T)
        self.h = ((h[:-1] + h[1:]) / 2).tolist()
        self.transfer = ((transfer[:-1] + transfer[1:]) / 2).tolist()
        self.vapour = ((forcing.vapour_pa[:-1] + forcing.vapour_pa[1:]) / 2).tolist()
        self.dew = ((forcing.dew_point_c[:-1] + forcing.dew_point_c[1:]) / 2).tolist()
        self.capacity = skin.heat_capacity_j_m2k
        self.per_capacity = self.dt / skin.heat_capacity_j_m2k
        self.limit = skin.water_capacity_kg_m2
        rain = forcing.rain_kg_m2_s
        self.rain = None if rain is None or not rain.any() else np.ascontiguousarray(rain.T)

    def advance(self, n: int, now: Array, store: Array) -> tuple[Array, Array]:
        """Return temperature and water one step after instant `n`."""
        loss, offset = self._emission(n, now)
        transfer, vapour = self.transfer[n], self.vapour[n]
        saturated = saturation_pressure_pa(now)
        if self.rain is not None:
            store = store + self.rain[n] * self.dt
        condensing = saturated < vapour
        active = (store > 0) | condensing
        if not active.any():
            return self._solve(n, now, loss, offset), self._kept(store)
        # Times the flag, not `where`: this runs a thousand times on a few dozen numbers each.
        kelvin = now + 273.15
        slope = saturated * _CLAUSIUS_K / (kelvin * kelvin)
        pull = (transfer * active) * (vapour - saturated)
        give = (transfer * active) * slope
        latent_slope = LATENT_HEAT_J_KG * give
        latent = LATENT_HEAT_J_KG * (pull + give * now)
        then = self._solve(n, now, loss + latent_slope, offset + latent)
        left = store + self.dt * (pull - give * ((then - now) / 2))
        beyond = condensing & (then > self.dew[n])
        if beyond.any():
            # Condensation ends where the surface reaches the dew point; a straight line through a
            # steep saturation curve would carry a thin skin far past it.
            alone = self._solve(n, now, loss, offset)
            then = np.where(beyond, np.maximum(alone, self.dew[n]), then)
            taken = self.capacity * (then - alone) / (LATENT_HEAT_J_KG * self.dt)
            left = np.where(beyond, store + taken * self.dt, left)
        dried = left < 0
        if dried.any():
            # The store runs out within the step: wet until then, dry from there. A thin skin in the
            # sun warms by degrees in what remains of the quarter-hour.
            share = np.where(dried, store / np.where(dried, store - left, 1.0), 1.0)
            middle = self._solve(n, now, loss + latent_slope, offset + latent, 0.0, share)
            loss, offset = self._emission(n, middle)
            then = np.where(dried, self._solve(n, middle, loss, offset, share, 1.0), then)
            left = np.where(dried, 0.0, left)
        return then, self._kept(left)

    def _emission(self, n: int, now: Array) -> tuple[Array, Array]:
        """Return loss [W/m2K] and offset [W/m2] of emission and wind, straight about `now`."""
        kelvin = now + 273.15
        emission_slope = (4 * EMISSIVITY * STEFAN_BOLTZMANN) * kelvin**3
        # εσT⁴ about T: the part left over once slope x T stands on the left.
        return emission_slope + self.h[n], emission_slope * (now - kelvin / 4)

    def _solve(self, n: int, now: Array, loss: Array, offset: Array, begin: float | Array = 0.0, end: float | Array = 1.0) -> Array:
        """Solve C dT/dt = gain(t) + offset - loss T exactly from share `begin` to `end` of step `n`.

        The gain runs straight between the instants.
        """
        first = self.gain[n]
        ramp = self.gain[n + 1] - first
        starts = first + ramp * begin + offset
        ramp = ramp * (end - begin)
        # A part of no length stays where it is; the floor keeps its ratio finite.
        x = np.maximum(loss * self.per_capacity * (end - begin), 1e-9)
        decay = np.exp(-x)
        # T(dt) = decay T + particular solution of the ramp.
        gone = 1 - decay
        then: Array = now * decay + (starts * gone + ramp * (1 - gone / x)) / loss
        return then

    def _kept(self, store: Array) -> Array:
        return store if self.limit is None else np.minimum(store, self.limit)

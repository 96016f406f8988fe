"""The energy balance of the faces through time, compiled: many short steps for each surface, one after another.

Within a short step emission, saturation and convection are straight lines about the temperature at its beginning. A skin is then
solved exactly (an exponential), so that thin metal, whose time constant is shorter than a quarter-hour, is stable; a wall that
conducts inward is solved implicitly over its nodes. Compiled since the same sums over arrays took 1.6 times what pvlib takes for
the light, and 0.3 °C more error with it (docs/physics.md).
Not here: the forcing (surface_temperature), convection's constants (convection), what a wall is made of (slab).
"""

import math

import numpy as np
from numba import njit

from amber_gable.core.air.humid import WATER, Array
from amber_gable.core.wall.long_wave import EMISSIVITY, LATENT_HEAT_J_KG, STEFAN_BOLTZMANN

# d ln(es)/dT = L / (Rv T²), Clausius-Clapeyron; only the slope within one short step rests on it.
_CLAUSIUS_K = LATENT_HEAT_J_KG / 461.5
_A, _B, _C, _D, _E, _F = WATER


@njit(cache=True, error_model="numpy")
def _saturation_pa(kelvin: float) -> float:
    """Return the saturation pressure over water, as humid.saturation_pressure_pa."""
    t = kelvin
    return math.exp(_A / t + (_B + t * (_C + t * (_D + t * _E))) + _F * math.log(t))


@njit(cache=True, error_model="numpy")
def _conducted(nodes, capacity, conductance, film, room_c, loss, forcing, dt, scratch):  # type: ignore[no-untyped-def]
    """Move the nodes of a wall on by `dt`, the face gaining `forcing` and losing `loss` per degree; return the face's mean.

    Between the implicit and the middle rule: as near to the middle as the face, the quickest node, bears without ringing.
    """
    count = len(nodes)
    x = dt * (loss + conductance[0]) / capacity[0]
    share = max(0.5, 1 - 1 / x)
    before = nodes[0]
    # Thomas: forward over the nodes, then back.
    for i in range(count):
        left = conductance[i - 1] if i > 0 else 0.0
        right = conductance[i] if i < count - 1 else film
        own = left + right + (loss if i == 0 else 0.0)
        held = capacity[i] / dt
        known = (held - (1 - share) * own) * nodes[i]
        if i == 0:
            known += forcing
        else:
            known += (1 - share) * left * scratch[2, i - 1]
        if i < count - 1:
            known += (1 - share) * right * nodes[i + 1]
        else:
            known += film * room_c
        scratch[2, i] = nodes[i]
        pivot = held + share * own
        if i > 0:
            pivot += share * left * scratch[0, i - 1]
            known += share * left * scratch[1, i - 1]
        # A division takes as long as several products.
        inverse = 1 / pivot
        scratch[0, i] = -share * right * inverse if i < count - 1 else 0.0
        scratch[1, i] = known * inverse
    for i in range(count - 1, -1, -1):
        nodes[i] = scratch[1, i] - (scratch[0, i] * nodes[i + 1] if i < count - 1 else 0.0)
    return share * nodes[0] + (1 - share) * before


@njit(cache=True, error_model="numpy")
def _solved(t, capacity, loss, forcing, dt):  # type: ignore[no-untyped-def]
    """Return temperature after `dt` and its mean: C dT/dt = forcing - loss T, exactly."""
    kept = math.exp(-loss * dt / capacity)
    then = t * kept + forcing / loss * (1 - kept)
    return then, (forcing - capacity * (then - t) / dt) / loss


@njit(cache=True, error_model="numpy")
def courses(  # type: ignore[no-untyped-def]
    step_s, short_steps, spin_up_steps, gain, forced, forced_then, rain, air, vapour, dew, constants, is_slab, node_capacity, conductance,
    film, room_c, carried, felt, temp, water,
):  # fmt: skip
    """Fill `temp` [°C] and `water` [kg/m2], shape (R, Q), for R = M x S surfaces of M courses of weather.

    Parameters
    ----------
    step_s : float
        Between two instants.
    short_steps : int
        In which each is taken.
    spin_up_steps : int
        How many of the first steps are run once before; the store of water starts empty all the same.
    gain, forced, forced_then : ndarray, shape (R, Q)
        Absorbed light and long wave [W/m2]; convection forced at a smooth surface at the beginning of each
        step and at its end [W/m2K], which differ from step to step where the wind turns round a corner.
    rain : ndarray, shape (R, Q) or (0, 0)
        [kg/m2s].
    air, vapour, dew : ndarray, shape (M, Q)
        [°C], [Pa], [°C].
    constants : ndarray, shape (S, 5)
        Heat capacity [J/m2K], natural convection where warmer and where colder than the air [W/m2K^(4/3)], roughness, the most water
        a face holds [kg/m2].
    is_slab : ndarray of bool, shape (S,)
    node_capacity, conductance : ndarray, shape (S, N) and (S, N - 1)
        [J/m2K], [W/m2K]; of slabs.
    film, room_c : ndarray, shape (S,)
        Behind slabs [W/m2K], [°C]; no film for an adiabatic back.
    carried : float
        Latent heat that a convective coefficient carries for each Pa [W/m2 Pa per W/m2K].
    felt : ndarray, shape (S, Q) or (0, 0)
        Water that is known to be on a surface at an instant [kg/m2]; NaN where nothing is known.
    """
    rows, count = temp.shape
    surfaces = len(is_slab)
    dt = step_s / short_steps
    size = node_capacity.shape[1]
    nodes, scratch = np.zeros(size), np.zeros((3, size))
    emits = EMISSIVITY * STEFAN_BOLTZMANN
    rains, feels = rain.shape[0] > 0, felt.shape[0] > 0
    for row in range(rows):
        m, s = row // surfaces, row % surfaces
        capacity, warmer, colder, rough, most = constants[s]
        slab = is_slab[s]
        # A skin begins as warm as the air; a wall remembers the whole first day.
        t = air[m, 0]
        if slab:
            t = air[m, : spin_up_steps + 1].mean()
            inner = film[s] / (film[s] + 1 / (1 / conductance[s]).sum() + 1e-9) if film[s] > 0 else 0.0
            total, at = (1 / conductance[s]).sum(), 0.0
            for i in range(size):
                nodes[i] = t + (room_c[s] - t) * inner * at / total
                if i < size - 1:
                    at += 1 / conductance[s, i]
        store = 0.0
        for lap in range(2):
            store = 0.0
            last = spin_up_steps if lap == 0 else count
            for n in range(last):
                if lap == 1:
                    if feels and not np.isnan(felt[s, n]):
                        store = felt[s, n]
                    temp[row, n], water[row, n] = t, store
                    if n == count - 1:
                        break
                # The sun comes round a wall in a bend: a parabola over each step, by the lesser of the bends to either side, since
                # at a full hour, where the cloud turns, the sum of both is no bend of the sun.
                lift = 0.0
                if 0 < n < count - 2:
                    here = gain[row, n] - gain[row, n + 1]
                    one = gain[row, n] - gain[row, n - 1] + here
                    two = gain[row, n + 1] - gain[row, n + 2] - here
                    if one * two > 0:
                        lift = (one if abs(one) < abs(two) else two) / 2
                falls = rain[row, n] if rains else 0.0
                for k in range(short_steps):
                    share = (k + 0.5) / short_steps
                    gains = gain[row, n] + (gain[row, n + 1] - gain[row, n]) * share + lift * share * (1 - share)
                    v = forced[row, n] + (forced_then[row, n] - forced[row, n]) * share
                    ta = air[m, n] + (air[m, n + 1] - air[m, n]) * share
                    over = t - ta
                    natural = (warmer if over > 0 else colder) * np.cbrt(abs(over))
                    h = natural + rough * (math.sqrt(natural * natural + v * v) - natural)
                    kelvin = t + 273.15
                    slope = 4 * emits * kelvin * kelvin * kelvin
                    # εσT⁴ about T: the part left over once slope x T stands on the left.
                    loss = slope + h
                    forcing = gains + slope * (t - kelvin / 4) + h * ta
                    is_wet = store > 0 or falls > 0 or t < dew[m, n] + (dew[m, n + 1] - dew[m, n]) * share
                    latent, rise, given = 0.0, 0.0, 0.0
                    if is_wet:
                        saturated = _saturation_pa(kelvin)
                        latent = carried * h
                        rise = latent * saturated * _CLAUSIUS_K / (kelvin * kelvin)
                        given = latent * (vapour[m, n] + (vapour[m, n + 1] - vapour[m, n]) * share - saturated) + rise * t
                    begun = t
                    node, between, inside = node_capacity[s], conductance[s], room_c[s]
                    if slab:
                        for i in range(size):
                            scratch[2, i] = nodes[i]
                        mean = _conducted(nodes, node, between, film[s], inside, loss + rise, forcing + given, dt, scratch)
                        t = nodes[0]
                    else:
                        t, mean = _solved(begun, capacity, loss + rise, forcing + given, dt)
                    if is_wet:
                        left = store + dt * (falls + (given - rise * mean) / LATENT_HEAT_J_KG)
                        if left < 0:
                            # It dries within the short step: what there is takes its heat, and no more.
                            given = -(store / dt + falls) * LATENT_HEAT_J_KG
                            left = 0.0
                            if slab:
                                for i in range(size):
                                    nodes[i] = scratch[2, i]
                                _conducted(nodes, node, between, film[s], inside, loss, forcing + given, dt, scratch)
                                t = nodes[0]
                            else:
                                t, mean = _solved(begun, capacity, loss, forcing + given, dt)
                        store = min(left, most)


def filled(shape: tuple[int, int]) -> tuple[Array, Array]:
    """Return room for the answer of `courses`: temperatures and water."""
    return np.empty(shape), np.empty(shape)


def compile_now() -> None:
    """Compile `courses`, or load it from where it was kept when it was compiled before."""
    one, many = np.ones((1, 3)), np.full((1, 3), 20.0)
    courses(
        900.0, 1, 1, one, one, one, one * 0, many, many * 100, many, np.ones((1, 5)), np.array([False]), np.ones((1, 2)), np.ones((1, 1)),
        np.zeros(1), np.zeros(1), 1e-3, np.empty((0, 0)), *filled((1, 3)),
    )  # fmt: skip

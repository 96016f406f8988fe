"""One step of the energy balance at the faces, for all surfaces at once.

Within a step emission and saturation are straight lines in the temperature, the forcing runs straight between the instants,
and the equation is solved exactly (an exponential integrator): stable for any step and any cladding, thin metal included,
whose time constant is shorter than the step.
Not here: the forcing and the loop through time (surface_temperature), what lies behind a face (slab).
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array, saturation_pressure_pa
from amber_gable.core.wall.slab import Inward

STEFAN_BOLTZMANN = 5.670374419e-8
EMISSIVITY = 0.9
LATENT_HEAT_J_KG = 2.5e6
# d ln(es)/dT = L / (Rv T²), Clausius-Clapeyron; only the slope within one step rests on it.
_CLAUSIUS_K = LATENT_HEAT_J_KG / 461.5
# A face that ends farther than this from where its saturation curve was cut gets the chord anew [K], but not for ever.
_CHORD_K, _MOST_CHORDS = 0.2, 8


@dataclass(frozen=True)
class Drive:
    """Forcing of the steps, one entry per instant; numbers, or arrays that broadcast against the faces.

    Parameters
    ----------
    step_s : float
    gain_w_m2 : ndarray, shape (Q, ..., S)
        Absorbed short and long wave.
    convection_w_m2k, transfer_kg_m2spa, air_temp_c, vapour_pa, dew_point_c : sequence, length Q
    rain_kg_m2_s : ndarray, shape (Q, ..., S), or None
    capacity_j_m2k : ndarray, shape (S,)
        Of the face; of a slab, its first node.
    water_capacity_kg_m2 : ndarray, shape (S,), or None
    """

    step_s: float
    gain_w_m2: Array
    convection_w_m2k: Array
    transfer_kg_m2spa: Array
    air_temp_c: Array
    vapour_pa: Array
    dew_point_c: Array
    rain_kg_m2_s: Array | None
    capacity_j_m2k: Array
    water_capacity_kg_m2: Array | None


def _each(values: Array) -> list[Any]:
    """Return one entry per instant: plain numbers where they are numbers, which is much faster."""
    return values.tolist() if values.ndim == 1 else list(values)


def _bent(values: Array) -> tuple[Array, Array]:
    """Return the straight lines that stand for a curve within each step: its two instants, lifted to the curve's mean.

    The sun comes round a wall in a bend; by straight lines alone the morning's dew would dry too soon. Mean of a step from
    four points: (13 (f1 + f2) - (f0 + f3)) / 24.
    """
    first, last = values[:-1].copy(), values[1:].copy()
    if len(values) > 3:
        lift = ((values[1:-2] + values[2:-1]) - (values[:-3] + values[3:])) / 24
        first[1:-1] += lift
        last[1:-1] += lift
    return first, last


def _middles(values: Array) -> list[Any]:
    return _each((values[:-1] + values[1:]) / 2)


@dataclass(frozen=True)
class _Begun:
    """Start of a step with water: temperature, store [kg/m2], rain [kg/m2s], where, and from which share on."""

    temp_c: Array
    store: Array
    falls: float | Array
    wet: NDArray[np.bool_]
    begin: float | Array

    @property
    def is_late(self) -> bool:
        """Return whether somewhere the water comes only within the step."""
        return not isinstance(self.begin, float)


class Stepper:
    """Advances temperature and water from instant to instant; holds what does not change on the way."""

    def __init__(self, drive: Drive, inward: Inward | None) -> None:
        self.dt = drive.step_s
        self.gain_first, self.gain_last = _bent(drive.gain_w_m2)
        h, air = drive.convection_w_m2k, drive.air_temp_c
        self.h = _middles(h)
        self.air = _each(air)
        # The wind changes within a step too: half its change at either end, on the excess over the air.
        self.h_half = _each((h[1:] - h[:-1]) / 2)
        carried = LATENT_HEAT_J_KG * drive.transfer_kg_m2spa
        self.carried = _middles(carried)
        self.carried_half = _each((carried[1:] - carried[:-1]) / 2)
        self.given = _each(carried * drive.vapour_pa)
        self.dew = _each(drive.dew_point_c)
        self.capacity = drive.capacity_j_m2k
        self.per_capacity = self.dt / drive.capacity_j_m2k
        self.limit = drive.water_capacity_kg_m2
        rain = drive.rain_kg_m2_s
        self.rain = None if rain is None or not rain.any() else rain
        self.inward = inward

    def start(self, face_c: Array) -> None:
        self.moved = np.zeros_like(face_c)
        if self.inward is not None:
            self.inward.start(face_c)

    def advance(self, n: int, now: Array, store: Array) -> tuple[Array, Array]:
        """Return temperature and water one step after instant `n`."""
        loss, first, last = self._dry(n, now)
        if self.inward is not None:
            begins, ends = self.inward.draws_w_m2(now)
            loss, first, last = loss + self.inward.pull_w_m2k, first + begins, last + ends
        wet = (store > 0) | (now < self.dew[n])
        falls: float | Array = 0.0
        if self.rain is not None:
            falls = self.rain[n]
            wet |= falls > 0
        begin: float | Array = 0.0
        then = self._solve_whole(now, loss, first, last)
        # Dew that begins within the step: dry until the face, alone, comes to the dew point.
        dewing = (then < self.dew[n + 1]) & ~wet
        if dewing.any():
            above, below = now - self.dew[n], self.dew[n + 1] - then
            begin = np.where(dewing, above / np.maximum(above + below, 1e-9), 0.0)
            wet |= dewing
        mean = None
        if wet.any():
            then, mean, store = self._wet(n, _Begun(now, store, falls, wet, begin), (loss, first, last))
        if self.inward is not None:
            self.inward.take(self._mean_whole(then - now, loss, first, last) if mean is None else mean)
        self.moved = then - now
        return then, store if self.limit is None else np.minimum(store, self.limit)

    def _dry(self, n: int, now: Array) -> tuple[Array, Array, Array]:
        """Return loss [W/m2K] and forcing at both ends [W/m2] of emission, wind and light, straight about `now`."""
        kelvin = now + 273.15
        # Multiplied out: a power costs as much as all the rest of the line.
        slope = (4 * EMISSIVITY * STEFAN_BOLTZMANN) * (kelvin * kelvin * kelvin)
        # εσT⁴ about T: the part left over once slope x T stands on the left.
        rest = slope * (now - kelvin / 4)
        h, half = self.h[n], self.h_half[n] * (now - self.air[n])
        return slope + h, self.gain_first[n] + rest + (h * self.air[n] + half), self.gain_last[n] + rest + (h * self.air[n + 1] - half)

    def _wet(self, n: int, at: "_Begun", dry: tuple[Array, Array, Array]) -> tuple[Array, Array, Array]:
        """Return temperature, its mean and the water where vapour is taken up or given off."""
        loss, first, last = dry
        now, begin = at.temp_c, at.begin
        before: Array | float = 0.0
        length = 1.0 - begin
        if at.is_late:
            now = np.where(begin > 0, self._solve(at.temp_c, loss, first, last, 0.0, begin), at.temp_c)
            before = np.where(begin > 0, self._mean(at.temp_c, now, loss, first, last, 0.0, begin), 0.0)
        saturated = saturation_pressure_pa(now)
        # Times the flag, not `where`: this runs a thousand times on a few dozen numbers each.
        carried = self.carried[n] * at.wet
        start = (self.given[n] + self.carried_half[n] * saturated) * at.wet
        end = (self.given[n + 1] - self.carried_half[n] * saturated) * at.wet
        kelvin = now + 273.15
        rise = _CLAUSIUS_K / (kelvin * kelvin)
        # As far as it moved in the step before, it moves again: the chord to there is nearly the right one.
        guess = self.moved * length
        slope = saturated * rise * (1 + rise * guess * 0.5)
        for _ in range(_MOST_CHORDS):
            # Saturation as a line through the temperature now, with this slope.
            held = carried * (saturated - slope * now)
            wetted = (loss + carried * slope, first + (start - held), last + (end - held))
            then = self._solve(now, *wetted, begin, 1.0) if at.is_late else self._solve_whole(now, *wetted)
            moved = then - now
            far = np.abs(moved - guess) > _CHORD_K
            if not far.any():
                break
            slope = np.where(far, (saturation_pressure_pa(then) - saturated) / np.where(far & (moved != 0), moved, 1.0), slope)
            guess = np.where(far, moved, guess)
        mean = self._mean(now, then, *wetted, begin, 1.0) if at.is_late else self._mean_whole(moved, *wetted)
        latent = start + (end - start) * ((begin + 1.0) / 2) - held - carried * slope * mean
        left = at.store + self.dt * (at.falls + length * latent / LATENT_HEAT_J_KG)
        mean = begin * before + length * mean
        if at.is_late:
            # Dew that came and went within the step was none.
            left = np.where(begin > 0, np.maximum(left, 0.0), left)
        dried = left < 0
        if dried.any():
            # What falls meanwhile dries as it comes.
            supply = LATENT_HEAT_J_KG * at.falls
            ended, over = self._dries(at, now, dry, wetted, supply, start - carried * saturated + supply, latent + supply, dried)
            then, mean, left = np.where(dried, ended, then), np.where(dried, over, mean), np.where(dried, 0.0, left)
        return then, mean, left

    def _dries(
        self, at: "_Begun", now: Array, dry: tuple[Array, Array, Array], wetted: tuple[Array, Array, Array],
        supply: float | Array, latent_first: Array, latent_mean: Array, dried: NDArray[np.bool_],
    ) -> tuple[Array, Array]:  # fmt: skip
        """Return temperature and its mean where the store runs out within the step: wet until then, dry from there.

        A thin skin in the sun warms by degrees in what remains of the quarter-hour.
        """
        share = np.where(dried, self._runs_out(at.store, latent_first, latent_mean), 1.0)
        middle = self._solve(now, *wetted, 0.0, share)
        wet_mean = self._mean(now, middle, *wetted, 0.0, share)
        # Emission made straight anew about where it stands.
        kelvin, then_k = at.temp_c + 273.15, middle + 273.15
        shift = (4 * EMISSIVITY * STEFAN_BOLTZMANN) * (then_k**3 - kelvin**3)
        more = shift * middle - (EMISSIVITY * STEFAN_BOLTZMANN) * (then_k**4 - kelvin**4 - 4 * kelvin**3 * (then_k - kelvin))
        loss, first, last = dry[0] + shift, dry[1] + (more - supply), dry[2] + (more - supply)
        ended = self._solve(middle, loss, first, last, share, 1.0)
        dry_mean = self._mean(middle, ended, loss, first, last, share, 1.0)
        return ended, share * wet_mean + (1 - share) * dry_mean

    def _runs_out(self, store: Array, latent_first: Array, latent_mean: Array) -> Array:
        """Return the share of the step after which the store is empty, its loss running straight from first to last."""
        need = store * LATENT_HEAT_J_KG / self.dt
        begin = np.maximum(-latent_first, 0.0)
        bend = np.maximum(-latent_mean, need) - begin
        # need = begin s + bend s²; the stable form of the root, good for bend of either sign and of none.
        root = np.sqrt(np.maximum(begin * begin + 4 * bend * need, 0.0))
        share: Array = np.clip(2 * need / np.maximum(begin + root, 1e-12), 0.0, 1.0)
        return share

    def _solve_whole(self, now: Array, loss: Array, first: Array, last: Array) -> Array:
        """Return `_solve` over the whole step: most of all time goes here, so it is written out."""
        x = loss * self.per_capacity
        kept = np.exp(-x)
        gone = 1 - kept
        then: Array = now * kept + (first * gone + (last - first) * (1 - gone / x)) / loss
        return then

    def _mean_whole(self, moved: Array, loss: Array, first: Array, last: Array) -> Array:
        """Return `_mean` over the whole step."""
        mean: Array = ((first + last) * 0.5 - moved / self.per_capacity) / loss
        return mean

    def _solve(self, now: Array, loss: Array, first: Array, last: Array, begin: float | Array = 0.0, end: float | Array = 1.0) -> Array:
        """Solve C dT/dt = forcing(t) - loss T exactly from share `begin` to `end` of a step, the forcing straight from first to last."""
        ramp = last - first
        starts = first + ramp * begin
        ramp = ramp * (end - begin)
        # A part of no length stays where it is; the floor keeps its ratio finite.
        x = np.maximum(loss * self.per_capacity * (end - begin), 1e-9)
        gone = -np.expm1(-x)
        # T(dt) = decay T + particular solution of the ramp.
        then: Array = now * (1 - gone) + (starts * gone + ramp * (1 - gone / x)) / loss
        return then

    def _mean(
        self, now: Array, then: Array, loss: Array, first: Array, last: Array, begin: float | Array = 0.0, end: float | Array = 1.0
    ) -> Array:
        """Return the mean temperature from share `begin` to `end`: what the balance says was lost."""
        mean: Array = first + (last - first) * ((begin + end) / 2)
        length = np.maximum(end - begin, 1e-9)
        mean = (mean - (then - now) / (self.per_capacity * length)) / loss
        return mean if isinstance(begin, float) and isinstance(end, float) else np.where(length > 1e-6, mean, now)

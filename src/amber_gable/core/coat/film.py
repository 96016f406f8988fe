"""The young film: how long a fresh coat bears neither rain nor dew, and until when it may still dull or streak.

Its progress runs by the rate of drying over the label's rain-free hours. It is young until half of its way to rain-ready, and
never less than the label's hours by the clock; then tender until it is rain-ready (handbook 3, school 21; reckonings.md, `windows`).
Not here: the rate (drying), or what rain and dew make of an hour (windows.limits).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import ready_index

# A step that a time ends exactly at is no longer within it.
_HAIR = 1e-9


@dataclass(frozen=True)
class Film:
    """Fate of a coat put on at each instant.

    Parameters
    ----------
    progress : ndarray, shape (..., S, Q)
        Label-hours of drying since the first instant.
    rain_free_h : float
        The label's hours to rain-ready.
    young_until, ready_at : ndarray, shape (..., S, Q)
        Instants at which it is no longer young, and rain-ready (fractional; infinite beyond the data).
    """

    progress: Array
    rain_free_h: float
    young_until: Array
    ready_at: Array

    @property
    def young_end(self) -> NDArray[np.intp]:
        """Return the first instant past the young time, at most the length of the data."""
        return _end(self.young_until)

    @property
    def ready_end(self) -> NDArray[np.intp]:
        """Return the first instant past the tender time, at most the length of the data."""
        return _end(self.ready_at)

    def share_at(self, instants: NDArray[np.intp]) -> Array:
        """Return how far each coat has come toward rain-ready at an instant of its own, 0 to 1; shape (..., S, Q)."""
        if not self.rain_free_h:
            return np.ones(self.progress.shape)
        later = np.take_along_axis(self.progress, np.minimum(instants, self.progress.shape[-1] - 1), axis=-1)
        result: Array = np.clip((later - self.progress) / self.rain_free_h, 0.0, 1.0)
        return result


def _end(until: Array) -> NDArray[np.intp]:
    count = until.shape[-1]
    return np.minimum(np.ceil(np.minimum(until, count) - _HAIR), count).astype(np.intp)


def film_of(progress: Array, rain_free_h: float, young_share: float, step_s: float) -> Film:
    """Return the fate of coats put on at each instant.

    Parameters
    ----------
    progress : ndarray, shape (..., S, Q)
        From `progress_h`.
    rain_free_h : float
        Of the label, at 25 °C and 50 %.
    young_share : float
        How far it must have come to be young no longer, 0 to 1: 1 waits until it is rain-ready, 0 goes by the label's clock.
    step_s : float
    """
    ready = ready_index(progress, rain_free_h)
    clock = np.arange(progress.shape[-1]) + rain_free_h * 3600 / step_s
    half = ready if young_share == 1 else ready_index(progress, young_share * rain_free_h)
    return Film(progress, rain_free_h, np.maximum(half, clock), ready)


def next_index(flags: NDArray[np.bool_]) -> NDArray[np.intp]:
    """Return, for each instant, the first one from it on that is flagged; the length of the data where none is. Shape as given."""
    count = flags.shape[-1]
    places = np.where(flags, np.arange(count), count)
    result: NDArray[np.intp] = np.minimum.accumulate(places[..., ::-1], axis=-1)[..., ::-1]
    return result

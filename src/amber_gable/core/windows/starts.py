"""Starts: the moments at which a coat that takes a given time may begin."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.windows.states import SHUT, States


@dataclass(frozen=True)
class Span:
    """Quarter-hours `first` to `last`, both permitted starts."""

    first: int
    last: int


def permitted(states: States, steps: int) -> NDArray[np.bool_]:
    """Return where a coat of `steps` quarter-hours may begin, shape as `states` (S, Q).

    Every quarter-hour of the coat must be open or tight; a coat that would run beyond the data
    may not begin.

    Parameters
    ----------
    states : ndarray of int8, shape (S, Q)
        0 shut, 1 tight, 2 open.
    steps : int
        Quarter-hours that a coat takes.
    """
    shut = np.cumsum(states == SHUT, axis=-1)
    before = np.concatenate([np.zeros_like(shut[..., :1]), shut], axis=-1)
    out = np.zeros(states.shape, dtype=bool)
    count = states.shape[-1]
    if steps <= count:
        out[..., : count - steps + 1] = before[..., steps:] == before[..., : count - steps + 1]
    return out


def spans(allowed: NDArray[np.bool_]) -> list[Span]:
    """Return runs of permitted starts of one surface.

    Parameters
    ----------
    allowed : bool array, shape (Q,)
        Whether a coat may be begun at each step.

    Returns
    -------
    list of Span
        First and last step of each run, both within it.
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[False], allowed, [False]]).astype(np.int8)))
    return [Span(int(a), int(b) - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)]

"""Rain ahead: the most of it, and the chance of any, over a span that is as long as a coat of its own needs.

Not here: how long that is (coat.film), or what a chance makes of an hour (windows.limits).
"""

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array

# Showers come in spells: hours within one are taken as one event, spells as independent (reckonings.md).
SPELL_H = 6.0
_SURE_PCT = 100.0


class MostOver:
    """The most of what is given at Q instants over any span of them, by a table of spans of doubling length.

    Parameters
    ----------
    values : ndarray, shape (..., Q)
    """

    def __init__(self, values: Array) -> None:
        self._rows = [values]
        length, count = 1, values.shape[-1]
        while length * 2 <= count:
            last = self._rows[-1]
            # At the end of the data spans are shorter.
            longer = last.copy()
            np.maximum(last[..., :-length], last[..., length:], out=longer[..., :-length])
            self._rows.append(longer)
            length *= 2

    def span(self, first: NDArray[np.intp], end: NDArray[np.intp]) -> Array:
        """Return the most from `first` to before `end`, shape (..., S, Q); 0 where the span is empty."""
        count = self._rows[0].shape[-1]
        length = np.maximum(np.minimum(end, count) - first, 0)
        level = np.maximum(np.frexp(np.maximum(length, 1))[1] - 1, 0)
        out = np.zeros(np.broadcast_shapes(length.shape, (*self._rows[0].shape[:-1], 1, length.shape[-1])))
        for number in np.unique(level):
            row = self._rows[min(int(number), len(self._rows) - 1)][..., None, :]
            row = np.broadcast_to(row, out.shape)
            here = np.broadcast_to(np.minimum(first, count - 1), out.shape)
            there = np.broadcast_to(np.clip(end - (1 << int(number)), 0, count - 1), out.shape)
            most = np.maximum(np.take_along_axis(row, here, axis=-1), np.take_along_axis(row, there, axis=-1))
            np.copyto(out, most, where=np.broadcast_to((level == number) & (length > 0), out.shape))
        return out


def chance_pct(hourly_pct: Array, end: NDArray[np.intp], step_s: float) -> Array:
    """Return the chance of rain from each instant to before its own end, shape (..., S, Q) [%].

    Parameters
    ----------
    hourly_pct : ndarray, shape (..., Q)
        Of the hour that each instant lies in.
    end : ndarray of int, shape (..., S, Q)
        First instant that no longer counts, at most Q.
    step_s : float

    References
    ----------
    reckonings.md, `windows`: 1 - product over spells of 6 h, counted from each instant, of 1 - the largest chance in each.
    """
    count = hourly_pct.shape[-1]
    at = np.arange(count)
    if not hourly_pct.any():
        return np.zeros(end.shape)
    spell = round(SPELL_H * 3600 / step_s)
    most = MostOver(hourly_pct)
    whole = most.span(at, np.minimum(at + spell, count))[..., 0, :]
    # Products of whole spells, one after another, as sums of logarithms; sure rain, which has none, is counted.
    pad = -count % spell
    sure = whole >= _SURE_PCT
    dry = np.log1p(-np.where(sure, 0.0, whole) / 100)

    def after_another(values: Array) -> Array:
        """Return the sum over this and all later spells in step with it, with a row of nothing behind the data."""
        rows = np.concatenate([values, np.zeros((*values.shape[:-1], pad + spell))], axis=-1)
        stacked = rows.reshape(*values.shape[:-1], -1, spell)
        total: Array = np.cumsum(stacked[..., ::-1, :], axis=-2)[..., ::-1, :]
        return total.reshape(rows.shape)

    logs, sures = after_another(dry), after_another(sure.astype(float))
    full = np.maximum(end - at, 0) // spell
    rest = at + full * spell

    def between(sums: Array) -> Array:
        wide = np.broadcast_to(sums[..., None, :], (*end.shape[:-1], sums.shape[-1]))
        taken: Array = wide[..., :count] - np.take_along_axis(wide, rest, axis=-1)
        return taken

    remaining = 1 - most.span(rest, end) / 100
    dry_share = np.where(between(sures) > 0.5, 0.0, np.exp(between(logs)) * remaining)
    # Rounded, so that one spell of 30 % is 30 % and not a hair more than a limit of 30.
    result: Array = np.round(100 * (1 - dry_share), 9)
    return result

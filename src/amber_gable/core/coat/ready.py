"""The look-up of `drying.ready_index` compiled, for the thousands of rows that members of an ensemble make.

One walk along each row with two places, where interpolation looks each one up anew; loaded where many rows are asked for only.
Not here: few rows (drying), which need not wait for the compiler.
"""

import numpy as np
from numba import njit


@njit(cache=True, error_model="numpy")
def reached(done, label_h, hair, out):  # type: ignore[no-untyped-def]
    """Fill `out`, shape (R, Q), with the fractional instant at which each coat has done `label_h` more; infinite beyond the data.

    Parameters
    ----------
    done : ndarray, shape (R, Q)
        Label-hours of drying, never falling.
    label_h : float
    hair : float
        What is added a step, so that the later end of a level is meant.
    """
    rows, count = done.shape
    for r in range(rows):
        j = 0
        for i in range(count):
            target = done[r, i] + label_h
            while j < count and done[r, j] + hair * j < target:
                j += 1
            if j == count:
                out[r, i] = np.inf
                continue
            place = float(j)
            if j > 0:
                before = done[r, j - 1] + hair * (j - 1)
                place = j - 1 + (target - before) / (done[r, j] + hair * j - before)
            out[r, i] = max(place, float(i))


def compile_now() -> None:
    """Compile `reached`, or load it from where it was kept when it was compiled before."""
    reached(np.zeros((1, 2)), 1.0, 1e-12, np.empty((1, 2)))

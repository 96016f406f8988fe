"""pvlib and pandas, imported where they are first needed: that takes longer than a page to answer.

One thread imports and the others wait for it: two that import one package at a time, each from another end, find it half made.
Not here: what is asked of them (sun).
"""

from dataclasses import dataclass
from functools import cache
from threading import Lock
from typing import Any

_one_at_a_time = Lock()


@dataclass(frozen=True)
class Modules:
    """The modules that are asked."""

    pandas: Any
    irradiance: Any
    location: Any
    solarposition: Any
    iotools: Any


@cache
def _imported() -> Modules:
    import pandas
    from pvlib import iotools, irradiance, location, solarposition

    return Modules(pandas, irradiance, location, solarposition, iotools)


def modules() -> Modules:
    """Return pandas and pvlib; the first call imports them, which takes about a second."""
    with _one_at_a_time:
        return _imported()

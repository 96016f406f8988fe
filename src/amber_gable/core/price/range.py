"""Price range: low, likely and high of what is not measured yet, and what drives the spread.

Each driver is priced on its own, down and up; together they spread as independent errors do, by the root of the sum
of their squares.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.knowledge.assumptions import assumed

# How often what could only make it dearer (or cheaper) turns up at all.
_TURNS_UP = assumed("turns_up_share")


@dataclass(frozen=True)
class Driver:
    """Something not known yet, and what the price would be at either end of it."""

    key: str
    label: str
    low: float
    high: float

    def down(self, likely: float) -> float:
        return max(likely - min(self.low, self.high), 0.0)

    def up(self, likely: float) -> float:
        return max(max(self.low, self.high) - likely, 0.0)

    def spread(self, likely: float) -> float:
        """Return how far it moves the price, at most."""
        return max(self.down(likely), self.up(likely))


@dataclass(frozen=True)
class PriceRange:
    """Low, likely and high, and the drivers with the strongest first."""

    low: float
    likely: float
    high: float
    drivers: tuple[Driver, ...]


def outcomes(likely: float, drivers: Sequence[Driver], count: int = 4000, seed: int = 1) -> NDArray[np.float64]:
    """Return prices that a job could come to, each driver drawn by itself: likely in the middle, seldom at either end.

    Parameters
    ----------
    likely : float
    drivers : sequence of Driver
    count, seed : int

    Returns
    -------
    ndarray, shape (count,)
        In the contractor's money.

    References
    ----------
    Triangular distributions, as estimators give low, likely and high.
    """
    chance = np.random.default_rng(seed)
    prices = np.full(count, likely)
    for driver in drivers:
        down, up = driver.down(likely), driver.up(likely)
        if down + up > 0:
            drawn = chance.triangular(-down, 0.0, up, count)
            # What goes one way only (rot, lead, a coat more) turns up, or does not.
            turns_up = chance.random(count) < _TURNS_UP if not (down and up) else True
            prices += np.where(turns_up, drawn, 0.0)
    return prices


def nine_in_ten(likely: float, drivers: Sequence[Driver]) -> tuple[float, float]:
    """Return between which prices nine of ten simulated outcomes end."""
    low, high = np.quantile(outcomes(likely, drivers), (0.05, 0.95))
    return float(low), float(high)


def price_range(likely: float, drivers: Sequence[Driver]) -> PriceRange:
    """Return the range of a price.

    Parameters
    ----------
    likely : float
        With everything as it is assumed.
    drivers : sequence of Driver
        Independent of one another.
    """
    down = sum(d.down(likely) ** 2 for d in drivers) ** 0.5
    up = sum(d.up(likely) ** 2 for d in drivers) ** 0.5
    ordered = tuple(sorted(drivers, key=lambda d: -d.spread(likely)))
    # Drivers that go one way only add up faster than the root of their squares: nine of ten outcomes are always within.
    first, last = nine_in_ten(likely, ordered)
    return PriceRange(max(min(likely - down, first), 0.0), likely, max(likely + up, last), ordered)

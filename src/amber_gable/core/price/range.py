"""Price range: low, likely and high of what is not measured yet, and what drives the spread.

Each driver is priced on its own, down and up; together they spread as independent errors do, by the root of the sum
of their squares.
"""

from collections.abc import Sequence
from dataclasses import dataclass


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
    return PriceRange(max(likely - down, 0.0), likely, likely + up, ordered)

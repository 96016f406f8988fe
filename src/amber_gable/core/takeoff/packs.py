"""Packs: the cheapest mix of containers that covers a need, proved.

Not here: how much is needed (takeoff), or what is in stock (services).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from functools import cache
from math import gcd, lcm

from amber_gable.errors import FieldErrors

MOST_SIZES = 12
MOST_LITRES = 20_000.0


@dataclass(frozen=True)
class Container:
    """A size one can buy."""

    name: str
    litres: float
    price: float


@dataclass(frozen=True)
class Packs:
    """Containers to buy.

    Parameters
    ----------
    counts : tuple of (Container, int)
        Those that are bought, in the order they were given.
    litres, price, leftover_l : float
    """

    counts: tuple[tuple[Container, int], ...]
    litres: float
    price: float
    leftover_l: float

    @property
    def said(self) -> str:
        """Return what is bought in words, the largest first: "4 × 5 gallons, 3 × quart"."""
        return ", ".join(f"{count} × {size.name}" for size, count in sorted(self.counts, key=lambda c: -c[0].litres))


# Price, leftover, containers, and how many of each size from here on: compared in this order.
_Best = tuple[int, int, int, tuple[int, ...]]


def _whole(values: Sequence[float]) -> tuple[list[int], int]:
    """Return numbers as whole multiples of one unit, exactly as they are written, and how many units are 1."""
    exact = [Fraction(Decimal(repr(v))) for v in values]
    unit = lcm(*(f.denominator for f in exact))
    return [int(f * unit) for f in exact], unit


def check_sizes(sizes: Sequence[Container]) -> None:
    """Refuse sizes that nothing can be bought in.

    Raises
    ------
    FieldErrors
    """
    faults = {}
    if not 1 <= len(sizes) <= MOST_SIZES:
        faults["sizes"] = f"Give 1 to {MOST_SIZES} container sizes."
    seen: set[str] = set()
    for index, size in enumerate(sizes):
        if size.name in seen:
            faults[f"sizes.{index}.name"] = f"There are two sizes “{size.name}”; give each its own name."
        seen.add(size.name)
        if not 0 < size.litres <= MOST_LITRES:
            faults[f"sizes.{index}.litres"] = "A container holds more than 0 litres."
        if not 0 <= size.price <= 1e6:
            faults[f"sizes.{index}.price"] = "A price is 0 or more."
    if faults:
        raise FieldErrors(faults)


def cheapest_packs(litres_needed: float, sizes: Sequence[Container]) -> Packs:
    """Return the cheapest containers that hold at least what is needed; of equals the least left over, then the fewest.

    Parameters
    ----------
    litres_needed : float
        0 to 20 000 [L]; 0 needs nothing.
    sizes : sequence of Container
        Names unique, litres above 0, prices not below 0; as many of each as one likes.

    Raises
    ------
    FieldErrors

    Notes
    -----
    Exact: figures are taken as the decimals they are written in, and every branch that is left out is left out because a lower
    bound (the price of the rest by the litre at the best rate still to come) is no better than what was found.
    """
    check_sizes(sizes)
    if not 0 <= litres_needed <= MOST_LITRES:
        raise FieldErrors({"litres_needed": f"The need must be 0 to {MOST_LITRES:g} litres, got {litres_needed:g}."})
    whole, unit = _whole([litres_needed, *(s.litres for s in sizes)])
    prices, _ = _whole([s.price for s in sizes])
    need, litres = whole[0], whole[1:]
    order = _useful(litres, prices)
    numbers = _search(need, [litres[i] for i in order], [prices[i] for i in order])
    bought = dict(zip(order, numbers, strict=True))
    counts = tuple((size, bought[i]) for i, size in enumerate(sizes) if bought.get(i))
    held = sum(litres[i] * n for i, n in bought.items())
    money = sum(Fraction(Decimal(repr(sizes[i].price))) * n for i, n in bought.items())
    return Packs(counts, held / unit, float(money), (held - need) / unit)


def least_waste(litres_needed: float, sizes: Sequence[Container], most_price: float) -> Packs | None:
    """Return what leaves least over of all that cost at most so much; of equals the cheapest. None where nothing does.

    Parameters
    ----------
    litres_needed : float
        At least.
    sizes : sequence of Container
        Litres and price of each.
    most_price : float
        In the contractor's money.

    Notes
    -----
    Exact, by trying every number of each size that the money allows; meant for the few sizes of one paint.
    """
    order = sorted(range(len(sizes)), key=lambda i: -sizes[i].litres)
    best: tuple[float, float, tuple[int, ...]] | None = None

    def tried(k: int, rest: float, price: float, counts: tuple[int, ...]) -> None:
        nonlocal best
        size = sizes[order[k]]
        # A can that fills the rest to the last digit is no can short.
        fill = max(-(-max(rest - 1e-9, 0.0) // size.litres), 0.0)
        if k == len(order) - 1:
            cost, over = price + fill * size.price, fill * size.litres - rest
            if cost <= most_price + 1e-9 and (best is None or (round(over, 9), cost) < best[:2]):
                best = (round(over, 9), cost, (*counts, int(fill)))
            return
        for n in range(int(fill) + 1):
            if price + n * size.price <= most_price + 1e-9:
                tried(k + 1, rest - n * size.litres, price + n * size.price, (*counts, n))

    tried(0, litres_needed, 0.0, ())
    if best is None:
        return None
    bought = dict(zip(order, best[2], strict=True))
    counts = tuple((size, bought[i]) for i, size in enumerate(sizes) if bought[i])
    litres = sum(size.litres * n for size, n in counts)
    return Packs(counts, litres, best[1], max(litres - litres_needed, 0.0))


def _useful(litres: Sequence[int], prices: Sequence[int]) -> list[int]:
    """Return the sizes that may be worth buying, the cheapest by the litre first, of equals the largest."""
    kept = [
        i
        for i in range(len(litres))
        # Never worth it beside one that holds at least as much for less money.
        if not any(litres[j] >= litres[i] and prices[j] < prices[i] for j in range(len(litres)))
    ]
    return sorted(kept, key=lambda i: (Fraction(prices[i], litres[i]), -litres[i]))


def _search(need: int, litres: Sequence[int], prices: Sequence[int]) -> tuple[int, ...]:
    last = len(litres) - 1
    largest = [max(litres[i:]) for i in range(len(litres))]
    # A total price is a whole number of these: a bound may be rounded up to one.
    step = [gcd(*prices[i:]) or 1 for i in range(len(prices))]

    @cache
    def best(i: int, rest: int) -> _Best:
        """Return the best way to cover what is left with sizes from the i-th on."""
        if rest <= 0:
            return 0, -rest, 0, (0,) * (len(litres) - i)
        if i == last:
            n = -(-rest // litres[i])
            return n * prices[i], n * litres[i] - rest, n, (n,)
        best_yet: _Best | None = None
        for n in range(-(-rest // litres[i]), -1, -1):
            left = rest - n * litres[i]
            if best_yet is not None and left > 0:
                if n * prices[i] * litres[i + 1] + left * prices[i + 1] > best_yet[0] * litres[i + 1]:
                    # With fewer of the cheapest by the litre this bound only grows.
                    break
                rated = -(-left * prices[i + 1] // litres[i + 1])
                price_at_least = n * prices[i] + -(-rated // step[i + 1]) * step[i + 1]
                bound = (price_at_least, 0, n + -(-left // largest[i + 1]))
                if bound >= best_yet[:3]:
                    continue
            price, over, count, counts = best(i + 1, left)
            one = (n * prices[i] + price, over, n + count, (n, *counts))
            if best_yet is None or one[:3] < best_yet[:3]:
                best_yet = one
        assert best_yet is not None
        return best_yet

    return best(0, need)[3]

"""Lots: all the paint of one product and one colour, bought as one and boxed as one.

A lot is what must match: its cans are mixed before use, its reserve is kept from the same mix, and it is never
bought in two goes.
Not here: how much a coat takes (quantity), which containers are cheapest (packs).
"""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge, Product
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.takeoff.packs import Container, Packs, cheapest_packs, least_waste
from amber_gable.core.takeoff.quantity import Quantity, Spread, whole, with_reserve

# A need is bought to the millilitre: below it nobody measures.
_ML = 1000
# Roles of families of which some is kept for touching up.
_KEPT = ("finish", "sealer")
_LITTLE_MORE = assumed("little_more_ratio")
_WORTH_L = assumed("worth_saving_l")


@dataclass(frozen=True)
class Line:
    """One coat on one part.

    Parameters
    ----------
    part, part_name, step, label : str
    product : str
    colour : str
        #rrggbb; empty for what is not tinted.
    sheen : str
    paint : Quantity
    spread : Spread
    """

    part: str
    part_name: str
    step: str
    label: str
    product: str
    colour: str
    sheen: str
    paint: Quantity
    spread: Spread

    @property
    def litres(self) -> float:
        return self.paint.litres


@dataclass(frozen=True)
class Stocked:
    """Paint that is there already and kept for this job."""

    id: str
    product: str
    colour: str
    litres: float
    batch: str = ""
    place: str = ""


@dataclass(frozen=True)
class Lot:
    """All of one product in one colour.

    Parameters
    ----------
    litres : float
        Of all its coats.
    reserve_l : float
        For touching up, from the same mix.
    stock : tuple of Stocked
        Used first; `stock_l` of it is.
    need_l : float
        Left to be bought.
    packs, least_waste : Packs or None
        The cheapest, and what leaves least over for at most a tenth more; None where nothing is to be bought, or the
        product names no sizes.
    boxes : int
        How often it is mixed, a part carried over each time.
    """

    product: Product
    product_key: str
    colour: str
    role: str
    lines: tuple[Line, ...]
    litres: float
    reserve_l: float
    stock: tuple[Stocked, ...]
    stock_l: float
    need_l: float
    packs: Packs | None
    least_waste: Packs | None
    boxes: int

    @property
    def key(self) -> str:
        return f"{self.product_key}-{self.colour.lstrip('#') or 'plain'}"

    @property
    def price(self) -> float:
        return self.packs.price if self.packs else 0.0

    @property
    def is_kept(self) -> bool:
        """Return whether a reserve is kept for touching up: of what is seen."""
        return self.role in _KEPT

    @property
    def total_l(self) -> float:
        return self.litres + self.reserve_l

    @property
    def by_part(self) -> dict[str, float]:
        """Litres of each part, by its name."""
        out: dict[str, float] = {}
        for line in self.lines:
            out[line.part_name] = out.get(line.part_name, 0.0) + line.litres
        return out


def boxes_of(litres: float, box_l: float, carry_share: float) -> int:
    """Return how often a colour is boxed: a full bucket, then each time what is used of it is filled up.

    Parameters
    ----------
    litres : float
        Of one colour.
    box_l : float
        Of the bucket [L].
    carry_share : float
        Of a bucket that is carried over into the next, 0 to 1.

    References
    ----------
    Handbook 7: all cans of a colour are mixed, a third carried over into the next box.
    """
    if litres <= box_l:
        return 1 if litres > 0 else 0
    return 1 + whole((litres - box_l) / (box_l * (1 - carry_share)))


def _least_waste(need_l: float, sizes: Sequence[Container], cheapest: Packs) -> Packs | None:
    """Return what leaves least over for little more money, where that is less than the cheapest leaves."""
    packs = least_waste(need_l, sizes, cheapest.price * _LITTLE_MORE)
    return packs if packs and packs.leftover_l < cheapest.leftover_l - _WORTH_L else None


def _from_stock(stock: Sequence[Stocked], wanted_l: float) -> tuple[tuple[Stocked, ...], float]:
    used: list[Stocked] = []
    left = wanted_l
    for row in stock:
        if left > 1e-9:
            used.append(row)
            left -= row.litres
    return tuple(used), wanted_l - max(left, 0.0)


def lot_of(product_key: str, colour: str, lines: Sequence[Line], stock: Sequence[Stocked], knowledge: Knowledge) -> Lot:
    """Return a lot with what of it is in stock and what is bought.

    Parameters
    ----------
    colour : str
        "#rrggbb"; empty for what is not tinted.
    lines : sequence of Line
        Coats of this product and colour.
    stock : sequence of Stocked
        Kept for this job.
    """
    product, practice = knowledge.products[product_key], knowledge.practice
    role = knowledge.systems.families[product.family].role
    litres = sum(line.litres for line in lines)
    kept = role in _KEPT
    total = with_reserve(litres, practice.reserve_pct, practice.reserve_least_l) if kept else litres
    used, stock_l = _from_stock([s for s in stock if s.product == product_key and s.colour == colour], total)
    need = whole((total - stock_l) * _ML) / _ML
    sizes = [Container(s.name, s.litres, s.price) for s in product.sizes]
    packs = cheapest_packs(need, sizes) if sizes and need > 0 else None
    return Lot(
        product, product_key, colour, role, tuple(lines), litres, total - litres, used, stock_l, need, packs,
        _least_waste(need, sizes, packs) if packs else None, boxes_of(total, practice.box_l, practice.box_carry_share),
    )  # fmt: skip


def lots_of(lines: Sequence[Line], stock: Sequence[Stocked], knowledge: Knowledge) -> tuple[Lot, ...]:
    """Return the lots of a job: finishes first, the largest first."""
    alike: dict[tuple[str, str], list[Line]] = {}
    for line in lines:
        alike.setdefault((line.product, line.colour), []).append(line)
    lots = [lot_of(product, colour, group, stock, knowledge) for (product, colour), group in alike.items()]
    return tuple(sorted(lots, key=lambda lot: (not lot.is_kept, -lot.litres, lot.product_key, lot.colour)))

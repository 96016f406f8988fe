"""Mixing: concentrate and water by parts; paint boxed: all cans of a colour mixed, a third of each box carried over into the next.

Not here: how many cans are bought (lots, packs).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.errors import FieldErrors

_NOTHING_L = 1e-6


@dataclass(frozen=True)
class Dilution:
    """Litres of concentrate and of water in a mix."""

    concentrate_l: float
    water_l: float


def dilute(concentrate_parts: float, water_parts: float, mix_l: float) -> Dilution:
    """Return what a mix is made of.

    Parameters
    ----------
    concentrate_parts, water_parts : float
        Parts by volume; concentrate above 0.
    mix_l : float
        Of the mix [L].

    References
    ----------
    Handbook 6: 1 part to 3 of water.
    """
    concentrate = mix_l * concentrate_parts / (concentrate_parts + water_parts)
    return Dilution(concentrate, mix_l - concentrate)


@dataclass(frozen=True)
class Mixes:
    """For an area: litres of mix, how many sprayers full, and concentrate to buy."""

    mix_l: float
    sprayers: int
    concentrate_l: float
    water_l: float


def mixes_for(area_m2: float, spread_m2_per_l: float, water_parts: float, sprayer_l: float = 10.0) -> Mixes:
    """Return the mixes that wet an area once.

    Parameters
    ----------
    area_m2, spread_m2_per_l : float
        Area, and how much of it a litre of the mix wets, above 0.
    water_parts : float
        To one of concentrate.
    sprayer_l : float
        What a garden sprayer holds [L].
    """
    mix = area_m2 / spread_m2_per_l
    each = dilute(1.0, water_parts, mix)
    return Mixes(mix, math.ceil(mix / sprayer_l - 1e-9), each.concentrate_l, each.water_l)


@dataclass(frozen=True)
class Pour:
    """One can that is poured, or part of it [L]."""

    can: int
    litres: float


@dataclass(frozen=True)
class Box:
    """One box.

    Parameters
    ----------
    carried_l : float
        What is left of the box before.
    pours : tuple of Pour
    """

    carried_l: float
    pours: tuple[Pour, ...]

    @property
    def litres(self) -> float:
        return self.carried_l + sum(p.litres for p in self.pours)


def boxes_of(cans_l: Sequence[float], box_l: float, carried_share: float) -> list[Box]:
    """Return how cans are mixed into boxes.

    Parameters
    ----------
    cans_l : sequence of float
        Litres in each can, above 0.
    box_l : float
        What the largest bucket holds [L].
    carried_share : float
        Share of a box that stays for the next, 0 to below 1.

    Returns
    -------
    list of Box
        Every can is poured out; each box but the first holds what was carried over. A box is filled as full as cans allow.

    Raises
    ------
    FieldErrors
        If there is no can, or no bucket to mix in.

    References
    ----------
    Handbook 7: all cans of a colour are boxed before use, a third carried over into the next box.
    """
    if not cans_l or min(cans_l) <= 0:
        raise FieldErrors({"cans": "Choose cans with paint in them."})
    if box_l <= 0 or not 0 <= carried_share < 1:
        raise FieldErrors({"box": "How much does the bucket hold? More than 0."})
    left, boxes, carried = list(cans_l), list[Box](), 0.0
    while sum(left) > _NOTHING_L:
        room, pours = box_l - carried, list[Pour]()
        # From every can alike, so that each box has something of all that is left: two tints never follow each other.
        share = min(room / sum(left), 1.0)
        for can, litres in enumerate(left):
            if litres * share > _NOTHING_L:
                pours.append(Pour(can, litres * share))
        left = [litres * (1 - share) for litres in left]
        boxes.append(Box(carried, tuple(pours)))
        carried = boxes[-1].litres * carried_share
    return boxes

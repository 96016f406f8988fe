"""Dilution: parts to litres, and how many mixes and how much concentrate an area takes."""

import math
from dataclasses import dataclass


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

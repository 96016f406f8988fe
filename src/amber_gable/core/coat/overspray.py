"""Overspray: how far the paint of a gun drifts from a wall in a wind, and what stands in its way.

Not here: the flight of one droplet (drift), the wind limits of a sprayer (windows.limits).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from amber_gable.core.coat.drift import Flight, Kind, flight
from amber_gable.core.knowledge import Spray


@dataclass(frozen=True)
class Near:
    """Something that stands by the house.

    Parameters
    ----------
    name : str
    bearing_deg : float or None
        From the house; None where it stands at no known one.
    distance_m : float or None
    """

    name: str
    bearing_deg: float | None
    distance_m: float | None


@dataclass(frozen=True)
class Reached:
    """Effect of overspray on a thing: "clear" beside the wind, "mist" for the fine part alone, "paint" where most of it can come.

    Parameters
    ----------
    lands : {"dry", "wet"}
        As dust it still bonds to warm car paint: less of a risk, never none.
    """

    near: Near
    by: Literal["clear", "mist", "paint"]
    lands: Literal["dry", "wet"]


@dataclass(frozen=True)
class Overspray:
    """Reach of the gun's paint, and the things it meets, the worst first."""

    mist: Flight
    paint: Flight
    blows_to_deg: float | None
    reached: tuple[Reached, ...]


def _is_downwind(near: Near, to_deg: float | None, spread_deg: float) -> bool:
    if near.bearing_deg is None or to_deg is None:
        return True
    return abs((to_deg - near.bearing_deg + 180) % 360 - 180) <= spread_deg


def overspray(
    kind: Kind, top_m: float, wind_m_s: float, wind_from_deg: float | None, air_temp_c: float, wet_bulb_c: float,
    around: Sequence[Near], spray: Spray,
) -> Overspray:  # fmt: skip
    """Return how far overspray from the top of a wall goes in a wind, and what it meets.

    Parameters
    ----------
    kind : {"waterborne", "oil"}
    top_m : float
        Where the gun is at its highest.
    wind_m_s, wind_from_deg, air_temp_c, wet_bulb_c
        Of the hour; the gust, where it is known.
    around : sequence of Near
    spray : Spray
        Sizes of the mist and of most of the paint, and how far to either side counts as downwind.
    """
    mist, paint = (flight(kind, um, top_m, wind_m_s, air_temp_c, wet_bulb_c) for um in (spray.droplet_um, spray.coarse_um))
    to = None if wind_from_deg is None else (wind_from_deg + 180) % 360
    drifts = []
    for near in around:
        by: Literal["clear", "mist", "paint"] = "clear"
        if _is_downwind(near, to, spray.spread_deg):
            away = near.distance_m or 0.0
            by = "paint" if away <= paint.distance_m else "mist" if away <= mist.distance_m else "clear"
        drifts.append(Reached(near, by, (paint if by == "paint" else mist).lands))
    order = {"paint": 0, "mist": 1, "clear": 2}
    return Overspray(mist, paint, to, tuple(sorted(drifts, key=lambda r: order[r.by])))

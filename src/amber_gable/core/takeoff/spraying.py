"""Spraying: what a tip lets out at a pressure, how fast the gun must go, how long tip and hose last.

Pure functions.
Not here: how far overspray drifts (drift), or the loss that a take-off counts (takeoff).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.errors import FieldErrors
from amber_gable.units import convert

# Handbook 8: water through a 17-thousandths orifice at 2,000 psi [US gal/min].
_FLOW_GPM, _ORIFICE, _PSI = 0.31, 17.0, 2000.0
_FAN_IN_PER_DIGIT = 2.0
LEAST_ORIFICE = 7


@dataclass(frozen=True)
class Tip:
    """A spray tip: its code, the fan at 12 in (0.3 m), its bore."""

    code: str
    fan_width_m: float
    orifice_thou: int

    @property
    def orifice_mm(self) -> float:
        return self.orifice_thou * 0.0254


def tip_of(code: str) -> Tip:
    """Return what a tip's three digits say.

    Parameters
    ----------
    code : str
        First digit x 2 is the fan in inches at 12 in; the last two are the bore in thousandths of an inch (handbook 8).

    Raises
    ------
    FieldErrors
    """
    if len(code) != 3 or not code.isascii() or not code.isdigit() or code[0] == "0" or int(code[1:]) < LEAST_ORIFICE:
        raise FieldErrors(
            {"tip_code": f"A tip is three digits, like 517: twice the first is the fan in inches, the others the bore; got “{code}”."}
        )
    return Tip(code, convert(_FAN_IN_PER_DIGIT * int(code[0]), "in", "m"), int(code[1:]))


def flow_l_per_min(tip: Tip, pressure_psi: float) -> float:
    """Return the flow of water [L/min]; paint flows somewhat less.

    Parameters
    ----------
    tip : Tip
        Whose orifice is known in thousandths of an inch.
    pressure_psi : float
        At the tip.

    References
    ----------
    Handbook 8: about 0.31 US gal/min x (orifice/17)^2 x sqrt(psi/2000).
    """
    return convert(_FLOW_GPM * (tip.orifice_thou / _ORIFICE) ** 2 * math.sqrt(pressure_psi / _PSI), "gal", "L")


@dataclass(frozen=True)
class GunStroke:
    """Speed of a gun for a wanted wet film."""

    flow_l_per_min: float
    gun_speed_m_per_s: float
    area_m2_per_min: float


def stroke(tip: Tip, pressure_psi: float, transfer_efficiency_pct: float, overlap_pct: float, wet_film_um: float) -> GunStroke:
    """Return the speed of the gun and the finished area a minute.

    Parameters
    ----------
    transfer_efficiency_pct : float
        Share of the paint that ends on the wall [%].
    overlap_pct : float
        Of each stroke over the last [%], 0 to below 100.
    wet_film_um : float

    Notes
    -----
    Each point gets 1 / (1 - overlap) passes, so speed = flow x efficiency / (fan x (1 - overlap) x wet film).
    """
    flow = flow_l_per_min(tip, pressure_psi)
    landed_m3_s = flow / 1000 / 60 * transfer_efficiency_pct / 100
    film_m = wet_film_um * 1e-6
    return GunStroke(flow, landed_m3_s / (tip.fan_width_m * (1 - overlap_pct / 100) * film_m), landed_m3_s / film_m * 60)


def tips_of(text: str) -> tuple[int, int] | None:
    """Return the least and largest bore that a label's words name ("515 to 519", "brush, 515"); None for none."""
    codes = [int(word[1:]) for word in text.replace(",", " ").split() if len(word) == 3 and word.isdigit()]
    return (min(codes), max(codes)) if codes else None


# Widest fan that a piece asks for, by its smaller side [m] (our assumption: half of it, so that a stroke each way covers).
_FANS = (1, 2, 3, 4, 5, 6)


def choose_tip(label: str, least_side_m: float, pump_l_per_min: float, pressure_psi: float) -> tuple[Tip | None, tuple[str, ...]]:
    """Return the tip for a material and a piece that a pump can feed, and why.

    Parameters
    ----------
    label : str
        What the data sheet says of tips.
    least_side_m : float
        The smaller side of what is sprayed.
    pump_l_per_min : float
        What the pump delivers at most.
    """
    bores = tips_of(label)
    if bores is None:
        return None, (f"the label says “{label or 'nothing'}” of tips: brush or roll it",)
    low, high = bores
    digit = max((d for d in _FANS if convert(2.0 * d, "in", "m") <= least_side_m), default=1)
    digit = min(digit, 5)
    why = [f"the label asks for a bore of {low} to {high}"]
    for bore in range(high, low - 1, -2):
        tip = tip_of(f"{digit}{bore:02d}")
        if flow_l_per_min(tip, pressure_psi) <= pump_l_per_min:
            why.append(f"the largest of them that a pump of {pump_l_per_min:.1f} L/min feeds")
            return tip, tuple(why)
    why.append(f"a pump of {pump_l_per_min:.1f} L/min feeds none of them well: the smallest, at less pressure")
    return tip_of(f"{digit}{low:02d}"), tuple(why)


def tips_needed(litres: float, life_l: float) -> int:
    """Return how many tips a quantity wears out; a first one always.

    Parameters
    ----------
    litres : float
        Sprayed in all [L]; none for 0.
    life_l : float
        That one tip lasts [L].
    """
    return max(math.ceil(litres / life_l - 1e-9), 1) if litres > 0 else 0


def pump_moves(lengths_m: Sequence[float], hose_m: float) -> int:
    """Return how often the pump is moved when a hose reaches so far to either side along walls in a row.

    Parameters
    ----------
    lengths_m : sequence of float
        Of walls in walking order [m].
    hose_m : float
        Of hose [m].
    """
    return max(math.ceil(sum(lengths_m) / (2 * hose_m) - 1e-9) - 1, 0)

"""Estimate: painter-hours, waiting and paint of a system, so that two of them can be compared.

A first figure from the handbook's rates; the take-off and the schedule compute the real ones.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from amber_gable.core.coats import Pace
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.systems.facts import Facts
from amber_gable.core.systems.specify import LEAST_SHARE, Step, System
from amber_gable.core.takeoff import coverage

# What a wait for the weather or a test takes on the average, until the windows say more (our assumption) [h].
_UNTIL_H = {"dry": 24.0, "moisture": 72.0, "putty-skin": 168.0, "result": 168.0, "tacky": 0.5}
_DAY_H = 9.0
# A wait that fits into the night costs no working day.
_NIGHT_H = 14.0


@dataclass(frozen=True)
class Extent:
    """How much of everything a part has.

    Parameters
    ----------
    area_m2 : float
        To be coated, net.
    uptake : float
        Profile times texture.
    joints_m : float
    openings, pieces : int
    """

    area_m2: float
    uptake: float = 1.0
    joints_m: float = 0.0
    openings: int = 0
    pieces: int = 0


@dataclass(frozen=True)
class Estimate:
    """Painter-hours, days of waiting, litres by product, and money: labour and paint."""

    labour_h: float
    waiting_days: float
    litres: Mapping[str, float]
    money: float

    def __add__(self, other: "Estimate") -> "Estimate":
        litres = {key: self.litres.get(key, 0.0) + other.litres.get(key, 0.0) for key in {*self.litres, *other.litres}}
        # Waits of several parts run side by side.
        return Estimate(self.labour_h + other.labour_h, max(self.waiting_days, other.waiting_days), litres, self.money + other.money)

    def days(self, painters: int) -> float:
        """Return working days for a crew, waits included."""
        return self.labour_h / painters / _DAY_H + self.waiting_days


NOTHING = Estimate(0.0, 0.0, {}, 0.0)


def found_share(facts: Facts, knowledge: Knowledge) -> float:
    """Return how much of the surface its findings take together, at least a little."""
    share = sum(knowledge.extents[f.extent].share for f in facts.findings if f.kind not in ("sound", "faded"))
    return min(max(share, LEAST_SHARE), 1.0)


def _hours(step: Step, extent: Extent, share: float, pace: Pace) -> float:
    if step.family:
        rate = pace.first_m2_per_h if step.coat <= 1 else pace.next_m2_per_h
        return extent.area_m2 * (share if step.of == "m2 found" else 1.0) / rate
    if step.of == "once":
        return step.rate
    amount = {
        "m2": extent.area_m2, "m2 found": extent.area_m2 * share, "m": extent.joints_m,
        "opening": float(extent.openings), "piece": float(extent.pieces or 1),
    }[step.of]  # fmt: skip
    return amount / step.rate if step.rate else 0.0


def _wait_h(step: Step, product_recoat_h: float) -> float:
    if step.wait.until == "label-recoat":
        return max(step.wait.hours, product_recoat_h)
    return max(step.wait.hours, _UNTIL_H.get(step.wait.until or "", 0.0) if not step.wait.hours else 0.0)


def estimate(
    system: System, products: Mapping[str, str], facts: Facts, extent: Extent, pace: Pace, loss_pct: float, knowledge: Knowledge
) -> Estimate:
    """Return a first figure for a system on one part.

    Parameters
    ----------
    products : mapping of str to str
        By step key.
    pace : Pace
        How fast a coat goes on.
    loss_pct : float
        Of the method.
    """
    share = found_share(facts, knowledge)
    litres: dict[str, float] = {}
    labour = waiting = paint = 0.0
    last = next((s.key for s in reversed(system.steps) if s.family), "")
    for step in system.steps:
        labour += _hours(step, extent, share, pace)
        product = knowledge.products.get(products.get(step.key, ""))
        wait = 0.0 if step.key == last else _wait_h(step, product.recoat_h if product else 0.0)
        waiting += 0.0 if wait <= 2 else max(1.0, wait / 24) if wait > _NIGHT_H else 0.5
        if product is None:
            continue
        spread = coverage(product.volume_solids_pct, product.dry_film_um, loss_pct).practical_m2_per_l
        amount = extent.area_m2 * extent.uptake * (share if step.of == "m2 found" else 1.0) / spread
        litres[products[step.key]] = litres.get(products[step.key], 0.0) + amount
        paint += amount * min((s.price / s.litres for s in product.sizes), default=0.0)
    return Estimate(labour, waiting, litres, labour * knowledge.money.labour_per_h + paint)

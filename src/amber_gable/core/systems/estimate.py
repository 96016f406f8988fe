"""Estimate: painter-hours, waiting and paint of a system, so that two of them can be compared.

Labour and paint alone, to tell two systems apart; what a job takes and costs is the take-off's.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.planning.waits import usual_wait_h
from amber_gable.core.systems.specify import System
from amber_gable.core.systems.work import Work

# A wait that fits into the night costs no working day.
_NIGHT_H = 14.0


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

    def days(self, painters: int, day_h: float) -> float:
        """Return working days for a crew, waits included.

        Parameters
        ----------
        day_h : float
            Paid hours a day (`Practice.day_h`).
        """
        return self.labour_h / painters / day_h + self.waiting_days


NOTHING = Estimate(0.0, 0.0, {}, 0.0)


def estimate(system: System, products: Mapping[str, str], works: Mapping[str, Work], knowledge: Knowledge) -> Estimate:
    """Return a first figure for a system on one part.

    Parameters
    ----------
    products : mapping of str to str
        By step key.
    works : mapping of str to Work
        What each step comes to, by its key.
    """
    litres: dict[str, float] = {}
    labour = waiting = paint = 0.0
    last = next((s.key for s in reversed(system.steps) if s.family), "")
    for step in system.steps:
        work = works[step.key]
        labour += work.hours
        product = knowledge.products.get(products.get(step.key, ""))
        wait = 0.0 if step.key == last else usual_wait_h(step.wait, product.recoat_h if product else 0.0, knowledge)
        waiting += 0.0 if wait <= 2 else max(1.0, wait / 24) if wait > _NIGHT_H else 0.5
        if product is None:
            continue
        amount = work.needs[0].quantity
        litres[products[step.key]] = litres.get(products[step.key], 0.0) + amount
        paint += amount * min((s.price / s.litres for s in product.sizes), default=0.0)
    return Estimate(labour, waiting, litres, labour * knowledge.money.labour_per_h + paint)

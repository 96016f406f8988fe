"""Work: how much of what a step does, the painter-hours that takes, and what it uses up, each with its arithmetic.

Not here: containers and prices (packs, price), or the pace that logged work teaches (calibrate).
"""

import math
from dataclasses import dataclass

from amber_gable.core.coats import Pace
from amber_gable.core.knowledge import Knowledge, Product
from amber_gable.core.systems.dilution import mixes_for
from amber_gable.core.systems.facts import Facts
from amber_gable.core.systems.specify import LEAST_SHARE, Step
from amber_gable.core.takeoff import coverage


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
class Need:
    """Something a step uses up.

    Parameters
    ----------
    key, label : str
        Of a product, a sundry or a consumable.
    quantity : float
        In `unit`; litres are exact, pieces rounded up.
    unit : str
    basis : float
        What one unit is enough for, of what the step counts by; for litres m2 from a litre.
    is_reused : bool
        Taken home again.
    """

    key: str
    label: str
    quantity: float
    unit: str
    basis: float
    is_reused: bool = False


@dataclass(frozen=True)
class Work:
    """What a step comes to.

    Parameters
    ----------
    amount : float
        Of what it counts by.
    of : str
        "m2", "m2 found", "m", "opening", "piece" or "once".
    rate : float
        Of that for one painter in an hour; 0 where it takes no time of anybody.
    hours : float
        Of one painter.
    needs : tuple of Need
    """

    amount: float
    of: str
    rate: float
    hours: float
    needs: tuple[Need, ...]


def found_share(facts: Facts, knowledge: Knowledge) -> float:
    """Return how much of the surface its findings take together, at least a little."""
    share = sum(knowledge.extents[f.extent].share for f in facts.findings if f.kind not in ("sound", "faded"))
    return min(max(share, LEAST_SHARE), 1.0)


def _amount(step: Step, extent: Extent, share: float) -> float:
    return {
        "m2": extent.area_m2, "m2 found": extent.area_m2 * share, "m": extent.joints_m,
        "opening": float(extent.openings), "piece": float(extent.pieces or 1), "once": 1.0,
    }[step.of]  # fmt: skip


def litres_of(step: Step, extent: Extent, share: float, product: Product, loss_pct: float) -> tuple[float, float]:
    """Return litres of a product for one coat, and m2 that a litre covers here: label, loss, profile and texture."""
    spread = coverage(product.volume_solids_pct, product.dry_film_um, loss_pct).practical_m2_per_l / extent.uptake
    return _amount(step, extent, share) / spread, spread


def work_of(
    step: Step, product_key: str, extent: Extent, facts: Facts, pace: Pace, loss_pct: float, knowledge: Knowledge
) -> Work:  # fmt: skip
    """Return what a step comes to on one part.

    Parameters
    ----------
    step : Step
    product_key : str
        What it puts on; empty for preparation.
    extent : Extent
    facts : Facts
    pace : Pace
        How fast a coat goes on.
    loss_pct : float
        Of the method.

    References
    ----------
    Handbook 7; rates and covers name their own sources in the tables.
    """
    share = found_share(facts, knowledge)
    amount = _amount(step, extent, share)
    if step.family:
        rate = pace.first_m2_per_h if step.coat <= 1 else pace.next_m2_per_h
        product = knowledge.products.get(product_key)
        needs: list[Need] = []
        if product is not None:
            litres, spread = litres_of(step, extent, share, product, loss_pct)
            needs = [Need(product_key, product.name, litres, "L", spread)]
        return Work(amount, step.of, rate, amount / rate, tuple(needs))
    hours = step.rate if step.of == "once" else amount / step.rate if step.rate else 0.0
    return Work(amount, step.of, 0.0 if step.of == "once" else step.rate, hours, tuple(_used(step, amount, knowledge)))


def _used(step: Step, amount: float, knowledge: Knowledge) -> list[Need]:
    found = []
    for key in step.uses:
        row = knowledge.systems.consumables[key]
        covers = row.covers[step.of]  # type: ignore[index]
        found.append(Need(key, row.label, math.ceil(amount / covers - 1e-9), row.unit, covers, row.is_reused))
    for key in step.chemicals:
        sundry = knowledge.sundries[key]
        if not sundry.spread_m2_per_l or step.of not in ("m2", "m2 found"):
            continue
        # The strongest mix that its label allows: what has to be bought at most.
        strongest = sundry.mix[0] if sundry.mix else 0.0
        mixes = mixes_for(amount, sundry.spread_m2_per_l, strongest)
        found.append(Need(key, sundry.name, mixes.concentrate_l, "L", amount / mixes.concentrate_l if mixes.concentrate_l else 0.0))
    return found

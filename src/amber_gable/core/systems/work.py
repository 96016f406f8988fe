"""Work: how much of what a step does, the painter-hours that takes, and what it uses up, each with its arithmetic.

Not here: containers and prices (packs, price), or the pace that logged work teaches (calibrate).
"""

import math
from collections.abc import Container
from dataclasses import dataclass, replace

from amber_gable.core.knowledge import Consumable, Knowledge
from amber_gable.core.systems.facts import Facts
from amber_gable.core.systems.specify import LEAST_SHARE, REPAIRS, Step, System
from amber_gable.core.takeoff import Quantity, caulk_m, spread_of, whole
from amber_gable.core.takeoff.labour import COAT, WorkGround, height_factor, rate_for
from amber_gable.core.takeoff.mixing import mixes_for


@dataclass(frozen=True)
class Extent:
    """Quantities of a part: area, lengths, counts.

    Parameters
    ----------
    area_m2 : float
        To be coated, net.
    profile, texture : float
        Face per outline, uptake of the texture.
    joints_m : float
        Round openings and along the edges.
    openings, pieces : int
    run_m : float
        Of trim, railings: what is coated by length.
    edge_m, cover_m2, foot_m : float
        Round openings that are masked, what is covered there with its drape, length along the ground.
    high_share : float
        Of the area that lies above the first storey.
    shape : str
        Of its profile.
    """

    area_m2: float
    profile: float = 1.0
    texture: float = 1.0
    joints_m: float = 0.0
    openings: int = 0
    pieces: int = 0
    run_m: float = 0.0
    edge_m: float = 0.0
    cover_m2: float = 0.0
    foot_m: float = 0.0
    high_share: float = 0.0
    shape: str = "flat"

    def scaled(self, factor: float) -> "Extent":
        """Return what it would be with every length so many times as long; counts stay."""
        lengths = {name: getattr(self, name) * factor for name in ("joints_m", "run_m", "edge_m", "foot_m")}
        return replace(self, area_m2=self.area_m2 * factor**2, cover_m2=self.cover_m2 * factor**2, **lengths)


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
        What one unit is enough for, of `by`; for litres m2 from a litre.
    is_reused : bool
        Taken home again.
    by : str
        What it is counted by: as the step, or "edge", "cover", "foot".
    counted : float
        How much of that there is: over `basis` it is the exact quantity.
    paint : Quantity or None
        Of a coat: the arithmetic of its litres.
    """

    key: str
    label: str
    quantity: float
    unit: str
    basis: float
    is_reused: bool = False
    by: str = ""
    counted: float = 0.0
    paint: Quantity | None = None


@dataclass(frozen=True)
class Work:
    """Amount, hours and needs of a step.

    Parameters
    ----------
    amount : float
        Of what its time is counted by.
    of : str
        "m2", "m2 found", "m", "run", "opening", "piece" or "once".
    rate : float
        Of that for one painter in an hour; 0 where it takes no time of anybody.
    hours : float
        Of one painter, with the height counted.
    needs : tuple of Need
    height : float
        How much longer it takes for what lies above the first storey.
    rated_by : str
        The row of the labour table; empty for the step's own rate.
    """

    amount: float
    of: str
    rate: float
    hours: float
    needs: tuple[Need, ...]
    height: float = 1.0
    rated_by: str = ""


# What is bare once it is prepared, or must be blocked: the spots that are primed (handbook 5).
BARED = (
    "peeling", "blistering", "cracked", "bare", "chalking",
    "nail-heads", "rot", "rust", "failed-putty", "iron-stain", "soot-stain", "old-sealant",
    "crumbling", "grey-wood",
)  # fmt: skip
_REPAIRED = ("rot",)
# What is covered where paint is sprayed (handbook 1 and 8).
COVERED = frozenset({"car", "boats", "plants", "cooling-unit", "furniture", "neighbour-wall", "glass", "pool", "water"})


def mended_by(step: Step, system: System, knowledge: Knowledge) -> Container[str]:
    """Return the findings by which a step is counted: what it mends, or what is bare and primed in spots.

    Parameters
    ----------
    step : Step
    system : System
        Whose repairs of rot are primed by themselves, after the filler.
    knowledge : Knowledge
    """
    row = knowledge.systems.steps.get(step.key)
    if row is not None:
        return row.mends
    if step.key == REPAIRS:
        return _REPAIRED
    is_apart = any(s.key == REPAIRS for s in system.steps)
    return [kind for kind in BARED if not (is_apart and kind in _REPAIRED)]


def found_share(facts: Facts, knowledge: Knowledge, kinds: Container[str]) -> float:
    """Return how much of the surface findings of some kinds take together, at least a little.

    Parameters
    ----------
    facts : Facts
        With the findings.
    knowledge : Knowledge
    kinds : container of str
        That count: what a step mends, or what is primed. Mildew is not scraped.
    """
    share = sum(knowledge.extents[f.extent].share for f in facts.findings if f.kind in kinds)
    return min(max(share, LEAST_SHARE), 1.0)


def _amount(of: str, extent: Extent, share: float) -> float:
    return {
        "m2": extent.area_m2, "m2 found": extent.area_m2 * share, "m": extent.joints_m, "run": extent.run_m, "edge": extent.run_m,
        "opening": float(extent.openings), "piece": float(extent.pieces or 1), "once": 1.0,
    }[of]  # fmt: skip


def _mended(step: Step, extent: Extent, facts: Facts, knowledge: Knowledge) -> float | None:
    """Return how many places or openings a repair has, by what was found; None for what is not counted by findings."""
    row = knowledge.systems.steps.get(step.key)
    if row is None or not row.mends or step.of not in ("piece", "opening"):
        return None
    mended = [f for f in facts.findings if f.kind in row.mends]
    least = float(len(mended) or 1)
    if step.of == "piece":
        return least
    # Of many windows so many as the findings take together.
    return max(least, math.ceil(extent.openings * min(sum(knowledge.extents[f.extent].share for f in mended), 1.0)))


# What drinks more until it is sealed (handbook 7: bare, chalky or porous).
_THIRSTY = ("bare", "chalking", "crumbling", "peeling", "grey-wood", "blistering")
_POROUS = ("wood", "masonry", "cement-board")


def suction(step: Step, system: System, facts: Facts, knowledge: Knowledge) -> float:
    """Return how much more the first coat takes on what is bare, chalky or porous; 1 for every later one.

    Parameters
    ----------
    step : Step
        Of which only the first coat drinks.
    system : System
        That it belongs to.
    facts : Facts
        What was found, and whether it is bare.

    References
    ----------
    Handbook 7: 20 to 40 % on the first coat. Over a part of the surface it counts for that part.
    """
    coats = [s for s in system.steps if s.family]
    first = next((s for s in coats if s.of != "m2 found"), None)
    is_spot = step.of == "m2 found"
    row = knowledge.substrates[facts.substrate]
    counted = facts.texture in knowledge.textures and knowledge.textures[facts.texture].counts_suction
    is_first = is_spot or (first is not None and step.key == first.key)
    if not is_first or row.family not in _POROUS or counted:
        return 1.0
    if facts.substrate == "glazed-brick":
        return 1.0
    more = knowledge.practice.suction_pct / 100
    if facts.coating == "none" or facts.tests.get("rub") == "fail" or is_spot:
        return 1 + more
    # What was spot-primed before no longer drinks.
    sealed = BARED if any(s.of == "m2 found" for s in coats) else ()
    share = sum(knowledge.extents[f.extent].share for f in facts.findings if f.kind in _THIRSTY and f.kind not in sealed)
    return 1 + more * min(share, 1.0)


def _paint_need(
    step: Step, product_key: str, extent: Extent, share: float, method: str, drinks: float, knowledge: Knowledge
) -> tuple[Need, ...]:  # fmt: skip
    product = knowledge.products.get(product_key)
    if product is None:
        return ()
    way, as_found = knowledge.methods[method], knowledge.systems.families[product.family].spread_as_found
    paint = Quantity(
        area_m2=_amount(step.of, extent, share),
        spread_m2_per_l=spread_of(product).m2_per_l,
        profile=extent.profile,
        texture=1.0 if as_found else extent.texture,
        suction=1.0 if as_found else drinks,
        loss_pct=way.loss_pct, wind_pct=way.wind_pct, wear_pct=way.wear_pct,
    )  # fmt: skip
    return (Need(product_key, product.name, paint.litres, "L", paint.m2_per_l, by=step.of, counted=paint.area_m2, paint=paint),)


def work_of(
    step: Step, product_key: str, extent: Extent, facts: Facts, method: str, knowledge: Knowledge, system: System
) -> Work:  # fmt: skip
    """Return what a step comes to on one part.

    Parameters
    ----------
    step : Step
    product_key : str
        What it puts on; empty for preparation.
    extent : Extent
    facts : Facts
    method : str
        By which this part is coated.
    system : System
        That the step belongs to: which coat comes first, how it is put on.

    References
    ----------
    Handbook 7; rates and covers name their own sources in the tables.
    """
    share = found_share(facts, knowledge, mended_by(step, system, knowledge))
    height = height_factor(extent.high_share, knowledge.access[facts.access].upper_factor)
    ground = WorkGround(
        method, facts.kind, extent.shape, facts.texture, str(system.value("technique", "")), tuple(f.extent for f in facts.findings)
    )
    rated = rate_for(COAT if step.family else step.key, ground, knowledge, step.coat)
    if step.family:
        assert rated is not None, "the last row of the labour table takes every coat"
        drinks = suction(step, system, facts, knowledge)
        needs = _paint_need(step, product_key, extent, share, method, drinks, knowledge)
        # A spot prime of windows is a share of the windows.
        part = share if step.of == "m2 found" else 1.0
        amount = _amount(rated.of, extent, share) * (part if rated.of != "m2 found" else 1.0)
        return Work(amount, rated.of, rated.per_h, amount / rated.per_h * height, needs, height, rated.key)
    mended = float(len(COVERED.intersection(facts.near))) if step.of == "near" else _mended(step, extent, facts, knowledge)
    amount = _amount(step.of, extent, share) if mended is None else mended
    used = tuple(_used(step, extent, amount, knowledge))
    if step.of == "once":
        return Work(amount, step.of, 0.0, step.rate, used)
    rate = rated.per_h if rated else step.rate
    return Work(amount, step.of, rate, amount / rate * height if rate else 0.0, used, height, rated.key if rated else "")


def _covers(row: Consumable, of: str, extent: Extent, amount: float, knowledge: Knowledge) -> tuple[str, float, float]:
    """Return by what a consumable is counted here, how much of that there is, and how much one unit is enough for."""
    if of in row.covers:
        bead = caulk_m(knowledge.practice.bead_mm, row.cartridge_ml) if row.cartridge_ml and of == "m" else 0.0
        return of, amount, bead / (1 + knowledge.practice.caulk_waste_pct / 100) if bead else row.covers[of]
    measure = next(m for m in row.covers if m in ("edge", "cover", "foot"))
    there = {"edge": extent.edge_m, "cover": extent.cover_m2, "foot": extent.foot_m}[measure]
    if of == "edge":
        # Masked along the whole edge, with a drape as wide as round openings.
        there = amount if measure == "edge" else amount * knowledge.practice.mask_drape_m if measure == "cover" else there
    return measure, there, row.covers[measure]


def _used(step: Step, extent: Extent, amount: float, knowledge: Knowledge) -> list[Need]:
    needs = []
    for key in step.uses:
        row = knowledge.systems.consumables[key]
        by, there, covers = _covers(row, step.of, extent, amount, knowledge)
        if there:
            needs.append(Need(key, row.label, whole(there / covers), row.unit, covers, row.is_reused, by, there))
    for key in step.chemicals:
        sundry = knowledge.sundries[key]
        if not sundry.spread_m2_per_l or step.of not in ("m2", "m2 found"):
            continue
        # The strongest mix that its label allows: what has to be bought at most.
        strongest = sundry.mix[0] if sundry.mix else 0.0
        litres = mixes_for(amount, sundry.spread_m2_per_l, strongest).concentrate_l
        needs.append(Need(key, sundry.name, litres, "L", amount / litres if litres else 0.0, by=step.of, counted=amount))
    return needs

"""Products: which of the shelf carries out a step, and what may go over what.

Not here: which family a step wants (systems), containers and prices (packs).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from amber_gable.core.knowledge import Knowledge, Phase, Product
from amber_gable.core.systems.facts import Facts
from amber_gable.core.systems.specify import System
from amber_gable.core.systems.tags import OLD_OPACITY

# Labels that go below this are made for the cold (handbook 3: 1.7 °C, many good ones 4.4 °C).
_COLD_RATED_C = 4.0


@dataclass(frozen=True)
class Clash:
    """Two things that should not meet: "never" forbids, "ask" wants a look.

    `where` is the step whose product it is about.
    """

    where: str
    level: Literal["never", "ask"]
    text: str
    source: str


def choose(knowledge: Knowledge, family: str, facts: Facts, sheen: str = "", preferred: Mapping[str, str] | None = None) -> str | None:
    """Return the product of the shelf for a family: the one the job prefers, else the best fit.

    Parameters
    ----------
    family : str
    sheen : str
        The sheen wanted of a finish; empty for any.
    preferred : mapping of str to str, optional
        By family, what the job or firm uses; taken where it may go on the substrate.

    Returns
    -------
    str or None
        None where nothing on the shelf may go on this substrate.
    """
    fitting = {k: p for k, p in knowledge.products.items() if p.family == family and _may_go_on(p, facts, knowledge)}
    chosen = (preferred or {}).get(family)
    cold = facts.schools.get("temperature-band") == "cold-rated" or facts.schools.get("cold-nights") == "cold-rated"

    # A firm that works in the cold takes what is made for it, whatever else it prefers.
    if chosen in fitting and not (cold and fitting[chosen].min_surface_temp_c >= _COLD_RATED_C):
        return chosen

    def fit(key: str) -> tuple[bool, bool, bool, bool, float]:
        p = fitting[key]
        is_cold = p.min_surface_temp_c < _COLD_RATED_C
        # Waterborne where both are on the shelf: dry sooner, no rags that catch fire.
        return (
            is_cold == cold if cold else not is_cold,
            p.grade == "standard",
            not sheen or p.sheen == sheen,
            p.kind == "waterborne",
            -p.voc_g_l,
        )

    return max(fitting, key=fit, default=None)


def candidates(knowledge: Knowledge, family: str, facts: Facts) -> list[Product]:
    """Return every product of a family that may go on a ground, what goes on coldest first.

    Parameters
    ----------
    knowledge : Knowledge
        With the contractor's own shelf.
    family : str
        Of the families table.
    facts : Facts
        Of the ground.
    """
    fitting = [p for p in knowledge.products.values() if p.family == family and _may_go_on(p, facts, knowledge)]
    return sorted(fitting, key=lambda p: (p.min_surface_temp_c, p.name))


def _may_go_on(product: Product, facts: Facts, knowledge: Knowledge) -> bool:
    family = knowledge.substrates[facts.substrate].family
    return (not product.goes_on or family in product.goes_on) and facts.substrate not in product.not_on and not _saponifies(product, facts)


def _saponifies(product: Product, facts: Facts) -> bool:
    """Return whether the ground would turn it to soap: alkyd on zinc, or on masonry that is still alkaline (handbook 5)."""
    return product.kind == "alkyd" and (facts.substrate == "galvanised" or facts.tests.get("ph") == "fail")


def choose_all(knowledge: Knowledge, system: System, facts: Facts, preferred: Mapping[str, str] | None = None) -> dict[str, str]:
    """Return the product of every step that puts one on, by step key; a step with nothing on the shelf is left out.

    Parameters
    ----------
    system : System
        Whose steps ask for families.
    facts : Facts
        Of the ground.
    preferred : mapping of str to str, optional
        Product by family, where it may go on.
    """
    sheen = str(system.value("sheen", ""))
    chosen = {}
    for step in system.steps:
        if step.family:
            key = choose(knowledge, step.family, facts, sheen if step.phase is Phase.COAT else "", preferred)
            if key is not None:
                chosen[step.key] = key
    return chosen


def clashes(knowledge: Knowledge, system: System, facts: Facts, products: Mapping[str, str]) -> list[Clash]:
    """Return what should not meet: over the old coating, primer under finish, alkyd and acrylic, stains, sealers.

    Parameters
    ----------
    products : mapping of str to str
        What goes on, by step.

    References
    ----------
    Handbook 5; each clash names its own.
    """
    clashing: list[Clash] = []
    film = knowledge.coatings[facts.coating].film
    keys = [s.key for s in system.steps]
    rows = knowledge.systems.steps
    stripped = any(rows[k].strips for k in keys if k in rows)
    under: tuple[str, Product] | None = None
    for step in system.steps:
        if step.key not in products:
            if step.family:
                text = f"Nothing on the shelf is made for it: {knowledge.systems.families[step.family].label.lower()} on this ground."
                clashing.append(Clash(step.key, "ask", text, "the shelf"))
            continue
        product = knowledge.products[products[step.key]]
        clashing += _on_ground(step.key, product, facts, knowledge)
        # What spots are primed with meets bare ground, not the film.
        if under is None and system.prime != "full" and step.key != "spot-prime":
            clashing += _over_old(step.key, product, facts, film, stripped, knowledge)
        if under is not None:
            clashing += _over(step.key, product, *under)
        if step.key != "spot-prime":
            under = (step.key, product)
    return clashing


def _on_ground(where: str, product: Product, facts: Facts, knowledge: Knowledge) -> list[Clash]:
    if _saponifies(product, facts):
        ground = "zinc" if facts.substrate == "galvanised" else "fresh masonry"
        return [Clash(where, "never", f"Alkyd on {ground} turns to soap and lets go.", "handbook 5")]
    if not _may_go_on(product, facts, knowledge):
        label = knowledge.substrates[facts.substrate].label.lower()
        return [Clash(where, "never", f"{product.name} is not made for {label}.", "its data sheet")]
    return []


def _over_old(where: str, product: Product, facts: Facts, film: str, stripped: bool, knowledge: Knowledge) -> list[Clash]:
    if stripped or film == "none":
        return []
    old = knowledge.coatings[facts.coating].label.lower()
    opacity = knowledge.systems.families[product.family].opacity
    if 0 < opacity < OLD_OPACITY.get(facts.coating, 4 if film == "film" else 0):
        return [Clash(where, "never", f"{product.name} is more open than the {old} below: strip it, or stay as opaque.", "handbook 5")]
    if film not in product.over:
        return [Clash(where, "never", f"{product.name} does not hold on {old}.", "its data sheet")]
    if facts.coating == "acrylic" and product.kind == "alkyd":
        return [Clash(where, "ask", "Alkyd over acrylic is hard over soft and cracks: dull it, try a patch.", "our assumption")]
    unproven = facts.tests.get("cross-cut") != "pass" and product.family not in ("bonding", "build-up", "metal-primer")
    if facts.coating == "alkyd" and product.kind == "waterborne" and unproven:
        return [Clash(where, "ask", "Acrylic over old alkyd holds where it is dulled and dusted: cross-cut first.", "handbook 5")]
    return []


def _over(where: str, product: Product, below_key: str, below: Product) -> list[Clash]:
    if product is below or product.family == below.family:
        return []
    if below.topped_by and product.family not in below.topped_by:
        return [Clash(where, "never", f"{product.name} may not go over {below.name}.", "its data sheet")]
    if product.family == "clear-sealer" and below.family not in ("floor-paint",):
        return [Clash(where, "ask", f"A clear sealer over {below.name} may cloud: try a patch.", "handbook 5")]
    if not below.topped_by and below.family != product.family:
        return [Clash(where, "ask", f"{product.name} over {below.name}: no data sheet says so.", "its data sheet")]
    return []

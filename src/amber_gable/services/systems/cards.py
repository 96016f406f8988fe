"""Cards of a job: its hazards, and for each chemical how much is mixed, how long it stands, what it never meets."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge, Sundry
from amber_gable.core.systems.specify import Raised
from amber_gable.core.systems.work import found_share, mended_by
from amber_gable.core.takeoff.mixing import Mixes, mixes_for
from amber_gable.services.systems.specs import Spec


@dataclass(frozen=True)
class Hazard:
    """A caution of the job, and on which parts it holds."""

    caution: Raised
    parts: tuple[str, ...]
    is_everywhere: bool


@dataclass(frozen=True)
class ChemistryCard:
    """A chemical of the job: the area it wets, and its mix from strongest to weakest; none where it is used as it is."""

    key: str
    sundry: Sundry
    area_m2: float
    mixes: tuple[Mixes, ...]


def hazards_of(specs: Sequence[Spec], knowledge: Knowledge) -> list[Hazard]:
    """Return the hazards of a job in the order of the table, each with the parts that have it."""
    return _raised(specs, knowledge, lambda caution: caution.group == "safety")


def told_to_owner(specs: Sequence[Spec], knowledge: Knowledge) -> list[Hazard]:
    """Return what the owner is told before the work: what may peel, warp, or never come off again."""
    rows = knowledge.systems.cautions
    return _raised(specs, knowledge, lambda caution: rows[caution.key].tells_owner)


def _raised(specs: Sequence[Spec], knowledge: Knowledge, is_meant: Callable[[Raised], bool]) -> list[Hazard]:
    hazards: dict[str, tuple[Raised, list[str]]] = {}
    for spec in specs:
        for caution in (*spec.system.cautions, *spec.system.refusals):
            if is_meant(caution):
                hazards.setdefault(caution.key, (caution, []))[1].append(spec.part.name)
    order = list(knowledge.systems.cautions)
    return [Hazard(hazards[k][0], tuple(hazards[k][1]), len(hazards[k][1]) == len(specs)) for k in sorted(hazards, key=order.index)]


def chemistry_of(specs: Sequence[Spec], knowledge: Knowledge) -> list[ChemistryCard]:
    """Return a card for each chemical that the job's steps use."""
    areas: dict[str, float] = {}
    for spec in specs:
        for step in spec.system.steps:
            share = found_share(spec.part.facts, knowledge, mended_by(step, spec.system, knowledge))
            for key in step.chemicals:
                areas[key] = areas.get(key, 0.0) + spec.part.extent.area_m2 * (share if step.of == "m2 found" else 1.0)
    cards = []
    for key, area in areas.items():
        sundry = knowledge.sundries[key]
        parts = tuple(dict.fromkeys(sundry.mix)) if sundry.spread_m2_per_l else ()
        cards.append(ChemistryCard(key, sundry, area, tuple(mixes_for(area, sundry.spread_m2_per_l, p) for p in parts)))
    return cards

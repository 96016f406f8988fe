"""Lives: years to the next coat, what is warranted until then, and what a year costs.

Not here: maintenance dates (handover).
"""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge, Life
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.systems.facts import Facts
from amber_gable.core.systems.specify import System

_ONE_COAT = assumed("one_coat_share")
# Source of a decision that a painter took.
BY_HAND = "by hand"


@dataclass(frozen=True)
class Lasting:
    """Life of the coats on a part; `not_warranted` says why, where nothing is."""

    key: str
    label: str
    years: float
    warranty_years: int
    source: str
    not_warranted: str = ""


def _row(facts: Facts, system: System, knowledge: Knowledge) -> tuple[str, Life]:
    family = knowledge.substrates[facts.substrate].family
    primers = {s.family for s in system.steps if s.family} | {system.primer}
    for key, row in knowledge.lives.items():
        if (
            (not row.primers or primers & {*row.primers})
            and (not row.finishes or system.finish in row.finishes)
            and (not row.substrates or facts.substrate in row.substrates)
            and (not row.kinds or facts.kind in row.kinds)
            and (not row.families or family in row.families)
        ):
            return key, row
    key = next(iter(reversed(knowledge.lives)))
    return key, knowledge.lives[key]


def film_coats(system: System, knowledge: Knowledge) -> int:
    """Return how many coats of film a system lays over the whole of a surface: undercoats and finish, not its primer."""
    roles = {key: row.role for key, row in knowledge.systems.families.items()}
    return sum(bool(s.family) and roles[s.family] in ("undercoat", "finish") and s.of == "m2" for s in system.steps)


def asked_coats(system: System) -> int:
    """Return how many coats of film the rules ask for, whatever was asked by hand."""
    coats = system.decided.get("coats")
    if coats is None:
        return 0
    by_rule = coats.overruled[0][0] if coats.reason.source == BY_HAND and coats.overruled else coats.value
    return int(by_rule) + int(system.value("undercoats", 0))


def lasting(facts: Facts, system: System, knowledge: Knowledge, grade: str = "standard") -> Lasting:
    """Return how long the film that a system lays lasts, and for how long it is warranted.

    Parameters
    ----------
    facts : Facts
    system : System
        As it is done: a coat that was left out by hand is not there.
    knowledge : Knowledge
    grade : {"economy", "standard", "premium"}
        Of what it is coated with: the lower end, the middle, the upper end of its years (our assumption).

    References
    ----------
    Handbook 5, repaint intervals; the sun side is at the lower end, thin work below it.
    """
    key, row = _row(facts, system, knowledge)
    low, high = row.years
    laid, asked = film_coats(system, knowledge), asked_coats(system)
    # With fewer coats than the ground asks for, no range holds; one more is worth the upper end.
    by_grade = {"economy": low, "standard": (low + high) / 2, "premium": high}
    years = low * _ONE_COAT if laid < asked else high if laid > max(asked, 2) else by_grade[grade]
    # The sun takes a quarter of what is between.
    if facts.is_sunny:
        years -= (high - low) / 4
    why = row.not_warranted
    if laid < asked:
        why = f"{laid} coat{'s' if laid != 1 else ''} where {asked} hold"
    return Lasting(key, row.label, years, 0 if why else row.warranty_years, row.source, why)


def mean_years(lives: Sequence[tuple[Lasting, float]]) -> float:
    """Return the years of a whole job: of each part by its area.

    Parameters
    ----------
    lives : sequence of (Lasting, float)
        Of each part, with its area [m2]; 0 years for none.
    """
    area = sum(m2 for _, m2 in lives)
    return sum(last.years * m2 for last, m2 in lives) / area if area else 0.0

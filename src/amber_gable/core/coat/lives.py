"""Lives: years to the next coat, what is warranted until then, and what a year costs.

Not here: maintenance dates (handover).
"""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge, Life
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.systems.facts import Facts

_ONE_COAT = assumed("one_coat_share")


@dataclass(frozen=True)
class Lasting:
    """Life of the coats on a part."""

    key: str
    label: str
    years: float
    warranty_years: int
    source: str


def _row(facts: Facts, primer: str, knowledge: Knowledge) -> tuple[str, Life]:
    family = knowledge.substrates[facts.substrate].family
    for key, row in knowledge.lives.items():
        if (
            (not row.primers or primer in row.primers)
            and (not row.kinds or facts.kind in row.kinds)
            and (not row.families or family in row.families)
        ):
            return key, row
    key = next(iter(reversed(knowledge.lives)))
    return key, knowledge.lives[key]


def lasting(facts: Facts, primer: str, coats: int, knowledge: Knowledge) -> Lasting:
    """Return how long a finish lasts.

    Parameters
    ----------
    facts : Facts
    primer : str
        Its family; empty for none.
    coats : int

    References
    ----------
    Handbook 5, repaint intervals; the sun side is at the lower end, thin work below it.
    """
    key, row = _row(facts, primer, knowledge)
    low, high = row.years
    # Without an undercoat of two, no range holds; the sun takes a quarter of what is between.
    years = low * _ONE_COAT if coats <= 1 and row.kinds == () else (low + high) / 2 if coats <= 2 else high
    if facts.is_sunny:
        years -= (high - low) / 4
    return Lasting(key, row.label, years, row.warranty_years if coats > 1 or row.kinds else 0, row.source)


def mean_years(lives: Sequence[tuple[Lasting, float]]) -> float:
    """Return the years of a whole job: of each part by its area.

    Parameters
    ----------
    lives : sequence of (Lasting, float)
        Of each part, with its area [m2]; 0 years for none.
    """
    area = sum(m2 for _, m2 in lives)
    return sum(last.years * m2 for last, m2 in lives) / area if area else 0.0

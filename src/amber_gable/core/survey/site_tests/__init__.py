"""Tests on site: how each is done, what is written down, and what its result means for the work.

cards: the registry, one card a test · judge: the verdicts. Thresholds are in the knowledge tables.
"""

from amber_gable.core.survey.site_tests.cards import CARDS, Card, Field, card_for
from amber_gable.core.survey.site_tests.judge import Verdict

__all__ = ["CARDS", "Card", "Field", "Verdict", "card_for"]

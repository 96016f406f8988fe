"""Tests on site: how each is done, what is written down, and what its result means for the work.

cards: the registry, one card a test · judge: the verdicts. Thresholds are in the knowledge tables.
"""

from amber_gable.core.survey.site_tests.cards import CARDS, TestCard, TestField, card_for
from amber_gable.core.survey.site_tests.judge import TestVerdict

__all__ = ["CARDS", "TestCard", "TestField", "TestVerdict", "card_for"]

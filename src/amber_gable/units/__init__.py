"""Units at the edge: what painters type becomes SI, and SI becomes what they read.

A leaf: imports nothing of ours but the error root. Inside the application everything is SI.

Here: `parse` reads notation (`32' 6"`, `50F`, `7 mil`), `show` writes it, `convert` has the factors.
"""

from amber_gable.units.convert import convert
from amber_gable.units.money import knows_currency, locale_of, money_symbol, show_date, show_money, show_number
from amber_gable.units.onesystem import MARK, both, both_of, in_both, in_one_system
from amber_gable.units.parse import QuantityError, day_in, parse
from amber_gable.units.show import Shown, System, show, show_names, show_parts, symbol

__all__ = [
    "MARK", "QuantityError", "Shown", "System", "both", "both_of", "convert", "day_in", "in_both",
    "in_one_system", "knows_currency", "locale_of", "money_symbol", "parse", "show", "show_date",
    "show_money", "show_names", "show_number", "show_parts", "symbol",
]  # fmt: skip

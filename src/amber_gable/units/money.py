"""Money, numbers and dates in the contractor's own writing, by Babel."""

from datetime import date
from decimal import Decimal

from babel import Locale, UnknownLocaleError
from babel.dates import format_date
from babel.numbers import format_currency, format_decimal, get_currency_symbol, is_currency


def locale_of(name: str) -> Locale | None:
    """Return the locale of a name like "en_US" or "de-AT"; None where there is none."""
    try:
        return Locale.parse(name.replace("-", "_"))
    except (UnknownLocaleError, ValueError, TypeError):
        return None


def knows_currency(code: str) -> bool:
    """Return whether a code is a currency of ISO 4217."""
    return is_currency(code)


def show_money(value: float | Decimal, currency: str, locale: str, *, cents: bool = True) -> str:
    """Return an amount as it is written there: "$1,234.50", "1.234,50 €"."""
    return format_currency(value, currency, locale=locale) if cents else _whole(value, currency, locale)


def _whole(value: float | Decimal, currency: str, locale: str) -> str:
    pattern = Locale.parse(locale).currency_formats["standard"].pattern.replace("0.00", "0")
    return format_currency(round(value), currency, format=pattern, locale=locale, currency_digits=False)


def money_symbol(currency: str, locale: str) -> str:
    return get_currency_symbol(currency, locale=locale)


def show_number(value: float | Decimal, decimals: int, locale: str) -> str:
    """Return a number with so many decimals, grouped as it is done there."""
    pattern = "#,##0" + ("." + "0" * decimals if decimals else "")
    return format_decimal(value, format=pattern, locale=locale)


def show_date(day: date, locale: str) -> str:
    """Return a date in words."""
    return format_date(day, format="long", locale=locale)

"""The contractor's own rates and prices: changed on one page, laid over the tables."""

from collections.abc import Mapping

from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.price.rates import RateFigure, Value, figures, with_prices
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.units import knows_currency, locale_of

WRITING = ("money.currency", "money.locale")


def own_figures(scope: Scope) -> tuple[RateFigure, ...]:
    """Return every figure as it is, and as it was shipped."""
    return figures(scope.knowledge, shipped())


def change_prices(scope: Scope, values: Mapping[str, Value], job_id: str | None = None, version: int | None = None) -> int:
    """Take figures as the contractor's own; return how many differ from the tables now.

    Parameters
    ----------
    values : mapping of str to number or text
        By path; what is not among them stays as it is.

    Raises
    ------
    FieldErrors
        By path; nothing is taken unless all can be.
    ConflictError
    """
    kept = checked(scope, values)
    with changing(scope, "rates and prices", job_id) as change:
        change.update(change.contractor_row(), {"prices": kept}, version)
    return len(kept)


def checked(scope: Scope, values: Mapping[str, Value]) -> dict[str, Value]:
    """Return what differs from the tables once some figures are taken as the contractor's own.

    Raises
    ------
    FieldErrors
        By path.
    """
    base = shipped()
    table = {f.path: f.shipped for f in figures(base, base)} | {"money.currency": base.money.currency, "money.locale": base.money.locale}
    faults = {path: "There is no such figure." for path in values if path not in table}
    currency, locale = values.get("money.currency"), values.get("money.locale")
    if currency is not None and not knows_currency(str(currency)):
        faults["money.currency"] = "Give the currency by its three letters, like USD or EUR."
    if locale is not None and locale_of(str(locale)) is None:
        faults["money.locale"] = "Give language and country, like en_US or de_AT."
    if faults:
        raise FieldErrors(faults)
    kept = {path: value for path, value in (dict(scope.owner.prices) | dict(values)).items() if path in table and value != table[path]}
    with_prices(base, kept)
    return kept

"""The first run: whose books these are, in which units and money, and what an hour costs.

Not here: rates one by one (rates), people with their hours (crew), the lines of the letterhead (letterhead).
"""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.price.rates import Value
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs import jobs
from amber_gable.services.office import crew, rates
from amber_gable.units import System, knows_currency


@dataclass(frozen=True)
class FirmFacts:
    """What a firm says of itself on its first day.

    Parameters
    ----------
    name : str
    country : str
        Key of the tables.
    units : {"us", "metric"}
    currency : str
        Three letters.
    painters : sequence of str
    labour_per_h : float
        Cost of a painter's hour with all that is paid on top [money].
    margin_pct, tax_pct : float
        Kept of the price before tax [%]; tax on the price [%].
    """

    name: str
    country: str
    units: System
    currency: str
    painters: Sequence[str]
    labour_per_h: float
    margin_pct: float
    tax_pct: float

    def check(self, scope: Scope) -> None:
        """Refuse what cannot be.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        if self.country not in scope.knowledge.countries:
            faults["country"] = "Choose the country from the list."
        if not knows_currency(self.currency):
            faults["currency"] = f"Give the currency by its three letters, like USD or EUR, not {self.currency or 'nothing'}."
        try:
            for nth, name in enumerate(self.painters):
                crew.checked_name(name, self.painters[:nth])
        except FieldErrors as fault:
            faults["painters"] = fault.errors["name"]
        if not self.painters:
            faults["painters"] = "Name one painter at least: yourself, where you work alone."
        if faults:
            raise FieldErrors(faults)


def is_first_run(scope: Scope) -> bool:
    """Return whether nobody has begun here: a firm without a name and without jobs."""
    return scope.owner.is_unnamed and not jobs.counts(scope)


def begin(scope: Scope, facts: FirmFacts, *, with_samples: bool = False) -> None:
    """Write down whose books these are, and the sample jobs where they are wanted.

    Raises
    ------
    FieldErrors
    PlanError
        If the firm has begun already: Settings, Crew and Rates change what it said.
    """
    if not is_first_run(scope):
        raise PlanError(
            "This firm has begun already. Change its name under Settings, its people under Crew, its rates under Rates.", "form"
        )
    facts.check(scope)
    country = scope.knowledge.countries[facts.country]
    money: dict[str, Value] = {
        "money.labour_per_h": facts.labour_per_h, "money.margin_pct": facts.margin_pct, "money.tax_pct": facts.tax_pct,
        "money.currency": facts.currency, "money.locale": country.locale,
    }  # fmt: skip
    try:
        prices = rates.checked(scope, money)
    except FieldErrors as fault:
        raise FieldErrors({path.removeprefix("money."): words for path, words in fault.errors.items()}) from fault
    with changing(scope, "begin") as change:
        row = change.contractor_row()
        change.follow(row, {
            "name": facts.name, "units": facts.units, "letterhead": dict(row.letterhead) | {"country": facts.country},
            "prices": prices, "painters": list(facts.painters), "crew": {name: crew.newcomer() for name in facts.painters},
        })  # fmt: skip
    if with_samples and scope.app.samples is not None:
        scope.app.samples(scope)

"""Extras: work beyond what was agreed, priced before it is done, flagged until it is signed."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.price.price import cents, price_of_hours, tax_on
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.store import queries
from amber_gable.store.models import Extra
from amber_gable.store.types import new_id


@dataclass(frozen=True)
class ExtraFacts:
    """Extra work: by a unit price and a quantity, or by hours."""

    what: str
    unit_price: str = ""
    quantity: float = 0.0
    hours: float = 0.0

    def check(self, knowledge: Knowledge) -> None:
        """Refuse what cannot be priced.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        if not 1 <= len(self.what.strip()) <= 200:
            faults["what"] = "Say what is to be done, in up to 200 characters."
        if self.unit_price and self.unit_price not in knowledge.unit_prices:
            faults["unit_price"] = "Choose from the list."
        if self.unit_price and not 0 < self.quantity <= 10_000:
            faults["quantity"] = "How much of it? More than 0."
        if not 0 <= self.hours <= 1000 or (not self.unit_price and self.hours <= 0):
            faults["hours"] = "How many painter-hours? More than 0, at most 1000."
        if faults:
            raise FieldErrors(faults)


def price_of(facts: ExtraFacts, knowledge: Knowledge) -> float:
    """Return the price before tax: by the unit as stated in the proposal, else hours with overhead and margin."""
    if facts.unit_price:
        return float(cents(knowledge.unit_prices[facts.unit_price].price * facts.quantity))
    return float(price_of_hours(facts.hours, knowledge.money))


def extras_of(scope: Scope, job_id: str) -> Sequence[Extra]:
    with scope.reading() as session:
        return queries.extras(session, job_id)


def unsigned(rows: Sequence[Extra]) -> list[Extra]:
    return [row for row in rows if not row.signed_by]


@dataclass(frozen=True)
class Signed:
    """Sum of the signed extras: before tax, with tax, and hours."""

    net: Decimal
    total: Decimal
    hours: float


def signed(rows: Sequence[Extra], knowledge: Knowledge) -> Signed:
    """Return what the owner pays besides the price that was agreed."""
    kept = [row for row in rows if row.signed_by]
    net = sum((cents(row.price) for row in kept), Decimal(0))
    return Signed(net, net + tax_on(net, knowledge.money), sum(row.hours for row in kept))


def add(scope: Scope, job_id: str, facts: ExtraFacts) -> None:
    """Write down an extra that was asked for.

    Raises
    ------
    FieldErrors
    """
    with changing(scope, "an extra", job_id) as change:
        insert(scope, change, facts)


def insert(scope: Scope, change: ChangeSet, facts: ExtraFacts) -> None:
    """Write an extra within a change.

    Raises
    ------
    FieldErrors
    """
    facts.check(scope.knowledge)
    job = change.whole_job()
    change.add(
        Extra(
            id=new_id(), version=1, job_id=job.id, what=facts.what.strip(), unit_price=facts.unit_price, quantity=facts.quantity,
            hours=facts.hours, price=price_of(facts, scope.knowledge), asked_at=change.at, signed_by="", signed_at=None,
        )
    )  # fmt: skip


def sign(scope: Scope, job_id: str, extra_id: str, name: str, version: int | None = None) -> None:
    """Keep who signed for an extra.

    Raises
    ------
    FieldErrors
        If nobody is named.
    ConflictError
        If it was changed since `version`.
    PlanError
        If it is signed already.
    """
    if not 1 <= len(name.strip()) <= 120:
        raise FieldErrors({"signed_by": "Who signed? Write the owner's name."})
    with changing(scope, "an extra is signed", job_id) as change:
        row = change.find(Extra, extra_id, "extra")
        if row.signed_by:
            raise PlanError("This extra is signed already.")
        change.update(row, {"signed_by": name.strip(), "signed_at": change.at}, version)


def remove(scope: Scope, job_id: str, extra_id: str) -> None:
    """Take an unsigned extra back; what was signed stays.

    Raises
    ------
    PlanError
    """
    with changing(scope, "take the extra back", job_id) as change:
        row = change.find(Extra, extra_id, "extra")
        if row.signed_by:
            raise PlanError("What was signed stays.")
        change.delete(row)

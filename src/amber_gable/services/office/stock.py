"""Paint in stock: counted, kept for a job, let go."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.coat.colour import lrv_pct
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.store import queries
from amber_gable.store.models import StockRow
from amber_gable.store.types import new_id
from amber_gable.units import both_of

MOST_L = 2000.0


@dataclass(frozen=True)
class StockFacts:
    """Paint that is there: of which product and colour, how much, from which batch, where it stands."""

    product: str
    colour: str
    litres: float
    batch: str = ""
    place: str = ""

    def check(self, products: Sequence[str]) -> None:
        """Refuse what cannot be.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        if self.product not in products:
            faults["product"] = "Choose a product from the list."
        if self.colour:
            try:
                lrv_pct(self.colour)
            except PlanError as fault:
                faults["colour"] = str(fault)
        if not 0 < self.litres <= MOST_L:
            faults["litres"] = f"More than 0 and at most {both_of(MOST_L, 'volume')}."
        if len(self.batch) > 60:
            faults["batch"] = "Shorten the batch to 60 characters."
        if len(self.place) > 120:
            faults["place"] = "Shorten the place to 120 characters."
        if faults:
            raise FieldErrors(faults)


def rows(scope: Scope) -> Sequence[StockRow]:
    with scope.reading() as session:
        return queries.stock(session, scope.contractor_id)


def add(scope: Scope, facts: StockFacts, job_id: str | None) -> None:
    """Put paint on the stock list, kept for a job where one is given.

    Raises
    ------
    FieldErrors
    """
    facts.check(list(scope.knowledge.products))
    with changing(scope, f"stock: {scope.knowledge.products[facts.product].name}", job_id) as change:
        change.add(
            StockRow(
                id=new_id(), version=1, contractor_id=scope.contractor_id, job_id=job_id, product=facts.product,
                colour=facts.colour.lower(), litres=facts.litres, batch=facts.batch.strip(), place=facts.place.strip(),
            )
        )  # fmt: skip


def keep_for(scope: Scope, row_id: str, job_id: str, is_kept: bool) -> None:
    """Keep stock for a job, or let it go for others.

    Raises
    ------
    PlanError
        If it is kept for another job.
    """
    with changing(scope, "keep stock for this job" if is_kept else "let stock go", job_id) as change:
        row = change.find_own(StockRow, row_id, "stock")
        if row.job_id not in (None, job_id):
            raise PlanError("This is kept for another job. Let it go there first.")
        change.follow(row, {"job_id": job_id if is_kept else None})


def remove(scope: Scope, row_id: str, job_id: str) -> None:
    with changing(scope, "take off the stock list", job_id) as change:
        row = change.find_own(StockRow, row_id, "stock")
        if row.job_id not in (None, job_id):
            raise PlanError("This is kept for another job. Let it go there first.")
        change.delete(row)

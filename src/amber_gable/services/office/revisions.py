"""Revisions of a job: the take-off as it was agreed, the change order that follows from what changed since, and its signature."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.price.revision import ChangeOrder, PartNow, Snapshot, change_order, read_snapshot
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.takeoff.job import JobTakeoff, PartTakeoff, job_takeoff
from amber_gable.store import queries
from amber_gable.store.models import Job, Revision
from amber_gable.store.types import new_id


@dataclass(frozen=True)
class PriceStanding:
    """Price of a job against the agreed one.

    Parameters
    ----------
    agreed : sequence of Revision
        The newest last.
    order : ChangeOrder or None
        None before anything was agreed; empty where nothing changed since.
    """

    agreed: Sequence[Revision]
    now: Snapshot
    order: ChangeOrder | None

    @property
    def number(self) -> int:
        """Return the number of the revision that is being worked on."""
        last = self.agreed[-1].number if self.agreed else 0
        return last + 1 if self.order is None or not self.order.is_empty else last

    @property
    def is_changed(self) -> bool:
        return self.order is not None and not self.order.is_empty


def _part(part: PartTakeoff, takeoff: JobTakeoff, knowledge: Knowledge) -> PartNow:
    """Return a part with its share of the price: its hours and paint, with all that is laid on them."""
    money, price = knowledge.money, takeoff.price
    per_litre = {(lot.product_key, lot.colour): lot.price / (lot.total_l or 1) for lot in takeoff.lots}
    paint = sum(line.litres * per_litre[line.product, line.colour] for line in part.lines)
    direct = part.hours * money.labour_per_h + paint * (1 + money.markup_pct / 100)
    share = float(price.total / price.direct) if price.direct else 1.0
    facts, system = part.spec.part.facts, part.spec.system
    coat = next((line for line in part.lines if line.step == "coat 1"), None)
    return PartNow(
        part.spec.part.key, part.name, knowledge.products[coat.product].name if coat else "", facts.new_hex or "",
        coat.sheen if coat else "", knowledge.methods[part.spec.method].label,
        system.coats, round(part.net_area_m2, 4), round(part.litres_total, 4),
        round(part.hours, 4), round(direct * share, 2), tuple(s.label for s in system.steps),
    )  # fmt: skip


def snapshot_of(takeoff: JobTakeoff, knowledge: Knowledge) -> Snapshot:
    """Return a take-off as plain values."""
    cans = tuple(
        f"{count} × {size.name} {lot.product.name}{f' {lot.colour}' if lot.colour else ''}"
        for lot in takeoff.lots
        if lot.packs
        for size, count in lot.packs.counts
    )
    price = takeoff.price
    return Snapshot(
        tuple(_part(p, takeoff, knowledge) for p in takeoff.parts), round(takeoff.litres_total, 4), round(takeoff.days.hours, 4),
        takeoff.days.days, float(price.net), float(price.tax), float(price.total), cans,
    )  # fmt: skip


def standing(scope: Scope, job: Job) -> PriceStanding:
    """Return what was agreed on a job and what differs from it now."""
    with scope.reading() as session:
        agreed = queries.revisions(session, job.id)
    now = snapshot_of(job_takeoff(scope, job), scope.knowledge)
    return PriceStanding(agreed, now, change_order(read_snapshot(agreed[-1].snapshot), now) if agreed else None)


def agree(scope: Scope, job: Job, signed_by: str, note: str) -> int:
    """Keep the take-off as it is now, with who agreed to it; return its number.

    Raises
    ------
    FieldErrors
        If nobody is named.
    PlanError
        If nothing changed since the last one.
    """
    faults = {}
    if not 1 <= len(signed_by.strip()) <= 120:
        faults["signed_by"] = "Who agreed? Write the owner's name as it stands under the paper."
    if len(note) > 500:
        faults["note"] = "Shorten this to 500 characters."
    if faults:
        raise FieldErrors(faults)
    last = standing(scope, job)
    if last.agreed and not last.is_changed:
        raise PlanError("Nothing changed since the last revision: there is nothing to sign.")
    with changing(scope, f"revision {last.number}", job.id) as change:
        change.add(
            Revision(
                id=new_id(),
                version=1,
                job_id=job.id,
                number=last.number,
                made_at=change.at,
                note=note.strip(),
                signed_by=signed_by.strip(),
                snapshot=last.now.plain(),
            )
        )
    return last.number

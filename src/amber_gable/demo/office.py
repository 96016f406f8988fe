"""What the office of the demonstration has done so far: bids, an agreed revision, an extra nobody signed, paint in stock,
and a pole that did not come home."""

from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs import jobs
from amber_gable.services.office import bids, extras, letterhead, revisions, stock
from amber_gable.services.office.bids import BidFacts
from amber_gable.services.office.extras import ExtraFacts
from amber_gable.services.office.stock import StockFacts
from amber_gable.store.models import Loaded
from amber_gable.store.types import new_id

OWNER = "Odile Tansy"
LETTERHEAD = {
    "address": "Net Loft, Ferry Lane, Heron Ferry",
    "phone": "555-0142",
    "mail": "office@fennel-rook.example",
    "licence": "HF-1187",
}
YESTERDAY = "2026-09-14"
# By name of the job: each state it came through.
BIDS: dict[str, tuple[BidFacts, ...]] = {
    "Tollkeeper's House": (BidFacts("sent", OWNER, "by telephone, evenings"), BidFacts("won", OWNER, "by telephone, evenings", "", "Trust: we showed her the record of the last house")),
    "Slipway Boathouse": (BidFacts("visited", "Hollis Sedge", "at the slipway"), BidFacts("sent", "Hollis Sedge", "at the slipway", "2026-09-14")),
    "Quarry Lane 9": (BidFacts("visited", "Perrin Moss", "letterbox", "2026-09-15"),),
    "Orchard Deck": (BidFacts("enquiry", "Juniper Vale", "by telephone", "2026-09-18"),),
}  # fmt: skip


def write_office(scope: Scope) -> None:
    """Write what the office has done, through the services that its clicks go through."""
    letterhead.change(scope, scope.owner.name, LETTERHEAD)
    by_name = {job.name: jobs.whole(scope, job.id) for job in jobs.list_jobs(scope)}
    house = by_name.get("Tollkeeper's House")
    if house is not None:
        # Before the bid: what stands on the shelf already is not charged for.
        stock.add(scope, StockFacts("rivermark-wood-primer", "#ca8a34", 3.785, "B-2207", "Workshop, shelf 3"), house.id)
    for name, moves in BIDS.items():
        for facts in moves if name in by_name else ():
            bids.move(scope, by_name[name], facts)
    if house is not None:
        revisions.agree(scope, house, OWNER, "Colours as on the boards")
        extras.add(scope, house.id, ExtraFacts("Replace the sill of the lower right window, west", "sill", 1, 2.5))
    cottage = by_name.get("Quarry Lane 9")
    if cottage is not None:
        with changing(scope, "truck: loaded", cottage.id) as change:
            change.add(Loaded(id=new_id(), version=1, job_id=cottage.id, day=YESTERDAY, key="tool:pole", is_back=False))

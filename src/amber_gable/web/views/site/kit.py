"""Stock and kit in words: what to see to first, boxes as one pours them."""

from collections.abc import Sequence
from datetime import date

from amber_gable.core.takeoff.mixing import Box
from amber_gable.services.office.cans import Can, LeftAt, Tip
from amber_gable.store.models import StockRow
from amber_gable.units import System, show
from amber_gable.web.sentences import Sentence


def kit_sentence(cans: Sequence[Can], tips: Sequence[Tip], left: Sequence[LeftAt]) -> Sentence:
    """Return what to see to first."""
    threatened = next((c for c in cans for w in c.warnings if w.startswith(("frost", "the vehicle"))), None)
    if threatened is not None:
        warning = next(w for w in threatened.warnings if w.startswith(("frost", "the vehicle")))
        where = threatened.row.place or "A can"
        return Sentence(f"{where}: {warning}.", "Frozen or cooked paint is lost paint.", alarm=True)
    worn = next((tip for tip in tips if tip.is_worn), None)
    if worn is not None:
        return Sentence(f"Change tip {worn.name} now.", "A worn tip takes a fifth more paint and leaves a ragged fan.", alarm=True)
    if left:
        label = f"{left[0].label[:1].upper()}{left[0].label[1:]}"
        return Sentence(f"{label} is at {left[0].job}.", f"It was loaded on {date.fromisoformat(left[0].day):%A} and not counted back.")
    return Sentence(
        "Stock and kit are in order.", f"{len(cans)} cans, {len(tips)} tips." if cans or tips else "Nothing is on the list yet."
    )


def boxes_in_words(rows: Sequence[StockRow], boxes: Sequence[Box], units: System) -> list[str]:
    """Return how cans are boxed, a line for each box."""
    out = []
    for box in boxes:
        pours = " and ".join(f"{show(p.litres, 'volume', units)} of {rows[p.can].batch or f'can {p.can + 1}'}" for p in box.pours)
        onto = f"onto the {show(box.carried_l, 'volume', units)} that are left, " if box.carried_l else ""
        out.append(f"{onto}pour {pours}: {show(box.litres, 'volume', units)}")
    return out

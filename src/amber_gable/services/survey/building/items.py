"""Items: trim by the run, posts and fittings by the piece; those that follow from the blocks, and entered ones."""

from dataclasses import asdict, dataclass

from amber_gable.core.geometry.outlines import TOLERANCE_M
from amber_gable.core.geometry.roofs import WIDTH_FROM
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.takeoff.items import check_item
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.store.models import Item
from amber_gable.store.types import new_id


@dataclass(frozen=True)
class ItemFacts:
    """Trim that is measured by the run (length x girth) or the piece (count x length x girth)."""

    kind: str
    length_m: float
    girth_m: float
    count: int = 1
    name: str = ""
    is_painted: bool = True

    def check(self, knowledge: Knowledge) -> None:
        """Refuse what is in no list or cannot be.

        Raises
        ------
        FieldErrors
        """
        if self.kind not in knowledge.items:
            raise FieldErrors({"kind": "Choose what it is from the list."})
        check_item(self.length_m, self.girth_m, self.count)


def add_item(scope: Scope, job_id: str, facts: ItemFacts) -> str:
    """Put an item to a building; return its id.

    Raises
    ------
    FieldErrors
    """
    facts.check(scope.knowledge)
    kind = scope.knowledge.items[facts.kind]
    with changing(scope, f"add {kind.label.lower()}", job_id) as change:
        job = change.whole_job()
        values = asdict(facts) | {"name": facts.name.strip() or kind.label}
        row = Item(
            id=new_id(),
            version=1,
            building_id=job.building.id,
            elevation_id=None,
            key="",
            substrate=kind.substrate,
            is_derived=False,
            **values,
        )
        change.add(row)
        return row.id


def update_item(scope: Scope, job_id: str, item_id: str, girth_m: float, is_painted: bool, version: int | None = None) -> None:
    """Change the girth of an item, and whether it is painted; what follows from the blocks stays theirs.

    Raises
    ------
    FieldErrors, ConflictError
    """
    with changing(scope, "change the trim", job_id) as change:
        row = change.find(Item, item_id, "item")
        change.label = f"change {row.name}"
        source = WIDTH_FROM.get(row.kind) if row.is_derived else None
        if source and abs(girth_m - row.girth_m) > TOLERANCE_M:
            raise FieldErrors({"girth_m": f"It is as wide as the {source} of its block. Change it there."})
        check_item(row.length_m, girth_m, row.count)
        change.update(row, {"girth_m": girth_m, "is_painted": is_painted}, version)


def remove_item(scope: Scope, job_id: str, item_id: str) -> None:
    """Take an entered item away.

    Raises
    ------
    FieldErrors
        If it follows from the blocks: it is left unpainted instead.
    """
    with changing(scope, "remove the item", job_id) as change:
        row = change.find(Item, item_id, "item")
        change.label = f"remove {row.name}"
        if row.is_derived:
            raise FieldErrors({"form": "This follows from the blocks. Take the mark off “paint it” instead."})
        change.delete(row)

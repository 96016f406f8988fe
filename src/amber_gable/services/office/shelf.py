"""The contractor's own shelf: taken from a file row by row, given out, and laid over the shipped knowledge."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Product, Sundry
from amber_gable.core.knowledge.shelf import Kind, read_sheet
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.errors import FieldErrors
from amber_gable.exchange.shelf import SheetRow, read
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.store import queries
from amber_gable.store.models import ShelfRow
from amber_gable.store.types import new_id

MOST_BYTES = 2_000_000


@dataclass(frozen=True)
class RowFault:
    """Fault of one row: its number in the file, its sheet, its column."""

    number: int
    key: str
    column: str
    message: str


@dataclass(frozen=True)
class Taken:
    """Result of reading a file: new, changed and unchanged rows, and the faults row by row. `is_kept` is True where it was taken."""

    new: tuple[str, ...]
    changed: tuple[str, ...]
    same: tuple[str, ...]
    faults: tuple[RowFault, ...]
    is_kept: bool

    @property
    def faulty_rows(self) -> int:
        return len({fault.number for fault in self.faults})

    @property
    def good(self) -> int:
        return len(self.new) + len(self.changed) + len(self.same)


@dataclass(frozen=True)
class _Good:
    row: SheetRow
    sheet: Product | Sundry


def _sort(scope: Scope, rows: Sequence[SheetRow]) -> tuple[list[_Good], list[RowFault]]:
    good: list[_Good] = []
    faults: list[RowFault] = []
    seen: set[tuple[str, str]] = set()
    for row in rows:
        row_faults = dict(row.faults)
        if (row.kind, row.key) in seen:
            row_faults["key"] = f"“{row.key}” is in this file twice."
        seen.add((row.kind, row.key))
        try:
            sheet = read_sheet(row.kind, row.key, row.values, scope.knowledge)
        except FieldErrors as fault:
            # What could not be read as a cell is said once, by the cell.
            row_faults = {**fault.errors, **row_faults}
        if row_faults:
            faults += [RowFault(row.number, row.key, column, message) for column, message in row_faults.items()]
        else:
            good.append(_Good(row, sheet))
    return good, faults


def take(scope: Scope, content: bytes, job_id: str | None, leaves_faulty: bool) -> Taken:
    """Take a file of data sheets onto the shelf.

    Parameters
    ----------
    content : bytes
        CSV or JSON.
    job_id : str, optional
        From whose page it was sent, for its undo.
    leaves_faulty : bool
        Whether good rows are taken though others are at fault; without it nothing is taken then.

    Raises
    ------
    FieldErrors
        If the file cannot be read as a whole.
    """
    if len(content) > MOST_BYTES:
        raise FieldErrors({"file": "A shelf has at most 2 MB."})
    good, faults = _sort(scope, read(content))
    knowledge = scope.knowledge
    tables: dict[Kind, dict[str, Product] | dict[str, Sundry]] = {"coating": knowledge.products, "sundry": knowledge.sundries}
    new = [g for g in good if g.row.key not in tables[g.row.kind]]
    changed = [g for g in good if tables[g.row.kind].get(g.row.key) not in (None, g.sheet)]
    is_kept = bool(new or changed) and (leaves_faulty or not faults)
    if is_kept:
        with changing(scope, f"take {len(new) + len(changed)} data sheets onto the shelf", job_id) as change:
            _keep(change, scope.contractor_id, [*new, *changed])
    same = [g for g in good if tables[g.row.kind].get(g.row.key) == g.sheet]
    return Taken(_keys(new), _keys(changed), _keys(same), tuple(faults), is_kept)


def _keys(sheets: Sequence[_Good]) -> tuple[str, ...]:
    return tuple(g.row.key for g in sheets)


def _keep(change: ChangeSet, contractor_id: str, sheets: Sequence[_Good]) -> None:
    own = {(row.kind, row.key): row for row in queries.shelf_rows(change.session, contractor_id)}
    for g in sheets:
        values = g.sheet.model_dump(mode="json")
        row = own.get((g.row.kind, g.row.key))
        if row is not None:
            change.follow(row, {"sheet": values})
        else:
            change.add(ShelfRow(id=new_id(), version=1, contractor_id=contractor_id, kind=g.row.kind, key=g.row.key, sheet=values))


def own_keys(scope: Scope) -> dict[tuple[str, str], str]:
    """Return the ids of the contractor's own sheets by kind and key."""
    with scope.reading() as session:
        return {(row.kind, row.key): row.id for row in queries.shelf_rows(session, scope.contractor_id)}


def forget(scope: Scope, row_id: str, job_id: str | None) -> None:
    """Take one of the contractor's own sheets off the shelf; where a shipped one lay below, it is there again.

    Raises
    ------
    NotFoundError
    """
    with changing(scope, "take a data sheet off the shelf", job_id) as change:
        row = change.find_own(ShelfRow, row_id, "data sheet")
        change.label = f"take our own {row.sheet['name']} off the shelf"
        change.delete(row)


def is_shipped(kind: Kind, key: str) -> bool:
    return key in (shipped().products if kind == "coating" else shipped().sundries)

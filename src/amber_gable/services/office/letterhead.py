"""Letterhead of a contractor: address, telephone, mail, licence, as they stand at the head of every paper."""

from collections.abc import Mapping

from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.changes.seen import part_key, seen_part

FIELDS = ("address", "phone", "mail", "licence")
_MOST = 160


def lines_of(letterhead: Mapping[str, str]) -> tuple[str, ...]:
    """Return the lines below the firm's name; none where nothing was entered."""
    reach = ", ".join(letterhead[name] for name in ("phone", "mail") if letterhead.get(name))
    licence = f"Licence {letterhead['licence']}" if letterhead.get("licence") else ""
    return tuple(line for line in (letterhead.get("address", ""), reach, licence) if line)


def _typed(name: str, letterhead: Mapping[str, str]) -> dict[str, str]:
    return {"firm_name": name, **{field: letterhead.get(field, "") for field in FIELDS}}


def seen_of(scope: Scope) -> str:
    """Return what the form of the letterhead carries: what it shows, as it stands."""
    return seen_part(scope.contractor_id, "letterhead", "", _typed(scope.owner.name, scope.owner.letterhead))


def change(scope: Scope, name: str, values: Mapping[str, str]) -> None:
    """Change what the firm is called and what stands below.

    Raises
    ------
    FieldErrors
    ConflictError
        If somebody else changed it meanwhile.
    """
    faults = {field: f"Shorten this to {_MOST} characters." for field in FIELDS if len(values.get(field, "")) > _MOST}
    if not name.strip():
        faults["firm_name"] = "Give the firm a name: it stands on every paper."
    if faults:
        raise FieldErrors(faults)
    with changing(scope, "change the letterhead") as change_set:
        row = change_set.contractor_row()
        change_set.compare(part_key(row.id, "letterhead", ""), _typed(row.name, row.letterhead), {"firm_name": name.strip(), **values})
        # What is kept beside the lines of the head, like the country, stays.
        head = dict(row.letterhead) | {f: values.get(f, "").strip() for f in FIELDS}
        change_set.follow(row, {"name": name.strip(), "letterhead": head})

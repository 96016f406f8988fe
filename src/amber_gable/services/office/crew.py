"""The crew of a contractor: who is in it, with hours, days off and skills. Crew size comes from here."""

import secrets
from collections.abc import Callable, Mapping, Sequence
from datetime import date

from pydantic import ValidationError

from amber_gable.core.planning.crew.people import DaysOff, Person
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.changes.seen import seen_part

_MOST = 30
_LONGEST = 40
# What the form of a painter edits as a whole.
TYPED = ("starts_h", "ends_h", "weekdays", "skills")


def people(scope: Scope) -> dict[str, Person]:
    """Return the painters by name, in their order; one of whom nothing was entered has the usual hours."""
    return {name: scope.owner.crew.get(name, Person()) for name in scope.owner.painters}


def person(scope: Scope, name: str) -> Person:
    """Return a painter of the crew.

    Raises
    ------
    NotFoundError
    """
    if name not in scope.owner.painters:
        raise NotFoundError("This painter is not in the crew (any more).")
    return people(scope)[name]


def add(scope: Scope, name: str) -> None:
    """Take a painter on.

    Raises
    ------
    FieldErrors
    """
    with changing(scope, f"take {' '.join(name.split())} on") as change_set:
        row = change_set.contractor_row()
        name = checked_name(name, row.painters)
        change_set.follow(row, {"painters": [*row.painters, name], "crew": row.crew | {name: newcomer()}})


def checked_name(name: str, painters: Sequence[str]) -> str:
    """Return a name that may join some painters, its spaces put right.

    Raises
    ------
    FieldErrors
    """
    name = " ".join(name.split())
    if not name or len(name) > _LONGEST:
        raise FieldErrors({"name": f"Give a name of at most {_LONGEST} characters."})
    if name.casefold() in {known.casefold() for known in painters} or name.casefold() == "office":
        raise FieldErrors({"name": f"There is a {name} already; add the first letter of the family name."})
    if len(painters) >= _MOST:
        raise FieldErrors({"name": f"At most {_MOST} painters."})
    return name


def newcomer() -> dict[str, object]:
    """Return what is kept of somebody of whom nothing was entered yet: a calendar feed of this one's own."""
    return Person(feed=_secret()).model_dump(mode="json")


def remove(scope: Scope, name: str) -> None:
    """Let a painter go: this one is planned no more; what the record says of this one stays.

    Raises
    ------
    FieldErrors
        For the last one.
    NotFoundError
    """
    person(scope, name)
    with changing(scope, f"take {name} out of the crew") as change_set:
        row = change_set.contractor_row()
        left = [known for known in row.painters if known != name]
        if not left:
            raise FieldErrors({"form": "A crew has one painter at least."})
        change_set.follow(row, {"painters": left, "crew": {k: v for k, v in row.crew.items() if k != name}})


def change(scope: Scope, name: str, values: Mapping[str, object]) -> None:
    """Change hours, weekdays or skills of a painter.

    Raises
    ------
    FieldErrors, NotFoundError
    ConflictError
        If somebody else changed these of this painter meanwhile.
    """
    _change(scope, name, lambda _before: dict(values))


def away(scope: Scope, name: str, first: date, last: date, why: str) -> None:
    """Note that a painter does not work on some days: ill, on leave.

    Raises
    ------
    FieldErrors, NotFoundError
    """
    if last < first:
        raise FieldErrors({"last": "The last day off lies before the first."})

    def with_days(before: Person) -> dict[str, object]:
        off = [d for d in before.off if not (d.first == first and d.last == last)]
        return {"off": (*off, DaysOff(first=first, last=last, why=why))}

    _change(scope, name, with_days)


def back(scope: Scope, name: str, first: date) -> None:
    """Take days off back that begin on a day."""
    _change(scope, name, lambda before: {"off": tuple(d for d in before.off if d.first != first)})


def seen_of(scope: Scope, name: str) -> str:
    """Return what the form of a painter carries: hours and skills as they stand; days off are added one by one."""
    one = people(scope)[name].model_dump(mode="json")
    return seen_part(scope.contractor_id, "crew", name, {key: one[key] for key in TYPED})


def _change(scope: Scope, name: str, made: Callable[[Person], dict[str, object]]) -> None:
    """Change a painter as this one stands in the database now; the others stay as they are."""
    person(scope, name)
    with changing(scope, f"change the hours of {name}") as change_set:
        row = change_set.contractor_row()
        if name not in row.painters:
            raise NotFoundError("This painter is not in the crew (any more).")
        before = Person.model_validate(row.crew.get(name, {}))
        try:
            after = Person.model_validate(before.model_dump() | made(before) | {"feed": before.feed or _secret()})
        except ValidationError as fault:
            raise FieldErrors({"form": str(fault.errors()[0]["msg"]).removeprefix("Value error, ")}) from fault
        change_set.update_part(row, "crew", name, before.model_dump(mode="json"), after.model_dump(mode="json"), TYPED)


def _secret() -> str:
    return secrets.token_urlsafe(18)

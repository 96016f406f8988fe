"""The crew of a contractor: who is in it, with hours, days off and skills. Crew size comes from here."""

import secrets
from collections.abc import Mapping, Sequence
from datetime import date

from pydantic import ValidationError

from amber_gable.core.planning.crew.people import DaysOff, Person
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing

_MOST = 30
_LONGEST = 40


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
    name = checked_name(name, scope.owner.painters)
    _write(scope, f"take {name} on", [*scope.owner.painters, name], _written(scope) | {name: newcomer()})


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
    if len(scope.owner.painters) == 1:
        raise FieldErrors({"form": "A crew has one painter at least."})
    left = [known for known in scope.owner.painters if known != name]
    _write(scope, f"take {name} out of the crew", left, {k: v for k, v in _written(scope).items() if k != name})


def change(scope: Scope, name: str, values: Mapping[str, object]) -> None:
    """Change hours, weekdays, days off or skills of a painter.

    Raises
    ------
    FieldErrors
    NotFoundError
    """
    before = person(scope, name)
    try:
        after = Person.model_validate(before.model_dump() | dict(values) | {"feed": before.feed or _secret()})
    except ValidationError as fault:
        raise FieldErrors({"form": str(fault.errors()[0]["msg"]).removeprefix("Value error, ")}) from fault
    _write(scope, f"change the hours of {name}", list(scope.owner.painters), _written(scope) | {name: after.model_dump(mode="json")})


def away(scope: Scope, name: str, first: date, last: date, why: str) -> None:
    """Note that a painter does not work on some days: ill, on leave.

    Raises
    ------
    FieldErrors, NotFoundError
    """
    if last < first:
        raise FieldErrors({"last": "The last day off lies before the first."})
    off = [d for d in person(scope, name).off if not (d.first == first and d.last == last)]
    change(scope, name, {"off": (*off, DaysOff(first=first, last=last, why=why))})


def back(scope: Scope, name: str, first: date) -> None:
    """Take days off back that begin on a day."""
    change(scope, name, {"off": tuple(d for d in person(scope, name).off if d.first != first)})


def _secret() -> str:
    return secrets.token_urlsafe(18)


def _written(scope: Scope) -> dict[str, object]:
    return {name: one.model_dump(mode="json") for name, one in scope.owner.crew.items()}


def _write(scope: Scope, label: str, names: list[str], crew: dict[str, object]) -> None:
    with changing(scope, label) as change_set:
        change_set.update(change_set.contractor_row(), {"painters": names, "crew": crew})

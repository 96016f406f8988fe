"""The machines of a contractor: how many of each, whose they are, what is reserved; and for which days the plan needs what is hired."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date

from pydantic import ValidationError

from amber_gable.core.planning.crew.machines import Hire, Machine, Reserved, hires, usual_fleet
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.changes.seen import seen_part

# What the form of a machine edits as a whole.
TYPED = ("units", "per_day", "delivery", "lead_days", "is_hired", "not_until")


def fleet_of(scope: Scope) -> dict[str, Machine]:
    """Return the machines by their keys; of which nothing was entered there is one, hired by the rates of the firm."""
    return {key: scope.owner.machines.get(key, usual) for key, usual in usual_fleet(scope.knowledge).items()}


def machine(scope: Scope, key: str) -> Machine:
    """Return one of the machines.

    Raises
    ------
    NotFoundError
    """
    found = fleet_of(scope).get(key)
    if found is None:
        raise NotFoundError("There is no such machine.")
    return found


def change(scope: Scope, key: str, values: Mapping[str, object]) -> None:
    """Change how many there are, whose they are, what hire costs, from when there is one.

    Raises
    ------
    FieldErrors, NotFoundError
    ConflictError
        If somebody else changed these of this machine meanwhile.
    """
    _change(scope, key, lambda _before: dict(values))


def reserve(scope: Scope, key: str, job_id: str, first: date, last: date) -> None:
    """Note that a machine is reserved for a job for some days, both included.

    Raises
    ------
    FieldErrors
        If it ends before it begins.
    NotFoundError
    """
    if last < first:
        raise FieldErrors({"last": "The hire ends before it begins."})

    def with_days(before: Machine) -> dict[str, object]:
        kept = [r for r in before.reserved if (r.first, r.last, r.job) != (first, last, job_id)]
        return {"reserved": tuple(sorted((*kept, Reserved(first=first, last=last, job=job_id)), key=lambda r: r.first))}

    _change(scope, key, with_days)


def release(scope: Scope, key: str, job_id: str, first: date) -> None:
    """Take a reservation for a job back that begins on a day."""
    _change(scope, key, lambda before: {"reserved": tuple(r for r in before.reserved if (r.job, r.first) != (job_id, first))})


def seen_of(scope: Scope, key: str) -> str:
    """Return what the form of a machine carries: its terms as they stand; days are reserved one by one."""
    one = fleet_of(scope)[key].model_dump(mode="json")
    return seen_part(scope.contractor_id, "machines", key, {name: one[name] for name in TYPED})


def _change(scope: Scope, key: str, made: Callable[[Machine], dict[str, object]]) -> None:
    """Change a machine as it stands in the database now; the others stay as they are."""
    usual = machine(scope, key)
    with changing(scope, f"change the machine: {usual.label.lower()}") as change_set:
        row = change_set.contractor_row()
        before = Machine.model_validate(row.machines[key]) if key in row.machines else usual_fleet(scope.knowledge)[key]
        try:
            after = Machine.model_validate(before.model_dump() | made(before))
        except ValidationError as fault:
            first = fault.errors()[0]
            field = str(first["loc"][0]) if first["loc"] else "form"
            raise FieldErrors({field: str(first["msg"]).removeprefix("Value error, ")}) from fault
        change_set.update_part(row, "machines", key, before.model_dump(mode="json"), after.model_dump(mode="json"), TYPED)


@dataclass(frozen=True)
class Need:
    """A hire that the plan of a job needs."""

    key: str
    label: str
    hire: Hire


def needs_of(fleet: Mapping[str, Machine], job_id: str, used: Mapping[str, list[date]]) -> list[Need]:
    """Return what is to be hired for a job, the soonest to be reserved first.

    Parameters
    ----------
    used : mapping of str to list of date
        Days on which each machine is used.
    """
    out = [Need(key, fleet[key].label, one) for key, days in used.items() if fleet[key].is_hired for one in hires(days, fleet[key], job_id)]
    return sorted(out, key=lambda need: (need.hire.reserve_by, need.key))

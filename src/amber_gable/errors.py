"""The root of the error tree: every fault that a user can put right.

A leaf, like `units`: it imports nothing of ours, so that parsing (units), computing (core) and
storing (services) can all raise into one tree, which one handler shows beside the field it names.
`assert` is for our own mistakes only.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any


class PlanError(Exception):
    """A fault the user can put right; faces show `str(error)` beside `field`.

    Parameters
    ----------
    message : str
        What is wrong and what to do about it, in words.
    field : str, optional
        Dotted name of the input at fault ("hours.3.air_temp_c"), empty when it is the whole.
    """

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(message)
        self.field = field


class NotFoundError(PlanError):
    """The thing that was asked for is not there (any more)."""


@dataclass(frozen=True)
class Differing:
    """A column that two people gave different values: what is saved now, and what was about to be."""

    column: str
    theirs: Any
    yours: Any


class ConflictError(PlanError):
    """Somebody else changed the row since it was read; nothing was saved.

    Parameters
    ----------
    version : int or None
        Of the row as it is now; saving with it is accepted. None where there is nothing to save over.
    differing : tuple of Differing
    who, at : str, datetime
        Who changed it last, and when.
    seen : str
        What a form carries that has seen it as it is now.
    """

    def __init__(
        self, message: str, version: int | None = None, differing: tuple[Differing, ...] = (), who: str = "", at: datetime | None = None,
        *, seen: str = "",
    ) -> None:  # fmt: skip
        super().__init__(message)
        self.seen = seen
        self.version, self.differing, self.who, self.at = version, differing, who, at


@dataclass(frozen=True)
class Spot:
    """Place of a fault for the drawing: an outline or a point [m] on an elevation ("" for the one at hand)."""

    elevation: str
    outline: tuple[tuple[float, float], ...] = ()
    point: tuple[float, float] | None = None


class FieldErrors(PlanError):
    """Several faults of one form at once, so that the user can mend them in one go.

    Parameters
    ----------
    errors : dict of str to str
        Field name to message; never empty.
    spots : tuple of Spot
        Where on the drawing they lie.
    """

    def __init__(self, errors: dict[str, str], spots: tuple[Spot, ...] = ()) -> None:
        assert errors
        self.errors = errors
        self.spots = spots
        field, message = next(iter(errors.items()))
        super().__init__(message, field)

    def on(self, elevation: str) -> "FieldErrors":
        """Return the same faults, their spots on the elevation that is now known."""
        return FieldErrors(self.errors, tuple(replace(spot, elevation=elevation) for spot in self.spots))


def check_all(*checks: Callable[[], None], also: dict[str, str] | None = None) -> None:
    """Run every check and raise all their faults together.

    Parameters
    ----------
    *checks : callable
        Each raises `FieldErrors` or nothing.
    also : dict of str to str, optional
        Faults already known; for a field they say more than a check does.

    Raises
    ------
    FieldErrors
    """
    faults: dict[str, str] = {}
    spots: tuple[Spot, ...] = ()
    for check in checks:
        try:
            check()
        except FieldErrors as fault:
            faults |= fault.errors
            spots += fault.spots
    faults |= also or {}
    if faults:
        raise FieldErrors(faults, spots)

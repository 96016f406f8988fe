"""Phases: the stretches of work on a surface, in the order painters keep (handbook 2).

Not here: which step belongs to which (the steps table).
"""

from enum import StrEnum


class Phase(StrEnum):
    """A stretch of work; they are in order as they stand here."""

    CLEAR = "clear"
    CLEAN = "clean"
    PROVE = "prove"
    MEND = "mend"
    CAULK = "caulk"
    MASK = "mask"
    PRIME = "prime"
    COAT = "coat"
    SEAL = "seal"
    UNMASK = "unmask"
    INSPECT = "inspect"
    PUT_BACK = "put-back"

    @property
    def order(self) -> int:
        """Its place among the phases, from 0."""
        return _ORDER[self]


_ORDER = {phase: place for place, phase in enumerate(Phase)}

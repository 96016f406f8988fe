"""Our own assumptions: numbers that neither the handbook nor a publication gives, each with its unit, in one table.

They are read once from `tables/assumptions.toml` by name. Where practice teaches better, the table is the place to say so.
Not here: numbers with a source (the other tables), or what a contractor may set (rates, practice).
"""

import tomllib
from functools import cache
from pathlib import Path

from pydantic import BaseModel, ConfigDict

_FILE = Path(__file__).parent / "tables" / "assumptions.toml"


class Assumption(BaseModel):
    """One number, its unit, and what it is taken for."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    value: float
    unit: str
    why: str


@cache
def assumptions() -> dict[str, Assumption]:
    """Return every assumption by its name."""
    rows = tomllib.loads(_FILE.read_text(encoding="utf-8"))
    return {name: Assumption.model_validate(row) for name, row in rows.items()}


def assumed(name: str) -> float:
    """Return the number that is assumed under a name, in the unit of its row."""
    return assumptions()[name].value

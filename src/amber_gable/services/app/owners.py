"""The contractor whom a scope works for: read with its own shelf and prices laid over the tables, and read again when they changed.

Not here: who acts (scope), or how a shelf is changed (office).
"""

import logging
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError
from sqlalchemy.orm import Session

from amber_gable.core.knowledge import Knowledge, Product, Sundry
from amber_gable.core.knowledge.shelf import read_sheet, with_shelf
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.planning.crew.machines import Machine
from amber_gable.core.planning.crew.people import Person
from amber_gable.core.price.rates import with_prices
from amber_gable.errors import FieldErrors, NotFoundError, PlanError
from amber_gable.store import queries
from amber_gable.store.models import Contractor
from amber_gable.store.types import new_id
from amber_gable.units import System

log = logging.getLogger(__name__)
_UNNAMED = "My painting company"
UNITS = ("us", "metric")


@dataclass(frozen=True)
class Owner:
    """A contractor as it stood at one revision.

    Parameters
    ----------
    revision : int
        Raised by every change to what all its jobs share.
    version : int
        Of its row, for forms.
    crew : mapping of str to Person
        Of those of whom more is known than the name.
    machines : mapping of str to Machine
        Of which something was entered.
    house_rules, prices : mapping
        What differs from the tables, as it is stored.
    mends_itself : bool
        The plan of all jobs is mended by itself.
    knowledge : Knowledge
        The tables with the contractor's shelf and prices laid over them.
    letterhead : mapping of str to str
        Address, telephone, mail, licence, where they were entered; country, by its key.
    """

    id: str
    name: str
    units: System
    painters: tuple[str, ...]
    crew: Mapping[str, Person]
    machines: Mapping[str, Machine]
    revision: int
    version: int
    house_rules: Mapping[str, Any]
    prices: Mapping[str, Any]
    mends_itself: bool
    knowledge: Knowledge
    letterhead: Mapping[str, str] = field(default_factory=dict)

    @property
    def is_unnamed(self) -> bool:
        """Return whether nobody has said yet whose books these are."""
        return self.name == _UNNAMED and not self.painters

    @property
    def country(self) -> str:
        """Return the country, by its key, in which the firm works; the first of the tables where none was said."""
        return self.letterhead.get("country") or next(iter(self.knowledge.countries))


class ContractorError(PlanError):
    """It is not clear for which contractor the application works."""


def home_of(session: Session, named: str) -> str | None:
    """Return the id of the contractor that a process serves; None where there is none yet.

    Parameters
    ----------
    named : str
        Its id or name, as the settings have it; empty for the only one.

    Raises
    ------
    ContractorError
        If none is named and there are several, or one is named that is not there.
    """
    rows = queries.contractors(session)
    there = ", ".join(f"“{row.name}”" for row in rows) or "none"
    if named:
        chosen = [row.id for row in rows if named in (row.id, row.name)]
        if len(chosen) != 1:
            raise ContractorError(
                f"AMBER_GABLE_CONTRACTOR is “{named}”, and this database holds {there}. Set it to one of these, or write the books of a new"
                f" one first: amber-gable contractor “{named}”."
            )
        return chosen[0]
    if len(rows) > 1:
        raise ContractorError(f"This database holds several contractors: {there}. Set AMBER_GABLE_CONTRACTOR to the name of one of them.")
    return rows[0].id if rows else None


def open_books(session: Session, name: str = _UNNAMED, units: str = "us", painters: tuple[str, ...] = ()) -> str:
    """Write a new contractor; return its id.

    Raises
    ------
    ContractorError
        If one of that name is there already, or the name or units cannot be.
    """
    if not name.strip():
        raise ContractorError("Give the contractor a name.")
    if units not in UNITS:
        raise ContractorError(f"Units are us or metric, not {units}.")
    if any(row.name == name for row in queries.contractors(session)):
        raise ContractorError(f"There is a contractor “{name}” already.")
    row = Contractor(id=new_id(), version=1, name=name, units=units, painters=list(painters))
    session.add(row)
    return row.id


def owner_of(session: Session, contractor_id: str, held: Owner | None) -> Owner:
    """Return a contractor as it stands in the database: `known` itself, unless its revision was raised since, by whichever process.

    Raises
    ------
    NotFoundError
    """
    revision = queries.contractor_revision(session, contractor_id)
    if revision is None:
        raise NotFoundError("This contractor is not here (any more).")
    return held if held is not None and held.revision == revision else _read(session, contractor_id)


_Kept = TypeVar("_Kept", bound=BaseModel)


def _by_name(kind: type[_Kept], rows: Mapping[str, Any]) -> dict[str, _Kept]:
    out = {}
    for name, values in rows.items():
        try:
            out[name] = kind.model_validate(values)
        except ValidationError as fault:
            log.warning("what is kept of %s cannot be used any more: %s", name, fault)
    return out


def _read(session: Session, contractor_id: str) -> Owner:
    row = session.get(Contractor, contractor_id)
    assert row is not None
    coatings: dict[str, Product] = {}
    sundries: dict[str, Sundry] = {}
    for laid in queries.shelf_rows(session, contractor_id):
        try:
            sheet = read_sheet(laid.kind, laid.key, laid.sheet, shipped())
        except FieldErrors as fault:
            # Kept from before a table changed: the rest of the shelf must not fall with it.
            log.warning("the data sheet %s cannot be used any more: %s", laid.key, fault)
            continue
        if isinstance(sheet, Product):
            coatings[laid.key] = sheet
        else:
            sundries[laid.key] = sheet
    knowledge = with_shelf(shipped(), coatings, sundries)
    try:
        knowledge = with_prices(knowledge, row.prices)
    except FieldErrors as fault:
        log.warning("the contractor's own prices cannot be used any more: %s", fault)
    shared = (row.revision, row.version, row.house_rules, row.prices)
    return Owner(
        row.id,
        row.name,
        row.units,
        tuple(row.painters),
        _by_name(Person, row.crew),
        _by_name(Machine, row.machines),
        *shared,
        row.mends_itself,
        knowledge,
        row.letterhead,
    )

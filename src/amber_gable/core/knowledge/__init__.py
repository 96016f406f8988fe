"""The shipped knowledge: every default number of the trade, with its unit and source.

The tables are data (TOML beside this file), read once and validated; an error names file and
row. What a contractor or a job changes is laid over them and passed on as one frozen value.
"""

import tomllib
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from amber_gable.core.knowledge.phases import Phase
from amber_gable.core.knowledge.price_rows import Applicator, Exclusion, LabourRate, Life, Money, Practice, UnitPrice
from amber_gable.core.knowledge.rows import (
    Access,
    Cladding,
    Coating,
    Condition,
    Country,
    ErrorModel,
    Extent,
    FeatureKind,
    Ground,
    ItemKind,
    Law,
    LawRow,
    Limits,
    Method,
    OpeningKind,
    Product,
    Profile,
    Row,
    SiteTests,
    Size,
    Spray,
    StepWeather,
    Stock,
    Substrate,
    Sundry,
    Texture,
    Tight,
    Wait,
)
from amber_gable.core.knowledge.system_rows import CautionRow, Consumable, Family, Rule, School, StepRow, Systems
from amber_gable.errors import FieldErrors, PlanError

_FOLDER = Path(__file__).parent


class KnowledgeError(PlanError):
    """A shipped or overriding table that does not read as it should."""


class Knowledge(Row):
    """All tables, frozen. Passed as an argument to whatever decides; never a global."""

    claddings: dict[str, Cladding]
    stocks: dict[str, Stock]
    substrates: dict[str, Substrate]
    profiles: dict[str, Profile]
    textures: dict[str, Texture]
    coatings: dict[str, Coating]
    openings: dict[str, OpeningKind]
    items: dict[str, ItemKind]
    conditions: dict[str, Condition]
    extents: dict[str, Extent]
    features: dict[str, FeatureKind]
    grounds: dict[str, Ground]
    countries: dict[str, Country]
    site_tests: SiteTests
    products: dict[str, Product]
    sundries: dict[str, Sundry]
    limits: Limits
    step_weather: dict[str, StepWeather]
    waits: dict[Law, LawRow]
    forecast_errors: ErrorModel
    spray: Spray
    tight: Tight
    money: Money
    practice: Practice
    labour: dict[str, LabourRate]
    applicators: dict[str, Applicator]
    unit_prices: dict[str, UnitPrice]
    lives: dict[str, Life]
    exclusions: dict[str, Exclusion]
    access: dict[str, Access]
    methods: dict[str, Method]
    systems: Systems


def read_tables(folder: Path = _FOLDER) -> dict[str, Any]:
    """Return the tables as plain data, keyed as `Knowledge` names them.

    Raises
    ------
    KnowledgeError
        If a file is missing or is not TOML, naming it.
    """

    def table(name: str) -> dict[str, Any]:
        try:
            return tomllib.loads((folder / f"{name}.toml").read_text(encoding="utf-8"))
        except (OSError, tomllib.TOMLDecodeError) as fault:
            raise KnowledgeError(f"{name}.toml: {fault}") from fault

    tables = {
        "claddings": table("claddings"),
        "stocks": table("moisture"),
        "step_weather": table("step_weather"),
        "waits": table("waits"),
        "forecast_errors": table("forecast_errors"),
        **table("surfaces"),
        **table("openings"),
        **table("findings"),
        "products": table("products"),
        "sundries": table("sundries"),
        **table("house_rules"),
        "labour": table("labour"),
        "applicators": table("applicators"),
        **table("after"),
    }
    rules: dict[str, Any] = {}
    for path in sorted((folder / "systems" / "rules").glob("*.toml")):
        found = table(f"systems/rules/{path.stem}")
        twice = rules.keys() & found.keys()
        if twice:
            raise KnowledgeError(f"systems/rules/{path.name}: {min(twice)}: there is a rule of this name already.")
        rules |= found
    systems = {name: table(f"systems/{name}") for name in ("steps", "families", "cautions", "schools", "consumables")}
    return tables | {"systems": systems | table("systems/gear") | {"rules": rules}}


def build(tables: dict[str, Any]) -> Knowledge:
    """Return validated knowledge from plain tables.

    Raises
    ------
    KnowledgeError
        Naming table, row and column at fault, or a row that points to one that is not there.
    """
    try:
        known = Knowledge.model_validate(tables)
    except ValidationError as fault:
        first = fault.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise KnowledgeError(f"{where}: {first['msg']}", where) from fault
    _check_profiles(known)
    # Here, since tags read rows of these tables.
    from amber_gable.core.systems.check import check_tables

    check_tables(known)
    return known


def _check_profiles(known: Knowledge) -> None:
    # Here, since profiles reads rows of these tables.
    from amber_gable.core.geometry.profiles import SHAPES, check_dimensions

    for name, row in known.profiles.items():
        if row.shape not in SHAPES:
            raise KnowledgeError(f"profiles.{name}.shape: no shape “{row.shape}”.")
        if row.factor is None or row.mm:
            try:
                check_dimensions(row.shape, row.mm)
            except FieldErrors as fault:
                raise KnowledgeError(f"profiles.{name}.{'/'.join(fault.errors)}: {fault}") from fault


@cache
def shipped() -> Knowledge:
    """Return the shipped tables, read once."""
    return build(read_tables())


__all__ = [
    "Access", "Applicator", "CautionRow", "Cladding", "Coating", "Condition", "Consumable", "Country", "ErrorModel", "Exclusion",
    "Extent", "Family", "FeatureKind", "Ground", "ItemKind", "Knowledge", "KnowledgeError", "LabourRate", "Law", "LawRow", "Life",
    "Limits", "Method", "Money", "OpeningKind", "Phase", "Practice", "Product", "Profile", "Rule", "School", "SiteTests", "Size",
    "Spray", "StepRow", "StepWeather", "Stock", "Substrate", "Sundry", "Systems", "Texture", "Tight", "UnitPrice", "Wait",
    "build", "read_tables", "shipped",
]  # fmt: skip

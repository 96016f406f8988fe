"""The shipped tables: read once from their files, validated row by row, and held against one another.

Not here: what a row means (rows), or a contractor's own sheets (shelf).
"""

import tomllib
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from amber_gable.core.geometry.profiles import SHAPES, check_dimensions
from amber_gable.core.knowledge import Knowledge, KnowledgeError
from amber_gable.core.systems.check import check_tables
from amber_gable.errors import FieldErrors
from amber_gable.units import both

_FOLDER = Path(__file__).parent / "tables"


def read_tables(folder: Path = _FOLDER) -> dict[str, Any]:
    """Return the tables as plain data, keyed as `Knowledge` names them.

    Raises
    ------
    KnowledgeError
        If a file is missing or is not TOML, naming it.
    """

    def table(name: str) -> dict[str, Any]:
        try:
            rows: dict[str, Any] = _marked(tomllib.loads((folder / f"{name}.toml").read_text(encoding="utf-8")))
        except (OSError, tomllib.TOMLDecodeError) as fault:
            raise KnowledgeError(f"{name}.toml: {fault}") from fault
        return rows

    tables = {
        "claddings": table("weather/claddings"),
        "stocks": table("weather/moisture"),
        "step_weather": table("weather/step_weather"),
        "waits": table("weather/waits"),
        "weather_rules": table("weather/weather_rules"),
        "forecast_errors": table("weather/forecast_errors"),
        **table("survey/surfaces"),
        **table("survey/openings"),
        **table("survey/findings"),
        "products": table("products"),
        "sundries": table("sundries"),
        **table("house_rules"),
        "labour": table("labour"),
        "applicators": table("applicators"),
        "site_log": table("site_log"),
        **table("after"),
    }
    rules: dict[str, Any] = {}
    for path in sorted((folder / "systems" / "rules").glob("*.toml")):
        rows = table(f"systems/rules/{path.stem}")
        twice = rules.keys() & rows.keys()
        if twice:
            raise KnowledgeError(f"systems/rules/{path.name}: {min(twice)}: there is a rule of this name already.")
        rules |= rows
    systems = {name: table(f"systems/{name}") for name in ("steps", "families", "cautions", "schools", "consumables")}
    return tables | {"systems": systems | table("systems/gear") | {"rules": rules}}


def _marked(value: Any) -> Any:
    """Return a table whose texts are marked where they give a quantity in both systems: these words are ours."""
    if isinstance(value, str):
        return both(value)
    if isinstance(value, dict):
        return {key: _marked(one) for key, one in value.items()}
    return [_marked(one) for one in value] if isinstance(value, list) else value


def build(tables: dict[str, Any]) -> Knowledge:
    """Return validated knowledge from plain tables.

    Raises
    ------
    KnowledgeError
        Naming table, row and column at fault, or a row that points to one that is not there.
    """
    try:
        knowledge = Knowledge.model_validate(tables)
    except ValidationError as fault:
        first = fault.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise KnowledgeError(f"{where}: {first['msg']}", where) from fault
    _check_profiles(knowledge)
    check_tables(knowledge)
    return knowledge


def _check_profiles(knowledge: Knowledge) -> None:
    for name, row in knowledge.profiles.items():
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

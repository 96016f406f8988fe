"""The shipped knowledge: every default number of the trade, with its unit and source.

The tables are data (TOML beside this file), read once and validated; an error names file and
row. What a contractor or a job changes is laid over them and passed on as one frozen value.
"""

import tomllib
from functools import cache
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from amber_gable.errors import PlanError

_FOLDER = Path(__file__).parent


class KnowledgeError(PlanError):
    """A shipped or overriding table that does not read as it should."""


class Row(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Cladding(Row):
    label: str
    areal_heat_capacity_kj_m2k: float = Field(gt=0)
    water_store_mm: float = Field(ge=0)
    source: str


class Substrate(Row):
    label: str
    cladding: str
    profile: str
    texture: str
    source: str


class Profile(Row):
    label: str
    shape: Literal["flat", "lap", "board-batten", "fixed"]
    exposure_mm: float | None = Field(default=None, gt=0)
    butt_mm: float | None = Field(default=None, ge=0)
    board_mm: float | None = Field(default=None, gt=0)
    batten_depth_mm: float | None = Field(default=None, ge=0)
    factor: float | None = Field(default=None, ge=1)
    source: str


class Texture(Row):
    label: str
    factor: float = Field(ge=1)
    source: str


class OpeningKind(Row):
    label: str
    deducts: bool
    substrate: str | None = None
    source: str


class Product(Row):
    """A coating's data sheet: what its label asks of weather and time (at 25 °C, 50 %)."""

    name: str
    kind: Literal["waterborne", "alkyd"]
    volume_solids_pct: float = Field(gt=0, le=100)
    dry_film_um: float = Field(gt=0)
    min_surface_temp_c: float
    max_surface_temp_c: float
    min_air_temp_c: float
    max_air_temp_c: float
    max_rel_humidity_pct: float = Field(gt=0, le=100)
    min_dew_margin_c: float = Field(ge=0)
    rain_free_h: float = Field(ge=0)
    hold_h: float = Field(ge=0)
    hold_min_surface_temp_c: float
    touch_h: float = Field(gt=0)
    recoat_h: float = Field(gt=0)
    source: str = ""


class Limits(Row):
    max_rain_probability_pct: float
    after_application_h: float
    warm_in_sun_c: float
    trace_rain_mm: float
    wet_store_mm: float


class Tight(Row):
    temperature_c: float
    dew_margin_c: float
    humidity_pct: float
    wind_share: float
    rain_share: float


class Access(Row):
    label: str
    max_wind_m_s: float
    source: str


class Method(Row):
    label: str
    loss_pct: float = Field(ge=0, le=95)
    first_coat_m2_per_h: float = Field(gt=0)
    next_coat_m2_per_h: float = Field(gt=0)
    max_wind_m_s: float | None = None
    source: str


class Knowledge(Row):
    """All tables, frozen. Passed as an argument to whatever decides; never a global."""

    claddings: dict[str, Cladding]
    substrates: dict[str, Substrate]
    profiles: dict[str, Profile]
    textures: dict[str, Texture]
    openings: dict[str, OpeningKind]
    products: dict[str, Product]
    limits: Limits
    tight: Tight
    access: dict[str, Access]
    methods: dict[str, Method]


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

    return {
        "claddings": table("claddings"),
        **table("surfaces"),
        "products": table("products"),
        **table("house_rules"),
    }


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
    for name, row in known.substrates.items():
        for column in ("cladding", "profile", "texture"):
            if getattr(row, column) not in getattr(known, f"{column}s"):
                raise KnowledgeError(f"substrates.{name}.{column}: no row “{getattr(row, column)}”.")
    return known


@cache
def shipped() -> Knowledge:
    """Return the shipped tables, read once."""
    return build(read_tables())

"""The rows of what a take-off and a price rest on: money, practice, labour rates, applicators, what lies beyond the coats.

Bounds are wide on purpose: they refuse what is negative, absurd or in another unit, not what is dear.
"""

from typing import Literal

from pydantic import Field

from amber_gable.core.knowledge.rows import TableRow

Counted = Literal["m2", "m2 found", "m", "run", "opening", "piece", "once"]


class Money(TableRow):
    """Rates of a contractor, in the contractor's money."""

    labour_per_h: float = Field(gt=0, le=500)
    currency: str = Field(pattern="[A-Z]{3}")
    locale: str = Field(min_length=2, max_length=20)
    markup_pct: float = Field(ge=0, le=200)
    overhead_pct: float = Field(ge=0, le=100)
    margin_pct: float = Field(ge=0, le=80)
    tax_pct: float = Field(ge=0, le=40)
    deposit_pct: float = Field(ge=0, le=100)
    halfway_pct: float = Field(ge=0, le=100)
    disposal: float = Field(ge=0, le=20_000)
    valid_days: int = Field(ge=1, le=365)
    rounding: float = Field(ge=0.01, le=1000)


class Practice(TableRow):
    """Practice of a contractor: figures of a take-off, each with its unit in the name."""

    reserve_pct: float = Field(ge=0, le=50)
    reserve_least_l: float = Field(ge=0, le=20)
    suction_pct: float = Field(ge=0, le=100)
    bead_mm: float = Field(ge=2, le=40)
    caulk_waste_pct: float = Field(ge=0, le=95)
    box_l: float = Field(ge=1, le=1000)
    box_carry_share: float = Field(ge=0, le=0.9)
    day_h: float = Field(ge=1, le=16)
    setup_h: float = Field(ge=0, le=6)
    ladder_move_h: float = Field(ge=0, le=3)
    weather_slack_pct: float = Field(ge=0, le=100)
    storey_m: float = Field(ge=2, le=6)
    reach_side_m: float = Field(ge=0.2, le=2)
    extension_m: float = Field(ge=0, le=6)
    overlap_pct: float = Field(ge=0, le=90)
    pressure_psi: float = Field(ge=300, le=7500)
    pump_l_per_min: float = Field(ge=0.3, le=30)
    hose_m: float = Field(ge=5, le=200)
    tip_life_l: float = Field(ge=10, le=2000)
    worn_tip_pct: float = Field(ge=0, le=100)
    mask_drape_m: float = Field(ge=0, le=5)
    open_time_waterborne_min: float = Field(gt=0, le=600)
    open_time_alkyd_min: float = Field(gt=0, le=600)
    primer_lrv_pct: float = Field(ge=0, le=100)
    trim_lrv_pct: float = Field(ge=0, le=100)


class LabourRate(TableRow):
    """Units an hour for one painter, and when the row speaks; an empty list is no condition."""

    label: str
    task: str
    of: Counted
    first_per_h: float = Field(gt=0, le=1000)
    next_per_h: float = Field(gt=0, le=1000)
    methods: tuple[str, ...] = ()
    kinds: tuple[str, ...] = ()
    shapes: tuple[str, ...] = ()
    textures: tuple[str, ...] = ()
    techniques: tuple[str, ...] = ()
    extents: tuple[str, ...] = ()
    source: str


class Applicator(TableRow):
    """An applicator; for each coat the first row that fits is taken."""

    label: str
    part: Literal["roller", "brush", "tip", "filter", "rags"]
    methods: tuple[str, ...] = ()
    kinds: tuple[str, ...] = ()
    textures: tuple[str, ...] = ()
    families: tuple[str, ...] = ()
    # One for so many coated m2, for so many litres, for each painter; the most of them counts.
    m2: float = Field(default=0.0, ge=0)
    litres: float = Field(default=0.0, ge=0)
    painter: bool = False
    price: float = Field(ge=0, le=10_000)
    source: str


class UnitPrice(TableRow):
    """Unit price of hidden damage, agreed before the work."""

    label: str = Field(min_length=1, max_length=120)
    unit: Literal["m", "piece", "m2", "h"]
    price: float = Field(ge=0, le=20_000)
    source: str


class Life(TableRow):
    """Years to the next coat, and what is warranted until then."""

    label: str
    families: tuple[str, ...] = ()
    substrates: tuple[str, ...] = ()
    kinds: tuple[str, ...] = ()
    primers: tuple[str, ...] = ()
    # Families of what is on top.
    finishes: tuple[str, ...] = ()
    years: tuple[float, float]
    warranty_years: int = Field(ge=0, le=30)
    # Why nothing is warranted, where it is so.
    not_warranted: str = ""
    source: str


class Exclusion(TableRow):
    """Work that is not in a price; an empty list of families is no condition."""

    text: str = Field(min_length=1, max_length=400)
    families: tuple[str, ...] = ()
    source: str

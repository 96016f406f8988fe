"""The rows of the systems tables: steps, families, cautions, schools and rules, and what makes them wrong.

A condition is a tag, or several of one kind with | between: "kind:wall|gable". `core.systems.tags`
says of which tags facts are made; a rule with any other is refused when the tables are read.
"""

from typing import Literal

from pydantic import Field

from amber_gable.core.knowledge.phases import Phase
from amber_gable.core.knowledge.rows import TableRow
from amber_gable.core.knowledge.rule_rows import Wait

Extent = Literal["none", "spot", "full"]
# Of a step that is done in any weather.
ANY_WEATHER = "any"


class StepRow(TableRow):
    label: str
    phase: Phase
    does: str
    # Units an hour for one painter; for "once", hours.
    rate: float = Field(ge=0, le=1000)
    of: Literal["m2", "m2 found", "m", "edge", "opening", "piece", "near", "once"]
    # Findings it mends: its pieces, openings and share of the area are counted by them.
    mends: tuple[str, ...] = ()
    # What it needs of the weather: a row of step_weather, or "any".
    weather: str
    wait: Wait = Wait()
    # Fewest and most painters who work at it at once on one part.
    crew: tuple[int, int] = (1, 4)
    # Done from the ground, whatever the way up to the part.
    from_ground: bool = False
    tools: tuple[str, ...] = ()
    # Consumables used up.
    uses: tuple[str, ...] = ()
    chemicals: tuple[str, ...] = ()
    ppe: tuple[str, ...] = ()
    # Cautions that come with it.
    hazards: tuple[str, ...] = ()
    # Runs down on what is below.
    drips: bool = False
    # Takes the old film off whole.
    strips: bool = False
    # Breaks into old paint; puts water on; breaks the material's face, and raises dust.
    disturbs: bool = False
    wets: bool = False
    abrades: bool = False
    # Belongs to work under the rules of lead or asbestos: it begins once these are on record.
    is_under_rules: bool = False
    check: str
    source: str


class Family(TableRow):
    label: str
    role: Literal["primer", "undercoat", "finish", "sealer", "sundry", "chemical"]
    # The step that a primer makes, where it is not plainly "prime".
    step: str = ""
    # The step of the table that it follows, where it is no coat among the coats.
    after: str = ""
    does: str = ""
    wait_h: float = Field(default=0.0, ge=0)
    # Of stains, 1 clear to 4 solid; 0 for what is no stain.
    opacity: int = Field(default=0, ge=0, le=4)
    # Of a finish that an owner may ask for: families of ground and kinds of surface it is made for.
    suits: tuple[str, ...] = ()
    kinds: tuple[str, ...] = ()
    not_on: tuple[str, ...] = ()
    # Lets water vapour out; goes on bare mineral or on its like only.
    is_vapour_open: bool = False
    mineral_only: bool = False
    # Its label's spread is that of the rough, thirsty ground it is made for.
    spread_as_found: bool = False
    source: str


# What a consumable may be counted by besides what its step is.
MEASURES = ("edge", "cover", "foot")


class Consumable(TableRow):
    """A consumable of a step, by the unit it is bought in."""

    label: str
    unit: str
    # How much one unit is enough for, of what the step counts by, or of edge, cover and foot.
    covers: dict[Literal["m2", "m2 found", "m", "opening", "piece", "near", "edge", "cover", "foot"], float] = Field(min_length=1)
    # Of what is squeezed out as a bead.
    cartridge_ml: float = Field(default=0.0, ge=0)
    is_reused: bool = False
    price: float = Field(default=0.0, ge=0, le=10_000)
    source: str


class Tool(TableRow):
    label: str
    group: Literal["hand", "power", "water", "meter", "cover", "access"]
    # Methods whose coats ask for it; empty where steps name it themselves.
    coats_by: tuple[Literal["brush", "roller", "sprayer"], ...] = ()
    source: str


class Ppe(TableRow):
    """Protective equipment."""

    label: str
    source: str


class CautionRow(TableRow):
    label: str
    group: Literal["safety", "system", "refusal"]
    text: str
    # Stands in the proposal: the owner is told before, not after; in words for an owner, where those for the crew will not do.
    tells_owner: bool = False
    to_owner: str = ""
    when: tuple[str, ...] = ()
    any: tuple[str, ...] = ()
    source: str


class School(TableRow):
    """A question on which good painters differ (handbook 11)."""

    label: str
    why: str
    default: str
    number: int = Field(ge=1)
    options: dict[str, str] = Field(min_length=2)


class SystemRule(TableRow):
    """A rule of systems: tags that must hold, and what follows then.

    Where rules disagree the higher `priority` decides. `prime` "spot" and "full" add up to the most
    that any asks, above the highest that says "none".
    """

    when: tuple[str, ...] = ()
    any: tuple[str, ...] = ()
    unless: tuple[str, ...] = ()
    add: tuple[str, ...] = ()
    drop: tuple[str, ...] = ()
    prime: Extent | None = None
    primer: str | None = None
    # What spots are primed with, where it differs from what the whole is primed with.
    spot: str | None = None
    # What bare wood is primed with before it is filled, whatever the whole is primed with.
    bare_primer: str | None = None
    tint: bool | None = None
    undercoats: int | None = Field(default=None, ge=0, le=3)
    undercoat_wait_h: float | None = Field(default=None, ge=0)
    finish: str | None = None
    coats: int | None = Field(default=None, ge=1, le=5)
    least_coats: int | None = Field(default=None, ge=1, le=5)
    sealers: int | None = Field(default=None, ge=0, le=3)
    sheen: Literal["flat", "low-lustre", "satin", "semi-gloss", "gloss"] | None = None
    technique: str | None = None
    method: str | None = None
    wait_h: float | None = Field(default=None, ge=0)
    dry_h: float | None = Field(default=None, ge=0)
    tacky: bool | None = None
    cautions: tuple[str, ...] = ()
    refuse: tuple[str, ...] = ()
    priority: int = Field(default=50, ge=0, le=100)
    why: str
    # The school that would change it.
    school: str = ""
    source: str


class Systems(TableRow):
    """All that systems are specified from."""

    steps: dict[str, StepRow]
    families: dict[str, Family]
    cautions: dict[str, CautionRow]
    schools: dict[str, School]
    rules: dict[str, SystemRule]
    consumables: dict[str, Consumable]
    tools: dict[str, Tool]
    ppe: dict[str, Ppe]

"""The knowledge: every default number of the trade, with its unit and source, as one frozen value that is passed on.

The tables are data (TOML in `tables`). Here: what they are together; `shipped` reads and checks them, `rows` and its
neighbours say what a row means, `shelf` lays a contractor's own sheets over them.
"""

from amber_gable.core.knowledge.log_rows import Harm, LogKind, MarkKind, SiteLog
from amber_gable.core.knowledge.phases import Phase
from amber_gable.core.knowledge.price_rows import Applicator, Exclusion, LabourRate, Life, Money, Practice, UnitPrice
from amber_gable.core.knowledge.rows import (
    Access,
    Condition,
    Country,
    ErrorModel,
    FeatureKind,
    FindingExtent,
    Ground,
    ItemKind,
    Limits,
    Method,
    OldCoating,
    OpeningKind,
    Product,
    Profile,
    SiteTests,
    Size,
    Spray,
    Substrate,
    Sundry,
    TableRow,
    Texture,
    Tight,
)
from amber_gable.core.knowledge.rule_rows import Law, LawRow, Rule, StepWeather, Wait
from amber_gable.core.knowledge.system_rows import CautionRow, Consumable, Family, School, StepRow, SystemRule, Systems
from amber_gable.core.knowledge.wall_rows import Cladding, Stock
from amber_gable.errors import PlanError


class KnowledgeError(PlanError):
    """A shipped or overriding table that does not read as it should."""


class Knowledge(TableRow):
    """All tables, frozen. Passed as an argument to whatever decides; never a global."""

    claddings: dict[str, Cladding]
    stocks: dict[str, Stock]
    substrates: dict[str, Substrate]
    profiles: dict[str, Profile]
    textures: dict[str, Texture]
    coatings: dict[str, OldCoating]
    openings: dict[str, OpeningKind]
    items: dict[str, ItemKind]
    conditions: dict[str, Condition]
    extents: dict[str, FindingExtent]
    features: dict[str, FeatureKind]
    grounds: dict[str, Ground]
    countries: dict[str, Country]
    site_tests: SiteTests
    products: dict[str, Product]
    sundries: dict[str, Sundry]
    limits: Limits
    step_weather: dict[str, StepWeather]
    waits: dict[Law, LawRow]
    weather_rules: dict[str, Rule]
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
    site_log: SiteLog

    def filler_of(self, use: str) -> Sundry | None:
        """Return the sundry that fills or seals where a step uses up a consumable; the firm's own comes before the shipped."""
        return next((row for row in reversed(self.sundries.values()) if row.family == use), None)

    def cladding_of(self, substrate: str, lies_on: str = "") -> Cladding:
        """Return what a substrate is to the weather.

        Parameters
        ----------
        substrate : str
            Row of substrates.
        lies_on : {"", "frame", "masonry"}
            What is behind render; empty for what usually is.
        """
        row = self.substrates[substrate]
        on_masonry = row.cladding_on_masonry and (lies_on or row.usually_on) == "masonry"
        return self.claddings[row.cladding_on_masonry if on_masonry else row.cladding]


__all__ = [
    "Access",
    "Applicator",
    "CautionRow",
    "Cladding",
    "Condition",
    "Consumable",
    "Country",
    "ErrorModel",
    "Exclusion",
    "Family",
    "FeatureKind",
    "FindingExtent",
    "Ground",
    "Harm",
    "ItemKind",
    "Knowledge",
    "KnowledgeError",
    "LabourRate",
    "Law",
    "LawRow",
    "Life",
    "Limits",
    "LogKind",
    "MarkKind",
    "Method",
    "Money",
    "OldCoating",
    "OpeningKind",
    "Phase",
    "Practice",
    "Product",
    "Profile",
    "Rule",
    "School",
    "SiteLog",
    "SiteTests",
    "Size",
    "Spray",
    "StepRow",
    "StepWeather",
    "Stock",
    "Substrate",
    "Sundry",
    "SystemRule",
    "Systems",
    "Texture",
    "Tight",
    "UnitPrice",
    "Wait",

]  # fmt: skip

"""What a job's contractor decided, read from the job and resolved against the knowledge."""

from collections.abc import Container, Mapping
from datetime import date
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from amber_gable.core.knowledge import Knowledge, Product
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.windows import HouseRules, SiteLimits
from amber_gable.errors import FieldErrors
from amber_gable.units import day_in

# What speaks where nothing was chosen and no system does: the usual for siding.
# School 21: how far a film must have come toward rain-ready to be young no longer.
YOUNG_SHARES = {"strict": 1.0, "half-way": 0.5, "clock": 0.0}
_USUAL = "rivermark-exterior-low-lustre"


class JobRules(BaseModel):
    """House rules and choices of one job; every default is a house default of the handbook."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    # Taken wherever it fits; empty where each system chooses from the shelf.
    product: str = ""
    method: str = "roller"
    access: str = "ladder"
    sun_rule: Literal["shade", "surface-cap"] = "surface-cap"
    max_rain_probability_pct: float = Field(default_factory=lambda: shipped().limits.max_rain_probability_pct, ge=0, le=100)
    # Only where this job has another number than its systems say.
    coats: int | None = Field(default=None, ge=1, le=4)
    # What is sprayed is rolled into the pores at once, whatever the systems say.
    technique: Literal["", "back-roll"] = ""
    painters: int = Field(default=2, ge=1, le=20)
    # The crew's day in local hours, Sundays off: our assumption, the handbook is silent.
    day_starts_h: float = Field(default=7.0, ge=0, le=23)
    day_ends_h: float = Field(default=18.0, ge=1, le=24)
    works_sundays: bool = False
    # Machines that are heard next door run within these hours only: our assumption, local rules win.
    loud_from_h: float = Field(default=8.0, ge=0, le=23)
    loud_until_h: float = Field(default=18.0, ge=1, le=24)
    # Of the country, for its public holidays: "TX", "BY"; empty for those of the whole country.
    region: str = Field(default="", max_length=8)
    # The day by which it is promised, as 2026-10-09, and what each day later costs.
    promised: str = Field(default="", pattern=r"^(\d{4}-\d{2}-\d{2})?$")
    late_per_day: float = Field(default=0.0, ge=0, le=100_000)
    # Schools (handbook 11) and products by family where this job differs from the contractor's own.
    schools: dict[str, str] = Field(default_factory=dict)
    products: dict[str, str] = Field(default_factory=dict)


def check_rules(rules: JobRules, knowledge: Knowledge) -> None:
    """Refuse rules that name what is in no table, or a day that ends before it starts.

    Raises
    ------
    FieldErrors
        Every fault at once, by field: "access", "schools.sun", "products.acrylic".
    """
    tables: dict[str, Container[str]] = {
        "product": {"", *knowledge.products},
        "method": knowledge.methods,
        "access": knowledge.access,
    }
    faults = {name: "Choose from the list." for name, table in tables.items() if getattr(rules, name) not in table}
    if rules.day_ends_h <= rules.day_starts_h:
        faults["day_ends_h"] = "The day must end after it starts."
    if rules.loud_until_h <= rules.loud_from_h:
        faults["loud_until_h"] = "It must lie after the hour from which machines may run."
    if rules.promised and _day(rules.promised) is None:
        faults["promised"] = "There is no such day. Give one as 2026-10-09."
    for key, option in rules.schools.items():
        school = knowledge.systems.schools.get(key)
        if school is None or option not in school.options:
            faults[f"schools.{key}"] = f"There is no school “{key}” with a side “{option}”."
    for family, product in rules.products.items():
        if family not in knowledge.systems.families or product not in knowledge.products:
            faults[f"products.{family}"] = f"There is no product “{product}” of a family “{family}” on the shelf."
    if faults:
        raise FieldErrors(faults)


def _day(text: str) -> date | None:
    return day_in(text)


def read_rules(values: Mapping[str, Any]) -> JobRules:
    """Return the rules of a job as its row holds them; what names no way up or method any more is as if nobody had said it."""
    knowledge = shipped()
    tables: dict[str, Container[str]] = {"method": knowledge.methods, "access": knowledge.access}
    return JobRules.model_validate({k: v for k, v in values.items() if k not in tables or v in tables[k]})


def product_of(rules: JobRules, knowledge: Knowledge) -> Product:
    """Return the label that speaks for a job where no surface does."""
    # A product of the firm's own may have left the shelf since.
    return knowledge.products.get(rules.product) or knowledge.products[_USUAL]


def house_rules(
    rules: JobRules, knowledge: Knowledge, schools: Mapping[str, str] | None = None, site: SiteLimits | None = None
) -> HouseRules:
    """Return the limits that windows are judged by: the stricter wind limit of access and method.

    Parameters
    ----------
    schools : mapping of str to str, optional
        Of the contractor and the job; "sun" wins over what the job's own rules say.
    site : SiteLimits, optional
        What this job asks beyond the common limits.
    """
    chosen = schools or {}
    wind = knowledge.access[rules.access].max_wind_m_s
    # What lies downwind decides for a gun, hour by hour (windows.limits).
    of_method = None if site is not None and site.spray is not None else knowledge.methods[rules.method].max_wind_m_s
    return HouseRules(
        max_wind_m_s=min(wind, of_method or wind),
        max_rain_probability_pct=rules.max_rain_probability_pct,
        sun_rule=chosen.get("sun", rules.sun_rule),  # type: ignore[arg-type]
        limits=knowledge.limits,
        tight=knowledge.tight,
        site=site,
        young_share=YOUNG_SHARES[chosen.get("fresh-film", knowledge.systems.schools["fresh-film"].default)],
        is_cold_school=chosen.get("cold-nights") == "cold-rated",
    )

"""Two ways side by side on one surface: products, methods, ways up, schools; and the hours that one gains over the other."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.coat.products import candidates
from amber_gable.core.knowledge import Product
from amber_gable.core.windows import SHUT, HouseRules, SiteLimits, Windows, find_windows, find_windows_each
from amber_gable.core.windows.run import FILM_RISK
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.jobs.rules import YOUNG_SHARES, house_rules
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.making.far import working_hours
from amber_gable.services.survey.around.surroundings import property_round
from amber_gable.services.systems.coatings import coatings_of, within_band
from amber_gable.services.systems.specs import schools_of, specs_of
from amber_gable.store.models import Job

_BOLD_PCT = 50.0
_FILMS = {"strict": "safe only when rain-ready", "half-way": "half of the way and the label's hours", "clock": "the label's clock alone"}
# Schools that decide which hours are open and nothing else.
SCHOOLS_OF_HOURS = ("sun", "cold-nights", "fresh-film")


@dataclass(frozen=True)
class ComparedWay:
    """A product and the limits it is judged by, and what it is called."""

    label: str
    product: Product
    rules: HouseRules


@dataclass(frozen=True)
class ComparedSide:
    """Result of one way: its windows, and the working hours in which a coat may go on."""

    way: ComparedWay
    windows: Windows
    usable: NDArray[np.bool_]
    step_s: float

    @property
    def hours(self) -> float:
        return float(self.usable.sum()) * self.step_s / 3600


@dataclass(frozen=True)
class Comparison:
    """Two ways on one surface, within the crew's day, from now to the end of what is known.

    Parameters
    ----------
    only_first, only_second : float
        Hours in which the one may go on and the other may not.
    """

    first: ComparedSide
    second: ComparedSide
    only_first: float
    only_second: float


def ways_of(scope: Scope, job: Job, surface_id: str) -> dict[str, ComparedWay]:
    """Return what can be compared on a surface, by key; "as-is" is how it is judged now.

    Raises
    ------
    NotFoundError
    """
    coating = coatings_of(scope, job).get(surface_id)
    if coating is None:
        raise NotFoundError("This surface is not painted (any more).")
    product, rules = coating.product, outlooks.rules_each(scope, job)[surface_id]
    knowledge, own, schools = scope.knowledge, rules_of(job), schools_of(scope, job)
    ways = {"as-is": ComparedWay(f"As it is: {product.name}", product, rules)}
    spec = next(s for s in specs_of(scope, job) if surface_id in s.part.surfaces)
    for other in candidates(knowledge, product.family, spec.part.facts):
        key = next(k for k, p in knowledge.products.items() if p == other)
        if other.name != product.name:
            ways[f"product:{key}"] = ComparedWay(other.name, other, rules)
    for key, method in knowledge.methods.items():
        if key != own.method:
            site = replace(rules.site or SiteLimits(), spray=knowledge.spray if key == "sprayer" else None)
            if key == "sprayer":
                around = property_round(job)
                site = replace(site, property_deg=around[0], property_all_round=around[1])
            changed = house_rules(own.model_copy(update={"method": key}), knowledge, schools, site)
            ways[f"method:{key}"] = ComparedWay(method.label, product, changed)
    for key, access in knowledge.access.items():
        changed = house_rules(own.model_copy(update={"access": key}), knowledge, schools, rules.site)
        if changed.max_wind_m_s != rules.max_wind_m_s:
            ways[f"access:{key}"] = ComparedWay(f"From: {access.label}", product, changed)
    return ways | _of_schools(product, rules)


def _of_schools(product: Product, rules: HouseRules) -> dict[str, ComparedWay]:
    other: Literal["shade", "surface-cap"] = "shade" if rules.sun_rule == "surface-cap" else "surface-cap"
    label = "School 2: follow the shade strictly" if other == "shade" else "School 2: the surface cap decides"
    ways = {f"sun:{other}": ComparedWay(label, product, replace(rules, sun_rule=other))}
    for band in ("10-29", "10-25"):
        held = within_band(product, band)
        if held != product:
            ways[f"band:{band}"] = ComparedWay(f"School 1: {band.replace('-', ' to ')} °C", held, rules)
    for option, share in YOUNG_SHARES.items():
        if share != rules.young_share:
            ways[f"film:{option}"] = ComparedWay(f"School 21: {_FILMS[option]}", product, replace(rules, young_share=share))
    if rules.max_rain_probability_pct < _BOLD_PCT:
        ways["rain:50"] = ComparedWay(
            f"A chance of rain of {_BOLD_PCT:g} % taken", product, replace(rules, max_rain_probability_pct=_BOLD_PCT)
        )
    return ways


def compare(scope: Scope, job: Job, ahead: Outlook, surface_id: str, first: str, second: str) -> Comparison:
    """Return two ways side by side.

    Raises
    ------
    FieldErrors
        If a way is not one of this surface's.
    """
    ways = ways_of(scope, job, surface_id)
    faults = {name: "Choose from the list." for name, key in (("first", first), ("second", second)) if key not in ways}
    row = ahead.row(surface_id)
    if faults or row is None:
        raise FieldErrors(faults or {"surface": "This surface is not painted (any more)."})
    climate = ahead.windows.climate.of_surfaces([row])
    working = working_hours(ahead, rules_of(job))
    working[: ahead.step_at(scope.clock.now())] = False
    sides = []
    for key in (first, second):
        windows = find_windows(climate, ways[key].product, ways[key].rules).also(ahead.windows.check(FILM_RISK).of_rows([row]))
        sides.append(ComparedSide(ways[key], windows, working & (windows.states[0] != SHUT), climate.grid.step_s))
    a, b = sides
    hour = climate.grid.step_s / 3600
    return Comparison(a, b, float((a.usable & ~b.usable).sum()) * hour, float((b.usable & ~a.usable).sum()) * hour)


def school_hours(scope: Scope, job: Job, ahead: Outlook, key: str) -> dict[str, float]:
    """Return what each side of a school comes to: working hours in which a coat may go on, from now on, of a surface in the mean.

    Of surfaces that nothing holds up; empty for a school that does not decide on hours, or where all are held up.
    """
    rows = [row for row, rules in enumerate(ahead.rules) if not (rules.site and rules.site.held_by)]
    if key not in SCHOOLS_OF_HOURS or not rows:
        return {}
    knowledge, own, schools = scope.knowledge, rules_of(job), schools_of(scope, job)

    def reckoned() -> dict[str, float]:
        climate, working = ahead.windows.climate.of_surfaces(rows), working_hours(ahead, own)
        working[: ahead.step_at(scope.clock.now())] = False
        products, hours = [ahead.windows.products[r] for r in rows], {}
        for option in knowledge.systems.schools[key].options:
            said = house_rules(own, knowledge, {**schools, key: option})
            limits = [
                replace(ahead.rules[r], sun_rule=said.sun_rule, young_share=said.young_share, is_cold_school=said.is_cold_school)
                for r in rows
            ]
            states = find_windows_each(climate, products, limits).also(ahead.windows.check(FILM_RISK).of_rows(rows)).states
            hours[option] = float((states[:, working] != SHUT).sum()) * climate.grid.step_s / 3600 / len(rows)
        return hours

    day, quarter = (own.day_starts_h, own.day_ends_h, own.works_sundays), scope.clock.now().minute // 15
    return scope.cached(("school hours", ahead.key, key, day, tuple(sorted(schools.items())), quarter), reckoned)

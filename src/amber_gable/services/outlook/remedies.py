"""What would make an hour of a wall better on this job: paint on the shelf, another way, another rule, another wall."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from amber_gable.core.coat.products import candidates
from amber_gable.core.knowledge import Knowledge, Product
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.windows import OPEN, SHUT, HouseRules
from amber_gable.core.windows.remedies import Remedy, Trial, better_rows, remedies
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.jobs.rules import JobRules
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.systems.specs import specs_of
from amber_gable.store.models import Job

# What a towel and a fan dry in half an hour (handbook 3).
_SMALL = ("door", "garage-door", "shutter", "window", "railing")
_MOST_WALLS = 3
_BOLDER_RAIN_PCT = assumed("bolder_rain_pct")


@dataclass(frozen=True)
class Better:
    """Remedies for an hour that is not open.

    Parameters
    ----------
    remedies : list of Remedy
    walls : list of (surface id, name, state)
        That stand better at the same moment.
    opens_at : datetime or None
        When the wall itself is not shut any more.
    """

    remedies: list[Remedy]
    walls: list[tuple[str, str, int]]
    opens_at: datetime | None


def better(scope: Scope, job: Job, ahead: Outlook, surface_id: str, step: int) -> Better:
    """Return what would make an hour of a wall better; nothing where it is open already."""
    row = ahead.row(surface_id)
    assert row is not None, "every painted surface has a row"
    states = ahead.windows.states
    if states[row, step] == OPEN:
        return Better([], [], None)
    product = ahead.windows.products[row]
    rules = outlooks.rules_each(scope, job)[surface_id]
    offers = remedies(ahead.windows.climate, row, step, product, rules, list(_trials(scope, job, surface_id, product, rules)))
    names = {s.id: s.name for s in outlooks.painted_surfaces(job)}
    walls = [(ahead.surface_ids[r], names[ahead.surface_ids[r]], int(states[r, step])) for r in better_rows(states, row, step)]
    later = np.flatnonzero(states[row, step:] != SHUT)
    opens = ahead.local(step + int(later[0])) if states[row, step] == SHUT and len(later) else None
    return Better(offers, walls[:_MOST_WALLS], opens)


def _trials(scope: Scope, job: Job, surface_id: str, product: Product, rules: HouseRules) -> Iterator[Trial]:
    knowledge, own = scope.knowledge, rules_of(job)
    spec = next(s for s in specs_of(scope, job) if surface_id in s.part.surfaces)
    if spec.part.facts.kind in _SMALL:
        yield Trial("towel", "towelled dry and fanned for half an hour before", is_towelled=True)
    family = product.family
    for other in candidates(knowledge, family, spec.part.facts):
        if other != product:
            yield Trial("product", f"{other.name} instead", product=other)
    yield from _other_ways(knowledge, own, rules)
    if rules.sun_rule == "shade":
        capped = replace(rules, sun_rule="surface-cap")
        yield Trial("rule", "the surface cap decides, instead of following the shade", rules=capped, school=2)
    if rules.max_rain_probability_pct < _BOLDER_RAIN_PCT:
        label = f"a chance of rain of {_BOLDER_RAIN_PCT:g} % taken instead of {rules.max_rain_probability_pct:g}"
        yield Trial("rule", label, rules=replace(rules, max_rain_probability_pct=_BOLDER_RAIN_PCT))


def _other_ways(knowledge: Knowledge, own: JobRules, rules: HouseRules) -> Iterator[Trial]:
    """Yield ways that stand more wind: the brush instead of the gun, the ground instead of a ladder."""
    if own.method == "sprayer":
        wind = knowledge.access[own.access].max_wind_m_s
        calm = replace(rules, max_wind_m_s=max(wind, rules.max_wind_m_s), site=replace(rules.site, spray=None) if rules.site else None)
        yield Trial("method", "rolled or brushed instead of sprayed", rules=calm)
    ground = knowledge.access["ground"].max_wind_m_s
    if own.method != "sprayer" and ground > rules.max_wind_m_s:
        yield Trial("access", "what is reached from the ground", rules=replace(rules, max_wind_m_s=ground))

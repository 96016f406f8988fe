"""What the papers of a job hold: proposal, work order, material order, change order, workbook."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta
from itertools import groupby
from typing import Any
from zoneinfo import ZoneInfo

from markupsafe import Markup

from amber_gable.core.knowledge import Exclusion, Knowledge
from amber_gable.drawing.house.building import DrawnSurface, Look
from amber_gable.drawing.paint.wear import Wear
from amber_gable.drawing.sheet import house_sheet
from amber_gable.drawing.tokens import token
from amber_gable.exchange.workbook import Bill
from amber_gable.services.app.scope import Scope
from amber_gable.services.office import extras, revisions
from amber_gable.services.office.letterhead import lines_of
from amber_gable.services.planning.schedules import first_day
from amber_gable.services.survey.around import features
from amber_gable.services.systems.cards import hazards_of, told_to_owner
from amber_gable.services.systems.colours import candidates_of, colours_of
from amber_gable.services.systems.samples import samples_of
from amber_gable.services.systems.specs import Spec
from amber_gable.services.takeoff import alternatives, assumed, ranges
from amber_gable.services.takeoff.access import reached
from amber_gable.services.takeoff.job import JobTakeoff, PartTakeoff, job_takeoff
from amber_gable.services.takeoff.spray import spray_plan
from amber_gable.store.models import Job
from amber_gable.units import show_date
from amber_gable.web.templating import shower, writer
from amber_gable.web.views.drawn import drawn_house
from amber_gable.web.views.office import price as price_words
from amber_gable.web.views.office import takeoff as takeoff_words
from amber_gable.web.views.survey.printed import scale_bar

# A third of a page: the views side by side where they can be.
_ROOM_PX = 330.0
_MATERIAL = {"roof": token("roof"), "plinth": token("masonry"), "chimney": token("masonry")}


def coloured_sheet(job: Job, specs: Sequence[Spec], knowledge: Knowledge) -> Markup:
    """Return every view of the house in its new colours, to scale."""
    hue = {key: spec.part.facts.new_hex for spec in specs for key in (spec.part.key, *spec.part.surfaces)}

    def look(surface: DrawnSurface) -> Look:
        fill = hue.get(surface.id) or _MATERIAL.get(surface.kind, token("white"))
        return Look("none" if surface.kind == "railing" else fill, surface.name)

    def opening(_elevation: str, kind: str) -> str | None:
        part = "shutters" if kind == "shutter" else "windows" if knowledge.openings[kind].has_panes else ""
        return hue.get(part)

    trim = {e.id: colour for e in job.building.elevations if (colour := hue.get("trim"))}
    return Markup(house_sheet(drawn_house(job, knowledge), "", {}, scale_bar(job), look, Wear(opening, trim), _ROOM_PX))


def _shared(scope: Scope, job: Job) -> dict[str, Any]:
    """Return what every paper has."""
    knowledge = scope.knowledge
    takeoff = job_takeoff(scope, job)
    today = scope.clock.now().astimezone(ZoneInfo(job.time_zone)).date()
    locale = knowledge.money.locale

    def day(offset: int = 0) -> str:
        return show_date(today + timedelta(days=offset), locale)

    return {
        "job": job, "owner": scope.owner, "letterhead": lines_of(scope.owner.letterhead),
        "knowledge": knowledge, "takeoff": takeoff, "money": writer(scope),
        "show": shower(scope), "system": job.units, "day": day, "words": takeoff_words, "said": price_words,
        "specs": [p.spec for p in takeoff.parts], "sheet": coloured_sheet(job, [p.spec for p in takeoff.parts], knowledge),
    }  # fmt: skip


def exclusions(specs: Sequence[Spec], knowledge: Knowledge) -> list[Exclusion]:
    """Return what the price does not hold, by what is painted."""
    there = {knowledge.substrates[s.part.facts.substrate].family for s in specs}
    return [row for row in knowledge.exclusions.values() if not row.families or there & set(row.families)]


@dataclass(frozen=True)
class Painted:
    """Parts that take the same paints in the same colour: what goes on, coat by coat."""

    parts: tuple[str, ...]
    area_m2: float
    coats: tuple[str, ...]
    hex: str | None


def painted(takeoff: JobTakeoff, knowledge: Knowledge) -> list[Painted]:
    """Return what is painted with what, parts alike taken together; two coats of one paint are said once."""
    alike: dict[tuple[tuple[str, ...], str | None], list[PartTakeoff]] = {}
    for part in takeoff.parts:
        if part.lines:
            alike.setdefault((_coat_words(part, knowledge), part.spec.part.facts.new_hex), []).append(part)
    return [
        Painted(tuple(p.name for p in parts), sum(p.net_area_m2 for p in parts), coats, colour) for (coats, colour), parts in alike.items()
    ]


def _coat_words(part: PartTakeoff, knowledge: Knowledge) -> tuple[str, ...]:
    said: list[tuple[str, str]] = []
    for line in part.lines:
        sheen = f", {line.sheen.replace('-', ' ')}" if line.sheen else ""
        said.append((line.label.split(":")[0], f"{knowledge.products[line.product].name}{sheen}"))
    words = []
    for product, group in groupby(said, key=lambda pair: pair[1]):
        labels = [label for label, _ in group]
        words.append(f"{labels[0]}{''.join(f' and {label.lower()}' for label in labels[1:])}: {product}")
    return tuple(words)


def prepared(takeoff: JobTakeoff) -> list[tuple[list[str], tuple[str, ...]]]:
    """Return what is done before anything goes on, parts alike taken together."""
    prepared_parts: dict[tuple[str, ...], list[str]] = {}
    for part in takeoff.parts:
        steps = tuple(s.label for s in part.spec.system.steps if not s.family)
        if part.lines and steps:
            prepared_parts.setdefault(steps, []).append(part.name)
    return [(names, steps) for steps, names in prepared_parts.items()]


@dataclass(frozen=True)
class ColourLine:
    """A colour in one line: the zone, the name on the card where one is known, its sheen, and who approved it."""

    zone: str
    hex: str | None
    name: str
    sheen: str
    approved_by: str


def colour_lines(scope: Scope, job: Job, specs: Sequence[Spec]) -> list[ColourLine]:
    """Return the colours of a house by zone, as an owner reads them."""
    names = {c.hex: c.code for c in candidates_of(scope, job.id)}
    found = colours_of(scope, specs, samples_of(scope, job.id))
    return [ColourLine(c.zone, c.hex, names.get(c.hex or "", ""), c.sheen.replace("-", " "), c.approved_by) for c in found]


def proposal_values(scope: Scope, job: Job) -> dict[str, Any]:
    """Return what a proposal says: scope, systems, what the owner is told beforehand, price, payment, signatures."""
    values = _shared(scope, job)
    takeoff: JobTakeoff = values["takeoff"]
    specs: list[Spec] = values["specs"]
    standing = revisions.standing(scope, job)
    return values | {
        "colours": colour_lines(scope, job, specs), "rests_on": assumed.rests_on(scope, job, takeoff, is_for_owner=True),
        "painted": painted(takeoff, scope.knowledge), "number": standing.number, "prepared": prepared(takeoff),
        "to_owner": lambda hazard: scope.knowledge.systems.cautions[hazard.caution.key].to_owner or hazard.caution.text,
        "told": told_to_owner(specs, scope.knowledge), "hazards": hazards_of(specs, scope.knowledge),
        "exclusions": exclusions(specs, scope.knowledge), "warranties": price_words.warranties(takeoff, scope.knowledge),
        "range": ranges.range_of(scope, job), "others": alternatives.alternatives(scope, job),
        "besides": extras.signed(extras.extras_of(scope, job.id), scope.knowledge),
    }  # fmt: skip


def work_values(scope: Scope, job: Job) -> dict[str, Any]:
    """Return what a crew needs to know, without a price."""
    values = _shared(scope, job)
    specs = values["specs"]
    return values | {
        "hazards": hazards_of(specs, scope.knowledge), "reached": reached(scope, job, specs, first_day(scope, job)),
        "kept_off": features.kept_off(job), "plan": spray_plan(job, values["takeoff"], scope.knowledge),
        "unsigned": extras.unsigned(extras.extras_of(scope, job.id)),
    }  # fmt: skip


def material_values(scope: Scope, job: Job) -> dict[str, Any]:
    """Return what the counter reads: lots, sundries, hire, and by when."""
    first = first_day(scope, job)
    return _shared(scope, job) | {"needed_by": show_date(first, scope.knowledge.money.locale) if first else ""}


def change_values(scope: Scope, job: Job) -> dict[str, Any]:
    """Return what a change order says."""
    return _shared(scope, job) | {"standing": revisions.standing(scope, job)}


PAPERS: Mapping[str, tuple[str, str, str, Callable[[Scope, Job], dict[str, Any]]]] = {
    "proposal": ("Proposal", "For the owner: drawing in its colours, scope, systems, what to know beforehand, price, signatures.",
                 "papers/proposal.html", proposal_values),
    "work-order": ("Work order", "For the crew: every part step by step, ladders, tools, cautions. No prices.", "papers/work_order.html",
                   work_values),
    "material-order": ("Material order", "For the counter: cans by lot and colour, sundries; at cost.", "papers/material_order.html",
                       material_values),
}  # fmt: skip


def bill_of(scope: Scope, job: Job) -> Bill:
    """Return what the workbook holds."""
    takeoff, knowledge = job_takeoff(scope, job), scope.knowledge
    hours = [(p.name, step.label, p.spec.works[step.key]) for p in takeoff.parts for step in p.spec.system.steps]
    return Bill(
        job=job.name, lots=takeoff.lots, sundries=takeoff.sundries, hours=hours, days=takeoff.days,
        hire=sum(h.price for h in takeoff.hires), price=takeoff.price, money=knowledge.money, practice=knowledge.practice,
    )  # fmt: skip

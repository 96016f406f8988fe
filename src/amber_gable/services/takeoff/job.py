"""The take-off of a job: every coat of every part, lots and packs, sundries, hours, days and the price."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from amber_gable.core.knowledge import Knowledge, Phase
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.planning.work import WorkTask
from amber_gable.core.price.hire import access_in
from amber_gable.core.price.price import Costs, Price, cents, price_of
from amber_gable.core.systems.specify import Step
from amber_gable.core.takeoff import Measured, spread_of
from amber_gable.core.takeoff.days import Days, days_of
from amber_gable.core.takeoff.lots import Line, Lot, Stocked, lots_of
from amber_gable.core.takeoff.sundries import Carried, Doing, SundryLine, applicators, carried, cost, used_up
from amber_gable.core.takeoff.ways_up import WallPlan, hire_of, moving_h
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.systems.specs import Spec, house_of, specs_of
from amber_gable.services.takeoff.access import access_plan
from amber_gable.services.takeoff.tasks import tasks_in
from amber_gable.store import queries
from amber_gable.store.models import Job


@dataclass(frozen=True)
class PartTakeoff:
    """Take-off of one part: its areas, coats and hours."""

    spec: Spec
    lines: tuple[Line, ...]

    @property
    def name(self) -> str:
        return self.spec.part.name

    @property
    def measured(self) -> Measured | None:
        return self.spec.part.measured

    @property
    def net_area_m2(self) -> float:
        return self.spec.part.extent.area_m2

    @property
    def uptake_m2(self) -> float:
        extent = self.spec.part.extent
        return extent.area_m2 * extent.profile * extent.texture

    @property
    def coats(self) -> int:
        return self.spec.system.coats

    @property
    def litres_per_coat(self) -> float:
        """Return litres of the last coat of the finish: what the eye sees."""
        finish = {step.key for step in self.spec.system.steps if step.phase is Phase.COAT}
        return next((line.litres for line in reversed(self.lines) if line.step in finish), 0.0)

    @property
    def litres_total(self) -> float:
        return sum(line.litres for line in self.lines)

    @property
    def hours(self) -> float:
        return sum(work.hours for work in self.spec.works.values())


@dataclass(frozen=True)
class Hire:
    """A way up that is hired."""

    access: str
    label: str
    days: int
    price: float
    lead_days: int


@dataclass(frozen=True)
class JobTakeoff:
    """All that a job takes and costs."""

    parts: tuple[PartTakeoff, ...]
    lots: tuple[Lot, ...]
    sundries: tuple[SundryLine, ...]
    tools: tuple[Carried, ...]
    walls: tuple[WallPlan, ...]
    hires: tuple[Hire, ...]
    days: Days
    price: Price
    # The same work as the schedule has: step by step, side by side.
    tasks: tuple[WorkTask, ...]

    @property
    def by_surface(self) -> dict[str, PartTakeoff]:
        return {p.spec.part.key: p for p in self.parts if p.spec.part.surfaces}

    @property
    def net_area_m2(self) -> float:
        return sum(p.net_area_m2 for p in self.parts)

    @property
    def litres_total(self) -> float:
        return sum(lot.litres for lot in self.lots)

    @property
    def reserve_l(self) -> float:
        return sum(lot.reserve_l for lot in self.lots)

    @property
    def paint_price(self) -> float:
        return sum(lot.price for lot in self.lots)

    @property
    def hours_by_kind(self) -> dict[str, float]:
        """Painter-hours by kind of work, in the order it is done."""
        out = dict.fromkeys(WORK_KINDS, 0.0)
        for task in self.tasks:
            out[kind_of(task)] += task.hours
        return {kind: hours for kind, hours in out.items() if hours > 0.005}


_KIND_OF: Mapping[Phase, str] = {
    Phase.CLEAR: "Clear and take down", Phase.CLEAN: "Clean and wash", Phase.PROVE: "Clean and wash", Phase.MEND: "Scrape, repair, sand",
    Phase.CAULK: "Caulk and mask", Phase.MASK: "Caulk and mask", Phase.PRIME: "Prime", Phase.COAT: "Coats", Phase.SEAL: "Coats",
    Phase.UNMASK: "Inspect, put back", Phase.INSPECT: "Inspect, put back", Phase.PUT_BACK: "Inspect, put back",
}  # fmt: skip
UNDER_RULES, RULES_STEPS = "Under lead or asbestos rules", "rules-"
_FIRST, *_THEN = dict.fromkeys(_KIND_OF.values())
# Notice and containment come before anything is broken into.
WORK_KINDS = (_FIRST, UNDER_RULES, *_THEN)


def kind_of(work: Step | WorkTask) -> str:
    """Return the kind of work that a step or a task belongs to."""
    if (work.key if isinstance(work, Step) else work.step).startswith(RULES_STEPS):
        return UNDER_RULES
    is_coat = bool(work.family) if isinstance(work, Step) else work.is_coat
    # What seals or stabilises a ground goes on while it is mended, and is paint all the same.
    return _KIND_OF[max(work.phase, Phase.PRIME, key=lambda p: p.order) if is_coat else work.phase]


# Consumables that only work under the rules takes.
_RULES_USES = ("containment-sheet", "wipes", "waste-bags")


@dataclass(frozen=True)
class UnderRules:
    """Share of a job that work under lead or asbestos rules makes: painter-hours and money, within the price."""

    hours: float
    money: Decimal


def under_rules(takeoff: JobTakeoff, knowledge: Knowledge) -> UnderRules:
    """Return what notice, containment, wet methods, cleaning, verification and waste come to on a job; nothing where none is needed."""
    hours = sum(t.hours for t in takeoff.tasks if t.step.startswith(RULES_STEPS))
    bought = sum(float(line.price) for line in takeoff.sundries if line.key in _RULES_USES)
    return UnderRules(hours, cents(hours * knowledge.money.labour_per_h + bought))


def lines_of(spec: Spec, knowledge: Knowledge) -> tuple[Line, ...]:
    """Return the coats of one part with their paint."""
    lines = []
    for step in spec.system.steps:
        need = next((n for n in spec.works[step.key].needs if n.paint), None)
        if need is None or need.paint is None or need.paint.area_m2 <= 0:
            continue
        product = knowledge.products[need.key]
        colour = _colour(spec, knowledge, need.key)
        lines.append(
            Line(spec.part.key, spec.part.name, step.key, step.label, need.key, colour, product.sheen, need.paint, spread_of(product))
        )
    return tuple(lines)


def _colour(spec: Spec, knowledge: Knowledge, product_key: str) -> str:
    """Return the tint that a coat is bought in: finishes in the new colour, primers where they are tinted toward it."""
    product = knowledge.products[product_key]
    role = knowledge.systems.families[product.family].role
    hex_code = spec.part.facts.new_hex or ""
    if role == "finish" and not product.colours.startswith("clear"):
        return hex_code
    is_tinted = bool(spec.system.value("tint")) and "tint" in product.colours
    return hex_code if role in ("primer", "undercoat") and is_tinted else ""


def doings_of(specs: Sequence[Spec]) -> list[Doing]:
    """Return every step on every part."""
    return [
        Doing(spec.part.key, spec.part.name, step, spec.works[step.key], spec.part.facts, spec.method)
        for spec in specs
        for step in spec.system.steps
    ]


def stock_for(scope: Scope, job: Job) -> list[Stocked]:
    """Return the paint that is kept for a job."""
    with scope.reading() as session:
        rows = queries.stock(session, scope.contractor_id)
    return [Stocked(r.id, r.product, r.colour, r.litres, r.batch, r.place) for r in rows if r.job_id == job.id and not r.state]


def take_off(
    job: Job, specs: Sequence[Spec], stock: Sequence[Stocked], knowledge: Knowledge, painters: int | None = None,
    access: str = "",
) -> JobTakeoff:  # fmt: skip
    """Return the take-off of a job from the specifications of its parts.

    Notes
    -----
    A function of its arguments: what-ifs and alternatives call it with other specifications.
    """
    crew = painters or rules_of(job).painters
    parts = tuple(PartTakeoff(spec, lines_of(spec, knowledge)) for spec in specs)
    doings = doings_of(specs)
    lots = lots_of([line for part in parts for line in part.lines], stock, knowledge)
    sundries = (*used_up(doings, knowledge), *applicators(doings, crew, knowledge))
    walls, ways = access_plan(job, specs, knowledge, access), access_in(knowledge, job.country, shipped().access)
    hires = tuple(
        Hire(key, knowledge.access[key].label, days, money, knowledge.access[key].lead_days)
        for key, (days, money) in hire_of(walls, ways, knowledge.practice, crew).items()
    )
    tasks = tasks_in(job, specs, knowledge)
    days = days_of(sum(task.hours for task in tasks), moving_h(walls, knowledge.access, knowledge.practice), crew, knowledge.practice)
    costs = Costs(sum(lot.price for lot in lots), cost(sundries), sum(h.price for h in hires), days.hours)
    return JobTakeoff(parts, lots, sundries, tuple(carried(doings, knowledge)), walls, hires, days, price_of(costs, knowledge.money), tasks)


def job_takeoff(scope: Scope, job: Job) -> JobTakeoff:
    """Return the take-off of a job as it stands."""
    return scope.cached(
        ("take-off", *house_of(scope, job)), lambda: take_off(job, specs_of(scope, job), stock_for(scope, job), scope.knowledge)
    )


def litres_by_product(lots: Sequence[Lot]) -> Mapping[str, float]:
    """Return litres of each product by its name, the most first."""
    out: dict[str, float] = {}
    for lot in lots:
        out[lot.product.name] = out.get(lot.product.name, 0.0) + lot.litres
    return dict(sorted(out.items(), key=lambda pair: -pair[1]))

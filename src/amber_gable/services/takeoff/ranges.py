"""Range of a price: what is not known of a job yet, each by what the price would be at either end of it.

Not here: how ranges add up (core.price.range), alternatives that one may take (alternatives).
"""

from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.knowledge.phases import Phase
from amber_gable.core.price.range import Driver, PriceRange, price_range
from amber_gable.core.price.unknowns import PartWork, unknowns
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.systems.specs import AsIf, Spec, house_of
from amber_gable.services.takeoff.alternatives import take_off_as_if
from amber_gable.services.takeoff.job import JobTakeoff, job_takeoff
from amber_gable.store import queries
from amber_gable.store.models import Job
from amber_gable.units import convert

_PACED = assumed("paced_share")
_MEASURED = assumed("measured_share")
# Metres of board, and pieces of rot, that turn up on wood in this state (our assumption).
_HIDDEN = {"good": (0.0, 1.0), "fair": (2.0, 2.0), "poor": (8.0, 5.0)}
_GRADES = ("good", "fair", "poor")


def range_of(scope: Scope, job: Job) -> PriceRange:
    """Return low, likely and high for a job, by what is not known of it yet."""
    return scope.cached(("range", *house_of(scope, job)), lambda: _range(scope, job))


def _part_work(spec: Spec) -> PartWork:
    hours = {key: work.hours for key, work in spec.works.items()}
    before = {s.key for s in spec.system.steps if s.phase.order < Phase.PRIME.order}
    preparation = sum(h for key, h in hours.items() if key in before)
    extent = spec.part.extent
    return PartWork(spec.part.name, spec.part.facts, preparation, sum(hours.values()), extent.area_m2, extent.high_share)


def _range(scope: Scope, job: Job) -> PriceRange:
    now = job_takeoff(scope, job)
    likely = float(now.price.total)

    def total(as_if: AsIf) -> float:
        return float(take_off_as_if(scope, job, as_if).price.total)

    knowledge = scope.knowledge
    share = _PACED if job.building.is_quick else _MEASURED
    words = "Paced and counted, not measured" if job.building.is_quick else "Lengths, measured within 1 %"
    drivers = [Driver("size", words, total(AsIf(scale=1 - share)), total(AsIf(scale=1 + share)))]
    grade = _grade(scope, job)
    if job.building.is_quick and grade:
        worse, better = total(AsIf(grade=_step(grade, 1))), total(AsIf(grade=_step(grade, -1)))
        drivers.append(Driver("condition", "Condition a grade better or worse", better, worse))
    drivers += _left_open(scope, job, now, likely)
    coats = max((p.coats for p in now.parts), default=2)
    if job.building.is_quick and coats < 4 and now.parts:
        rules = rules_of(job).model_copy(update={"coats": coats + 1})
        drivers.append(Driver("colour", "A colour that needs a coat more", likely, total(AsIf(rules))))
    if any(p.spec.part.facts.lead == "closed" for p in now.parts):
        drivers.append(Driver("lead", "Lead counts as there until tests clear it", min(total(AsIf(lead_cleared=True)), likely), likely))
    boards, rot = _HIDDEN[grade or "fair"]
    if any(knowledge.substrates[p.spec.part.facts.substrate].family == "wood" for p in now.parts):
        hidden = boards * knowledge.unit_prices["board"].price + rot * knowledge.unit_prices["rot"].price
        length = f"{convert(boards, 'm', 'ft'):.0f} ft" if job.units == "us" else f"{boards:g} m"
        drivers.append(Driver("hidden", f"Hidden damage: {length} of board, {rot:g} places of rot", likely, likely + hidden))
    return price_range(likely, drivers)


def _left_open(scope: Scope, job: Job, now: JobTakeoff, likely: float) -> list[Driver]:
    """Return the drivers that a survey leaves open: pace, height, tests, coatings, age, hire."""
    mark = float(now.price.total / now.price.direct) if now.price.direct else 1.0
    hired = ", ".join(h.label.lower() for h in now.hires)
    parts = [_part_work(p.spec) for p in now.parts]
    found = unknowns(
        parts,
        job.year_built,
        scope.clock.now().year,
        sum(h.price for h in now.hires),
        hired,
        scope.knowledge.money.labour_per_h,
        job.units,
    )
    return [Driver(u.key, u.label, likely - u.less * mark, likely + u.more * mark) for u in found]


def _step(grade: str, by: int) -> str:
    return _GRADES[min(max(_GRADES.index(grade) + by, 0), 2)]


def _grade(scope: Scope, job: Job) -> str:
    """Return the worst grade that was given: the worst wall decides the price; empty where nobody graded it."""
    with scope.reading() as session:
        given = {a.answer for a in queries.walk_answers(session, job.id) if a.question == "grade"}
    return next((grade for grade in reversed(_GRADES) if grade in given), "")

"""What if: the same job by another method, with a coat more, without its shutters; side by side with years and cost a year."""

from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal

from amber_gable.core.coat.lives import lasting, mean_years
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.price.range import Driver, PriceRange, price_range
from amber_gable.errors import NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.systems.specs import AsIf, specs_as_if, specs_of, state_of
from amber_gable.services.takeoff.job import JobTakeoff, job_takeoff, stock_for, take_off
from amber_gable.store import queries
from amber_gable.store.models import Job

_PACED = assumed("paced_share")
_MEASURED = assumed("measured_share")
_HOURS = assumed("hours_share")
# Metres of board, and pieces of rot, that turn up on wood in this state (our assumption).
_HIDDEN = {"good": (0.0, 1.0), "fair": (2.0, 2.0), "poor": (8.0, 5.0)}


@dataclass(frozen=True)
class Alternative:
    """One way to do the job.

    Parameters
    ----------
    key, label : str
    litres, hours : float
    days : int
    total : Decimal
    years : float
        To the next coat.
    is_now : bool
        As the job stands.
    can_be_taken : bool
        One click makes it so.
    caution : str
        What the owner is told with it.
    """

    key: str
    label: str
    litres: float
    hours: float
    days: int
    total: Decimal
    years: float
    is_now: bool = False
    can_be_taken: bool = True
    caution: str = ""

    @property
    def per_year(self) -> float:
        return float(self.total) / self.years if self.years else float(self.total)


_METHODS = (("roll", "Brush and roller", "roller", ""), ("spray", "Sprayed", "sprayer", ""),
            ("spray-back-roll", "Sprayed and back-rolled", "sprayer", "back-roll"))  # fmt: skip

_SPRAYED = "Drift decides the hours: calm air, cars and plants covered, an injection by the gun is a surgical emergency."
_CAUTIONS = {
    "spray": _SPRAYED,
    "spray-back-roll": _SPRAYED,
    "one-less": "Less than two thin coats: the label may ask for more, and our warranty falls away.",
}


def _variants(scope: Scope, job: Job) -> Iterator[tuple[str, str, AsIf, bool]]:
    rules = rules_of(job)
    now = specs_of(scope, job)
    for key, label, method, technique in _METHODS:
        if (method, technique) != (rules.method, rules.technique):
            yield key, label, AsIf(rules.model_copy(update={"method": method, "technique": technique})), True
    of_walls = [s.system.coats for s in now if s.part.facts.kind in ("wall", "gable")]
    coats = max(of_walls or [s.system.coats for s in now], default=2)
    if coats < 4:
        yield "one-more", f"Better: {coats + 1} coats", AsIf(rules.model_copy(update={"coats": coats + 1})), True
    if coats > 1:
        yield "one-less", f"Cheaper: {coats - 1} coat{'s' if coats > 2 else ''}", AsIf(rules.model_copy(update={"coats": coats - 1})), True
    for part, words in (("shutters", "Without the shutters"), ("windows", "Without the windows"), ("trim", "Without trim and soffits")):
        if any(s.part.key == part for s in now):
            yield f"without-{part}", words, AsIf(without=(part,)), False


def _alternative(scope: Scope, key: str, label: str, takeoff: JobTakeoff, can_be_taken: bool, is_now: bool = False) -> Alternative:
    lives = [
        (lasting(p.spec.part.facts, p.spec.system.primer, p.spec.system.coats, scope.knowledge), p.net_area_m2)
        for p in takeoff.parts
        if p.lines
    ]
    return Alternative(
        key,
        label,
        takeoff.litres_total,
        takeoff.days.hours,
        takeoff.days.days,
        takeoff.price.total,
        mean_years(lives),
        is_now,
        can_be_taken,
        _CAUTIONS.get(key, ""),
    )


def take_off_as_if(scope: Scope, job: Job, as_if: AsIf) -> JobTakeoff:
    """Return the take-off of a job as it might be."""
    return take_off(job, specs_as_if(scope, job, as_if), stock_for(scope, job), scope.knowledge)


def alternatives(scope: Scope, job: Job) -> list[Alternative]:
    """Return the job as it stands and what else it could be."""
    return scope.cached(("alternatives", *state_of(scope, job)), lambda: _alternatives(scope, job))


def _alternatives(scope: Scope, job: Job) -> list[Alternative]:
    rules = rules_of(job)
    words = next((label for _, label, method, technique in _METHODS if (method, technique) == (rules.method, rules.technique)), "")
    label = f"As it stands: {(words or scope.knowledge.methods[rules.method].label).lower()}"
    alternatives = [_alternative(scope, "now", label, job_takeoff(scope, job), False, True)]
    for key, name, as_if, can_be_taken in _variants(scope, job):
        other = _alternative(scope, key, name, take_off_as_if(scope, job, as_if), can_be_taken)
        # What comes to the same is no alternative: nothing here is back-rolled, or can do with a coat less.
        if all((other.total, other.litres) != (seen.total, seen.litres) for seen in alternatives):
            alternatives.append(other)
    return alternatives


def take(scope: Scope, job: Job, key: str) -> None:
    """Make the job what an alternative says.

    Raises
    ------
    NotFoundError
        If there is none of that name that can be taken.
    """
    variant = next((v for v in _variants(scope, job) if v[0] == key and v[3]), None)
    if variant is None or variant[2].rules is None:
        raise NotFoundError("This alternative is not there (any more).")
    with changing(scope, variant[1].lower(), job.id) as change:
        row = change.whole_job()
        change.update(row, {"rules": variant[2].rules.model_dump()})


def range_of(scope: Scope, job: Job) -> PriceRange:
    """Return low, likely and high for a job, by what is not known of it yet."""
    return scope.cached(("range", *state_of(scope, job)), lambda: _range(scope, job))


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
        drivers.append(
            Driver(
                "condition", "Condition a grade better or worse", total(AsIf(grade=_step(grade, -1))), total(AsIf(grade=_step(grade, 1)))
            )
        )
    hours = now.days.hours * _HOURS * knowledge.money.labour_per_h
    mark = float(now.price.total / now.price.direct) if now.price.direct else 1.0
    drivers.append(Driver("pace", "Pace of the work", likely - hours * mark, likely + hours * mark))
    coats = max((p.coats for p in now.parts), default=2)
    if job.building.is_quick and coats < 4 and now.parts:
        rules = rules_of(job).model_copy(update={"coats": coats + 1})
        drivers.append(Driver("colour", "A colour that needs a coat more", likely, total(AsIf(rules))))
    boards, rot = _HIDDEN[grade or "fair"]
    if any(knowledge.substrates[p.spec.part.facts.substrate].family == "wood" for p in now.parts):
        hidden = boards * knowledge.unit_prices["board"].price + rot * knowledge.unit_prices["rot"].price
        drivers.append(Driver("hidden", f"Hidden damage: {boards:g} m of board, {rot:g} places of rot", likely, likely + hidden))
    return price_range(likely, drivers)


_GRADES = ("good", "fair", "poor")


def _step(grade: str, by: int) -> str:
    return _GRADES[min(max(_GRADES.index(grade) + by, 0), 2)]


def _grade(scope: Scope, job: Job) -> str:
    """Return the worst grade that was given: the worst wall decides the price; empty where nobody graded it."""
    with scope.reading() as session:
        given = {a.answer for a in queries.walk_answers(session, job.id) if a.question == "grade"}
    return next((grade for grade in reversed(_GRADES) if grade in given), "")

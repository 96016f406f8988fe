"""What if: the same job by another method, with a coat more, without its shutters; side by side with years and cost a year."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal

from amber_gable.core.coat.lives import lasting, mean_years
from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.survey.around.features import suggestion
from amber_gable.services.systems.specs import AsIf, Spec, grade_of, house_of, specs_as_if, specs_of
from amber_gable.services.takeoff.access import reached
from amber_gable.services.takeoff.job import JobTakeoff, job_takeoff, stock_for, take_off
from amber_gable.store.models import Job


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
    yield from _ways(scope, job, now)
    for more in (1, -1):
        if rules.painters + more >= 1:
            crew = rules.painters + more
            label = f"{crew} painter{'s' if crew != 1 else ''} instead of {rules.painters}"
            yield f"crew-{crew}", label, AsIf(rules.model_copy(update={"painters": crew})), True
    for grade, words in (("premium", "Premium paint"), ("economy", "Economy paint")):
        chosen = _of_grade(now, grade, scope.knowledge)
        if chosen:
            yield grade, words, AsIf(rules.model_copy(update={"products": {**rules.products, **chosen}})), True
    for part, words in (("shutters", "Without the shutters"), ("windows", "Without the windows"), ("trim", "Without trim and soffits")):
        if any(s.part.key == part for s in now):
            yield f"without-{part}", words, AsIf(without=(part,)), False


def _ways(scope: Scope, job: Job, specs: Sequence[Spec]) -> Iterator[tuple[str, str, AsIf, bool]]:
    """Yield every single way up that serves all walls that are not reached from the ground."""
    for way in reached(scope, job, specs, None).ways:
        if way.serves:
            yield f"by-{way.access}", f"All of it by {way.label.lower()}", AsIf(access=way.access), True


def _of_grade(specs: Sequence[Spec], grade: str, knowledge: Knowledge) -> dict[str, str]:
    """Return, by family, the product of a grade that is on the shelf for what the job is coated with."""
    chosen = {}
    for spec in specs:
        for step, key in spec.products.items():
            product = knowledge.products[key]
            better = [k for k, p in knowledge.products.items() if p.family == product.family and p.grade == grade]
            if step.startswith("coat ") and product.grade != grade and better:
                chosen[product.family] = next((k for k in better if knowledge.products[k].sheen == product.sheen), better[0])
    return chosen


def _alternative(scope: Scope, key: str, label: str, takeoff: JobTakeoff, can_be_taken: bool, is_now: bool = False) -> Alternative:
    knowledge = scope.knowledge
    lives = [
        (lasting(p.spec.part.facts, p.spec.system, knowledge, grade_of(p.spec, knowledge)), p.net_area_m2) for p in takeoff.parts if p.lines
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
    painters = as_if.rules.painters if as_if.rules else None
    return take_off(job, specs_as_if(scope, job, as_if), stock_for(scope, job), scope.knowledge, painters, as_if.access)


def alternatives(scope: Scope, job: Job) -> list[Alternative]:
    """Return the job as it stands and what else it could be."""
    return scope.cached(("alternatives", *house_of(scope, job)), lambda: _alternatives(scope, job))


def _alternatives(scope: Scope, job: Job) -> list[Alternative]:
    rules = rules_of(job)
    words = next((label for _, label, method, technique in _METHODS if (method, technique) == (rules.method, rules.technique)), "")
    label = f"As it stands: {(words or scope.knowledge.methods[rules.method].label).lower()}"
    alternatives = [_alternative(scope, "now", label, job_takeoff(scope, job), False, True)]
    for key, name, as_if, can_be_taken in _variants(scope, job):
        other = _alternative(scope, key, name, take_off_as_if(scope, job, as_if), can_be_taken)
        # What comes to the same is no alternative: nothing here is back-rolled, or can do with a coat less.
        if all((other.total, other.litres, other.days) != (seen.total, seen.litres, seen.days) for seen in alternatives):
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
    if variant is None or not (variant[2].rules or variant[2].access):
        raise NotFoundError("This alternative is not there (any more).")
    with changing(scope, variant[1].lower(), job.id) as change:
        row = change.whole_job()
        if row.house_revision != job.house_revision:
            # It was reckoned of another job than this one now is.
            raise change.conflict(row, {})
        if variant[2].rules is None:
            for e in row.building.elevations:
                if (e.access or suggestion(row, e, scope.knowledge).access) != "ground":
                    change.follow(e, {"access": variant[2].access})
            return
        change.update(row, {"rules": variant[2].rules.model_dump()})

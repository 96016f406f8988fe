"""Specifications of a job: the system of each part, its products, what clashes, what it takes; and what a school would change."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from amber_gable.core.coat.products import Clash, choose_all, clashes
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.planning.waits import wait_words
from amber_gable.core.systems.estimate import NOTHING, Estimate, estimate
from amber_gable.core.systems.overrides import Edit, apply
from amber_gable.core.systems.specify import System, specify
from amber_gable.core.systems.work import Work, work_of
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.ownership import head_of
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.jobs.rules import JobRules
from amber_gable.services.systems.parts import Part, parts_of
from amber_gable.store import queries
from amber_gable.store.models import EditableRow, Job


@dataclass(frozen=True)
class Spec:
    """The system of one part as it will be done.

    Parameters
    ----------
    ruled : System
        As the rules say, without what was changed by hand.
    system : System
    products : mapping of str to str
        By step.
    warnings : tuple of str
        What the engine would say to the painter's changes.
    works : mapping of str to Work
        What each step comes to, by its key.
    method : str
        By which its coats go on.
    """

    part: Part
    ruled: System
    system: System
    products: Mapping[str, str]
    clashes: tuple[Clash, ...]
    warnings: tuple[str, ...]
    edits: tuple[Edit, ...]
    works: Mapping[str, Work]
    estimate: Estimate
    method: str = "roller"

    @property
    def is_blocked(self) -> bool:
        return any(s.blocked_by for s in self.system.steps)

    @property
    def summary(self) -> str:
        """Return what makes it a system of its own, in a few words."""
        steps = [s.label for s in self.system.steps if s.family]
        return "; ".join(steps)


@dataclass(frozen=True)
class Changed:
    """Difference that another set of schools makes on one part."""

    part: Part
    added: tuple[str, ...]
    removed: tuple[str, ...]
    coats: int
    settings: tuple[str, ...]


@dataclass(frozen=True)
class Difference:
    """Difference that another set of schools makes on the job."""

    parts: tuple[Changed, ...]
    labour_h: float
    days: float
    money: float


def schools_of(scope: Scope, job: Job) -> dict[str, str]:
    """Return the schools of a job that differ from the handbook's defaults: the contractor's, then its own."""
    own = scope.owner.house_rules.get("schools", {})
    schools = scope.knowledge.systems.schools
    chosen = {**own, **rules_of(job).schools}
    return {k: v for k, v in chosen.items() if k in schools and v in schools[k].options and v != schools[k].default}


def preferred_of(scope: Scope, job: Job, rules: JobRules | None = None) -> dict[str, str]:
    """Return the products that are taken where they fit, by family: the firm's, the job's label, the job's own.

    Parameters
    ----------
    rules : JobRules, optional
        In place of the job's own.
    """
    rules = rules or rules_of(job)
    chosen = scope.knowledge.products.get(rules.product)
    label = {chosen.family: rules.product} if chosen else {}
    return {**scope.owner.house_rules.get("products", {}), **label, **rules.products}


def _edits(scope: Scope, job: Job) -> dict[str, tuple[Edit, ...]]:
    with scope.reading() as session:
        return {c.part: tuple(Edit(**e) for e in c.edits) for c in queries.system_choices(session, job.id)}


def spec_of(scope: Scope, part: Part, edits: Sequence[Edit], preferred: Mapping[str, str]) -> Spec:
    """Return the specification of one part."""
    knowledge = scope.knowledge
    first = specify(part.facts, knowledge)
    products = choose_all(knowledge, first, part.facts, preferred)
    has_alkyd = any(knowledge.products[p].kind == "alkyd" for p in products.values())
    ruled = specify(part.facts, knowledge, has_alkyd=True) if has_alkyd else first
    system, warnings = apply(ruled, edits, part.facts, knowledge)
    products = {s.key: products[s.key] for s in system.steps if s.key in products}
    method = str(system.value("method", part.facts.method))
    works = {s.key: work_of(s, products.get(s.key, ""), part.extent, part.facts, method, knowledge, system) for s in system.steps}
    figure = estimate(system, products, works, knowledge)
    clashing = tuple(clashes(knowledge, system, part.facts, products))
    return Spec(part, ruled, system, products, clashing, warnings, tuple(edits), works, figure, method)


def state_of(scope: Scope, job: Job) -> tuple[object, ...]:
    """Return what changes whenever anything of this job does: the house, and what was said and planned."""
    return head_of(scope, job.id).revision, *house_of(scope, job)


def house_of(scope: Scope, job: Job) -> tuple[object, ...]:
    """Return what changes whenever a specification of this job may: the rows that were read, and all that was edited since."""
    building = job.building
    rows: list[EditableRow] = [job, building, *building.blocks, *building.items, *job.features]
    for e in building.elevations:
        rows += [e, *e.surfaces, *e.openings]
    return (
        job.id,
        head_of(scope, job.id).house_revision,
        scope.basis,
        scope.clock.now().year,
        hash(tuple((row.id, row.version) for row in rows)),
    )


def specs_of(scope: Scope, job: Job, schools: Mapping[str, str] | None = None) -> list[Spec]:
    """Return the specification of every part of a job.

    Parameters
    ----------
    schools : mapping of str to str, optional
        In place of the job's own, to see what they would change.
    """
    chosen = None if schools is None else tuple(sorted(schools.items()))
    return scope.cached(("specs", *house_of(scope, job), chosen), lambda: _specified(scope, job, schools))


@dataclass(frozen=True)
class AsIf:
    """A variant of a job: every field that is not given stays as it is.

    Parameters
    ----------
    rules : JobRules or None
    schools : mapping of str to str
        Sides that differ.
    without : tuple of str
        Parts that are left out: "shutters", "windows", "trim", or a surface's id.
    grade : str
        Of a quick survey.
    scale : float
        Of every length; areas by its square.
    lead_cleared : bool
        Tests found no lead in what still counts as lead.
    access : str
        The way up to everything that is not reached from the ground.
    """

    rules: JobRules | None = None
    schools: tuple[tuple[str, str], ...] = ()
    without: tuple[str, ...] = ()
    grade: str = ""
    scale: float = 1.0
    lead_cleared: bool = False
    access: str = ""


def specs_as_if(scope: Scope, job: Job, as_if: AsIf) -> list[Spec]:
    """Return the specifications of a job as it might be; nothing is changed by it."""
    return _specified(scope, job, None, as_if)


def _specified(scope: Scope, job: Job, schools: Mapping[str, str] | None, as_if: AsIf | None = None) -> list[Spec]:
    as_if = as_if or AsIf()
    used = (schools_of(scope, job) if schools is None else dict(schools)) | dict(as_if.schools)
    edits, preferred = _edits(scope, job), preferred_of(scope, job, as_if.rules)
    parts = parts_of(scope, job, used, as_if.rules, as_if.grade)
    if as_if.scale != 1:
        parts = [replace(p, extent=p.extent.scaled(as_if.scale)) for p in parts]
    if as_if.lead_cleared:
        parts = [replace(p, facts=replace(p.facts, lead="")) if p.facts.lead == "closed" else p for p in parts]
    if as_if.access:
        parts = [replace(p, facts=replace(p.facts, access=as_if.access)) if p.facts.access != "ground" else p for p in parts]
    return [spec_of(scope, p, edits.get(p.key, ()), preferred) for p in parts if p.key not in as_if.without]


def grade_of(spec: Spec, knowledge: Knowledge) -> str:
    """Return what the finish of a part is sold as: "economy", "standard" or "premium"."""
    product = spec.products.get("coat 1")
    return knowledge.products[product].grade if product else "standard"


def total(specs: Sequence[Spec]) -> Estimate:
    """Return what all parts take together; waits run side by side."""
    out = NOTHING
    for spec in specs:
        out = out + spec.estimate
    return out


_SETTINGS = (
    ("prime", "primed"), ("primer", "primer"), ("finish", "finish"), ("sheen", "sheen"), ("technique", "technique"),
    ("tint", "tinted primer"),
)  # fmt: skip


def _changed(before: Spec, after: Spec, knowledge: Knowledge) -> Changed | None:
    old, new = before.system, after.system
    keys = [s.key for s in old.steps], [s.key for s in new.steps]
    added = tuple(s.label for s in new.steps if s.key not in keys[0])
    removed = tuple(s.label for s in old.steps if s.key not in keys[1])
    settings = [
        f"{words}: {str(new.value(slot)).replace('-', ' ')}"
        for slot, words in _SETTINGS
        if old.value(slot) != new.value(slot) and new.value(slot) not in (None, "")
    ]
    settings += [
        f"{s.label}: wait {wait_words(s.wait, knowledge) or 'no more'}"
        for s in new.steps
        for o in old.steps
        if o.key == s.key and o.wait != s.wait
    ]
    refused = [r.label for r in new.refusals if r.key not in {x.key for x in old.refusals}]
    allowed = [r.label for r in old.refusals if r.key not in {x.key for x in new.refusals}]
    settings += [f"refused: {label.lower()}" for label in refused] + [f"no longer refused: {label.lower()}" for label in allowed]
    if before.products != after.products and not (added or removed):
        settings.append("other products")
    if not (added or removed or settings or old.coats != new.coats):
        return None
    return Changed(after.part, added, removed, new.coats - old.coats, tuple(settings))


def difference(scope: Scope, job: Job, key: str, option: str) -> Difference:
    """Return what one school's other side would change, before it is accepted.

    Raises
    ------
    FieldErrors
        If there is no such school or side.
    """
    school = scope.knowledge.systems.schools.get(key)
    if school is None or option not in school.options:
        raise FieldErrors({"option": "Choose one of the sides."})
    before = specs_of(scope, job)
    after = specs_of(scope, job, schools_of(scope, job) | {key: option})
    parts = [c for a, b in zip(before, after, strict=True) if (c := _changed(a, b, scope.knowledge)) is not None]
    first, then = total(before), total(after)
    painters, day_h = rules_of(job).painters, scope.knowledge.practice.day_h
    days = then.days(painters, day_h) - first.days(painters, day_h)
    return Difference(tuple(parts), then.labour_h - first.labour_h, days, then.money - first.money)

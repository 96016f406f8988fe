"""What the stages after systems need of them: for each painted surface its coats, each with its own label and hours.

A coat also says which colour the surface wears while that coat goes on: a wall warms in the sun by the colour that is on it,
not by the one in the can.
"""

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from amber_gable.core.coat.colour import lrv_pct
from amber_gable.core.knowledge import Knowledge, Phase, Product
from amber_gable.core.planning.work import TOUCH_UP
from amber_gable.core.survey.gates import GATES
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.jobs.rules import product_of
from amber_gable.services.survey.building.sides import sides_of
from amber_gable.services.systems.specs import Spec, house_of, schools_of, specs_of
from amber_gable.store.models import Job

# Air temperatures of the narrower schools (handbook 11.1) [°C].
_BANDS = {"10-29": (10.0, 29.0), "10-25": (10.0, 25.0)}


# Which coat of a surface: windows are judged for one of these at a time.
Turn = Literal["primer", "undercoat", "coats", "later", "sealer"]
TURNS: Mapping[Turn, str] = {
    "primer": "Primer", "undercoat": "Undercoat", "coats": "First coat", "later": "Later coats", "sealer": "Sealer",
}  # fmt: skip
_TURN_OF: Mapping[Phase, Turn] = {Phase.CLEAN: "primer", Phase.MEND: "primer", Phase.PRIME: "primer", Phase.SEAL: "sealer"}


@dataclass(frozen=True)
class Coat:
    """One coat of a surface.

    Parameters
    ----------
    step : str
        Key of its step.
    turn : Turn
    product : Product
        With the limits this firm holds it to.
    hours : float
        Painter-hours, by the same rates as the price.
    worn_lrv_pct : float or None
        Reflectance of the colour that the surface wears when this coat goes on; None where it is not known.
    """

    step: str
    turn: Turn
    product: Product
    hours: float
    worn_lrv_pct: float | None


@dataclass(frozen=True)
class SurfaceCoating:
    """The finish of a surface: its product with the limits this firm holds it to, how many coats, and what holds its work up."""

    product: Product
    coats: int
    # Gates that are closed, a test patch that is waited for: no coat before.
    held_by: tuple[str, ...] = ()
    # Painter-hours of each coat, by the same rates as the price.
    hours: tuple[float, ...] = ()
    # Every coat in order: primers, undercoats, finish, sealers.
    each: tuple[Coat, ...] = ()
    # Reflectance of the colour once all coats are on.
    finished_lrv_pct: float | None = None
    # Whether it goes on by a sprayer: some parts of a sprayed house are brushed.
    is_sprayed: bool = False

    def worn_lrv_pct(self, done: Container[str]) -> float | None:
        """Return the reflectance of the colour that is on the surface once some coats are, by their steps; None where it is not known."""
        coming = next((coat for coat in self.each if coat.step not in done), None)
        return coming.worn_lrv_pct if coming else self.finished_lrv_pct

    def turn_of(self, step: str) -> Turn | None:
        """Return by which turn a step is judged; touching up by that of the last coat; None for a step that is no coat."""
        if step == TOUCH_UP:
            return self.each[-1].turn if self.each else None
        return next((coat.turn for coat in self.each if coat.step == step), None)

    def of(self, turn: Turn) -> Coat | None:
        """Return the coat of a turn: of several the last one, but the first of the finish; None where there is none."""
        in_turn = [coat for coat in self.each if coat.turn == turn]
        return in_turn[-1] if in_turn else None


def held_words(held_by: Sequence[str]) -> str:
    """Return what work waits for: "lead is not cleared"."""
    return " and ".join(f"{why} is not cleared" if why in GATES else f"it waits for {why}" for why in held_by)


def within_band(product: Product, band: str) -> Product:
    """Return a product's label, narrowed to a school's temperature band; never widened."""
    if band not in _BANDS:
        return product
    low, high = _BANDS[band]
    return product.model_copy(
        update={
            "min_air_temp_c": max(product.min_air_temp_c, low),
            "max_air_temp_c": min(product.max_air_temp_c, high),
            "min_surface_temp_c": max(product.min_surface_temp_c, low),
        }
    )


def coatings_of(scope: Scope, job: Job) -> dict[str, SurfaceCoating]:
    """Return the coats of every painted surface of a job by its id, and of windows, shutters and trim by their side."""
    return scope.cached(("coatings", *house_of(scope, job)), lambda: _coatings(scope, job))


def _coatings(scope: Scope, job: Job) -> dict[str, SurfaceCoating]:
    knowledge, rules = scope.knowledge, rules_of(job)
    band = schools_of(scope, job).get("temperature-band", "label")
    by_surface = {}
    for spec in specs_of(scope, job):
        key = spec.products.get("coat 1", "")
        # Where nothing on the shelf fits, or nothing should go on: the job's own label, so that the hours can still be seen.
        product = knowledge.products[key] if key else product_of(rules, knowledge)
        coats = spec.system.coats or rules.coats or 1
        held = tuple(dict.fromkeys(why for step in spec.system.steps for why in step.blocked_by))
        hours = tuple(spec.works[s.key].hours for s in spec.system.steps if s.phase is Phase.COAT)
        each = _coats(spec, knowledge, band)
        coating = SurfaceCoating(within_band(product, band), coats, held, hours, each, _new_lrv(spec), spec.method == "sprayer")
        by_surface.update(dict.fromkeys(spec.part.surfaces, coating))
        if not spec.part.surfaces:
            by_surface.update({side.key: _shared(coating, side.share_frac) for side in sides_of(job, spec.part.key, knowledge)})
    return by_surface


def _shared(coating: SurfaceCoating, share_frac: float) -> SurfaceCoating:
    """Return the coating of one side of what goes round the house: its share of the hours."""
    each = tuple(replace(coat, hours=coat.hours * share_frac) for coat in coating.each)
    return replace(coating, hours=tuple(h * share_frac for h in coating.hours), each=each)


def _new_lrv(spec: Spec) -> float | None:
    facts = spec.part.facts
    return lrv_pct(facts.new_hex) if facts.new_hex else facts.new_lrv_pct


def _coats(spec: Spec, knowledge: Knowledge, band: str) -> tuple[Coat, ...]:
    facts, new = spec.part.facts, _new_lrv(spec)
    old = lrv_pct(facts.old_hex) if facts.old_hex else facts.old_lrv_pct
    worn = new if old is None else old
    is_tinted = bool(spec.system.value("tint"))
    coats = []
    for step in spec.system.steps:
        product = knowledge.products.get(spec.products.get(step.key, "")) if step.family else None
        if product is None:
            continue
        turn: Turn = "undercoat" if step.family == "undercoat" else _TURN_OF.get(step.phase) or ("coats" if step.coat == 1 else "later")
        coats.append(Coat(step.key, turn, within_band(product, band), spec.works[step.key].hours, worn))
        if step.of != "m2 found":
            # What covers the whole surface is seen from then on: a white primer, or the new colour.
            worn = knowledge.practice.primer_lrv_pct if turn == "primer" and not is_tinted else new
    return tuple(coats)

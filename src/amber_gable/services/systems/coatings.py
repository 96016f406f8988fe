"""What the stages after systems need of them: for each painted surface its finish, its label and its coats."""

from dataclasses import dataclass

from amber_gable.core.knowledge import Product
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.jobs.rules import product_of
from amber_gable.services.systems.specs import schools_of, specs_of, state_of
from amber_gable.store.models import Job

# Air temperatures of the narrower schools (handbook 11.1) [°C].
_BANDS = {"10-29": (10.0, 29.0), "10-25": (10.0, 25.0)}


@dataclass(frozen=True)
class Coating:
    """The finish of a surface: its product with the limits this firm holds it to, how many coats, and what holds its work up."""

    product: Product
    coats: int
    # Gates that are closed, a test patch that is waited for: no coat before.
    held_by: tuple[str, ...] = ()
    # Painter-hours of each coat, by the same rates as the price.
    hours: tuple[float, ...] = ()


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


def coatings_of(scope: Scope, job: Job) -> dict[str, Coating]:
    """Return the finish of every painted surface of a job, by its id."""
    return scope.cached(("coatings", *state_of(scope, job)), lambda: _coatings(scope, job))


def _coatings(scope: Scope, job: Job) -> dict[str, Coating]:
    known, rules = scope.knowledge, rules_of(job)
    band = schools_of(scope, job).get("temperature-band", "label")
    found = {}
    for spec in specs_of(scope, job):
        key = spec.products.get("coat 1", "")
        # Where nothing on the shelf fits, or nothing should go on: the job's own label, so that the hours can still be seen.
        product = known.products[key] if key else product_of(rules, known)
        coats = spec.system.coats or rules.coats or 1
        held = tuple(dict.fromkeys(why for step in spec.system.steps for why in step.blocked_by))
        hours = tuple(spec.works[s.key].hours for s in spec.system.steps if s.key.startswith("coat "))
        found.update({surface: Coating(within_band(product, band), coats, held, hours) for surface in spec.part.surfaces})
    return found

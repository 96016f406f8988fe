"""Reckoning `coverage`."""

from amber_gable.core import takeoff
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import DryFilmUm, Factor, LossPct, SolidsPct
from amber_gable.units import convert


class CoverageIn(Strict):
    volume_solids_pct: SolidsPct
    dry_film_um: DryFilmUm
    loss_pct: LossPct = 0.0
    profile_factor: Factor = 1.0
    texture_factor: Factor = 1.0


class CoverageOut(Answer):
    theoretical_m2_per_l: float
    practical_m2_per_l: float
    practical_ft2_per_gal: float
    wet_film_um: float


def coverage(given: CoverageIn) -> CoverageOut:
    found = takeoff.coverage(**given.model_dump())
    return CoverageOut(
        theoretical_m2_per_l=found.theoretical_m2_per_l,
        practical_m2_per_l=found.practical_m2_per_l,
        practical_ft2_per_gal=convert(found.practical_m2_per_l, "m2/L", "ft2/gal"),
        wet_film_um=found.wet_film_um,
    )


COVERAGE = Reckoning(
    name="coverage",
    title="Coverage",
    question="How far does this paint go?",
    input_model=CoverageIn,
    output_model=CoverageOut,
    function=coverage,
    example={"volume_solids_pct": 38.0, "dry_film_um": 38.0, "loss_pct": 8.0, "profile_factor": 1.111, "texture_factor": 1.0},
    lead="practical_m2_per_l",
    notes=("The label's spread rate wins over one worked out from solids.",),
)

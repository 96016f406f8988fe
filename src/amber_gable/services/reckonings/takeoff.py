"""Reckonings of the take-off: `coverage`, `paint-quantity`, `packs`, `caulk`, `spray-setup`, `ladder-sets`."""

from typing import Annotated

from pydantic import Field

from amber_gable.core.takeoff import Quantity, caulk_cartridges, caulk_m, packs, spraying
from amber_gable.core.takeoff import coverage as spread_at
from amber_gable.core.takeoff import ways_up as access_plan
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import (
    AreaM2,
    BeadMm,
    CartridgeMl,
    Coats,
    DryFilmUm,
    EfficiencyPct,
    ExtensionM,
    Factor,
    JointM,
    LengthM,
    LitresNeeded,
    LossPct,
    OverlapPct,
    PressurePsi,
    ReachM,
    SharePct,
    SolidsPct,
    SpreadM2PerL,
    WetFilmUm,
)
from amber_gable.units import both, convert


class PaintQuantityIn(Strict):
    area_m2: AreaM2
    spread_m2_per_l: SpreadM2PerL
    coats: Coats
    profile_factor: Factor
    texture_factor: Factor
    loss_pct: LossPct
    reserve_pct: SharePct


class PaintQuantityOut(Answer):
    litres_per_coat: float
    litres_total: float
    us_gal_total: float


def paint_quantity(given: PaintQuantityIn) -> PaintQuantityOut:
    one = Quantity(given.area_m2, given.spread_m2_per_l, given.profile_factor, given.texture_factor, loss_pct=given.loss_pct).litres
    total = given.coats * one * (1 + given.reserve_pct / 100)
    return PaintQuantityOut(litres_per_coat=one, litres_total=total, us_gal_total=convert(total, "L", "gal"))


class SizeIn(Strict):
    name: Annotated[str, Field(min_length=1, max_length=60)]
    litres: float
    price: float


class PacksIn(Strict):
    litres_needed: LitresNeeded
    sizes: list[SizeIn]


class Pack(Answer):
    name: str
    count: int


class PacksOut(Answer):
    packs: list[Pack]
    litres: float
    price: float
    leftover_l: float


def cheapest(given: PacksIn) -> PacksOut:
    cans = packs.cheapest_packs(given.litres_needed, [packs.Container(s.name, s.litres, s.price) for s in given.sizes])
    bought = [Pack(name=size.name, count=count) for size, count in cans.counts]
    return PacksOut(packs=bought, litres=cans.litres, price=cans.price, leftover_l=cans.leftover_l)


class CaulkIn(Strict):
    joint_m: JointM
    bead_mm: BeadMm
    cartridge_ml: CartridgeMl = 300.0
    waste_pct: SharePct = 10.0


class CaulkOut(Answer):
    metres_per_cartridge: float
    cartridges: int


def caulk(given: CaulkIn) -> CaulkOut:
    return CaulkOut(metres_per_cartridge=caulk_m(given.bead_mm, given.cartridge_ml), cartridges=caulk_cartridges(**given.model_dump()))


class SpraySetupIn(Strict):
    tip_code: str
    pressure_psi: PressurePsi
    transfer_efficiency_pct: EfficiencyPct
    overlap_pct: OverlapPct
    wet_film_um: WetFilmUm


class SpraySetupOut(Answer):
    fan_width_m: float
    orifice_mm: float
    flow_l_per_min: float
    gun_speed_m_per_s: float
    area_m2_per_min: float


def spray_setup(given: SpraySetupIn) -> SpraySetupOut:
    tip = spraying.tip_of(given.tip_code)
    stroke = spraying.stroke(tip, given.pressure_psi, given.transfer_efficiency_pct, given.overlap_pct, given.wet_film_um)
    return SpraySetupOut(
        fan_width_m=tip.fan_width_m, orifice_mm=tip.orifice_mm, flow_l_per_min=stroke.flow_l_per_min,
        gun_speed_m_per_s=stroke.gun_speed_m_per_s, area_m2_per_min=stroke.area_m2_per_min,
    )  # fmt: skip


class LadderSetsIn(Strict):
    wall_width_m: LengthM
    reach_each_side_m: ReachM
    extension_m: ExtensionM = 0.0


class LadderSetsOut(Answer):
    sets: int


def ladder_sets(given: LadderSetsIn) -> LadderSetsOut:
    return LadderSetsOut(sets=access_plan.ladder_sets(**given.model_dump()))


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
    spread = spread_at(**given.model_dump())
    return CoverageOut(
        theoretical_m2_per_l=spread.theoretical_m2_per_l,
        practical_m2_per_l=spread.practical_m2_per_l,
        practical_ft2_per_gal=convert(spread.practical_m2_per_l, "m2/L", "ft2/gal"),
        wet_film_um=spread.wet_film_um,
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

TAKEOFF = (
    Reckoning(
        "paint-quantity", "Paint quantity", "How much paint does this take?", PaintQuantityIn, PaintQuantityOut, paint_quantity,
        {"area_m2": 60.0, "spread_m2_per_l": 10.0, "coats": 2, "profile_factor": 1.111, "texture_factor": 1.0, "loss_pct": 8.0,
            "reserve_pct": 5.0},
        "litres_total",
        ("The reserve is for touching up; a first coat on bare or chalky ground takes 20 to 40 % more.",),
    ),
    Reckoning(
        "packs", "Packs", "Which cans are cheapest?", PacksIn, PacksOut, cheapest,
        {"litres_needed": 31.0, "sizes": [
            {"name": "quart", "litres": 0.946, "price": 19.0}, {"name": "gallon", "litres": 3.785, "price": 62.0},
            {"name": "5 gallons", "litres": 18.93, "price": 285.0},
        ]},
        "price",
        ("Proved cheapest. Box all cans of a colour before use.",),
    ),
    Reckoning(
        "caulk", "Caulk", "How many cartridges?", CaulkIn, CaulkOut, caulk, {"joint_m": 120.0, "bead_mm": 6.0}, "cartridges",
        ("A full round of that diameter; a joint that is wider than deep takes less.",),
    ),
    Reckoning(
        "spray-setup", "Spray set-up", "How fast does the gun go?", SpraySetupIn, SpraySetupOut, spray_setup,
        {"tip_code": "517", "pressure_psi": 2000.0, "transfer_efficiency_pct": 73.0, "overlap_pct": 50.0, "wet_film_um": 100.0},
        "gun_speed_m_per_s",
        (
            "Flow is water's; paint flows somewhat less. Lowest pressure that gives no tails.",
            "Never a finger at the tip: an injection is a surgical emergency even if it looks small.",
        ),
    ),
    Reckoning(
        "ladder-sets", "Ladder sets", "How often is the ladder moved?", LadderSetsIn, LadderSetsOut, ladder_sets,
        {"wall_width_m": 11.6, "reach_each_side_m": 0.6, "extension_m": 0.6}, "sets",
        (both("Reposition rather than lean out. Even base, 4:1, three points, 3 m (10 ft) from any line."),),
    ),
)  # fmt: skip

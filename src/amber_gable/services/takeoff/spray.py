"""Spray set-up of a job: for each lot the tip, how fast the gun goes, what it lets out, what wears."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.takeoff.lots import Lot
from amber_gable.core.takeoff.spraying import GunStroke, Tip, choose_tip, pump_moves, stroke, tips_needed
from amber_gable.services.survey.building.rows import region_of
from amber_gable.services.takeoff.job import JobTakeoff, PartTakeoff
from amber_gable.store.models import Job

SPRAYER = "sprayer"
# Never sprayed on the wall: too much glass and edge to mask (our assumption).
_BRUSHED = ("window", "trim", "railing", "steps")


@dataclass(frozen=True)
class SpraySetup:
    """Spray set-up of one lot.

    Parameters
    ----------
    piece, least_side_m : str, float
        What most of it goes on, and the smaller side of that: the fan is no wider.
    is_sprayed : bool
        On this job; else what it would be like if it were.
    tip : Tip or None
        None where the label names none: it is brushed or rolled.
    why : tuple of str
    stroke : GunStroke or None
    wet_film_um : float
    tips : int
        That it wears out.
    worn_l : float
        Litres more that go out through tips worn to their end.
    """

    lot: Lot
    piece: str
    least_side_m: float
    is_sprayed: bool
    tip: Tip | None
    why: tuple[str, ...]
    stroke: GunStroke | None
    wet_film_um: float
    tips: int
    worn_l: float


@dataclass(frozen=True)
class SprayPlan:
    """Every lot's set-up, lots that are brushed whatever the method, and where the pump goes."""

    setups: tuple[SpraySetup, ...]
    brushed: tuple[Lot, ...]
    around_m: float
    pump_moves: int

    @property
    def is_sprayed(self) -> bool:
        return any(s.is_sprayed for s in self.setups)


def least_sides(job: Job) -> dict[str, float]:
    """Return the smaller side of what each part is made of [m]; pieces by the narrowest of them."""
    sides = {}
    for e in job.building.elevations:
        for s in e.surfaces:
            left, low, right, high = region_of(s).bounds
            sides[s.id] = min(right - left, high - low)
        for o in e.openings:
            key = "shutters" if o.kind == "shutter" else "windows"
            sides[key] = min(sides.get(key, o.width_m), o.width_m)
    girths = [i.girth_m for i in job.building.items if i.is_painted]
    return sides | ({"trim": min(girths)} if girths else {})


def _largest(lot: Lot, parts: Sequence[PartTakeoff]) -> PartTakeoff:
    litres = {key: sum(line.litres for line in lot.lines if line.part == key) for key in {line.part for line in lot.lines}}
    return max((p for p in parts if p.spec.part.key in litres), key=lambda p: litres[p.spec.part.key])


def _setup(lot: Lot, takeoff: JobTakeoff, sides: dict[str, float], knowledge: Knowledge) -> SpraySetup:
    practice = knowledge.practice
    part = _largest(lot, takeoff.parts)
    side = sides.get(part.spec.part.key, 1.0)
    is_sprayed = any(p.spec.method == SPRAYER for p in takeoff.parts if p.spec.part.key in {line.part for line in lot.lines})
    tip, why = choose_tip(lot.product.tips, side, practice.pump_l_per_min, practice.pressure_psi)
    film = lot.lines[0].spread.wet_film_um
    efficiency = 100 - knowledge.methods[SPRAYER].loss_pct
    going = stroke(tip, practice.pressure_psi, efficiency, practice.overlap_pct, film) if tip else None
    worn = lot.litres * practice.worn_tip_pct / 100
    return SpraySetup(lot, part.name, side, is_sprayed, tip, why, going, film, tips_needed(lot.litres, practice.tip_life_l), worn)


def spray_plan(job: Job, takeoff: JobTakeoff, knowledge: Knowledge) -> SprayPlan:
    """Return how each lot would be sprayed; those that really are come first.

    References
    ----------
    Handbook 8: tip code, flow, overlap, hose; handbook 7: worn tips.
    """
    sides = least_sides(job)
    kinds = {p.spec.part.key: p.spec.part.facts.kind for p in takeoff.parts}
    brushed = tuple(lot for lot in takeoff.lots if all(kinds[line.part] in _BRUSHED for line in lot.lines))
    setups = [_setup(lot, takeoff, sides, knowledge) for lot in takeoff.lots if lot not in brushed]
    widths = [p.wall.width_m for p in takeoff.walls]
    ordered = sorted(setups, key=lambda s: (not s.is_sprayed, s.tip is None))
    return SprayPlan(tuple(ordered), brushed, sum(widths), pump_moves(widths, knowledge.practice.hose_m))

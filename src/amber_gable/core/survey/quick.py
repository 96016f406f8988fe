"""Quick survey: a building estimated from what one counts in a walk round it, for a first price.

It is a real building, drawn and taken off like any other; only its figures are estimates, replaced
one by one when it is measured.
"""

from dataclasses import dataclass

from amber_gable.core.geometry import Block, Rect
from amber_gable.core.geometry.blocks import RoofForm
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.errors import FieldErrors
from amber_gable.units import both

_LONG_TO_SHORT = assumed("long_to_short")
_STOREY_M = assumed("quick_storey_m")
_SILL_M = assumed("quick_sill_m")
_ROOF_PITCH_RISE = assumed("quick_roof_rise")
SIZES: dict[str, tuple[str, str, float, float]] = {
    # key: words, kind, width, height.
    "small_windows": ("Small windows", "sash-window", 0.6, 0.9),
    "windows": ("Usual windows", "sash-window", 0.8128, 1.524),
    "large_windows": ("Large windows", "fixed-window", 1.8, 1.5),
    "doors": ("Doors", "entry-door", 0.9144, 2.0828),
    "garage_doors": ("Garage doors", "garage-door", 2.4384, 2.1336),
}
GRADES = ("good", "fair", "poor")


@dataclass(frozen=True)
class QuickFacts:
    """Figures that are counted and paced: lengths in metres."""

    perimeter_m: float
    eaves_height_m: float
    storeys: int
    gables: int
    substrate: str
    grade: str
    counts: dict[str, int]
    front_azimuth_deg: float = 180.0

    def check(self) -> None:
        """Refuse what cannot be.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        if not 8 <= self.perimeter_m <= 600:
            faults["perimeter_m"] = both("The way round it must be 8 to 600 m (26 to 1970 ft). Pace it again.")
        if not 2 <= self.eaves_height_m <= 25:
            faults["eaves_height_m"] = both("The eaves must lie 2 to 25 m (7 to 82 ft) above the ground.")
        if not 1 <= self.storeys <= 6:
            faults["storeys"] = "Between 1 and 6 storeys."
        if self.gables not in (0, 2):
            faults["gables"] = "No gables, or two."
        if self.grade not in GRADES:
            faults["grade"] = "Good, fair or poor?"
        for name, count in self.counts.items():
            if not 0 <= count <= 200:
                faults[name] = "Between 0 and 200."
        if faults:
            raise FieldErrors(faults)


def block_of(facts: QuickFacts) -> Block:
    """Return the block that a perimeter and heights suggest: a rectangle, hipped where it has no gables."""
    short = facts.perimeter_m / 2 / (1 + _LONG_TO_SHORT)
    long = facts.perimeter_m / 2 - short
    ridge = facts.eaves_height_m + short / 2 * _ROOF_PITCH_RISE
    roof: RoofForm = "gable" if facts.gables else "hip"
    return Block("", "House", "house", long, short, facts.eaves_height_m, ridge, roof, "along", overhang_m=0.3)


def openings_for(facts: QuickFacts, walls: dict[str, tuple[float, float]]) -> dict[str, list[tuple[str, Rect]]]:
    """Return the counted openings spread evenly over walls, storey by storey.

    Parameters
    ----------
    facts : QuickFacts
    walls : dict of str to (width, eaves height)
        By key, the front first.

    Returns
    -------
    dict of str to list of (kind, Rect)
        By key of the wall. Openings that find no room are left out; `counts` still has them.
    """
    wanted: list[tuple[str, float, float]] = []
    for name, (_, kind, width, height) in SIZES.items():
        wanted += [(kind, width, height)] * facts.counts.get(name, 0)
    # Doors first, at the front: windows take what room is left.
    wanted.sort(key=lambda o: not o[0].endswith("door"))
    placed: dict[str, list[tuple[str, Rect]]] = {key: [] for key in walls}
    slots = _slots(facts, walls)
    for kind, width, height in wanted:
        is_door = kind.endswith("door")
        for index, (key, storey, left, room) in enumerate(slots):
            sill = 0.0 if is_door else storey * _STOREY_M + _SILL_M
            fits = room >= width and sill + height <= walls[key][1] - 0.05 and not (is_door and storey)
            if fits:
                placed[key].append((kind, Rect(round(left + (room - width) / 2, 3), round(sill, 3), width, height)))
                slots.pop(index)
                break
    return placed


def _slots(facts: QuickFacts, walls: dict[str, tuple[float, float]]) -> list[tuple[str, int, float, float]]:
    """Return places for openings, (wall, storey, left, width), one wall after another, even over the storeys."""
    total = sum(facts.counts.values())
    length = sum(width for width, _ in walls.values())
    per_storey = max(total / max(facts.storeys, 1), 1)
    slots = []
    for storey in range(facts.storeys):
        for key, (width, _) in walls.items():
            # No more than fit beside each other, a hand apart.
            count = max(round(per_storey * width / length + 0.49), 1)
            count = min(count, max(int(width / 1.3), 1))
            room = width / count
            slots += [(key, storey, room * i + 0.1, room - 0.2) for i in range(count)]
    # Turn about, so that a handful of windows does not all stand in the front.
    order = sorted(range(len(slots)), key=lambda i: (slots[i][1], i))
    return [slots[i] for i in order]

"""Take-off in words and drawings: cans, arithmetic, sundries, ladder plan."""

from collections.abc import Sequence

from markupsafe import Markup

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.packs import Packs
from amber_gable.core.takeoff.lots import Line, Lot
from amber_gable.core.takeoff.sundries import Sundry
from amber_gable.drawing.cans import cans_svg
from amber_gable.units import System, show


def packs_words(packs: Packs | None) -> str:
    """Return what is bought: "4 × 5 gallons, 3 × quart"."""
    if packs is None:
        return "nothing to buy"
    return ", ".join(f"{count} × {size.name}" for size, count in sorted(packs.counts, key=lambda c: -c[0].litres))


def cans_of(lot: Lot) -> Markup:
    """Return the containers of a lot, drawn by size in its colour."""
    if lot.packs is None:
        return Markup("")
    counts = [(size.name, size.litres, count) for size, count in lot.packs.counts]
    return Markup(cans_svg(counts, lot.colour or "var(--wash)", packs_words(lot.packs)))


def can_count(lots: Sequence[Lot]) -> int:
    return sum(count for lot in lots if lot.packs for _, count in lot.packs.counts)


def colour_words(lot: Lot, knowledge: Knowledge) -> str:
    """Return how a lot is asked for at the counter."""
    if lot.colour:
        toward = "tinted toward " if lot.role in ("primer", "undercoat") else ""
        return f"{toward}{lot.colour}"
    if lot.role == "finish" and not lot.product.colours.startswith("clear"):
        return "colour not chosen yet"
    return lot.product.colours if lot.product.colours != "any" else "not tinted"


def arithmetic(line: Line, system: System) -> str:
    """Return the arithmetic of one coat, each factor that is not 1 named."""
    paint = line.paint
    factors = [f"{show(paint.area_m2, 'area', system)}"]
    factors += [
        f"× {value:.3f} {words}"
        for value, words in ((paint.profile, "profile"), (paint.texture, "texture"), (paint.suction, "suction"))
        if abs(value - 1) > 5e-4
    ]
    factors.append(f"÷ {show(paint.spread_m2_per_l, 'spread', system)}")
    factors += [f"÷ (1 − {value:g} %) {words}" for value, words in ((paint.loss_pct, "lost"), (paint.wind_pct, "wind")) if value]
    if paint.wear_pct:
        factors.append(f"× {1 + paint.wear_pct / 100:g} tip wear")
    return f"{' '.join(factors)} = {show(paint.litres, 'volume', system)}"


def wet_film(line: Line) -> str:
    """Return what the comb must show, in both units: combs are marked in either."""
    um = line.spread.wet_film_um
    return f"{um:.0f} µm ({um / 25.4:.1f} mil)"


_KINDS = {"m": "run", "edge": "run", "foot": "run", "cover": "area", "m2": "area", "m2 found": "area", "litres": "volume"}
_WHAT = {"edge": " round openings", "foot": " along the ground", "cover": " covered", "m2 found": " found", "m": " of joint"}


def basis_words(sundry: Sundry, system: System) -> str:
    """Return where a count comes from: "340 ft of joint, one for 32 ft"."""
    if sundry.group == "chemicals":
        return f"{show(sundry.quantity, 'volume', system)} of concentrate, at the strongest mix its label allows"
    kind = _KINDS.get(sundry.by)
    there = show(sundry.counted, kind, system) if kind else f"{sundry.counted:g} {sundry.by}s"
    each = show(sundry.basis, kind, system) if kind else f"{sundry.basis:g}"
    return f"{there}{_WHAT.get(sundry.by, '')}, one for {each}"

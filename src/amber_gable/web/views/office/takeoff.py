"""Take-off in words and drawings: cans, arithmetic, sundries, ladder plan."""

from collections.abc import Sequence
from datetime import date

from markupsafe import Markup

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.systems.work import Work
from amber_gable.core.takeoff.days import DayOfWork
from amber_gable.core.takeoff.lots import Line, Lot
from amber_gable.core.takeoff.packs import Packs
from amber_gable.core.takeoff.sundries import SundryLine
from amber_gable.drawing.hours.workdays import days_svg
from amber_gable.drawing.paint.cans import cans_svg
from amber_gable.services.takeoff.job import JobTakeoff, PartTakeoff
from amber_gable.services.takeoff.spray import SpraySetup
from amber_gable.units import System, both_of, convert, show


def packs_words(packs: Packs | None) -> str:
    """Return what is bought, in words."""
    return packs.said if packs else "nothing to buy"


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


def days_chart(days: Sequence[DayOfWork], takeoff: JobTakeoff) -> Markup:
    """Return the days of the work as columns, each kind of work in its place."""
    tasks = list(takeoff.hours_by_kind)
    columns = [[(tasks.index(task), task, hours) for task, hours in day.hours] for day in days]
    return Markup(days_svg(columns, f"{len(days)} days of work, kind after kind"))


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
    return film(line.spread.wet_film_um)


_KINDS = {"m": "run", "edge": "run", "foot": "run", "cover": "area", "m2": "area", "m2 found": "area", "litres": "volume"}
_WHAT = {
    "edge": " round openings and along edges",
    "foot": " along the ground",
    "cover": " covered",
    "m2 found": " found",
    "m": " of joint",
}


def basis_words(sundry: SundryLine, system: System) -> str:
    """Return where a count comes from: "340 ft of joint, one for 32 ft"."""
    if sundry.group == "chemicals":
        return f"{show(sundry.quantity, 'volume', system)} of concentrate, at the strongest mix its label allows"
    kind = _KINDS.get(sundry.by)
    there = show(sundry.counted, kind, system) if kind else f"{sundry.counted:g} {sundry.by}{'' if sundry.counted == 1 else 's'}"
    each = show(sundry.basis, kind, system) if kind else f"{sundry.basis:g}"
    return f"{there}{_WHAT.get(sundry.by, '')}, one for {each}"


def day(when: date) -> str:
    """Return a day as one says it: "Tue 1 Sep"."""
    return f"{when:%a} {when.day} {when:%b}"


def days_of_task(days: Sequence[DayOfWork], task: str) -> str:
    """Return the days a kind of work falls on: "2 to 5"."""
    on = [d.number for d in days if any(name == task for name, _ in d.hours)]
    return "" if not on else str(on[0]) if on[0] == on[-1] else f"{on[0]} to {on[-1]}"


def coat_hours(part: PartTakeoff) -> float:
    """Return the hours of a part's coats, primers among them."""
    return sum(part.spec.works[s.key].hours for s in part.spec.system.steps if s.family)


_COUNTED = {"m2": "area", "m2 found": "area", "m": "run", "run": "run", "edge": "run"}


def work_arithmetic(work: Work, system: System) -> str:
    """Return where the hours of a step come from: "240 ft² ÷ 108 ft²/h × 1.14 height = 2.5 h"."""
    if not work.rate:
        return f"{work.hours:.2f} h"
    kind = _COUNTED.get(work.of)
    there = show(work.amount, kind, system) if kind else f"{work.amount:g}"
    rate = show(work.rate, "rate", system) if kind == "area" else f"{show(work.rate, kind, system)}/h" if kind else f"{work.rate:.2f}/h"
    height = f" × {work.height:.2f} height" if work.height > 1.0005 else ""
    return f"{there} ÷ {rate}{height} = {work.hours:.2f} h"


def gun_speed(setup: SpraySetup, system: System) -> str:
    """Return how fast the gun goes, as a painter counts it: by the second."""
    assert setup.stroke is not None
    speed = setup.stroke.gun_speed_m_per_s
    return f"{convert(speed, 'm', 'ft'):.1f} ft/s" if system == "us" else f"{speed:.2f} m/s"


def flow(setup: SpraySetup, system: System) -> str:
    assert setup.stroke is not None
    return f"{show(setup.stroke.flow_l_per_min, 'volume', system)}/min"


def per_minute(setup: SpraySetup, system: System) -> str:
    """Return the finished area a minute, while the trigger is pulled."""
    assert setup.stroke is not None
    return f"{show(setup.stroke.area_m2_per_min, 'area', system)} a minute"


def film(um: float) -> str:
    """Return a wet film, read in the units of the reader's comb."""
    return both_of(um, "film")

"""What the pages of systems show: parts alike under one letter, the steps in their stretches, what a school changes."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from string import ascii_uppercase

from markupsafe import Markup

from amber_gable.core.knowledge import Knowledge, Phase
from amber_gable.core.systems.specify import Step
from amber_gable.core.systems.work import Need, Work
from amber_gable.drawing.house.band import BandStyle, house_band
from amber_gable.drawing.house.building import DrawnSurface, Look
from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.compare import SCHOOLS_OF_HOURS, school_hours
from amber_gable.services.systems.specs import Spec
from amber_gable.store.models import Job
from amber_gable.units import System, show
from amber_gable.web.views.drawn import drawn_house

# What a stretch of work is called.
_STRETCHES = {
    Phase.CLEAR: "Before", Phase.CLEAN: "Clean", Phase.PROVE: "Dry and prove", Phase.MEND: "Mend and sand",
    Phase.CAULK: "Close and cover", Phase.MASK: "Close and cover", Phase.PRIME: "Prime", Phase.COAT: "Coat", Phase.SEAL: "Coat",
    Phase.UNMASK: "After", Phase.INSPECT: "After", Phase.PUT_BACK: "After",
}  # fmt: skip


def weather_words(step: Step, knowledge: Knowledge, system: System) -> str:
    """Return what a step needs of the weather while it is done; empty where it is done in any, and for a coat: its label says it."""
    row = knowledge.step_weather.get(step.weather)
    if row is None:
        return ""
    words = [f"above {show(row.min_air_temp_c, 'temperature', system)}"]
    words += ["a dry surface"] if row.needs_dry else []
    words += [f"no rain for {row.rain_free_h:g} h"] if row.rain_free_h else []
    words += [f"no frost for {row.frost_free_h:g} h"] if row.frost_free_h else []
    return ", ".join(words)


def hours_of_schools(scope: Scope, job: Job) -> dict[str, dict[str, float]]:
    """Return working hours by school and side, of the schools that decide on hours; none where no forecast reaches ahead."""
    try:
        ahead = outlook.outlook(scope, job, outlook.status(scope, job))
    except PlanError:
        return {}
    return {key: school_hours(scope, job, ahead, key) for key in SCHOOLS_OF_HOURS}


@dataclass(frozen=True)
class Group:
    """Parts with the same steps and products, under one letter."""

    letter: str
    specs: tuple[Spec, ...]

    def label(self, knowledge: Knowledge) -> str:
        """Return what goes on in a few words: "2 coats of exterior acrylic, spots primed"."""
        system = self.specs[0].system
        if system.refusals:
            return system.refusals[0].label
        words = f"{system.coats} coat{'s' if system.coats > 1 else ''} of {knowledge.systems.families[system.finish].label.lower()}"
        if system.prime != "none":
            primer = knowledge.systems.families[system.primer].label.lower()
            words += f", spots with {primer}" if system.prime == "spot" else f" on {primer}"
        return words


def grouped(specs: Sequence[Spec]) -> list[Group]:
    """Return the parts by what goes on them, the largest group first; preparation may differ within one."""
    alike: dict[tuple[object, ...], list[Spec]] = {}
    for spec in specs:
        key = (tuple(sorted(spec.products.items())), spec.system.coats, tuple(r.key for r in spec.system.refusals))
        alike.setdefault(key, []).append(spec)
    ordered = sorted(alike.values(), key=lambda group: -sum(s.part.extent.area_m2 for s in group))
    return [Group(ascii_uppercase[i % 26], tuple(group)) for i, group in enumerate(ordered)]


def own_preparation(group: Group, spec: Spec) -> str:
    """Return the preparation that a part has and not all of its group: what sets it apart."""
    shared = set.intersection(*({s.key for s in other.system.steps} for other in group.specs))
    labels = [s.label.lower() for s in spec.system.steps if s.key not in shared and not s.family]
    return ", ".join(labels[:3]) + (" and more" if len(labels) > 3 else "")


def stretches(steps: Sequence[Step]) -> list[tuple[str, list[tuple[int, Step]]]]:
    """Return numbered steps under the name of their stretch of work, in the order they stand."""
    runs: list[tuple[str, list[tuple[int, Step]]]] = []
    for number, step in enumerate(steps, start=1):
        name = _STRETCHES[step.phase]
        if not runs or runs[-1][0] != name:
            runs.append((name, []))
        runs[-1][1].append((number, step))
    return runs


# What a step counts by, for one and for many.
_COUNTED = {
    "opening": ("opening", "openings"),
    "piece": ("piece", "pieces"),
    "once": ("time", "times"),
    "near": ("thing near", "things near"),
}


def _counted(amount: float, of: str, system: System) -> str:
    if of in ("m2", "m2 found"):
        return show(amount, "area", system) + (" found" if of == "m2 found" else "")
    if of in ("m", "run", "edge", "foot"):
        return show(amount, "run", system)
    if of == "cover":
        return show(amount, "area", system)
    return f"{amount:g} {_COUNTED[of][amount != 1]}"


def takes(work: Work, system: System) -> str:
    """Return what a step takes, with its arithmetic: "419 ft² at 108 ft²/h: 3.9 painter-hours"."""
    if not work.hours:
        return "no painter's time"
    hours = f"{work.hours:.2g}" if work.hours < 1 else f"{work.hours:.1f}"
    if work.of == "once":
        return f"{hours} painter-hours"
    is_area = work.of in ("m2", "m2 found")
    rate = show(work.rate, "rate", system) if is_area else f"{_counted(round(work.rate, 2), work.of, system)} an hour"
    high = f", × {work.height:.2f} for the height" if work.height > 1.005 else ""
    return f"{_counted(round(work.amount, 2), work.of, system)} at {rate}{high}: {hours} painter-hour{'' if hours == '1' else 's'}"


def uses(need: Need, work: Work, system: System) -> str:
    """Return what a step uses up, with its basis: "caulk, 4 cartridges of 300 ml: one for 33 ft"."""
    if need.unit == "L":
        if not need.basis:
            return need.label
        figure = show(need.quantity, "volume" if need.quantity >= 1 else "small volume", system)
        each = show(need.basis, "spread", system)
        return f"{need.label}, {figure} at {each}"
    again = ", used again" if need.is_reused else ""
    return f"{need.label}, {need.quantity:g} × {need.unit}: one for {_counted(round(need.basis, 2), need.by or work.of, system)}{again}"


def systems_band(job: Job, knowledge: Knowledge, groups: Sequence[Group], selected: str | None) -> Markup:
    """Filled by system: parts alike wear one tint; the caption has the letters."""
    of: Mapping[str, int] = {s: i for i, g in enumerate(groups) for spec in g.specs for s in spec.part.surfaces}
    blocked = {s for g in groups for spec in g.specs if spec.is_blocked for s in spec.part.surfaces}

    def look(surface: DrawnSurface) -> Look:
        index = of.get(surface.id)
        if index is None:
            return Look({"roof": "var(--roof)", "plinth": "var(--masonry)", "chimney": "var(--masonry)"}.get(surface.kind, "var(--paper)"),
                        f"{surface.name}: not painted")  # fmt: skip
        words = f"{surface.name}: system {groups[index].letter}" + (", preparation blocked" if surface.id in blocked else "")
        return Look("transparent" if surface.kind == "railing" else f"var(--depth-{index % 4})", words, f"?part={surface.id}")

    captions = {}
    for e in job.building.elevations:
        letters = dict.fromkeys(groups[of[s.id]].letter for s in e.surfaces if s.id in of)
        captions[e.id] = "system " + ", ".join(letters) if letters else "not painted"
    return Markup(house_band(drawn_house(job, knowledge), BandStyle(look, captions, selected=selected, height=200.0)))


def about(spec: Spec, knowledge: Knowledge) -> list[str]:
    """Return the facts a system rests on, in words."""
    facts = spec.part.facts
    said = [knowledge.substrates[facts.substrate].label, f"on it: {knowledge.coatings[facts.coating].label.lower()}"]
    if facts.coating_age_y is not None:
        said.append(f"{facts.coating_age_y:.0f} years old")
    said += [f"{knowledge.conditions[f.kind].label.lower()}, {knowledge.extents[f.extent].label}" for f in facts.findings]
    said += [f"{kind} test: {result}" for kind, result in facts.tests.items() if result != "pass"]
    said += [spec.system.tags.said[t] for t in ("colour:changed", "colour:same", "colour:unknown") if t in spec.system.tags]
    return said

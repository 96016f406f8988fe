"""Sundries: what steps use up over a whole job, what paint is put on with, and what is carried and worn.

Pieces are counted up once for the whole job, not for each wall.
Not here: what one step uses on one part (systems.work).
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Applicator, Knowledge
from amber_gable.core.systems.facts import Facts
from amber_gable.core.systems.specify import Step
from amber_gable.core.systems.work import Work
from amber_gable.core.takeoff.packs import Container, cheapest_packs
from amber_gable.core.takeoff.quantity import whole


@dataclass(frozen=True)
class Doing:
    """A step on a part with what it comes to."""

    part: str
    part_name: str
    step: Step
    work: Work
    facts: Facts
    method: str


@dataclass(frozen=True)
class SundryLine:
    """Something bought besides paint.

    Parameters
    ----------
    group : str
        "uses", "chemicals" or "applicators".
    quantity : float
        What is needed, exactly; litres for chemicals.
    buy : str
        What is bought, in words: "3 × roll of 50 m".
    count : int
        Pieces or containers.
    price : float
        Of all of them; 0 for what is used again and again.
    counted, by, basis : float, str, float
        How much there is, of what, and how much one is enough for.
    """

    key: str
    label: str
    group: str
    quantity: float
    count: int
    buy: str
    price: float
    counted: float
    by: str
    basis: float
    is_reused: bool = False


def used_up(doings: Iterable[Doing], knowledge: Knowledge) -> list[SundryLine]:
    """Return consumables and chemicals of a job, each counted up once.

    Parameters
    ----------
    doings : iterable of Doing
        Every step on every part.

    Notes
    -----
    What is used again is counted for the part that needs most of it, all else for the sum.
    """
    there: dict[str, list[float]] = {}
    first: dict[str, tuple[str, float, bool]] = {}
    litres: dict[str, float] = {}
    for doing in doings:
        for need in doing.work.needs:
            if need.key in knowledge.systems.consumables:
                there.setdefault(need.key, []).append(need.counted)
                first.setdefault(need.key, (need.by, need.basis, need.is_reused))
            elif need.key in knowledge.sundries:
                litres[need.key] = litres.get(need.key, 0.0) + need.quantity
    lines = []
    for key, amounts in there.items():
        row, (by, basis, is_reused) = knowledge.systems.consumables[key], first[key]
        counted = max(amounts) if is_reused else sum(amounts)
        count = whole(counted / basis)
        price = 0.0 if is_reused else count * row.price
        lines.append(
            SundryLine(key, row.label, "uses", counted / basis, count, f"{count} × {row.unit}", price, counted, by, basis, is_reused)
        )
    for key, amount in litres.items():
        sundry = knowledge.sundries[key]
        packs = cheapest_packs(whole(amount * 1000) / 1000, [Container(s.name, s.litres, s.price) for s in sundry.sizes])
        words = ", ".join(f"{n} × {size.name}" for size, n in packs.counts)
        lines.append(
            SundryLine(key, sundry.name, "chemicals", amount, sum(n for _, n in packs.counts), words, packs.price, amount, "litres", 1.0)
        )
    return lines


def _applies(row: Applicator, doing: Doing) -> bool:
    return (
        (not row.methods or doing.method in row.methods)
        and (not row.kinds or doing.facts.kind in row.kinds)
        and (not row.textures or doing.facts.texture in row.textures)
        and (not row.families or doing.step.family in row.families)
    )


def applicators(doings: Iterable[Doing], painters: int, knowledge: Knowledge) -> list[SundryLine]:
    """Return roller covers by pile, brushes, tips, filters and rags for the coats of a job.

    Parameters
    ----------
    doings : iterable of Doing
        Every step on every part.
    painters : int
        Each has a set.

    Notes
    -----
    Waterborne and alkyd paint never share a brush or a cover.
    """
    area: dict[tuple[str, str], float] = {}
    litres: dict[tuple[str, str], float] = {}
    for doing in doings:
        need = next((n for n in doing.work.needs if n.paint), None)
        if not doing.step.family or need is None or need.paint is None:
            continue
        kind = knowledge.products[need.key].kind
        done: set[str] = set()
        for key, row in knowledge.applicators.items():
            if row.part not in done and _applies(row, doing):
                done.add(row.part)
                area[key, kind] = area.get((key, kind), 0.0) + need.paint.area_m2 * need.paint.profile
                litres[key, kind] = litres.get((key, kind), 0.0) + need.quantity
    lines = []
    for (key, paint_kind), coated in area.items():
        row = knowledge.applicators[key]
        by_area = coated / row.m2 if row.m2 else 0.0
        by_litres = litres[key, paint_kind] / row.litres if row.litres else 0.0
        count = max(math.ceil(max(by_area, by_litres) - 1e-9), painters if row.painter else 1)
        label = f"{row.label}, for oil" if paint_kind == "alkyd" else row.label
        counted, by, basis = (litres[key, paint_kind], "litres", row.litres) if row.litres else (coated, "m2", row.m2)
        lines.append(
            SundryLine(
                f"{key}-{paint_kind}",
                label,
                "applicators",
                max(by_area, by_litres),
                count,
                str(count),
                count * row.price,
                counted,
                by,
                basis,
            )
        )
    return lines


@dataclass(frozen=True)
class Carried:
    """A tool, or what is worn, and which steps ask for it."""

    key: str
    label: str
    group: str
    steps: tuple[str, ...]


def carried(doings: Iterable[Doing], knowledge: Knowledge) -> list[Carried]:
    """Return tools by group, then what is worn."""
    asked: dict[tuple[str, str], dict[str, None]] = {}
    coats_by = {key: row.coats_by for key, row in knowledge.systems.tools.items() if row.coats_by}
    for doing in doings:
        of_coats = [tool for tool, methods in coats_by.items() if doing.method in methods] if doing.step.family else []
        for tool in (*doing.step.tools, *of_coats):
            asked.setdefault((knowledge.systems.tools[tool].group, tool), {})[doing.step.label] = None
        for item in doing.step.ppe:
            asked.setdefault(("worn", item), {})[doing.step.label] = None
    tables = knowledge.systems
    load = [
        Carried(key, (tables.ppe if group == "worn" else tables.tools)[key].label, group, tuple(steps))
        for (group, key), steps in asked.items()
    ]
    return sorted(load, key=lambda c: (c.group == "worn", c.group, c.label))


def cost(sundries: Sequence[SundryLine]) -> float:
    return sum(s.price for s in sundries)

"""Do the systems tables hold together? Every tag, step, family, caution and school that a row names is there."""

from collections.abc import Iterator

from amber_gable.core.knowledge import Knowledge, KnowledgeError
from amber_gable.core.knowledge.system_rows import MEASURES
from amber_gable.core.systems.facts import KINDS
from amber_gable.core.systems.tags import options, vocabulary

TECHNIQUES = {
    "": "",
    "back-roll": "Sprayed and back-rolled into the pores.",
    "several-angles": "Sprayed from several angles.",
    "panels": "In panels of 0.6 by 1 m (2 by 3 ft): down, across, down.",
    "brush-with-the-grain": "Brushed, with the grain.",
    "brush-or-roll": "Brushed or rolled.",
    "floor-roller": "15 mm (5/8 in) pile roller, pores stippled with a brush.",
}


def check_tables(knowledge: Knowledge) -> None:
    """Refuse tables of which one row names what is in none.

    Raises
    ------
    KnowledgeError
        Naming the table, the row and the column.
    """
    for where, value in (*_strangers(knowledge), *_shelf_strangers(knowledge)):
        raise KnowledgeError(f"{where}: no “{value}”.", where)


def _strangers(knowledge: Knowledge) -> Iterator[tuple[str, str]]:
    systems = knowledge.systems
    tags = vocabulary(knowledge)
    for name, rule in systems.rules.items():
        for column in ("when", "any", "unless"):
            for condition in getattr(rule, column):
                yield from ((f"systems.rules.{name}.{column}", tag) for tag in options(condition) if tag not in tags)
        yield from ((f"systems.rules.{name}.add", s) for s in rule.add if s not in systems.steps)
        yield from ((f"systems.rules.{name}.drop", s) for s in rule.drop if s not in systems.steps)
        yield from ((f"systems.rules.{name}.cautions", c) for c in (*rule.cautions, *rule.refuse) if c not in systems.cautions)
        for column, roles in (("primer", ("primer",)), ("spot", ("primer",)), ("finish", ("finish",))):
            value = getattr(rule, column)
            if value is not None and value != "wanted" and (value not in systems.families or systems.families[value].role not in roles):
                yield f"systems.rules.{name}.{column}", value
        if rule.school and rule.school not in systems.schools:
            yield f"systems.rules.{name}.school", rule.school
        if rule.technique is not None and rule.technique not in TECHNIQUES:
            yield f"systems.rules.{name}.technique", rule.technique
        if rule.method is not None and rule.method not in knowledge.methods:
            yield f"systems.rules.{name}.method", rule.method
    for name, caution in systems.cautions.items():
        for condition in (*caution.when, *caution.any):
            yield from ((f"systems.cautions.{name}.when", tag) for tag in options(condition) if tag not in tags)
    for name, step in systems.steps.items():
        yield from ((f"systems.steps.{name}.hazards", c) for c in step.hazards if c not in systems.cautions)
        yield from ((f"systems.steps.{name}.tools", t) for t in step.tools if t not in systems.tools)
        yield from ((f"systems.steps.{name}.ppe", p) for p in step.ppe if p not in systems.ppe)
        for used in step.uses:
            row = systems.consumables.get(used)
            if row is None or not {step.of, *MEASURES} & row.covers.keys():
                yield f"systems.steps.{name}.uses", used if row is None else f"{used} by the {step.of}"
        yield from ((f"systems.steps.{name}.chemicals", c) for c in step.chemicals if c not in knowledge.sundries)
    for name, school in systems.schools.items():
        if school.default not in school.options:
            yield f"systems.schools.{name}.default", school.default


def _shelf_strangers(knowledge: Knowledge) -> Iterator[tuple[str, str]]:
    families = knowledge.systems.families
    materials = {row.family for row in knowledge.substrates.values()}
    for name, product in knowledge.products.items():
        yield from ((f"products.{name}.family", f) for f in (product.family, *product.topped_by) if f not in families)
        yield from ((f"products.{name}.goes_on", f) for f in product.goes_on if f not in materials)
        yield from ((f"products.{name}.not_on", f) for f in product.not_on if f not in knowledge.substrates)
    for name, sundry in knowledge.sundries.items():
        if sundry.family not in families:
            yield f"sundries.{name}.family", sundry.family


def _take_off_strangers(knowledge: Knowledge) -> Iterator[tuple[str, str]]:
    """Rows of labour and applicators name methods, kinds, shapes and textures that are there."""
    shapes = {row.shape for row in knowledge.profiles.values()}
    families = {row.family for row in knowledge.substrates.values()}
    for name, rate in knowledge.labour.items():
        if rate.task != "coat" and rate.task not in knowledge.systems.steps:
            yield f"labour.{name}.task", rate.task
        for column, allowed in (
            ("methods", knowledge.methods), ("kinds", KINDS), ("shapes", shapes), ("textures", knowledge.textures),
            ("techniques", TECHNIQUES), ("extents", knowledge.extents),
        ):  # fmt: skip
            yield from ((f"labour.{name}.{column}", v) for v in getattr(rate, column) if v not in allowed)
    for name, row in knowledge.applicators.items():
        for column, known in (
            ("methods", knowledge.methods), ("kinds", KINDS), ("textures", knowledge.textures), ("families", knowledge.systems.families),
        ):  # fmt: skip
            yield from ((f"applicators.{name}.{column}", v) for v in getattr(row, column) if v not in known)
    for name, life in knowledge.lives.items():
        for column, allowed_here in (("kinds", KINDS), ("families", families), ("primers", knowledge.systems.families)):
            yield from ((f"lives.{name}.{column}", v) for v in getattr(life, column) if v not in allowed_here)

"""Whether the tables hold together: every word by which a row names a row of another table is there."""

from collections.abc import Container, Iterator

from amber_gable.core.knowledge import Knowledge, KnowledgeError
from amber_gable.core.knowledge.rows import TableRow
from amber_gable.core.knowledge.system_rows import ANY_WEATHER, MEASURES
from amber_gable.core.systems.facts import KINDS
from amber_gable.core.systems.tags import options, vocabulary
from amber_gable.units import both

TECHNIQUES = {
    "": "",
    "back-roll": "Sprayed and back-rolled into the pores.",
    "several-angles": "Sprayed from several angles.",
    "panels": both("In panels of 0.6 by 1 m (2 by 3 ft): down, across, down."),
    "brush-with-the-grain": "Brushed, with the grain.",
    "brush-or-roll": "Brushed or rolled.",
    "flat-and-turned": "Flat on trestles, one face; edges with it.",
    "floor-roller": both("15 mm (5/8 in) pile roller, pores stippled with a brush."),
}


def check_tables(knowledge: Knowledge) -> None:
    """Refuse tables of which one row names what is in none.

    Raises
    ------
    KnowledgeError
        Naming the table, the row and the column.
    """
    for where, value in (*_strangers(knowledge), *_referring(knowledge)):
        raise KnowledgeError(f"{where}: no “{value}”.", where)


def references(knowledge: Knowledge) -> Iterator[tuple[str, str, Container[str]]]:
    """Yield every column of every table that names rows of other tables: the table, the column and the words it may hold.

    Tables within the systems are named "systems.steps". Columns hold one word, or a list of them; empty ones name nothing.
    """
    systems = knowledge.systems
    ground = {row.family for row in knowledge.substrates.values()}
    shapes = {row.shape for row in knowledge.profiles.values()}
    roles: dict[str, set[str]] = {}
    for name, family in systems.families.items():
        roles.setdefault(family.role, set()).add(name)
    yield from (
        ("substrates", "cladding", knowledge.claddings),
        ("substrates", "cladding_on_masonry", knowledge.claddings),
        ("substrates", "profile", knowledge.profiles),
        ("substrates", "texture", knowledge.textures),
        ("substrates", "stock", knowledge.stocks),
        ("substrates", "stock_open", knowledge.stocks),
        ("openings", "substrate", knowledge.substrates),
        ("items", "substrate", knowledge.substrates),
        ("conditions", "families", ground),
        ("products", "family", systems.families),
        ("products", "topped_by", systems.families),
        ("products", "goes_on", ground),
        ("products", "not_on", knowledge.substrates),
        ("sundries", "family", systems.families),
        ("systems.families", "suits", ground),
        ("systems.families", "kinds", KINDS),
        ("systems.families", "not_on", knowledge.substrates),
        ("systems.steps", "weather", {ANY_WEATHER, *knowledge.step_weather}),
        ("systems.families", "after", systems.steps),
        ("labour", "task", {"coat", *systems.steps}),
        ("labour", "methods", knowledge.methods),
        ("labour", "kinds", KINDS),
        ("labour", "shapes", shapes),
        ("labour", "textures", knowledge.textures),
        ("labour", "techniques", TECHNIQUES),
        ("labour", "extents", knowledge.extents),
        ("applicators", "methods", knowledge.methods),
        ("applicators", "kinds", KINDS),
        ("applicators", "textures", knowledge.textures),
        ("applicators", "families", systems.families),
        ("lives", "kinds", KINDS),
        ("lives", "families", ground),
        ("lives", "primers", systems.families),
        ("lives", "substrates", knowledge.substrates),
        ("lives", "finishes", systems.families),
        ("exclusions", "families", ground),
        ("systems.steps", "hazards", systems.cautions),
        ("systems.steps", "tools", systems.tools),
        ("systems.steps", "ppe", systems.ppe),
        ("systems.steps", "uses", systems.consumables),
        ("systems.steps", "chemicals", knowledge.sundries),
        ("systems.steps", "mends", knowledge.conditions),
        ("systems.rules", "add", systems.steps),
        ("systems.rules", "drop", systems.steps),
        ("systems.rules", "cautions", systems.cautions),
        ("systems.rules", "refuse", systems.cautions),
        ("systems.rules", "primer", roles["primer"]),
        ("systems.rules", "spot", roles["primer"]),
        ("systems.rules", "bare_primer", roles["primer"]),
        ("systems.rules", "finish", {"wanted", *roles["finish"]}),
        ("systems.rules", "school", systems.schools),
        ("systems.rules", "technique", TECHNIQUES),
        ("systems.rules", "method", knowledge.methods),
    )


def rows_of(knowledge: Knowledge, table: str) -> dict[str, TableRow]:
    """Return the rows of a table by its name, as `references` names it."""
    holder = knowledge.systems if table.startswith("systems.") else knowledge
    rows: dict[str, TableRow] = getattr(holder, table.removeprefix("systems."))
    return rows


def _referring(knowledge: Knowledge) -> Iterator[tuple[str, str]]:
    for table, column, words in references(knowledge):
        for name, row in rows_of(knowledge, table).items():
            value = getattr(row, column)
            for word in (value,) if isinstance(value, str) else value or ():
                if word and word not in words:
                    yield f"{table}.{name}.{column}", word


def _strangers(knowledge: Knowledge) -> Iterator[tuple[str, str]]:
    """Yield what conditions name by tags, and what depends on more than one column."""
    systems = knowledge.systems
    tags = vocabulary(knowledge)
    for name, rule in systems.rules.items():
        for column in ("when", "any", "unless"):
            for condition in getattr(rule, column):
                yield from ((f"systems.rules.{name}.{column}", tag) for tag in options(condition) if tag not in tags)
    for name, caution in systems.cautions.items():
        for condition in (*caution.when, *caution.any):
            yield from ((f"systems.cautions.{name}.when", tag) for tag in options(condition) if tag not in tags)
    for name, step in systems.steps.items():
        for used in step.uses:
            row = systems.consumables.get(used)
            if row is not None and not {step.of, *MEASURES} & row.covers.keys():
                yield f"systems.steps.{name}.uses", f"{used} by the {step.of}"
    for name, school in systems.schools.items():
        if school.default not in school.options:
            yield f"systems.schools.{name}.default", school.default

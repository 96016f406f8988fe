"""Reckonings by what one wants to know, the words by which each is found, and where in a job an answer has its place.

Not here: what a reckoning computes (its own module), or how its page is made (web).
"""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.services.reckonings.entry import Reckoning


@dataclass(frozen=True)
class Group:
    """Reckonings that answer questions of one kind: a question as a painter asks it, and the names in order."""

    title: str
    names: tuple[str, ...]


GROUPS: tuple[Group, ...] = (
    Group("May I paint now?", ("dew-point", "windows", "surface-temperature", "sun-on-surface", "wood-moisture", "drying", "drift")),
    Group("How large is it?", ("gable-area", "roof-area", "height-by-shadow", "height-by-courses", "profile-factor")),
    Group("What goes on it?", ("system", "coats-for-colour", "lrv", "vinyl-safe")),
    Group("How much do I need?", ("coverage", "paint-quantity", "packs", "caulk", "dilution")),
    Group("How do I work?", ("spray-setup", "ladder-sets", "schedule")),
)

# Words that painters use for it, beside those of its title and question.
WORDS: dict[str, str] = {
    "dew-point": "condensation sweat wet humidity damp fog wet bulb frost",
    "windows": "hours weather rain wind may coat tight shut open",
    "surface-temperature": "hot cold wall heat night sky dew",
    "sun-on-surface": "shade direct sunrise sunset light",
    "wood-moisture": "meter dry damp timber deck siding equilibrium",
    "drying": "recoat wait touch dry rain ready cure",
    "drift": "overspray spray wind cars neighbour droplets",
    "gable-area": "wall triangle square feet metres measure",
    "roof-area": "pitch slope rafters metal tile measure",
    "height-by-shadow": "tall eaves ridge measure stick",
    "height-by-courses": "tall bricks clapboards laps rows measure",
    "profile-factor": "lap siding batten corrugated standing seam area",
    "system": "primer prep coats steps spec peeling bare chalk",
    "coats-for-colour": "hiding hide red white dark cover tint",
    "lrv": "lightness dark light heat absorb reflectance colour",
    "vinyl-safe": "siding warp dark plastic colour",
    "coverage": "spread rate solids film mil wet dry square feet gallon",
    "paint-quantity": "gallons litres how much paint need",
    "packs": "cans buckets gallons buy cheapest",
    "caulk": "sealant tubes joint bead cartridges",
    "dilution": "mix bleach cleaner stripper parts water ratio",
    "spray-setup": "tip airless gun pressure fan orifice sprayer",
    "ladder-sets": "moves ladders wall reach",
    "schedule": "plan crew tasks order days",
}


@dataclass(frozen=True)
class Carry:
    """A place in a job where an answer, or what was put in, belongs.

    Parameters
    ----------
    label : str
        What it is there.
    page : str
        Name of the page that has the field.
    fields : tuple of (str, str)
        Each field of that page's form, with the field of the answer, or of the input, that it takes.
    """

    label: str
    page: str
    fields: tuple[tuple[str, str], ...]


_HEIGHTS = (
    Carry("Eaves height of a block", "blocks", (("eaves_height_m", "height_m"),)),
    Carry("Ridge height of a block", "blocks", (("ridge_height_m", "height_m"),)),
)
_COLOUR = (Carry("Colour of a part", "colours", (("hex", "new_hex"),)),)
CARRIES: dict[str, tuple[Carry, ...]] = {
    "dew-point": (Carry("Reading on a wall", "log", (("air_temp_c", "air_temp_c"), ("rel_humidity_pct", "rel_humidity_pct"))),),
    "height-by-shadow": _HEIGHTS,
    "height-by-courses": _HEIGHTS,
    "coats-for-colour": _COLOUR,
    "vinyl-safe": _COLOUR,
    "lrv": (Carry("Colour of a part", "colours", (("hex", "hex"),)),),
}  # fmt: skip


def found_in(registry: Sequence[Reckoning], search: str) -> list[tuple[str, list[Reckoning]]]:
    """Return reckonings by the title of their group; with a search, those that have each of its words at the start of one of theirs."""
    wanted = search.casefold().split()
    by_name = {entry.name: entry for entry in registry}
    out = []
    for group in GROUPS:
        entries = [by_name[name] for name in group.names if _has(by_name[name], wanted)]
        if entries:
            out.append((group.title, entries))
    return out


def _has(entry: Reckoning, wanted: Sequence[str]) -> bool:
    own = (
        f"{entry.title} {entry.question} {entry.name.replace('-', ' ')} {WORDS[entry.name]}".casefold()
        .replace("?", "")
        .replace(",", "")
        .split()
    )
    return all(any(word.startswith(part) for word in own) for part in wanted)

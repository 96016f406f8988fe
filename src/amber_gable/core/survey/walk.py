"""The walk round the house: stations in order, the questions at each, what is still missing.

One thing is asked at a time; an answer is saved before the next is asked.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from amber_gable.units import both

AROUND = "around"
# Not walked to: where a quick survey writes down what it counted.
QUICK = "around-quick"
OF_THE_HOUSE = (AROUND, QUICK)


@dataclass(frozen=True)
class Question:
    """One thing to look at.

    Parameters
    ----------
    key : str
    ask : str
        What to do or look at, in a sentence.
    why : str
        What goes wrong when nobody looks.
    options : tuple of (value, label)
    is_many : bool
        Several may be marked; none of them is the answer "none".
    notes_features : bool
        What is marked is something that stands round the house.
    """

    key: str
    ask: str
    why: str
    options: tuple[tuple[str, str], ...]
    is_many: bool = False
    notes_features: bool = False


@dataclass(frozen=True)
class Station:
    """A place to stand: a wall of the house, or the whole of it."""

    key: str
    name: str


AT_A_WALL: tuple[Question, ...] = (
    Question(
        "grade", "Stand back and look at the whole wall. How is it?", "The worst wall decides the price and the prep.",
        (("good", "Good: sound"), ("fair", "Fair: some spots"), ("poor", "Poor: peeling, cracked or rotten")),
    ),
    Question(
        "openings", "Count the openings. Is the drawing right?", "Every one missed is masking and hours nobody paid for.",
        (("right", "The drawing is right"), ("wrong", "Something is missing or too much")),
    ),
    Question(
        "windows", "Try every window you can reach.", "Painted shut now means broken later, and you were it.",
        (("free", "All open freely"), ("shut", "Some are painted shut"), ("out-of-reach", "Out of reach"), ("no-windows", "No windows here")),
    ),
    Question(
        "damp", "Look for where water comes from.", "Paint on a wet wall fails from behind.",
        (("leaking-gutter", "Leaking gutter or tap"), ("sprinkler", "Sprinkler"), ("wet-ground", "Soil or wet ground at the wall")), True, True,
    ),
    Question(
        "hazard", "Look up, and at the ground.", both("3 m (10 ft) from every wire; nobody on a ladder near wasps."),
        (("power-line", "Wire or service drop"), ("electric-sign", "Electric sign or light"), ("nest", "Nest"), ("wasps", "Wasps or bees"),
         ("steep-ground", "Steep ground"), ("soft-ground", "Soft ground")), True, True,
    ),
    Question(
        "near", "What stands near, within the throw of a sprayer?", "Overspray, dust and water land on it.",
        (("plants", "Plants"), ("car", "Cars"), ("cooling-unit", "Cooling unit"), ("boats", "Boats"), ("water", "Pond or drain"),
         ("furniture", "Furniture"), ("neighbour-wall", "Neighbour's property"), ("path", "A path people use")), True, True,
    ),
    Question(
        "ground", "Where will the ladder stand?", "Even and firm, or another way up.",
        (("firm", "Firm and level"), ("paved", "Paved"), ("soft", "Soft"), ("planted", "Planted bed"), ("water", "Water")),
    ),
)  # fmt: skip
AT_THE_END: tuple[Question, ...] = (
    Question(
        "damage", "Was anything broken before we came?", "Damage that is not written down before the work is put down to the painter.",
        (("none", "Nothing found"), ("pinned", "Pinned and photographed"), ("later", "Still to be pinned")),
    ),
    Question(
        "shade", "Does anything keep the sun off?", "Shaded walls dry late; the tool computes it when it knows.",
        (("none", "Nothing"), ("noted", "Noted under Around the house"), ("later", "Still to be noted")),
    ),
    Question(
        "year", "Has the owner said when it was built?", "Lead and asbestos rules follow from it.",
        (("known", "It is written down"), ("unknown", "Nobody knows: treated as old")),
    ),
)  # fmt: skip


def questions_at(station: str) -> tuple[Question, ...]:
    """Return what is asked at a wall, or at the end round the whole house, in order."""
    return AT_THE_END if station == AROUND else AT_A_WALL


def stations(walls: Sequence[tuple[str, str]]) -> tuple[Station, ...]:
    """Return where to stand, in walking order: each wall by (id, name), then the whole house."""
    return (*(Station(key, name) for key, name in walls), Station(AROUND, "The whole house"))


@dataclass(frozen=True)
class Progress:
    """Progress of a walk: questions answered and asked, and the next one."""

    done: int
    total: int
    next_station: Station | None
    next_question: Question | None


def progress(where: Sequence[Station], answered: Collection[tuple[str, str]]) -> Progress:
    """Return how far a walk has come; `answered` holds (station, question)."""
    left = [(s, q) for s in where for q in questions_at(s.key) if (s.key, q.key) not in answered]
    total = sum(len(questions_at(s.key)) for s in where)
    station, question = left[0] if left else (None, None)
    return Progress(total - len(left), total, station, question)


@dataclass(frozen=True)
class Known:
    """State of the survey, as far as `missing` needs it."""

    year_built: int | None
    walls_without_openings: Sequence[str]
    unknown_coatings: Sequence[str]
    untested: bool
    unacknowledged_damage: int
    windows_not_tried: int
    is_quick: bool


def missing(where: Sequence[Station], answers: Mapping[tuple[str, str], str], already: Known) -> list[str]:
    """Return what is still missing, a sentence each, the weightiest first.

    Parameters
    ----------
    where : sequence of Station
        In walking order.
    answers : mapping of (str, str) to str
        By station and question.
    already : Known
        What the survey has beside the walk.
    """
    absent = ["Measurements: the building is estimated from a quick survey."] if already.is_quick else []
    for station in where:
        open_here = [q for q in questions_at(station.key) if (station.key, q.key) not in answers]
        if open_here:
            absent.append(f"{station.name}: {len(open_here)} of {len(questions_at(station.key))} questions open.")
        if answers.get((station.key, "openings")) == "wrong":
            absent.append(f"{station.name}: the openings in the drawing are not right yet.")
    return absent + unsaid(answers, already)


def unsaid(answers: Mapping[tuple[str, str], str], already: Known) -> list[str]:
    """Return what is still missing beside the stations of the walk, a sentence each; arguments as `missing` takes them."""
    absent = []
    if answers.get((AROUND, "damage")) == "later":
        absent.append("Damage that was there before: still to be pinned and photographed.")
    if answers.get((AROUND, "shade")) == "later":
        absent.append("What keeps the sun off: still to be noted.")
    if already.year_built is None:
        absent.append("The year it was built: until it is known, lead and asbestos rules apply.")
    if already.unacknowledged_damage:
        absent.append(f"{already.unacknowledged_damage} damage there before, not acknowledged by the owner.")
    if already.unknown_coatings:
        names = ", ".join(already.unknown_coatings[:3]) + (" and more" if len(already.unknown_coatings) > 3 else "")
        absent.append(f"What is on it now is not known: {names}.")
    if already.windows_not_tried:
        absent.append(f"{already.windows_not_tried} windows and doors not tried yet.")
    if already.untested:
        absent.append("No test on site yet: rub, tape and moisture at least.")
    if already.walls_without_openings:
        absent.append(f"No opening drawn on {', '.join(already.walls_without_openings[:3])}: is that right?")
    return absent

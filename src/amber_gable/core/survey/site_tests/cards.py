"""The cards: one for each test on site, with its steps, its fields and its verdict."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from amber_gable.core.knowledge import SiteTests
from amber_gable.core.survey.site_tests import judge
from amber_gable.core.survey.site_tests.judge import Subject, TestVerdict
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.units import both

_ALL = ("wood", "cement-board", "vinyl", "metal", "masonry", "roofing")
_MOST_READINGS = 50


@dataclass(frozen=True)
class TestField:
    """A field of a test card: a number within bounds, one of some words, or several numbers."""

    name: str
    label: str
    kind: Literal["number", "choice", "numbers"] = "number"
    low: float = 0.0
    high: float = 100.0
    unit: str = ""
    hint: str = ""
    options: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class TestCard:
    """One test.

    Parameters
    ----------
    key, label, question : str
    steps : tuple of str
        How it is done, one thing at a time.
    families : tuple of str
        Of the substrates it is done on.
    fields : tuple of TestField
    judge : callable
        Values, subject and thresholds to a verdict.
    caution : str
        What could hurt, shown with the steps.
    holds_for_alike : bool
        What it says of one part, it says of others of the same material under the same old coat. What differs from place to
        place (moisture, cracks, pH, lead) is tested at each.
    """

    key: str
    label: str
    question: str
    steps: tuple[str, ...]
    families: tuple[str, ...]
    fields: tuple[TestField, ...]
    judge: Callable[[dict[str, Any], Subject, SiteTests], TestVerdict]
    caution: str = ""
    holds_for_alike: bool = False

    def read(self, values: Mapping[str, Any]) -> dict[str, Any]:
        """Return the values checked.

        Parameters
        ----------
        values : mapping
            Numbers, words, or lists of numbers by field name.

        Raises
        ------
        FieldErrors
            Every fault at once.
        """
        faults: dict[str, str] = {}
        out: dict[str, Any] = {}
        for field in self.fields:
            value = values.get(field.name)
            fault = _fault(field, value)
            if fault:
                faults[field.name] = fault
            else:
                out[field.name] = value
        if faults:
            raise FieldErrors(faults)
        return out


def _fault(field: TestField, value: Any) -> str:
    if field.kind == "choice":
        words = ", ".join(label.lower() for _, label in field.options)
        return "" if isinstance(value, str) and value in dict(field.options) else f"Choose one: {words}."
    span = f"{field.low:g} to {field.high:g}{' ' + field.unit if field.unit else ''}"
    if field.kind == "numbers":
        if not isinstance(value, list) or not value:
            return f"Write the readings down with spaces between, each {span}."
        if len(value) > _MOST_READINGS:
            return f"At most {_MOST_READINGS} readings."
        bad = [v for v in value if not _is_within(field, v)]
        return f"{str(bad[0])[:40]} is not a reading of {span}." if bad else ""
    return "" if _is_within(field, value) else f"Write down a number, {span}."


def _is_within(field: TestField, value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and field.low <= value <= field.high


_YES_NO = (("yes", "Yes"), ("no", "No"))

CARDS: tuple[TestCard, ...] = (
    TestCard(
        "rub", "Rub", "Does it chalk?",
        ("Press a dark cloth or a finger on the wall and rub a hand's length.", "Hold it against the scale: 10 no dust, 8 slight, 6 medium, 4 and less heavy."),
        _ALL, (TestField("rating", "Chalk rating", low=2, high=10, hint="10 no dust, 2 heavy"),), judge.rub,
        holds_for_alike=True,
    ),
    TestCard(
        "water-drop", "Water drop", "Does the wood take water?",
        ("Let one drop fall on bare wood.", "Count the seconds until it has soaked in; stop at two minutes."),
        ("wood",), (TestField("soaks_after_s", "Soaked in after", low=0, high=600, unit="s", hint="120 or more: it beads"),), judge.water_drop,
        holds_for_alike=True,
    ),
    TestCard(
        "tape-pull", "Tape pull", "Do fibres come off?",
        ("Press tape on bare, dry wood.", "Pull it off sharply and look at its back."),
        ("wood",), (TestField("fibres", "On the tape", "choice", options=(("none", "Nothing"), ("few", "A few fibres"), ("many", "Many fibres"))),), judge.tape_pull,
        holds_for_alike=True,
    ),
    TestCard(
        "cross-cut", "Cross-cut", "Does the old paint hold?",
        (both("Cut six lines each way through the paint, 2 mm (1/16 in) apart."), "Press tape on, wait a minute, pull it off flat and quickly.", "Rate what is left: 5 all of it, 0 most is gone."),
        _ALL, (TestField("rating", "Adhesion rating", low=0, high=5, hint="5 nothing lifts, 0 most is gone"),), judge.cross_cut,
        "Not on paint that may hold lead without its rules: it makes chips and dust.", True,
    ),
    TestCard(
        "moisture", "Moisture", "Is it dry enough?",
        ("Press the pins in along the grain, at the worst places first: low, shaded, below sills.", "Write down every reading."),
        ("wood", "masonry", "cement-board"), (TestField("readings_pct", "Readings", "numbers", low=0, high=100, unit="%", hint="like 12 13.5 17"),), judge.moisture,
    ),
    TestCard(
        "crack-width", "Crack width", "How wide is the crack?",
        ("Hold the gauge across the widest crack.", "Mark both its ends with the date: a crack that moves gets more than filler."),
        ("masonry", "cement-board"), (TestField("width_mm", "Widest", low=0, high=50, unit="mm"),), judge.crack_width,
    ),
    TestCard(
        "ph", "pH", "Is it neutral enough?",
        ("Wet the surface with clean water, press the strip on, wait a minute.", "Compare it with its scale."),
        ("wood", "masonry", "cement-board", "roofing"), (TestField("ph", "pH", low=0, high=14),), judge.ph,
        "Gloves and goggles: strippers and fresh cement burn.",
    ),
    TestCard(
        "magnet", "Magnet", "Which metal is it?",
        ("Hold a magnet on it.", "Look along the bottom edge for rust."),
        ("metal",), (TestField("holds", "The magnet holds", "choice", options=_YES_NO), TestField("rust", "Rust to be seen", "choice", options=_YES_NO)), judge.magnet,
        holds_for_alike=True,
    ),
    TestCard(
        "plastic-sheet", "Plastic sheet", "Does water come through?",
        ("Tape half a metre of clear sheet down on all sides, in the shade.", "Take it off the next morning and look at once."),
        ("masonry",), (
            TestField("hours", "Left on for", low=0, high=400, unit="h"),
            TestField("under", "Under it", "choice", options=(("dry", "Dry"), ("darker", "Darker"), ("wet", "Wet or drops"))),
        ), judge.plastic_sheet,
    ),
    TestCard(
        "lead", "Lead", "Is there lead in this paint?",
        ("One component at a time, down to the bare material.", "Write down the reading or the laboratory's result."),
        _ALL, (
            TestField("amount", "Result", low=0, high=1_000_000),
            TestField("unit", "In", "choice", options=(("mg/cm2", "mg/cm²"), ("ppm", "ppm by weight"))),
            TestField("qualified", "By a qualified tester", "choice", options=_YES_NO),
        ), judge.lead,
        "Sample by wet methods only. One negative clears this component and nothing else.",
    ),
)  # fmt: skip


def card_for(key: str) -> TestCard:
    """Return a card.

    Raises
    ------
    NotFoundError
    """
    named = next((card for card in CARDS if card.key == key), None)
    if named is None:
        raise NotFoundError("There is no such test.")
    return named

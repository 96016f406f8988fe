"""Gates: lead, asbestos and silica dust, and what lets work begin.

Lead and asbestos are raised from year, country and material, silica from steps that grind masonry. Nothing is cleared as a whole: one negative test clears the component it was taken from and nothing
else (handbook 12). The tool informs and records; law, label and licensed people decide.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from amber_gable.core.knowledge import Country
from amber_gable.errors import FieldErrors
from amber_gable.units import both, show_names

Hazard = Literal["lead", "asbestos", "silica"]
Basis = Literal["test", "works-under"]
# Those that lie in what is there; silica comes only with grinding.
HAZARDS: tuple[Hazard, ...] = ("lead", "asbestos")
GATES: tuple[Hazard, ...] = (*HAZARDS, "silica")

LEAD_RULES = (
    both("No dry sanding, open flame, hot tools at or above 590 °C (1100 °F), nor pressure washing; no methylene chloride."),
    "Wet methods, HEPA extraction, containment, wind checked; no children near; hands and clothes washed.",
)
ASBESTOS_RULES = ("No washing, sanding, grinding or drilling until it is sampled by who is qualified.",)
SILICA_RULES = ("No grinding of concrete, mortar or render without a shroud on the tool, a vacuum on the shroud, and a fitted respirator.",)
_RULES: dict[Hazard, tuple[str, ...]] = {"lead": LEAD_RULES, "asbestos": ASBESTOS_RULES, "silica": SILICA_RULES}

# What a record must hold, by hazard and basis: field and what it is called.
_WANTED: dict[tuple[str, str], tuple[tuple[str, str], ...]] = {
    ("lead", "test"): (("tester", "who tested"), ("qualification", "the tester's qualification or certificate number"), ("method", "the method")),
    ("asbestos", "test"): (("tester", "who took the sample"), ("qualification", "the laboratory or qualification"), ("method", "the method")),
    ("lead", "works-under"): (
        ("certificate", "the firm's certificate number"), ("notice", "when and how the owner was given notice"), ("containment", "the containment plan"),
    ),
    ("asbestos", "works-under"): (
        ("certificate", "the licensed firm and its licence"), ("notice", "when and how the owner was given notice"), ("containment", "the containment plan"),
    ),
    ("silica", "works-under"): (
        ("shroud", "which tool has its shroud"), ("vacuum", "which vacuum, and the class of its filter"),
        ("respirator", "who wears which respirator, fitted"), ("checked_by", "who checked it"),
    ),
}  # fmt: skip


@dataclass(frozen=True)
class Component:
    """A part that may hold a hazard: a surface, by its id, name and what it is made of."""

    id: str
    name: str
    may_hold_asbestos: bool
    has_old_coating: bool = True


@dataclass(frozen=True)
class Record:
    """A clearance on record. `component_id` None means the whole job, which only working under rules can cover."""

    hazard: Hazard
    basis: Basis
    component_id: str | None
    negative: bool = True


@dataclass(frozen=True)
class Gate:
    """State of one hazard on a job.

    Parameters
    ----------
    is_raised : bool
    why : str
        What raised it, in words.
    state : {"closed", "partly", "works-under", "cleared", "not raised"}
    open_components, cleared_components : tuple of str
        Ids.
    rules : tuple of str
        What is forbidden while it is not cleared.
    """

    hazard: Hazard
    is_raised: bool
    why: str
    state: str
    open_components: tuple[str, ...]
    cleared_components: tuple[str, ...]
    rules: tuple[str, ...]

    @property
    def held_up(self) -> str:
        """Return what cannot start while it is closed, and what opens it, in words."""
        if self.hazard == "silica":
            return "Grinding cannot start"
        return "Preparation cannot start"

    @property
    def opened_by(self) -> str:
        if self.hazard == "silica":
            return "Opened by a record of shroud, vacuum and respirator."
        return "Cleared part by part, by a qualified test on record; or worked under with certificate, notice and containment plan."

    def blocks(self, component_id: str) -> bool:
        """Return whether preparation of a component cannot start."""
        return self.state != "works-under" and component_id in self.open_components


def _raised(hazard: Hazard, threshold: int | None, year_built: int | None, suspects: int) -> tuple[bool, str]:
    noun = "lead paint" if hazard == "lead" else "asbestos"
    if hazard == "asbestos" and not suspects:
        return False, "nothing here is made of what may hold it"
    if threshold is None:
        return True, f"the local year before which {noun} was used is not entered; until it is, it counts as {noun}"
    if year_built is None:
        return True, "the year it was built is not known"
    if year_built < threshold:
        return True, f"built {year_built}, before {threshold}"
    return False, f"built {year_built}, not before {threshold}"


def gate(
    hazard: Hazard,
    year_built: int | None,
    country: Country,
    components: Sequence[Component],
    records: Sequence[Record],
    own_threshold: int | None = None,
) -> Gate:
    """Return how a hazard stands.

    Parameters
    ----------
    year_built : int or None
        None where nobody knows: it counts as old.
    country : Country
        Its threshold years, where the tables have them.
    components : sequence of Component
        All that work may disturb.
    records : sequence of Record
    own_threshold : int, optional
        The year the contractor entered, which wins over the table.
    """
    suspects = [c for c in components if (c.has_old_coating if hazard == "lead" else c.may_hold_asbestos)]
    table = country.lead_before_year if hazard == "lead" else country.asbestos_before_year
    is_raised, why = _raised(hazard, own_threshold or table, year_built, len(suspects))
    of_hazard = [r for r in records if r.hazard == hazard]
    positives = {r.component_id for r in of_hazard if r.basis == "test" and not r.negative}
    if positives and not is_raised:
        is_raised, why = True, "a test was positive"
    if not is_raised:
        return Gate(hazard, False, why, "not raised", (), (), ())
    cleared = _cleared(of_hazard, positives)
    still = tuple(c.id for c in suspects if c.id not in cleared)
    done = tuple(c.id for c in suspects if c.id in cleared)
    under = any(r.basis == "works-under" for r in of_hazard)
    state = "cleared" if not still else "works-under" if under else "partly" if done else "closed"
    return Gate(hazard, True, why, state, still, done, _RULES[hazard])


def silica_gate(ground: Sequence[Component], records: Sequence[Record]) -> Gate:
    """Return how silica stands: raised by every part whose steps grind, opened by equipment on record (handbook 12).

    Parameters
    ----------
    ground : sequence of Component
        Parts whose steps grind masonry.
    records : sequence of Record
    """
    if not ground:
        return Gate("silica", False, "nothing here is ground", "not raised", (), (), ())
    why = f"grinding on {show_names([c.name for c in ground], 3)}"
    under = any(r.hazard == "silica" and r.basis == "works-under" for r in records)
    return Gate("silica", True, why, "works-under" if under else "closed", tuple(c.id for c in ground), (), SILICA_RULES)


def _cleared(records: Sequence[Record], positives: Collection[str | None]) -> set[str]:
    """Return the components that a negative test cleared; a positive one on the same part outweighs it."""
    return {r.component_id for r in records if r.basis == "test" and r.negative and r.component_id is not None} - set(positives)


def check_record(hazard: str, basis: str, component_id: str | None, details: Mapping[str, str]) -> None:
    """Refuse a record that would not stand.

    Parameters
    ----------
    hazard : str
        "lead", "asbestos" or "silica".
    basis : str
        "test" or "works-under".
    component_id : str or None
        The part that was tested.
    details : mapping of str to str
        Who, how, when, with which result.

    Raises
    ------
    FieldErrors
    """
    wanted = _WANTED.get((hazard, basis))
    if hazard not in _RULES:
        raise FieldErrors({"hazard": "Choose lead, asbestos or silica."})
    if hazard == "silica" and basis == "test":
        raise FieldErrors({"basis": "No test clears silica: it comes with the grinding. Put shroud, vacuum and respirator on record."})
    if wanted is None:
        raise FieldErrors({"basis": "Choose a qualified test of one part, or working under the rules."})
    faults = {
        name: f"Write down {words}; without it the record would not stand." for name, words in wanted if not details.get(name, "").strip()
    }
    if basis == "test":
        if component_id is None:
            faults["surface_id"] = "Choose the part that was tested: one negative clears nothing else."
        if details.get("result") not in ("negative", "positive"):
            faults["result"] = "Say whether the result was negative or positive."
        try:
            date.fromisoformat(details.get("tested_on", ""))
        except ValueError:
            faults["tested_on"] = "Give the date of the test."
    if faults:
        raise FieldErrors(faults)

"""Overrides: what a painter changed in a system by hand, laid over what the rules say.

An edit is never undone silently: where it goes against a rule, the engine says what it would warn
about and lets it stand. Edits name steps by key, so they survive a new survey; one whose step is not
there any more is told, not dropped.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from amber_gable.core.knowledge import Knowledge, Phase, Wait
from amber_gable.core.knowledge.system_rows import ANY_WEATHER
from amber_gable.core.systems.facts import Facts
from amber_gable.core.systems.rules import Reason
from amber_gable.core.systems.specify import Step, System, as_labelled, blocked_by, cautions_of, late_tags
from amber_gable.errors import FieldErrors

Op = Literal["drop", "add", "move", "replace", "note"]
# What must come before what: coming out of this order is told. Clearing and putting back may stand anywhere.
_DUSTED = "dusting off"
_IN_ORDER: Mapping[Phase | str, str] = {
    Phase.CLEAN: "what is wet", Phase.PROVE: "drying", Phase.MEND: "scraping, filling and sanding", _DUSTED: _DUSTED,
    Phase.CAULK: "caulking and masking", Phase.MASK: "caulking and masking", Phase.PRIME: "priming", Phase.COAT: "coats",
    Phase.SEAL: "coats",
}  # fmt: skip
_STRETCHES = tuple(dict.fromkeys(_IN_ORDER.values()))
# The step that closes mending: what is sanded after it is dusted again.
_DUST = "dust"


@dataclass(frozen=True)
class Edit:
    """One change by hand.

    Parameters
    ----------
    op : {"drop", "add", "move", "replace", "note"}
    step : str
        The key it is about; of "add", the step of the table that is put in, or "own" for words of one's own, which
        become "own 1", "own 2".
    after : str
        For "add" and "move": behind which step; empty for the beginning.
    instead : str
        For "replace": the step of the table that takes its place.
    note : str
        Why; for "own", what is done.
    """

    op: Op
    step: str
    after: str = ""
    instead: str = ""
    note: str = ""


def check_edit(edit: Edit, system: System, knowledge: Knowledge) -> None:
    """Refuse an edit that means nothing.

    Parameters
    ----------
    edit : Edit
    system : System
        That it changes.
    knowledge : Knowledge

    Raises
    ------
    FieldErrors
    """
    keys = {s.key for s in system.steps}
    faults = {}
    table = knowledge.systems.steps
    if edit.op == "add":
        if edit.step != "own" and edit.step not in table:
            faults["step"] = "Choose a step from the list."
        if edit.step == "own" and not edit.note.strip():
            faults["note"] = "Say what is to be done."
        if edit.step != "own" and edit.step in keys:
            faults["step"] = "This step is there already. Move it instead."
    elif edit.step not in keys:
        faults["step"] = "This step is not there (any more)."
    if edit.op in ("add", "move") and edit.after and edit.after not in keys:
        faults["after"] = "Choose behind which step."
    if edit.op == "move" and edit.after == edit.step:
        faults["after"] = "A step cannot stand behind itself."
    if edit.op == "replace" and (edit.instead not in table or edit.instead in keys):
        faults["instead"] = "Choose another step from the list."
    if edit.op == "note" and not edit.note.strip():
        faults["note"] = "Write the note."
    if len(edit.note) > 500:
        faults["note"] = "Shorten the note to 500 characters."
    if faults:
        raise FieldErrors(faults)


def check_known(edit: Edit, knowledge: Knowledge) -> None:
    """Refuse an edit that names no step of the table, wherever it came from; one whose step is gone is told, not refused.

    Raises
    ------
    FieldErrors
    """
    table = knowledge.systems.steps
    faults = {}
    if edit.op == "add" and edit.step != "own" and edit.step not in table:
        faults["step"] = f"There is no step “{edit.step}”."
    if edit.op == "replace" and edit.instead not in table:
        faults["instead"] = f"There is no step “{edit.instead}”."
    if faults:
        raise FieldErrors(faults)


def _by_hand(note: str) -> Reason:
    return Reason("", note.strip() or "Decided by the painter.", (), "", "by hand")


def _from_table(key: str, edit: Edit, knowledge: Knowledge, phase: Phase, number: int = 0) -> Step:
    if key == "own":
        return Step(
            f"own {number}", edit.note.strip(), phase, "", "", 0, 0.0, "once", Wait(), ANY_WEATHER, (), (), (),
            (), "Done as written.", (), (_by_hand(edit.note),), "by hand",
        )  # fmt: skip
    row = knowledge.systems.steps[key]
    does, wait = as_labelled(row, row.wait, knowledge)
    return Step(
        key, row.label, phase, does, "", 0, row.rate, row.of, wait, row.weather, row.tools, row.uses, row.chemicals, row.ppe,
        row.check, (), (_by_hand(edit.note),), row.source,
    )  # fmt: skip


def _place(steps: list[Step], step: Step, after: str) -> None:
    index = next((i + 1 for i, s in enumerate(steps) if s.key == after), 0)
    steps.insert(index, step)


def _out_of_order(steps: Sequence[Step]) -> list[str]:
    """Return what stands before something that must come first."""
    faults = []
    names = [(s, _IN_ORDER[_DUSTED if s.key == _DUST else s.phase]) for s in steps if s.phase in _IN_ORDER]
    for i, (first, name) in enumerate(names):
        for later, sooner in names[i + 1 :]:
            if _STRETCHES.index(name) > _STRETCHES.index(sooner):
                faults.append(f"{first.label} comes before {later.label.lower()}: {sooner} comes first.")
    return faults


def apply(system: System, edits: Sequence[Edit], facts: Facts, knowledge: Knowledge) -> tuple[System, tuple[str, ...]]:
    """Return the system with a painter's edits, and what the engine would warn about.

    Parameters
    ----------
    system : System
        As the rules say.
    edits : sequence of Edit
        In the order they were made.
    """
    if not edits:
        return system, ()
    steps = list(system.steps)
    warnings: list[str] = []
    for edit in edits:
        at = next((i for i, s in enumerate(steps) if s.key == edit.step), None)
        if edit.op == "add":
            behind = next((s for s in steps if s.key == edit.after), None)
            own = behind.phase if behind else Phase.CLEAR
            phase = own if edit.step == "own" else knowledge.systems.steps[edit.step].phase
            against = system.forbidden.get(edit.step)
            if against:
                warnings.append(f"{knowledge.systems.steps[edit.step].label}: the rules forbid it. {against[0].why}")
            if at is None or edit.step == "own":
                number = 1 + sum(not s.family and s.key not in knowledge.systems.steps for s in steps)
                _place(steps, _from_table(edit.step, edit, knowledge, phase, number), edit.after)
            continue
        if at is None:
            label = knowledge.systems.steps[edit.step].label if edit.step in knowledge.systems.steps else edit.step
            warnings.append(f"Your change of “{label}” has nothing to stand on any more: the step is gone.")
            continue
        step = steps[at]
        if edit.op == "drop":
            steps.pop(at)
            warnings.append(f"{step.label} was dropped: {step.reasons[0].why}")
        elif edit.op == "move":
            steps.pop(at)
            _place(steps, step, edit.after)
        elif edit.op == "replace":
            steps[at] = _from_table(edit.instead, edit, knowledge, step.phase)
            warnings.append(f"{step.label} was replaced by {steps[at].label.lower()}: {step.reasons[0].why}")
        else:
            steps[at] = replace(step, reasons=(_by_hand(edit.note), *step.reasons))
    warnings += _out_of_order(steps)
    rows = knowledge.systems.steps
    # A step put in by hand is held to the gates like any other.
    steps = [replace(s, blocked_by=blocked_by(rows[s.key], facts) or s.blocked_by) if s.key in rows else s for s in steps]
    # What was put in brings its hazards, what was left out takes them along.
    keys = [s.key for s in steps if s.key in rows]
    tags = system.tags.early().with_more(late_tags(keys, system.decided, facts, knowledge))
    cautions = cautions_of(keys, system.ruled_cautions, tags, knowledge)
    return replace(system, steps=tuple(steps), tags=tags, cautions=cautions), tuple(dict.fromkeys(warnings))

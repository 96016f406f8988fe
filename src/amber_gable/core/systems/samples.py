"""Samples: a colour brushed out on the wall and approved by signature, and patches that test whether a system holds.

A colour on a screen never counts (handbook 2.2).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from amber_gable.errors import FieldErrors

BRUSH_OUT, TEST_PATCH = "brush-out", "test-patch"
# A doubtful ground is given so long before a firm price (handbook 2.2) [days].
PATCH_DAYS, PATCH_MOST_DAYS = 7, 14
# What names a colour so that the next can is the same one.
COLOUR = (("code", "the colour's code"), ("sheen", "the sheen"), ("base", "the base"), ("batch", "the batch"))


@dataclass(frozen=True)
class SampleFacts:
    """A sample on a part: its kind, its day, and for a patch the day of its result."""

    kind: str
    part: str
    made_on: str
    details: Mapping[str, str]
    due_on: str | None = None
    note: str = ""

    def check(self, today: date) -> None:
        """Refuse what would prove nothing.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        made = _day(self.made_on)
        if self.kind not in (BRUSH_OUT, TEST_PATCH):
            faults["kind"] = "Choose a brush-out or a test patch."
        if made is None or made > today:
            faults["made_on"] = "Give the day it was put on, today or before."
        if self.kind == BRUSH_OUT:
            for name, words in COLOUR:
                if not self.details.get(name, "").strip():
                    faults[name] = f"Write down {words}: without it nobody can buy the same again."
        if self.kind == TEST_PATCH and made is not None:
            due = _day(self.due_on or "")
            if due is None or not timedelta(days=PATCH_DAYS) <= due - made <= timedelta(days=PATCH_MOST_DAYS):
                faults["due_on"] = f"Look at it {PATCH_DAYS} to {PATCH_MOST_DAYS} days after it was put on."
        if len(self.note) > 500:
            faults["note"] = "Shorten the note to 500 characters."
        if faults:
            raise FieldErrors(faults)


def _day(text: str) -> date | None:
    try:
        return date.fromisoformat(text)
    except ValueError:
        return None


def check_result(kind: str, due_on: str | None, result: str, signed_by: str, today: date) -> None:
    """Refuse a result that nobody signed, or one that came too soon.

    Parameters
    ----------
    kind : str
        Brush-out or test patch.
    due_on : str or None
        ISO date before which a patch has no result.
    result, signed_by : str
        As they were typed.
    today : date

    Raises
    ------
    FieldErrors
    """
    faults = {}
    if result not in (("approved", "rejected") if kind == BRUSH_OUT else ("holds", "fails")):
        faults["result"] = "Choose how it came out."
    if not signed_by.strip():
        faults["signed_by"] = "Write who approves: the owner's name." if kind == BRUSH_OUT else "Write who looked at it."
    due = _day(due_on or "")
    if kind == TEST_PATCH and result == "holds" and due is not None and today < due:
        faults["result"] = f"Too soon: it is due on {due.isoformat()}. A patch that fails may be written down at once."
    if faults:
        raise FieldErrors(faults)

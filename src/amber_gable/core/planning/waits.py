"""Waits: what must be over before the next step, in hours and in words.

Not here: how long it takes in the weather of a wall (windows.steps, coats).
"""

from amber_gable.core.knowledge import Knowledge, Wait

_LONG_H = 48.0


def usual_wait_h(wait: Wait, label_h: float, knowledge: Knowledge) -> float:
    """Return what a wait takes on the average, until the windows say more [h].

    Parameters
    ----------
    wait : Wait
    label_h : float
        The recoat time of what was put on; 0 for preparation.
    """
    if wait.law == "label":
        return max(wait.hours, label_h)
    return wait.hours or knowledge.waits[wait.law].usual_h


def wait_words(wait: Wait, knowledge: Knowledge, label_h: float | None = None) -> str:
    """Return what is waited for after a step, "24 h", "until dry"; empty for nothing.

    Parameters
    ----------
    label_h : float, optional
        The recoat time of the product that is put on.
    """
    words = knowledge.waits[wait.law].words
    if wait.law == "label":
        hours = max(wait.hours, label_h or 0.0)
        return f"{hours:g} h by the label" if hours else words
    fixed = f"{wait.hours / 24:g} days" if wait.hours >= _LONG_H else f"{wait.hours:g} h" if wait.hours else ""
    return " and ".join(w for w in (fixed, words) if w)

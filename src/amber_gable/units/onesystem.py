"""Our own texts that give a quantity in both systems: "3 m (10 ft)" is read as "10 ft" in a US job.

Such a quantity is marked where the text is ours (`both`: tables, messages, pages), and one of its two readings is chosen where the text is
shown. What a person typed is never marked, and stays as it was typed.
"""

import re

from amber_gable.units.show import System, show

_NUMBER = r"[\-−]?\d[\d,]*(?:\.\d+)?(?:[  ]\d+/\d+|/\d+)?"
_SPAN = rf"{_NUMBER}(?:\s(?:to|by|and|or)\s{_NUMBER})?"
_SI = r"(?:mm|cm|m|km|µm|ml|L|°C|bar|kg|m/s|km/h|m²|m2|m²/L|m2/L)"
_US = r"(?:in|ft|mil|miles?|gal|qt|oz|fl\soz|°F|psi|lb|mph|ft²|ft2|ft²/gal|ft2/gal)"
_IN_BRACKETS = re.compile(rf"(?<=\s)\((?:(?P<us>{_SPAN}\s{_US})|(?P<si>{_SPAN}\s{_SI}))\)")
_BEFORE = {"us": re.compile(rf"(?<![\d.,/]){_SPAN}\s{_SI}$"), "si": re.compile(rf"(?<![\d.,/]){_SPAN}\s{_US}$")}
_IS_SI = re.compile(rf"\s{_SI}$")
_TWO = re.compile(r"\s(?:to|by|and|or)\s")
# More letters than any quantity that stands before its bracket.
_FAR = 48


# Stands before and after a quantity that may be read in either system: it is not seen, and no keyboard types it.
MARK = "\u2063"
_MARKED = re.compile(rf"{MARK}(?P<first>[^{MARK}(]+?)\s\((?P<second>[^{MARK})]+)\){MARK}")


def both(text: str) -> str:
    """Return a text of ours with each quantity that it gives in both systems marked; texts that people typed never come here."""
    out, done = [], 0
    for bracket in _IN_BRACKETS.finditer(text):
        end = bracket.start() - 1
        before = _BEFORE["us" if bracket["us"] else "si"].search(text[max(done, end - _FAR) : end])
        if before is None:
            continue
        out += [text[done : end - len(before[0])], MARK, before[0], " ", bracket[0], MARK]
        done = bracket.end()
    return "".join([*out, text[done:]])


def both_of(value: float, kind: str) -> str:
    """Return a quantity in SI, marked, in both systems, rounded as `show` does."""
    return f"{MARK}{show(value, kind, 'metric')} ({show(value, kind, 'us')}){MARK}"


def in_one_system(text: str, system: System) -> str:
    """Return a text with each marked quantity in one system.

    Parameters
    ----------
    text : str
        Words or HTML; what is not marked is left as it is.
    system : {"us", "metric"}
    """

    def chosen(quantity: re.Match[str]) -> str:
        first, second = quantity["first"], quantity["second"]
        us, si = (first, second) if _IS_SI.search(second) else (second, first)
        return _chosen(us, si, system) or f"{first} ({second})"

    return _MARKED.sub(chosen, text) if MARK in text else text


def in_both(text: str) -> str:
    """Return a text in which marked quantities are given in both systems, for files and programs that know no reader."""
    return text.replace(MARK, "")


def _chosen(us: str, si: str, system: System) -> str:
    """Return the one of two readings that is kept; empty where they do not match."""
    ours, theirs = (us, si) if system == "us" else (si, us)
    if bool(_TWO.search(ours)) == bool(_TWO.search(theirs)):
        return ours
    # "0 to 20 m (65 ft)": only the last number has its other reading; nothing is nothing in any unit.
    if theirs.startswith("0 to "):
        return f"0 to {ours}"
    return ours if ours.startswith("0 to ") else ""

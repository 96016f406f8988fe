"""Texts that give a quantity in both systems, cut down to the reader's own: "3 m (10 ft)" is "10 ft" in a US job."""

import re

from amber_gable.units.show import System

_NUMBER = r"[\-−]?\d[\d,]*(?:\.\d+)?(?:[  ]\d+/\d+|/\d+)?"
_SPAN = rf"{_NUMBER}(?:\s(?:to|by|and|or)\s{_NUMBER})?"
_SI = r"(?:mm|cm|m|km|µm|ml|L|°C|bar|kg|m/s|km/h|m²|m2|m²/L|m2/L)"
_US = r"(?:in|ft|mil|miles?|gal|qt|oz|fl\soz|°F|psi|lb|mph|ft²|ft2|ft²/gal|ft2/gal)"
# The bracket is looked for first: it is rare, and a page of drawings holds tens of thousands of numbers.
_IN_BRACKETS = re.compile(rf"(?<=\s)\((?:(?P<us>{_SPAN}\s{_US})|(?P<si>{_SPAN}\s{_SI}))\)")
_BEFORE = {"us": re.compile(rf"(?<![\d.,/]){_SPAN}\s{_SI}$"), "si": re.compile(rf"(?<![\d.,/]){_SPAN}\s{_US}$")}
_TWO = re.compile(r"\s(?:to|by|and|or)\s")
# More letters than any quantity that stands before its bracket.
_FAR = 48


def in_one_system(text: str, system: System) -> str:
    """Return a text with each quantity that it gives in both systems in one of them.

    Parameters
    ----------
    text : str
        Words or HTML; what stands in one system only is left as it is.
    system : {"us", "metric"}
    """
    out, done = [], 0
    for bracket in _IN_BRACKETS.finditer(text):
        kind = "us" if bracket["us"] else "si"
        end = bracket.start() - 1
        before = _BEFORE[kind].search(text[max(done, end - _FAR) : end])
        if before is None:
            continue
        us, si = (bracket["us"], before[0]) if kind == "us" else (before[0], bracket["si"])
        chosen = _chosen(us, si, system)
        if chosen:
            out += [text[done : end - len(before[0])], chosen]
            done = bracket.end()
    return "".join([*out, text[done:]]) if out else text


def _chosen(us: str, si: str, system: System) -> str:
    """Return the one of two readings that is kept; empty where they do not match."""
    ours, theirs = (us, si) if system == "us" else (si, us)
    if bool(_TWO.search(ours)) == bool(_TWO.search(theirs)):
        return ours
    # "0 to 20 m (65 ft)": only the last number has its other reading; nothing is nothing in any unit.
    if theirs.startswith("0 to "):
        return f"0 to {ours}"
    return ours if ours.startswith("0 to ") else ""

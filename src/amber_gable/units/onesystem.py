"""Texts that give a quantity in both systems, cut down to the reader's own: "3 m (10 ft)" is "10 ft" in a US job."""

import re

from amber_gable.units.show import System

_NUMBER = r"[\-−]?\d[\d,]*(?:\.\d+)?(?:[  ]\d+/\d+|/\d+)?"
_SPAN = rf"{_NUMBER}(?:\s(?:to|by|and|or)\s{_NUMBER})?"
_SI = r"(?:mm|cm|m|km|µm|ml|L|°C|bar|kg|m/s|km/h|m²|m2|m²/L|m2/L)"
_US = r"(?:in|ft|mil|miles?|gal|qt|oz|fl\soz|°F|psi|lb|mph|ft²|ft2|ft²/gal|ft2/gal)"
_TWO = re.compile(r"\s(?:to|by|and|or)\s")
_BOTH = re.compile(rf"(?P<si>{_SPAN}\s{_SI})\s\((?P<us>{_SPAN}\s{_US})\)|(?P<us_first>{_SPAN}\s{_US})\s\((?P<si_last>{_SPAN}\s{_SI})\)")


def in_one_system(text: str, system: System) -> str:
    """Return a text with each quantity that it gives in both systems in one of them.

    Parameters
    ----------
    text : str
        Words or HTML; what stands in one system only is left as it is.
    system : {"us", "metric"}
    """

    def chosen(both: re.Match[str]) -> str:
        si, us = both["si"] or both["si_last"], both["us"] or both["us_first"]
        ours, theirs = (us, si) if system == "us" else (si, us)
        if bool(_TWO.search(ours)) == bool(_TWO.search(theirs)):
            return ours
        # "0 to 20 m (65 ft)": only the last number has its other reading; nothing is nothing in any unit.
        if si.startswith("0 to "):
            return ours if _TWO.search(ours) else f"0 to {ours}"
        return both[0]

    return _BOTH.sub(chosen, text)

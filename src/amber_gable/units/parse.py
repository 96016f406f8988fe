"""Reading the notation painters use: `32' 6 1/2"`, `9.9 m`, `400 ft2/gal`, `7 mil`, `50F`.

A small parser of our own, since general unit parsers take `'` for minutes of arc, `F` for farads
and `mil` for an angle. A bare number takes the unit the field stands in.
"""

import math
import re
from datetime import date

from amber_gable.errors import PlanError
from amber_gable.units.convert import convert

# Spellings accepted per kind of quantity, each to our symbol; the first entry is the SI unit.
_SPELLINGS: dict[str, dict[str, str]] = {
    "length": {
        "m": "m", "meter": "m", "meters": "m", "metre": "m", "metres": "m", "cm": "cm", "mm": "mm",
        "'": "ft", "ft": "ft", "foot": "ft", "feet": "ft",
        '"': "in", "in": "in", "inch": "in", "inches": "in", "yd": "yd",
    },
    # Dimensions of a board, a slat, a crack: the same notation, millimetres inside.
    "small length": {
        "mm": "mm", "cm": "cm", "m": "m", "'": "ft", "ft": "ft", '"': "in", "in": "in", "inch": "in", "inches": "in",
    },
    "area": {"m2": "m2", "m²": "m2", "sqm": "m2", "ft2": "ft2", "ft²": "ft2", "sqft": "ft2", "sf": "ft2"},
    "temperature": {"c": "C", "°c": "C", "degc": "C", "f": "F", "°f": "F", "degf": "F"},
    "temperature difference": {"c": "dC", "°c": "dC", "f": "dF", "°f": "dF"},
    "speed": {"m/s": "m/s", "mps": "m/s", "km/h": "km/h", "kmh": "km/h", "mph": "mph", "kn": "kn"},
    "spread": {
        "m2/l": "m2/L", "m²/l": "m2/L", "sqm/l": "m2/L",
        "ft2/gal": "ft2/gal", "ft²/gal": "ft2/gal", "sqft/gal": "ft2/gal", "sf/gal": "ft2/gal",
    },
    "film": {"um": "um", "µm": "um", "μm": "um", "micron": "um", "microns": "um", "mil": "mil", "mils": "mil"},
    "rate": {"m2/h": "m2/h", "m²/h": "m2/h", "ft2/h": "ft2/h", "ft²/h": "ft2/h", "sqft/h": "ft2/h"},
    "volume": {
        "l": "L", "litre": "L", "litres": "L", "liter": "L", "liters": "L", "ml": "mL",
        "gal": "gal", "gallon": "gal", "gallons": "gal", "qt": "qt", "quart": "qt", "quarts": "qt",
    },
    "time": {"h": "h", "hr": "h", "hrs": "h", "hour": "h", "hours": "h", "min": "min"},
}  # fmt: skip

_EXAMPLE = {
    "length": "32' 6\", 32.5 ft or 9.9 m",
    "small length": '4 1/2" or 114 mm',
    "area": "640 ft2 or 60 m2",
    "temperature": "50F or 10 °C",
    "temperature difference": "5F or 3 °C",
    "speed": "20 mph or 9 m/s",
    "spread": "400 ft2/gal or 10 m2/L",
    "film": "4 mil or 100 um",
    "rate": "110 ft2/h or 10 m2/h",
    "volume": "2 gal, 3 qt or 7.5 L",
    "time": "4 h or 90 min",
}

_QUOTES = str.maketrans({"’": "'", "′": "'", "‘": "'", "”": '"', "″": '"', "“": '"', "−": "-", "\u00a0": " "})
_NUMBER = r"\d+(?:\.\d+)?|\.\d+"
_UNIT = r"\s*(?P<unit>[^\d\s.,/+-][^\d\s]*(?:2/\w+|2)?)?"
# ASCII: digits of other scripts are no numbers here.
_TERM = re.compile(rf"\s*(?:(?P<number>{_NUMBER})(?!/))?(?:[\s-]*(?P<top>\d+)/(?P<bottom>\d+))?{_UNIT}", re.ASCII)

_COUNTED = re.compile(r"(?P<count>\d+(?:\.\d+)?)\s*[xX×*]\s*(?P<each>[^xX×*]+)", re.ASCII)
# Nobody types a longer quantity.
_LONGEST = 60


# Days that a firm plans or remembers; beyond them a week would end outside the calendar.
_FIRST_DAY, _LAST_DAY = date(1900, 1, 1), date(2200, 1, 1)


def day_in(text: str) -> date | None:
    """Return the day that a text is, as 2026-09-15; None for anything else, and for days that no firm lives to see."""
    try:
        day = date.fromisoformat(text.strip()) if len(text) <= _LONGEST else None
    except ValueError:
        return None
    return day if day is not None and _FIRST_DAY <= day <= _LAST_DAY else None


class QuantityError(PlanError):
    """Text that is not a quantity of the wanted kind, or out of its range."""


def _plain_decimal(text: str, kind: str) -> str:
    """Let a comma be the decimal sign (`9,9 m`) where it cannot be a thousands separator."""
    if "," not in text:
        return text
    if re.search(r"[0-9],[0-9]{3}(?![0-9])", text) and not re.search(r",[0-9]{1,2}(?![0-9])", text):
        return text.replace(",", "")
    if text.count(",") == 1 and "." not in text:
        return text.replace(",", ".")
    raise QuantityError(f"Cannot read “{text}”. Type it like {_EXAMPLE[kind]}.")


def _terms(text: str, kind: str) -> list[tuple[float, str]]:
    terms: list[tuple[float, str]] = []
    at = 0
    while text[at:].strip():
        match = _TERM.match(text, at)
        if not match or match.end() == at or not (match["number"] or match["top"]):
            raise QuantityError(f"Cannot read “{text}”. Type it like {_EXAMPLE[kind]}.")
        value = float(match["number"] or 0)
        if match["top"]:
            if int(match["bottom"]) == 0:
                raise QuantityError(f"Cannot read “{text}”: a fraction cannot have 0 below the line.")
            value += int(match["top"]) / int(match["bottom"])
        terms.append((value, (match["unit"] or "").lower()))
        at = match.end()
    return terms


def parse(text: str, kind: str, default_unit: str) -> float:
    """Return the quantity that `text` names, in SI.

    Parameters
    ----------
    text : str
        What the user typed. Feet and inches may follow one another, with fractions of an inch; a length
        may be counted in courses, `49 x 4 1/2"`.
    kind : str
        "length" [m], "small length" [mm], "area" [m2], "temperature" [°C], "temperature difference" [K], "speed" [m/s],
        "spread" [m2/L], "film" [µm], "rate" [m2/h], "volume" [L] or "time" [h].
    default_unit : str
        Symbol that a bare number is taken in, e.g. "ft".

    Raises
    ------
    QuantityError
        If the text cannot be read; the message shows how to type it.
    """
    spellings = _SPELLINGS[kind]
    if len(text.strip()) > _LONGEST:
        raise QuantityError(f"This is too long for a {kind}. Type it like {_EXAMPLE[kind]}.")
    clean = _plain_decimal(text.strip().translate(_QUOTES), kind)
    if not clean:
        raise QuantityError(f"Fill this in, for example {_EXAMPLE[kind]}.")
    sign = 1.0
    if clean[0] in "+-":
        sign = -1.0 if clean[0] == "-" else 1.0
        clean = clean[1:]
    counted = _COUNTED.fullmatch(clean) if kind == "length" else None
    if counted:
        # Courses counted and one of them measured: 49 x 4 1/2".
        return sign * float(counted["count"]) * parse(counted["each"], kind, default_unit)
    terms = _terms(clean, kind)
    if not terms:
        raise QuantityError(f"Cannot read “{text}”. Type it like {_EXAMPLE[kind]}.")
    units: list[str] = []
    for position, (_, spelling) in enumerate(terms):
        if spelling and spelling not in spellings:
            raise QuantityError(f"“{spelling}” is not a unit of {kind}. Type it like {_EXAMPLE[kind]}.")
        # 32' 6: the 6 without a mark can only mean inches.
        after_feet = position > 0 and units[-1] == "ft"
        units.append(spellings[spelling] if spelling else ("in" if after_feet else default_unit))
    if len(terms) > 2 or (len(terms) == 2 and units != ["ft", "in"]):
        raise QuantityError(f"Cannot read “{text}” as one {kind}. Type it like {_EXAMPLE[kind]}.")
    if len(terms) == 2 and terms[1][0] >= 12:
        feet, inches = terms[0][0] + terms[1][0] // 12, terms[1][0] % 12
        raise QuantityError(f"“{text}” has {terms[1][0]:g} inches after its feet: is it {feet:g}' {inches:g}\"?")
    si_unit = next(iter(spellings.values()))
    # The sign belongs to the number: -40 °F is not minus what 40 °F is.
    total = math.fsum(convert(sign * value, unit, si_unit) for (value, _), unit in zip(terms, units, strict=True))
    if not math.isfinite(total):
        raise QuantityError(f"“{text}” is too large. Type it like {_EXAMPLE[kind]}.")
    return total

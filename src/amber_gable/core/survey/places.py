"""Places: coordinates as maps, phones and surveyors write them, and the time zone that follows from them.

Pure functions.
Not here: where the device stands (the page asks it), or the sun there (core.air).
"""

import math
import re

from amber_gable.errors import PlanError

_NUMBER = r"\d{1,3}(?:[.,]\d+)?"
# One coordinate: degrees, and minutes and seconds with their marks or a space before them; its letter stands before or after, never both.
_DEGREES = (
    rf"(?P<sign>[+\-−])?\s*(?P<deg>{_NUMBER})\s*(?:°|deg|º)?\s*"
    rf"(?:(?P<min>{_NUMBER})\s*(?:['′’m]|min)?\s*(?:(?P<sec>{_NUMBER})\s*(?:[\"″”s]|''|sec)?)?)?"
)
_LETTER_FIRST = re.compile(rf"(?P<letter>[NSEW])\s*{_DEGREES}", re.IGNORECASE)
_LETTER_LAST = re.compile(rf"{_DEGREES}\s*(?P<letter>[NSEW](?![a-z]))", re.IGNORECASE)
_UNLETTERED = re.compile(rf"(?P<letter>){_DEGREES}")
# Two plain numbers: "43.8, -91.25", "43.8 -91.25", "geo:43.8,-91.25", ".../@43.8,-91.25,15z"; a comma may be the decimal mark.
_PLAIN = re.compile(r"(?<![\d.])([+\-−]?\d{1,3}(?:\.\d+)?)\s*[,;/ ]\s*([+\-−]?\d{1,3}(?:\.\d+)?)(?![\d.]*°)")
_GERMAN = re.compile(r"^\s*([+\-−]?\d{1,3},\d+)\s*[;/ ]\s*([+\-−]?\d{1,3},\d+)\s*$")
_WORDS = "Paste it as a map gives it: 43.80, -91.25 or 43°48'00\" N 91°15'00\" W."


def _number(text: str | None) -> float:
    return float((text or "0").replace(",", ".").replace("−", "-"))


def _signed(match: re.Match[str]) -> tuple[float, str]:
    minutes, seconds = _number(match["min"]), _number(match["sec"])
    if minutes >= 60 or seconds >= 60:
        raise PlanError(f"Minutes and seconds stay below 60. {_WORDS}")
    value = _number(match["deg"]) + minutes / 60 + seconds / 3600
    letter = match["letter"].upper()
    is_minus = match["sign"] in ("-", "−")
    return (-value if is_minus != (letter in ("S", "W") and not is_minus) else value), letter


def place_of(text: str) -> tuple[float, float]:
    """Return the latitude and longitude [°, north and east positive] of a text.

    Parameters
    ----------
    text : str
        Decimal degrees, degrees and minutes, or degrees, minutes and seconds; letters or signs; the address of a map that holds them.

    Raises
    ------
    PlanError
        If there are no two coordinates in it, or they lie off the earth.
    """
    german = _GERMAN.match(text)
    letters = _LETTER_FIRST if re.match(r"\s*[NSEW]", text, re.IGNORECASE) else _LETTER_LAST
    lettered = list(letters.finditer(text))
    if german:
        latitude, longitude = _number(german[1]), _number(german[2])
    elif len(lettered) == 2:
        (first, letter), (second, other) = map(_signed, lettered)
        if {letter, other} <= set("NS") or {letter, other} <= set("EW"):
            raise PlanError(f"Two latitudes or two longitudes. {_WORDS}")
        latitude, longitude = (first, second) if letter in "NS" else (second, first)
    else:
        plain = _PLAIN.search(text)
        marked = list(_UNLETTERED.finditer(text)) if "°" in text or "º" in text else []
        if len(marked) == 2:
            latitude, longitude = (_signed(m)[0] for m in marked)
        elif plain:
            latitude, longitude = _number(plain[1]), _number(plain[2])
        else:
            raise PlanError(f"There are no two coordinates in this. {_WORDS}")
    if not (abs(latitude) <= 90 and abs(longitude) <= 180) or math.isnan(latitude + longitude):
        raise PlanError(f"Latitude is -90 to 90 and comes first, longitude -180 to 180; got {latitude:g} and {longitude:g}. {_WORDS}")
    return latitude, longitude


_WINDS = ("n", "nne", "ne", "ene", "e", "ese", "se", "sse", "s", "ssw", "sw", "wsw", "w", "wnw", "nw", "nnw")
_DIRECTION = "A direction, like south-west or SW, or degrees from north: 90 is east, 180 south, 270 west."


def direction_of(text: str) -> float:
    """Return the azimuth [°, clockwise from north] of a direction: a wind by its name or letters, or degrees.

    Raises
    ------
    PlanError
    """
    said = text.strip().casefold()
    letters = said
    for word in ("north", "east", "south", "west"):
        letters = letters.replace(word, word[0])
    letters = re.sub(r"[\s\-]+", "", letters)
    if letters in _WINDS:
        return 22.5 * _WINDS.index(letters)
    try:
        degrees = float(re.sub(r"(°|º|deg(rees)?)$", "", said).strip().replace(",", "."))
    except ValueError:
        raise PlanError(f"{_DIRECTION} Got {text.strip() or 'nothing'}.") from None
    if not math.isfinite(degrees) or abs(degrees) > 360:
        raise PlanError(f"{_DIRECTION} Got {text.strip()}.")
    return degrees


def zone_of(latitude_deg: float, longitude_deg: float) -> str:
    """Return the time zone of a place, like "America/Chicago".

    References
    ----------
    Boundaries of the time-zone database as tzfpy ships them.
    """
    # Loaded when it is asked for: its boundaries take their time at the start of a process.
    from tzfpy import get_tz

    return str(get_tz(longitude_deg, latitude_deg))

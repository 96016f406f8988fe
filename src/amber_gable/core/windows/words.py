"""The reasons in words a painter uses, with numbers in the contractor's units.

One sentence per rule, here and nowhere else: page, API, calendar and documents all take them.
"""

from dataclasses import dataclass

from amber_gable.core.windows.states import Reason
from amber_gable.units import System, show

# rule: (short name for a ribbon or label, kind of quantity, source, school of handbook 11)
_RULES: dict[str, tuple[str, str, str, int | None]] = {
    "air-temp-low": ("air too cold", "temperature", "label", 1),
    "air-temp-high": ("air too hot", "temperature", "label", 1),
    "surface-temp-low": ("wall too cold", "temperature", "label", 1),
    "surface-temp-high": ("wall too hot", "temperature", "label", 1),
    "dew-margin": ("near the dew point", "temperature difference", "label", None),
    "humidity": ("air too humid", "percent", "label", None),
    "wet": ("wet surface", "film", "handbook 3", None),
    "frost": ("frost", "temperature", "handbook 3", None),
    "rain": ("rain", "percent", "house rule", None),
    "hold": ("cold night ahead", "temperature", "label", 19),
    "wind": ("wind", "speed", "house rule: access and method", None),
    "sun": ("sun on a warm wall", "temperature", "house rule", 2),
    "daylight": ("dark", "angle", "handbook 3", None),
    "forecast-end": ("beyond the forecast", "hours", "handbook 3", None),
    "thunder": ("thunder", "hours", "handbook 3: people first", None),
    "moisture": ("still wet inside", "percent", "label, by the meter for it", 14),
    "leaching": ("dew on a deep tint", "hours", "handbook 3", None),
    "sun-soon": ("sun soon on a dark coat", "hours", "handbook 3", 2),
}

_SENTENCES: dict[str, str] = {
    "air-temp-low": "Air {value}; the paint wants {limit} or more.",
    "air-temp-high": "Air {value}; the paint allows {limit} at most.",
    "surface-temp-low": "The surface is or falls to {value} within 4 h; the paint wants {limit} or more.",
    "surface-temp-high": "The surface is {value}; above {limit} paint dries too fast and laps show.",
    "dew-margin": "The surface is {value} above the dew point; it must stay {limit} above it.",
    "humidity": "Humidity {value}; the paint allows {limit} at most.",
    "wet": "Dew or rain is on the surface, or dew comes before the paint is touch-dry.",
    "frost": "The surface is at {value}: frost.",
    "hold": "The fresh coat cools to {value} before it has hardened; it must stay above {limit}.",
    "wind": "Gusts of {value}; the limit for this access and method is {limit}.",
    "sun": "Direct sun on a surface of {value}: lap marks from {limit} on. Follow the shade.",
    "daylight": "The sun is down.",
    "forecast-end": "What happens to the fresh coat lies beyond the forecast.",
    "thunder": "Thunder within hearing: everybody down, off ladders and lifts, until half an hour after the last.",
    "moisture": "What lies under the paint holds {value} of water; it may hold {limit} at most. Confirm by meter.",
    "leaching": "Dew or drizzle comes in {value}: a deep waterborne tint may streak in its first day.",
    "sun-soon": "The sun reaches the fresh coat in {value}: a dark coat may blister or show laps.",
}


@dataclass(frozen=True)
class Spoken:
    """A reason as it is shown: state word, short name, sentence, and where the limit is from."""

    rule: str
    short: str
    sentence: str
    margin: str
    broken: bool
    source: str
    school: int | None


def short_name(rule: str) -> str:
    """Return a few words for a rule, for labels under a wall."""
    return _RULES[rule][0]


def _number(value: float, kind: str, system: System) -> str:
    if kind == "percent":
        return f"{value:.0f} %"
    if kind == "angle":
        return f"{value:.1f}°"
    if kind == "hours":
        return f"{value:.1f} h"
    if kind == "film":
        return f"{value:.2f} mm"
    return show(value, kind, system)


def spoken(reason: Reason, system: System) -> Spoken:
    """Return a reason in words.

    Parameters
    ----------
    reason : Reason
    system : {"us", "metric"}
        Units to write numbers in.
    """
    short, kind, source, school = _RULES[reason.rule]
    value, limit = _number(reason.value, kind, system), _number(reason.limit, kind, system)
    if reason.rule == "rain":
        sentence = (
            f"{show(reason.value, 'rain', system)} of rain within the rain-free time."
            if reason.limit == 0
            else f"Chance of rain {value} within the rain-free time; the house limit is {limit}."
        )
    elif reason.rule == "dew-margin" and reason.limit == 0:
        sentence = "The surface falls below the dew point within 4 h of painting."
    elif reason.rule == "dew-margin" and reason.value < 0:
        below = _number(-reason.value, kind, system)
        sentence = f"The surface is {below} below the dew point; it must stay {limit} above it."
    else:
        sentence = _SENTENCES[reason.rule].format(value=value, limit=limit)
    difference = "temperature difference" if kind == "temperature" else kind
    margin = _number(abs(reason.margin), difference, system)
    return Spoken(reason.rule, short, sentence, margin, reason.broken, source, school)

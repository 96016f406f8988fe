"""The stop line in words and as a drawing: how far, by when, then stop."""

from dataclasses import dataclass
from datetime import datetime

from markupsafe import Markup

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.windows.words import spoken
from amber_gable.drawing.house.stop_line import Stretches, stop_drawing
from amber_gable.services.planning.stopline import Stop
from amber_gable.services.survey.building.rows import region_of
from amber_gable.services.systems.coatings import held_words
from amber_gable.units import System, show
from amber_gable.web.templating import clock_time, day_word
from amber_gable.web.views.drawn import drawn_elevation


@dataclass(frozen=True)
class StopWords:
    """`lead` is what to do, `rest` how much that is, `why` what ends it; `alarm` where the answer is no."""

    lead: str
    rest: str
    why: str
    alarm: bool = False


# An edge that goes off sooner than this leaves laps (handbook 8: open time x rate).
_SHORT_EDGE_MIN = 10.0
# What ends a window, as one says it of the hours to come.
_ENDS = {
    "wet": "dew comes before it is touch-dry", "dew-margin": "the wall nears the dew point", "hold": "too cold a night for a fresh coat",
    "surface-temp-low": "the wall cools too far", "daylight": "dark", "rain": "rain before it can take it", "sun": "sun comes round",
    "surface-temp-high": "the wall gets too hot", "air-temp-high": "the air gets too hot", "wind": "wind",
}  # fmt: skip


def _when(moment: datetime, now: datetime) -> str:
    word = day_word(moment, now)
    return clock_time(moment) if word == "today" else f"{word} {clock_time(moment)}"


def words_of(stop: Stop, system: System) -> StopWords:
    """Return the sentence a painter reads from the foot of the ladder."""
    reason = spoken(stop.why, system) if stop.why else None
    if stop.held_by:
        return StopWords("Do not start here.", f"{held_words(stop.held_by)[0].upper()}{held_words(stop.held_by)[1:]}.", "", True)
    if stop.coat_before_at is not None:
        opens = f" It opens {_when(stop.limit_at, stop.now)}." if stop.limit_at else ""
        ready = f"The coat before takes another from {_when(stop.coat_before_at, stop.now)} on.{opens}"
        return StopWords("Do not start this coat yet.", ready, "", True)
    if stop.line is None:
        opens = f"It opens {_when(stop.limit_at, stop.now)}." if stop.limit_at else "It does not open within the forecast."
        return StopWords("Do not paint here now.", opens, reason.sentence if reason else "", True)
    ends = "It stays open."
    if stop.limit_at and reason:
        ends = f"Last stroke {_when(stop.limit_at, stop.now)}: {_ENDS.get(reason.rule, reason.short)}."
    if not stop.line.ahead:
        return StopWords("This wall is done.", "Look back from both ends while the edge is wet.", ends)
    stopped = stop.line.stop
    if stopped is None:
        first = stop.line.ahead[0]
        lead = "Do not begin." if stop.asked.done_m < 1e-6 else "Stop where you are."
        there = f"{first.joint.name[0].upper()}{first.joint.name[1:]}"
        rest = f"{there} is {show(first.area_m2, 'area', system)} away: not before {clock_time(stop.at(first.at_h))}."
        return StopWords(lead, rest, ends, True)
    at, to_go = clock_time(stop.at(stopped.at_h)), show(stopped.area_m2, "area", system)
    quick = _quick_edge(stop, system)
    if stop.line.is_whole:
        return StopWords(f"Finish the wall, by {at}.", f"{to_go} to go at your pace.{quick}", ends)
    return StopWords(f"Stop at {stopped.joint.name}, by {at}.", f"{to_go} to go at your pace, then stop.{quick}", ends)


def _quick_edge(stop: Stop, system: System) -> str:
    """Return the caution where the edge goes off before a strip is laid on; empty where there is time."""
    if stop.open_min >= _SHORT_EDGE_MIN:
        return ""
    strip = show(stop.section_m2, "area", system)
    return f" The edge is wet for {stop.open_min:.0f} min only: {strip} at a time, one ahead and one laying off, or wait for the shade."


def drawing_of(stop: Stop, knowledge: Knowledge, system: System) -> Markup:
    """Return the wall with what is done, what comes next, what is not for today."""
    left, _, right, _ = region_of(stop.surface).bounds
    began, end = (left, right) if stop.asked.begins == "left" else (right, left)
    stopped = stop.line.stop if stop.line else None
    captions = [("done", "done"), ("next", f"next {show(stopped.area_m2, 'area', system)}" if stopped else ""), ("later", "not today")]
    if stopped is None and stop.line is None:
        captions[2] = ("later", "shut now")
    flag = clock_time(stop.at(stopped.at_h)) if stopped else ""
    along = Stretches(began, stop.at_m, stopped.joint.x_m if stopped else None, end)
    ticks = [r.joint.x_m for r in stop.line.ahead] if stop.line else []
    return Markup(stop_drawing(drawn_elevation(stop.elevation, knowledge), stop.surface.id, along, flag, captions, ticks))

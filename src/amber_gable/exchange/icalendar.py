"""Schedules as iCalendar files (RFC 5545)."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True)
class Entry:
    """One calendar entry; `uid` stays the same for the same visit, so that a new file replaces it."""

    uid: str
    summary: str
    description: str
    location: str
    starts_at: datetime
    ends_at: datetime
    # Raised by every change of the plan; and whether it was called off.
    sequence: int = 0
    is_off: bool = False


def calendar(name: str, made_at: datetime, entries: Sequence[Entry]) -> bytes:
    """Return an .ics file.

    Parameters
    ----------
    name : str
        Shown as the calendar's name.
    made_at : datetime
        Timezone-aware.
    entries : sequence of Entry
        Instants timezone-aware; written in UTC.
    """
    from icalendar import Calendar, Event

    out = Calendar()
    out.add("prodid", "-//Amber Gable//Schedule//EN")
    out.add("version", "2.0")
    out.add("x-wr-calname", name)
    for entry in entries:
        event = Event()
        event.add("uid", f"{entry.uid}@amber-gable")
        event.add("dtstamp", made_at)
        event.add("dtstart", entry.starts_at)
        event.add("dtend", entry.ends_at)
        event.add("summary", entry.summary)
        event.add("description", entry.description)
        event.add("location", entry.location)
        event.add("sequence", entry.sequence)
        event.add("status", "CANCELLED" if entry.is_off else "CONFIRMED")
        out.add_component(event)
    return bytes(out.to_ical())

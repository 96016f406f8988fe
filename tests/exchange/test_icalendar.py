"""The calendar file opens elsewhere and says the same."""

from datetime import UTC, datetime, timedelta

from icalendar import Calendar

from amber_gable.exchange.icalendar import Entry, calendar

START = datetime(2026, 9, 15, 15, 15, tzinfo=UTC)


def test_a_calendar_is_read_back_with_the_same_instants():
    entries = [
        Entry(f"s-{i}", "Tollkeeper's House: East wall; first, coat", "Line\nLine", "43.8, -91.25", START, START + timedelta(hours=2))
        for i in (1, 2)
    ]
    made = calendar("Tollkeeper's House", START, entries)
    found = Calendar.from_ical(made)
    events = list(found.walk("VEVENT"))
    assert [str(e["uid"]) for e in events] == ["s-1@amber-gable", "s-2@amber-gable"]
    assert events[0].decoded("dtstart") == START
    assert events[0].decoded("dtend") - events[0].decoded("dtstart") == timedelta(hours=2)
    assert str(events[0]["summary"]) == "Tollkeeper's House: East wall; first, coat"
    assert b"\r\n" in made

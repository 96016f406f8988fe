"""Drawings of plans: the board of a day and the calendar of all jobs say by shape and words what they say by colour."""

import xml.etree.ElementTree as ET
from datetime import date, timedelta

from amber_gable.drawing.hours.dayboard import STAGE_FILLS, BoardRow, Mark, board, x_of
from amber_gable.drawing.hours.weeks import DAYS, JobRow, weeks

MONDAY = date(2026, 9, 14)


def test_a_mark_lies_on_its_hours_and_says_what_it_is():
    row = BoardRow("Ines", [Mark(9.25, 12.5, "East wall: first coat", "coat", "done"), Mark(13.0, 13.25, "North: wash", "wash")])
    svg = ET.fromstring(board([row, BoardRow("Wren", [], "off")], (0, 10.5), "Tuesday"))
    marks = [e for e in svg.iter("rect") if "board-mark" in e.get("class", "")]
    assert float(marks[0].get("x")) == round(x_of(9.25), 2)
    assert float(marks[0].get("x")) + float(marks[0].get("width")) == round(x_of(12.5), 2)
    titles = [e.text for e in svg.iter("title")]
    assert titles == ["East wall: first coat, 09:15 to 12:30, done", "North: wash, 13:00 to 13:15, to come"]
    words = [e.text for e in svg.iter("text")]
    assert "✓" in words, "done is told by a mark, not by a colour"
    assert "off" in words
    assert "North: wash" not in words, "no room: its title says it"
    assert len([e for e in svg.iter("line") if e.get("class") == "board-now"]) == 1
    assert not [e for e in ET.fromstring(board([row], None, "Friday")).iter("line") if e.get("class") == "board-now"]


def test_a_side_lies_over_the_hours_of_its_wall_and_waits_are_thin_lines_that_say_what_for():
    ribbon = [(0, 0.0, 9.0, 0), (0, 9.0, 11.0, 1), (0, 11.0, 15.0, 2), (1, 0.0, 24.0, 0)]
    marks = [Mark(12.0, 13.0, "First coat", "coat", day=1, waits_for="label's recoat time"), Mark(9.0, 10.0, "Prime", "prime")]
    svg = ET.fromstring(board([BoardRow("East", marks, ribbon=ribbon)], None, "Two days", ("Tue 15", "Wed 16")))
    blocks = {(e.get("class"), e.get("fill")): e for e in svg.iter("rect") if str(e.get("class")).startswith("ribbon")}
    # By height and texture, not by colour alone.
    heights = {name: float(e.get("height")) for (name, _), e in blocks.items()}
    assert heights["ribbon-open"] > heights["ribbon-tight"] > heights["ribbon-shut"]
    assert ("ribbon-tight", "url(#fill-tight)") in blocks
    waits = [e for e in svg.iter("line") if e.get("class") == "board-wait"]
    assert (float(waits[0].get("x1")), float(waits[0].get("x2"))) == (round(x_of(10, 0, 2), 2), round(x_of(12, 1, 2), 2))
    assert "label's recoat time" in [e.text for e in svg.iter("text")]
    assert "First coat, 12:00 to 13:00, to come, after label's recoat time" in [e.text for e in svg.iter("title")]
    assert {"Tue 15", "Wed 16"} <= {e.text for e in svg.iter("text")}


def test_coats_and_what_is_no_coat_differ_in_texture():
    textured = {stage for stage, fill in STAGE_FILLS.items() if fill.startswith("url")}
    assert {"prepare", "prime", "coat"} <= textured


def test_eight_weeks_show_work_expectation_and_finish():
    hours = {MONDAY + timedelta(days=1): 20.0, MONDAY + timedelta(days=20): 5.0, MONDAY + timedelta(days=DAYS + 3): 9.0}
    rows = [JobRow("Boathouse & slip", hours, frozenset({MONDAY + timedelta(days=20)}), MONDAY + timedelta(days=20), "/jobs/1")]
    svg = ET.fromstring(weeks(rows, MONDAY, MONDAY + timedelta(days=1), 24.0))
    looks = [e.get("class") for e in svg.iter("rect") if e.get("class") in ("weeks-work", "weeks-guess")]
    assert looks == ["weeks-work", "weeks-guess"], "what lies beyond the eight weeks is not drawn"
    tall = [float(e.get("height")) for e in svg.iter("rect") if e.get("class") in ("weeks-work", "weeks-guess")]
    assert tall[0] > tall[1]
    titles = [e.text for e in svg.iter("title")]
    assert titles[:2] == ["Boathouse & slip, Tue 15 Sep: 20.0 painter-hours", "Boathouse & slip, Sun 4 Oct: 5.0 painter-hours expected"]
    assert "is done Sunday 4 October" in titles[2]

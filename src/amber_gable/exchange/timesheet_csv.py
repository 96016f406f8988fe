"""Timesheets as CSV: a row for each stretch of work of a painter."""

from collections.abc import Sequence
from datetime import datetime

from amber_gable.exchange.csvtext import csv_text

HEAD = ("painter", "day", "from", "until", "hours", "job", "work")


def timesheet_csv(lines: Sequence[tuple[str, datetime, datetime, float, str, str]]) -> str:
    """Return a row for each line: painter, start, end, hours, job, work."""
    rows = (
        (painter, start.date().isoformat(), f"{start:%H:%M}", f"{end:%H:%M}", round(hours, 2), job, what)
        for painter, start, end, hours, job, what in lines
    )
    return csv_text(HEAD, rows)

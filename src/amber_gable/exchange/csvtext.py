"""CSV as a spreadsheet reads it, safely."""

import csv
import io
from collections.abc import Iterable, Sequence


def csv_text(head: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """Return CSV with a head; what a spreadsheet would run as a formula is kept as text."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(head)
    for row in rows:
        writer.writerow([f"'{cell}" if isinstance(cell, str) and cell[:1] in "=+-@\t\r" else "" if cell is None else cell for cell in row])
    return out.getvalue()

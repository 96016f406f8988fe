"""Surfaces as CSV: a row each, areas in m2, as a spreadsheet reads it."""

import csv
import io
from collections.abc import Iterable, Sequence

HEAD = (
    "elevation",
    "surface",
    "kind",
    "azimuth_deg",
    "tilt_deg",
    "substrate",
    "profile",
    "profile_factor",
    "texture",
    "coating",
    "coated_year",
    "old_lrv_pct",
    "new_lrv_pct",
    "is_painted",
    "gross_area_m2",
    "openings_area_m2",
    "net_area_m2",
    "access",
)


def surfaces_csv(rows: Iterable[Sequence[object]]) -> str:
    """Return CSV with a head; what a spreadsheet would run as a formula is kept as text."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(HEAD)
    for row in rows:
        writer.writerow([f"'{cell}" if isinstance(cell, str) and cell[:1] in "=+-@\t\r" else "" if cell is None else cell for cell in row])
    return out.getvalue()

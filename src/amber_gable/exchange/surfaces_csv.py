"""Surfaces as CSV: a row each, areas in m2, as a spreadsheet reads it."""

from collections.abc import Iterable, Sequence

from amber_gable.exchange.csvtext import csv_text

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
    return csv_text(HEAD, rows)

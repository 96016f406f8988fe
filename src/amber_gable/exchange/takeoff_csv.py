"""Take-off as CSV: every coat on every part, in SI, with the factors that led to its litres."""

from collections.abc import Sequence

from amber_gable.core.takeoff.lots import Lot
from amber_gable.exchange.csvtext import csv_text

HEAD = ("part", "coat", "product", "colour", "area_m2", "profile_factor", "texture_factor", "suction_factor", "spread_m2_per_l", "loss_pct",
        "wind_pct", "wear_pct", "wet_film_um", "litres")  # fmt: skip


def takeoff_csv(lots: Sequence[Lot]) -> str:
    """Return a row for each coat on each part, lot by lot."""
    rows = (
        (
            line.part_name, line.label, lot.product.name, lot.colour, round(line.paint.area_m2, 4), round(line.paint.profile, 4),
            line.paint.texture, line.paint.suction, round(line.paint.spread_m2_per_l, 4), line.paint.loss_pct, line.paint.wind_pct,
            line.paint.wear_pct, round(line.spread.wet_film_um, 1), round(line.litres, 4),
        )
        for lot in lots
        for line in lot.lines
    )  # fmt: skip
    return csv_text(HEAD, rows)

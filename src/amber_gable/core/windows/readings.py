"""Site readings: what an instrument on the wall says about painting it now.

A reading beats a forecast: the moment is judged by what was measured, and the hours after it by
the forecast shifted by the difference the reading found.
Not here: storing readings (services.sitelog).
"""

from dataclasses import dataclass

import numpy as np

from amber_gable.core.air.humid import dew_point_c
from amber_gable.core.knowledge import Limits, Product, Tight
from amber_gable.core.windows import SHUT, LimitReason, Windows
from amber_gable.core.windows.rules import band_of, measured_rules
from amber_gable.errors import FieldErrors
from amber_gable.units import both

# The most a single reading may shift the computed temperature of a wall: beyond it, the probe was
# more likely in the sun or on another wall.
MAX_BIAS_C = 8.0


@dataclass(frozen=True)
class InstrumentReading:
    """Air temperature [°C], humidity [%] and surface temperature [°C], measured at one wall."""

    air_temp_c: float
    rel_humidity_pct: float
    surface_temp_c: float

    def check(self) -> None:
        """Refuse what no instrument shows on a building.

        Raises
        ------
        FieldErrors
            Every fault at once, by field.
        """
        faults: dict[str, str] = {}
        for name, low, high, words in (
            ("air_temp_c", -60.0, 60.0, both("Air temperature must be between -60 and 60 °C (-76 and 140 °F). Check °F or °C.")),
            ("surface_temp_c", -60.0, 95.0, both("Surface temperature must be between -60 and 95 °C (-76 and 203 °F). Check °F or °C.")),
            ("rel_humidity_pct", 1.0, 100.0, "Humidity must be 1 to 100 %. Read the instrument again; a fraction like 0.6 is 60 %."),
        ):
            value = getattr(self, name)
            if not low <= value <= high:
                faults[name] = words
        if faults:
            raise FieldErrors(faults)

    @property
    def dew_point_c(self) -> float:
        return float(dew_point_c(self.air_temp_c, self.rel_humidity_pct))

    @property
    def dew_margin_c(self) -> float:
        return self.surface_temp_c - self.dew_point_c


@dataclass(frozen=True)
class Verdict:
    """Verdict on a wall: may it be painted now, and until when.

    Parameters
    ----------
    may_paint : bool
    is_tight : bool
        Allowed with a caution.
    dew_point_c, dew_margin_c : float
    until_step : int or None
        Last quarter-hour (exclusive) of the run that is open now, by the shifted forecast; None
        when painting may not begin now.
    reasons : list of LimitReason
        What was measured out of bounds, then what the hours after would break; worst first.
    bias_c : float
        How much warmer the wall is than computed.
    """

    may_paint: bool
    is_tight: bool
    dew_point_c: float
    dew_margin_c: float
    until_step: int | None
    reasons: list[LimitReason]
    bias_c: float


def measured_reasons(reading: InstrumentReading, product: Product, limits: Limits, tight: Tight) -> list[LimitReason]:
    """Return the limits that the measured moment breaks or comes near to, worst first.

    Parameters
    ----------
    product : Product
        Whose label the moment is held to.
    limits, tight : knowledge rows
        How near is near.
    """
    reasons = []
    for name, row in measured_rules():
        value, limit = float(getattr(reading, row.measured)), float(getattr(product, row.label))
        margin, band = row.sense * (value - limit), band_of(row, limits, tight)
        if margin <= band:
            reasons.append(LimitReason(name, value, limit, margin, margin < 0, margin / band))
    return sorted(reasons, key=lambda r: (not r.broken, r.severity))


def bias_c(reading: InstrumentReading, computed_surface_c: float) -> float:
    """Return how much warmer the wall was measured than computed [K], within what one reading may say.

    Parameters
    ----------
    reading : InstrumentReading
    computed_surface_c : float
        Temperature of the wall at that moment as it was computed [°C].
    """
    return float(np.clip(reading.surface_temp_c - computed_surface_c, -MAX_BIAS_C, MAX_BIAS_C))


def judge(reading: InstrumentReading, shifted: Windows, surface: int, now_step: int, bias: float, limits: Limits, tight: Tight) -> Verdict:
    """Return the verdict on one wall.

    Parameters
    ----------
    reading : InstrumentReading
    shifted : Windows
        Computed with the reading's difference added to this surface.
    surface, now_step : int
        Which surface, and the quarter-hour of the reading.
    bias : float
        The difference that was added [K].
    limits, tight : knowledge rows
        How near is near.
    """
    # What the reading itself decides is judged by the reading, not by the forecast of that moment.
    own = {name for name, row in measured_rules() if not row.looks_ahead}
    reasons = measured_reasons(reading, shifted.products[0], limits, tight)
    spoken = {r.rule for r in reasons}
    reasons += [r for r in shifted.reasons(surface, now_step) if r.rule not in own | spoken]
    reasons.sort(key=lambda r: (not r.broken, r.severity))
    broken = any(r.broken for r in reasons)
    until: int | None = None
    if not broken:
        shut = np.flatnonzero(shifted.states[surface, now_step + 1 :] == SHUT)
        until = now_step + 1 + (int(shut[0]) if len(shut) else shifted.states.shape[1] - now_step - 1)
    return Verdict(not broken, not broken and bool(reasons), reading.dew_point_c, reading.dew_margin_c, until, reasons, bias)

"""A typical year from a file: TMY3 or EPW, read by pvlib, as twelve months of hours that were measured somewhere.

For what-if and later seasons: no forecast, and no year that ever was as a whole.
Not here: what its months come to on a job (services.outlook.weather.year).
"""

import tempfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.air.pvlibs import modules
from amber_gable.core.air.weather import RANGES
from amber_gable.errors import FieldErrors

MOST_BYTES = 2_500_000
HOURS = 8760
# A year that is no leap year, and begins on no particular day.
YEAR = 2027
# How the two kinds name what is read: TMY3, EPW; what it is multiplied by.
_COLUMNS: Mapping[str, tuple[tuple[str, ...], float]] = {
    "air_temp_c": (("temp_air",), 1.0),
    "rel_humidity_pct": (("relative_humidity",), 1.0),
    "wind_m_s": (("wind_speed",), 1.0),
    "wind_from_deg": (("wind_direction",), 1.0),
    "cloud_pct": (("TotCld (tenths)", "total_sky_cover"), 10.0),
    "rain_mm": (("Lprecip depth (mm)", "liquid_precipitation_depth"), 1.0),
}
_NEEDED = ("air_temp_c", "rel_humidity_pct", "wind_m_s", "cloud_pct")


@dataclass(frozen=True)
class TypicalYear:
    """A year of hours, each column of length 8760 from midnight on 1 January of the station's own time.

    Parameters
    ----------
    latitude_deg, longitude_deg, altitude_m : float
        Of where it was measured.
    utc_offset_h : float
    columns : mapping of str to ndarray
        As the engine names them, SI.
    rain_missing : int
        Hours in which no rain was written down; they are taken as dry.
    """

    latitude_deg: float
    longitude_deg: float
    altitude_m: float
    utc_offset_h: float
    columns: Mapping[str, Array]
    rain_missing: int


def read_typical_year(content: bytes) -> TypicalYear:
    """Return the year that a file holds.

    Raises
    ------
    FieldErrors
        If it is neither TMY3 nor EPW, or not a whole year that can be.
    """
    if len(content) > MOST_BYTES:
        raise FieldErrors({"year": f"A year of hours has at most {MOST_BYTES / 1e6:g} MB."})
    frame, meta = _frame(content)
    if len(frame) != HOURS:
        raise FieldErrors({"year": f"A typical year has {HOURS} hours; this file has {len(frame)}."})
    columns: dict[str, Array] = {}
    missing = 0
    for name, (heads, factor) in _COLUMNS.items():
        head = next((h for h in heads if h in frame), None)
        values = np.full(HOURS, np.nan) if head is None else frame[head].to_numpy(dtype=float) * factor
        if name == "rain_mm":
            values = _hourly_rain(frame, values)
        low, high = RANGES[name]
        # What cannot be stands for what was not measured.
        values = np.where((values < low) | (values > high), np.nan, values)
        if name == "rain_mm":
            missing = int(np.isnan(values).sum())
            values = np.nan_to_num(values)
        elif name in _NEEDED and np.isnan(values).any():
            values = _filled(values, name)
        columns[name] = values
    offset_h = float(meta["TZ"])
    return TypicalYear(float(meta["latitude"]), float(meta["longitude"]), float(meta["altitude"]), offset_h, columns, missing)


def _frame(content: bytes) -> tuple[Any, Mapping[str, Any]]:
    iotools = modules().iotools
    is_epw = content.lstrip()[:9].upper() == b"LOCATION,"
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "year"
        file.write_bytes(content)
        try:
            if is_epw:
                return iotools.read_epw(file, coerce_year=YEAR)  # type: ignore[no-any-return]
            return iotools.read_tmy3(file, coerce_year=YEAR, map_variables=True)  # type: ignore[no-any-return]
        except (ValueError, KeyError, IndexError, TypeError, UnicodeDecodeError) as fault:
            raise FieldErrors({"year": "This is neither a TMY3 nor an EPW file that can be read."}) from fault


# Some stations of TMY3 give rain in tenths of a millimetre, from gauges that count hundredths of an inch: 3, 5, 8, 10, 13 ... and hardly
# ever what lies between, of which whole millimetres are full.
_INCH_TENTHS, _TENTHS_SHARE = 2.54, 0.9


def _hourly_rain(frame: Any, values: Array) -> Array:
    """Return the rain of each hour [mm]: what was gathered over several hours is not known by the hour."""
    over = "Lprecip quantity (hr)"
    if over not in frame:
        return values
    hourly: Array = np.where(frame[over].to_numpy(dtype=float) == 1, values, np.nan)
    fell = hourly[np.nan_to_num(hourly) > 0]
    counted = np.round(np.round(fell / _INCH_TENTHS) * _INCH_TENTHS) == fell
    if len(fell) and counted.mean() > _TENTHS_SHARE:
        return hourly / 10
    return hourly


_MOST_GAP_H = 12


def _filled(values: Array, name: str) -> Array:
    """Return values with short gaps bridged.

    Raises
    ------
    FieldErrors
        If more than half a day in a row is missing.
    """
    known = np.flatnonzero(~np.isnan(values))
    if not len(known) or np.diff(np.concatenate([[-1], known, [HOURS]])).max() > _MOST_GAP_H:
        raise FieldErrors({"year": f"More than {_MOST_GAP_H} hours in a row have no {name.split('_')[0]}."})
    result: Array = np.interp(np.arange(HOURS), known, values[known])
    return result

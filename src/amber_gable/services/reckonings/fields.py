"""Input fields with the plausible range of each quantity, refused in words when outside.

One row per quantity, so that Fahrenheit labelled Celsius or a fraction for a percentage is caught
alike in every reckoning.
"""

from datetime import datetime
from typing import Annotated, Any

from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from amber_gable.core.air.weather import RANGES


def ranged(low: float, high: float, words: str, unit: str = "", hint: str = "", *, open_low: bool = False) -> Any:
    """Return an annotated float within `low` to `high`, whose message says what to do."""

    def check(value: float) -> float:
        if low <= value <= high and not (open_low and value <= low):
            return value
        above = "above " if open_low else ""
        message = f"{words} must be {above}{low:g} to {high:g}{' ' + unit if unit else ''}, got {value:g}.{' ' + hint if hint else ''}"
        # Braces in the text would be read as placeholders.
        raise PydanticCustomError("range", "{message}", {"message": message})

    return Annotated[float, AfterValidator(check), Field(json_schema_extra={"minimum": low, "maximum": high, "unit": unit})]


def _instant(text: str) -> str:
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        moment = None
    if moment is None or moment.tzinfo is None:
        raise PydanticCustomError("instant", "Give the time as ISO 8601 with its offset, like 2026-09-15T06:50:00-05:00.")
    if not 1950 <= moment.year <= 2100:
        raise PydanticCustomError("instant", "The year must be 1950 to 2100.")
    return text


_FAHRENHEIT = "If this is Fahrenheit, convert it to Celsius."
_FRACTION = "If this is a fraction (0.8), multiply it by 100."

Instant = Annotated[str, AfterValidator(_instant)]
AirTempC = ranged(*RANGES["air_temp_c"], "Air temperature", "°C", _FAHRENHEIT)
RelHumidityPct = ranged(*RANGES["rel_humidity_pct"], "Relative humidity", "%", _FRACTION)
PressureKpa = ranged(30, 110, "Pressure", "kPa", "1013 hPa is 101.3 kPa.")
WindMs = ranged(*RANGES["wind_m_s"], "Wind", "m/s", "20 mph is 8.9 m/s.")
CloudPct = ranged(*RANGES["cloud_pct"], "Cloud cover", "%")
LatitudeDeg = ranged(-90, 90, "Latitude", "degrees")
LongitudeDeg = ranged(-180, 180, "Longitude", "degrees")
AltitudeM = ranged(-430, 9000, "Altitude", "m")
AzimuthDeg = ranged(0, 360, "Azimuth", "degrees", "0 north, 90 east, 180 south, 270 west.")
TiltDeg = ranged(0, 180, "Tilt", "degrees", "90 is a wall, 0 flat.")
Albedo = ranged(0, 1, "Albedo")
Absorptance = ranged(0, 1, "Solar absorptance", "", "If this is a percentage, divide it by 100.")
HeatCapacity = ranged(0.5, 2000, "Areal heat capacity", "kJ/m2K")
SolidsPct = ranged(0, 100, "Volume solids", "%", "A can says for instance 38.", open_low=True)
DryFilmUm = ranged(0, 5000, "Dry film", "µm", "1.5 mil is 38 µm.", open_low=True)
LossPct = ranged(0, 95, "Loss", "%")
Factor = ranged(1, 10, "The factor", "", "1 is smooth and flat.")
LengthM = ranged(0, 1000, "A length", "m", "40 ft is 12.19 m.", open_low=True)
PlanM2 = ranged(0, 1e5, "Plan area", "m2", "100 ft2 is 9.29 m2.", open_low=True)
PitchDeg = ranged(0, 85, "Pitch", "degrees", "A pitch of 8 in 12 is 33.7 degrees.")
Courses = ranged(0, 10_000, "The number of courses", "", "", open_low=True)
CourseMm = ranged(0, 2000, "The height of a course", "mm", "4 1/2 in is 114.3 mm.", open_low=True)
# A profile's dimensions: each belongs to some profiles only, so each may be left out.
FaceMm = ranged(0, 20_000, "A dimension of the profile", "mm", "4 1/2 in is 114.3 mm.", open_low=True) | None
EdgeMm = ranged(0, 20_000, "A dimension of the profile", "mm", "1/2 in is 12.7 mm.") | None
Parts = ranged(0, 1000, "Parts of concentrate", "", "", open_low=True)
WaterParts = ranged(0, 1000, "Parts of water")
MixL = ranged(0, 10_000, "The mix", "L", "1 US gallon is 3.785 L.", open_low=True)
LrvPct = ranged(0, 100, "Light reflectance", "%", _FRACTION) | None
Years = ranged(0, 300, "Years since it was coated") | None
DepthMm = ranged(0, 500, "Depth or width", "mm") | None
WallTopM = ranged(0, 100, "The highest point", "m", "40 ft is 12.19 m.")
AreaM2 = ranged(0, 1e6, "The area", "m2", "100 ft2 is 9.29 m2.")
SpreadM2PerL = ranged(0, 100, "The spread rate", "m2/L", "400 ft2/gal is 9.8 m2/L.", open_low=True)
SharePct = ranged(0, 95, "The share", "%")
LitresNeeded = ranged(0, 20_000, "The need", "L", "1 US gallon is 3.785 L.")
JointM = ranged(0, 100_000, "The length of joints", "m", "100 ft is 30.5 m.")
BeadMm = ranged(0, 100, "The bead", "mm", "1/4 in is 6.4 mm.", open_low=True)
CartridgeMl = ranged(0, 5000, "The cartridge", "ml", "10.1 fl oz is 300 ml.", open_low=True)
PressurePsi = ranged(300, 7500, "Pressure at the tip", "psi", "140 bar is 2030 psi.")
EfficiencyPct = ranged(2, 100, "Transfer efficiency", "%", _FRACTION)
OverlapPct = ranged(0, 95, "Overlap", "%")
WetFilmUm = ranged(0, 5000, "Wet film", "µm", "4 mil is 102 µm.", open_low=True)
ReachM = ranged(0, 10, "Reach to each side", "m", "2 ft is 0.61 m.", open_low=True)
ExtensionM = ranged(0, 10, "The extension", "m", "3 ft is 0.91 m.")


def _count(value: int) -> int:
    if not 1 <= value <= 20:
        raise PydanticCustomError("range", "{message}", {"message": f"Between 1 and 20 coats, got {value}."})
    return value


Coats = Annotated[int, AfterValidator(_count), Field(json_schema_extra={"minimum": 1, "maximum": 20})]
SurfaceTempC = ranged(-60, 100, "Surface temperature", "°C", _FAHRENHEIT)
LabelH = ranged(0, 1000, "A label time", "h", "30 min is 0.5 h.", open_low=True)
DropletUm = ranged(0, 3000, "The droplet", "µm", "A fine mist is 20 to 100 µm.", open_low=True)
HeightM = ranged(0, 100, "The height", "m", "16 ft is 4.9 m.", open_low=True)
GustMs = ranged(*RANGES["wind_gust_m_s"], "Gusts", "m/s", "20 mph is 8.9 m/s.") | None
YoungShare = ranged(0, 1, "Young share", "", "If this is a percentage, divide it by 100.")
WindFromDeg = ranged(*RANGES["wind_from_deg"], "Wind direction", "degrees", "Where it comes from: 0 north, 90 east.")
RainMm = ranged(*RANGES["rain_mm"], "Rain", "mm", "0.1 in is 2.5 mm.")
ChancePct = ranged(*RANGES["rain_probability_pct"], "The chance of rain", "%")
DewMarginC = ranged(0, 30, "The margin over the dew point", "°C", "5 °F is 2.8 °C.")
SpanH = ranged(0, 400, "Hours", "h")
WindLimitMs = ranged(0, 60, "The wind limit", "m/s", "20 mph is 8.9 m/s.", open_low=True)
CoatH = ranged(0, 48, "The time a coat takes", "h", "90 min is 1.5 h.", open_low=True)
Weight = ranged(0, 1e6, "The weight of a step late")
TimeLimitS = ranged(0, 20, "The time limit", "s", open_low=True)

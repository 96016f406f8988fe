"""Tollkeeper's House: two storeys of lap siding over a brick plinth, two gables, built in 1931.

Fourteen sash windows, a panelled entry door, eight louvred shutters. Sage to deep ochre.
Measured in feet and inches, as a crew would.
"""

from amber_gable.core.geometry import GabledBlock
from amber_gable.services.jobs import JobFacts
from amber_gable.services.rules import JobRules
from amber_gable.services.survey import OpeningFacts
from amber_gable.units import parse

LATITUDE_DEG, LONGITUDE_DEG, ALTITUDE_M = 43.80, -91.25, 205.0
OCHRE_LRV_PCT = 31.0
DOOR_LRV_PCT = 9.0

FACTS = JobFacts(
    name="Tollkeeper's House",
    latitude_deg=LATITUDE_DEG,
    longitude_deg=LONGITUDE_DEG,
    altitude_m=ALTITUDE_M,
    time_zone="America/Chicago",
    units="us",
    year_built=1931,
    crew=("Ines", "Tobias"),
)
RULES = JobRules(painters=2)


def _ft(text: str) -> float:
    return parse(text, "length", "ft")


# The front looks a little north of east, down to the river.
BLOCK = GabledBlock(
    length_m=_ft("38'"),
    width_m=_ft("26' 6\""),
    eaves_height_m=_ft("18' 6\""),
    ridge_height_m=_ft("28'"),
    front_azimuth_deg=78.0,
    front_is="long side",
    overhang_m=_ft("1' 4\""),
    plinth_height_m=_ft("1' 8\""),
)

_UPPER, _LOWER = "12'", "3' 8\""
_FRONT, _SOUTH, _WEST, _NORTH = 0, 1, 2, 3


def _sash(left: str, sill: str) -> OpeningFacts:
    return OpeningFacts("sash-window", _ft("2' 8\""), _ft("5'"), _ft(left), _ft(sill))


def _shutters(left: str, sill: str) -> list[OpeningFacts]:
    """Return the pair beside a sash window at `left`."""
    width, gap = _ft("1' 3\""), _ft('1"')
    at = _ft(left)
    return [
        OpeningFacts("shutter", width, _ft("5'"), at - gap - width, _ft(sill)),
        OpeningFacts("shutter", width, _ft("5'"), at + _ft("2' 8\"") + gap, _ft(sill)),
    ]


_DOOR = OpeningFacts("entry-door", _ft("3'"), _ft("6' 10\""), _ft("17' 6\""), _ft("1' 8\""))

# By side, in quarter turns clockwise from the front.
OPENINGS: dict[int, list[OpeningFacts]] = {
    _FRONT: [
        _DOOR,
        *(_sash(left, _UPPER) for left in ("5'", "17' 8\"", "30' 4\"")),
        *(_sash(left, _LOWER) for left in ("5'", "30' 4\"")),
        *_shutters("5'", _UPPER), *_shutters("30' 4\"", _UPPER), *_shutters("5'", _LOWER), *_shutters("30' 4\"", _LOWER),
    ],
    _SOUTH: [_sash("6'", _LOWER), _sash("17' 10\"", _UPPER)],
    _WEST: [
        *(_sash(left, _UPPER) for left in ("5'", "17' 8\"", "30' 4\"")),
        *(_sash(left, _LOWER) for left in ("9'", "26' 4\"")),
    ],
    _NORTH: [_sash("6'", _UPPER), _sash("17' 10\"", _UPPER)],
}  # fmt: skip

"""Reckonings: small computations a painter asks for on their own.

Each is registered once, in `REGISTRY` below: a name, an input model, an output model, a pure
function. Page, API and CLI are made from the registry alone. Contracts: docs/reckonings.md.
"""

from amber_gable.errors import NotFoundError
from amber_gable.services.reckonings.air import DEW_POINT, SUN_ON_SURFACE
from amber_gable.services.reckonings.coatweather import COAT_WEATHER
from amber_gable.services.reckonings.entry import Reckoning
from amber_gable.services.reckonings.planning import SCHEDULE
from amber_gable.services.reckonings.run import MAX_BODY_BYTES, parse_body, reckon
from amber_gable.services.reckonings.surface import SURFACE_TEMPERATURE
from amber_gable.services.reckonings.survey import SURVEY
from amber_gable.services.reckonings.systems import SYSTEMS
from amber_gable.services.reckonings.takeoff import COVERAGE, TAKEOFF
from amber_gable.services.reckonings.windows import WINDOWS

REGISTRY: tuple[Reckoning, ...] = (
    DEW_POINT,
    SUN_ON_SURFACE,
    COVERAGE,
    SURFACE_TEMPERATURE,
    *SURVEY,
    *SYSTEMS,
    *TAKEOFF,
    *COAT_WEATHER,
    WINDOWS,
    SCHEDULE,
)


class UnknownReckoningError(NotFoundError):
    """No reckoning of this name."""


def find(name: str) -> Reckoning:
    """Return the registered reckoning of a name.

    Raises
    ------
    UnknownReckoningError
    """
    for entry in REGISTRY:
        if entry.name == name:
            return entry
    names = ", ".join(entry.name for entry in REGISTRY)
    raise UnknownReckoningError(f"There is no reckoning “{name}”. There are: {names}.")


__all__ = ["MAX_BODY_BYTES", "REGISTRY", "Reckoning", "UnknownReckoningError", "find", "parse_body", "reckon"]

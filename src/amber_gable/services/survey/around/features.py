"""What stands round the house, what throws shade, and how each side is reached."""

import math
from dataclasses import asdict, dataclass

from amber_gable.core.air.sun import elevation_angle_deg
from amber_gable.core.coat.colour import lrv_pct
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.survey.access import Site, Suggestion, suggest
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.survey.building.openings import elevation_in
from amber_gable.services.survey.building.rows import shape_of
from amber_gable.store.models import Elevation, Feature, Job
from amber_gable.store.types import new_id


@dataclass(frozen=True)
class FeatureFacts:
    """Something round the house; for what throws shade, a sector of the horizon up to an angle."""

    kind: str
    note: str = ""
    elevation_id: str | None = None
    distance_m: float | None = None
    shade_from_deg: float | None = None
    shade_to_deg: float | None = None
    shade_up_to_deg: float | None = None
    # Its colour, where the new ones must go with it; and whether nobody may touch it.
    hex: str | None = None
    is_kept_off: bool = False

    def check(self, knowledge: Knowledge) -> None:
        """Refuse what is in no list or cannot be.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        kind = knowledge.features.get(self.kind)
        if kind is None:
            raise FieldErrors({"kind": "Choose what it is from the list."})
        if self.distance_m is not None and not 0 <= self.distance_m <= 10_000:
            faults["distance_m"] = "The distance must be 0 to 10 km."
        if kind.clearance_m and self.distance_m is None:
            faults["distance_m"] = "Say how near it comes to where people and ladders will be."
        if kind.throws_shade:
            for name in ("shade_from_deg", "shade_to_deg"):
                value = getattr(self, name)
                if value is None or not 0 <= value <= 360:
                    faults[name] = "Its edge as seen from the house, 0 to 360 degrees from north."
            if self.shade_up_to_deg is None or not 0 < self.shade_up_to_deg <= 90:
                faults["shade_up_to_deg"] = "How high it stands over the horizon, above 0 to 90 degrees; or give its height and distance."
        if self.hex is not None:
            try:
                lrv_pct(self.hex)
            except PlanError as fault:
                faults["hex"] = str(fault)
        if self.is_kept_off and not self.note.strip():
            faults["note"] = "Say what must not be touched, in the words the crew will read."
        if len(self.note) > 500:
            faults["note"] = "Shorten the note to 500 characters."
        if faults:
            raise FieldErrors(faults)


def angle_of(height_m: float, distance_m: float) -> float:
    """Return how high something stands over the horizon, from its height and distance [°]."""
    if not 0 < height_m <= 2000:
        raise FieldErrors({"height_m": "A height above 0, please."})
    if not 0 < distance_m <= 100_000:
        raise FieldErrors({"distance_m": "A distance above 0, please."})
    return elevation_angle_deg(height_m, distance_m)


def add_feature(scope: Scope, job_id: str, facts: FeatureFacts) -> str:
    """Note something round the house; return its id.

    Raises
    ------
    FieldErrors
    """
    facts.check(scope.knowledge)
    with changing(scope, f"note: {scope.knowledge.features[facts.kind].label.lower()}", job_id) as change:
        job = change.whole_job()
        if facts.elevation_id is not None:
            elevation_in(job, facts.elevation_id)
        row = Feature(id=new_id(), version=1, job_id=job_id, **asdict(facts))
        change.add(row)
        return row.id


def remove_feature(scope: Scope, job_id: str, feature_id: str) -> None:
    with changing(scope, "remove the note", job_id) as change:
        row = change.find(Feature, feature_id, "note")
        change.label = f"remove: {scope.knowledge.features[row.kind].label.lower()}"
        change.delete(row)


def set_access(
    scope: Scope, job_id: str, elevation_id: str, access: str | None, ground: str, slope_pct: float, version: int | None = None
) -> None:
    """Say on what ground a side stands, and how it is reached where that differs from the suggestion.

    Raises
    ------
    FieldErrors, ConflictError
    """
    faults = {}
    if access is not None and access not in scope.knowledge.access:
        faults["access"] = "Choose from the list."
    if ground not in scope.knowledge.grounds:
        faults["ground"] = "Choose from the list."
    if not 0 <= slope_pct <= 100:
        faults["ground_slope_pct"] = "The fall of the ground must be 0 to 100 %: 1 in 10 is 10."
    if faults:
        raise FieldErrors(faults)
    with changing(scope, "change the access", job_id) as change:
        job = change.whole_job()
        row = elevation_in(job, elevation_id)
        change.label = f"access of {row.name}"
        change.update(row, {"access": access, "ground": ground, "ground_slope_pct": slope_pct}, version)


def suggestion(job: Job, elevation: Elevation, knowledge: Knowledge) -> Suggestion:
    """Return how an elevation is reached, with the reasons."""
    distances = [
        f.distance_m
        for f in job.features
        if f.elevation_id in (None, elevation.id) and knowledge.features[f.kind].clearance_m and f.distance_m is not None
    ]
    site = Site(
        top_m=shape_of(elevation).top_m,
        ground=knowledge.grounds[elevation.ground],
        slope_pct=elevation.ground_slope_pct,
        line_distance_m=min(distances, default=None),
    )
    return suggest(knowledge.access, site, job.units, knowledge.countries[job.country].scaffold_from_m)


def is_near(feature: Feature, knowledge: Knowledge) -> bool:
    """Return whether something stands nearer than people may work."""
    clearance = knowledge.features[feature.kind].clearance_m
    return bool(clearance) and (feature.distance_m if feature.distance_m is not None else math.inf) < clearance


def kept_off(job: Job) -> list[tuple[str, str]]:
    """Return what must not be touched: where it stands, and in words."""
    names = {e.id: e.name for e in job.building.elevations}
    return [(names.get(f.elevation_id or "", "Round the house"), f.note) for f in job.features if f.is_kept_off]

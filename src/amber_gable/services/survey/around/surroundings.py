"""What stands round a house that overspray would reach: from the survey, for windows and for drift."""

from amber_gable.store.models import Feature, Job

# Rows of features that are somebody's property, or that overspray harms.
PROPERTY = ("car", "boats", "neighbour-wall", "cooling-unit", "furniture", "water")


def property_features(job: Job) -> list[Feature]:
    return [f for f in job.features if f.kind in PROPERTY]


def bearing_deg(job: Job, feature: Feature) -> float | None:
    """Return where something stands from the house: before its side; None where it was noted for the whole house."""
    return next((e.azimuth_deg for e in job.building.elevations if e.id == feature.elevation_id), None)


def property_round(job: Job) -> tuple[tuple[float, ...], bool]:
    """Return the bearings at which property stands, and whether some stands at no known one."""
    bearings = [bearing_deg(job, f) for f in property_features(job)]
    return tuple(sorted({b for b in bearings if b is not None})), None in bearings

"""Drift of overspray on a job: one wall, one hour, what stands there."""

import math

from amber_gable.core.air.humid import pressure_at_altitude_pa, wet_bulb_c
from amber_gable.core.coat.drift import Kind
from amber_gable.core.coat.overspray import Near, Overspray, overspray
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.survey.around.surroundings import bearing_deg, property_features
from amber_gable.services.survey.building.rows import region_of
from amber_gable.store.models import Job


def overspray_at(scope: Scope, job: Job, ahead: Outlook, surface_id: str, step: int) -> Overspray:
    """Return how far the gun's paint drifts from a wall at a moment, and what it meets."""
    row = ahead.row(surface_id)
    assert row is not None, "every painted surface has a row"
    surface, elevation = next((s, e) for e in job.building.elevations for s in e.surfaces if s.id == surface_id)
    top = elevation.base_m + region_of(surface).bounds[3] * abs(math.sin(math.radians(elevation.tilt_deg)))
    climate = ahead.windows.climate
    air, humidity = float(climate.air_temp_c[step]), float(climate.rel_humidity_pct[step])
    wet_bulb = float(wet_bulb_c(air, humidity, pressure_at_altitude_pa(job.altitude_m)))
    names = scope.knowledge.features
    around = [Near(f.note or names[f.kind].label, bearing_deg(job, f), f.distance_m) for f in property_features(job)]
    direction = None if climate.wind_from_deg is None else float(climate.wind_from_deg[step])
    kind: Kind = "oil" if ahead.windows.products[row].kind == "alkyd" else "waterborne"
    gust = float(max(climate.gust_m_s[step], climate.wind_m_s[step]))
    return overspray(kind, max(top, 0.5), gust, direction, air, min(wet_bulb, air), around, scope.knowledge.spray)

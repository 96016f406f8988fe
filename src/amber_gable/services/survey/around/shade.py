"""What stands between the sun and a job's surfaces: trees and neighbours, and the building itself."""

import math

from amber_gable.core.air.sun import Shade
from amber_gable.core.geometry.blocks import solids
from amber_gable.core.wall.self_shade import Facet, LitTable, bodies, lit_table
from amber_gable.services.app.scope import Scope
from amber_gable.services.survey.building.rows import block_of, region_of
from amber_gable.store.models import Elevation, Job


def shades_of(job: Job, elevation: Elevation) -> tuple[Shade, ...]:
    """Return what hides the sun from an elevation: what stands round the whole house, and before this side."""
    return tuple(
        Shade(f.shade_from_deg, f.shade_to_deg, f.shade_up_to_deg)
        for f in job.features
        if f.elevation_id in (None, elevation.id)
        and f.shade_from_deg is not None
        and f.shade_to_deg is not None
        and f.shade_up_to_deg is not None
    )


def facet_out(elevation: Elevation, front_azimuth_deg: float) -> tuple[float, float]:
    """Return the unit vector on the plan that an elevation faces."""
    turn = math.radians(elevation.azimuth_deg - front_azimuth_deg)
    return -math.sin(turn), -math.cos(turn)


def lit_tables(scope: Scope, job: Job) -> dict[str, LitTable]:
    """Return what the building leaves of the sun, by surface id; nothing for what stands by itself. Made once per shape."""
    building = job.building
    blocks = tuple(block_of(row) for row in building.blocks)
    facets = []
    for e in building.elevations:
        if e.block_id is None:
            continue
        out = facet_out(e, building.front_azimuth_deg)
        along = (-out[1], out[0])
        corner = (along[0] * e.start_m + out[0] * e.depth_m, along[1] * e.start_m + out[1] * e.depth_m, e.base_m)
        facets += [(s.id, Facet(region_of(s), corner, out, e.tilt_deg)) for s in e.surfaces if s.is_painted]
    front = building.front_azimuth_deg

    def reckon() -> dict[str, LitTable]:
        shading = bodies(list(solids(blocks).values()))
        return {surface_id: lit_table(facet, shading, front) for surface_id, facet in facets}

    return scope.cached(("lit", blocks, front, tuple(facets)), reckon)

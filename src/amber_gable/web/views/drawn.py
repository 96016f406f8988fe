"""Rows of the survey as what is drawn: elevations with hatches by profile, openings, pins."""

from collections.abc import Sequence

from amber_gable.core.knowledge import Knowledge
from amber_gable.drawing.hatch import Hatch
from amber_gable.drawing.house.building import DrawnElevation, DrawnOpening, DrawnSurface, Pin
from amber_gable.services.survey.building.rows import rect_of, region_of
from amber_gable.store.models import Elevation, Finding, Job, Surface

# Courses and boards where no profile gives them [m].
_BRICK_COURSE_M, _BLOCK_COURSE_M, _DECK_BOARD_M, _SHINGLE_M = 0.075, 0.2, 0.14, 0.14
_SPACING_BY_SHAPE = {
    "lap": ("lap", "exposure_mm"),
    "board-batten": ("boards", "board_mm"),
    "corrugated": ("seams", "pitch_mm"),
    "standing-seam": ("seams", "pan_mm"),
    "shake": ("shakes", "exposure_mm"),
}


def hatch_of(surface: Surface, knowledge: Knowledge) -> Hatch | None:
    """Return how a surface's face is hatched."""
    profile = knowledge.profiles.get(surface.profile)
    if profile is not None and profile.shape in _SPACING_BY_SHAPE:
        kind, dimension = _SPACING_BY_SHAPE[profile.shape]
        spacing = (surface.profile_mm or profile.mm).get(dimension, 180.0)
        return Hatch(kind, float(spacing) / 1000)
    if surface.substrate == "brick":
        return Hatch("brick", _BRICK_COURSE_M)
    if surface.substrate == "block":
        return Hatch("brick", _BLOCK_COURSE_M)
    if surface.kind == "deck":
        return Hatch("deck", _DECK_BOARD_M)
    if surface.substrate == "shingle-roof":
        return Hatch("shakes", _SHINGLE_M)
    if surface.texture.endswith("stucco"):
        return Hatch("stipple", 0.0)
    return None


def drawn_elevation(elevation: Elevation, knowledge: Knowledge, pins: Sequence[Pin] = ()) -> DrawnElevation:
    return DrawnElevation(
        id=elevation.id,
        name=elevation.name,
        kind=elevation.kind,
        view=elevation.view,
        azimuth_deg=elevation.azimuth_deg,
        tilt_deg=elevation.tilt_deg,
        region=region_of(elevation),
        surfaces=[DrawnSurface(s.id, s.name, s.kind, region_of(s), s.is_painted, hatch_of(s, knowledge)) for s in elevation.surfaces],
        openings=[DrawnOpening(o.kind, rect_of(o), o.panes_across, o.panes_up, o.id) for o in elevation.openings],
        pins=pins,
        start_m=elevation.start_m,
        base_m=elevation.base_m,
        depth_m=elevation.depth_m,
        has_gable=elevation.gable_from_m > 0,
    )


def pins_of(findings: Sequence[Finding], elevation_id: str, knowledge: Knowledge, href: str = "#finding-{}") -> list[Pin]:
    """Return the findings of an elevation as pins; `href` takes the finding's id."""
    pins = []
    for finding in findings:
        if finding.elevation_id != elevation_id:
            continue
        kind = knowledge.conditions[finding.kind]
        label = f"Finding {finding.number}: {kind.label.lower()}, {knowledge.extents[finding.extent].label}"
        pins.append(Pin(finding.number, finding.x_m, finding.y_m, label, kind.group == "damage", href.format(finding.id)))
    return pins


def drawn_house(job: Job, knowledge: Knowledge, findings: Sequence[Finding] = (), href: str = "#finding-{}") -> list[DrawnElevation]:
    return [drawn_elevation(e, knowledge, pins_of(findings, e.id, knowledge, href)) for e in job.building.elevations]

"""The survey on paper and in a spreadsheet."""

from collections.abc import Iterator
from typing import Any

from markupsafe import Markup

from amber_gable.core.geometry import openings_area_m2
from amber_gable.core.geometry.profiles import factor_of
from amber_gable.drawing.house.building import views
from amber_gable.drawing.sheet import house_sheet
from amber_gable.services.app.scope import Scope
from amber_gable.services.survey.around.features import suggestion
from amber_gable.services.survey.building.areas import face_of, net_area_m2
from amber_gable.services.survey.evidence.findings import findings_of
from amber_gable.store.models import Job
from amber_gable.units import convert, show
from amber_gable.web.views.drawn import drawn_house


def scale_bar(job: Job) -> tuple[float, str]:
    """Return length [m] and words of the bar under a drawing."""
    return (convert(10.0, "ft", "m"), "10 ft") if job.units == "us" else (3.0, "3 m")


def sheet_of(scope: Scope, job: Job) -> Markup:
    """Return the house's views on one sheet, with the paintable area of each and a scale bar."""
    findings = findings_of(scope, job.id)
    drawn = drawn_house(job, scope.knowledge, findings, href="")
    rows = {e.id: e for e in job.building.elevations}
    notes = {}
    for view in views(drawn):
        area = sum(net_area_m2(s, rows[e.id], scope.knowledge) for e in view.elevations for s in rows[e.id].surfaces if s.is_painted)
        notes[view.key] = f"{show(area, 'area', job.units)} to paint"
    title = f"{job.name}{', quick: estimated, not measured' if job.building.is_quick else ''}"
    return Markup(house_sheet(drawn, title, notes, scale_bar(job)))


def csv_rows(scope: Scope, job: Job) -> Iterator[tuple[object, ...]]:
    """Yield the rows of the CSV of surfaces, in walking order."""
    knowledge = scope.knowledge
    for e in job.building.elevations:
        access = e.access or suggestion(job, e, knowledge).access
        for s in e.surfaces:
            face = face_of(s, e, knowledge)
            gross = face.region.area_m2
            taken = openings_area_m2(face.region, face.openings)
            yield (
                e.name, s.name, s.kind, round(e.azimuth_deg, 1), round(e.tilt_deg, 1), s.substrate, s.profile,
                round(factor_of(knowledge.profiles[s.profile], s.profile_mm).value, 4), s.texture, s.coating, s.coated_year, s.old_lrv_pct,
                s.lrv_pct, "yes" if s.is_painted else "no", round(gross, 4), round(taken, 4), round(gross - taken, 4), access,
            )  # fmt: skip


def sheet_values(scope: Scope, job: Job) -> dict[str, Any]:
    """Return what the printed page shows: the drawing, and every painted surface with its area."""
    rows = [(e, s, net_area_m2(s, e, scope.knowledge)) for e in job.building.elevations for s in e.surfaces if s.is_painted]
    return {"job": job, "sheet": sheet_of(scope, job), "rows": rows, "knowledge": scope.knowledge, "show": show, "system": job.units}

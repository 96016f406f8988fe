"""The ribbon sheet of a job: what hangs in the van."""

from markupsafe import Markup

from amber_gable.drawing.hours.ribbon_sheet import RibbonRow, Sheet, ribbon_sheet
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.outlook import Outlook, day_start
from amber_gable.services.outlook.stepwindows import kinds, outlook_for
from amber_gable.store.models import Job
from amber_gable.web.templating import zone_of
from amber_gable.web.views.windows.hours import axis_over


def sheet_svg(scope: Scope, job: Job, coats: Outlook, days: int, work: str) -> Markup:
    """Return the sheet as an SVG that stands alone."""
    ahead = outlook_for(scope, job, coats, work)
    now = scope.clock.now().astimezone(zone_of(job))
    axis = axis_over(ahead, day_start(ahead, now), 24 * days)
    windows, climate = ahead.windows, ahead.windows.climate
    names = {s.id: s.name for e in job.building.elevations for s in e.surfaces}
    rows = [RibbonRow(names[i], windows.runs(r), climate.direct_sun[r], climate.wet[r]) for r, i in enumerate(ahead.surface_ids)]
    printed = f"by the forecast of {ahead.issued_at.astimezone(ahead.zone):%a %d %b %H:%M}, printed {now:%a %d %b %H:%M}"
    times = [ahead.local(q) for q in range(axis.first, axis.last)]
    rain, chance = climate.rain_mm_h, climate.rain_probability_pct
    return Markup(
        ribbon_sheet(axis, rows, Sheet(job.name, f"{kinds(scope, job, coats)[work]} · {printed}", times, climate.sky.is_day, rain, chance))
    )

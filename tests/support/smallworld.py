"""A small world: one house of three painted walls, and its crew. What plans work is tested on it: the
demonstration's four houses take ten times as long to plan and teach no more.
"""

from dataclasses import replace
from datetime import date

from amber_gable.demo.seed import seed
from amber_gable.demo.spec import DemoJob, OpeningSpec, SurfaceSpec
from amber_gable.demo.tollkeepers import JOB
from amber_gable.demo.work import write_crew, write_record
from amber_gable.services.app.app import App
from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.office import fleet

_PAINTED = ("East wall", "South gable wall", "North gable wall")
_ON = ("East", "South gable", "North gable")

SMALL: DemoJob = replace(
    JOB,
    blocks=JOB.blocks[:1],
    openings=tuple(OpeningSpec(side, "vent", "1'", "1'", "5'", "9'") for side in _ON),
    surfaces=(
        JOB.surfaces[0],
        SurfaceSpec("wood-siding", 31.0, names=("West wall", "North gable top", "South gable top"), is_painted=False, coating="alkyd"),
    ),
    items=(),
    paints_trim=False,
    findings=tuple(f for f in JOB.findings if f.kind in ("peeling", "mildew")),
    tests=JOB.tests,
    walk=tuple(w for w in JOB.walk if w[0] != "West"),
    lead_free=("North gable wall", "East wall"),
    asbestos_free=(),
    pieces={},
    candidates=JOB.candidates[:1],
)  # fmt: skip


def seed_small(app: App) -> None:
    """Write the small world: its crew, a tower that stands there, and what was done before."""
    job_id = seed(app, (SMALL,))
    scope = Scope(app, OFFICE)
    write_crew(scope)
    fleet.reserve(scope, "tower", job_id, date(2026, 9, 7), date(2026, 9, 30))
    write_record(scope, job_id)

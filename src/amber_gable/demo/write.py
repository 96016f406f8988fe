"""Writing a demonstration job through the services that a user's clicks go through."""

from starlette.datastructures import FormData

from amber_gable.core.geometry import Block
from amber_gable.core.geometry.alone import parse_corners
from amber_gable.demo.spec import BlockSpec, DemoJob, SurfaceSpec
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.around import features
from amber_gable.services.survey.around.features import FeatureFacts
from amber_gable.services.survey.building import blocks, items, openings, surfaces
from amber_gable.services.survey.building.items import ItemFacts
from amber_gable.services.survey.building.openings import OpeningFacts
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.services.survey.evidence import findings, gates, site_tests, walk
from amber_gable.services.survey.evidence.findings import FindingFacts
from amber_gable.services.systems import choices
from amber_gable.services.systems.choices import Wish
from amber_gable.services.systems.colours import add_candidate, colours_of, set_colour
from amber_gable.services.systems.specs import specs_of
from amber_gable.store.models import Job, Surface
from amber_gable.units import parse
from amber_gable.web.forms import TypedForm
from amber_gable.web.views.survey.blockform import read_block


def _ft(text: str) -> float:
    return parse(text, "length", "ft")


def block_of(spec: BlockSpec, parent: str = "") -> Block:
    """Return the block that a spec's form describes."""
    typed = dict(spec.lengths) | {"roof": spec.roof, "ridge_runs": spec.ridge_runs, "steps": spec.steps}
    if parent:
        typed |= {"parent": parent, "side": spec.side, "from_left_m": spec.from_left_m}
    form = TypedForm(FormData(typed))
    block = read_block(form, spec.kind, "us", name=spec.name)
    form.done()
    return block


def write(scope: Scope, spec: DemoJob) -> str:
    """Write a job; return its id."""
    job_id = jobs.create(scope, spec.facts, block_of(spec.blocks[0]), spec.front_azimuth_deg, spec.rules)
    for block in spec.blocks[1:]:
        parent = next(b.id for b in jobs.whole(scope, job_id).building.blocks if b.name == block.against)
        blocks.add_block(scope, job_id, block_of(block, parent))
    by_name = {e.name: e.id for e in jobs.whole(scope, job_id).building.elevations}
    for o in spec.openings:
        width, height, left, sill = (_ft(v) for v in (o.width_m, o.height_m, o.left_m, o.sill_m))
        usual = scope.knowledge.openings[o.kind]
        across, up = int(o.panes_across or usual.panes_across), int(o.panes_up or usual.panes_up)
        opening = OpeningFacts(o.kind, width, height, left, sill, across, up, o.moves)
        openings.add_opening(scope, job_id, by_name[o.elevation], opening)
    for name, corners in spec.cuts:
        line = tuple((_ft(x), _ft(y)) for x, y in parse_corners(corners))
        surfaces.add_cut(scope, job_id, by_name[name], line)
    _surfaces(scope, jobs.whole(scope, job_id), spec)
    for item in jobs.whole(scope, job_id).building.items if not spec.paints_trim else ():
        items.update_item(scope, job_id, item.id, item.girth_m, False)
    for kind, name, length, girth, count in spec.items:
        items.add_item(scope, job_id, ItemFacts(kind, _ft(length), _ft(girth), int(count), name))
    _site(scope, job_id, spec, by_name)
    return job_id


def _chosen(spec: SurfaceSpec, surface: Surface) -> bool:
    return surface.name in spec.names or (not spec.names and surface.kind in spec.kinds)


def _surfaces(scope: Scope, job: Job, spec: DemoJob) -> None:
    for elevation in job.building.elevations:
        for surface in elevation.surfaces:
            for s in spec.surfaces:
                if _chosen(s, surface):
                    row = scope.knowledge.substrates[s.substrate]
                    facts = SurfaceFacts(
                        substrate=s.substrate, profile=s.profile or (surface.profile if surface.kind == "railing" else row.profile),
                        texture=s.texture or row.texture, lrv_pct=s.lrv_pct, is_painted=s.is_painted, hex=s.hex, coating=s.coating,
                        coated_year=s.coated_year, old_lrv_pct=s.old_lrv_pct, old_hex=s.old_hex, lies_on=s.lies_on,
                    )  # fmt: skip
                    surfaces.update_surface(scope, job.id, surface.id, facts)


def _site(scope: Scope, job_id: str, spec: DemoJob, by_name: dict[str, str]) -> None:
    for f in spec.features:
        edges = f.shade or (None, None, None)
        distance = _ft(f.distance_m) if f.distance_m else None
        features.add_feature(scope, job_id, FeatureFacts(f.kind, f.note, by_name.get(f.elevation), distance, *edges))
    for name, ground in spec.grounds.items():
        features.set_access(scope, job_id, by_name[name], None, ground, 0.0)
    for finding in spec.findings:
        facts = FindingFacts(finding.kind, finding.extent, _ft(finding.x_m), _ft(finding.y_m), finding.depth_mm, finding.note)
        finding_id = findings.add_finding(scope, job_id, by_name[finding.elevation], facts)
        if finding.acknowledged_by:
            findings.acknowledge(scope, job_id, finding_id, finding.acknowledged_by)
    job = jobs.whole(scope, job_id)
    ids = {s.name: s.id for e in job.building.elevations for s in e.surfaces}
    for t in spec.tests:
        site_tests.record(scope, job, ids[t.surface], t.kind, t.values, t.painter)
    if spec.lead_free:
        gates.record(scope, job.id, "lead", "test", [ids[name] for name in spec.lead_free], spec.lead_test)
    if spec.asbestos_free:
        parts = [ids.get(name, name) for name in spec.asbestos_free]
        gates.record(scope, job.id, "asbestos", "test", parts, spec.asbestos_sample)
    for station, question, said in spec.walk:
        walk.answer(scope, job, by_name.get(station, station), question, said.split())
    _colours(scope, job, spec)


def _colours(scope: Scope, job: Job, spec: DemoJob) -> None:
    for part, (new, old) in spec.pieces.items():
        choices.want(scope, job.id, part, Wish(old_hex=old))
        of_part = next(c for c in colours_of(scope, specs_of(scope, job), ()) if any(s.part.key == part for s in c.specs))
        set_colour(scope, job, of_part, new)
    for zone, code, tint in spec.candidates:
        add_candidate(scope, job, zone, code, tint)

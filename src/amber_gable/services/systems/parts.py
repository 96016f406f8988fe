"""The parts of a job that have a system, each with the facts of its survey.

A part is a painted surface, by its id, or all windows, shutters or trim together.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from amber_gable.core.geometry.blocks import BURIED
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.survey.ages import Since, age_y
from amber_gable.core.survey.walk import QUICK
from amber_gable.core.systems.facts import Facts, Found
from amber_gable.core.systems.samples import TEST_PATCH
from amber_gable.core.systems.work import Extent
from amber_gable.core.takeoff import Measured
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.jobs.rules import JobRules
from amber_gable.services.survey.around.features import suggestion
from amber_gable.services.survey.building.rows import region_of, shape_of
from amber_gable.services.survey.evidence import gates
from amber_gable.services.systems.extents import items_extent, measured_of, openings_extent, surface_extent
from amber_gable.store import queries
from amber_gable.store.models import Elevation, Finding, Job, SiteTest, Surface, SystemChoice

_WORST = ("fail", "doubt", "pass")
# Openings that shock: lamps, meters.
_ELECTRIC = ("light", "meter")
# What is found on a wall and belongs to its windows.
_OF_WINDOWS = gates.PUTTY
_SUNNY_DEG = assumed("sunny_within_deg")
_OPEN_EDGE_M = assumed("open_edge_m")
# What can be rolled after the gun.
_WALLS = ("wall", "gable")
_BACK_ROLLED = ("wall", "gable", "plinth", "chimney", "soffit")
# What usually stands since the house was built.
_BUILT_WITH_IT = ("wall", "gable", "plinth", "chimney", "roof")
# What a quick survey's grade stands for until somebody pins what is there (our assumption).
_GRADES: dict[str, tuple[Found, ...]] = {
    "good": (),
    "fair": (Found("chalking", "spots"), Found("peeling", "spots")),
    "poor": (Found("chalking", "spots"), Found("peeling", "to-30"), Found("cracked", "spots")),
}


@dataclass(frozen=True)
class Part:
    """A part of a job that has a system of its own.

    Parameters
    ----------
    key : str
        A surface's id, or "windows", "shutters", "trim".
    surfaces : tuple of str
        Ids it is drawn on.
    measured : Measured or None
        Of a surface: its areas.
    """

    key: str
    name: str
    facts: Facts
    extent: Extent
    surfaces: tuple[str, ...]
    measured: Measured | None = None


@dataclass(frozen=True)
class _Known:
    """Rows of a job besides its building."""

    findings: Sequence[Finding]
    tests: Sequence[SiteTest]
    choices: Mapping[str, SystemChoice]
    patches: Mapping[str, str]
    # Of a quick survey; empty for any other.
    grade: str


def _read(scope: Scope, job: Job) -> _Known:
    with scope.reading() as session:
        choices = queries.system_choices(session, job.id)
        graded = queries.walk_answers(session, job.id) if job.building.is_quick else ()
        return _Known(
            queries.findings(session, job.id), queries.site_tests(session, job.id),
            {c.part: c for c in choices}, {s.part: s.result for s in queries.samples(session, job.id) if s.kind == TEST_PATCH and s.result},
            next((a.answer for a in graded if a.station == QUICK and a.question == "grade"), ""),
        )  # fmt: skip


def parts_of(scope: Scope, job: Job, schools: Mapping[str, str], rules: JobRules | None = None, grade: str = "") -> list[Part]:
    """Return the parts of a job in walking order, then windows, shutters and trim.

    Parameters
    ----------
    rules : JobRules, optional
        In place of the job's own, to see what they would change.
    grade : str
        In place of a quick survey's own.
    """
    rules = rules or rules_of(job)
    basis = _read(scope, job)
    basis = replace(basis, grade=grade) if grade and basis.grade else basis
    states = _gate_states(scope, job)
    leaves_small = schools.get("small-openings") == "leave-in"
    silica = "works-under" if any(r.hazard == "silica" for r in gates.records_of(scope, job)) else ""
    parts: list[Part] = []
    for e in job.building.elevations:
        for s in e.surfaces:
            if s.is_painted:
                facts = _surface_facts(scope, job, e, s, basis, schools, rules)
                facts = replace(facts, lead=states["lead"].get(s.id, ""), asbestos=states["asbestos"].get(s.id, ""), silica=silica)
                measured = measured_of(s, e, scope.knowledge, leaves_small)
                parts.append(Part(s.id, s.name, facts, surface_extent(measured, s, e, scope.knowledge), (s.id,), measured))
    unpainted = [(s, e) for e in job.building.elevations for s in e.surfaces if s.kind in _WALLS]
    model = None
    if unpainted and not any(p.facts.kind in _WALLS for p in parts):
        wall, e = max(unpainted, key=lambda pair: region_of(pair[0]).area_m2)
        model = _surface_facts(scope, job, e, wall, basis, schools, rules)
    return parts + list(_pieces(scope, job, parts, basis, states["asbestos"], model))


def _gate_states(scope: Scope, job: Job) -> dict[str, dict[str, str]]:
    """Return how each hazard stands for each surface: closed or worked under; cleared ones are left out."""
    out: dict[str, dict[str, str]] = {}
    for gate in gates.gates_of(scope, job):
        state = "works-under" if gate.state == "works-under" else "closed"
        out[gate.hazard] = dict.fromkeys(gate.open_components, state)
    return out


def _worst(tests: Iterable[SiteTest]) -> dict[str, str]:
    worst: dict[str, str] = {}
    for test in tests:
        result = str(test.verdict["result"])
        if _WORST.index(result) < _WORST.index(worst.get(test.kind, "pass")) or test.kind not in worst:
            worst[test.kind] = result
    return worst


def _kind(surface: Surface, elevation: Elevation) -> str:
    opening = next((o for o in elevation.openings if o.id == surface.opening_id), None)
    return "garage-door" if opening is not None and opening.kind == "garage-door" else surface.kind


def _is_sunny(job: Job, elevation: Elevation) -> bool:
    equator = 180.0 if job.latitude_deg >= 0 else 0.0
    off = abs((elevation.azimuth_deg - equator + 180) % 360 - 180)
    return elevation.tilt_deg < 45 or off <= _SUNNY_DEG


def _near(job: Job, elevation: Elevation) -> tuple[str, ...]:
    there = [f for f in job.features if f.elevation_id in (None, elevation.id)]
    near = [*(f.kind for f in there), *(["kept-off"] if any(f.is_kept_off for f in there) else [])]
    lamps = any(o.kind in _ELECTRIC for o in elevation.openings)
    blocks = {b.id: b.kind for b in job.building.blocks}
    # What stands on a roof is reached over it.
    near += ["on-roof"] if blocks.get(elevation.block_id or "") in BURIED else []
    return tuple(dict.fromkeys([*near, *(["electric"] if lamps or "electric-sign" in near else [])]))


def _open_edge(job: Job, elevation: Elevation, surface: Surface) -> bool:
    block = next((b for b in job.building.blocks if b.id == elevation.block_id), None)
    return surface.kind == "deck" and block is not None and block.eaves_height_m > _OPEN_EDGE_M and block.rail_height_m == 0


def _graded(scope: Scope, surface: Surface, grade: str) -> tuple[Found, ...]:
    """Return what a quick survey's grade stands for on this material."""
    family = scope.knowledge.substrates[surface.substrate].family
    rows = scope.knowledge.conditions
    return tuple(f for f in _GRADES.get(grade, ()) if not rows[f.kind].families or family in rows[f.kind].families)


def _age_y(surface: Surface, job: Job, today: date) -> float | None:
    """Return for how many years a surface has been coated, or bare; None where nobody knows.

    Bare masonry, metal or vinyl is as old as the house where nothing else is said; wood may have been laid later.
    """
    if surface.coated_year:
        return age_y(Since(surface.coated_year, surface.coated_month), today)
    is_as_old = surface.coating == "none" and surface.kind in _BUILT_WITH_IT
    return age_y(Since(job.year_built), today) if job.year_built and is_as_old and surface.substrate != "treated-wood" else None


def _surface_facts(
    scope: Scope, job: Job, e: Elevation, s: Surface, basis: _Known, schools: Mapping[str, str], rules: JobRules
) -> Facts:  # fmt: skip
    now = scope.clock.now()
    choice = basis.choices.get(s.id)
    damage = scope.knowledge.conditions
    pins = [f for f in basis.findings if f.surface_id == s.id and damage[f.kind].group != "damage" and f.kind not in _OF_WINDOWS]
    access = e.access or suggestion(job, e, scope.knowledge).access
    return Facts(
        substrate=s.substrate,
        kind=_kind(s, e),
        texture=s.texture,
        coating=s.coating,
        coating_age_y=_age_y(s, job, now.date()),
        findings=tuple(Found(f.kind, f.extent, f.depth_mm) for f in pins) or (_graded(scope, s, basis.grade) if s.kind in _WALLS else ()),
        tests=_worst(t for t in basis.tests if t.surface_id == s.id),
        old_hex=s.old_hex,
        new_hex=s.hex,
        old_lrv_pct=s.old_lrv_pct,
        new_lrv_pct=s.lrv_pct,
        wanted=choice.wanted if choice else "",
        schools=schools,
        method=rules.method,
        access=access,
        top_m=shape_of(e).top_m,
        is_sunny=_is_sunny(job, e),
        near=_near(job, e),
        has_open_edge=_open_edge(job, e, s),
        is_heat_reflective=bool(choice and choice.is_heat_reflective),
        is_vinyl_safe=bool(choice and choice.is_vinyl_safe),
        patch=basis.patches.get(s.id, ""),
        coats=rules.coats,
        technique=rules.technique if rules.method == "sprayer" and s.kind in _BACK_ROLLED else "",
    )


def _pieces(
    scope: Scope, job: Job, surfaces: Sequence[Part], basis: _Known, asbestos: Mapping[str, str], unpainted: Facts | None
) -> Iterable[Part]:
    """Return windows, shutters and trim, each as one part: they are made of and coated like one another.

    Parameters
    ----------
    unpainted : Facts or None
        Of the largest wall where no wall is painted: its trim may be, all the same.
    """
    kinds, today = scope.knowledge.openings, scope.clock.now().date()
    openings = [(e, o) for e in job.building.elevations for o in e.openings]
    has_panes = [(e, o) for e, o in openings if kinds[o.kind].has_panes]
    walls = [p for p in surfaces if p.facts.kind in _WALLS]
    items = [i for i in job.building.items if i.is_painted]
    railings = [p for p in surfaces if p.facts.kind == "railing"]
    if not walls and railings and items:
        # Posts and rails of a deck: coated like its balusters, their hours in the railing's own pace.
        facts = _chosen(replace(railings[0].facts, findings=()), basis.choices.get("trim"), today)
        yield Part("trim", "Posts and rails", facts, replace(items_extent(items, scope.knowledge), run_m=0.0), ())
    if unpainted is not None and items and not railings:
        bare = Facts(
            "wood-trim", texture="smooth", schools=unpainted.schools, method="brush", access=unpainted.access, top_m=unpainted.top_m,
            lead=unpainted.lead, near=unpainted.near, kind="trim", asbestos=asbestos.get("trim", ""),
        )  # fmt: skip
        facts = _chosen(bare, basis.choices.get("trim"), today)
        yield Part("trim", "Trim and soffits", facts, items_extent(items, scope.knowledge, has_walls=False), ())
    if not walls:
        return
    model = max(walls, key=lambda p: p.extent.area_m2).facts
    putty = tuple(Found(f.kind, f.extent, f.depth_mm) for f in basis.findings if f.kind in _OF_WINDOWS)
    rot = tuple(
        Found(f.kind, f.extent, f.depth_mm) for f in basis.findings if f.kind == "rot" and f.elevation_id in {e.id for e, _ in openings}
    )
    bare = Facts(
        "wood-trim", texture="smooth", coating=_of_wood(model, scope), coating_age_y=model.coating_age_y, schools=model.schools,
        method="brush", access=model.access, top_m=model.top_m, lead=model.lead, near=model.near,
    )  # fmt: skip
    for key, name, kind, chosen, findings in (
        ("windows", "Windows", "window", has_panes, putty + rot),
        ("shutters", "Shutters", "shutter", [(e, o) for e, o in openings if o.kind == "shutter"], ()),
    ):
        if chosen:
            facts = _chosen(replace(bare, kind=kind, findings=findings, asbestos=asbestos.get(key, "")), basis.choices.get(key), today)
            yield Part(key, f"{name}, {len(chosen)}", facts, openings_extent(chosen, scope.knowledge), ())
    if items:
        facts = _chosen(replace(bare, kind="trim", asbestos=asbestos.get("trim", "")), basis.choices.get("trim"), today)
        yield Part("trim", "Trim and soffits", facts, items_extent(items, scope.knowledge), ())


def _of_wood(model: Facts, scope: Scope) -> str:
    """Return what trim of wood most likely wears: what the walls of wood do, else paint nobody knows."""
    is_wood = scope.knowledge.substrates[model.substrate].family == "wood"
    return model.coating if is_wood and model.coating != "none" else "unknown"


def _chosen(facts: Facts, choice: SystemChoice | None, today: date) -> Facts:
    """Return the facts of pieces with what was said of them by hand; the rest is as on the walls."""
    if choice is None:
        return facts
    age = age_y(Since(choice.coated_year), today) if choice.coated_year else facts.coating_age_y
    coating = choice.coating or facts.coating
    if coating == "none" and not choice.coated_year:
        age = None
    return replace(
        facts,
        wanted=choice.wanted,
        new_hex=choice.hex,
        old_hex=choice.old_hex,
        coating=coating,
        coating_age_y=age,
    )

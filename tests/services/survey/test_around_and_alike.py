"""Things round the house with their colour or that must not be touched; what holds for parts alike; claddings by block."""

import pytest

from amber_gable.errors import FieldErrors
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.around import features
from amber_gable.services.survey.building import blocks, surfaces
from amber_gable.services.survey.building.surfaces import SurfaceFacts, as_usual
from amber_gable.services.survey.bundle.export import export
from amber_gable.services.survey.evidence import site_tests
from amber_gable.services.systems.specs import specs_of
from amber_gable.web.views.office.papers import work_values
from tests.support.pages import errors, send
from tests.support.surveys import WING, elevation


def test_what_must_not_be_touched_reaches_its_side_alone_and_the_crew(client, opened, job):
    west = elevation(job, "West")
    path = f"/jobs/{job.id}/features"
    typed = {"kind": "plants", "elevation_id": west.id, "distance_m": "1'", "hex": "#7A2F28", "is_kept_off": "on"}
    assert "in the words the crew" in errors(send(client, path, typed, "feature"))["feature-note"]
    assert "six digits" in errors(send(client, path, typed | {"note": "x", "hex": "red"}, "feature"))["feature-hex"]
    assert send(client, path, typed | {"note": "Climbing rose, three metres up"}).status_code == 200
    job = jobs.whole(opened, job.id)
    assert features.kept_off(job) == [("West", "Climbing rose, three metres up")]
    by_side = {s.part.name: {c.key for c in s.system.cautions} for s in specs_of(opened, job)}
    assert "kept-off" in by_side["West wall"]
    assert "kept-off" not in by_side["East wall"]
    assert work_values(opened, job)["kept_off"] == features.kept_off(job)
    assert "Must not be touched" in client.get(f"/jobs/{job.id}/survey/around").text
    assert "It stands beside" in client.get(f"/jobs/{job.id}/systems/colours").text
    kept = next(f for f in export(opened, job).features if f.is_kept_off)
    assert (kept.hex, kept.note) == ("#7a2f28", "Climbing rose, three metres up")


def test_one_test_holds_for_parts_alike_where_its_card_allows(client, opened, job):
    east, plinth = elevation(job, "East"), elevation(job, "East").surfaces
    wall = next(s for s in east.surfaces if s.kind == "wall")
    like = site_tests.alike(job, wall.id)
    assert {"West wall", "North gable wall", "South gable wall"} <= {s.name for s in like}
    assert all(s.substrate == wall.substrate for s in like)
    before = {t.id for t in site_tests.tests_of(opened, job.id)}
    send(client, f"/jobs/{job.id}/surfaces/{wall.id}/tests/rub", {"rating": "6", "also": [s.id for s in like[:2]]})
    made = [t for t in site_tests.tests_of(opened, job.id) if t.id not in before]
    assert len(made) == 3
    assert {t.surface_name for t in made} == {wall.name, like[0].name, like[1].name}
    # Moisture differs from place to place; a plinth of brick says nothing of boards.
    strange = next(s for s in plinth if s.kind == "plinth")
    for kind, values, also in (("moisture", {"readings_pct": [12.0]}, like[0].id), ("rub", {"rating": 6.0}, strange.id)):
        with pytest.raises(FieldErrors) as fault:
            site_tests.record(opened, job, wall.id, kind, values, also=[also])
        assert set(fault.value.errors) == {"also"}


def test_a_wing_is_clad_by_itself_and_a_new_substrate_brings_its_profile(client, opened, job):
    house = next(b for b in job.building.blocks if b.kind == "house")
    wing_id = blocks.add_block(opened, job.id, WING.__class__(**{**WING.__dict__, "parent": house.id}))
    job = jobs.whole(opened, job.id)
    own = [s for e in job.building.elevations if e.block_id == wing_id for s in e.surfaces if s.kind in ("wall", "gable")]
    wall = own[0]
    typed = {
        "substrate": "stucco", "profile": wall.profile, "texture": wall.texture, "lrv_pct": "40", "is_painted": "on", "coating": "acrylic",
        "surface_name": wall.name,
    }  # fmt: skip
    assert wall.profile == "lap"
    assert send(client, f"/jobs/{job.id}/surfaces/{wall.id}", typed).status_code == 200
    assert send(client, f"/jobs/{job.id}/surfaces/{wall.id}/alike", {"of": "block"}).status_code == 200
    job = jobs.whole(opened, job.id)
    by_block = {(e.block_id == wing_id, s.substrate, s.profile) for e in job.building.elevations for s in e.surfaces if s.kind == "wall"}
    usual = opened.knowledge.substrates["stucco"]
    assert {(profile, substrate) for is_wing, substrate, profile in by_block if is_wing} == {(usual.profile, "stucco")}
    assert "stucco" not in {substrate for is_wing, substrate, _ in by_block if not is_wing}
    # Whoever chose the profile too keeps it.
    chosen = SurfaceFacts("brick", "board-batten", "smooth", 40.0, True)
    row = next(s for e in job.building.elevations for s in e.surfaces if s.id == wall.id)
    assert as_usual(chosen, row, opened.knowledge) == (chosen, False)
    surfaces.update_surface(opened, job.id, wall.id, chosen)

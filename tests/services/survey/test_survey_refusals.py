"""What cannot be is refused at its field, in a sentence that says what to do, and changes nothing."""

import json
from dataclasses import replace

import pytest

from amber_gable.core.survey.quick import QuickFacts
from amber_gable.errors import FieldErrors
from amber_gable.exchange import jobbundle
from amber_gable.services.jobs import jobs
from amber_gable.services.survey import quick
from amber_gable.services.survey.around import features
from amber_gable.services.survey.around.features import FeatureFacts
from amber_gable.services.survey.building import blocks, items, openings, surfaces
from amber_gable.services.survey.building.areas import net_area_m2
from amber_gable.services.survey.building.items import ItemFacts
from amber_gable.services.survey.building.openings import OpeningFacts
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.services.survey.bundle.export import export
from amber_gable.services.survey.bundle.read import read_in
from amber_gable.services.survey.evidence import findings, gates
from tests.support.records import everything
from tests.support.surveys import CLEARED, PIN, WING, block, elevation

FACTS = jobs.JobFacts("Mill", 43.8, -91.2, 200, "America/Chicago", "us", 1950, crew=("Ines",))
QUICK = QuickFacts(44.0, 5.5, 2, 2, "stucco", "poor", {"windows": 10})
WINDOW = OpeningFacts("sash-window", 0.8, 1.5, 3.0, 1.0)
STUCCO = SurfaceFacts("stucco", "flat", "smooth", 50.0, True)
SHADE = FeatureFacts("tree", "", None, 9.0, 80.0, 110.0, 30.0)


def on_west(act, facts):
    return lambda c, j: act(c, j.id, elevation(j, "West").id, facts)


def wing(**new):
    return lambda c, j: blocks.add_block(c, j.id, replace(WING, **{"parent": block(j, "House").key} | new))


def job_with(**new):
    return lambda c, j: jobs.update_facts(c, j.id, replace(FACTS, **new), 180.0)


def quickly(**new):
    return lambda c, j: quick.create(c, FACTS, replace(QUICK, **new))


def record(hazard="lead", basis="test", surface=True, **new):
    return lambda c, j: gates.record(c, j.id, hazard, basis, [elevation(j, "West").surfaces[0].id] if surface else [], CLEARED | new)


REFUSED = [
    (job_with(name=" "), {"name"}),
    (job_with(latitude_deg=91, longitude_deg=-181, altitude_m=7000), {"latitude_deg", "longitude_deg", "altitude_m"}),
    (job_with(time_zone="Mars/Base", units="cubits", year_built=12), {"time_zone", "units", "year_built"}),
    (job_with(lead_before_year=5, country="atlantis"), {"lead_before_year", "country"}),
    (lambda c, j: jobs.update_facts(c, j.id, FACTS, 400.0), {"front_azimuth_deg"}),
    (lambda c, j: blocks.turn(c, j.id, -1.0), {"front_azimuth_deg"}),
    (lambda c, j: blocks.add_alone(c, j.id, "", 370.0, ((0, 0), (1, 0), (1, 1))), {"name", "azimuth_deg"}),
    (lambda c, j: blocks.add_alone(c, j.id, "Bow", 0.0, ((0, 0), (2, 2), (2, 0), (0, 2))), {"corners"}),
    (lambda c, j: blocks.add_alone(c, j.id, "Long", 0.0, ((0, 0), (900, 0), (900, 2))), {"corners"}),
    (lambda c, j: blocks.remove_block(c, j.id, block(j, "House").key), {"form"}),
    (lambda c, j: blocks.add_block(c, j.id, replace(block(j, "House"), key="")), {"kind"}),
    (wing(ridge_height_m=1.0, plinth_height_m=9.0), {"ridge_height_m", "plinth_height_m"}),
    (wing(across_m=0.1, overhang_m=4.0, base_m=5.0), {"across_m", "overhang_m", "base_m"}),
    (wing(parent=""), {"parent"}),
    (wing(kind="deck", roof="none", eaves_height_m=0.7, steps=41, steps_width_m=0.1, tread_m=2.0, riser_m=1.0),
     {"steps", "steps_width_m", "tread_m", "riser_m"}),
    (wing(kind="bay", splay_m=3.0), {"splay_m"}),
    (wing(kind="dormer", projects_m=0.5), {"projects_m"}),
    (on_west(openings.add_opening, replace(WINDOW, kind="porthole", panes_across=0, moves="maybe")), {"kind", "panes_across", "moves"}),
    (on_west(openings.add_opening, replace(WINDOW, width_m=0, height_m=-1)), {"width_m", "height_m"}),
    (on_west(openings.add_opening, replace(WINDOW, width_m=30, height_m=30)), {"width_m", "height_m"}),
    (on_west(openings.add_opening, replace(WINDOW, left_m=-1, sill_m=-1)), {"left_m", "sill_m"}),
    (lambda c, j: openings.copy_along(c, j.id, elevation(j, "West").openings[0].id, 41, 1.0), {"count"}),
    (lambda c, j: openings.copy_along(c, j.id, elevation(j, "West").openings[0].id, 1, 0.1), {"apart_m"}),
    (lambda c, j: openings.repeat_storey(c, j.id, elevation(j, "West").id, 20, 30, 2.6), {"sill_from_m"}),
    (lambda c, j: openings.mirror(c, j.id, elevation(j, "West").id, elevation(j, "West roof").id), {"from_elevation_id"}),
    (lambda c, j: surfaces.update_surface(c, j.id, elevation(j, "West").surfaces[0].id, replace(STUCCO, substrate="straw", lrv_pct=101,
     old_hex="grey", coated_year=12)), {"substrate", "lrv_pct", "old_hex", "coated_year"}),
    (lambda c, j: surfaces.update_surface(c, j.id, elevation(j, "West").surfaces[0].id, replace(STUCCO, profile="lap",
     profile_mm={"exposure_mm": 0, "depth_mm": 3})), {"exposure_mm", "butt_mm", "depth_mm"}),
    (on_west(surfaces.add_cut, ((0, 3),)), {"points"}),
    (on_west(surfaces.add_cut, ((30, 30), (31, 31))), {"points"}),
    (on_west(surfaces.add_cut, ((1, 1), (2, 2), (2, 1), (1, 2))), {"points"}),
    (on_west(surfaces.add_cut, ((0, 0.001), (11, 0.001))), {"points"}),
    (on_west(findings.add_finding, replace(PIN, kind="gremlins", extent="lots", depth_mm=900, note="x" * 1001)),
     {"kind", "extent", "depth_mm", "note"}),
    (on_west(findings.add_finding, replace(PIN, x_m=99)), {"x_m"}),
    (lambda c, j: items.add_item(c, j.id, ItemFacts("flagpole", 1, 1)), {"kind"}),
    (lambda c, j: items.add_item(c, j.id, ItemFacts("downspout", 0, 9, 0)), {"length_m", "girth_m", "count"}),
    (lambda c, j: items.remove_item(c, j.id, j.building.items[0].id), {"form"}),
    (lambda c, j: features.add_feature(c, j.id, replace(SHADE, kind="dragon")), {"kind"}),
    (lambda c, j: features.add_feature(c, j.id, replace(SHADE, shade_from_deg=None, shade_to_deg=400, shade_up_to_deg=0)),
     {"shade_from_deg", "shade_to_deg", "shade_up_to_deg"}),
    (lambda c, j: features.add_feature(c, j.id, FeatureFacts("power-line", "y" * 501)), {"distance_m", "note"}),
    (lambda c, j: features.set_access(c, j.id, elevation(j, "West").id, "wings", "lava", 130), {"access", "ground", "ground_slope_pct"}),
    (record(hazard="noise"), {"hazard"}),
    (record(basis="hope"), {"basis"}),
    (record(surface=False, tester=" ", result="perhaps", tested_on="soon"), {"tester", "result", "tested_on", "surface_id"}),
    (record(basis="works-under"), {"certificate", "notice", "containment"}),
    (quickly(perimeter_m=2, eaves_height_m=1, storeys=9), {"perimeter_m", "eaves_height_m", "storeys"}),
    (quickly(gables=1, grade="superb", counts={"doors": 999}, substrate="straw"), {"gables", "grade", "doors", "substrate"}),
]  # fmt: skip


@pytest.mark.parametrize(("edit", "fields"), REFUSED)
def test_what_cannot_be_is_refused_at_its_fields(opened, job, edit, fields):
    before = everything(opened)
    with pytest.raises(FieldErrors) as caught:
        edit(opened, job)
    assert set(caught.value.errors) == fields
    for message in caught.value.errors.values():
        assert message[0].isupper() or message[0] in "“0123456789", message
        assert message.rstrip("”")[-1] in ".?", message
    assert everything(opened) == before


def _set(path, value):
    def change(bundle):
        *stem, last = path.split(".")
        at = bundle
        for part in stem:
            at = at[int(part)] if part.isdigit() else at[part]
        if value is None:
            at.append(at[0]) if last == "+" else at.pop(int(last))
        else:
            at[int(last) if last.isdigit() else last] = value

    return change


_BUNDLES: dict[str, bytes] = {}


def bundle_of(opened, job):
    """The seeded job as a bundle to be spoilt; the same in every test here."""
    if job.id not in _BUNDLES:
        _BUNDLES[job.id] = jobbundle.write(export(opened, job))
    return json.loads(_BUNDLES[job.id])


PATCH = {"part_name": "West wall", "kind": "test-patch", "made_on": "2026-09-10", "due_on": "2026-09-20"}


@pytest.mark.parametrize(
    ("path", "value", "told"),
    [
        ("job.country", "atlantis", "job.country"),
        ("job.time_zone", "Mars/Base", "job.time_zone"),
        ("job.rules", {"coats": "many"}, "job.rules.coats"),
        ("job.rules", {"access": "x"}, "job.rules.access"),
        ("job.rules", {"method": "x"}, "job.rules.method"),
        ("job.rules", {"product": "x"}, "job.rules.product"),
        ("job.rules", {"schools": {"sun": "always"}}, "job.rules.schools.sun"),
        ("job.rules", {"products": {"acrylic": "mud"}}, "job.rules.products.acrylic"),
        ("job.rules", {"day_starts_h": 18.0, "day_ends_h": 7.0}, "job.rules.day_ends_h"),
        ("job.name", "Mill\x00", "job.name"),
        ("building.blocks.1.key", "block-1", "building.blocks.1.key"),
        ("building.blocks.0.parent", "block-9", "building.blocks.0.parent"),
        ("building.blocks.0.ridge_height_m", 1.0, "building.blocks.0.ridge_height_m"),
        ("building.elevations.0.key", "tower/top", "building.elevations.0.key"),
        ("building.elevations.0.surfaces.0", None, "building.elevations.0.surfaces"),
        ("building.elevations.0.surfaces.0.opening", 40, "building.elevations.0.surfaces"),
        ("building.items.+", None, None),
        ("features.0.elevation", "tower/top", "features.0.elevation"),
        ("features.0.kind", "dragon", "features.0.kind"),
        ("findings.0.extent", "lots", "findings.0.extent"),
        ("site_tests.0.surface", 77, "site_tests.0.surface"),
        ("site_tests.0.kind", "lick", "site_tests.0.kind"),
        ("walk", [{"station": "tower/top", "question": "grade", "answer": "good"}], "walk.0.station"),
        ("clearances", [{"hazard": "lead", "basis": "test", "details": {}}], "clearances.0.details.tester"),
        ("systems", [{"wanted": "tar", "pieces": "trim"}], "systems.0.wanted"),
        ("systems", [{"pieces": "trim"}, {"pieces": "trim"}], "systems.1"),
        ("systems", [{}], "systems.0"),
        ("systems", [{"pieces": "trim", "edits": [{"op": "add", "step": "dance"}]}], "systems.0.edits.0.step"),
        ("samples", [PATCH | {"due_on": "2026-09-12"}], "samples.0.due_on"),
        ("samples", [PATCH | {"made_on": "2027-09-10", "due_on": "2027-09-20"}], "samples.0.made_on"),
        ("samples", [PATCH | {"result": "approved", "signed_by": "I"}], "samples.0.result"),
        ("samples", [PATCH | {"result": "holds"}], "samples.0.signed_by"),
        ("candidates", [{"zone": "Moat", "code": "x", "hex": "#ffffff"}], "candidates.0.zone"),
    ],
)
def test_a_bundle_that_cannot_be_is_told_by_path(opened, job, path, value, told):
    bundle = bundle_of(opened, job)
    _set(path, value)(bundle)
    before = everything(opened)
    if told is None:
        # What is no fault: an item twice is two items.
        read_in(opened, jobbundle.read(json.dumps(bundle).encode()))
        return
    with pytest.raises(FieldErrors) as caught:
        read_in(opened, jobbundle.read(json.dumps(bundle).encode()))
    assert told in caught.value.errors
    assert everything(opened) == before


def test_an_empty_building_and_one_of_walls_alone(opened, job):
    bundle = bundle_of(opened, job)
    bundle["building"] = {"front_azimuth_deg": 90.0}
    for name in ("features", "findings", "site_tests", "clearances", "walk", "systems", "samples", "candidates"):
        bundle[name] = []
    with pytest.raises(FieldErrors, match="needs a block"):
        read_in(opened, jobbundle.read(json.dumps(bundle).encode()))
    ring = [[0, 0], [6, 0], [6, 2.5], [3, 4], [0, 2.5], [0, 0]]
    bundle["building"]["alone"] = [{"key": "alone-1", "name": "Barn end", "azimuth_deg": 10, "outline": {"coordinates": [ring]}}]
    bundle["building"]["elevations"] = [
        {
            "key": "alone-1", "name": "Barn end", "azimuth_deg": 10, "outline": {"coordinates": [ring]},
            "openings": [{"kind": "sash-window", "width_m": 1, "height_m": 1, "left_m": 2.5, "sill_m": 1}],
        }
    ]  # fmt: skip
    barn = jobs.whole(opened, read_in(opened, jobbundle.read(json.dumps(bundle).encode())))
    wall = elevation(barn, "Barn end")
    assert net_area_m2(wall.surfaces[0], wall, opened.knowledge) == pytest.approx(6 * 2.5 + 6 * 1.5 / 2 - 1)
    again = read_in(opened, jobbundle.read(jobbundle.write(export(opened, barn)).encode()))
    assert export(opened, jobs.whole(opened, again)) == export(opened, barn)

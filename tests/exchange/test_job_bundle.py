"""The job bundle: what is wrong in form is told by path, all of it, before anything is read in."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.errors import FieldErrors
from amber_gable.exchange import jobbundle
from amber_gable.exchange.jobbundle import JobBundle, Polygon

JOB = {"name": "Mill", "latitude_deg": 43.8, "longitude_deg": -91.2, "altitude_m": 200, "time_zone": "America/Chicago", "units": "us"}
BLOCK = {"key": "b", "name": "House", "kind": "house", "across_m": 10, "deep_m": 8, "eaves_height_m": 5, "ridge_height_m": 8}
SMALL = {"bundle_version": 1, "job": JOB, "building": {"front_azimuth_deg": 90, "blocks": [BLOCK]}}


def problems(bundle: dict) -> dict[str, str]:
    with pytest.raises(FieldErrors) as caught:
        jobbundle.read(json.dumps(bundle).encode())
    return caught.value.errors


def test_a_small_bundle_is_enough():
    read = jobbundle.read(json.dumps(SMALL).encode())
    assert (read.job.country, read.building.blocks[0].roof, read.findings) == ("us", "gable", [])
    assert jobbundle.read(jobbundle.write(read).encode()) == read


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("bundle_version", 3),
        ("job.latitude_deg", 143),
        ("job.units", "cubits"),
        ("job.year_built", 12),
        ("job.crew", "Ines"),
        ("job.shoe", 1),
        ("building.front_azimuth_deg", 400),
        ("building.blocks.0.kind", "tower"),
        ("building.blocks.0.side", 4),
        ("building.blocks.0.across_m", "wide"),
        ("building.blocks.0.steps", 99),
        ("building.blocks.0.roof", "onion"),
        ("building.elevations", [{"key": "k", "name": "n", "azimuth_deg": 1, "outline": {"type": "Circle", "coordinates": []}}]),
        ("building.alone", [{"key": "a", "name": "", "azimuth_deg": 1, "outline": {"coordinates": [[[0, 0], [1, 0], [1, 1]]]}}]),
        ("findings", [{"elevation": "e", "kind": "rot", "extent": "spots", "x_m": 1, "y_m": 2, "depth_mm": 900}]),
        ("clearances", [{"hazard": "noise", "basis": "test", "details": {}}]),
        ("features", [{"kind": "tree", "shade_up_to_deg": 0}]),
    ],
)
def test_what_is_wrong_in_form_is_told_by_its_path(path, value):
    bundle = json.loads(json.dumps(SMALL))
    at = bundle
    *stem, last = path.split(".")
    for part in stem:
        at = at[int(part)] if part.isdigit() else at[part]
    at[last] = value
    found = problems(bundle)
    assert all(p == path or p.startswith(f"{path}.") for p in found), found


def test_all_problems_come_at_once():
    bundle = SMALL | {"job": JOB | {"latitude_deg": 100, "units": "x"}, "extra": 1}
    assert set(problems(bundle)) == {"job.latitude_deg", "job.units", "extra"}
    for nonsense in (b"", b"[]", b"null", b'{"bundle_version": 1}', b"\xff"):
        with pytest.raises(FieldErrors):
            jobbundle.read(nonsense)


def test_numbers_that_are_none_are_refused():
    text = json.dumps(SMALL).replace('"across_m": 10', '"across_m": NaN')
    with pytest.raises(FieldErrors):
        jobbundle.read(text.encode())
    text = json.dumps(SMALL).replace('"across_m": 10', '"across_m": 1e999')
    with pytest.raises(FieldErrors):
        jobbundle.read(text.encode())


points = st.tuples(st.floats(-100, 100), st.floats(-100, 100))


@given(outline=st.lists(points, min_size=3, max_size=8), hole=st.lists(points, min_size=3, max_size=4))
def test_polygons_are_closed_on_the_way_out_and_opened_on_the_way_in(outline, hole):
    polygon = Polygon.of(outline, [hole])
    assert all(ring[0] == ring[-1] for ring in polygon.coordinates)
    again = Polygon.model_validate_json(polygon.model_dump_json())
    if outline[0] != outline[-1]:
        assert again.outline == tuple(outline)


def test_the_schema_describes_what_is_written():
    schema = jobbundle.schema()
    assert schema["$schema"].endswith("2020-12/schema")
    names = set(schema["$defs"])
    assert {"BlockPart", "ElevationPart", "SurfacePart", "OpeningPart", "FindingPart"} <= names
    assert schema["required"] == ["bundle_version", "job", "building"]
    assert schema["additionalProperties"] is False
    assert set(JobBundle.model_fields) == set(schema["properties"])

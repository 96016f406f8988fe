"""Equal openings entered at once: spread or measured, with shutters and trim, a storey up, on the opposite side; all or none."""

import pytest

from amber_gable.core.geometry.openings import spread
from amber_gable.errors import FieldErrors
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.building import openings
from amber_gable.services.survey.building.openings import OpeningFacts, OpeningSet
from tests.support.records import everything, last
from tests.support.systems import named

FT = 0.3048
CASEMENT = OpeningFacts("casement-window", 3 * FT, 4 * FT, 0.0, 3 * FT)


def test_openings_are_spread_as_a_painter_would_measure_them():
    # 30 ft of wall, three windows of 3 ft: four gaps of 21 / 4 ft.
    assert spread(30, 3, 3, ()) == pytest.approx((5.25, 13.5, 21.75))
    # The first 2 ft from the left corner: the last stands 2 ft from the right one.
    assert spread(30, 3, 3, (2,)) == pytest.approx((2, 13.5, 25))
    assert spread(30, 3, 1, (2, 9.5, 20)) == (2, 9.5, 20)
    assert spread(30, 3, 1, ()) == (13.5,)
    for count, lefts, field in ((12, (), "count"), (3, (1, 2), "left_m"), (0, (), "count")):
        with pytest.raises(FieldErrors) as fault:
            spread(30, 3, count, lefts)
        assert field in fault.value.errors


def wall_of(job, side):
    """Return a wall of the main block by its side."""
    house = next(b for b in job.building.blocks if b.kind == "house")
    return next(e for e in job.building.elevations if e.block_id == house.id and e.key.endswith(f"/{side}"))


def test_a_set_of_windows_with_shutters_trim_storey_and_the_other_side_is_one_action(opened):
    """The block cottage's north and south walls are 36 ft: two casements on either, each with its shutters, trim round all four."""
    job = named(opened, "Quarry Lane 9")
    for side in ("front", "back"):
        for o in list(wall_of(job, side).openings):
            openings.remove_opening(opened, job.id, o.id)
    job = jobs.whole(opened, job.id)
    front = wall_of(job, "front")
    trim_before = sum(i.length_m for i in job.building.items if i.kind == "window-trim")
    before = everything(opened)
    wanted = OpeningSet(CASEMENT, 2, (), has_shutters=True, has_trim=True, is_opposite=True)
    openings.add_set(opened, job.id, front.id, wanted)
    job = jobs.whole(opened, job.id)
    for side in ("front", "back"):
        standing = wall_of(job, side).openings
        casements = sorted(o.left_m for o in standing if o.kind == "casement-window")
        # 36 ft less twice 3 ft, in three gaps of 10 ft.
        assert casements == pytest.approx([10 * FT, 23 * FT], abs=1e-3)
        assert sum(o.kind == "shutter" for o in standing) == 4
    trim = sum(i.length_m for i in job.building.items if i.kind == "window-trim")
    assert trim - trim_before == pytest.approx(4 * 14 * FT)
    changes.undo(opened, last(opened, job.id)[0])
    assert everything(opened) == before, "one action, one undo"


def test_a_set_that_does_not_fit_leaves_nothing_behind(opened):
    job = named(opened, "Quarry Lane 9")
    front = wall_of(job, "front")
    before = everything(opened)
    with pytest.raises(FieldErrors):
        openings.add_set(opened, job.id, front.id, OpeningSet(CASEMENT, 1, (0.1,), rise_m=30.0))
    assert everything(opened) == before


def test_36_in_a_field_of_feet_is_asked_about(client, job):
    front = wall_of(job, "left")
    typed = {"kind": "casement-window", "width_m": "36", "height_m": "4", "left_m": "2", "sill_m": "3"}
    refused = client.post(f"/jobs/{job.id}/elevations/{front.id}/openings", data=typed, headers={"HX-Request": "true"})
    assert refused.status_code == 422
    assert "36 ft? For inches type 36 in; if it is 36 ft, type 36 ft." in refused.text.replace("&#39;", "'")
    # Several distances in one field.
    typed |= {"width_m": "2' 6\"", "height_m": "3", "left_m": "1', 6'; 11 ft", "sill_m": "10"}
    done = client.post(f"/jobs/{job.id}/elevations/{front.id}/openings", data=typed, headers={"HX-Request": "true"})
    assert done.status_code == 200, done.text

"""The one door: undo brings back exactly what was, conflicts are noticed, nothing is half done."""

from dataclasses import replace

import pytest
from sqlalchemy import select

from amber_gable.errors import ConflictError, FieldErrors, NotFoundError
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.building import blocks, openings, surfaces
from amber_gable.services.survey.building.openings import OpeningFacts
from amber_gable.services.survey.building.rows import block_of
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.store.models import Change
from tests.support.records import everything, last


def facts_of(surface, **new) -> SurfaceFacts:
    names = set(SurfaceFacts.__dataclass_fields__) - {"name"}
    # Without its tint, which would set the reflectance.
    return SurfaceFacts(**({n: getattr(surface, n) for n in names} | {"hex": None} | new))


DOOR = OpeningFacts("entry-door", 0.9, 2.0, 1.0, 0.5)


def test_edits_are_undone_one_after_another_back_to_the_start(opened, job, surface_named):
    start = everything(opened)
    wall = surface_named("East wall")
    surfaces.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60))
    surfaces.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=70))
    openings.add_opening(opened, job.id, job.building.elevations[0].id, DOOR)
    for label in ("add the entry door", "change East wall", "change East wall"):
        set_id, said = last(opened, job.id)
        assert said == label
        changes.undo(opened, set_id)
    assert everything(opened) == start


def test_an_earlier_edit_is_not_undone_over_a_later_one(opened, job, surface_named):
    wall = surface_named("East wall")
    surfaces.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60))
    earlier, _ = last(opened, job.id)
    surfaces.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=70))
    before = everything(opened)
    with pytest.raises(ConflictError, match="a later change stands on it, “change East wall” by office"):
        changes.undo(opened, earlier)
    assert everything(opened) == before


def test_the_same_undo_twice_is_refused(opened, job):
    jobs.remove(opened, job.id)
    set_id, _ = last(opened, job.id)
    changes.undo(opened, set_id)
    with pytest.raises(NotFoundError):
        changes.undo(opened, set_id)


def test_two_people_saving_the_same_row_notice_each_other(opened, job, surface_named):
    wall = surface_named("East wall")
    surfaces.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60), wall.version)
    with pytest.raises(ConflictError, match="Somebody changed this"):
        surfaces.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=70), wall.version)


def test_a_refused_edit_leaves_no_trace(opened, job):
    before = everything(opened)
    with opened.reading() as session:
        known = len(session.scalars(select(Change)).all())
    with pytest.raises(FieldErrors):
        openings.add_opening(opened, job.id, job.building.elevations[0].id, OpeningFacts("sash-window", 99, 1, 0, 1))
    assert everything(opened) == before
    with opened.reading() as session:
        assert len(session.scalars(select(Change)).all()) == known


def test_the_trail_says_who_when_before_and_after(opened, job, surface_named):
    wall = surface_named("East wall")
    surfaces.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60))
    with opened.reading() as session:
        change = session.scalars(select(Change).order_by(Change.number.desc())).first()
    assert (change.who, change.label, change.table_name, change.row_id) == ("office", "change East wall", "surfaces", wall.id)
    assert (change.before["lrv_pct"], change.after["lrv_pct"]) == (30.98, 60)
    assert (change.at - opened.clock.now()).total_seconds() < 60
    # Saving what already stands is no change.
    surfaces.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60))
    with opened.reading() as session:
        assert session.scalars(select(Change).order_by(Change.number.desc())).first().id == change.id


def test_new_measurements_keep_what_is_known_of_each_surface(opened, job):
    house = block_of(next(b for b in job.building.blocks if b.kind == "house"))
    taller = replace(house, eaves_height_m=6.2, ridge_height_m=9.0)
    blocks.update_block(opened, job.id, taller)
    again = jobs.whole(opened, job.id)
    assert {s.id for e in again.building.elevations for s in e.surfaces} == {s.id for e in job.building.elevations for s in e.surfaces}
    east = next(e for e in again.building.elevations if e.name == "East")
    wall = next(s for s in east.surfaces if s.kind == "wall")
    assert (max(y for _, y in wall.outline), wall.lrv_pct, wall.coated_year) == (6.2, 30.98, 2013)
    # A house too low for its windows names the window, and changes nothing.
    with pytest.raises(FieldErrors, match="would no longer fit") as caught:
        blocks.update_block(opened, job.id, replace(taller, eaves_height_m=4.0, ridge_height_m=5.0))
    assert caught.value.spots, "and where it is"
    assert max(b.eaves_height_m for b in jobs.whole(opened, job.id).building.blocks if b.kind == "house") == 6.2


def test_turning_the_house_renames_its_sides_and_keeps_the_rest(opened, job):
    facts = jobs.JobFacts(**{n: getattr(job, n) for n in jobs.JobFacts.__dataclass_fields__})
    jobs.update_facts(opened, job.id, facts, 168.0)
    again = jobs.whole(opened, job.id)
    front = next(e for e in again.building.elevations if e.key.endswith("/front") and e.openings)
    assert (front.name, round(front.azimuth_deg)) == ("South", 168)
    assert {o.id for e in again.building.elevations for o in e.openings} == {o.id for e in job.building.elevations for o in e.openings}
    assert {s.name for s in front.surfaces} == {"South wall", "South plinth", "South entry door"}

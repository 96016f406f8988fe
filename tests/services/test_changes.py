"""The one door: undo brings back exactly what was, conflicts are noticed, nothing is half done."""

import pytest
from sqlalchemy import select, text

from amber_gable.errors import ConflictError, FieldErrors, NotFoundError
from amber_gable.services import changes, jobs, survey
from amber_gable.services.survey import OpeningFacts, SurfaceFacts, block_of
from amber_gable.store.models import Change


def everything(opened) -> dict[str, list]:
    """All rows of what a user edits, to compare before and after."""
    tables = ("jobs", "buildings", "elevations", "openings", "surfaces", "readings", "schedules")
    with opened.engine.connect() as connection:
        return {t: sorted(map(tuple, connection.execute(text(f"SELECT * FROM {t}"))), key=repr) for t in tables}


def last(opened, job_id):
    with opened.reading() as session:
        return changes.undo_label(session, job_id)


def facts_of(surface, **new) -> SurfaceFacts:
    names = SurfaceFacts.__dataclass_fields__
    return SurfaceFacts(**({n: getattr(surface, n) for n in names} | new))


DOOR = OpeningFacts("entry-door", 0.9, 2.0, 1.0, 0.5)


def test_undo_takes_back_each_kind_of_edit_exactly(opened, job, surface_named):
    north = job.building.elevations[0]
    edits = [
        lambda: survey.add_opening(opened, job.id, north.id, DOOR),
        lambda: survey.remove_opening(opened, job.id, north.openings[0].id),
        lambda: survey.update_surface(opened, job.id, surface_named("East wall").id, facts_of(surface_named("East wall"), lrv_pct=60)),
        lambda: jobs.update_rules(opened, job.id, jobs.rules_of(job).model_dump() | {"coats": 3}),
        lambda: jobs.remove(opened, job.id),
    ]
    for edit in edits:
        before = everything(opened)
        edit()
        assert everything(opened) != before
        set_id, _ = last(opened, job.id)
        assert changes.undo(opened, set_id) == job.id
        assert everything(opened) == before


def test_edits_are_undone_one_after_another_back_to_the_start(opened, job, surface_named):
    start = everything(opened)
    wall = surface_named("East wall")
    survey.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60))
    survey.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=70))
    survey.add_opening(opened, job.id, job.building.elevations[0].id, DOOR)
    for label in ("add the entry door", "change East wall", "change East wall"):
        set_id, said = last(opened, job.id)
        assert said == label
        changes.undo(opened, set_id)
    assert everything(opened) == start


def test_an_earlier_edit_is_not_undone_over_a_later_one(opened, job, surface_named):
    wall = surface_named("East wall")
    survey.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60))
    earlier, _ = last(opened, job.id)
    survey.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=70))
    before = everything(opened)
    with pytest.raises(ConflictError, match="undo the later change first"):
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
    survey.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60), wall.version)
    with pytest.raises(ConflictError, match="Somebody changed this"):
        survey.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=70), wall.version)


def test_a_refused_edit_leaves_no_trace(opened, job):
    before = everything(opened)
    with opened.reading() as session:
        known = len(session.scalars(select(Change)).all())
    with pytest.raises(FieldErrors):
        survey.add_opening(opened, job.id, job.building.elevations[0].id, OpeningFacts("sash-window", 99, 1, 0, 1))
    assert everything(opened) == before
    with opened.reading() as session:
        assert len(session.scalars(select(Change)).all()) == known


def test_the_trail_says_who_when_before_and_after(opened, job, surface_named):
    wall = surface_named("East wall")
    survey.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60))
    with opened.reading() as session:
        change = session.scalars(select(Change).order_by(Change.number.desc())).first()
    assert (change.who, change.label, change.table_name, change.row_id) == ("office", "change East wall", "surfaces", wall.id)
    assert (change.before["lrv_pct"], change.after["lrv_pct"]) == (31.0, 60)
    assert (change.at - opened.clock.now()).total_seconds() < 1
    # Saving what already stands is no change.
    survey.update_surface(opened, job.id, wall.id, facts_of(wall, lrv_pct=60))
    with opened.reading() as session:
        assert session.scalars(select(Change).order_by(Change.number.desc())).first().id == change.id


def test_new_measurements_keep_what_is_known_of_each_surface(opened, job):
    from dataclasses import replace

    taller = replace(block_of(job.building), eaves_height_m=6.2, ridge_height_m=9.4, front_azimuth_deg=90.0)
    facts = jobs.JobFacts(job.name, job.latitude_deg, job.longitude_deg, job.altitude_m, job.time_zone, job.units, job.year_built, job.crew)
    jobs.update_facts(opened, job.id, facts, taller)
    again = jobs.whole(opened, job.id)
    assert {s.id for e in again.building.elevations for s in e.surfaces} == {s.id for e in job.building.elevations for s in e.surfaces}
    east = next(e for e in again.building.elevations if e.name == "East")
    wall = next(s for s in east.surfaces if s.kind == "wall")
    assert (east.azimuth_deg, max(y for _, y in wall.outline), wall.lrv_pct) == (90.0, 6.2, 31.0)
    # A house too low for its windows names the window, and changes nothing.
    with pytest.raises(FieldErrors, match="would no longer fit") as caught:
        jobs.update_facts(opened, job.id, facts, replace(taller, eaves_height_m=4.0, ridge_height_m=5.0))
    assert caught.value.field == "eaves_height_m"
    assert jobs.whole(opened, job.id).building.eaves_height_m == 6.2

"""The work of a job: tasks side by side that add up to the take-off; coats by their own label, under the colour that is on the wall."""

import numpy as np
import pytest

from amber_gable.core.coat.colour import lrv_pct
from amber_gable.core.knowledge import Phase
from amber_gable.errors import NotFoundError
from amber_gable.services.log.record import done_steps
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.joinery import joinery, rows_of
from amber_gable.services.outlook.outlook import of_turn
from amber_gable.services.outlook.stepwindows import kinds
from amber_gable.services.outlook.windowcard import card
from amber_gable.services.survey.building.sides import named, sides_of
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.services.systems.specs import specs_of
from amber_gable.services.takeoff.job import job_takeoff, kind_of
from amber_gable.services.takeoff.tasks import tasks_of
from tests.support.surveys import by_name

HOUSES = ("Tollkeeper's House", "Slipway Boathouse", "Quarry Lane 9", "Orchard Deck")


def ahead_of(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


@pytest.mark.parametrize("name", HOUSES)
def test_tasks_are_all_the_work_of_the_take_off_and_no_more(opened, name):
    job = by_name(opened, name)
    tasks, found = tasks_of(opened, job), job_takeoff(opened, job)
    assert sum(task.hours for task in tasks) == pytest.approx(found.days.work_h, abs=1e-9)
    for spec in specs_of(opened, job):
        for step in spec.system.steps:
            own = [t for t in tasks if (t.part, t.step) == (spec.part.key, step.key)]
            assert sum(t.hours for t in own) == pytest.approx(spec.works[step.key].hours, abs=1e-9)
    assert sum(found.hours_by_kind.values()) == pytest.approx(found.days.work_h, abs=0.05)
    assert len({task.id for task in tasks}) == len(tasks)


@pytest.mark.parametrize("name", HOUSES)
def test_each_task_waits_for_the_one_before_it_on_its_side(opened, name):
    job = by_name(opened, name)
    tasks = {task.id: task for task in tasks_of(opened, job)}
    elevations = {e.id for e in job.building.elevations}
    known = opened.knowledge
    for task in tasks.values():
        assert task.side in elevations, "every part of these houses lies on a side"
        assert task.weather in {"any", "coat", *known.step_weather}
        assert task.way_up in known.access
        assert 1 <= task.crew[0] <= task.crew[1]
        for waits in task.after:
            before = tasks[waits.task]
            assert (before.part, before.side) == (task.part, task.side)
            assert before.phase.order <= task.phase.order
            if before.is_coat and before.product:
                # By the label, or by what the handbook asks beyond it.
                assert waits.wait.law in ("label", "tacky")
                assert waits.wait.law == "tacky" or waits.wait.hours >= known.products[before.product].recoat_h
    chains = [task for task in tasks.values() if not task.after]
    assert len(chains) == len({(t.part, t.side) for t in tasks.values()}), "one beginning for each part of each side"


def test_windows_shutters_and_trim_lie_on_their_sides(opened, job):
    known = opened.knowledge
    panes = {e.name: sum(known.openings[o.kind].has_panes for o in e.openings) for e in job.building.elevations}
    found = {s.elevation.name: s.share_frac for s in sides_of(job, "windows", known)}
    assert found == pytest.approx({name: count / sum(panes.values()) for name, count in panes.items() if count})
    for part in ("windows", "shutters", "trim"):
        assert sum(s.share_frac for s in sides_of(job, part, known)) == pytest.approx(1)
    assert sides_of(job, "no such part", known) == ()
    # The verge boards of the house run on its gables, the fascia on its eaves: both kinds of side have trim.
    sides = {s.elevation.name for s in sides_of(job, "trim", known)}
    assert {"East", "West"} <= {name.split()[0] for name in sides}


def test_trim_has_the_weather_of_its_side(opened, job):
    ahead = joinery(opened, job, ahead_of(opened, job))
    rows = rows_of(opened, job)
    assert ahead.surface_ids == [side.key for side, _ in rows]
    assert [s.azimuth_deg for s in ahead.surfaces] == [side.elevation.azimuth_deg for side, _ in rows]
    names = named(job, opened.knowledge)
    azimuths = {row: side.elevation.azimuth_deg for row, (side, spec) in enumerate(rows) if spec.part.key == "windows"}
    facing = {word: next(r for r, a in azimuths.items() if abs(a - turn) < 45) for word, turn in (("east", 90), ("west", 270))}
    assert all(names[i][0].startswith(("Windows, ", "Shutters, ", "Trim, ")) for i in ahead.surface_ids)
    temps, sun = ahead.windows.climate.surface_temp_c, ahead.windows.climate.direct_sun
    today = opened.clock.now().astimezone(ahead.zone)
    morning, evening = (ahead.step_at(today.replace(hour=h)) for h in (9, 17))
    assert sun[facing["east"], morning]
    assert not sun[facing["west"], morning]
    assert temps[facing["east"], morning] > temps[facing["west"], morning]
    assert temps[facing["east"], evening] < temps[facing["west"], evening]
    about = card(opened, job, ahead, ahead.surface_ids[0], morning)
    assert about.after.film_um[morning] > 0


def test_a_wall_warms_by_the_colour_that_is_on_it(opened, job):
    """Sage now, deep ochre in the can: until a coat is on record, the wall is sage; primed walls are as light as their primer."""
    first, later = ahead_of(opened, job), of_turn(opened, job, ahead_of(opened, job), "later")
    walls = {s.id: s for e in job.building.elevations for s in e.surfaces if s.is_painted and s.old_hex and s.hex}
    done, coatings = done_steps(opened, job), coatings_of(opened, job)
    primed = [i for i in walls if "prime" in done.get(i, ())]
    assert primed
    assert set(primed) < set(walls)
    for surface_id in primed:
        assert first.surfaces[first.row(surface_id)].solar_absorptance == pytest.approx(
            1 - coatings[surface_id].of("coats").worn_lrv_pct / 100
        )
    for surface_id, wall in ((i, w) for i, w in walls.items() if i not in primed):
        row = first.row(surface_id)
        assert first.surfaces[row].solar_absorptance == pytest.approx(1 - lrv_pct(wall.old_hex) / 100)
        assert later.surfaces[row].solar_absorptance == pytest.approx(1 - lrv_pct(wall.hex) / 100)
        darker = lrv_pct(wall.hex) < lrv_pct(wall.old_hex)
        sunny = first.windows.climate.direct_sun[row] & ~first.windows.climate.wet[row]
        warmer = later.windows.climate.surface_temp_c[row, sunny] - first.windows.climate.surface_temp_c[row, sunny]
        if sunny.any():
            assert (warmer.mean() > 0.2) == darker
    # Where a colour does not change, nothing does.
    kept = [row for row in range(len(first.surfaces)) if first.surfaces[row] == later.surfaces[row]]
    for row in kept:
        assert np.array_equal(first.windows.climate.surface_temp_c[row], later.windows.climate.surface_temp_c[row])


def test_a_primer_goes_on_by_its_own_label(opened):
    for name in HOUSES:
        job = by_name(opened, name)
        ahead, coatings = ahead_of(opened, job), coatings_of(opened, job)
        primed = [i for i in ahead.surface_ids if any(c.turn == "primer" for c in coatings[i].each)]
        assert ("primer" in kinds(opened, job, ahead)) == bool(primed)
        if not primed:
            continue
        found = of_turn(opened, job, ahead, "primer")
        assert found.surface_ids == primed
        for row, surface_id in enumerate(primed):
            primer = [c for c in coatings[surface_id].each if c.turn == "primer"][-1]
            assert found.windows.products[row] == primer.product
            assert found.windows.products[row] != ahead.windows.products[ahead.row(surface_id)]
            recoat = next(s for s in card(opened, job, found, surface_id, 60).after.stages if s.name == "recoat")
            assert recoat.label_h == primer.product.recoat_h
    with pytest.raises(NotFoundError, match="sealer"):
        of_turn(opened, by_name(opened, HOUSES[0]), ahead_of(opened, by_name(opened, HOUSES[0])), "sealer")


def test_what_seals_a_ground_counts_as_priming(opened):
    job = by_name(opened, "Quarry Lane 9")
    assert {kind_of(t) for t in tasks_of(opened, job) if t.is_coat} <= {"Prime", "Coats"}
    assert {kind_of(t) for t in tasks_of(opened, job) if t.phase == Phase.CLEAN} <= {"Clean and wash"}

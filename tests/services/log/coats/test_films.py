"""Wet films by the comb, and beginnings that something speaks against: the reason stays on record."""

from datetime import timedelta

import pytest

from amber_gable.core.planning.state import Told
from amber_gable.errors import FieldErrors
from amber_gable.services.log import record
from amber_gable.services.log.coats import starting
from amber_gable.services.log.coats.films import checked_readings, film_of, painted_m2
from amber_gable.services.log.record import Said
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import schedules
from amber_gable.services.takeoff.tasks import tasks_of


def test_a_thin_film_is_short_of_its_millilitres(opened, job):
    # Handbook 7: wet film = dry film over the share of solids; a micrometre on a square metre is a millilitre.
    product = opened.knowledge.products["rivermark-exterior-satin"]
    target = product.dry_film_um / (product.volume_solids_pct / 100)
    film = film_of(product, [target - 30, target - 10], 20.0)
    assert film.target_um == pytest.approx(target)
    assert film.mean_um == pytest.approx(target - 20)
    assert film.short_l == pytest.approx(20 * 20 / 1000)
    assert film_of(product, [target * 1.5], 20.0).is_thick
    assert film_of(product, [target + 5], 20.0).short_l == 0
    for bad, words in (([5.0], "is no wet film"), ([100.0] * 21, "At most 20")):
        with pytest.raises(FieldErrors, match=words):
            checked_readings(bad)


def test_painted_area_is_without_the_openings_in_it(job):
    side = next(e for e in job.building.elevations if e.name == "East")
    wall = next(s for s in side.surfaces if s.name == "East wall")
    holes = sum(o.width_m * o.height_m for o in side.openings)
    xs, ys = [x for x, _ in wall.outline], [y for _, y in wall.outline]
    whole = (max(xs) - min(xs)) * (max(ys) - min(ys))
    assert whole - holes - 0.01 <= painted_m2(job, wall) < whole


def test_beginning_on_a_shut_wall_takes_a_reason_that_stays(opened, job):
    kept = schedules.make(opened, job)
    stint = next(s for s in kept.stints if s.coat)
    tasks = [t for t in tasks_of(opened, job) if t.id in stint.tasks]
    # Ten to seven: dew on the wall.
    now = opened.clock.now()
    said = Said(Told.BEGAN, now, now, painters=stint.painters)
    with pytest.raises(FieldErrors) as caught:
        starting.begin(opened, job, tasks, said)
    assert set(caught.value.errors) == {"remark"}
    assert "is shut now: wet surface" in caught.value.errors["remark"]
    assert record.rows_of(opened, job)[-1].told != Told.BEGAN.value
    entry = starting.begin(opened, job, tasks, Said(Told.BEGAN, now, now, painters=stint.painters, remark="towelled dry, under the porch"))
    line = next(row for row in record.rows_of(opened, job) if row.entry == entry)
    assert any("wet surface" in why for why in line.details["against"])
    assert line.remark == "towelled dry, under the porch"
    # In its hours nothing speaks against it.
    opened.clock.set(stint.starts_at + timedelta(minutes=5))
    assert starting.against_start(opened, job, tasks, opened.clock.now()) == ()


def test_a_gate_and_a_coat_that_dries_speak_against_it(opened, job):
    kept = schedules.make(opened, job)
    held = next(t for t in tasks_of(opened, job) if t.held_by)
    assert any(why in held.held_by or "lead" in why.lower() for why in starting.against_start(opened, job, [held], opened.clock.now()))
    first = next(s for s in kept.stints if s.coat == 1)
    second = next(s for s in kept.stints if s.coat == 2 and s.side == first.side and set(s.places) & set(first.places))
    by_id = {t.id: t for t in tasks_of(opened, job)}
    opened.clock.set(first.ends_at + timedelta(minutes=30))
    record.enter(opened, job, [by_id[i] for i in first.tasks], Said(Told.DONE, first.starts_at, first.ends_at))
    why = starting.against_start(opened, job, [by_id[i] for i in second.tasks], opened.clock.now())
    assert any("is not ready before" in one for one in why)
    assert outlook.status(opened, job).issue_id

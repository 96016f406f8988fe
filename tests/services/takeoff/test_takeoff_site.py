"""Ladders, spray set-up, hours and rates of the sample jobs: what a painter who knows the house would expect."""

import math
from datetime import date, timedelta

import pytest

from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.price.hire import access_in
from amber_gable.core.price.rates import figures, with_prices
from amber_gable.core.takeoff.days import day_by_day
from amber_gable.core.takeoff.spraying import tip_of
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.around import features
from amber_gable.services.survey.building import surfaces
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.services.takeoff.access import reached
from amber_gable.services.takeoff.job import WORK_KINDS, job_takeoff
from amber_gable.services.takeoff.spray import spray_plan
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.units import in_both
from amber_gable.web.views.office import takeoff as words


def named(opened, name):
    return jobs.whole(opened, next(j.id for j in jobs.list_jobs(opened) if j.name == name))


def ways(opened, job, first_day=None):
    return reached(opened, job, [p.spec for p in job_takeoff(opened, job).parts], first_day)


def test_the_ladder_plan_of_the_tollkeepers_house(opened, job):
    found = {p.wall.name: p for p in ways(opened, job).plans}
    assert list(found) == ["North gable", "East", "South gable", "West"]
    numbers = [s.number for p in found.values() for s in p.sets]
    assert numbers == list(range(1, len(numbers) + 1))
    # The service drop at 11 ft, the porch before the front, the lilac in its bed.
    assert any("a wire at 3.4 m (11 ft)" in in_both(m) for m in found["North gable"].minds)
    assert any("over the porch" in m for m in found["East"].minds)
    assert any("lilac" in m for m in found["South gable"].minds)
    assert any("planted bed" in m for m in found["South gable"].minds)
    assert not found["West"].minds
    assert not any(p.barred for p in found.values())


def test_in_europe_walls_are_scaffolded_at_what_that_costs_there(opened, job):
    """Four walls by tape, a metre past their ends and above their tops, at 9.50 a square metre and 240 for the lorry."""
    with changes.changing(opened, "move the house", job.id) as change:
        row = change.whole_job()
        change.update(row, {"country": "eu"})
        for e in row.building.elevations:
            change.update(e, {"access": None})
    moved = jobs.whole(opened, job.id)
    ft, gable, side = 0.3048, (26.5, 28.0), (38.0, 18.5)
    faces = sum((wide * ft + 2) * (high * ft + 1) for wide, high in (gable, gable, side, side))
    (hire,) = [h for h in job_takeoff(opened, moved).hires if h.access == "scaffold"]
    assert hire.price == pytest.approx(faces * 9.5 + 240, rel=1e-3)
    assert hire.price > 2000
    # The firm's own figure wins over what is usual.
    own = with_prices(opened.knowledge, {"access.scaffold.hire_per_m2": 20.0})
    table = access_in(own, "eu", shipped().access)
    assert (table["scaffold"].hire_per_m2, table["scaffold"].hire_per_m2_week, table["tower"].hire_per_day) == (20.0, 0.45, 38.0)
    assert access_in(own, "us", shipped().access)["tower"] == shipped().access["tower"]
    # It is planned like any other way up: nobody waits for a machine of the firm's.
    tasks = tasks_of(opened, moved)
    assert any(t.way_up == "scaffold" for t in tasks)


def caulked_m(opened, job):
    specs = [p.spec for p in job_takeoff(opened, job).parts]
    return {s.part.name: s.works["caulk"].amount for s in specs if "caulk" in s.works}


def test_each_joint_is_caulked_once(opened, job):
    """By tape: corners above the plinth, rakes, and round 14 sashes and the door. Fascia, posts, downspouts and trim add nothing."""
    corners, rakes = 8 * (18.5 - 20 / 12), 4 * math.hypot(13.25, 9.5)
    openings_ft = 14 * 2 * (32 / 12 + 5) + 2 * (3 + 6 + 10 / 12)
    assert sum(caulked_m(opened, job).values()) == pytest.approx((corners + rakes + openings_ft) * 0.3048, rel=2e-3)
    # A wall that somebody divided with a line has no joint more.
    wall = next(e for e in job.building.elevations if e.name == "West")
    surfaces.add_cut(opened, job.id, wall.id, ((5.0, -1.0), (5.0, 9.0)))
    again = caulked_m(opened, jobs.whole(opened, job.id))
    assert sum(again.values()) == pytest.approx((corners + rakes + openings_ft) * 0.3048, rel=2e-3)


def test_trim_is_priced_where_no_wall_is_painted(opened, job):
    """A brick house whose trim alone is painted: trim has its system, and its joints are its own."""
    for e in job.building.elevations:
        for s in e.surfaces:
            if s.kind in ("wall", "gable"):
                facts = SurfaceFacts("brick", "flat", "brick", 25.0, False, coating="none")
                surfaces.update_surface(opened, job.id, s.id, facts)
    found = caulked_m(opened, jobs.whole(opened, job.id))
    (name,) = [n for n in found if n.startswith("Trim")]
    # Verges 71.8 ft, 214.7 ft of window trim, and both flanks of the corner boards.
    assert found[name] > 85


def test_a_wire_that_is_too_near_bars_the_wall(opened, job):
    wire = next(f for f in job.features if f.kind == "power-line")
    features.remove_feature(opened, job.id, wire.id)
    features.add_feature(opened, job.id, features.FeatureFacts("power-line", "", wire.elevation_id, 2.0))
    barred = ways(opened, jobs.whole(opened, job.id)).barred
    assert [p.wall.name for p in barred] == ["North gable"]
    assert "isolated or shielded" in barred[0].barred


def test_what_is_hired_is_reserved_before_the_first_day(opened, job):
    first = date(2026, 10, 12)
    found = ways(opened, job, first)
    assert found.reserve_by == {"tower": first - timedelta(days=shipped().access["tower"].lead_days)}
    assert ways(opened, job).reserve_by == {}
    serving = [w for w in found.ways if w.serves]
    assert serving == sorted(serving, key=lambda w: w.cost)
    assert {w.access for w in found.ways} == {"step-ladder", "ladder", "tower", "lift", "scaffold"}
    # Hire is in the price of the job, as it stands on the page.
    takeoff = job_takeoff(opened, job)
    assert float(takeoff.price.amount("access")) == sum(h.price for h in takeoff.hires)
    assert {h.access for h in takeoff.hires} == {p.wall.access for p in found.plans if shipped().access[p.wall.access].hire_per_day}


def test_the_boathouse_is_sprayed_by_its_labels(opened):
    boathouse = named(opened, "Slipway Boathouse")
    plan = spray_plan(boathouse, job_takeoff(opened, boathouse), opened.knowledge)
    assert plan.is_sprayed
    walls = next(s for s in plan.setups if s.lot.product_key == "rivermark-exterior-low-lustre")
    # The label asks for 515 to 519; 519 at 2,000 psi lets out 0.31 x (19/17)² gal/min of water, which the pump feeds.
    assert walls.tip == tip_of("519")
    assert walls.stroke.flow_l_per_min == pytest.approx(0.31 * (19 / 17) ** 2 * 3.785411784)
    # 73 % of it on the wall at 100 µm, half overlapped over a fan of ten inches.
    landed = walls.stroke.flow_l_per_min / 60_000 * 0.73
    assert walls.stroke.gun_speed_m_per_s == pytest.approx(landed / (0.254 * 0.5 * 100e-6))
    assert words.gun_speed(walls, "metric").endswith("m/s")
    assert words.gun_speed(walls, "us").endswith("ft/s")
    assert all(s.tip.fan_width_m <= s.least_side_m for s in plan.setups if s.tip and s.least_side_m >= 0.1)
    assert {lot.lines[0].part_name.split(",")[0] for lot in plan.brushed} <= {"Windows", "Trim and soffits"}
    assert walls.tips == 1
    assert walls.worn_l == pytest.approx(walls.lot.litres * 0.22)


def test_a_rolled_job_says_what_it_would_be_like(opened, job):
    plan = spray_plan(job, job_takeoff(opened, job), opened.knowledge)
    body = next(s for s in plan.setups if s.lot.colour == "#ca8a34" and s.lot.role == "finish")
    assert not body.is_sprayed
    assert body.tip is not None
    # Twice 38 ft and twice 26 1/2 ft round the house; 30 m of hose to either side reach all of it but a corner.
    assert plan.around_m == pytest.approx((2 * 38 + 2 * 26.5) * 0.3048)
    assert plan.pump_moves == 0


@pytest.mark.parametrize("number", range(4))
def test_hours_add_up_however_one_looks_at_them(opened, number):
    job = jobs.whole(opened, jobs.list_jobs(opened)[number].id)
    found = job_takeoff(opened, job)
    by_part = sum(p.hours for p in found.parts)
    assert sum(found.hours_by_kind.values()) == pytest.approx(by_part, abs=0.05)
    assert set(found.hours_by_kind) <= set(WORK_KINDS)
    assert found.days.work_h == pytest.approx(by_part)
    laid = day_by_day(found.hours_by_kind, found.days, opened.knowledge.practice)
    assert len(laid) == found.days.days
    first, last = (words.days_of_task(laid, task) for task in (next(iter(found.hours_by_kind)), list(found.hours_by_kind)[-1]))
    assert first.startswith("1")
    assert last.endswith(str(len(laid)))
    for part in found.parts:
        for step in part.spec.system.steps:
            work = part.spec.works[step.key]
            if work.rate:
                assert work.hours == pytest.approx(work.amount / work.rate * work.height)
                assert f"{work.hours:.2f} h" in words.work_arithmetic(work, "us")


def test_every_figure_may_be_set_to_what_it_is_and_told_when_it_is_not(knowledge):
    table = figures(knowledge, knowledge)
    assert len({f.path for f in table}) == len(table) > 100
    assert with_prices(knowledge, {f.path: f.value for f in table}) == knowledge
    assert not any(f.is_own for f in table)
    for figure in table[::17]:
        own = with_prices(knowledge, {figure.path: figure.value * 1.01 if isinstance(figure.value, float) else figure.value + 1})
        assert [f.path for f in figures(own, knowledge) if f.is_own] == [figure.path]

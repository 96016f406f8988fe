"""Cans and tips: what frost and age threaten, paint taken out by its batch, wrong tints not counted, tips worn by their litres."""

from datetime import datetime, timedelta

import pytest

from amber_gable.core.planning.state import Told
from amber_gable.errors import FieldErrors
from amber_gable.services.log import record
from amber_gable.services.log.record import Said
from amber_gable.services.office import cans, stock
from amber_gable.services.office.stock import StockFacts
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.services.takeoff.tasks import tasks_of


@pytest.fixture
def coat(opened, job):
    known = record.recorded(opened, job)
    return next(t for t in tasks_of(opened, job) if t.step == "coat 1" and not t.held_by and t.id not in known)


def put_by(opened, job, coat, batch: str, litres: float = 10.0) -> str:
    stock.add(opened, StockFacts(coat.product, "#b8742f", litres, batch, "van"), job.id)
    return next(row.id for row in stock.rows(opened) if row.batch == batch)


def can(opened, row_id: str):
    return next(c for c in cans.cans_of(opened) if c.row.id == row_id)


def sprayed(opened, job, coat, litres: float, batch: str = "", tip: str = "517", share: float = 1.0) -> None:
    now = opened.clock.now()
    said = Said(Told.DONE, now - timedelta(hours=1), now, share, ("Ines",), litres, batch=batch, details={"tip": tip})
    record.enter(opened, job, [coat], said)


def test_a_coat_takes_its_paint_out_of_the_can_of_its_batch(opened, job, coat):
    mine, other = put_by(opened, job, coat, "R-7"), put_by(opened, job, coat, "R-8")
    sprayed(opened, job, coat, 4.0, "R-7")
    assert can(opened, mine).row.litres == pytest.approx(6.0)
    assert can(opened, other).row.litres == pytest.approx(10.0)
    # More than the can holds empties it and goes no further.
    sprayed(opened, job, coat, 40.0, "R-7")
    assert can(opened, mine).row.litres == pytest.approx(0.0)


def test_frost_and_age_are_said_of_what_they_can_reach(opened, job, coat):
    mine = put_by(opened, job, coat, "R-7")
    assert can(opened, mine).warnings == ()
    # The cold clear night of Saturday: in the forecast two days before.
    opened.clock.set(datetime.fromisoformat("2026-09-19T12:00:00-05:00"))
    cans.tend(opened, mine, "outdoors")
    coldest = min(temp for _, temp in air_of(opened, job))
    assert any(w.startswith("frost") for w in can(opened, mine).warnings) == (coldest <= 2.0)
    cans.tend(opened, mine, "indoors")
    assert can(opened, mine).warnings == ()
    cans.tend(opened, mine, "opened")
    opened.clock.set(datetime.fromisoformat("2027-11-01T12:00:00-05:00"))
    assert any("opened for 13 months" in w for w in can(opened, mine).warnings)


def air_of(opened, job):
    from amber_gable.core.air.sun import Place
    from amber_gable.services.outlook.weather import forecasts

    place = Place(job.latitude_deg, job.longitude_deg, job.altitude_m)
    weather = forecasts.weather_of(opened, place, forecasts.refresh(opened, place))
    now_s = opened.clock.now().timestamp()
    return [(s, t) for s, t in zip(weather.epoch_s, weather.air_temp_c, strict=True) if now_s - 3600 <= s <= now_s + 48 * 3600]


def test_a_wrong_tint_is_neither_used_nor_boxed(opened, job, coat):
    lots = job_takeoff(opened, job).lots
    lot = next(lot for lot in lots if lot.product_key == coat.product and lot.colour)
    stock.add(opened, StockFacts(lot.product_key, lot.colour, 8.0, "R-7"), job.id)
    stock.add(opened, StockFacts(lot.product_key, lot.colour, 8.0, "R-9"), job.id)
    ids = [row.id for row in stock.rows(opened) if row.batch in ("R-7", "R-9")]

    def counted() -> float:
        return next(one.stock_l for one in job_takeoff(opened, job).lots if one.key == lot.key)

    before = counted()
    cans.tend(opened, ids[0], "wrong-tint")
    assert counted() <= before - 7.9 or counted() < before
    with pytest.raises(FieldErrors, match="spoil the others"):
        cans.box(opened, ids)
    cans.tend(opened, ids[0], "good")
    cans.box(opened, ids)
    boxed = [row for row in stock.rows(opened) if row.batch == "R-7 + R-9" or row.batch == "R-9 + R-7"]
    assert [row.litres for row in boxed] == [pytest.approx(16.0)]


def test_a_tip_is_changed_when_its_litres_are_through(opened, job, coat):
    assert cans.tips_of(opened) == []
    sprayed(opened, job, coat, 95.0)
    sprayed(opened, job, coat, 5.0, tip="211")
    first, second = cans.tips_of(opened)
    # Handbook 8: 75 to 150 L; the firm's figure is 110.
    assert (first.name, first.litres, first.is_soon, first.is_worn) == ("517", pytest.approx(95.0), True, False)
    assert (second.name, second.is_soon) == ("211", False)
    sprayed(opened, job, coat, 20.0)
    assert cans.tips_of(opened)[0].is_worn
    cans.change_tip(opened, "517")
    assert cans.tips_of(opened)[-1].litres == pytest.approx(0.0)
    with pytest.raises(FieldErrors, match="Which tip"):
        cans.change_tip(opened, " ")

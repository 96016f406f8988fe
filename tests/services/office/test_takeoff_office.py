"""What the office does with a take-off: ranges, what-ifs, revisions, extras, bids, truck lists; and how fast it is."""

from dataclasses import replace

import pytest

from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.price.range import nine_in_ten, outcomes
from amber_gable.core.survey.quick import QuickFacts
from amber_gable.demo import tollkeepers
from amber_gable.errors import FieldErrors, NotFoundError, PlanError
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.office import bids, extras, revisions, truck
from amber_gable.services.office.bids import BidFacts
from amber_gable.services.office.extras import ExtraFacts
from amber_gable.services.office.rates import change_prices
from amber_gable.services.survey import quick
from amber_gable.services.survey.evidence import gates, site_tests
from amber_gable.services.systems.colours import colours_of, set_colour
from amber_gable.services.systems.specs import AsIf, specs_as_if, specs_of
from amber_gable.services.takeoff import alternatives
from amber_gable.services.takeoff.alternatives import take_off_as_if
from amber_gable.services.takeoff.job import job_takeoff, take_off
from amber_gable.services.takeoff.ranges import range_of
from tests.support.pace import calls
from tests.support.records import everything
from tests.support.surveys import CLEARED


def named(opened, name):
    return jobs.whole(opened, next(j.id for j in jobs.list_jobs(opened) if j.name == name))


def again(opened, job):
    return jobs.whole(opened, job.id)


def quick_job(opened, grade="fair", name="Paced house", perimeter_m=40.0):
    facts = QuickFacts(perimeter_m, 5.4, 2, 2, "wood-siding", grade, {"windows": 12, "doors": 1})
    return jobs.whole(opened, quick.create(opened, replace(tollkeepers.JOB.facts, name=name), facts))


def test_a_quick_survey_is_priced_as_a_range_with_its_drivers(opened):
    house = quick_job(opened)
    found = range_of(opened, house)
    assert found.low < found.likely < found.high
    assert float(job_takeoff(opened, house).price.total) == found.likely
    assert {d.key for d in found.drivers} == {"size", "condition", "pace", "colour", "hidden", "height", "coating", "age", "lead", "access"}
    assert [d.spread(found.likely) for d in found.drivers] == sorted((d.spread(found.likely) for d in found.drivers), reverse=True)
    # Independent errors: no wider than all at once, no narrower than the widest alone.
    assert found.drivers[0].spread(found.likely) <= found.high - found.likely + 1
    assert found.high - found.likely < sum(d.spread(found.likely) for d in found.drivers)
    # Measured, much of it is known.
    quick.measured(opened, house.id)
    sure = range_of(opened, again(opened, house))
    assert sure.high - sure.low < found.high - found.low


def test_what_is_not_known_widens_the_range_each_with_its_reason(opened, job):
    """A test that fails, a coating nobody knows, lead not cleared: each says so, and widens the range."""
    before = range_of(opened, job)
    assert {"height", "tests", "age", "lead"} <= {d.key for d in before.drivers}, "built 1931, a cross-cut of 2, two storeys"
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "North gable wall")
    assert "North gable wall" not in next(d.label for d in before.drivers if d.key == "tests")
    site_tests.record(opened, job, wall.id, "cross-cut", {"rating": 1})
    failed = range_of(opened, again(opened, job))
    assert "North gable wall" in next(d.label for d in failed.drivers if d.key == "tests")
    assert failed.high - failed.likely > before.high - before.likely
    every = [s.id for e in job.building.elevations for s in e.surfaces if s.is_painted]
    gates.record(opened, job.id, "lead", "test", every, CLEARED)
    cleared = range_of(opened, again(opened, job))
    assert "lead" not in {d.key for d in cleared.drivers}
    assert cleared.high - cleared.likely < failed.high - failed.likely


def test_simulated_outcomes_end_within_the_range_nearly_always(opened, job):
    """The range is the root of the squares of its drivers' ends: wider than nine of ten outcomes, and not by half."""
    for found in (range_of(opened, job), range_of(opened, quick_job(opened))):
        prices = outcomes(found.likely, found.drivers, 20_000)
        inside = ((prices >= found.low) & (prices <= found.high)).mean()
        low, high = nine_in_ten(found.likely, found.drivers)
        assert 0.9 <= inside <= 1.0
        assert found.low <= low < high <= found.high
        assert 0.45 < (high - low) / (found.high - found.low) < 0.95


@pytest.mark.takes(5)
def test_worse_condition_and_a_larger_house_never_cost_less(opened):
    likely = {g: range_of(opened, quick_job(opened, g, g)).likely for g in ("good", "fair", "poor")}
    assert likely["good"] < likely["fair"] < likely["poor"]
    assert range_of(opened, quick_job(opened, "fair", "large", 52.0)).likely > likely["fair"]


def test_what_ifs_know_ways_up_paints_and_crews(opened, job):
    """Every way up that serves, better and cheaper paint, a painter more or less: each with its price, days and years."""
    found = {a.key: a for a in alternatives.alternatives(opened, job)}
    assert {"by-scaffold", "premium", "economy", "crew-1", "crew-3"} <= set(found)
    now = found["now"]
    assert found["premium"].total > now.total > found["economy"].total
    assert found["premium"].years > now.years > found["economy"].years
    assert found["crew-3"].days < now.days < found["crew-1"].days
    walls = [p.wall.access for p in job_takeoff(opened, job).walls]
    assert "scaffold" not in walls
    alternatives.take(opened, job, "by-scaffold")
    taken = again(opened, job)
    assert {p.wall.access for p in job_takeoff(opened, taken).walls} == {"scaffold"}
    assert job_takeoff(opened, taken).price.total == found["by-scaffold"].total
    alternatives.take(opened, taken, "premium")
    sold = {opened.knowledge.products[lot.product_key].grade for lot in job_takeoff(opened, again(opened, job)).lots}
    assert "premium" in sold


def test_what_ifs_change_nothing_until_one_is_taken(opened, job):
    before = everything(opened)
    found = {a.key: a for a in alternatives.alternatives(opened, job)}
    assert everything(opened) == before
    assert found["now"].total == job_takeoff(opened, job).price.total
    assert found["one-more"].litres > found["now"].litres > found["one-less"].litres
    assert found["one-more"].years > found["now"].years > found["one-less"].years
    assert found["without-shutters"].total < found["now"].total
    assert (found["spray"].hours < found["now"].hours, found["spray"].litres > found["now"].litres) == (True, True)
    assert not found["without-shutters"].can_be_taken
    alternatives.take(opened, job, "spray-back-roll")
    taken = again(opened, job)
    assert job_takeoff(opened, taken).price.total == found["spray-back-roll"].total
    walls = [s for s in specs_of(opened, taken) if s.part.facts.kind == "wall"]
    assert {s.system.value("technique") for s in walls} == {"back-roll"}
    with pytest.raises(NotFoundError):
        alternatives.take(opened, taken, "without-shutters")


def test_a_colour_change_is_a_change_order_that_adds_up(opened, job):
    assert not revisions.standing(opened, job).is_changed, "the demonstration's was agreed as it stands"
    body = next(c for c in colours_of(opened, specs_of(opened, job), ()) if c.zone == "Body")
    # Back to the sage that is there: nothing contrasts, so nothing is primed in full.
    set_colour(opened, job, body, "#8fa58a")
    standing = revisions.standing(opened, again(opened, job))
    *walls, rest = standing.order.lines
    assert len(walls) == 6
    assert all({"colour: #ca8a34 → #8fa58a", "without: prime: wood primer"} <= set(line.what) for line in walls)
    assert all(line.litres < 0 and line.hours < 0 and line.money < 0 for line in walls)
    assert rest.key == ""
    assert standing.order.days == standing.now.days - standing.agreed[-1].snapshot["days"] < 0
    assert sum(line.money for line in standing.order.lines) == pytest.approx(standing.order.money, abs=0.05)
    assert standing.order.money == pytest.approx(
        float(job_takeoff(opened, again(opened, job)).price.total) - standing.agreed[-1].snapshot["total"]
    )
    assert standing.number == 2
    assert revisions.agree(opened, again(opened, job), "Odile Tansy", "Sage again") == 2
    assert not revisions.standing(opened, again(opened, job)).is_changed
    changes.undo(opened, changes_last(opened, job))
    assert revisions.standing(opened, again(opened, job)).is_changed
    revisions.agree(opened, again(opened, job), "Odile Tansy", "Sage again")
    with pytest.raises(PlanError, match="Nothing changed"):
        revisions.agree(opened, again(opened, job), "Odile Tansy", "")
    with pytest.raises(FieldErrors, match="Who agreed"):
        revisions.agree(opened, again(opened, job), " ", "")


def test_extras_are_priced_flagged_and_stay_once_signed(opened, job):
    with pytest.raises(FieldErrors) as caught:
        extras.add(opened, job.id, ExtraFacts("", "sill", 0, -1))
    assert set(caught.value.errors) == {"what", "quantity", "hours"}
    extras.add(opened, job.id, ExtraFacts("Paint the mailbox", hours=2.0))
    mailbox = next(x for x in extras.extras_of(opened, job.id) if x.hours == 2.0)
    # 2 h at 55, a tenth of overhead, 12 % of margin in the price: 110 x 1.1 / 0.88.
    assert mailbox.price == pytest.approx(137.50)
    assert len(extras.unsigned(extras.extras_of(opened, job.id))) == 2
    with pytest.raises(FieldErrors, match="Who signed"):
        extras.sign(opened, job.id, mailbox.id, "")
    extras.sign(opened, job.id, mailbox.id, "Odile Tansy")
    with pytest.raises(PlanError, match="stays"):
        extras.remove(opened, job.id, mailbox.id)
    assert [x.what for x in extras.unsigned(extras.extras_of(opened, job.id))] == ["Replace the sill of the lower right window, west"]


def test_bids_come_in_the_order_of_their_follow_up(opened):
    found = bids.standings(opened)
    assert [(s.head.name, s.state, s.days_left) for s in found] == [
        ("Slipway Boathouse", "sent", -1), ("Quarry Lane 9", "visited", 0), ("Orchard Deck", "enquiry", 3),
        ("Tollkeeper's House", "won", None),
    ]  # fmt: skip
    page = bids.page_of(opened)
    assert (page.won, page.closed, page.open, page.due) == (1, 1, 3, 2)
    # Only what was paced and never sent is a range.
    paced = quick_job(opened)
    ranges = {s.head.id: bids.figure_of(opened, s.head) for s in bids.standings(opened)}
    assert [job_id for job_id, f in ranges.items() if f.low < f.likely < f.high] == [paced.id]
    bids.move(opened, paced, BidFacts("sent"))
    assert all(s.sent_total for s in bids.standings(opened) if s.head.id == paced.id), "what was sent is firm"
    boathouse = jobs.whole(opened, found[0].head.id)
    sent = found[0].sent_total
    # A dearer painter afterwards does not change what was sent.
    change_prices(opened, {"money.labour_per_h": 70.0})
    assert bids.standings(opened)[0].sent_total == sent < job_takeoff(opened, again(opened, boathouse)).price.total
    with pytest.raises(FieldErrors) as caught:
        bids.move(opened, boathouse, BidFacts("lost", follow_up_on="2031-01-01"))
    assert set(caught.value.errors) == {"reason", "follow_up_on"}
    bids.move(opened, boathouse, BidFacts("lost", reason="Somebody cheaper"))
    lost = bids.page_of(opened, "lost")
    assert ((lost.won, lost.closed), [s.head.name for s in lost.rows]) == ((1, 2), ["Slipway Boathouse"])
    assert again(opened, boathouse).state == "archived", "a lost job is over"


def test_what_was_left_at_another_job_is_said_until_it_is_fetched(opened, job):
    def pole(of):
        return next(row for row in truck.truck_list(opened, again(opened, of), ("Coats",)).rows if row.key == "tool:pole")

    assert pole(job).elsewhere.startswith("Quarry Lane 9, 2026-09-14")
    truck.fetched(opened, job, "tool:pole")
    assert pole(job).elsewhere == ""
    truck.mark(opened, job, "tool:pole", "on")
    assert (pole(job).is_loaded, pole(job).is_back, pole(job).elsewhere) == (True, False, "")
    assert pole(named(opened, "Quarry Lane 9")).elsewhere.startswith("Tollkeeper's House")
    truck.mark(opened, job, "tool:pole", "back")
    assert pole(named(opened, "Quarry Lane 9")).elsewhere == ""
    # Tomorrow's list begins empty.
    step_clock(opened.app, 24)
    assert not pole(job).is_loaded
    for key, state in (("tool:none", "on"), ("tool:pole", "back"), ("tool:pole", "lost")):
        with pytest.raises(NotFoundError):
            truck.mark(opened, job, key, state)


def test_the_list_follows_the_work(opened):
    boathouse = named(opened, "Slipway Boathouse")
    washing = {row.key for row in truck.truck_list(opened, boathouse, ("Clean and wash",)).rows}
    coating = {row.key for row in truck.truck_list(opened, boathouse, ("Coats",)).rows}
    assert not any(key.startswith(("can:", "apply:")) for key in washing)
    assert {"tool:gun-extension", "tool:airless-pump", "tool:injection-card"} <= coating - washing
    cans = {f"can:{lot.key}" for lot in job_takeoff(opened, boathouse).lots if any(v.step.startswith("coat") for v in lot.lines)}
    assert {key for key in coating if key.startswith("can:")} == cans


def test_paint_from_stock_is_loaded_on_the_day_it_goes_on(opened, job):
    def from_stock(task):
        return [row.label for row in truck.truck_list(opened, job, (task,)).rows if row.key.startswith("stock:")]

    assert (from_stock("Prime"), from_stock("Clean and wash")) == (["Rivermark Wood Primer, from stock"], [])


def test_rates_are_kept_told_and_undone(opened, job):
    before = job_takeoff(opened, job).price.total
    assert change_prices(opened, {"money.labour_per_h": 70.0, "labour.lap-rolled.first_per_h": 8.0}, job.id) == 2
    assert job_takeoff(opened, again(opened, job)).price.total > before
    # Back to what is shipped, it is no longer one's own.
    assert change_prices(opened, {"money.labour_per_h": 55.0}, job.id) == 1
    with pytest.raises(FieldErrors) as caught:
        change_prices(opened, {"money.labour_per_h": -1.0, "money.currency": "ZZZZ", "money.locale": "nowhere"}, job.id)
    assert set(caught.value.errors) >= {"money.currency", "money.locale"}
    for _ in range(2):
        changes.undo(opened, changes_last(opened, job))
    assert opened.knowledge.money == shipped().money
    assert job_takeoff(opened, again(opened, job)).price.total == before


def changes_last(opened, job):
    return changes.undoable(opened, job.id).set_id


def test_sixty_surfaces_are_taken_off_quickly(opened):
    """Systems, litres, cans, sundries, hours, ladders, price, nothing of it kept: in few enough calls."""
    job = max((again(opened, j) for j in jobs.list_jobs(opened)), key=lambda j: len(specs_of(opened, j)))
    specs = specs_as_if(opened, job, AsIf())
    per_sixty = 60 / len(specs)
    # By calls, which are the same on each machine: the take-off itself, and with every system specified anew before it.
    alone = calls(lambda: take_off(job, specs, (), opened.knowledge))
    whole = alone + calls(lambda: specs_as_if(opened, job, AsIf()))
    assert alone * per_sixty < 80_000
    assert whole * per_sixty < 330_000


@pytest.mark.parametrize("scale", [0.9, 1.1])
def test_a_scaled_job_takes_paint_by_its_square(opened, scale):
    quarry = named(opened, "Quarry Lane 9")
    now = job_takeoff(opened, quarry)
    other = take_off_as_if(opened, quarry, AsIf(scale=scale))
    assert other.litres_total == pytest.approx(now.litres_total * scale**2)
    assert len(specs_as_if(opened, quarry, AsIf(without=("windows",)))) == len(now.parts) - 1

"""Terms of a job that its plan keeps: hours for loud machines, the region of its public holidays, the day it is promised for."""

from datetime import date

import pytest

from amber_gable.services.jobs import jobs
from amber_gable.services.planning import schedules
from amber_gable.services.planning.making.far import is_region, public_holidays
from tests.support.pages import errors, send

pytestmark = pytest.mark.small

GIVEN = {
    "product": "", "method": "roller", "access": "ladder", "sun_rule": "surface-cap", "max_rain_probability_pct": "30", "coats": "",
    "painters": "2", "day_starts_h": "7", "day_ends_h": "18", "loud_from_h": "8", "loud_until_h": "18", "region": "", "promised": "",
    "late_per_day": "0",
}  # fmt: skip


def sent_rules(client, opened, job, **changes):
    version = jobs.whole(opened, job.id).version
    return send(client, f"/jobs/{job.id}/rules", GIVEN | {"version": str(version)} | changes, "rules")


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("promised", "soon", "2026-10-09"), ("promised", "2026-02-31", "no such day"), ("region", "ZZ", "No part of this country"),
        ("loud_from_h", "30", "0 to 23"), ("late_per_day", "-5", "An amount"), ("loud_until_h", "7", "after the hour"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_said_at_its_field(client, opened, job, field, value, words):
    told = str(errors(sent_rules(client, opened, job, **{field: value})))
    assert field in told
    assert words in told


def test_a_promise_that_is_missed_costs_what_it_says(client, opened, job):
    def cost():
        whole = jobs.whole(opened, job.id)
        return schedules.make(opened, whole, anew=True)

    free = cost()
    assert free.cost.late == 0
    ends = max(s.ends_at for s in free.stints).date()
    assert "hx-redirect" in sent_rules(client, opened, job, access="tower", promised="2026-09-16", late_per_day="100", region="tx").headers
    rules = jobs.rules_of(jobs.whole(opened, job.id))
    assert (rules.promised, rules.late_per_day, rules.region) == ("2026-09-16", 100.0, "TX")
    assert cost().cost.late == 100 * (max(s.ends_at for s in cost().stints).date() - date(2026, 9, 16)).days
    assert ends > date(2026, 9, 16)


@pytest.mark.takes(5)
@pytest.mark.four
def test_loud_machines_run_in_their_hours_only(client, opened):
    boathouse = next(j for j in jobs.list_jobs(opened) if j.name == "Slipway Boathouse")
    loud = {"loud_from_h": "11", "loud_until_h": "15", "method": "sprayer", "access": "lift"}
    sent_rules(client, opened, boathouse, **loud)
    whole = jobs.whole(opened, boathouse.id)
    kept = schedules.make(opened, whole, anew=True)
    machines = [s for s in kept.stints if {"sprayer", "pressure-washer", "sander"} & set(s.equipment)]
    assert machines
    assert all(s.starts_at.hour >= 11 and (s.ends_at.hour, s.ends_at.minute) <= (15, 0) for s in machines)
    assert any(s.starts_at.hour < 11 for s in kept.stints), "quiet work begins with the day"


def test_a_region_has_its_own_holidays():
    # A Thursday in June that one part of the country keeps and another does not.
    assert is_region("de", "BY")
    assert not is_region("de", "ZZ")
    day = date(2026, 6, 4)
    assert day in public_holidays("de", (2026,), "BY")
    assert day not in public_holidays("de", (2026,), "HH")
    assert day not in public_holidays("de", (2026,))
    assert public_holidays("nowhere", (2026,)) == frozenset()

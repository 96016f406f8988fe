"""Rates as a whole: what three made-up firms need for a house lies in plausible bands, and in a plausible order (docs/rates.md)."""

import pytest
from scripts.firms import FIRMS, GRADES, house_of

# Painter-hours by the square metre of wall, everything in: ours.
BANDS = {1: (0.9, 1.9), 2: (0.5, 1.4)}


@pytest.mark.takes(5)
@pytest.mark.parametrize("substrate", ["wood-siding", "stucco"])
def test_a_house_takes_plausible_hours_and_more_the_worse_it_is(opened, substrate):
    solo, three, european = ({g: house_of(opened, firm, substrate, g, 2) for g in GRADES} for firm in FIRMS)
    for firm in (solo, three, european):
        hours = [firm[g].hours_m2 for g in GRADES]
        assert hours == sorted(hours)
        assert all(BANDS[2][0] <= h <= BANDS[2][1] for h in hours)
        prices = [firm[g].price_m2 for g in GRADES]
        assert prices == sorted(prices)
    for grade in GRADES:
        assert solo[grade].days / 3 <= three[grade].days <= solo[grade].days / 3 + 2
        assert 0.7 <= european[grade].hours_m2 / three[grade].hours_m2 <= 0.9, "a scaffold saves moving and reaching"


def test_windows_and_trim_weigh_more_on_a_small_house(opened):
    small, large = (house_of(opened, FIRMS[1], "wood-siding", "fair", storeys) for storeys in (1, 2))
    assert BANDS[1][0] <= small.hours_m2 <= BANDS[1][1]
    assert small.hours_m2 > large.hours_m2

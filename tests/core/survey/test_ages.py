"""Ages as painters say them: read, refused where they cannot be, counted in years."""

from datetime import date

import pytest

from amber_gable.core.survey.ages import Since, age_y, check_since, since_of
from amber_gable.errors import PlanError

TODAY = date(2026, 9, 15)


@pytest.mark.parametrize(
    ("text", "year", "month"),
    [("2014", 2014, None), ("5/2026", 2026, 5), ("2026-05", 2026, 5), ("May 2026", 2026, 5), ("sept. 2025", 0, 0), ("Sep. 2025", 2025, 9)],
)
def test_a_year_or_a_month_of_one_is_read(text, year, month):
    if year:
        assert since_of(text) == Since(year, month)
    else:
        with pytest.raises(PlanError, match="like May 2026"):
            since_of(text)


def test_what_has_not_come_is_refused():
    for since in (Since(2031), Since(2026, 10), Since(27)):
        with pytest.raises(PlanError, match=r"has not come yet|before any paint"):
            check_since(since, TODAY)
    check_since(Since(2026, 9), TODAY)
    check_since(Since(1931), TODAY)


def test_the_first_two_years_are_counted_by_the_month():
    assert age_y(Since(1931), TODAY) == 95
    assert age_y(Since(2024), TODAY) == 2
    # Four months from the middle of May; of last year only, at least the 258 days since it ended.
    assert age_y(Since(2026, 5), TODAY) == pytest.approx(123 / 365.25)
    assert age_y(Since(2025), TODAY) == pytest.approx(258 / 365.25)
    assert age_y(Since(2026), TODAY) == 0

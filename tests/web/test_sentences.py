"""The sentences that lead a page: each situation has its own, and says no more than is known."""

from dataclasses import replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from amber_gable.core.survey.gates import Component, Record, gate
from amber_gable.services.outlook.weather.forecasts import ForecastStatus
from amber_gable.services.planning.kept import Finish, SavedSchedule, Visit
from amber_gable.services.planning.morning import Dew, JobMorning
from amber_gable.web.sentences import next_step, visit_line
from amber_gable.web.templating import age, day_word

CHICAGO = ZoneInfo("America/Chicago")
NOW = datetime(2026, 9, 15, 6, 50, tzinfo=CHICAGO)


def at(hour: int, minute: int = 0, day: int = 15) -> datetime:
    return datetime(2026, 9, day, hour, minute, tzinfo=CHICAGO)


VISIT = Visit("s", "North gable wall", "e", 1, at(10, 10), at(12, 20), at(15, 20), at(11, 0, 16), "window")


def situation(visit: Visit | None = VISIT, dew: Dew | None = None, visits: list[Visit] | None = None) -> JobMorning:
    schedule = SavedSchedule(NOW, NOW, 2, visits if visits is not None else [VISIT], [], [], Finish())
    return JobMorning(None, ForecastStatus(NOW, "i"), None, schedule, visit, None, "", dew, "")


def test_the_next_visit_leads():
    said = next_step(situation(), NOW)
    assert said.lead == "Start on the north gable wall at 10:10."
    assert said.rest == "First coat, done about 12:20; last stroke 15:20; next coat there tomorrow from 11:00."
    assert not said.alarm


def test_a_visit_under_way_a_later_day_and_a_later_week():
    assert next_step(situation(), at(10, 30)).lead == "Paint the north gable wall now."
    friday = replace(VISIT, starts_at=at(10, 10, 18), ends_at=at(12, 0, 18), last_stroke_at=at(15, 0, 18), next_coat_from=None, coat=2)
    said = next_step(situation(friday), NOW)
    assert said.lead == "Start on the north gable wall Friday at 10:10."
    assert said.rest == "Second coat, done about 12:00; last stroke 15:00."
    assert day_word(at(9, 0, 25), NOW) == "Fri 25 Sep"


def test_a_window_that_lasts_into_the_next_day_names_it():
    late = replace(VISIT, last_stroke_at=at(9, 0, 16))
    assert "last stroke tomorrow 09:00" in next_step(situation(late), NOW).rest


def test_a_broken_plan_says_do_not():
    said = next_step(situation(replace(VISIT, broken_by="rain")), NOW)
    assert (said.lead, said.alarm, said.wants_schedule) == ("Do not paint the north gable wall at 10:10: rain.", True, True)
    assert "now: rain" in next_step(situation(replace(VISIT, broken_by="rain")), at(11, 0)).lead


def test_when_every_coat_is_on():
    done = replace(situation(visit=None), ahead=object())
    assert next_step(done, NOW).lead == "Every coat of the schedule is on."


def test_without_weather_the_reason_leads():
    none = JobMorning(None, ForecastStatus(None, None), None, None, None, None, "", None, "There is no forecast for this place yet.")
    said = next_step(none, NOW)
    assert said.lead == "There is no forecast for this place yet."
    assert said.alarm


@pytest.mark.parametrize(
    ("dew", "words"),
    [
        (Dew(7, 7, "East wall", at(8, 30), at(10, 0)), "All 7 surfaces are wet: the east wall is dry first, at 08:30, the last at 10:00."),
        (
            Dew(3, 7, "East wall", at(8, 30), None),
            "3 of 7 surfaces are wet: the east wall is dry first, at 08:30, the last not within 12 h.",
        ),
        (Dew(1, 7, "North gable wall", at(9, 15), at(9, 15)), "The north gable wall is wet until 09:15."),
        (Dew(4, 10, "Garage north wall", at(11, 0), at(11, 0)), "4 of 10 surfaces are wet until 11:00. Until then"),
        (Dew(2, 2, "East wall", None, None), "Both surfaces are wet as far as the forecast goes."),
        (Dew(7, 7, "East wall", None, None), "All 7 surfaces are wet as far as the forecast goes."),
    ],
)
def test_what_is_wet_and_until_when(dew, words):
    assert next_step(situation(dew=dew), NOW).until.startswith(words)


def test_who_paints_is_not_sent_to_mask_until_another_wall_is_dry():
    dew = Dew(2, 7, "West wall", at(10, 45), at(11, 30))
    assert "Until then" in next_step(situation(dew=dew), NOW).until
    assert next_step(situation(dew=dew), at(10, 30)).until.endswith("at 10:45, the last at 11:30.")


@pytest.mark.parametrize(
    ("span", "words"),
    [
        (timedelta(minutes=50), "50 min"),
        (timedelta(hours=3, minutes=20), "3 h"),
        (timedelta(hours=13, minutes=20), "13 h"),
        (timedelta(days=3), "3 days"),
        (timedelta(seconds=-5), "0 min"),
    ],
)
def test_ages_as_one_says_them(span, words):
    assert age(span) == words


def test_a_visit_in_a_line():
    assert visit_line(VISIT) == "North gable wall, first coat"
    assert visit_line(replace(VISIT, coat=4)) == "North gable wall, fourth coat"


@pytest.mark.parametrize(
    ("records", "words"),
    [
        ((), "no sanding or scraping, lead not cleared"),
        ((Record("lead", "works-under", None),), "only as the rules on record allow"),
        ((Record("lead", "test", "s"),), "mask and sand what is dry"),
    ],
)
def test_nobody_is_sent_to_sand_where_a_gate_forbids_it(knowledge, records, words):
    wet = Dew(2, 2, "East wall", at(9), at(10))
    stands = gate("lead", 1931, knowledge.countries["us"], [Component("s", "South wall", False)], records)
    gates = () if stands.state == "cleared" else (stands,)
    assert words in next_step(replace(situation(dew=wet), gates=gates), NOW).until

"""Coordinates in the notations that maps, phones and surveyors give, and the time zone that follows."""

import pytest

from amber_gable.core.survey.places import direction_of, place_of, zone_of
from amber_gable.errors import PlanError

# The same place, 43.80 N, 91.25 W, in many hands.
HERE = [
    "43.80, -91.25", "43.8 -91.25", "43.80 N, 91.25 W", "N 43.80 W 91.25", "43.80°N 91.25°W", "43°48'00\" N 91°15'00\" W",
    "43°48′ N, 91°15′ W", "N43 48 00 W91 15 00", "43° 48.000' N 91° 15.000' W", "geo:43.80,-91.25", "https://example.org/map/@43.80,-91.25,15z",
    "91°15'W 43°48'N", "43.80; -91.25", "43,80 -91,25", "+43.80/-91.25", "43°48'0\", -91°15'0\"",
]  # fmt: skip


@pytest.mark.parametrize("text", HERE)
def test_a_place_is_read_however_it_is_written(text):
    assert place_of(text) == pytest.approx((43.80, -91.25), abs=1e-9)


def test_south_and_east_have_their_signs():
    assert place_of("33°52'S 151°12'E") == pytest.approx((-33.8666667, 151.2), abs=1e-6)
    assert place_of("-33.5, 18.25") == pytest.approx((-33.5, 18.25))


@pytest.mark.parametrize("text", ["", "Heron Ferry", "43.80", "143.80, -91.25", "43°75'N 91°15'W", "43 N 44 N", "43.8, -191.25"])
def test_what_is_no_place_is_refused_in_words(text):
    with pytest.raises(PlanError, match="Paste it as a map gives it"):
        place_of(text)


def test_the_time_zone_follows_from_the_place():
    assert zone_of(43.80, -91.25) == "America/Chicago"
    assert zone_of(-33.87, 151.2) == "Australia/Sydney"
    assert zone_of(52.5, 13.4) == "Europe/Berlin"


@pytest.mark.parametrize(
    ("text", "azimuth_deg"),
    [
        ("North", 0),
        ("n", 0),
        ("south-west", 225),
        ("Southwest", 225),
        ("SW", 225),
        ("s s w", 202.5),
        ("225", 225),
        ("247,5°", 247.5),
        ("-45", -45),
    ],
)  # fmt: skip
def test_a_direction_is_read_as_it_is_said(text, azimuth_deg):
    assert direction_of(text) == azimuth_deg


@pytest.mark.parametrize("text", ["", "up", "nan", "inf", "400", "north-north"])
def test_what_is_no_direction_is_refused_in_words(text):
    with pytest.raises(PlanError, match="A direction, like south-west"):
        direction_of(text)

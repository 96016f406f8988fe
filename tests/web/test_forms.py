"""Reading forms and refusing foreign requests: the small parts that every page leans on."""

import math

import pytest
from starlette.datastructures import FormData, Headers

from amber_gable.errors import FieldErrors, check_all
from amber_gable.store.models import Job
from amber_gable.web.door.security import is_foreign
from amber_gable.web.forms import TypedForm
from tests.support.pages import errors, send


def typed(**values: str) -> TypedForm:
    return TypedForm(FormData(values))


@pytest.mark.parametrize(
    ("text", "value"), [("43.8", 43.8), ("-91,25", -91.25), ("−12.5", -12.5), ("60 %", 60.0), ("78°", 78.0), (" 5 ", 5.0)]
)
def test_numbers_as_people_type_them(text, value):
    form = typed(x=text)
    assert form.number("x", "a number") == value
    assert form.errors == {}


@pytest.mark.parametrize("text", ["", "x", "nan", "inf", "1e999", "5 6", "--5"])
def test_what_is_no_number_keeps_its_words(text):
    form = typed(x=text)
    assert math.isnan(form.number("x", "a number, please"))
    assert form.errors == {"x": "a number, please"}


def test_whole_numbers_choices_flags_and_versions():
    form = typed(coats="2", half="2.5", many="9", unit="us", on="on", version="7", odd="9" * 30)
    assert form.whole("coats", 1, 4, "w") == 2
    assert form.optional_whole("missing", 1, 4, "w") is None
    form.whole("half", 1, 4, "half")
    form.whole("many", 1, 4, "many")
    form.choice("unit", ("metric",), "choose")
    assert form.errors == {"half": "half", "many": "many", "unit": "choose"}
    assert form.flag("on")
    assert not form.flag("off")
    assert form.version() == 7


def test_text_is_trimmed_wanted_and_bounded():
    form = typed(name="  East wall ", long="x" * 201)
    assert form.text("name", "name it") == "East wall"
    form.text("long")
    form.text("gone", "name it")
    assert set(form.errors) == {"long", "gone"}


def test_what_cannot_be_read_hides_what_the_rules_would_say_of_it():
    def rules() -> None:
        raise FieldErrors({"length": "too short", "width": "too wide"})

    form = typed(length="??")
    form.quantity("length", "length", "us")
    with pytest.raises(FieldErrors) as caught:
        form.done(rules)
    assert caught.value.errors["width"] == "too wide"
    assert "Cannot read" in caught.value.errors["length"]
    check_all(lambda: None)


@pytest.mark.parametrize(
    ("headers", "foreign"),
    [
        ({}, False),  # curl, the CLI: no cookies of a victim
        ({"sec-fetch-site": "same-origin", "origin": "http://a.test", "host": "a.test"}, False),
        ({"sec-fetch-site": "none"}, False),
        ({"sec-fetch-site": "cross-site"}, True),
        ({"sec-fetch-site": "same-site"}, True),
        ({"origin": "http://a.test:8000", "host": "a.test:8000"}, False),
        ({"origin": "http://a.test:8001", "host": "a.test:8000"}, True),
        ({"origin": "null", "host": "a.test"}, True),
    ],
)
def test_who_is_foreign(headers, foreign):
    assert is_foreign(Headers(headers)) is foreign


@pytest.mark.parametrize(
    ("units", "typed", "said"),
    [
        ("us", "36", "“36” was read as 36 ft; for inches type 36 in."),
        ("us", "36 ft", ""),
        ("metric", "36", "“36” was read as 36 m; for centimetres type 36 cm."),
    ],
)
def test_a_number_without_a_unit_is_refused_with_the_unit_it_was_read_in(client, opened, job, units, typed, said):
    with opened.writing() as session:
        row = session.get(Job, job.id)
        row.units, row.version, row.house_revision = units, row.version + 1, row.house_revision + 1
    opening = {"kind": "sash-window", "width_m": "3 ft", "height_m": "1.2 m", "left_m": typed, "sill_m": "1 m"}
    message = errors(send(client, f"/jobs/{job.id}/elevations/{job.building.elevations[0].id}/openings", opening))["the-form-left_m"]
    assert message.startswith("It would stick out of the wall")
    assert ("was read as" in message) == bool(said)
    assert message.endswith(said)

"""What painters type is read as they mean it, or refused with a way to type it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.units import QuantityError, convert, parse, show

FOOT, INCH = 0.3048, 0.0254


@pytest.mark.parametrize(
    ("text", "metres"),
    [
        ("32' 6\"", 32 * FOOT + 6 * INCH),
        ("32'6", 32 * FOOT + 6 * INCH),
        ("32’ 6 1/2”", 32 * FOOT + 6.5 * INCH),
        ("32 ft 6 in", 32 * FOOT + 6 * INCH),
        ("32.5 ft", 32.5 * FOOT),
        ("32.5", 32.5 * FOOT),
        ("9.9 m", 9.9),
        ("9,9 m", 9.9),
        ("1,200 mm", 1.2),
        ("1/2 in", 0.5 * INCH),
        ('7 3/4"', 7.75 * INCH),
        ("-3 ft", -3 * FOOT),
        ('49 x 4 1/2"', 49 * 4.5 * INCH),
        ("30 × 75 mm", 2.25),
    ],
)
def test_lengths_as_typed_on_site(text, metres):
    assert parse(text, "length", "ft") == pytest.approx(metres, abs=1e-9)


@pytest.mark.parametrize(
    ("text", "kind", "bare", "value"),
    [
        ("50F", "temperature", "C", 10.0),
        ("50", "temperature", "F", 10.0),
        ("14 °C", "temperature", "F", 14.0),
        ("-40 F", "temperature", "C", -40.0),
        ("400 ft2/gal", "spread", "m2/L", 9.8170),  # 37.1612 m2 / 3.785412 L
        ("7 mil", "film", "um", 177.8),
        ("20 mph", "speed", "m/s", 8.9408),
        ("90 min", "time", "h", 1.5),
    ],
)
def test_other_quantities(text, kind, bare, value):
    assert parse(text, kind, bare) == pytest.approx(value, abs=1e-3)


@pytest.mark.parametrize("text", ["", "abc", "3 kg", "32' 6\" 3", "3 ft 3 ft", "1e3 m", "nan", "inf", "1/0 in", "--3", "'", "3 ' '"])
def test_what_is_no_length_is_refused_with_an_example(text):
    with pytest.raises(QuantityError, match=r"32\.5 ft|below the line"):
        parse(text, "length", "ft")


@given(quarters=st.integers(min_value=0, max_value=4 * 12 * 300))
def test_feet_and_inches_read_back_what_they_show(quarters):
    metres = quarters * INCH / 4
    assert parse(show(metres, "length", "us"), "length", "ft") == pytest.approx(metres, abs=1e-6)


@pytest.mark.parametrize(
    ("value", "kind", "system", "text"),
    [
        (10.0, "temperature", "us", "50 °F"),
        (-0.01, "temperature", "metric", "0.0 °C"),
        (3.0, "temperature difference", "us", "5 °F"),
        (8.9408, "speed", "us", "20 mph"),
        (100.0, "area", "us", "1,076 ft²"),
        (3.785411784, "volume", "us", "1.00 gal"),
        (0.1651, "length", "us", '6 1/2"'),
        (9.906, "length", "metric", "9.91 m"),
        (114.3, "small length", "us", '4 1/2"'),
        (19.0, "small length", "us", '3/4"'),
        (25.4, "small length", "us", '1"'),
        (1.0, "small length", "us", '0.0394"'),
        (12.7, "small length", "metric", "12.7 mm"),
    ],
)
def test_shown_as_a_contractor_reads_it(value, kind, system, text):
    assert show(value, kind, system) == text


def test_a_difference_has_no_offset():
    assert convert(3.0, "dC", "dF") == pytest.approx(5.4)
    assert convert(0.0, "C", "F") == pytest.approx(32.0)


def test_more_than_eleven_inches_after_feet_are_asked_about():
    for text, meant in (("12' 14\"", "13' 2\""), ("3 ft 12 in", "4' 0\""), ("5' 26", "7' 2\"")):
        with pytest.raises(QuantityError, match="inches after its feet") as fault:
            parse(text, "length", "ft")
        assert meant in str(fault.value)
    assert parse("12' 11 3/4\"", "length", "ft") == pytest.approx(155.75 * 0.0254)

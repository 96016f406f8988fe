"""Texts that give a quantity in both systems are read in one."""

import pytest

from amber_gable.units import both, both_of, in_both, in_one_system


@pytest.mark.parametrize(
    ("text", "us", "metric"),
    [
        ("from 3 m (10 ft) up", "from 10 ft up", "from 3 m up"),
        ("0.9 to 1.2 m (3 to 4 ft) kept wet", "3 to 4 ft kept wet", "0.9 to 1.2 m kept wet"),
        ("10 to 12 in (25 to 30 cm) away", "10 to 12 in away", "25 to 30 cm away"),
        ("at or above 590 °C (1100 °F)", "at or above 1100 °F", "at or above 590 °C"),
        ("a brush of 32 mm (1 1/4 in) pile", "a brush of 1 1/4 in pile", "a brush of 32 mm pile"),
        ("2,500 psi (170 bar)", "2,500 psi", "170 bar"),
        ("must be above 0 to 20 m (65 ft).", "must be above 0 to 65 ft.", "must be above 0 to 20 m."),
        ("0.6 by 1 m (2 by 3 ft), down", "2 by 3 ft, down", "0.6 by 1 m, down"),
    ],
)
def test_both_become_one(text, us, metric):
    assert in_one_system(both(text), "us") == us
    assert in_one_system(both(text), "metric") == metric
    assert in_both(both(text)) == text


@pytest.mark.parametrize(
    "text",
    [
        "99.97 % at 0.3 µm", "two coats (10 ft apart)", "3 m", "built 1931 (before 1978)", "between -430 and 6000 m (19,685 ft)",
        '<rect width="3" height="10"/> (4 in)', "1 part to 3 parts (1 gal of mix)",
    ],
)  # fmt: skip
def test_what_stands_in_one_system_or_does_not_match_stays(text):
    assert in_one_system(both(text), "us") == in_one_system(both(text), "metric") == text


TYPED = "Crack 3 mm (1/8 in) wide, 2 m (6 ft) long"


@pytest.mark.parametrize("system", ["us", "metric"])
def test_what_a_person_typed_is_never_cut(system):
    assert in_one_system(TYPED, system) == TYPED
    assert in_one_system(f"{both('from 2 m (6 ft)')}: {TYPED}", system).endswith(f": {TYPED}")


def test_a_value_is_given_in_both_and_read_in_one():
    # 3.048 m is ten feet.
    assert in_one_system(both_of(3.048, "run"), "us") == "10 ft"
    assert in_one_system(both_of(3.048, "run"), "metric") == "3.0 m"
    assert in_both(both_of(3.048, "run")) == "3.0 m (10 ft)"

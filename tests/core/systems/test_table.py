"""Systems of the whole trade: over 200 surfaces, each with what a painter would do, written from the handbook (table/*.toml).

A line `of` reads "substrate kind coating / findings / colours / school KEY SIDE"; a finding is "kind:extent" or "kind:extent:mm".
Steps must come in their order (others may stand between), "coat-1" for "coat 1"; `never` must not come.
"""

import tomllib
from pathlib import Path

import pytest

from amber_gable.core.systems.specify import specify
from tests.core.systems.test_handbook import assert_asked, facts_of

CASES = [case for path in sorted((Path(__file__).parent / "table").glob("*.toml")) for case in tomllib.loads(path.read_text())["case"]]
# Sage, its neighbour, a change, light and dark, a vivid red over light; "new": the old colour is not known.
COLOURS = {
    "same": ("#a8b59a", "#a9b69b"), "change": ("#a8b59a", "#8fa58c"), "light-to-dark": ("#e9e6da", "#3a4a40"),
    "dark-to-light": ("#3a2f28", "#e9e6da"), "vivid": ("#e9e6da", "#c8281e"), "new": (None, "#c9b27c"), "dark": (None, "#2f3330"),
}  # fmt: skip
NUMBERED = ("coat-", "undercoat-", "sealer-", "spot-prime-")


def keys_of(text: str) -> list[str]:
    return [" ".join(k.rsplit("-", 1)) if k.startswith(NUMBERED) and k[-1].isdigit() else k for k in text.split()]


def given(case):
    """Return the facts of a case, and what is asked of them in the words of `assert_asked`."""
    ground, found, colours, *school = (part.strip() for part in case["of"].split("/"))
    substrate, kind, coating = ground.split()
    old, new = COLOURS[colours]
    values = {"substrate": substrate, "kind": kind, "coating": coating, "old_hex": old, "new_hex": new, **case.get("more", {})}
    values["findings"] = [] if found == "-" else found.split()
    values["schools"] = {words[1]: words[2] for words in map(str.split, school)}
    asked = {name: keys_of(case[name]) for name in ("steps", "never", "blocked", "cautions", "not_cautions", "refused") if name in case}
    if "finish" in case:
        asked["finish"], coats = case["finish"].split()
        asked["coats"] = int(coats)
    asked["waits"] = {keys_of(key)[0]: wait for key, wait in case.get("waits", {}).items()}
    asked |= {name: case[name] for name in ("primer", "spot", "sheen", "technique", "method", "tinted") if name in case}
    return facts_of(values), asked


def test_there_are_two_hundred_and_they_ask_for_all_that_counts():
    assert len({(c["of"], str(c.get("more"))) for c in CASES}) >= 200
    asked = [name for c in CASES for name in c]
    assert min(asked.count(name) for name in ("steps", "primer", "finish", "cautions", "never")) >= 60
    assert asked.count("waits") >= 30


@pytest.mark.parametrize("case", CASES, ids=lambda c: c["of"])
def test_a_painter_would_do_it_so(knowledge, case):
    facts, asked = given(case)
    system = specify(facts, knowledge)
    if "refused" not in asked:
        assert system.refusals == ()
    assert_asked(asked, system, knowledge)

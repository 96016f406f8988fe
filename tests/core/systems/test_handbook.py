"""Systems against the handbook: each row of its surface table, each of its schools from both sides.

The cases are data, written from the handbook before the rules (handbook.toml, schools.toml).
"""

import tomllib
from pathlib import Path

import pytest

from amber_gable.core.systems.facts import Facts, Found
from amber_gable.core.systems.specify import specify
from tests.support.pace import calls

HERE = Path(__file__).parent
CASES = tomllib.loads((HERE / "handbook.toml").read_text())["case"]
HAZARDS = tomllib.loads((HERE / "cautions.toml").read_text())["hazard"]
SCHOOLS = tomllib.loads((HERE / "schools.toml").read_text())["school"]
# The handbook's table has these rows; three sets of rules come after it.
ROWS = {
    "Painted wood siding, sound", "Wood, peeling", "New or bare wood", "Glued beams, exposed timber", "Fibre cement",
    "Vinyl siding or windows", "Aluminium siding, soffit, gutter", "Steel door, garage door", "Galvanised",
    "Stucco or render, painted, sound", "Stucco or render, never painted", "Render, crumbling or powdery", "Brick, textured, unpainted",
    "Brick, soft or glazed", "Brick, failing paint", "Chimney above the roof line", "Block, split-face",
    "Limestone, old lime render, soft brick", "Elastomeric on cracked stucco; insulated render", "Concrete porch or floor",
    "Deck, film-forming old coat", "Deck, grey and never coated", "Deck, new pressure-treated", "Metal roof", "Tile roof",
    "Asphalt shingle", "Sash or casement window", "Entry door", "Shutters",
}  # fmt: skip


def facts_of(given, **more) -> Facts:
    values = dict(given) | more
    found = []
    for text in values.pop("findings", []):
        kind, extent, *depth = text.split(":")
        found.append(Found(kind, extent, float(depth[0]) if depth else None))
    return Facts(findings=tuple(found), **values)


def in_order(wanted, keys) -> bool:
    at = iter(keys)
    return all(key in at for key in wanted)


def primer_of(system) -> str:
    return system.prime if system.prime == "none" else f"{system.prime} {system.primer}"


def assert_asked(asked, system, knowledge):
    """Hold a system to what a case asks of it; what a case does not name is free."""
    keys = [s.key for s in system.steps]
    if "steps" in asked:
        assert in_order(asked["steps"], keys), f"wanted {asked['steps']}, got {keys}"
    assert not set(asked.get("never", ())) & set(keys), keys
    if "refused" in asked:
        assert [r.key for r in system.refusals] == asked["refused"]
    if "primer" in asked:
        assert primer_of(system) == asked["primer"]
    if "spot" in asked:
        assert next(s.family for s in system.steps if s.key == "spot-prime") == asked["spot"]
    if "finish" in asked:
        assert system.finish == asked["finish"]
    if "coats" in asked:
        low, high = asked["coats"] if isinstance(asked["coats"], list) else [asked["coats"]] * 2
        assert low <= system.coats <= high
        assert [k for k in keys if k.startswith("coat ")] == [f"coat {n}" for n in range(1, system.coats + 1)]
    for slot in ("sheen", "technique", "method"):
        if slot in asked:
            assert system.value(slot) == asked[slot]
    if "tinted" in asked:
        assert bool(system.value("tint")) == asked["tinted"]
    cautions = {c.key for c in system.cautions}
    assert set(asked.get("cautions", ())) <= cautions, cautions
    assert not set(asked.get("not_cautions", ())) & cautions
    for key, wait in asked.get("waits", {}).items():
        found = next(s.wait for s in system.steps if s.key == key)
        assert wait in (found.hours, knowledge.waits[found.law].until), f"{key}: {found}"
    for key in asked.get("blocked", ()):
        assert next(s for s in system.steps if s.key == key).blocked_by


def test_every_row_of_the_table_and_every_school_has_its_cases(knowledge):
    assert {c["row"] for c in CASES if not c["row"].startswith("rules for")} == ROWS
    schools = knowledge.systems.schools
    assert {s["key"] for s in SCHOOLS} == set(schools)
    assert sorted(s.number for s in schools.values()) == list(range(1, 22))
    for case in SCHOOLS:
        assert schools[case["key"]].default == case["default"]
    for key, school in schools.items():
        shown = {side for case in SCHOOLS if case["key"] == key for side in case["sides"]}
        assert shown == set(school.options), key


@pytest.mark.parametrize("case", CASES, ids=lambda c: f"{c['row']}: {c['name']}")
def test_a_row_of_the_handbook(knowledge, case):
    system = specify(facts_of(case["facts"]), knowledge)
    if "refused" not in case:
        assert system.refusals == ()
        keys = [s.key for s in system.steps]
        # The frame of every job (handbook 2).
        # Nothing is masked that hangs nowhere.
        covered = [] if case["facts"].get("kind") == "shutter" else ["mask", "coat 1", "tape-off"]
        assert in_order(["clear", *covered, "inspect"], keys)
        assert len(keys) == len(set(keys))
    assert_asked(case, system, knowledge)


# What a school settles for windows, take-off and schedule is asked there, not of the steps.
ELSEWHERE = {"air_band_c", "surface_min_c", "hold_h", "sun_rule", "deduct_from_m2", "follows", "young_share"}
SIDES = [(case, side) for case in SCHOOLS for side in case["sides"]]


@pytest.mark.parametrize(("case", "side"), SIDES, ids=lambda v: v["key"] if isinstance(v, dict) else v)
def test_a_side_of_a_school(knowledge, case, side):
    asked = case["sides"][side]
    system = specify(facts_of(case["facts"], schools={case["key"]: side}), knowledge)
    assert_asked(asked, system, knowledge)
    if side == case["default"]:
        assert (
            specify(facts_of(case["facts"]), knowledge).steps
            == specify(facts_of(case["facts"], schools={case["key"]: side}), knowledge).steps
        )


@pytest.mark.parametrize("case", CASES, ids=lambda c: f"{c['row']}: {c['name']}")
def test_everything_decided_says_why(knowledge, case):
    system = specify(facts_of(case["facts"]), knowledge)
    for step in system.steps:
        assert step.reasons, step.key
        assert step.source
        assert step.check
        for reason in step.reasons:
            assert reason.why.endswith(".")
            assert reason.source
    for decision in system.decided.values():
        assert decision.reason.why
    for caution in (*system.cautions, *system.refusals):
        assert caution.reasons
        assert caution.text.endswith(".")


def cautions_of(given, knowledge) -> set[str]:
    values = dict(given)
    has_alkyd = values.pop("has_alkyd", False)
    return {c.key for c in specify(facts_of(values), knowledge, has_alkyd).cautions}


@pytest.mark.parametrize("case", HAZARDS, ids=lambda c: c["caution"])
def test_a_caution_stands_where_its_hazard_is_and_nowhere_else(knowledge, case):
    assert case["caution"] in cautions_of(case["with"], knowledge)
    assert case["caution"] not in cautions_of(case["without"], knowledge)


def test_every_safety_caution_has_a_hazard_in_the_cases(knowledge):
    assert {h["caution"] for h in HAZARDS} == {k for k, c in knowledge.systems.cautions.items() if c.group == "safety"}


def test_a_painted_wall_with_nothing_the_matter_has_no_caution_but_its_own(knowledge):
    plain = facts_of({"substrate": "fibre-cement", "coating": "acrylic", "old_hex": "#c9c5b8", "new_hex": "#c8c4b7"})
    assert {c.key for c in specify(plain, knowledge).cautions} == {"wash-water"}


def test_sixty_surfaces_are_specified_quickly(knowledge):
    many = [facts_of(c["facts"], top_m=2.0 + n / 100) for n, c in enumerate((CASES * 2)[:60])]
    specify(many[0], knowledge)
    # By calls, which are the same on each machine.
    assert calls(lambda: [specify(facts, knowledge) for facts in many]) < 100_000

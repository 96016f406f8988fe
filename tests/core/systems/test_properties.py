"""Systems of any facts: whatever is found on whatever surface, the steps make sense and nothing that is chosen clashes."""

from itertools import product

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from amber_gable.core.coat.products import choose_all, clashes
from amber_gable.core.knowledge import Phase
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.systems.facts import EXTENTS, Facts, Found
from amber_gable.core.systems.overrides import Edit, apply
from amber_gable.core.systems.specify import specify
from tests.support.pace import examples, is_long

KNOWN = shipped()
ROWS = KNOWN.systems.steps
# What a kind of surface can be made of.
GROUNDS = {
    "wall": ("wood", "cement-board", "vinyl", "metal", "masonry"), "gable": ("wood", "cement-board", "vinyl", "metal"),
    "plinth": ("masonry",), "chimney": ("masonry",), "soffit": ("wood", "vinyl", "metal", "cement-board", "masonry"),
    "roof": ("metal", "roofing"), "trim": ("wood",), "window": ("wood",), "shutter": ("wood",), "door": ("wood",),
    "garage-door": ("metal",),
    "deck": ("wood",), "steps": ("wood",), "railing": ("wood",),
}  # fmt: skip
HEXES = ("#f4f1e8", "#9caf94", "#ca8a34", "#7a1f1f", "#20242a", "#e0c020")
# Nobody sides a house with doors, or lays a deck of siding.
ONLY = {
    "deck-wood": ("deck", "steps", "railing"), "cedar": ("wall", "gable", "deck", "steps", "railing"), "wood-door": ("door",),
    "steel-door": ("door", "garage-door"), "wood-trim": ("trim", "window", "shutter"), "wood-siding": ("wall", "gable"),
    "shakes": ("wall", "gable"),
    "timber": ("wall", "trim"),
}  # fmt: skip
# What may be on it: stains on wood, mineral paint on masonry; on a deck no wall paint, on a wall what it was sold for.
WORN = {
    "wood": ("none", "acrylic", "alkyd", "solid-stain", "semi-stain", "clear", "unknown"),
    "masonry": ("none", "acrylic", "elastomeric", "mineral", "unknown"),
    "metal": ("none", "acrylic", "alkyd", "factory", "unknown"),
}
# What takes loose paint off without taking all of it.
REMOVES = ("scrape", "scrape-floor", "rotating-wash", "wire-brush", "wire-brush-masonry", "feather", "degloss")
WANTED = [k for k, f in KNOWN.systems.families.items() if f.suits and k != "clear-sealer"] + ["floor-and-sealer"]
ON_DECKS = ("none", "solid-stain", "semi-stain", "clear", "unknown")
PHASES = list(Phase)


def grounds_of(kind):
    return [k for k, s in KNOWN.substrates.items() if s.family in GROUNDS[kind] and kind in ONLY.get(k, (kind,))]


def coats_on(kind, substrate):
    return ON_DECKS if kind in ("deck", "steps", "railing") else WORN.get(KNOWN.substrates[substrate].family, WORN["metal"])


def conditions_on(substrate):
    family = KNOWN.substrates[substrate].family
    return [k for k, c in KNOWN.conditions.items() if c.group != "damage" and (not c.families or family in c.families)]


@st.composite
def facts(draw, wants=True):
    kind = draw(st.sampled_from(sorted(GROUNDS)))
    substrate = draw(st.sampled_from(grounds_of(kind)))
    found = draw(st.lists(st.sampled_from(conditions_on(substrate)), max_size=4, unique=True))
    schools = {k: draw(st.sampled_from(sorted(s.options))) for k, s in KNOWN.systems.schools.items() if draw(st.booleans())}
    hexes = st.none() | st.sampled_from(HEXES)
    return Facts(
        substrate,
        kind,
        KNOWN.substrates[substrate].texture,
        draw(st.sampled_from(coats_on(kind, substrate))),
        draw(st.none() | st.floats(0, 60)),
        tuple(Found(k, draw(st.sampled_from(EXTENTS)), draw(st.none() | st.floats(0.1, 8))) for k in found),
        draw(
            st.dictionaries(
                st.sampled_from(["rub", "cross-cut", "ph", "moisture", "water-drop"]), st.sampled_from(["pass", "doubt", "fail"])
            )
        ),
        draw(hexes),
        draw(hexes),
        wanted=draw(st.just("") | st.sampled_from(WANTED)) if wants else "",
        schools=schools,
        lead=draw(st.sampled_from(["", "closed", "works-under"])),
        asbestos=draw(st.sampled_from(["", "closed", "works-under"])),
        method=draw(st.sampled_from(["brush", "roller", "sprayer"])),
        is_sunny=draw(st.booleans()),
    )


def at(system, *keys) -> list[int]:
    return [i for i, s in enumerate(system.steps) if s.key in keys]


@settings(max_examples=examples(300))
@given(facts())
def test_the_steps_of_any_system_make_sense(given):
    system = specify(given, KNOWN)
    steps = system.steps
    assert [s.phase for s in steps] == sorted((s.phase for s in steps), key=PHASES.index)
    assert len({s.key for s in steps}) == len(steps), "nothing is done twice"
    assert all(s.reasons and s.check for s in steps)
    # What binds the ground, and the spots below filler and putty, belong to the mending.
    coats = [i for i, s in enumerate(steps) if s.family and s.phase is not Phase.MEND]
    preparation = [i for i, s in enumerate(steps) if s.key in ROWS and PHASES.index(ROWS[s.key].phase) < PHASES.index(Phase.PRIME)]
    assert not coats or not preparation or max(preparation) < min(coats), "what prepares comes before what is put on"
    wet = [i for i, s in enumerate(steps) if s.key in ROWS and ROWS[s.key].wets]
    if wet and coats:
        assert any(max(wet) < i < min(coats) for i in at(system, "dry")), "what was wetted is let dry before a coat"
    for s in steps:
        if s.key not in ROWS:
            continue
        breaks = ROWS[s.key].disturbs or ROWS[s.key].abrades or ROWS[s.key].is_under_rules
        assert ("lead" in s.blocked_by) == (given.lead == "closed" and breaks)
        assert ("asbestos" in s.blocked_by) == (given.asbestos == "closed" and (breaks or ROWS[s.key].wets))
        assert ("silica" in s.blocked_by) == ("silica" in ROWS[s.key].hazards)
    if given.lead:
        assert not at(system, "power-wash", "power-strip"), "never under pressure where lead is not cleared"
    if "deck:strips" in system.tags:
        assert at(system, "strip", "power-strip", "sand-off-film"), "a film that must come off comes off, one way or another"
    as_a_painter_would(given, system)


def as_a_painter_would(given, system):
    """Hold a system to what no painter would do otherwise (handbook 5, 6, 12), whatever the surface."""
    keys = [s.key for s in system.steps]
    first = {key: keys.index(key) for key in keys}
    found = {f.kind for f in given.findings}
    film, family = KNOWN.coatings[given.coating].film, KNOWN.substrates[given.substrate].family
    last_coat = max((i for i, s in enumerate(system.steps) if s.phase is Phase.COAT), default=-1)
    for filled in ("fill", "replace-putty"):
        if filled in first:
            primed = [i for i, s in enumerate(system.steps) if s.key in ("spot-prime", "prime") and i < first[filled]]
            assert primed, f"{filled} goes on primed wood"
    if {"fill", "fill-rot"} & set(keys) and given.substrate != "shakes":
        assert max(first.get("fill", 0), first.get("fill-rot", 0)) < first["sand-filled"], "filler is sanded"
    if "set-nails" in first:
        sanded = [first[k] for k in ("sand-deck", "sand-off-film") if k in first]
        assert all(first["set-nails"] < i for i in sanded), "nails are set before a deck is sanded"
    if "peeling" in found and film == "film" and given.kind != "roof" and not system.refusals:
        removes = [i for i, s in enumerate(system.steps) if s.key in ROWS and (ROWS[s.key].strips or s.key in REMOVES)]
        assert removes or given.asbestos, f"what peels comes off: {keys}"
        assert all(i < last_coat for i in removes)
    if KNOWN.substrates[given.substrate].is_soft and given.kind in ("wall", "gable", "plinth", "chimney"):
        assert not {"open-cracks", "fill-cracks", "mend-mortar", "caulk", "power-wash", "rotating-wash", "grind-stubs"} & set(keys)
        if not system.refusals:
            assert KNOWN.systems.families[system.finish].is_vapour_open, system.finish
    if "cure-check" in first:
        assert all(i > first["cure-check"] for i, s in enumerate(system.steps) if s.key in ROWS and ROWS[s.key].wets), (
            "cured before it is wetted"
        )
        assert given.coating_age_y is None or given.coating_age_y < 1
    if given.kind == "shutter":
        assert not {"mask", "tape-off"} & set(keys)
        assert first["take-down"] < first["wash-pieces"] < first["turn"] < first["put-back"]
    if given.coating == "alkyd" and given.substrate == "galvanised" and "peeling" in found:
        assert system.primer == "galvanised-primer"
        assert "strip-metal" in keys
    if family == "metal" and given.coating == "factory" and given.substrate == "aluminium" and given.kind != "roof" and not given.asbestos:
        is_old = given.coating_age_y is not None and given.coating_age_y >= 10
        # What is glossy is dulled whatever its age.
        assert ("scuff" in keys) != (is_old and "gloss" not in found)
    assert system.decided["finish"].reason.rule != "fallback" or system.refusals, "every surface has rules of its own"
    if given.wanted and not system.refusals:
        assert system.finish == given.wanted or system.value("sealers"), "what the owner wants is taken, or refused with the reason"


@settings(max_examples=examples(300))
@given(facts())
def test_nothing_that_is_chosen_from_the_shelf_clashes(given):
    system = specify(given, KNOWN)
    assume(not system.refusals)
    products = choose_all(KNOWN, system, given)
    never = [c for c in clashes(KNOWN, system, given, products) if c.level == "never"]
    assert never == []


@pytest.mark.parametrize("kind", sorted(GROUNDS))
def test_nothing_clashes_on_any_ground_under_any_coat(kind):
    """Every ground and old coat, sound or with one finding, is tried in turn (in the long run with each wish): chance meets few of them."""
    grounds = [(s, old) for s in grounds_of(kind) for old in coats_on(kind, s)]
    for (substrate, old), wish in product(grounds, ("", *(WANTED if is_long() else ()))):
        for finding in (None, *conditions_on(substrate)):
            texture, found = KNOWN.substrates[substrate].texture, (Found(finding, "more"),) if finding else ()
            given = Facts(substrate, kind, texture, old, None, found, {}, None, None, wanted=wish)
            system = specify(given, KNOWN)
            if not system.refusals:
                never = [c for c in clashes(KNOWN, system, given, choose_all(KNOWN, system, given)) if c.level == "never"]
                assert never == [], f"{substrate} {kind} {old}, {finding or 'sound'}, {wish or 'no wish'}"


@settings(max_examples=examples(100))
@given(facts(), st.data())
def test_what_a_painter_changes_stands_whatever_the_rules_say(given, data):
    system = specify(given, KNOWN)
    keys = [s.key for s in system.steps]
    assume(len(keys) > 2)
    dropped = data.draw(st.sampled_from(keys))
    others = [k for k in keys if k != dropped]
    noted = data.draw(st.sampled_from(others))
    edits = [Edit("drop", dropped), Edit("note", noted, note="seen"), Edit("add", "own", others[0], note="Ring the owner")]
    changed, warnings = apply(system, edits, given, KNOWN)
    after = [s.key for s in changed.steps]
    assert [k for k in after if not k.startswith("own")] == others, "nothing else moved"
    assert after[after.index(others[0]) + 1] == "own 1"
    assert any("was dropped" in w for w in warnings)
    assert next(s for s in changed.steps if s.key == noted).reasons[0].why == "seen"
    # Laid on again over the same rules it is the same.
    assert apply(system, edits, given, KNOWN) == (changed, warnings)

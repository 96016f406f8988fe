"""Orchard Deck: a cedar deck with balusters and steps behind a house that is not painted.

Old solid stain flakes on the steps; the boards are grey and bare.
"""

from amber_gable.demo.spec import BlockSpec, DemoJob, FeatureSpec, FindingSpec, OpeningSpec, SurfaceSpec, TestSpec, facts
from amber_gable.services.jobs.rules import JobRules

JOB = DemoJob(
    facts=facts("Orchard Deck", 2004, ("Ines",), is_heated=False, owner=("Juniper Vale", "by telephone")),
    rules=JobRules(painters=1, method="brush", access="ground"),
    front_azimuth_deg=20.0,
    paints_trim=False,
    blocks=(
        BlockSpec(
            "house", "House", {"across_m": "34'", "deep_m": "24'", "eaves_height_m": "9' 6\"", "ridge_height_m": "16'", "overhang_m": "1'"},
        ),
        BlockSpec("deck", "Deck", {"across_m": "20'", "deep_m": "14'", "eaves_height_m": "2' 6\"", "rail_height_m": "3'", "steps_width_m": "5'",
                                   "tread_m": "11\"", "riser_m": "7\""}, against="House", side="2", from_left_m="7'", steps="4"),
    ),
    openings=(OpeningSpec("South", "entry-door", "6'", "6' 8\"", "14'", "2' 6\"", moves="free"),),
    surfaces=(
        SurfaceSpec("vinyl", 70.0, ("wall", "gable"), is_painted=False, coating="factory"),
        SurfaceSpec("wood-door", 40.0, ("door",), is_painted=False),
        SurfaceSpec("deck-wood", 28.0, ("deck",), coating="none", hex="#b08358"),
        SurfaceSpec("deck-wood", 28.0, ("steps",), coating="solid-stain", coated_year=2018, hex="#b08358"),
        SurfaceSpec("cedar", 28.0, ("railing",), coating="none", profile="balusters", texture="smooth", hex="#b08358"),
    ),
    items=(("post", "Railing posts", "4'", "1' 2\"", "9"), ("railing", "Top and bottom rails", "43'", "1' 10\"", "1")),
    features=(
        FeatureSpec("plants", "Roses along the steps", "Deck steps", "2'"),
        FeatureSpec("furniture", "Table and grill", "Deck boards", "0'"),
        FeatureSpec("tree", "Apple trees to the south-west", distance_m="25'", shade=(195.0, 250.0, 34.0)),
    ),
    findings=(
        FindingSpec("Deck steps", "peeling", "more", "2'", "3'", "Solid stain flakes off in sheets"),
        FindingSpec("Deck boards", "grey-wood", "more", "10'", "7'", "Grey and bare", 1.6),
        FindingSpec("Deck boards", "nail-heads", "to-10", "4'", "3'"),
        FindingSpec("Deck boards", "rot", "spots", "18'", "1'", "End of two boards at the rim", 20.0),
    ),
    tests=(
        TestSpec("Deck boards", "water-drop", {"soaks_after_s": 4}),
        TestSpec("Deck boards", "tape-pull", {"fibres": "many"}),
        TestSpec("Deck boards", "moisture", {"readings_pct": [16.0, 18.5, 21.0, 20.0]}),
        TestSpec("Deck steps", "cross-cut", {"rating": 0}),
    ),
    walk=(("around", "damage", "none"), ("around", "shade", "noted"), ("around", "year", "known")),
)  # fmt: skip

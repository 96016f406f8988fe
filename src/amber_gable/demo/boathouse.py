"""Slipway Boathouse: board and batten in cedar, a metal roof, two big sliding doors to the water.

Boats are moored downwind. Sprayed and back-brushed.
"""

from amber_gable.demo.spec import BlockSpec, DemoJob, FeatureSpec, FindingSpec, OpeningSpec, SurfaceSpec, TestSpec, facts
from amber_gable.services.jobs.rules import JobRules

JOB = DemoJob(
    facts=facts("Slipway Boathouse", 1988, ("Marlow",), is_heated=False, owner=("Hollis Sedge", "at the slipway")),
    rules=JobRules(painters=1, method="sprayer", access="lift"),
    front_azimuth_deg=95.0,
    blocks=(
        BlockSpec(
            "house", "Boathouse", {"across_m": "28'", "deep_m": "44'", "eaves_height_m": "13'", "ridge_height_m": "22'", "overhang_m": "1'"},
            ridge_runs="to back",
        ),
    ),
    openings=(
        OpeningSpec("East gable", "sliding-door", "9'", "10'", "4'", "0'", moves="free"),
        OpeningSpec("East gable", "sliding-door", "9'", "10'", "15'", "0'", moves="free"),
        *(OpeningSpec("South", "fixed-window", "4'", "3'", left, "6'", "2", "1") for left in ("8'", "20'", "32'")),
        *(OpeningSpec("North", "fixed-window", "4'", "3'", left, "6'", "2", "1") for left in ("8'", "32'")),
        OpeningSpec("West gable", "entry-door", "3'", "6' 8\"", "12' 6\"", "0'", moves="free"),
        OpeningSpec("West gable", "vent", "2'", "2'", "13'", "16'"),
    ),
    surfaces=(
        SurfaceSpec("cedar", 12.0, ("wall", "gable"), coating="solid-stain", coated_year=2017, old_hex="#6f7a7d", hex="#525d60"),
        SurfaceSpec("cedar", 6.0, ("door",), coating="solid-stain", coated_year=2017, old_hex="#6b2f27", hex="#6b2f27"),
        SurfaceSpec("metal-roof", 20.0, ("roof",), coating="factory", coated_year=1988, hex="#787d7e"),
    ),
    items=(("window-trim", "Window trim", "70'", "5\"", "1"),),
    features=(
        FeatureSpec("boats", "Two moored boats, downwind in a west wind", "East gable", "30'"),
        FeatureSpec("water", "The river", "East gable", "16'"),
        FeatureSpec("path", "Path to the jetty", "South", "6'"),
        FeatureSpec("hill", "Wooded bank across the lane", shade=(200.0, 300.0, 11.0)),
    ),
    grounds={"East gable": "paved", "North": "soft"},
    findings=(
        FindingSpec("South", "faded", "more", "20'", "6'", "Sun side, two shades lighter"),
        FindingSpec("North", "mildew", "to-10", "10'", "2'", "Green to knee height"),
        FindingSpec("North roof", "rust", "spots", "22'", "4'", "At the fasteners along the eaves"),
        FindingSpec("East gable", "nail-heads", "to-10", "14'", "11'"),
    ),
    tests=(
        TestSpec("South wall", "water-drop", {"soaks_after_s": 95}, "Marlow"),
        TestSpec("North wall", "moisture", {"readings_pct": [14.0, 15.5, 18.0]}, "Marlow"),
        TestSpec("North roof", "magnet", {"holds": "yes", "rust": "yes"}, "Marlow"),
    ),
    walk=(("East gable", "grade", "fair"), ("North", "grade", "fair"), ("around", "shade", "noted"), ("around", "year", "known")),
    pieces={"windows": ("#dfe3e3", "#dfe3e3"), "trim": ("#dfe3e3", "#dfe3e3")},
)  # fmt: skip

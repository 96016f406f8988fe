"""Tollkeeper's House: two storeys of lap siding over a brick plinth, two gables, built in 1931.

Fourteen sash windows, a panelled entry door, eight louvred shutters, a brick chimney, a porch with a
standing-seam roof. Sage to deep ochre; peeling on the south side. The front looks a little north of
east, down to the river.
"""

from amber_gable.demo.spec import BlockSpec, DemoJob, FeatureSpec, FindingSpec, OpeningSpec, SurfaceSpec, TestSpec, facts
from amber_gable.services.jobs.rules import JobRules

_UPPER, _LOWER = "12'", "3' 8\""


def _sash(elevation: str, left: str, sill: str, moves: str = "free") -> OpeningSpec:
    return OpeningSpec(elevation, "sash-window", "2' 8\"", "5'", left, sill, "2", "2", moves)


def _shutters(first: str, second: str, sill: str) -> list[OpeningSpec]:
    """Return the pair beside a sash window, an inch clear of it."""
    return [OpeningSpec("East", "shutter", "1' 3\"", "5'", left, sill) for left in (first, second)]


JOB = DemoJob(
    facts=facts("Tollkeeper's House", 1931, ("Ines", "Tobias"), owner=("Odile Tansy", "by telephone, evenings")),
    rules=JobRules(painters=2),
    front_azimuth_deg=78.0,
    blocks=(
        BlockSpec(
            "house", "House",
            {"across_m": "38'", "deep_m": "26' 6\"", "eaves_height_m": "18' 6\"", "ridge_height_m": "28'", "overhang_m": "1' 4\"", "plinth_height_m": "1' 8\""},
        ),
        BlockSpec("chimney", "Chimney", {"across_m": "3'", "deep_m": "2' 6\"", "setback_m": "15'", "eaves_height_m": "31' 6\""},
                  against="House", from_left_m="9'"),
        BlockSpec("porch", "Porch", {"across_m": "12'", "projects_m": "6'", "eaves_height_m": "9'", "ridge_height_m": "10' 8\"", "overhang_m": "8\""},
                  roof="shed", against="House", from_left_m="13'"),
    ),
    openings=(
        OpeningSpec("East", "entry-door", "3'", "6' 10\"", "17' 6\"", "1' 8\"", moves="free"),
        _sash("East", "5'", _UPPER), _sash("East", "17' 8\"", _UPPER), _sash("East", "30' 4\"", _UPPER, "painted-shut"),
        _sash("East", "5'", _LOWER), _sash("East", "30' 4\"", _LOWER),
        *_shutters("3' 8\"", "7' 9\"", _UPPER), *_shutters("29'", "33' 1\"", _UPPER),
        *_shutters("3' 8\"", "7' 9\"", _LOWER), *_shutters("29'", "33' 1\"", _LOWER),
        _sash("South gable", "6'", _LOWER), _sash("South gable", "17' 10\"", _UPPER, "painted-shut"),
        _sash("West", "5'", _UPPER), _sash("West", "17' 8\"", _UPPER), _sash("West", "30' 4\"", _UPPER),
        _sash("West", "9'", _LOWER), _sash("West", "26' 4\"", _LOWER),
        _sash("North gable", "6'", _UPPER), _sash("North gable", "17' 10\"", _UPPER),
    ),
    surfaces=(
        SurfaceSpec("wood-siding", 31.0, ("wall", "gable"), coated_year=2013, coating="alkyd", old_hex="#9caf94", hex="#ca8a34"),
        SurfaceSpec("wood-door", 9.0, ("door",), coated_year=2013, coating="alkyd", old_hex="#4a5f57", hex="#3d5a4c"),
        SurfaceSpec("metal-roof", 22.0, names=("Porch east roof",), is_painted=False, coating="factory"),
    ),
    items=(("window-trim", "Window trim, 14 windows", "214' 8\"", "5\"", "1"), ("post", "Porch posts", "7' 4\"", "1' 6\"", "2"),
           ("downspout", "Downspouts", "74'", "11\"", "1")),
    features=(
        FeatureSpec("power-line", "Service drop to the north-east corner", "North gable", "11'"),
        FeatureSpec("plants", "Lilac against the wall", "South gable", "1'"),
        FeatureSpec("car", "The neighbour parks here", "West", "12'"),
        FeatureSpec("tree", "Old elm to the west", distance_m="40'", shade=(255.0, 290.0, 38.0)),
    ),
    grounds={"South gable": "planted", "East": "paved"},
    findings=(
        FindingSpec("South gable", "peeling", "to-30", "13'", "9'", "Down to bare wood below the upper window"),
        FindingSpec("South gable", "cracked", "spots", "24' 6\"", "6'", "Splits in three boards at the corner", 3.0),
        FindingSpec("South gable", "failed-putty", "spots", "19'", "13'"),
        FindingSpec("East", "mildew", "spots", "2'", "2' 6\"", "Behind the downspout"),
        FindingSpec("West", "rot", "spots", "27' 8\"", "3' 7\"", "Sill of the lower right window", 12.0),
        FindingSpec("West", "broken-glass", "spots", "10' 4\"", "5'", "Corner of the pane", acknowledged_by="The owner"),
    ),
    tests=(
        TestSpec("South gable wall", "cross-cut", {"rating": 2}),
        TestSpec("East wall", "cross-cut", {"rating": 4}),
        TestSpec("East wall", "rub", {"rating": 7}),
        TestSpec("South gable wall", "moisture", {"readings_pct": [11.5, 12.0, 14.2, 16.8]}, "Tobias"),
    ),
    walk=(
        ("North gable", "grade", "good"), ("North gable", "openings", "right"), ("East", "grade", "fair"), ("East", "openings", "right"),
        ("East", "windows", "shut"), ("South gable", "grade", "poor"), ("South gable", "openings", "right"), ("South gable", "windows", "shut"),
        ("West", "grade", "fair"), ("around", "damage", "pinned"), ("around", "shade", "noted"), ("around", "year", "known"),
    ),
    lead_free=("North gable wall", "North gable top", "East wall", "South gable top"),
    lead_test={
        "tester": "Heron Ferry Surveying", "qualification": "inspector's certificate HF-118", "method": "X-ray fluorescence, three readings a part",
        "result": "negative", "tested_on": "2026-08-24",
    },
    asbestos_free=("windows",),
    asbestos_sample={
        "tester": "Heron Ferry Surveying", "qualification": "laboratory report HF-A-42", "method": "polarised light, two samples of putty",
        "result": "negative", "tested_on": "2026-08-24",
    },
    pieces={"windows": ("#f2e9d3", "#ece4d0"), "shutters": ("#39504d", "#4a5c55"), "trim": ("#f2e9d3", "#ece4d0")},
    candidates=(("Body", "Ferry Ochre", "#ca8a34"), ("Body", "Towpath", "#b8742e"), ("Body", "Late Wheat", "#d39a4a")),
)  # fmt: skip

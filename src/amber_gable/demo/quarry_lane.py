"""Quarry Lane 9: a block cottage with render that was never painted, under a hipped roof.

Stone sills, hairline and wider cracks, a smooth steel garage door in a lean-to.
"""

from amber_gable.demo.spec import BlockSpec, DemoJob, FeatureSpec, FindingSpec, OpeningSpec, SurfaceSpec, TestSpec, facts
from amber_gable.services.jobs.rules import JobRules


def _casement(elevation: str, left: str, width: str = "4'") -> OpeningSpec:
    return OpeningSpec(elevation, "casement-window", width, "4'", left, "3'", "2", "1", "free")


JOB = DemoJob(
    facts=facts("Quarry Lane 9", 1996, ("Tobias", "Marlow"), asbestos_before_year=1989, owner=("Perrin Moss", "letterbox")),
    rules=JobRules(painters=2),
    front_azimuth_deg=172.0,
    blocks=(
        BlockSpec(
            "house", "Cottage", {"across_m": "36'", "deep_m": "26'", "eaves_height_m": "9'", "ridge_height_m": "16'", "overhang_m": "1' 6\""},
            roof="hip",
        ),
        BlockSpec("lean-to", "Garage", {"across_m": "22'", "projects_m": "13'", "eaves_height_m": "7' 9\"", "ridge_height_m": "8' 9\"", "overhang_m": "6\""},
                  roof="shed", against="Cottage", side="3", from_left_m="2'"),
    ),
    openings=(
        _casement("South", "4'"), _casement("South", "28'"),
        OpeningSpec("South", "entry-door", "3'", "6' 8\"", "16' 6\"", "0'", moves="free"),
        _casement("North", "6'"), _casement("North", "24'", "6'"),
        _casement("West", "11'"),
        OpeningSpec("Garage east", "garage-door", "9'", "7'", "6' 6\"", "0'", moves="free"),
    ),
    surfaces=(
        SurfaceSpec("stucco", 72.0, ("wall",), lies_on="masonry", coating="none", hex="#e6ddc6"),
        SurfaceSpec("wood-door", 8.0, ("door",), coating="acrylic", coated_year=2015, hex="#33504b"),
        SurfaceSpec("steel-door", 60.0, names=("Garage east garage door",), coating="factory", coated_year=1996, old_lrv_pct=80.0, hex="#d6ccb4"),
    ),
    cuts=(("South", "0', 1' 6\"; 36', 1' 6\""),),
    items=(("stone-sill", "Stone sills, 5 windows", "26'", "9\"", "1"), ("gutter", "Gutters", "98'", "13\"", "1")),
    features=(
        FeatureSpec("cooling-unit", "Beside the garage", "Garage north", "2'"),
        FeatureSpec("sprinkler", "Wets the foot every evening", "South", "5'"),
        FeatureSpec("neighbour-shade", "Two-storey house to the east", shade=(60.0, 115.0, 24.0)),
    ),
    grounds={"North": "soft"},
    findings=(
        FindingSpec("South", "cracked", "spots", "22'", "5'", "Hairlines from the window corners", 0.1),
        FindingSpec("West", "cracked", "spots", "16'", "6'", "Runs from the eaves down, wider at the top", 2.2),
        FindingSpec("South", "efflorescence", "to-10", "12'", "1'", "Where the sprinkler reaches"),
        FindingSpec("North", "mildew", "to-10", "3'", "1'"),
        FindingSpec("Garage east", "rust", "spots", "7'", "0' 2\"", "Bottom edge of the door"),
        FindingSpec("South", "paving", "spots", "18'", "0' 3\"", "Step is cracked", acknowledged_by="The owner"),
    ),
    tests=(
        TestSpec("South wall 2", "ph", {"ph": 9.6}, "Tobias"),
        TestSpec("West wall", "crack-width", {"width_mm": 2.2}, "Tobias"),
        TestSpec("South wall 2", "crack-width", {"width_mm": 0.1}, "Tobias"),
        TestSpec("North wall", "plastic-sheet", {"hours": 17, "under": "darker"}, "Marlow"),
        TestSpec("South wall 2", "rub", {"rating": 5}, "Marlow"),
        TestSpec("Garage east garage door", "magnet", {"holds": "yes", "rust": "yes"}, "Marlow"),
    ),
    walk=(("South", "grade", "fair"), ("South", "openings", "right"), ("West", "grade", "poor"), ("around", "damage", "pinned"), ("around", "year", "known")),
    candidates=(("Body", "Quarry Dust", "#e6ddc6"), ("Body", "Lime Kiln", "#e9e4d8"), ("Body", "Sandbank", "#d9c7a0"), ("Body", "Pale Fern", "#cfd3bd")),
)  # fmt: skip

"""The job bundle: a survey and what was decided on it as one JSON document, versioned; its JSON Schema follows from the models.

Lengths are metres, angles degrees, outlines GeoJSON-like polygons in metres on their elevation.
Keys name blocks and elevations within the bundle; they mean nothing outside it.
Not here: making a bundle of a job, or a job of a bundle (services.survey.bundle).
"""

import re
from datetime import date
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from amber_gable.errors import FieldErrors

VERSION = 1

# A row's number, or how often something is there: a slip of the pen is refused, and so is what no database holds.
MOST = 100_000
_CONTROLS = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufffe\uffff]")


def _plain(text: str) -> str:
    if _CONTROLS.search(text):
        raise ValueError("Control characters cannot be shown or printed: take them out.")
    return text


Metres = Annotated[float, Field(ge=-10_000, le=10_000)]
Text = Annotated[str, Field(max_length=2000), AfterValidator(_plain)]
Name = Annotated[str, Field(min_length=1, max_length=200), AfterValidator(_plain)]
Short = Annotated[str, Field(max_length=200), AfterValidator(_plain)]


class BundlePart(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Polygon(BundlePart):
    """Rings of [x, y] in metres, the first the outline, closed by repeating its first point."""

    type: Literal["Polygon"] = "Polygon"
    coordinates: list[list[tuple[Metres, Metres]]] = Field(min_length=1, max_length=400)

    @classmethod
    def of(cls, outline: Any, holes: Any = ()) -> "Polygon":
        rings = [[(float(x), float(y)) for x, y in ring] for ring in (outline, *holes)]
        return cls(coordinates=[[*ring, ring[0]] for ring in rings])

    @property
    def outline(self) -> tuple[tuple[float, float], ...]:
        ring = self.coordinates[0]
        return tuple(ring[:-1] if len(ring) > 1 and ring[0] == ring[-1] else ring)


class JobPart(BundlePart):
    name: Name
    latitude_deg: float = Field(ge=-90, le=90)
    longitude_deg: float = Field(ge=-180, le=180)
    altitude_m: float = Field(ge=-430, le=6000)
    time_zone: Name
    units: Literal["us", "metric"]
    year_built: int | None = Field(default=None, ge=1600, le=2100)
    country: Name = "us"
    lead_before_year: int | None = Field(default=None, ge=1850, le=2100)
    asbestos_before_year: int | None = Field(default=None, ge=1850, le=2100)
    crew: list[Name] = Field(default_factory=list, max_length=50)
    owner_name: Short = ""
    owner_phone: Short = ""
    owner_address: Short = ""
    owner_reach: Short = ""
    owner_remarks: Text = ""
    is_heated: bool = True
    rules: dict[str, Any] = Field(default_factory=dict)


class BlockPart(BundlePart):
    key: Name
    parent: Short | None = None
    name: Name
    kind: Literal["house", "wing", "lean-to", "porch", "dormer", "bay", "chimney", "deck"]
    side: int = Field(default=0, ge=0, le=3)
    from_left_m: Metres = 0.0
    projects_m: Metres = 0.0
    across_m: Metres
    deep_m: Metres
    base_m: Metres = 0.0
    eaves_height_m: Metres
    ridge_height_m: Metres = 0.0
    roof: Literal["gable", "hip", "shed", "flat", "none"] = "gable"
    ridge_runs: Literal["along", "to back"] = "along"
    overhang_m: Metres = 0.0
    plinth_height_m: Metres = 0.0
    splay_m: Metres = 0.0
    rail_height_m: Metres = 0.0
    steps: int = Field(default=0, ge=0, le=40)
    steps_width_m: Metres = 0.0
    tread_m: Metres = 0.28
    riser_m: Metres = 0.18


class AlonePart(BundlePart):
    key: Name
    name: Name
    azimuth_deg: float = Field(ge=0, le=360)
    tilt_deg: float = Field(default=90.0, ge=0, le=90)
    outline: Polygon


class OpeningPart(BundlePart):
    kind: Name
    width_m: Metres
    height_m: Metres
    left_m: Metres
    sill_m: Metres
    panes_across: int = Field(default=1, ge=1, le=20)
    panes_up: int = Field(default=1, ge=1, le=20)
    moves: Literal["not-tried", "free", "painted-shut"] = "not-tried"


class SurfacePart(BundlePart):
    """In the order that the elevation's divisions give, then its doors by `opening` (an index)."""

    name: Name
    is_named: bool = False
    opening: int | None = Field(default=None, ge=0, le=MOST)
    outline: Polygon | None = None
    substrate: Name
    lies_on: Literal["", "frame", "masonry"] = ""
    profile: Name
    profile_mm: dict[Short, float] = Field(default_factory=dict, max_length=20)
    texture: Name
    lrv_pct: float = Field(ge=0, le=100)
    hex: str | None = Field(default=None, pattern=r"^#[0-9a-fA-F]{6}$")
    coating: Name = "unknown"
    coated_year: int | None = Field(default=None, ge=1600, le=2100)
    coated_month: int | None = Field(default=None, ge=1, le=12)
    old_lrv_pct: float | None = Field(default=None, ge=0, le=100)
    old_hex: str | None = Field(default=None, pattern=r"^#[0-9a-fA-F]{6}$")
    is_painted: bool


class ElevationPart(BundlePart):
    key: Name
    name: Name
    azimuth_deg: float = Field(ge=0, le=360)
    outline: Polygon
    cuts: list[list[tuple[Metres, Metres]]] = Field(default_factory=list)
    access: Short | None = None
    ground: Name = "firm"
    ground_slope_pct: float = Field(default=0.0, ge=0, le=100)
    openings: list[OpeningPart] = Field(default_factory=list, max_length=400)
    surfaces: list[SurfacePart] = Field(default_factory=list, max_length=400)


class ItemPart(BundlePart):
    key: Short = ""
    kind: Name
    name: Name
    count: int = Field(default=1, ge=1, le=500)
    length_m: Metres
    girth_m: Metres
    is_painted: bool = True


class FeaturePart(BundlePart):
    kind: Name
    note: Text = ""
    elevation: Short | None = None
    distance_m: float | None = Field(default=None, ge=0, le=100_000)
    shade_from_deg: float | None = Field(default=None, ge=0, le=360)
    shade_to_deg: float | None = Field(default=None, ge=0, le=360)
    shade_up_to_deg: float | None = Field(default=None, gt=0, le=90)
    hex: Short | None = None
    is_kept_off: bool = False


class FindingPart(BundlePart):
    """A pin. `elevation` is empty where its wall is gone: a record outlives what it was found on."""

    number: int | None = Field(default=None, ge=1, le=MOST)
    elevation: Short | None = None
    kind: Name
    extent: Name
    x_m: Metres
    y_m: Metres
    depth_mm: float | None = Field(default=None, ge=0, le=500)
    note: Text = ""
    found_at: AwareDatetime | None = None
    acknowledged_by: Short | None = None
    acknowledged_at: AwareDatetime | None = None
    # Hashes of its photographs; the pictures themselves stay with the firm.
    photographs: list[Short] = Field(default_factory=list, max_length=200)


class VerdictPart(BundlePart):
    result: Literal["pass", "doubt", "fail"]
    headline: Text
    means: Text
    value: float | None = None
    limit: float | None = None


class TestPart(BundlePart):
    """A test with the verdict that was given then; without one it is judged anew, for which its surface must be there."""

    elevation: Short | None = None
    surface: int | None = Field(default=None, ge=0, le=MOST)
    surface_name: Text = ""
    kind: Name
    values: dict[str, Any]
    verdict: VerdictPart | None = None
    taken_at: AwareDatetime | None = None
    painter: Text = ""


class ClearancePart(BundlePart):
    hazard: Literal["lead", "asbestos", "silica"]
    basis: Literal["test", "works-under"]
    elevation: Short | None = None
    surface: int | None = Field(default=None, ge=0, le=MOST)
    # Of what was tested, where it is no longer there: the record stays, and clears nothing.
    component: Text = ""
    details: dict[Short, Text] = Field(max_length=50)
    recorded_at: AwareDatetime | None = None


Tint = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]


class EditPart(BundlePart):
    """A step changed by hand."""

    op: Literal["drop", "add", "move", "replace", "note"]
    step: Name
    after: Short = ""
    instead: Short = ""
    note: Annotated[Text, Field(max_length=500)] = ""


class PlacedPart(BundlePart):
    """On a surface, or on all windows, shutters or trim."""

    elevation: Short | None = None
    surface: int | None = Field(default=None, ge=0, le=MOST)
    pieces: Literal["windows", "shutters", "trim"] | None = None


class ChoicePart(PlacedPart):
    """Decisions by hand for the system of a part."""

    wanted: Text = ""
    is_heat_reflective: bool = False
    is_vinyl_safe: bool = False
    hex: Tint | None = None
    old_hex: Tint | None = None
    coating: Text = ""
    coated_year: int | None = Field(default=None, ge=1600, le=2100)
    edits: list[EditPart] = Field(default_factory=list, max_length=200)


class SamplePart(PlacedPart):
    """A brush-out or a test patch; its part may be gone, its name stays."""

    part_name: Name
    kind: Literal["brush-out", "test-patch"]
    made_on: date
    due_on: date | None = None
    details: dict[Short, Text] = Field(default_factory=dict, max_length=50)
    note: Annotated[Text, Field(max_length=500)] = ""
    result: Literal["", "approved", "rejected", "holds", "fails"] = ""
    signed_by: Short | None = None
    signed_at: AwareDatetime | None = None


class CandidatePart(BundlePart):
    """A colour that the owner chooses from."""

    zone: Name
    code: Name
    hex: Tint


class AnswerPart(BundlePart):
    station: Short
    question: Name
    answer: Name


class BuildingPart(BundlePart):
    front_azimuth_deg: float = Field(ge=0, le=360)
    is_quick: bool = False
    blocks: list[BlockPart] = Field(default_factory=list, max_length=100)
    alone: list[AlonePart] = Field(default_factory=list, max_length=100)
    elevations: list[ElevationPart] = Field(default_factory=list, max_length=400)
    items: list[ItemPart] = Field(default_factory=list, max_length=1000)


class JobBundle(BundlePart):
    """A job's survey, whole, with its systems' decisions, samples and candidates."""

    bundle_version: Literal[1]
    job: JobPart
    building: BuildingPart
    features: list[FeaturePart] = Field(default_factory=list, max_length=1000)
    findings: list[FindingPart] = Field(default_factory=list, max_length=2000)
    site_tests: list[TestPart] = Field(default_factory=list, max_length=2000)
    clearances: list[ClearancePart] = Field(default_factory=list, max_length=500)
    walk: list[AnswerPart] = Field(default_factory=list, max_length=5000)
    systems: list[ChoicePart] = Field(default_factory=list, max_length=1000)
    samples: list[SamplePart] = Field(default_factory=list, max_length=1000)
    candidates: list[CandidatePart] = Field(default_factory=list, max_length=200)


def schema() -> dict[str, Any]:
    """Return the JSON Schema of a bundle."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **JobBundle.model_json_schema()}


def read(text: bytes) -> JobBundle:
    """Return a bundle from JSON.

    Raises
    ------
    FieldErrors
        Every problem of form, by dotted path.
    """
    try:
        return JobBundle.model_validate_json(text)
    except ValidationError as fault:
        problems = {".".join(str(p) for p in e["loc"]) or "file": e["msg"] for e in reversed(fault.errors(include_url=False))}
        raise FieldErrors(problems) from fault


def write(bundle: JobBundle) -> str:
    return bundle.model_dump_json(indent=1)

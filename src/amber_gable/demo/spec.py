"""What a demonstration job is made of: as a crew would type it, in feet and inches, so that it goes
through the same forms and services as their own.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from amber_gable.services.jobs.jobs import JobFacts
from amber_gable.services.jobs.rules import JobRules

LATITUDE_DEG, LONGITUDE_DEG, ALTITUDE_M = 43.80, -91.25, 205.0


@dataclass(frozen=True)
class BlockSpec:
    """A block as its form asks for it; `against` names another block ("" for the main one)."""

    kind: str
    name: str
    lengths: Mapping[str, str]
    roof: str = "gable"
    ridge_runs: str = "along"
    against: str = ""
    side: str = "0"
    from_left_m: str = ""
    steps: str = ""


@dataclass(frozen=True)
class OpeningSpec:
    """An opening on the elevation of that name."""

    elevation: str
    kind: str
    width_m: str
    height_m: str
    left_m: str
    sill_m: str
    # Empty for the usual of its kind.
    panes_across: str = ""
    panes_up: str = ""
    moves: str = "not-tried"


@dataclass(frozen=True)
class SurfaceSpec:
    """Facts of every surface of some kinds, or of the one that is named."""

    substrate: str
    lrv_pct: float
    kinds: tuple[str, ...] = ()
    names: tuple[str, ...] = ()
    profile: str = ""
    texture: str = ""
    is_painted: bool = True
    coating: str = "acrylic"
    coated_year: int | None = None
    old_lrv_pct: float | None = None
    hex: str | None = None
    old_hex: str | None = None
    lies_on: str = ""


@dataclass(frozen=True)
class FindingSpec:
    elevation: str
    kind: str
    extent: str
    x_m: str
    y_m: str
    note: str = ""
    depth_mm: float | None = None
    acknowledged_by: str = ""


@dataclass(frozen=True)
class TestSpec:
    surface: str
    kind: str
    values: Mapping[str, object]
    painter: str = "Ines"


@dataclass(frozen=True)
class FeatureSpec:
    kind: str
    note: str = ""
    elevation: str = ""
    distance_m: str = ""
    shade: tuple[float, float, float] | None = None


@dataclass(frozen=True)
class DemoJob:
    """A whole demonstration job."""

    facts: JobFacts
    rules: JobRules
    front_azimuth_deg: float
    blocks: Sequence[BlockSpec]
    openings: Sequence[OpeningSpec] = ()
    surfaces: Sequence[SurfaceSpec] = ()
    # Divisions by elevation: a level or upright line, by its two ends as typed.
    cuts: Sequence[tuple[str, str]] = ()
    items: Sequence[tuple[str, str, str, str, str]] = ()
    features: Sequence[FeatureSpec] = ()
    findings: Sequence[FindingSpec] = ()
    tests: Sequence[TestSpec] = ()
    # Whether the trim that follows from the blocks is painted.
    paints_trim: bool = True
    grounds: Mapping[str, str] = field(default_factory=dict)
    walk: Sequence[tuple[str, str, str]] = ()
    # Parts that a qualified tester found free of lead, in one entry.
    lead_free: Sequence[str] = ()
    lead_test: Mapping[str, str] = field(default_factory=dict)
    # Of which a sample found no asbestos: surfaces by name, or "windows" for their putty.
    asbestos_free: Sequence[str] = ()
    asbestos_sample: Mapping[str, str] = field(default_factory=dict)
    # Colours of windows, shutters and trim: new and old.
    pieces: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    # Zone, name on the card, tint.
    candidates: Sequence[tuple[str, str, str]] = ()


def facts(
    name: str, year_built: int | None, crew: tuple[str, ...], asbestos_before_year: int | None = None, *, is_heated: bool = True,
    owner: tuple[str, str] = ("", ""),
) -> JobFacts:  # fmt: skip
    """Return the facts of a job in Heron Ferry."""
    return JobFacts(
        name=name,
        latitude_deg=LATITUDE_DEG,
        longitude_deg=LONGITUDE_DEG,
        altitude_m=ALTITUDE_M,
        time_zone="America/Chicago",
        units="us",
        year_built=year_built,
        asbestos_before_year=asbestos_before_year,
        crew=crew,
        is_heated=is_heated,
        owner_name=owner[0],
        owner_reach=owner[1],
    )

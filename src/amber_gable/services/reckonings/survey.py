"""Reckonings of the survey: `gable-area`, `roof-area`, `height-by-shadow`, `height-by-courses`, `profile-factor`, `lrv`."""

from typing import Literal

from amber_gable.core.coat import colour
from amber_gable.core.geometry.profiles import Factor, check_dimensions, factor_of
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.survey import heights
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.reckonings.entry import Answer, Reckoning, Strict
from amber_gable.services.reckonings.fields import CourseMm, Courses, EdgeMm, FaceMm, LengthM, PitchDeg, PlanM2


class AreaOut(Answer):
    area_m2: float


class HeightOut(Answer):
    height_m: float


class GableAreaIn(Strict):
    width_m: LengthM
    eaves_height_m: LengthM
    ridge_height_m: LengthM


def gable_area(given: GableAreaIn) -> AreaOut:
    if given.ridge_height_m < given.eaves_height_m:
        raise PlanError("The ridge must lie at or above the eaves; measure both from the ground.", "ridge_height_m")
    return AreaOut(area_m2=heights.gable_area_m2(**given.model_dump()))


class RoofAreaIn(Strict):
    plan_m2: PlanM2
    pitch_deg: PitchDeg


class HeightByShadowIn(Strict):
    object_shadow_m: LengthM
    stick_m: LengthM
    stick_shadow_m: LengthM


class HeightByCoursesIn(Strict):
    courses: Courses
    course_mm: CourseMm


class ProfileFactorIn(Strict):
    profile: Literal["lap", "board-batten", "corrugated", "standing-seam", "shake", "louvre", "panel-door"]
    exposure_mm: FaceMm = None
    butt_mm: EdgeMm = None
    board_mm: FaceMm = None
    batten_width_mm: EdgeMm = None
    batten_depth_mm: EdgeMm = None
    pitch_mm: FaceMm = None
    depth_mm: EdgeMm = None
    pan_mm: FaceMm = None
    seam_mm: EdgeMm = None


class ProfileFactorOut(Answer):
    factor: float
    how: str


def profile_factor(given: ProfileFactorIn) -> ProfileFactorOut:
    row = shipped().profiles[given.profile]
    typed = given.model_dump(exclude={"profile"}, exclude_none=True)
    if row.factor is None:
        check_dimensions(row.shape, typed)
        factor: Factor = factor_of(row, typed)
    elif typed:
        name = next(iter(typed))
        raise FieldErrors({name: f"Leave {name} out: the factor of {given.profile} comes from the knowledge table."})
    else:
        factor = factor_of(row)
    return ProfileFactorOut(factor=factor.value, how=factor.how)


class LrvIn(Strict):
    hex: str


class LrvOut(Answer):
    lrv_pct: float
    solar_absorptance: float


def lrv(given: LrvIn) -> LrvOut:
    value = colour.lrv_pct(given.hex)
    return LrvOut(lrv_pct=value, solar_absorptance=colour.solar_absorptance(value))


SURVEY = (
    Reckoning(
        name="gable-area", title="Gable wall", question="How large is this gable wall?",
        input_model=GableAreaIn, output_model=AreaOut, function=gable_area, lead="area_m2",
        example={"width_m": 8.0, "eaves_height_m": 5.6, "ridge_height_m": 8.5}, notes=("The whole wall with its triangle, openings not taken off.",),
    ),
    Reckoning(
        name="roof-area", title="Roof plane", question="How large is this roof on the slope?",
        input_model=RoofAreaIn, output_model=AreaOut, lead="area_m2",
        function=lambda given: AreaOut(area_m2=heights.roof_area_m2(given.plan_m2, given.pitch_deg)),
        example={"plan_m2": 60.0, "pitch_deg": 35.0}, notes=("Plan is what a roof covers seen from above, overhang included.",),
    ),
    Reckoning(
        name="height-by-shadow", title="Height by shadow", question="How high is it, by shadow and stick?",
        input_model=HeightByShadowIn, output_model=HeightOut, lead="height_m",
        function=lambda given: HeightOut(height_m=heights.height_by_shadow_m(**given.model_dump())),
        example={"object_shadow_m": 9.4, "stick_m": 2.0, "stick_shadow_m": 2.4},
        notes=("Level ground, stick upright, both shadows measured within a few minutes.",),
    ),
    Reckoning(
        name="height-by-courses", title="Height by courses", question="How high is it, by counting courses?",
        input_model=HeightByCoursesIn, output_model=HeightOut, lead="height_m",
        function=lambda given: HeightOut(height_m=heights.height_by_courses_m(**given.model_dump())),
        example={"courses": 49.0, "course_mm": 114.3},
        notes=("Measure ten courses you can reach and divide by ten; a brick course is its height plus one joint.",),
    ),
    Reckoning(
        name="profile-factor", title="Profile factor", question="How much more face does this profile have?",
        input_model=ProfileFactorIn, output_model=ProfileFactorOut, function=profile_factor, lead="factor",
        example={"profile": "lap", "exposure_mm": 114.3, "butt_mm": 12.7},
        notes=(
            "lap: exposure and butt. board-batten: board, batten width, batten depth. corrugated: pitch and depth. standing-seam: pan and seam.",
            "shake, louvre and panel-door come from the knowledge table; in the survey they can be computed from their own dimensions.",
        ),
    ),
    Reckoning(
        name="lrv", title="Light reflectance", question="How light is this colour, and how much sun does it take up?",
        input_model=LrvIn, output_model=LrvOut, function=lrv, lead="lrv_pct",
        example={"hex": "#b8752e"}, notes=("A screen tint is no colour approval; the colour card's own figure wins.",),
    ),
)  # fmt: skip

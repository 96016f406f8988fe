"""Heights and areas that need no drawing: by shadow, by courses, of a gable, of a roof."""

import math


def gable_area_m2(width_m: float, eaves_height_m: float, ridge_height_m: float) -> float:
    """Return the area of a whole gable wall with its triangle [m2].

    Parameters
    ----------
    width_m : float
        Of the wall [m].
    eaves_height_m, ridge_height_m : float
        Over the ground [m].
    """
    return width_m * (eaves_height_m + ridge_height_m) / 2


def roof_area_m2(plan_m2: float, pitch_deg: float) -> float:
    """Return the area of a roof plane from its plan [m2] and pitch [°], below 90."""
    return plan_m2 / math.cos(math.radians(pitch_deg))


def height_by_shadow_m(object_shadow_m: float, stick_m: float, stick_shadow_m: float) -> float:
    """Return a height from its shadow and that of an upright stick at the same time [m].

    The two triangles are similar, since the sun stands equally high over both; level ground.

    Parameters
    ----------
    object_shadow_m : float
        Length of the shadow on level ground [m].
    stick_m, stick_shadow_m : float
        The stick and its shadow [m].
    """
    return object_shadow_m * stick_m / stick_shadow_m


def height_by_courses_m(courses: float, course_mm: float) -> float:
    """Return a height from counted courses of siding, brick or block [m].

    Parameters
    ----------
    courses : float
        Counted, halves too.
    course_mm : float
        One course with its joint [mm].
    """
    return courses * course_mm / 1000

"""A building's own shade against shadows worked out by hand."""

import numpy as np
import pytest

from amber_gable.core.geometry import Block, Region
from amber_gable.core.geometry.blocks import solids
from amber_gable.core.wall.self_shade import Facet, bodies, lit_table

# Ten metres wide, six deep, three high under a flat roof that stands out by 0.6 m; the front looks south.
HOUSE = Block("main", "House", "house", 10.0, 6.0, 3.0, roof="flat", overhang_m=0.6)
FRONT = Facet(Region(((0.0, 0.0), (10.0, 0.0), (10.0, 3.0), (0.0, 3.0))), (0.0, 0.0, 0.0), (0.0, -1.0), 90.0)


def share(blocks, azimuth, elevation, facet=FRONT):
    table = lit_table(facet, bodies(list(solids(blocks).values())), 180.0)
    return float(table.at(np.array([float(azimuth)]), np.array([float(elevation)]))[0])


@pytest.mark.parametrize("elevation", [10, 30, 45, 60, 75])
def test_eaves_shade_a_wall_from_above(elevation):
    # The lower edge of the eaves, 0.2 m under the roof, throws its shadow 0.6 tan(e) down the wall.
    lit = (3.0 - 0.2 - 0.6 * np.tan(np.radians(elevation))) / 3.0
    # Eight rows of points: a sixteenth either way.
    assert share([HOUSE], 180, elevation) == pytest.approx(max(lit, 0), abs=0.07)


def test_a_slanting_sun_reaches_lower_under_the_eaves_than_one_straight_ahead():
    assert share([HOUSE], 240, 45) < share([HOUSE], 180, 45) - 0.1
    assert share([HOUSE], 120, 45) == pytest.approx(share([HOUSE], 240, 45), abs=0.03), "mirrored"


def test_a_wing_shades_the_wall_beside_it():
    wing = Block("wing", "Wing", "wing", 4.0, 5.0, 3.0, roof="flat", parent="main", side=0, from_left_m=6.0, projects_m=5.0)
    house = Block("main", "House", "house", 10.0, 6.0, 3.0, roof="flat")
    left = Facet(Region(((0.0, 0.0), (6.0, 0.0), (6.0, 3.0), (0.0, 3.0))), (0.0, 0.0, 0.0), (0.0, -1.0), 90.0)
    # The wing stands to the east. A low sun 45° east of south throws its shadow 5 m along the 6 m of wall; from the west, none.
    assert share([house, wing], 135, 2, left) == pytest.approx(1 / 6, abs=0.13)
    assert share([house, wing], 225, 2, left) == 1
    # A high sun looks over it: the shadow of its 3 m ends 3 / tan(60°) out, less than the wing stands from most of the wall.
    assert share([house, wing], 135, 60, left) > 0.75


def test_a_free_wall_and_a_roof_see_all_of_the_sun():
    bare = Block("main", "House", "house", 10.0, 6.0, 3.0, ridge_height_m=5.0)
    assert all(share([bare], a, e) == 1 for a in (100, 180, 250) for e in (5, 40, 85))
    foot = Facet(
        Region(((0.0, 0.0), (10.0, 0.0), (10.0, 3.6), (0.0, 3.6))), (0.0, 0.0, 3.0), (0.0, -1.0), float(np.degrees(np.arctan2(2, 3)))
    )
    assert all(share([bare], a, e, foot) == 1 for a in (100, 180, 250) for e in (40, 85))


def test_over_north_the_table_closes():
    table = lit_table(FRONT, bodies(list(solids([HOUSE]).values())), 180.0)
    assert np.allclose(table.at(np.array([0.0, 360.0]), np.array([50.0, 50.0])), table.at(np.array([359.999]), np.array([50.0]))[0])

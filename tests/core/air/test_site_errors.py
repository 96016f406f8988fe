"""Errors that stay at a site: what readings teach, against the closed form, a slip of the pen, and chances that follow."""

from dataclasses import replace

import numpy as np
import pytest

from amber_gable.core.air.members import at_site, members_of
from amber_gable.core.air.site_errors import Belief, Shown, SiteErrors
from amber_gable.core.knowledge.shipped import shipped
from tests.support.weathers import steady

MODEL = shipped().forecast_errors
BEFORE = SiteErrors.before_readings(MODEL, [0.2, 0.3])


@pytest.mark.parametrize("readings", [(0.7,), (-1.0, -0.4, -0.8), (0.1, 0.3, -0.2, 0.4, 0.0)])
def test_without_slips_it_is_the_normal_closed_form(readings):
    prior, noise = Belief(0.0, 0.5), 0.7
    precision = 1 / prior.spread**2 + len(readings) / noise**2
    after = prior.after(readings, noise, 1e-12)
    # On 241 values out to four spreads: what lies beyond weighs less than this.
    assert after.mean == pytest.approx(sum(readings) / noise**2 / precision, abs=2e-3)
    assert after.spread == pytest.approx(precision**-0.5, rel=2e-3)


def test_three_readings_help_and_one_never_swings_it():
    prior = Belief(0.0, MODEL.site_air_c)
    one, three, five = (prior.after([-0.75] * n, MODEL.reading_air_c, MODEL.slips_frac) for n in (1, 3, 5))
    assert -0.4 < one.mean < -0.1
    assert five.mean < three.mean < one.mean
    assert five.spread < three.spread < one.spread < prior.spread
    assert five.mean > -0.75


@pytest.mark.parametrize("slip", [6.0, 18.0, -40.0])
def test_a_slip_of_the_pen_moves_hardly_anything(slip):
    prior = Belief(0.0, MODEL.site_air_c)
    clean = prior.after([-0.7, -0.8, -0.6, -0.9], MODEL.reading_air_c, MODEL.slips_frac)
    with_slip = prior.after([-0.7, -0.8, slip, -0.6, -0.9], MODEL.reading_air_c, MODEL.slips_frac)
    assert with_slip.mean == pytest.approx(clean.mean, abs=0.06)
    assert prior.after([slip], MODEL.reading_air_c, MODEL.slips_frac).mean == pytest.approx(0.0, abs=0.06)


def test_members_differ_for_good_as_far_as_is_believed():
    weather = steady(60, 15.0, 60.0, 3.0)
    members = members_of(weather, float(weather.epoch_s[48]), MODEL, 400)
    placed = at_site(members, BEFORE)
    off = placed.air_temp_c - members.air_temp_c
    assert np.ptp(off, axis=1) == pytest.approx(0.0, abs=1e-9), "the same at every hour, observed ones too"
    # 400 members know a spread to 4 % or so; three times that.
    assert off[:, 0].std() == pytest.approx(MODEL.site_air_c, rel=0.12)
    colder = BEFORE.after(Shown((-0.75,) * 5, (0.0,) * 5, ((0.0,) * 5, ())), MODEL)
    assert at_site(members, colder).air_temp_c.mean() < members.air_temp_c.mean() - 0.25
    # Colder air with the same vapour is damper.
    assert at_site(members, replace(colder, vapour_frac=Belief(0, 0))).rel_humidity_pct.mean() > members.rel_humidity_pct.mean()
    assert colder.surfaces_k[0].spread < BEFORE.surfaces_k[0].spread
    assert colder.surfaces_k[1] == BEFORE.surfaces_k[1], "a wall that nobody measured"

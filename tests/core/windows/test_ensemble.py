"""Members, their errors, and whether chances come true: against the very model they were drawn from, and a simulated season."""

from dataclasses import replace

import numpy as np
import pytest
from scripts import calibrate

from amber_gable.core.air.forecast_errors import Held, fit, reliability
from amber_gable.core.air.members import members_of
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import HouseRules, SiteLimits, find_windows
from amber_gable.core.windows.chances import chances
from amber_gable.core.windows.limits import check_limits, film_checks
from amber_gable.core.windows.starts import permitted
from tests.support.weathers import HERON_FERRY, september, steady

KNOWN = shipped()
MODEL = KNOWN.forecast_errors
PAINT = KNOWN.products["rivermark-exterior-satin"]
RULES = HouseRules(9.0, 30.0, "surface-cap", KNOWN.limits, KNOWN.tight, SiteLimits())
WALL = ClimateSurface("wall", 0, 90, 0.5, 12.0, 0.4)


def chance_in(weather, model=MODEL, issued_h=24, product=PAINT, **more):
    issued = float(weather.epoch_s[issued_h])
    return chances(HERON_FERRY, weather, issued, [WALL], [product], [RULES], [2.0], model, **more).chance_frac[0]


def test_members_stray_as_far_as_the_model_says_and_not_before_the_issue():
    weather = steady(240, 18.0, 55.0, 3.0, 50.0)
    found = members_of(weather, float(weather.epoch_s[48]), MODEL, 400)
    assert (found.air_temp_c[:, :49] == 18).all()
    assert found.rel_humidity_pct[:, :49] == pytest.approx(55)
    for lead in (24, 96, 180):
        spread = found.air_temp_c[:, 48 + lead].std()
        # 400 members know a spread to 4 % or so; three times that.
        assert spread == pytest.approx(MODEL.air_c + MODEL.air_c_per_h * lead, rel=0.12)
    after = (found.air_temp_c - 18)[:, 60:]
    held = np.corrcoef(after[:, :-1].ravel(), after[:, 1:].ravel())[0, 1]
    assert held == pytest.approx(MODEL.hold, abs=0.02)
    assert np.array_equal(found.air_temp_c, members_of(weather, float(weather.epoch_s[48]), MODEL, 400).air_temp_c), "the same seed"
    assert not np.array_equal(found.air_temp_c, members_of(weather, float(weather.epoch_s[48]), MODEL, 400, seed=1).air_temp_c)


@pytest.mark.parametrize("chance", [0.0, 20.0, 70.0, 100.0])
def test_it_rains_in_as_many_members_as_its_chance_says(chance):
    weather = steady(200, rain_mm=np.zeros(200), rain_probability_pct=np.full(200, chance))
    rain = members_of(weather, float(weather.epoch_s[0]), MODEL.model_copy(update={"rain_hold": 0.5}), 200).rain_mm[:, 1:]
    assert (rain > 0.1).mean() == pytest.approx(chance / 100, abs=0.02)


def test_what_is_asked_of_a_film_alone_is_what_all_limits_say_of_it():
    """One list is short so that a hundred courses cost less; in showers, dew and cold it says the same, to the last digit."""
    showers = np.where(np.arange(120) % 17 == 5, 0.8, 0.0)
    weather = replace(september(120, mean_c=13, swing_c=7, dew_c=9), rain_mm=showers, rain_probability_pct=np.where(showers > 0, 70.0, 5.0))
    dark = replace(WALL, solar_absorptance=0.95)
    climate = simulate(HERON_FERRY, weather, [WALL, dark])
    short, whole = film_checks(climate, PAINT, RULES), check_limits(climate, PAINT, RULES)
    named = {(c.rule, c.aspect) for c in short}
    assert {rule for rule, _ in named} == {"wet", "rain", "young-film"}
    same = [c for c in whole if (c.rule, c.aspect) in named]
    assert len(same) == len(short)
    for one, other in zip(short, same, strict=True):
        assert np.array_equal(one.margin, other.margin), one.rule
    assert any((c.margin < 0).any() and (c.margin >= 0).any() for c in short)


def test_what_is_sure_is_sure():
    dry = september(120, mean_c=22, swing_c=4, dew_c=8)
    fine = chance_in(dry)
    noon = [24 * d + 19 for d in (1, 2)]
    assert (fine[noon] > 0.95).all()
    pouring = chance_in(replace(dry, rain_mm=np.full(120, 2.0), rain_probability_pct=np.full(120, 100.0)))
    assert (pouring[np.isfinite(pouring)] == 0).all()
    assert np.isnan(fine[-10:]).all(), "what must be known lies beyond the data"


def test_without_errors_a_chance_is_yes_or_no_and_with_them_it_lies_between():
    exact = MODEL.model_copy(update={n: 0.0 for n in MODEL.model_fields_set if n.endswith(("_c", "_h", "_frac", "_pct"))})
    weather = september(120, mean_c=14, swing_c=6, dew_c=8)
    sure, real = chance_in(weather, exact), chance_in(weather)
    known = np.isfinite(sure)
    # A quarter where what breaks in the last hour breaks after the last stroke in one of four quarter-hours.
    assert set(np.unique(sure[known])) <= {0.0, 0.25, 1.0}
    assert ((real[known] > 0.05) & (real[known] < 0.95)).sum() > 5
    assert np.array_equal(chance_in(weather), real, equal_nan=True), "the same question, the same answer"


def test_a_stricter_label_never_raises_a_chance():
    weather = september(120, mean_c=16)
    loose, strict = (
        chance_in(weather),
        chance_in(weather, product=PAINT.model_copy(update={"min_dew_margin_c": PAINT.min_dew_margin_c + 2})),
    )
    known = np.isfinite(loose)
    assert (strict[known] <= loose[known]).all()


@pytest.mark.takes(6)
def test_the_fit_finds_the_model_that_errors_were_drawn_from():
    base = steady(241, 15.0, 60.0, 3.0, 50.0, rain_mm=np.zeros(241), rain_probability_pct=np.zeros(241))
    issued = float(base.epoch_s[0])
    drawn = members_of(base, issued, MODEL, 40, seed=3)
    names = ("air_temp_c", "rel_humidity_pct", "wind_m_s", "cloud_pct")
    pairs = [Held(base, replace(base, **{n: getattr(drawn, n)[i] for n in names}), issued) for i in range(40)]
    found = fit(pairs, MODEL, "test")
    for lead in (12, 96, 200):
        for name in ("air_c", "wind_frac"):
            said, true = (getattr(m, name) + getattr(m, f"{name}_per_h") * lead for m in (found, MODEL))
            assert said == pytest.approx(true, rel=0.2)
    assert found.hold == pytest.approx(MODEL.hold, abs=0.03)
    assert found.air_dew == pytest.approx(MODEL.air_dew, abs=0.12)


def test_reliability_by_hand():
    found = reliability(np.array([0.05, 0.72, 0.78, 0.74, 1.0]), np.array([False, True, True, False, True]))
    assert found.count.tolist() == [1, 0, 0, 0, 0, 0, 0, 3, 0, 1]
    assert found.said_frac[7] == pytest.approx(0.7467, abs=1e-3)
    assert found.came_frac[7] == pytest.approx(2 / 3)
    assert found.miss_frac == pytest.approx((0.05 + 3 * (0.74667 - 2 / 3) + 0) / 5, abs=1e-3)


@pytest.mark.takes(5)
@pytest.mark.parametrize("truth", [calibrate.Truth(), calibrate.COLDER])
def test_over_a_part_of_a_season_chances_come_true_about_as_often_as_they_say(truth):
    # A twentieth of what `make calibrate` asks for; its plot and figures are in docs/calibration.md.
    some = replace(calibrate.SUMMER, every=48)
    said, held = calibrate.checked(MODEL, some, (301, 302), truth, 5 if truth.air_k else 0)
    assert len(said) > 1000
    found = reliability(said, held)
    assert found.miss_frac < 0.08
    assert found.came_frac[9] > 0.8
    assert found.came_frac[0] < 0.1


def test_chances_of_what_is_drawn_from_the_members_themselves_come_true():
    """The truth is one more member: whatever the hours between its instants hide, a chance comes true as often as it says."""
    model = MODEL.model_copy(update={"site_air_c": 0.0, "site_vapour_frac": 0.0, "site_wind_frac": 0.0})
    said, held = [], []
    for day in range(6):
        weather = september(120, mean_c=12 + 1.5 * day, swing_c=6, dew_c=8 + day / 2)
        issued = float(weather.epoch_s[24])
        found = chances(HERON_FERRY, weather, issued, [WALL], [PAINT], [RULES], [2.0], model, seed=day)
        drawn = members_of(weather, issued, model, 30, seed=1000 + day)
        for k in range(30):
            names = ("air_temp_c", "rel_humidity_pct", "wind_m_s", "wind_gust_m_s", "cloud_pct")
            came = replace(weather, **{n: getattr(drawn, n)[k] for n in names})
            states = find_windows(simulate(HERON_FERRY, came, [WALL]), PAINT, RULES).states
            known = np.isfinite(found.chance_frac[0])
            said.append(found.chance_frac[0][known])
            held.append(permitted(states, 8)[0, ::4][: len(known)][known])
    found = reliability(np.concatenate(said), np.concatenate(held))
    # Six courses of five days: what thirty draws of each know of a mean.
    assert np.concatenate(said).mean() == pytest.approx(np.concatenate(held).mean(), abs=0.015)
    assert found.miss_frac < 0.03

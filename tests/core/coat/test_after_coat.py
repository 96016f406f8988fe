"""After a coat: stages by the label, the film by hand, what spoils it first; and the windows of steps that are no coat."""

from dataclasses import replace

import numpy as np
import pytest

from amber_gable.core.coat.after_coat import after_coat, film_um
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import SHUT, HouseRules, SiteLimits, find_windows
from amber_gable.core.windows.steps import check_step, ready_after, step_windows
from tests.support.weathers import HERON_FERRY, september, steady

KNOWN = shipped()
PAINT = KNOWN.products["rivermark-exterior-satin"]
RULES = HouseRules(9.0, 30.0, "surface-cap", KNOWN.limits, KNOWN.tight, SiteLimits())
WALL = ClimateSurface("wall", 180, 90, 0.5, 12.0, 0.4)
STEPS = KNOWN.step_weather


def climate_in(air_c=25.0, humidity=50.0, hours=240, **more):
    # Overcast, so that the wall stays near the air.
    return simulate(HERON_FERRY, steady(hours, air_c, humidity, 1.0, 100.0, **more), [WALL])


def test_at_the_labels_own_weather_stages_come_at_the_labels_hours():
    climate = climate_in()
    climate = replace(climate, surface_temp_c=np.full_like(climate.surface_temp_c, 25.0))
    found = {s.name: s.at for s in after_coat(climate, 0, PAINT, 40).stages}
    assert (found["touch"] - 40) / 4 == pytest.approx(PAINT.touch_h, abs=0.01)
    assert (found["recoat"] - 40) / 4 == pytest.approx(PAINT.recoat_h, abs=0.01)
    assert (found["rain-ready"] - 40) / 4 == pytest.approx(PAINT.rain_free_h, abs=0.01)
    assert found["cured"] is None, "two weeks lie beyond ten days"


def test_cold_and_damp_slow_every_stage():
    slow, quick = ({s.name: s.at for s in after_coat(climate_in(*w), 0, PAINT, 40).stages} for w in ((10.0, 80.0), (25.0, 50.0)))
    assert all(slow[name] > quick[name] for name in ("touch", "recoat", "rain-ready"))


def test_the_film_thins_from_wet_to_dry():
    # 40 µm of 40 % solids is put on 100 µm wet; at touch-dry a twentieth of the 60 µm of water is left.
    assert film_um(100, 40, np.array([0.0, 1.0, 50.0]), 1.0) == pytest.approx([100, 43, 40])
    found = after_coat(climate_in(), 0, PAINT, 40)
    assert found.wet_film_um == pytest.approx(PAINT.dry_film_um / PAINT.volume_solids_pct * 100)
    assert np.isnan(found.film_um[:40]).all()
    assert (np.diff(found.film_um[40:]) <= 0).all()


@pytest.mark.parametrize(
    ("kind", "weather"),
    [
        ("rained-on", steady(120, 20.0, 70.0, 1.0, 100.0, rain_mm=np.where(np.arange(120) == 12, 2.0, 0.0))),
        ("dewed-on", steady(120, 15.0, 97.0, 0.3)),
        ("frozen", steady(120, -3.0, 60.0, 1.0, 100.0)),
    ],
)
def test_what_spoils_a_fresh_coat_is_named_with_its_moment(kind, weather):
    climate = simulate(HERON_FERRY, weather, [WALL])
    found = {d.kind: d for d in after_coat(climate, 0, PAINT, 44).damages}
    assert kind in found
    if kind == "rained-on":
        assert found[kind].at == 48
        assert found[kind].value == 2
        assert not after_coat(climate, 0, PAINT, 200).damages, "after the shower nothing is left to harm it"


def test_a_hot_dark_wall_is_too_hot_while_the_edge_is_open():
    hot = simulate(HERON_FERRY, september(48, mean_c=30, dew_c=8), [replace(WALL, solar_absorptance=0.95)])
    noon = int(np.argmax(hot.surface_temp_c[0]))
    assert after_coat(hot, 0, PAINT, noon).damages[0].kind == "too-hot"


def test_tape_wants_a_dry_wall_and_water_a_night_without_frost():
    dewy = simulate(HERON_FERRY, september(96), [WALL])
    wet = dewy.wet[0] & dewy.sky.is_day
    assert wet.any()
    masked, washed = (step_windows(dewy, STEPS[name], RULES).states[0] for name in ("mask", "wash"))
    assert (masked[wet] == SHUT).all()
    assert (washed[wet & (np.arange(len(wet)) < 4 * 60)] != SHUT).any()
    frosty = simulate(HERON_FERRY, september(96, mean_c=6, swing_c=8, dew_c=-4), [WALL])
    afternoon = 4 * 20
    assert "frost" in {r.rule for r in step_windows(frosty, STEPS["wash"], RULES).reasons(0, afternoon) if r.broken}
    assert "frost" not in {r.rule for r in step_windows(frosty, STEPS["mask"], RULES).reasons(0, afternoon) if r.broken}


@pytest.mark.parametrize("name", sorted(STEPS))
def test_a_stricter_step_never_opens_an_hour(name):
    climate = simulate(HERON_FERRY, september(96, rain_mm=np.where(np.arange(96) == 40, 1.0, 0.0)), [WALL])
    row = STEPS[name]
    stricter = row.model_copy(
        update={"min_air_temp_c": row.min_air_temp_c + 4, "rain_free_h": row.rain_free_h + 3, "frost_free_h": row.frost_free_h + 6}
    )
    loose, strict = (step_windows(climate, r, RULES).states for r in (row, stricter))
    assert (strict <= loose).all()
    assert all(c.margin.shape[-1] == loose.shape[-1] for c in check_step(climate, row, RULES))


def test_putty_skins_in_a_week_and_slower_in_the_cold():
    warm, cold = (ready_after(climate_in(air), STEPS["putty"])[0, 0] / 96 for air in (25.0, 15.0))
    assert 7 <= warm <= 8.5
    assert np.isinf(cold), "twice as long: beyond ten days"


def test_a_sprayer_minds_what_lies_downwind():
    def rule_at(wind, from_deg, bearings, all_round=False):
        climate = simulate(HERON_FERRY, steady(96, 20.0, 55.0, wind, wind_from_deg=np.full(96, from_deg)), [WALL])
        rules = replace(RULES, max_wind_m_s=9.0, site=SiteLimits(KNOWN.spray, bearings, all_round))
        check = next(c for c in find_windows(climate, PAINT, rules).checks if c.rule == "wind")
        return check.limit_of(0, 60), bool(check.margin[0, 60] < 0), bool(check.is_tight[0, 60])

    # Boats to the east: a west wind carries to them, an east wind does not (handbook 3: 4.5 and 6.7 m/s, tight from 2.5).
    assert rule_at(5.0, 270.0, (90.0,)) == (4.5, True, True)
    assert rule_at(5.0, 90.0, (90.0,)) == (6.7, False, False)
    assert rule_at(3.0, 250.0, (90.0,)) == (4.5, False, True)
    assert rule_at(5.0, 90.0, (), True) == (4.5, True, True), "nobody knows where it stands"
    assert rule_at(7.0, 90.0, ()) == (6.7, True, True)


def test_deep_tints_are_tight_before_dew_and_light_ones_are_not():
    climate = simulate(HERON_FERRY, september(72), [replace(WALL, solar_absorptance=a) for a in (0.9, 0.4)])
    found = find_windows(climate, PAINT, RULES)
    midday = 4 * 19
    rules = [{r.rule for r in found.reasons(row, midday)} for row in (0, 1)]
    assert "leaching" in rules[0]
    assert "leaching" not in rules[1]
    assert "leaching" not in {r.rule for r in find_windows(climate, PAINT.model_copy(update={"kind": "alkyd"}), RULES).reasons(0, midday)}
    # Without what a job asks more, the engine's meanings are those of reckonings.md.
    assert not {"leaching", "sun-soon", "moisture"} & {c.rule for c in find_windows(climate, PAINT, replace(RULES, site=None)).checks}

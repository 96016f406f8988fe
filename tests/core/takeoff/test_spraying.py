"""Spray set-up and ladder plans: the handbook's formulas by hand, and what a plan respects."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.takeoff.spraying import choose_tip, flow_l_per_min, pump_moves, stroke, tip_of, tips_needed
from amber_gable.core.takeoff.ways_up import Wall, compare, hire_of, ladder_sets, moving_h, plan
from amber_gable.errors import FieldErrors


def test_a_tip_reads_as_the_handbook_says():
    tip = tip_of("517")
    # 10 in of fan, 17 thousandths, 0.31 US gal/min at 2,000 psi.
    assert (tip.fan_width_m, tip.orifice_mm) == pytest.approx((0.254, 0.4318))
    assert flow_l_per_min(tip, 2000) == pytest.approx(0.31 * 3.785411784)
    # Twice the bore lets out four times as much, four times the pressure twice.
    assert flow_l_per_min(tip_of("534"), 2000) == pytest.approx(4 * flow_l_per_min(tip, 2000))
    assert flow_l_per_min(tip, 500) == pytest.approx(flow_l_per_min(tip, 2000) / 2)


@given(st.sampled_from(["311", "517", "621"]), st.floats(500, 3500), st.floats(20, 95), st.floats(0, 90), st.floats(30, 400))
def test_the_stroke_lays_down_what_it_lets_out(code, pressure, efficiency, overlap, film):
    tip = tip_of(code)
    found = stroke(tip, pressure, efficiency, overlap, film)
    # Area a minute x film = what lands; passes of the fan, less the overlap, cover that area.
    assert found.area_m2_per_min * film / 1000 == pytest.approx(found.flow_l_per_min * efficiency / 100)
    assert found.gun_speed_m_per_s * 60 * tip.fan_width_m * (1 - overlap / 100) == pytest.approx(found.area_m2_per_min)


@pytest.mark.parametrize("code", ["", "17", "5170", "5x7", "017", "500", "²17", "506"])
def test_what_is_no_tip_is_refused(code):
    with pytest.raises(FieldErrors, match="three digits"):
        tip_of(code)


def test_the_tip_follows_material_piece_and_pump():
    wall, why = choose_tip("515 to 519", 3.0, 2.0, 2000)
    assert wall.code == "519"
    assert "2.0 L/min" in why[-1]
    # A shutter 0.38 m wide takes a fan that is no wider: 14 in would be 0.36 m, five digits are the most.
    assert choose_tip("311 to 413", 0.38, 2.0, 2000)[0].code == "513"
    assert choose_tip("311 to 413", 0.12, 2.0, 2000)[0].code == "213"
    assert choose_tip("515 to 519", 3.0, 1.0, 2000)[0].code == "515"
    assert choose_tip("brush", 3.0, 2.0, 2000)[0] is None
    assert [tips_needed(v, 110) for v in (0, 50, 110, 111, 330)] == [0, 1, 1, 2, 3]
    assert [pump_moves([10, 20, 10], 30), pump_moves([40, 40, 40], 30)] == [0, 1]


def test_sets_of_a_ladder():
    assert [ladder_sets(11.6, 0.6), ladder_sets(11.6, 0.6, 0.6), ladder_sets(12.0, 0.6), ladder_sets(6.0, 0.6, 0.9)] == [10, 5, 10, 2]


def wall(knowledge, name: str = "South", **changes) -> Wall:
    base = {"key": name, "name": name, "left_m": 0.0, "width_m": 9.6, "top_m": 6.0, "access": "ladder",
        "ground": knowledge.grounds["paved"],
            "passes": 3, "high_h": 20.0}  # fmt: skip
    return Wall(**(base | changes))


def test_a_ladder_plan_respects_wires_plants_ground_slope_and_windows(knowledge):
    walls = [
        wall(knowledge, "North", line_distance_m=2.0),
        wall(knowledge, "South", plants=("Lilac",), ground=knowledge.grounds["planted"], slope_pct=12.0, openings=((1.0, 1.8),)),
    ]
    north, south = plan(walls, knowledge.access, knowledge.practice)
    assert "3 m" in north.barred
    assert [s.number for s in (*north.sets, *south.sets)] == list(range(1, 9)), "numbered round the house"
    said = " ".join(south.minds)
    assert "lilac: cut back" in said
    assert "boards under the feet" in said
    assert "falls 12 %" in said
    # The first of four sets would stand at 1.2 m, before the window; it moves beside it.
    assert south.sets[0].x_m == pytest.approx(0.7)
    assert [s.x_m for s in south.sets[1:]] == pytest.approx([3.6, 6.0, 8.4])


def test_ways_up_are_compared_by_days_and_cost(knowledge):
    ways = compare([wall(knowledge)], knowledge.access, knowledge.practice, 2, 55.0)
    by = {way.access: way for way in ways}
    # 4 sets, 3 passes, 10 min each; 20 h above the first storey x 1.3.
    ladder = by["ladder"]
    assert (ladder.sets, ladder.moving_h, ladder.high_h) == (4, pytest.approx(12 * 0.1667), pytest.approx(26.0))
    assert (ladder.hire, ladder.cost) == (0.0, pytest.approx((12 * 0.1667 + 26.0) * 55))
    # A tower: 3 sets of half an hour, 2 h to put up; 23 + 4.5 + 2 h for two at 6.75 h a day: 3 days at 48 and 90 once.
    tower = by["tower"]
    assert (tower.hire_days, tower.hire, tower.lead_days) == (3, 3 * 48 + 90, 14)
    assert by["step-ladder"].faults, "reaches 3 m only"
    assert ways[-1].access == "step-ladder", "what does not serve comes last"
    soft = compare([wall(knowledge, ground=knowledge.grounds["planted"])], knowledge.access, knowledge.practice, 2, 55.0)
    assert not next(w for w in soft if w.access == "tower").serves


def test_moving_and_hire_count_only_what_is_there(knowledge):
    plans = plan([wall(knowledge, access="ground"), wall(knowledge, "W", access="tower")], knowledge.access, knowledge.practice)
    assert set(hire_of(plans, knowledge.access, knowledge.practice, 2)) == {"tower"}
    # 3 sets x 0.5 h x 3 passes, and 2 h once.
    assert moving_h(plans, knowledge.access, knowledge.practice) == pytest.approx(6.5)

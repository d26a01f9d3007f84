"""Quick answers: the numbers of the named calculations, and drawings that are made of the same vectors."""

import math
from datetime import date
from decimal import Decimal

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from zesty_lark.core.angles_slots.answers import (
    edge_answer,
    mitre_answer,
    radius_answer,
    roll_answer,
    sine_answer,
    slot_answer,
    two_angles_answer,
)
from zesty_lark.core.angles_slots.block_sets import BlockSet
from zesty_lark.core.angles_slots.compound import Normal, face_normal, hinges, mitre, mitre_steps
from zesty_lark.core.angles_slots.drawn import (
    Outline,
    arc_drawn,
    break_drawn,
    corner_roll_drawn,
    mitre_drawn,
    sine_drawn,
    slot_drawn,
    turned,
    two_angles_drawn,
    vee_roll_drawn,
    wall_after_tilt,
)
from zesty_lark.core.angles_slots.fence_answers import fence_answer, rails_answer
from zesty_lark.core.angles_slots.fences import fence_plan, rails_level
from zesty_lark.core.angles_slots.rolls import roll_corner, roll_vee
from zesty_lark.core.angles_slots.sine import sine_checked, sine_setting
from zesty_lark.core.angles_slots.slot_ways import slot_ways
from zesty_lark.core.calc import answer
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import SMALLEST_MM

D = Decimal
ANGLES = st.floats(1, 80)


def by(drawn: list[Outline], role: str, number: int = 0) -> list[tuple[float, float]]:
    return [each for each in drawn if each.role == role][number].points


def slope(one: tuple[float, float], other: tuple[float, float]) -> float:
    return math.degrees(math.atan2(other[1] - one[1], other[0] - one[0]))


@given(angle=st.floats(3, 60), centres=st.sampled_from([100.0, 127.0, 254.0]))
def test_a_sine_plate_stands_at_the_angle_its_stack_makes(angle: float, centres: float) -> None:
    made = sine_setting(centres_mm=centres, angle_deg=angle, set="metric88")
    assert made.set_deg == pytest.approx(angle, abs=0.003) and abs(made.error_arcsec) < 10
    drawn = sine_drawn(centres, made.set_deg, made.stack_mm)
    near, far = by(drawn, "tool", 1)[0], by(drawn, "tool", 2)[0]
    assert math.dist(near, far) == pytest.approx(centres) and slope(near, far) == pytest.approx(made.set_deg)
    plate = by(drawn, "tool")
    assert slope(plate[0], plate[1]) == pytest.approx(made.set_deg)
    stack = by(drawn, "stack")
    assert max(y for _, y in stack) == pytest.approx(made.stack_mm)
    assert far[1] - max(y for _, y in stack) == pytest.approx(centres * 0.1), "the roll lies on the stack"


def test_a_stack_honours_what_is_missing_and_worn_and_sets_the_complement_over_sixty() -> None:
    own = BlockSet("J2", "in", "inch81", D("0.1"), date(2026, 1, 1), date(2027, 1, 1), missing="1", worn="0.103")
    answer = sine_answer(angle_deg=17.5, centres_mm=127, blocks=own)
    wrung = dict(answer.told)["Wrung, large to small"].split()
    assert "0.103" not in wrung and "1" not in wrung and wrung[-1] == "in"
    steep = sine_setting(centres_mm=127, angle_deg=72.5, set="metric88")
    assert steep.from_other_side and steep.height_mm == pytest.approx(127 * math.sin(math.radians(17.5)))
    assert steep.set_deg == pytest.approx(72.5, abs=0.001)
    assert sine_setting(centres_mm=127, angle_deg=50, set="metric88").complement_mm == pytest.approx(
        127 * math.sin(math.radians(40))
    )
    assert "Over 60°" in sine_answer(angle_deg=72.5, centres_mm=127, blocks=None).cautions[0]
    for wrong in (0.0, 90.0):
        with pytest.raises(InputError, match="over 0°"):
            sine_answer(angle_deg=wrong, centres_mm=127, blocks=None)


def test_what_the_stack_is_off_is_told_in_micrometres_and_seconds_of_arc() -> None:
    made = sine_setting(centres_mm=127, angle_deg=17.5, unit="in", blocks=[D("1.5"), D("0.003")])
    assert made.stack.sum == D("1.503") and made.stack_mm == pytest.approx(38.1762)
    assert made.error_um == pytest.approx(1000 * (38.1762 - 127 * math.sin(math.radians(17.5))))
    exact = math.degrees(math.asin(38.1762 / 127)) - 17.5
    assert made.error_arcsec == pytest.approx(3600 * exact, rel=1e-3) and made.error_um < 0
    assert made.set_deg == pytest.approx(17.5 + exact) and not made.from_other_side
    with pytest.raises(InputError, match="reach lower"):
        sine_setting(centres_mm=100, angle_deg=30, blocks=[D("120")])


def test_the_part_lies_in_the_middle_of_the_plate_and_the_table_is_level() -> None:
    drawn = sine_drawn(127.0, 0.0, 0.0)
    part, plate = by(drawn, "part"), by(drawn, "tool")
    assert part[0][0] - plate[0][0] == pytest.approx(plate[1][0] - part[1][0])
    assert part[0][1] == pytest.approx(plate[2][1]) and part[2][1] - part[1][1] == pytest.approx(25)
    assert [y for _, y in by(drawn, "table")] == [0.0, 0.0]
    tilted = sine_drawn(127.0, 30.0, 63.5)
    level = by(tilted, "cut")
    assert level[0][1] == level[1][1] < max(y for _, y in by(tilted, "part"))


def test_a_sweep_over_half_a_turn_is_drawn_for_its_half() -> None:
    whole = radius_answer(radius_mm=8, sweep_deg=360, allow_um=2, centre_mm=75)
    half = radius_answer(radius_mm=8, sweep_deg=180, allow_um=2, centre_mm=75)
    one, other = (len(by(each.drawings[0][1], "part")) for each in (whole, half))
    assert abs(one - other) <= 1


@given(along=st.floats(-60, 60), across=st.floats(-60, 60))
def test_two_slopes_make_the_normal_and_the_hinges_bring_the_face_level(along: float, across: float) -> None:
    made = face_normal(along_deg=along, across_deg=across)
    assert made.nx**2 + made.ny**2 + made.nz**2 == pytest.approx(1)
    assert -made.nx / made.nz == pytest.approx(math.tan(math.radians(along)))
    set_up = hinges(nx=made.nx, ny=made.ny, nz=made.nz, base_centres_mm=100, top_centres_mm=100)
    x, y, z = turned((made.nx, made.ny, made.nz), set_up.base_deg, set_up.top_deg)
    assert (x, y, z) == pytest.approx((0, 0, 1), abs=1e-9)


def test_a_tilt_and_its_direction_are_the_same_face_and_half_of_both_is_refused() -> None:
    tilt = face_normal(tilt_deg=10, direction_deg=0)
    slopes = face_normal(along_deg=-10, across_deg=0)
    assert (tilt.nx, tilt.ny, tilt.nz) == pytest.approx((slopes.nx, slopes.ny, slopes.nz))
    for given_ in ({"along_deg": 5.0}, {"tilt_deg": 5.0}, {}, {"along_deg": 1.0, "across_deg": 1.0, "tilt_deg": 1.0}):
        with pytest.raises(InputError, match="must be given"):
            face_normal(**given_)
    with pytest.raises(InputError, match="look up"):
        two_angles_answer(normal=Normal(0, 0, -1), base_mm=100, top_mm=100)


def test_the_turned_face_is_drawn_level_and_the_untouched_one_is_not() -> None:
    def level(turn: bool) -> bool:
        """Seen from the front right a level face has its two pairs of edges at 30° up and down."""
        face = by(two_angles_drawn(-0.14, -0.09, 0.98, turn=turn), "face")
        return slope(face[0], face[1]) == pytest.approx(-30, abs=0.6)

    assert level(turn=True) and not level(turn=False)
    answer = two_angles_answer(normal=face_normal(along_deg=8, across_deg=5), base_mm=127, top_mm=127)
    told = dict(answer.told)
    assert "front goes up" in told["Base hinge"] and "left goes up" in told["Top hinge"]


@given(floor=ANGLES, wall=ANGLES)
def test_after_tilt_and_turn_the_wall_lies_along_the_travel_and_leans_as_the_wheel(floor: float, wall: float) -> None:
    made = mitre(floor_deg=floor, wall_deg=wall)
    nx, ny, nz = wall_after_tilt(floor, wall)
    assert math.degrees(math.atan2(-nx, ny)) == pytest.approx(made.rotate_deg)
    assert math.degrees(math.atan2(nz, math.hypot(nx, ny))) == pytest.approx(made.wheel_deg)
    before, after = mitre_drawn(floor, wall)
    assert slope(*by(before, "face")) == pytest.approx(wall)
    assert slope(*by(after, "face")) == pytest.approx(0, abs=1e-6)
    wheel = by(after, "wheel")
    assert 90 - slope(wheel[0], wheel[1]) == pytest.approx(made.wheel_deg)


def test_the_cuts_of_a_mitre_come_in_their_order() -> None:
    steps = mitre_steps(mitre(floor_deg=22, wall_deg=14))
    at = [
        next(n for n, each in enumerate(steps) if word in each) for word in ("Tilt", "Turn", "Plunge", "Feed", "Walk")
    ]
    assert at == sorted(at) and "5°11'59\"" in steps[2] and mitre_answer(floor_deg=22, wall_deg=14).steps == steps


@given(diameter=st.floats(1, 40), angle=st.floats(15, 165))
def test_a_roll_is_drawn_touching_both_faces(diameter: float, angle: float) -> None:
    corner, (x, y) = corner_roll_drawn(diameter, angle), (0.0, 0.0)
    x, y = by(corner, "tool")[0]
    told = roll_corner(diameter_mm=diameter, included_deg=angle)
    assert x == pytest.approx(told.from_vertex_along_mm) and x + diameter / 2 == pytest.approx(told.reading_mm)
    other = by(corner, "part")[-1]
    away = abs(x * other[1] - y * other[0]) / math.hypot(*other)
    assert y == pytest.approx(diameter / 2) and away == pytest.approx(diameter / 2)
    vee = vee_roll_drawn(diameter, angle)
    centre = by(vee, "tool")[0][1]
    assert centre == pytest.approx(roll_vee(diameter_mm=diameter, included_deg=angle).centre_above_vertex_mm)
    left = by(vee, "part")[1]
    assert abs(centre * left[0]) / math.hypot(*left) == pytest.approx(diameter / 2)


def test_what_a_roll_s_reading_lacks_is_left_to_take() -> None:
    told = dict(roll_answer(where="corner", diameter_mm=10, included_deg=90, reading_mm=9.98).told)
    assert told["Left to take"].startswith("+0.02000")
    with pytest.raises(InputError):
        roll_answer(where="vee", diameter_mm=10, included_deg=180, reading_mm=None)


@given(radius=st.floats(1, 50), sweep=st.floats(5, 180), steps=st.integers(1, 90))
def test_flats_of_a_swung_radius_are_tangents_with_peaks_between(radius: float, sweep: float, steps: int) -> None:
    drawn = arc_drawn(radius, sweep, steps)
    peaks = by(drawn, "part")[2:-1]
    out = radius / math.cos(math.radians(sweep / steps) / 2)
    assert len(peaks) == steps and all(math.hypot(*peak) == pytest.approx(out) for peak in peaks)
    for one, other in zip(peaks, peaks[1:], strict=False):
        middle = ((one[0] + other[0]) / 2, (one[1] + other[1]) / 2)
        assert math.hypot(*middle) == pytest.approx(radius), "a flat touches the true radius"


def test_a_radius_says_the_wheel_s_height_and_an_edge_its_downfeed() -> None:
    radius = radius_answer(radius_mm=8, sweep_deg=90, allow_um=2, centre_mm=75)
    assert radius.figure == "36 steps" and "83.0000 mm" in dict(radius.told)["Wheel's height over the magnet"]
    assert "kick up" in radius.cautions[0]
    edge = edge_answer(flat_mm=0.4)
    assert dict(edge.told)["Off each face"] == "0.2828 mm"
    flat = by(break_drawn(0.2), "part")
    assert math.dist(flat[0], flat[1]) == pytest.approx(0.4)
    with pytest.raises(InputError):
        radius_answer(radius_mm=8, sweep_deg=0, allow_um=2, centre_mm=75)


def slot(right: str = "38.91", left: str = "21.06") -> dict[str, object]:
    return {
        "left_mm": D(left), "right_mm": D(right), "centre_mm": D(30), "width_mm": D(18), "graduation_mm": D("0.002"),
        "depth_mm": 9.0, "wheel_mm": 12.7, "lift_um": 5.0, "span_mm": 100.0, "long_mm": 120.0,
    }  # fmt: skip


def test_a_slot_s_walls_each_have_their_stock_and_both_ways_of_taking_it() -> None:
    answer = slot_answer(**slot())  # type: ignore[arg-type]
    told = dict(answer.told)
    assert told["Left wall"] == "+0.06 mm" and told["Right wall"] == "+0.09 mm" and not answer.stops
    assert len(answer.drawings) == 1 and "6.00 µm of taper along" in told["Dirt in one of two settings"]
    assert "15 × 0.004" in told["Left, wheel's side"] and "0.086 in all" in told["Left, tilted 45°"]
    wall = by(slot_drawn(21.06, 38.91, 30, 18, depth_mm=9), "part")
    assert (wall[4][0], wall[3][0]) == (38.91, 38.91) and wall[5][0] == 21.06


def test_a_slot_that_cannot_be_held_is_said_before_cutting_with_both_outcomes_drawn() -> None:
    answer = slot_answer(**slot(right="39.02"))  # type: ignore[arg-type]
    assert "Decide before cutting" in answer.stops[0]
    assert [title for title, _ in answer.drawings][1:] == ["Kept in width", "Kept in position"]
    width, position = (by(drawn, "cut", 1)[0][0] - by(drawn, "cut")[0][0] for _, drawn in answer.drawings[1:])
    assert width == pytest.approx(18) and position == pytest.approx(18 + 2 * 0.02)
    kept = by(answer.drawings[1][1], "cut", 1)[0][0]
    assert kept == pytest.approx(39.02), "kept in width the lacking wall is the slot's"


def test_tilted_a_downfeed_takes_its_cosine_and_a_thin_wheel_s_springs_ask_for_more_spark_outs() -> None:
    ways = slot_ways(stock_mm=D("0.09"), graduation_mm=D("0.002"), slot_width_mm=17.85, wheel_width_mm=12.7)
    assert ways.tilted.off_wall_mm == pytest.approx(float(ways.tilted.step_mm) * math.sqrt(0.5))
    assert float(ways.tilted.at_dial_mm) * math.sqrt(0.5) >= 0.09 and ways.side.at_dial_mm == D("0.090")
    assert ways.side.spark_passes > ways.tilted.spark_passes and ways.has_room and ways.first_mm == D("0.002")
    assert ways.widest_wheel_mm == pytest.approx(17.65)
    tight = slot_ways(
        stock_mm=D("0.1"), graduation_mm=D("0.002"), slot_width_mm=12, wheel_width_mm=12.7, both_stocks_mm=0.3
    )
    assert not tight.has_room and tight.widest_wheel_mm == pytest.approx(12.1)
    coarse = slot_ways(stock_mm=D("0.09"), graduation_mm=D("0.02"), slot_width_mm=17.85, wheel_width_mm=12.7)
    assert coarse.side.step_mm == D("0.02") and coarse.side.steps == 5 and coarse.side.at_dial_mm == D("0.10")


@given(st.floats(-40, 40), st.integers(2, 20), st.floats(100, 600))
@example(2.00001, 2, 100.0)
def test_a_fence_that_runs_out_straight_is_told_by_its_slope_and_taken_in_the_finest_steps(
    out: float, count: int, length: float
) -> None:
    swept = [out * number / (count - 1) for number in range(count)]
    made = fence_plan(readings_um=swept, length_mm=length, height_mm=6, graduation_mm=D("0.005"))
    assert made.slope_um_100 == pytest.approx(out / length * 100, abs=1e-6)
    assert made.out_um == pytest.approx(abs(out), abs=1e-9)
    assert (
        float(made.stock_mm) >= abs(out) / 1000 + 0.003 - float(SMALLEST_MM)
        and made.stock_mm == made.steps * made.step_mm
    )
    assert float(made.stock_mm - made.step_mm) < abs(out) / 1000 + 0.003
    assert (
        made.spark_passes
        == answer(
            "pass.sparkout_needed", {"step_mm": 0.005, "steps": made.steps, "cut_ratio": 0.28, "allow_mm": 0.0005}
        )["passes"]
    )
    assert made.behind_mm == pytest.approx(6 * math.tan(math.radians(1)))


@given(st.floats(-20, 20), st.floats(-20, 20), st.floats(-20, 20), st.floats(20, 200))
def test_rails_in_one_plane_are_coplanar_and_a_shim_makes_them_level(
    front: float, slope: float, rise: float, span: float
) -> None:
    made = rails_level(
        front_left_um=front, front_right_um=front + slope, back_left_um=front + rise,
        back_right_um=front + rise + slope, span_mm=span, part_width_mm=span,
    )  # fmt: skip
    assert made.coplanar_um == pytest.approx(0, abs=1e-9)
    assert made.shim_um == pytest.approx(abs(rise), abs=1e-9) and made.out_um == pytest.approx(rise, abs=1e-9)
    assert min(made.stock_um) == pytest.approx(3.0)
    twisted = rails_level(
        front_left_um=0, front_right_um=0, back_left_um=0, back_right_um=8, span_mm=60, part_width_mm=60
    )  # fmt: skip
    assert twisted.coplanar_um == 4.0 and twisted.lower == "front"


def test_a_fence_and_rails_are_answered_with_their_drawings() -> None:
    fence = fence_answer(readings_um=[0, 0.8, 1.5, 2.5], length_mm=450, height_mm=6, graduation_mm=D("0.005"))
    assert fence.figure == "0.01 mm" and any("2.50 µm" in words for _, words in fence.told)
    line = by(fence.drawings[0][1], "tool")
    assert line[3][1] - line[0][1] == pytest.approx(2.5 / 1000 * 10_000) and line[3][0] == 450
    rails = rails_answer(ends_um=(0, 0.6, 4.2, 5.0), span_mm=60, width_mm=80)
    assert any("4.30 µm under the front one" in words for _, words in rails.told)
    face = by(rails.drawings[0][1], "face")
    assert face[1][1] - face[0][1] == pytest.approx(4.3 / 1000 * 1000)
    with pytest.raises(InputError):
        fence_answer(readings_um=[1], length_mm=450, height_mm=6, graduation_mm=D("0.005"))


@given(st.floats(5, 45), st.floats(-50, 50))
def test_a_plate_that_was_checked_back_stands_right_once_its_stack_is_changed(angle: float, rise: float) -> None:
    made = sine_checked(centres_mm=127, angle_deg=angle, rise_um=rise, over_mm=100)
    assert made.stands_deg == pytest.approx(angle + math.degrees(math.atan(rise / 1e5)))
    assert made.off_arcsec == pytest.approx((made.stands_deg - angle) * 3600, abs=1e-6)
    stack = 127 * math.sin(math.radians(made.stands_deg)) + made.change_mm
    assert math.degrees(math.asin(stack / 127)) == pytest.approx(angle)
    told = sine_answer(angle_deg=angle, centres_mm=127, blocks=None, rise_um=rise, over_mm=100)
    assert told.told[-1][1] == f"{made.change_mm:+.5f} mm"

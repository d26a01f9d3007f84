"""Measuring: budgets, comparison, squareness, angles, tapers, signals; and that U says what it says."""

import math
import random
from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from zesty_lark.core.angles_slots.block_sets import BlockSet
from zesty_lark.core.angles_slots.blocks import sine_stack
from zesty_lark.core.angles_slots.rolls import roll_corner, roll_vee
from zesty_lark.core.calc import answer
from zesty_lark.core.measure.angles import (
    angle_by_rolls,
    angle_on_sine_plate,
    radius_by_chord,
    radius_by_leaves,
    radius_by_rolls,
    slot_widths,
)
from zesty_lark.core.measure.budget import budget_of
from zesty_lark.core.measure.comparison import Comparison, comparison_budget, wring
from zesty_lark.core.measure.cooling import allowed_rise, cooling_wait, waits_for
from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.measure.signal import SignalError, read_line
from zesty_lark.core.measure.square import by_corners, by_light, by_master, by_reversal
from zesty_lark.core.measure.tapers import Happened, PlacedReading, explain
from zesty_lark.core.measure.thickness import Gauge, form_budget, size_budget, temperature_u
from zesty_lark.core.part.sizes import Reading as SizeReading
from zesty_lark.core.part.sizes import corrected, judge_zone, verdict
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.steel import STEEL_EXPANSION

D = Decimal
DAY = date(2026, 11, 26)
MIC = Gauge(D("0.001"), D("0.001"), D("0.0008"), D("0.0004"))
LEVER = Gauge(D("0.0001"), D("0.0002"), D("0.0002"), D("0.0001"))
SET = {"calibrated_on": DAY, "due_on": date(2027, 11, 26)}


def gauge(**more: object) -> Instrument:
    given: dict[str, object] = {
        "name": "L1",
        "unit": "mm",
        "least_mm": D(0),
        "most_mm": D("0.2"),
        "resolution_mm": D("0.0001"),
        "error_limit_mm": D("0.0002"),
        "calibration_u_mm": D("0.0002"),
        "repeatability_mm": D("0.0001"),
        "reads": "deviations",
    }
    return Instrument(**(given | SET | more))  # type: ignore[arg-type]


def test_a_budget_adds_up_and_its_largest_is_named_first() -> None:
    found = budget_of([("resolution", 0.3), ("temperature", 0.4), ("master", 0.0)])
    assert found.expanded_mm == D("0.001") and [contribution.source for contribution in found.contributions] == [
        "temperature",
        "resolution",
    ]
    assert sum(each.share for each in found.contributions) == pytest.approx(1)
    assert found.without_largest_um == pytest.approx(0.6) and "temperature" in found.largest.shrinks
    with pytest.raises(ValueError, match="uncertainty"):
        budget_of([("plate", 0.0)])


def test_a_size_s_budget_by_hand() -> None:
    found = size_budget(MIC, 22.0, temperature_u_c=0.5)
    by_hand = 2 * math.sqrt(
        (0.5 / 3**0.5) ** 2 + (1 / 3**0.5) ** 2 + 0.4**2 + 0.4**2 + (22 * STEEL_EXPANSION * 0.5 * 1000) ** 2
    )
    assert float(found.expanded_mm) * 1000 == pytest.approx(by_hand, abs=0.01)
    again = size_budget(MIC, 22.0, readings_each=4, temperature_u_c=0.5)
    assert again.expanded_mm < found.expanded_mm
    assert form_budget(MIC, plate_um=2.0).expanded_mm > form_budget(MIC).expanded_mm


METRIC = BlockSet(name="J1", unit="mm", set_name="metric88", u_um=D("0.12"), **SET)  # type: ignore[arg-type]


def test_a_stack_is_wrung_from_what_is_neither_missing_nor_worn() -> None:
    whole = wring(D("22.005"), METRIC)
    assert (
        whole.off_mm == 0 and whole.sum_mm == D("22.005") and list(whole.blocks) == sorted(whole.blocks, reverse=True)
    )
    without = BlockSet(
        name="J1",
        unit="mm",
        set_name="metric88",
        u_um=D("0.12"),
        missing="1.005",
        worn="10 20",
        **SET,  # type: ignore[arg-type]
    )
    other = wring(D("22.005"), without)
    assert not {D("1.005"), D(10), D(20)} & set(other.blocks) and other.off_mm == 0
    assert other.u_um > whole.u_um, "more blocks, more doubt"
    inch = BlockSet(name="J2", unit="in", set_name="inch81", u_um=D("0.12"), **SET)  # type: ignore[arg-type]
    assert wring(D("12.7"), inch).blocks == (D("0.5"),) and wring(D("12.7"), inch).sum_mm == D("12.7")


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"missing": "1.0055"}, "no block of 1.0055"),
        ({"worn": "ten"}, "no size of a block"),
        ({"set_name": "own"}, "Which blocks"),
        ({"set_name": "inch81"}, "in inches"),
        ({"set_name": "own", "blocks": "1 nan"}, "no size"),
    ],
)
def test_a_block_set_that_cannot_be_is_refused(more: dict[str, str], says: str) -> None:
    given: dict[str, object] = {"name": "J", "unit": "mm", "set_name": "metric88", "u_um": D("0.1")}
    with pytest.raises(ValidationError, match=says):
        BlockSet(**(given | SET | more))  # type: ignore[arg-type]


def test_a_compared_size_takes_the_tip_s_angle_out_and_hardly_cares_near_zero() -> None:
    assert Comparison(D("22"), 60.0).size_of(D("0.010")) == D("22.005")
    assert Comparison(D("22"), 0.0).size_of(D("-0.0012")) == D("21.9988")
    near = comparison_budget(LEVER, Comparison(D("22"), 30.0), 0.1, [D("0.0002")], temperature_u_c=0.3)
    far = comparison_budget(LEVER, Comparison(D("22"), 30.0), 0.1, [D("0.05")], temperature_u_c=0.3)
    assert far.largest.source == "tip angle" and far.expanded_mm > 3 * near.expanded_mm


def test_squareness_comes_to_what_the_calculations_say() -> None:
    told = answer("square.reversal", {"front_um": 4.0, "back_um": -2.0, "height_mm": 60.0, "taper_um": 1.0})
    found = by_reversal(LEVER, front_um=4.0, back_um=-2.0, over_mm=60.0, taper_um=1.0)
    assert found.error_um == told["error_um"] and found.zero_um == told["gauge_zero_um"]
    corners = answer("square.four_corners", {"corners_um": [3.0, -1.0, 2.0, 0.0]})
    four = by_corners(LEVER, corners_um=[3.0, -1.0, 2.0, 0.0], over_mm=60.0)
    assert list(four.corners_um) == corners["corners_um"] and four.error_um == four.corners_um[0]
    assert by_master(
        LEVER, part_um=5.0, master_um=2.0, certificate_um=0.4, certificate_u_um=0.5, over_mm=60.0
    ).error_um == pytest.approx(3.4)


def test_a_lean_is_scaled_to_the_height_the_print_asks_it_over() -> None:
    lean = by_reversal(LEVER, front_um=4.0, back_um=-2.0, over_mm=60.0)
    assert lean.deviation_mm(120.0) == D("0.006") and lean.u_mm(120.0) == 2 * lean.budget.expanded_mm
    assert lean.words == "leans out at the top" and lean.arcsec == pytest.approx(math.degrees(3e-3 / 60) * 3600)


def test_a_light_gap_is_told_by_foils_and_by_no_light_at_all() -> None:
    top = by_light(where="top", goes_um=10.0, refuses_um=20.0, over_mm=60.0, square_um=1.0)
    assert top.error_um == -15.0 and float(top.budget.expanded_mm) * 1000 > 5
    assert by_light(where="bottom", goes_um=0.0, refuses_um=10.0, over_mm=60.0, square_um=1.0).error_um == 5.0
    assert by_light(where="none", goes_um=0.0, refuses_um=0.0, over_mm=60.0, square_um=1.0).error_um == 0.0
    with pytest.raises(InputError, match="thicker"):
        by_light(where="top", goes_um=20.0, refuses_um=10.0, over_mm=60.0, square_um=1.0)


@given(st.floats(15, 165), st.floats(2, 20), st.floats(1.3, 3))
def test_two_rolls_give_back_the_angle_they_lie_in(theta: float, small: float, times: float) -> None:
    large = small * times
    corner = angle_by_rolls(
        small_mm=small,
        large_mm=large,
        over_small_mm=100 + roll_corner(diameter_mm=small, included_deg=theta).reading_mm,
        over_large_mm=100 + roll_corner(diameter_mm=large, included_deg=theta).reading_mm,
        shape="corner",
        u_um=0.5,
    )
    vee = angle_by_rolls(
        small_mm=small,
        large_mm=large,
        over_small_mm=40 + roll_vee(diameter_mm=small, included_deg=theta).top_above_vertex_mm,
        over_large_mm=40 + roll_vee(diameter_mm=large, included_deg=theta).top_above_vertex_mm,
        shape="vee",
        u_um=0.5,
    )
    assert corner.angle_deg == pytest.approx(theta, abs=1e-6) and vee.angle_deg == pytest.approx(theta, abs=1e-6)


def test_the_stated_u_of_an_angle_is_what_its_readings_do_to_it() -> None:
    given_ = {"small_mm": 6.0, "large_mm": 12.0, "over_small_mm": 50.0, "shape": "corner", "u_um": 1.0}
    here = angle_by_rolls(over_large_mm=61.0, **given_)  # type: ignore[arg-type]
    off = angle_by_rolls(over_large_mm=61.001, **given_)  # type: ignore[arg-type]
    assert here.u_deg == pytest.approx(2 * math.sqrt(2) * abs(off.angle_deg - here.angle_deg), rel=1e-3)
    with pytest.raises(InputError, match="no angle reads so"):
        angle_by_rolls(over_large_mm=52.0, **given_)  # type: ignore[arg-type]


def test_a_sine_plate_compares_the_part_with_its_stack() -> None:
    worth = sine_stack(centres_mm=100.0, angle_deg=17.5)
    level = angle_on_sine_plate(set_deg=17.5, rise_um=0.0, over_mm=60.0, centres_mm=100.0, stack_u_um=0.1, u_um=0.2)
    high = angle_on_sine_plate(set_deg=17.5, rise_um=6.0, over_mm=60.0, centres_mm=100.0, stack_u_um=0.1, u_um=0.2)
    assert level.angle_deg == 17.5 and (17.5 - high.angle_deg) * 3600 == pytest.approx(
        math.degrees(1e-4) * 3600, rel=1e-6
    )
    alone = angle_on_sine_plate(set_deg=17.5, rise_um=0.0, over_mm=1e5, centres_mm=100.0, stack_u_um=2.0, u_um=1e-6)
    assert alone.u_arcsec == pytest.approx(2 * worth.arcsec_per_um, rel=1e-3)


@given(st.floats(3, 200), st.floats(2, 20))
def test_rolls_and_chords_give_back_their_radius(radius: float, roll: float) -> None:
    over = 4 * math.sqrt(radius * roll / 2) + roll
    if over > 2 * roll:
        assert radius_by_rolls(roll_mm=roll, over_rolls_mm=over, u_um=1.0).radius_mm == pytest.approx(radius, rel=1e-9)
    chord = radius * 0.8
    height = radius - math.sqrt(radius**2 - (chord / 2) ** 2)
    assert radius_by_chord(chord_mm=chord, height_mm=height, u_um=1.0).radius_mm == pytest.approx(radius, rel=1e-6)
    with pytest.raises(InputError):
        radius_by_chord(chord_mm=chord, height_mm=chord, u_um=1.0)


def test_a_radius_gauge_tells_no_more_than_its_leaves() -> None:
    found = radius_by_leaves(under_mm=5.0, over_mm=5.5, leaf_um=20.0)
    assert found.radius_mm == 5.25 and found.u_mm == pytest.approx(2 * math.hypot(0.25, 0.02) / 3**0.5)
    with pytest.raises(InputError):
        radius_by_leaves(under_mm=5.5, over_mm=5.0, leaf_um=20.0)


def slot(front_top: str, front_bottom: str, back_top: str, back_bottom: str) -> object:
    places = ("front top", "front bottom", "back top", "back bottom")
    goes = dict(zip(places, map(D, (front_top, front_bottom, back_top, back_bottom)), strict=True))
    return slot_widths(goes_mm=goes, step_mm=D("0.001"), block_u_mm=D("0.0003"))


@pytest.mark.parametrize(
    ("goes", "says"),
    [
        (("18.002", "18.002", "18.008", "18.008"), "the back is wider"),
        (("18.008", "18.007", "18.001", "18.001"), "the front is wider"),
        (("18.008", "18.002", "18.008", "18.002"), "Bell mouth"),
        (("18.002", "18.008", "18.002", "18.008"), "floor is wider"),
        (("18.002", "18.002", "18.002", "18.002"), "Neither"),
    ],
)
def test_a_slot_s_taper_is_told_from_its_bell_mouth(goes: tuple[str, str, str, str], says: str) -> None:
    assert says in slot(*goes).words  # type: ignore[attr-defined]


def test_a_slot_needs_all_four_places() -> None:
    with pytest.raises(InputError, match="back bottom"):
        slot_widths(
            goes_mm={"front top": D(18), "front bottom": D(18), "back top": D(18)}, step_mm=D("0.001"), block_u_mm=D(0)
        )


def five(along: float, across: float, middle: float = 0.0) -> list[PlacedReading]:
    places = ((8, 5), (80, 5), (44, 27), (8, 49), (80, 49))
    return [
        PlacedReading(x, y, along * x / 72 + across * y / 44 + (middle if (x, y) == (44, 27) else 0.0))
        for x, y in places
    ]


def test_a_taper_is_named_by_its_direction_and_what_the_log_knows_comes_first() -> None:
    found = explain(five(6.0, 0.2), 0.6, Happened(spark_outs=0, seat_checked=True))
    assert found is not None and found.mostly == "along" and "right end thick" in found.words
    assert "spark-out" in found.causes[0].words
    seat = explain(five(6.0, 0.2), 0.6, Happened(spark_outs=4, seat_checked=False))
    assert seat is not None and "not seated" in seat.causes[0].words
    wear = explain(five(0.1, 5.0), 0.6, Happened(spark_outs=3, passes_since_dress=20, last_side="back"))
    assert wear is not None and wear.mostly == "across" and "wore" in wear.causes[0].words
    other = explain(five(0.1, -5.0), 0.6, Happened(spark_outs=3, passes_since_dress=2, last_side="back"))
    assert other is not None and "saddle" in other.causes[0].words and "front thick" in other.words
    hollow = explain(five(0.0, 0.0, -4.0), 0.6, Happened())
    assert hollow is not None and hollow.mostly == "middle" and "Heat" in hollow.causes[0].words


def test_nothing_is_explained_that_the_gauge_cannot_tell() -> None:
    found = explain(five(0.3, 0.2), 0.6, Happened())
    assert found is not None and found.mostly is None and found.causes == ()
    assert explain(five(6.0, 0.0)[:3], 0.6, Happened()) is None


@pytest.mark.parametrize(
    ("line", "mm"), [(b"+0.01234 mm", D("0.01234")), (b" -0.0005\r", D("-0.0005")), (b"IX: 0.001 mm", D("0.001"))]
)
def test_a_line_of_a_gauge_says_what_it_says(line: bytes, mm: Decimal) -> None:
    assert read_line(line, gauge()) == mm and read_line(line, gauge(falls=True)) == -mm


@pytest.mark.parametrize(
    ("line", "fault"),
    [
        (b"0.0005 in", "wrong unit"),
        (b"12.5 um", "wrong unit"),
        (b"+0.0#234 mm", "garbled"),
        (b"", "garbled"),
        (b"0.001 0.002", "garbled"),
        (b"nan", "garbled"),
        (b"1e3", "garbled"),
        (b"9" * 200, "garbled"),
        (b"\xff\xfe0.001", "garbled"),
        (b"0.5 mm", "out of range"),
    ],
)
def test_a_line_that_gives_no_reading_says_why(line: bytes, fault: str) -> None:
    with pytest.raises(SignalError) as told:
        read_line(line, gauge())
    assert told.value.fault == fault and "L1" in str(told.value)


@given(st.binary(max_size=100))
def test_no_line_whatever_is_read_as_a_number_that_it_is_not(line: bytes) -> None:
    try:
        value = read_line(line, gauge())
    except SignalError:
        return
    digits = "".join(chr(each) for each in line if chr(each) in "0123456789.")
    assert Decimal(digits or "0") == abs(value)


@pytest.mark.parametrize(
    "port", ["spy://x?file=/tmp/y", "alt://x?class=y", "/etc/passwd", "http://x", "file:///x", "-x"]
)
def test_no_address_that_writes_or_loads_is_a_port(port: str) -> None:
    with pytest.raises(ValidationError, match="no address"):
        gauge(port=port)
    assert gauge(port="socket://192.0.2.1:9000").port and gauge(port="/dev/ttyUSB0").port


def test_a_part_cools_quickest_under_coolant_and_the_clock_agrees_with_the_calculation() -> None:
    part = {"length_mm": 88.0, "width_mm": 54.0, "height_mm": 22.0, "density_kg_m3": 7850.0}
    granite, air, coolant = waits_for(rise_c=8.0, allowed_c=0.5, **part)
    assert coolant.wait_s < granite.wait_s < air.wait_s
    area = 2 * (88 * 54 + 88 * 22 + 54 * 22) * 1e-6
    told = cooling_wait(
        start_c=8.0, ambient_c=0.0, limit_c=0.5, mass_kg=88 * 54 * 22 * 7850e-9, area_m2=area, h_w_m2k=8.0
    )
    assert air.wait_s == pytest.approx(told.wait_s)
    assert waits_for(rise_c=0.4, allowed_c=0.5, **part)[0].wait_s == 0
    assert allowed_rise(22.0, 0.006, 0.1) == pytest.approx(0.0006 / (22 * STEEL_EXPANSION))


PIECES = 2000


def measured(draw: random.Random, true_mm: float, *, tool: Gauge, part_c: float | None, room_c: float) -> float:
    """A micrometer over a piece of a known size: its errors drawn as its certificate states them."""
    warm = (part_c if part_c is not None else 0.0) - room_c
    shown = (
        true_mm * (1 + STEEL_EXPANSION * warm)
        + draw.uniform(-1, 1) * float(tool.error_limit_mm)
        + draw.gauss(0, float(tool.calibration_u_mm) / 2)
        + draw.gauss(0, float(tool.repeatability_mm))
    )
    step = float(tool.resolution_mm)
    return round(shown / step) * step


@pytest.mark.parametrize("seed", [1, 2, 3])
@pytest.mark.parametrize("tool", [MIC, LEVER], ids=["micrometer", "comparator"])
def test_over_two_thousand_pieces_u_covers_what_it_says_when_the_temperature_is_known(tool: Gauge, seed: int) -> None:
    draw, covered, falsely_in, called_in = random.Random(seed), 0, 0, 0
    lower, upper = D("21.997"), D("22.003")
    for _ in range(PIECES):
        true = draw.gauss(22.0, 0.002)
        room = draw.uniform(18, 24)
        part = room + draw.uniform(0, 2)
        shown = measured(draw, true, tool=tool, part_c=part, room_c=room)
        taken = [D(repr(round(each + draw.gauss(0, 0.2), 2))) for each in (part, room)]
        reading = corrected(SizeReading("middle", D(repr(round(shown, 7)))), taken[0], taken[1], None).value_mm
        u = size_budget(tool, 22.0, temperature_u_c=temperature_u(taken=True)).expanded_mm
        covered += abs(float(reading) - true) <= float(u)
        if verdict(reading, lower, upper, u) == "in":
            called_in += 1
            falsely_in += not float(lower) <= true <= float(upper)
    assert 0.94 <= covered / PIECES <= 0.97 and falsely_in <= 0.005 * PIECES and called_in > 200


@pytest.mark.parametrize("rise_c", [0.0, 2.0, 6.0])
def test_a_temperature_that_nobody_took_is_covered_too(rise_c: float) -> None:
    draw, covered, falsely_in = random.Random(11), 0, 0
    for _ in range(PIECES):
        true = draw.gauss(22.0, 0.002)
        warm = draw.uniform(0, rise_c) + draw.gauss(0, 0.5)
        shown = measured(draw, true, tool=MIC, part_c=20.0 + warm, room_c=20.0)
        u = float(size_budget(MIC, 22.0, temperature_u_c=temperature_u(taken=False, rise_c=rise_c)).expanded_mm)
        covered += abs(shown - true) <= u
        in_ = verdict(D(repr(round(shown, 7))), D("21.997"), D("22.003"), D(repr(round(u, 7)))) == "in"
        falsely_in += in_ and not 21.997 <= true <= 22.003
    assert covered / PIECES >= 0.90 and falsely_in <= 0.005 * PIECES


def test_a_deviation_of_form_is_judged_with_the_same_u_as_it_is_shown() -> None:
    u = form_budget(LEVER, plate_um=1.0).expanded_mm
    assert judge_zone([SizeReading("all", D("0.001"))], D("0.001") + u, u) == "in"
    assert judge_zone([SizeReading("all", D("0.001"))], D("0.001") + u - D("0.00001"), u) == "unsure"

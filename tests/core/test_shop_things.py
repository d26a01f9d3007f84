"""The things of a shop, each with one checked type: what does not go together is refused by every way in."""

from dataclasses import asdict, replace
from datetime import date
from decimal import Decimal
from typing import Any

import pytest
from pydantic import ValidationError

from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.part.sizes import Size, size_contradictions
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.things.shop import (
    Chuck,
    Fixture,
    Machine,
    Wheel,
    crossfeeds_of,
    field_names,
    machine_contradictions,
)

D = Decimal
MACHINE = Machine(
    name="No. 1",
    dial_unit="in",
    graduation_mm=D("0.00254"),
    per_rev_mm=D("1.27"),
    backlash_mm=D(0),
    crossfeed_graduation_mm=D("0.05"),
    crossfeed_min_mm=D("0.1"),
    crossfeed_max_mm=D(12),
    table_min_mm_s=D(80),
    table_max_mm_s=D(350),
    reversal_s=D("0.3"),
    travel_long_mm=D(450),
    travel_cross_mm=D(150),
    height_mm=D(250),
    spindle_w=1100,
    rpm=3000,
    wheel_turns="clockwise",
    feed_every="stroke",
    coolant="water",
    cut_ratio=D("0.6"),
)
WHEEL = Wheel(
    name="W3",
    marking="A 46 H 8 V",
    grit=46,
    grade="H",
    diameter_mm=D(180),
    width_mm=D("12.7"),
    bore_mm=D("31.75"),
    max_rpm=3600,
)
TOOL = Instrument(
    name="M2",
    unit="mm",
    least_mm=D(0),
    most_mm=D(25),
    resolution_mm=D("0.001"),
    error_limit_mm=D("0.001"),
    calibration_u_mm=D("0.0008"),
    repeatability_mm=D("0.0004"),
    calibrated_on=date(2026, 1, 1),
    due_on=date(2027, 1, 1),
)
CHUCK = Chuck(name="Chuck A", length_mm=D(450), width_mm=D(150), pull_n_cm2=D(80))
PLATE = Fixture(
    name="P1",
    kind="angle_plate",
    square_mm=D("0.002"),
    over_mm=D(100),
    seating_mm=D("0.0008"),
    base_length_mm=D(150),
    base_width_mm=D(100),
)
SIZE = Size(D(22), D("0.003"), D("0.002"))


@pytest.mark.parametrize(
    ("thing", "change", "says"),
    [
        (MACHINE, {"per_rev_mm": D("0.001")}, "less than a graduation"),
        (MACHINE, {"per_rev_mm": D("1.2701")}, "whole number"),
        (MACHINE, {"crossfeed_max_mm": D("0.05")}, "crossfeed_max_mm: The most"),
        (MACHINE, {"table_max_mm_s": D(79)}, "table_max_mm_s"),
        (MACHINE, {"downfeed_max_mm": D("0.002")}, "under a graduation"),
        (MACHINE, {"cut_ratio": D("1.1")}, "cut_ratio"),
        (MACHINE, {"graduation_mm": D(0)}, "graduation_mm"),
        (MACHINE, {"coolant": "milk"}, "coolant"),
        (MACHINE, {"name": ""}, "name"),
        (WHEEL, {"bore_mm": D(180)}, "smaller than the wheel"),
        (WHEEL, {"grade": "h"}, "grade"),
        (WHEEL, {"grit": 3}, "grit"),
        (TOOL, {"most_mm": D(25), "least_mm": D(25)}, "ends before it begins"),
        (TOOL, {"due_on": date(2025, 12, 31)}, "before it was"),
        (TOOL, {"resolution_mm": D(0)}, "resolution_mm"),
        (CHUCK, {"length_mm": D(0)}, "length_mm"),
        (CHUCK, {"pull_n_cm2": D("-1")}, "pull_n_cm2"),
        (CHUCK, {"pull_n_cm2": D("NaN")}, "pull_n_cm2"),
        (PLATE, {"kind": "string"}, "kind"),
        (PLATE, {"over_mm": D(0)}, "over_mm"),
        (PLATE, {"clamps": 0}, "clamps"),
        (PLATE, {"clamp_n": D(0)}, "clamp_n"),
        (PLATE, {"square_mm": D("-0.001")}, "square_mm"),
        (SIZE, {"tol_minus_mm": D(22)}, "leaves nothing of the size"),
        (SIZE, {"tol_plus_mm": D("-0.001")}, "tol_plus_mm"),
        (SIZE, {"tol_minus_mm": D(0), "tol_plus_mm": D(0)}, "more than 0"),
    ],
)
def test_what_does_not_go_together_is_refused_in_words(thing: Any, change: dict[str, object], says: str) -> None:
    with pytest.raises(ValidationError, match=says):
        type(thing)(**(asdict(thing) | change))


@pytest.mark.parametrize(
    "change",
    [
        {"per_rev_mm": D("0.00254")},
        {"crossfeed_max_mm": D("0.1")},
        {"table_max_mm_s": D(80)},
        {"downfeed_max_mm": D("0.00254")},
    ],
)
def test_what_is_just_so_is_taken(change: dict[str, object]) -> None:
    assert Machine(**(asdict(MACHINE) | change)) == replace(MACHINE, **change)
    assert Instrument(**(asdict(TOOL) | {"due_on": TOOL.calibrated_on})).due_on == TOOL.calibrated_on
    assert Fixture(**(asdict(PLATE) | {"square_mm": D(0)})).out_of_square == 0 and CHUCK.pull_tested is False
    assert size_contradictions(D(0), D("0.01"), D("0.01")) == {}, "a position may be 0 and go either way"
    assert Size(D(22), D("21.9999999"), D(0)).lower_mm == D("0.0000001")
    assert field_names(Wheel) == tuple(asdict(WHEEL))


@pytest.mark.parametrize(
    ("text", "told"), [("0.5; 1 ;2.5", (D("0.5"), D(1), D("2.5"))), ("2; 1/16 in; 2", (D("1.5875"), D(2))), ("", ())]
)
def test_crossfeeds_in_steps_are_read_as_people_write_them(text: str, told: tuple[Decimal, ...]) -> None:
    assert crossfeeds_of(text) == told


@pytest.mark.parametrize("text", ["0.5; wide", "0", "-1", "; ".join(str(each) for each in range(1, 70))])
def test_what_is_no_crossfeed_is_said(text: str) -> None:
    with pytest.raises(InputError):
        crossfeeds_of(text)


def test_a_crossfeed_outside_the_machine_s_range_contradicts_it() -> None:
    of = {
        "per_rev_mm": D("2.5"),
        "graduation_mm": D("0.005"),
        "crossfeed_min_mm": D("0.5"),
        "crossfeed_max_mm": D(10),
        "table_min_mm_s": D(80),
        "table_max_mm_s": D(300),
        "downfeed_max_mm": None,
    }
    assert machine_contradictions(of | {"crossfeeds": "0.5; 10"}) == {}
    told = machine_contradictions(of | {"crossfeeds": "0.5; 12"})
    assert told == {"crossfeeds": "12 mm is not between the least crossfeed and the most."}
    assert "is no crossfeed" in machine_contradictions(of | {"crossfeeds": "half"})["crossfeeds"]

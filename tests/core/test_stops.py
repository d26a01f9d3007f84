"""What holds and what must not run: wheels, clamps, feet; and what lies under a part: the chuck's map, the heat."""

import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from zesty_lark.core.measure.maps.footprint import footprint
from zesty_lark.core.process import warmth
from zesty_lark.core.process.holding import hold_check, hold_fixture, is_tall, judged
from zesty_lark.core.wheel.mounting import Mounted, material_stops, mounting_stops, speed_stops

ALUMINA, DIAMOND = "A 46 H 8 V", "D 126 N 100 B"
WHEEL = Mounted("W1", ALUMINA, 180.0, 3600)


@pytest.mark.parametrize(
    ("wheel", "rpm", "says"),
    [
        (WHEEL, 3600, ""),
        (WHEEL, 3601, "over the marked 3600 rpm"),
        (WHEEL, 2000, ""),
        (Mounted("W2", ALUMINA, 180.0, None), 100, "bears no marked speed"),
        (Mounted("W2", ALUMINA, 180.0, None, answered_by="Isa Quillon"), 3000, ""),
        (Mounted("W3", ALUMINA, 180.0, None, 30.0), 3183, ""),
        (Mounted("W3", ALUMINA, 180.0, None, 30.0), 3184, "over the marked 3183 rpm"),
        (Mounted("W4", ALUMINA, 180.0, 3600, 30.0, answered_by="Isa Quillon"), 3600, "over the marked 3183 rpm"),
    ],
)
def test_a_wheel_runs_up_to_its_mark_by_rpm_and_by_speed(wheel: Mounted, rpm: float, says: str) -> None:
    stops = speed_stops(wheel, rpm)
    assert says in " ".join(stops) and bool(stops) is bool(says)
    assert mounting_stops(wheel, rpm, "tool steel, hardened")[: len(stops)] == stops


@pytest.mark.parametrize(
    ("marking", "material", "stopped"),
    [
        (ALUMINA, "tool steel, hardened", False),
        (ALUMINA, "carbide", True),
        (DIAMOND, "carbide", False),
        (ALUMINA, "aluminium", True),
        (DIAMOND, "aluminium", True),
        (ALUMINA, "brass", True),
        ("no marking", "carbide", True),
    ],
)
def test_a_wheel_is_refused_for_what_it_does_not_grind(marking: str, material: str, stopped: bool) -> None:
    stops = material_stops(Mounted("W1", marking, 180.0, 3600), material)
    assert bool(stops) is stopped and all(stop.endswith(".") for stop in stops)


@given(st.floats(1, 500), st.integers(1, 6), st.floats(100, 5000), st.floats(0.05, 0.3), st.none() | st.floats(0, 200))
def test_in_a_fixture_the_weakest_link_rules(
    force: float, clamps: int, clamp: float, friction: float, magnet: float | None
) -> None:
    told = hold_fixture(tangential_n=force, clamps=clamps, clamp_n=clamp, friction=friction, magnet_safety=magnet)
    part = 2 * friction * clamps * clamp / force
    assert told.part_safety == pytest.approx(part)
    assert told.safety == pytest.approx(min(part, math.inf if magnet is None else magnet))
    assert told.judgement == judged(told.safety)
    assert (told.weakest == "fixture on the magnet") is (magnet is not None and magnet < part)


@pytest.mark.parametrize(("safety", "word"), [(3.99, "stop"), (4.0, "block"), (7.99, "block"), (8.0, "fine")])
def test_a_hold_is_judged_at_four_and_at_eight(safety: float, word: str) -> None:
    assert judged(safety) == word


@pytest.mark.parametrize(
    ("height", "long", "wide", "tall"),
    [(25, 10, 40, False), (25.01, 10, 40, True), (25.01, 40, 10, True), (240, 38, 4.2, True), (20, 88, 54, False)],
)
def test_tall_is_two_and_a_half_times_the_smaller_foot(height: float, long: float, wide: float, tall: bool) -> None:
    assert is_tall(height, long, wide) is tall


def leaning(along: float, across: float, steps: int = 9) -> list[tuple[float, float, float]]:
    """A flat chuck of 400 × 160 mm that leans: µm a mm."""
    return [
        (400 * i / steps, 160 * j / steps, along * 400 * i / steps + across * 160 * j / steps)
        for i in range(steps + 1)
        for j in range(steps + 1)
    ]


@settings(deadline=None, max_examples=40)
@given(st.floats(-0.02, 0.02), st.floats(-0.02, 0.02), st.floats(20, 380), st.floats(20, 150))
def test_under_a_leaning_chuck_the_range_is_the_lean_times_the_foot(
    along: float, across: float, long: float, wide: float
) -> None:
    told = footprint(leaning(along, across), long, wide)
    wanted = abs(along) * long + abs(across) * wide
    cell = 4.0 * (abs(along) + abs(across))
    assert told.worst_um == pytest.approx(wanted, abs=cell) and told.best_um == pytest.approx(wanted, abs=cell)
    assert told.middle_um == pytest.approx(wanted, abs=cell)


@settings(deadline=None, max_examples=40)
@given(st.lists(st.floats(-3, 3), min_size=25, max_size=25), st.floats(30, 200), st.floats(20, 100))
def test_a_smaller_foot_never_sees_more_of_the_map(heights: list[float], long: float, wide: float) -> None:
    points = [(100.0 * (n % 5), 40.0 * (n // 5), height) for n, height in enumerate(heights)]
    assume(max(heights) - min(heights) > 1e-3)
    large, small = footprint(points, long, wide), footprint(points, long / 2, wide / 2)
    whole = footprint(points, 400, 160)
    assert small.worst_um <= large.worst_um + 1e-9 <= whole.worst_um + 1e-9
    assert large.best_um <= large.middle_um + 1e-9 <= large.worst_um + 1e-9
    assert whole.worst_um == pytest.approx(max(heights) - min(heights))
    x, y = large.best_at_mm
    assert 0 <= x <= 400 and 0 <= y <= 160


@pytest.mark.parametrize(
    ("long", "wide"), [(80.0, 40.0), (82.5, 37.5), (20.0, 120.0), (1.0, 1.0), (397.5, 160.0), (500.0, 300.0)]
)
def test_every_place_of_the_foot_is_tried(long: float, wide: float) -> None:
    """A map as dense as the grid it is read on, from a corner of its own: each place counted by hand."""
    step, columns, rows, left, front = 2.5, 161, 65, -30.0, 12.0
    heights = np.random.default_rng(int(long)).normal(size=(rows, columns)).cumsum(axis=0).cumsum(axis=1) / 20
    told = footprint(
        [
            (left + step * column, front + step * row, heights[row, column])
            for row in range(rows)
            for column in range(columns)
        ],
        long,
        wide,
    )
    across, along = min(max(1, round(wide / step) + 1), rows), min(max(1, round(long / step) + 1), columns)
    ranges = {
        (row, column): float(np.ptp(heights[row : row + across, column : column + along]))
        for row in range(rows - across + 1)
        for column in range(columns - along + 1)
    }
    best = min(ranges, key=lambda place: ranges[place])
    assert told.worst_um == pytest.approx(max(ranges.values())) and told.best_um == pytest.approx(ranges[best])
    assert told.middle_um == pytest.approx(ranges[(rows - across + 1) // 2, (columns - along + 1) // 2])
    row, column = best
    assert told.best_at_mm == pytest.approx(
        (left + step * (column + (along - 1) / 2), front + step * (row + (across - 1) / 2))
    )


def test_outside_the_points_the_nearest_height_counts() -> None:
    """Three points are a triangle; the corner it lacks is as high as the point that is nearest."""
    told = footprint([(0, 0, 0), (100, 0, 0), (0, 50, 6.0)], 100, 50)
    assert told.worst_um == told.best_um == pytest.approx(6.0) and told.best_at_mm == pytest.approx((50, 25))


@pytest.mark.parametrize(("thick", "share"), [(20.0, 1.0), (10.0, 1.0), (5.0, 0.5), (2.5, 0.25)])
def test_a_part_thinner_than_the_field_is_held_by_its_share(thick: float, share: float) -> None:
    told = hold_check(
        contact_mm2=4000,
        length_along_mm=88,
        height_mm=thick,
        thickness_mm=thick,
        span_across_poles_mm=88,
        tangential_n=20,
        field_height_mm=10.0,
    )
    assert told.thickness_factor == pytest.approx(share)
    assert told.pull_n == pytest.approx(
        hold_check(
            contact_mm2=4000,
            length_along_mm=88,
            height_mm=40,
            thickness_mm=40,
            span_across_poles_mm=88,
            tangential_n=20,
            field_height_mm=10.0,
        ).pull_n
        * share
    )


@given(st.floats(100, 1e6), st.floats(0.5, 500), st.sampled_from(["dry", "mist", "water", "oil"]))
def test_a_part_warms_towards_a_balance(energy: float, minutes: float, coolant: str) -> None:
    def told(more: float = 1.0, longer: float = 1.0) -> warmth.Warmth:
        return warmth.heat_warmth(
            energy_j=energy * more, minutes=minutes * longer, length_mm=88, width_mm=54, height_mm=22, coolant=coolant
        )  # type: ignore[arg-type]

    losses = warmth.TOP_W_M2K[coolant] + warmth.CHUCK_W_M2K  # type: ignore[index]
    balance = energy / (60 * minutes) / (losses * 88e-3 * 54e-3)
    at_once = energy / (warmth.CAPACITY_J_M3K * 88e-3 * 54e-3 * 22e-3)
    assert told().rise_c <= min(balance, at_once) * (1 + 1e-9)
    assert told(2).rise_c == pytest.approx(2 * told().rise_c) and told(1, 2).rise_c < told().rise_c
    if minutes * 60 > 20 * told().time_constant_s:
        assert told().rise_c == pytest.approx(balance, rel=1e-6)


@given(st.floats(10, 72), st.floats(10, 72))
def test_a_harder_steel_was_tempered_lower(one: float, other: float) -> None:
    low, high = sorted((one, other))
    assert warmth.heat_temper(hardness_hrc=high).temper_c <= warmth.heat_temper(hardness_hrc=low).temper_c
    again = warmth.heat_temper(hardness_hrc=low, secondary_hardening=True).temper_c
    assert again == 520 if low <= 62 else again <= 200

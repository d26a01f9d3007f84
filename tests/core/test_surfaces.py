"""Maps: the zone does not care how a map lies, the feather line walks from nothing to everything."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

from zesty_lark.core.calc import answer
from zesty_lark.core.measure.maps.analysis import points_from_text
from zesty_lark.core.measure.maps.feather import cleaned
from zesty_lark.core.measure.maps.flatness import minimum_zone
from zesty_lark.core.quantities.numbers import InputError

SEEDS = st.integers(0, 10**6)


def rough(seed: int, count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    random = np.random.default_rng(seed)
    return random.uniform(0, 100, count), random.uniform(0, 60, count), random.normal(0, 3, count)


@settings(deadline=None, max_examples=40)
@given(SEEDS, st.integers(4, 60))
def test_the_zone_is_the_least_there_is(seed: int, count: int) -> None:
    x, y, z = rough(seed, count)
    plane = np.column_stack((x, y, np.ones(count)))
    one = np.ones((count, 1))
    solved = linprog(
        [0, 0, 0, 1],
        A_ub=np.block([[plane, -one], [-plane, -one]]),
        b_ub=np.concatenate((z, -z)),
        bounds=[(None, None)] * 3 + [(0, None)],
        method="highs",
    )
    assert minimum_zone(x, y, z).width == pytest.approx(2 * solved.fun, rel=1e-7, abs=1e-9)


@settings(deadline=None, max_examples=40)
@given(SEEDS, st.floats(-3, 3), st.floats(-0.1, 0.1), st.floats(-0.1, 0.1))
def test_a_map_turned_shifted_or_tilted_has_the_same_zone(seed: int, turn: float, tilt_x: float, tilt_y: float) -> None:
    x, y, z = rough(seed, 200)
    zone = minimum_zone(x, y, z)
    cosine, sine = np.cos(turn), np.sin(turn)
    moved = minimum_zone(x * cosine - y * sine + 7, x * sine + y * cosine - 3, z + tilt_x * x + tilt_y * y + 11)
    assert moved.width == pytest.approx(zone.width, rel=1e-9)
    residual = z - zone.slope_x * x - zone.slope_y * y
    assert np.ptp(residual) == pytest.approx(zone.width) and len(zone.held_by) >= 4


def test_a_plane_on_a_grid_is_flat_and_three_points_are_by_definition() -> None:
    x, y = (each.ravel() for each in np.meshgrid(np.arange(9.0), np.arange(7.0)))
    assert minimum_zone(x, y, 0.3 * x - 0.2 * y).width == pytest.approx(0, abs=1e-12)
    three = answer("map.analyse", {"points": [[0, 0, 0], [1, 0, 5], [0, 1, 9]], "frame": "machine"})
    assert three["minzone_flatness_um"] == 0 and "by definition" in three["note"] and three["proves_flatness"] is False


def test_a_tent_is_half_clean_where_geometry_says() -> None:
    """A 2 × 1 roof with its ridge in the middle: at depth D of height 1 the share is D, the stock D²/2 of the plan."""
    points = [[x, y, 1000.0 * (1 - abs(x - 1))] for y in (0.0, 1.0) for x in (0.0, 1.0, 2.0)]
    made = answer("map.feather", {"points": points, "depths_um": [0, 250, 500, 1000, 1500]})
    assert made["cleaned_share"] == pytest.approx([0, 0.25, 0.5, 1, 1])
    assert made["stock_mm3"] == pytest.approx([0, 2 * 0.25**2 / 2, 2 * 0.125, 1, 2])


@settings(deadline=None, max_examples=25)
@given(SEEDS, st.booleans())
def test_the_cleaned_share_only_grows_and_its_integral_is_the_stock(seed: int, gridded: bool) -> None:
    random = np.random.default_rng(seed)
    if gridded:
        x, y = (each.ravel() for each in np.meshgrid(np.arange(12.0), np.arange(9.0)))
        z = random.normal(0, 3, x.size)
    else:
        x, y, z = rough(seed, 60)
    depths = np.linspace(0, np.ptp(z), 4001)
    share, stock = cleaned(x, y, z, depths)
    assert np.all(np.diff(share) >= -1e-12) and share[0] == pytest.approx(0, abs=1e-9) and share[-1] == pytest.approx(1)
    slope = np.gradient(stock, depths) * 1000
    assert slope[1:-1] == pytest.approx(share[1:-1] * slope[-2] / share[-2], rel=2e-3, abs=2e-3 * slope.max())


def test_drift_over_its_limit_is_said_and_the_raw_readings_stay() -> None:
    made = answer("map.drift", {"readings_um": [0, 1, 2], "closing_um": 1.5})
    assert made["accepted"] is False and made["corrected_um"][0] == 0


@given(
    st.lists(
        st.tuples(st.integers(-500, 500), st.integers(-300, 300), st.floats(-50, 50, allow_subnormal=False)),
        min_size=4,
        max_size=30,
        unique_by=lambda point: point[:2],
    ),
    st.sampled_from([" ", ", ", "\t", ";"]),
)
def test_points_that_are_written_down_come_back(points: list[tuple[float, float, float]], apart: str) -> None:
    text = "\n\n".join(apart.join(str(value) for value in point) for point in points)
    try:
        assert points_from_text(text) == [[float(value) for value in point] for point in points]
    except InputError as error:
        assert "line" in str(error), "all in a line is no map"


@pytest.mark.parametrize("wrong", ["", "1 2", "1 2 3 4", "1 2 x", "1 2 nan", "1e9 0 0\n0 1 0\n1 1 1", "0 0 0\n" * 2500])
def test_what_is_no_map_is_refused_in_words(wrong: str) -> None:
    with pytest.raises(InputError):
        points_from_text(wrong)

"""Surface maps: layout, taking, drift, areas, patches, comparison, pattern, and what a chuck's years ask for."""

import math
import random
from datetime import UTC, datetime, timedelta
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from zesty_lark.core.calc import answer
from zesty_lark.core.measure.maps.analysis import map_analyse
from zesty_lark.core.measure.maps.chuck import MapInTime, outlook, passes_for
from zesty_lark.core.measure.maps.compare import compare
from zesty_lark.core.measure.maps.contour import bands, ground_area, laid
from zesty_lark.core.measure.maps.feather import map_feather
from zesty_lark.core.measure.maps.gridded import gridded
from zesty_lark.core.measure.maps.layout import Layout, Place, free_points, grid, patches_from_text
from zesty_lark.core.measure.maps.patches import coplanarity
from zesty_lark.core.measure.maps.pattern import compare_pattern
from zesty_lark.core.measure.maps.surface_map import SurfaceMap, Taking, doubt_of
from zesty_lark.core.measure.maps.view import ground_at, plate_of
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.simulated.hidden import HiddenSurface

NOW = datetime(2026, 11, 26, 9, tzinfo=UTC)


def sampled(surface: HiddenSurface, columns: int, rows: int) -> list[list[float]]:
    laid = grid(length_mm=surface.length_mm, width_mm=surface.width_mm, columns=columns, rows=rows)
    return [[place.x_mm, place.y_mm, surface.height_um(place.x_mm, place.y_mm)] for place in laid.places]


def area(outline: tuple[tuple[float, float], ...]) -> float:
    """Signed, so that holes count against what they are in."""
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(outline, outline[1:] + outline[:1], strict=True)) / 2


def test_a_grid_is_walked_to_and_fro_and_starts_at_the_front_left() -> None:
    laid = grid(length_mm=100, width_mm=50, columns=3, rows=3)
    assert [(place.x_mm, place.y_mm) for place in laid.places] == [
        (8, 4), (50, 4), (92, 4), (92, 25), (50, 25), (8, 25), (8, 46), (50, 46), (92, 46),
    ]  # fmt: skip


@given(st.integers(2, 12), st.integers(2, 12), st.floats(5, 900), st.floats(5, 900))
def test_no_step_of_a_walk_is_longer_than_from_one_place_to_its_neighbour(
    columns: int, rows: int, length: float, width: float
) -> None:
    places = grid(length_mm=length, width_mm=width, columns=columns, rows=rows).places
    assert len(set(places)) == columns * rows
    longest = max(length / (columns - 1), width / (rows - 1))
    for one, other in zip(places, places[1:], strict=False):
        assert math.hypot(one.x_mm - other.x_mm, one.y_mm - other.y_mm) <= longest + 0.01
    assert all(0 < place.x_mm < length and 0 < place.y_mm < width for place in places)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("1 2\n3", "Line 2"),
        ("1 2 3", "two numbers"),
        ("1 2\n3 4", "3 to"),
        ("1 2\n1 2\n3 4", "one point"),
        ("1 1\n2 2\n3 3", "in a line"),
        ("1 nan\n2 2\n3 3", "Line 1"),
    ],
)
def test_points_that_are_none_get_a_sentence(text: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        free_points(text)


def test_patches_are_read_as_they_are_written_down() -> None:
    laid = patches_from_text("left rail 0 0 100 10 3 1\nright rail, 0, 60, 100, 10, 3, 1")
    assert laid.patches == ("left rail", "right rail")
    assert [place.patch for place in laid.places] == [0, 0, 0, 1, 1, 1]
    assert laid.places[0] == Place(8, 5, 0) and laid.places[3] == Place(8, 65, 1)
    for wrong in ("rail 0 0 100 10 3", "0 0 100 10 3 1", "rail 0 0 0 10 3 1", "rail 0 0 9 9 1.5 2"):
        with pytest.raises(InputError, match="Line 1 is not a patch"):
            patches_from_text(wrong)


def test_a_map_is_taken_place_by_place_the_first_again_at_the_end() -> None:
    laid = Layout((Place(0, 0), Place(10, 0), Place(0, 10)))
    taking = Taking(laid, {})
    for number, value in enumerate(("1.0", "2.0", "3.0", "1.3")):
        assert taking.next == number and taking.place(number) == laid.places[number % 3]
        with pytest.raises(ValueError, match="missing"):
            taking.whole("machine")
        taking = Taking(laid, taking.readings | {number: Decimal(value)})
    assert taking.next is None
    whole = taking.whole("machine")
    assert whole.points == ((0, 0, 1.0), (10, 0, 2.0), (0, 10, 3.0)), "as it was read"
    assert [z for _, _, z in whole.level] == pytest.approx([1.0, 1.9, 2.8])
    assert whole.drift is not None and whole.drift.accepted
    drifted = Taking(laid, taking.readings | {3: Decimal("2.01")}).whole("machine").drift
    assert drifted is not None and not drifted.accepted


def test_a_height_that_cannot_be_meant_is_asked_about() -> None:
    before = [Decimal("1.2"), Decimal("3.4")]
    assert doubt_of(Decimal("5"), before) == "" and doubt_of(Decimal("500"), []) == ""
    assert "slip of ten" in doubt_of(Decimal("60"), before)
    assert "thousandths" in doubt_of(Decimal("400"), before) or "slip of ten" in doubt_of(Decimal("400"), before)
    assert "off the rest" in doubt_of(Decimal("5000"), before)


def test_a_map_comes_to_what_the_calculation_says() -> None:
    points = sampled(HiddenSurface(), 5, 5)
    found = SurfaceMap("plate", tuple((x, y, z) for x, y, z in points), points[0][2]).analysis
    told = answer("map.analyse", {"points": points, "frame": "plate"})
    for name in ("range_um", "minzone_flatness_um", "ls_flatness_um", "slope_x_um_per_100"):
        assert getattr(found, name) == pytest.approx(told[name], abs=1e-12), name
    assert list(found.held_by) == told["held_by"] and found.proves_flatness


@settings(max_examples=40, deadline=None)
@example(HiddenSurface(hollow_um=1.0, along_um=0.0, across_um=0.0, wave_um=0.0), 4, 4)
@given(
    st.builds(
        HiddenSurface,
        hollow_um=st.floats(-9, 9),
        along_um=st.floats(-9, 9),
        across_um=st.floats(-9, 9),
        wave_um=st.floats(0, 1),
    ),
    st.integers(3, 6),
    st.integers(3, 6),
)
def test_the_areas_drawn_cover_the_map_once_and_the_feather_line_is_the_share(
    surface: HiddenSurface, columns: int, rows: int
) -> None:
    points = sampled(surface, columns, rows)
    found = map_analyse(points=points, frame="machine")
    if found.range_um < 0.05:
        return
    whole = (points[columns - 1][0] - points[0][0]) * (points[-1][1] - points[0][1])
    heights = [z for _, _, z in points]
    low, high = min(heights), max(heights)
    drawn = sum(abs(sum(area(line) for line in band.outlines)) for band in bands(laid(points), low, high))
    assert drawn == pytest.approx(whole, rel=0.01)
    depth = found.range_um * 0.4
    share = map_feather(points=points, depths_um=[depth]).cleaned_share[0]
    ground = abs(sum(area(line) for line in ground_area(laid(points), depth, high)))
    assert ground / whole == pytest.approx(share, abs=0.02)


def test_nothing_is_ground_at_no_depth_and_all_of_it_beyond_the_range() -> None:
    whole = SurfaceMap("machine", tuple((x, y, z) for x, y, z in sampled(HiddenSurface(), 6, 4)))
    high = whole.analysis.range_um
    none, half, all_of_it = ground_at(whole, [0.0, high / 2, high], drawn=3)
    assert none.share == 0 and none.outlines == () and all_of_it.share == pytest.approx(1)
    assert 0 < half.share < 1 and 0 < half.stock_mm3 < all_of_it.stock_mm3


def test_a_grid_is_laid_over_the_same_triangles_as_the_share() -> None:
    points = [[0, 0, 0], [10, 0, 0], [0, 10, 0], [10, 10, 8]]
    found = gridded(tuple(tuple(map(float, point)) for point in points), 10)
    assert found.heights[0].max() == 0 and found.heights[-1, -1] == 8
    assert found.heights[2, 5] == pytest.approx(8 * 0.2), "below the diagonal a plane through the far corner"
    assert np.all(found.heights >= 0)


def test_rails_are_coplanar_within_the_zone_of_all_of_them_together() -> None:
    laid = patches_from_text("left 0 0 100 10 3 2\nright 0 60 100 10 3 2")
    points = tuple((p.x_mm, p.y_mm, (4.0 if p.patch else 0.0) + 0.02 * p.x_mm * p.patch) for p in laid.places)
    found = coplanarity(SurfaceMap("plate", points, None, tuple(place.patch for place in laid.places), laid.patches))
    one = map_analyse(points=[list(point) for point in points], frame="plate").minzone_flatness_um
    assert found.zone_um == pytest.approx(one)
    assert [patch.name for patch in found.patches] == ["left", "right"]
    assert found.patches[1].slope_x_um_per_100 == pytest.approx(2.0)
    assert found.patches[1].height_um - found.patches[0].height_um == pytest.approx(5.0)
    plate = plate_of(SurfaceMap("plate", points, None, tuple(each.patch for each in laid.places), laid.patches))
    assert len(plate.outlines) == 2 and plate.points[plate.high][2] == max(z for _, _, z in points)


def test_two_maps_are_compared_without_their_zeros() -> None:
    before = sampled(HiddenSurface(), 5, 5)
    after = [[x, y, z + 7.0 + (3.0 if abs(x - 44) < 1 and abs(y - 27) < 1 else 0.0)] for x, y, z in before]
    change = compare(before, after)
    assert change.range_um == pytest.approx(3.0) and change.points[change.most][:2] == [44.0, 27.0]
    with pytest.raises(InputError, match="hardly lie over"):
        compare(before, [[x + 500, y, z] for x, y, z in after])


SLOPE = [[x, y, 10.0 - x / 10] for y in (0, 25, 50) for x in range(0, 101, 20)]


def seen_at(depth: float) -> dict[int, bool]:
    return {number: z > 10.0 - depth for number, (_, _, z) in enumerate(SLOPE)}


def test_a_pattern_that_is_as_predicted_lets_the_map_be_trusted() -> None:
    found = compare_pattern(SLOPE, 5.0, seen_at(5.0))
    assert found.agrees and found.share == 1 and found.cause == "" and "trusted" in found.words


@pytest.mark.parametrize(
    ("flip", "cause"),
    [
        ({4: True, 5: True, 10: True}, "dirt"),
        ({0: False, 6: False}, "holding"),
        ({0: False, 5: True, 11: True}, "mixed"),
    ],
)
def test_a_pattern_that_differs_says_what_it_points_to(flip: dict[int, bool], cause: str) -> None:
    found = compare_pattern(SLOPE, 5.0, seen_at(5.0) | flip)
    assert not found.agrees and found.cause == cause and set(found.extra) | set(found.missing) <= set(flip)


def test_more_ground_in_the_middle_is_heat_and_places_at_the_line_count_for_nothing() -> None:
    bowl = [[x, y, ((x - 40) ** 2 + (y - 40) ** 2) / 320] for y in range(0, 81, 20) for x in range(0, 81, 20)]
    seen = {number: z > 10.0 - 5.0 for number, (_, _, z) in enumerate(bowl)}
    assert compare_pattern(bowl, 5.0, seen | {12: True, 11: True, 13: True}).cause == "heat"
    edge = min(range(len(bowl)), key=lambda number: abs(bowl[number][2] - 5.0))
    assert compare_pattern(bowl, 5.0, seen | {edge: not seen[edge]}).agrees


def past(*ranges: float) -> list[MapInTime]:
    begins = NOW - timedelta(days=365 * (len(ranges) - 1))
    return [MapInTime(begins + timedelta(days=365 * year), each) for year, each in enumerate(ranges)]


def test_a_chuck_is_due_when_its_range_passes_its_limit() -> None:
    found = outlook(past(2.0, 4.2, 7.0), 5.0, NOW)
    assert found.due and found.take_um == pytest.approx(9.5) and found.passes == 4 and "due" in found.words
    assert not outlook(past(4.9), 5.0, NOW).due and outlook(past(4.9), 5.0, NOW).um_a_year is None


def test_a_chuck_s_years_tell_when_it_will_be_due_and_a_grinding_starts_them_again() -> None:
    found = outlook(past(2.0, 3.0, 4.0), 5.0, NOW)
    assert found.um_a_year == pytest.approx(1.0) and not found.soon
    assert found.due_on is not None and abs((found.due_on - NOW).days - 365) <= 1
    assert outlook(past(2.0, 3.0, 4.0, 4.9), 5.0, NOW).soon
    assert outlook(past(2.0, 6.0, 1.0, 1.5), 5.0, NOW).um_a_year == pytest.approx(0.5)
    assert outlook(past(3.0, 2.9, 2.8), 5.0, NOW).due_on is None


def test_light_cuts_are_counted_up() -> None:
    assert [passes_for(each) for each in (0.1, 2.5, 2.6, 7.5)] == [1, 1, 2, 3]


def test_a_big_scattered_map_keeps_its_high_and_low_when_it_is_drawn() -> None:
    draw = random.Random(7)
    surface = HiddenSurface(400, 200, wave_um=0)
    points = []
    for _ in range(24_000):
        x, y = draw.uniform(0, 400), draw.uniform(0, 200)
        points.append((x, y, surface.height_um(x, y)))
    points[12_345] = (200.0, 100.0, 40.0)
    heights = gridded(tuple(points), 96).heights
    assert heights.max() > 5.0, "the one high point is not thinned away"
    assert plate_of(SurfaceMap("machine", tuple(points))).high == 12_345


def test_the_areas_of_a_change_lie_evenly_about_zero() -> None:
    points = tuple((float(x), float(y), x / 10 - 2.0) for y in range(0, 41, 20) for x in range(0, 101, 20))
    plate = plate_of(SurfaceMap("machine", points), about_zero=True)
    middle = next(band for band in plate.bands if band.number == 0)
    assert middle.from_um == pytest.approx(-middle.to_um) and plate.bands[-1].to_um == pytest.approx(8.0)
    heights = plate_of(SurfaceMap("machine", points))
    assert heights.bands[0].from_um == -2.0 and heights.bands[-1].to_um == 8.0

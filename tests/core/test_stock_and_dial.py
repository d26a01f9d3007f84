"""Stock is shared without loss, and the collar never goes past it."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core.calc import answer
from zesty_lark.core.part import dial
from zesty_lark.core.part.dial import next_shown, on_collar
from zesty_lark.core.part.stock import mill_first, size_goal, split
from zesty_lark.core.part.surfaces.block_face import pair_stock
from zesty_lark.core.part.surfaces.part import AXES, Block, PairSize, Sharing
from zesty_lark.core.quantities.numbers import InputError

D = Decimal
SMALL = st.decimals(min_value=0, max_value="0.6", places=4)
GRADUATIONS = st.sampled_from([Decimal("0.00254"), Decimal("0.002"), Decimal("0.0127"), Decimal("0.01")])


def shared(**more: object):  # type: ignore[no-untyped-def]
    given_values = {
        "measured_max_mm": Decimal("22.262"),
        "measured_min_mm": Decimal("22.214"),
        "target_mm": Decimal("22"),
        "tol_minus_mm": Decimal("0.003"),
        "tol_plus_mm": Decimal("0.003"),
        "first_cleanup_mm": Decimal("0.041"),
        "second_cleanup_mm": Decimal("0.036"),
        "min_skin_mm": Decimal("0.005"),
    }
    return split(**(given_values | more))  # type: ignore[arg-type]


@given(
    SMALL,
    SMALL,
    SMALL,
    st.decimals(min_value=0, max_value="0.05", places=4),
    st.none() | st.decimals(min_value=0, max_value=1, places=2),
)
def test_the_two_faces_share_all_the_stock(
    total: Decimal, first: Decimal, second: Decimal, skin: Decimal, share: Decimal | None
) -> None:
    result = shared(
        measured_max_mm=22 + total,
        measured_min_mm=Decimal(22),
        first_cleanup_mm=first,
        second_cleanup_mm=second,
        min_skin_mm=skin,
        first_share=share,
    )
    assert result.first_face_mm >= 0 and result.second_face_mm >= 0
    assert result.first_face_mm + result.second_face_mm == max(result.total_stock_mm, 0)
    if result.spare_mm >= 0:
        assert result.first_face_mm >= first + skin and result.second_face_mm >= second + skin


def test_clean_ups_that_contradict_the_thickness_are_told() -> None:
    assert shared(first_cleanup_mm=Decimal("0.01"), second_cleanup_mm=Decimal("0.01")).contradiction
    assert not shared().contradiction


@pytest.mark.parametrize(
    "wrong",
    [
        {"measured_min_mm": Decimal("23")},
        {"first_share": Decimal("1.1")},
        {"min_skin_mm": Decimal("-0.1")},
        {"measured_min_mm": Decimal(0)},
    ],
)
def test_impossible_stock_is_refused(wrong: dict[str, Decimal]) -> None:
    with pytest.raises(ValueError):
        shared(**wrong)


def test_much_stock_or_a_wedge_belongs_on_the_mill() -> None:
    assert "mill first" in mill_first(Decimal("0.26"), 10, soft=True) and "mill first" in mill_first(
        Decimal(0), 61, soft=True
    )
    assert mill_first(Decimal("0.25"), 60, soft=True) == "" and mill_first(Decimal("0.9"), 60, soft=False) == ""
    assert "lead" in mill_first(Decimal(0), 61, soft=False) and "mill" not in mill_first(Decimal("0.9"), 61, soft=False)


@given(SMALL, GRADUATIONS, st.integers(1, 30), st.integers(1, 6), st.integers(0, 4), st.integers(0, 89))
def test_the_collar_never_passes_the_stock_and_misses_by_less_than_a_graduation(
    stock: Decimal, graduation: Decimal, rough: int, finish: int, finish_passes: int, angle: int
) -> None:
    plan = dial.plan(
        stock_mm=stock,
        graduation_mm=graduation,
        rough_mm=rough * graduation,
        finish_mm=finish * graduation,
        finish_passes=finish_passes,
        per_rev_mm=graduation * 100,
        feed_normal_angle_deg=float(angle),
    )
    assert sum(each.step_mm for each in plan.passes) == plan.downfeed_total_mm
    assert 0 <= plan.left_on_mm <= graduation
    roughing = [one_pass.step_mm for one_pass in plan.passes if one_pass.kind == "rough"]
    assert all(step == rough * graduation for step in roughing[1:])
    assert sum(each.kind == "finish" for each in plan.passes) <= finish_passes
    assert all(each.revs * graduation * 100 + each.on_collar_mm == each.reading_mm for each in plan.passes)


def test_at_45_degrees_the_collar_goes_further_than_the_wall() -> None:
    plan = dial.plan(
        stock_mm=Decimal("0.1"),
        graduation_mm=Decimal("0.001"),
        rough_mm=Decimal("0.01"),
        finish_mm=Decimal("0.01"),
        finish_passes=0,
        per_rev_mm=Decimal(1),
        feed_normal_angle_deg=45,
    )
    assert plan.downfeed_total_mm == Decimal("0.141")


@pytest.mark.parametrize(
    ("field", "wrong"),
    [
        ("rough_mm", {"rough_mm": Decimal("0.001")}),
        ("finish_mm", {"finish_mm": Decimal("0.0019")}),
        ("graduation_mm", {"graduation_mm": Decimal(0)}),
        ("per_rev_mm", {"per_rev_mm": Decimal(0)}),
        ("stock_mm", {"stock_mm": Decimal("-0.1")}),
        ("finish_passes", {"finish_passes": -1}),
        ("feed_normal_angle_deg", {"feed_normal_angle_deg": 90.0}),
    ],
)
def test_a_step_the_dial_cannot_make_names_its_field(field: str, wrong: dict[str, object]) -> None:
    values: dict[str, object] = {
        "stock_mm": Decimal("0.1"),
        "graduation_mm": Decimal("0.002"),
        "rough_mm": Decimal("0.02"),
        "finish_mm": Decimal("0.004"),
        "finish_passes": 2,
        "per_rev_mm": Decimal("0.5"),
    }
    with pytest.raises(dial.GraduationError) as error:
        dial.plan(**(values | wrong))  # type: ignore[arg-type]
    assert error.value.field == field


def sharing_of(
    most: str,
    least: str,
    target: str = "10",
    minus: str = "0.01",
    plus: str = "0.01",
    cleanup: tuple[str, str] = ("0.05", "0.05"),
    **more: str,
) -> dict[str, object]:
    return answer(
        "stock.split",
        {
            "measured_max_mm": most,
            "measured_min_mm": least,
            "target_mm": target,
            "tol_minus_mm": minus,
            "tol_plus_mm": plus,
            "first_cleanup_mm": cleanup[0],
            "second_cleanup_mm": cleanup[1],
            "min_skin_mm": "0.005",
            **more,
        },
    )


@pytest.mark.parametrize(
    ("most", "least", "says"),
    [
        ("10.11", "10.06", "cleans up"),
        ("10.1", "10.06", "cleans up"),
        ("10.099", "10.02", "may clean up"),
        ("10.06", "10.0", "may clean up"),
        ("10.049", "10.0", "does not"),
        ("10.06", "9.989", "does not"),
    ],
)
def test_three_answers_on_clean_up(most: str, least: str, says: str) -> None:
    """By the sum of both; by the second face's own form once the first is true; or not."""
    assert sharing_of(most, least)["answer"] == says


def block(cleanup: str = "0.05", **size: str) -> Block:
    made = PairSize(
        **{
            f"{name}_mm": Decimal(value)
            for name, value in (
                {
                    "target": "10",
                    "tol_minus": "0.01",
                    "tol_plus": "0.01",
                    "measured_max": "10.3",
                    "measured_min": "10.28",
                }
                | size
            ).items()
        }
    )
    return Block({axis: made for axis in AXES}, {face: Decimal(cleanup) for face in range(1, 7)}, (1, 3, 4))


def test_the_second_face_keeps_its_whole_need_where_only_the_tolerance_saves_it() -> None:
    made = pair_stock(block(measured_max="10.105", measured_min="10.06"), "thickness", Sharing(Decimal("0.005")))
    assert made.split.spare_mm == Decimal("-0.005") and made.split.answer == "cleans up"
    assert made.split.first_face_mm == made.split.second_face_mm == Decimal("0.055") and made.ends_at_mm == Decimal(
        "9.995"
    )


@given(
    st.sampled_from([("0.01", "0"), ("0", "0.01"), ("0.005", "0.005"), ("0.002", "0.018")]),
    st.sampled_from(["0", "0.004"]),
)
def test_a_pair_ends_in_the_middle_of_its_zone_and_what_is_to_be_left_on(zone: tuple[str, str], leave: str) -> None:
    made = pair_stock(block(tol_minus=zone[0], tol_plus=zone[1], leave=leave), "thickness", Sharing(Decimal("0.005")))
    goal = answer("size.goal", {"target_mm": "10", "tol_minus_mm": zone[0], "tol_plus_mm": zone[1]})
    assert made.ends_at_mm == Decimal(str(goal["goal_mm"])) + Decimal(leave)
    assert made.split.first_face_mm + made.split.second_face_mm == Decimal("10.3") - made.ends_at_mm


@given(st.decimals("0", "3", places=4), st.decimals("0", "0.49", places=4))
def test_the_dial_next_shows_what_was_typed_further_down(start: Decimal, shown: Decimal) -> None:
    found = next_shown(shown, start, Decimal("0.5"))
    assert found > start and found - start <= Decimal("0.5") and on_collar(found, Decimal("0.5"))[1] == shown


@pytest.mark.parametrize(
    ("target", "minus", "plus", "goal", "half"),
    [
        ("22", "0.003", "0.003", "22", "0.003"),
        ("22", "0.010", "0", "21.995", "0.005"),
        ("22", "0", "0.010", "22.005", "0.005"),
        ("22", "0.002", "0.008", "22.003", "0.005"),
    ],
)
def test_the_goal_is_the_middle_of_the_zone(target: str, minus: str, plus: str, goal: str, half: str) -> None:
    made = size_goal(target_mm=D(target), tol_minus_mm=D(minus), tol_plus_mm=D(plus))
    assert (made.goal_mm, made.half_tolerance_mm) == (D(goal), D(half))


def test_a_tolerance_that_leaves_nothing_of_the_size_is_refused() -> None:
    assert size_goal(target_mm=D("0.1"), tol_minus_mm=D("0.09"), tol_plus_mm=D(0)).goal_mm == D("0.055")
    for minus in ("0.1", "0.2"):
        with pytest.raises(InputError, match="under target_mm"):
            size_goal(target_mm=D("0.1"), tol_minus_mm=D(minus), tol_plus_mm=D(0))


@pytest.mark.parametrize(
    ("most", "least", "at_target", "answer"),
    [
        ("10.12", "10.06", True, "cleans up"),
        ("10.10", "10.00", True, "cleans up"),
        ("10.0999", "10.00", False, "cleans up"),
        ("10.09", "10.02", False, "cleans up"),
        ("10.0899", "10.02", False, "may clean up"),
        ("10.12", "9.9999", False, "cleans up"),
        ("10.12", "9.9899", False, "does not"),
        ("10.039", "10.039", False, "does not"),
    ],
)
def test_clean_up_at_the_target_or_only_within_the_tolerance(
    most: str, least: str, at_target: bool, answer: str
) -> None:
    made = split(
        measured_max_mm=D(most),
        measured_min_mm=D(least),
        target_mm=D(10),
        tol_minus_mm=D("0.01"),
        tol_plus_mm=D("0.01"),
        first_cleanup_mm=D("0.045"),
        second_cleanup_mm=D("0.045"),
        min_skin_mm=D("0.005"),
    )
    assert (made.cleans_up, made.answer) == (at_target, answer)

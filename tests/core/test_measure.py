"""Uncertainty and verdict: what may be called in, and the sentence that says so."""

import math
from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core.measure.next_cut import NextCut, next_cut
from zesty_lark.core.measure.sentence import sentence
from zesty_lark.core.measure.thickness import Gauge, expanded_uncertainty, is_hot, judge, temperature_u
from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.part.sizes import Reading, Size, corrected, growth, judge_zone, parallel_decision, verdict

D = Decimal
SIZE = Size(D(22), D("0.003"), D("0.003"))
GAUGE = Gauge(D("0.001"), D("0.001"), D("0.0008"), D("0.0004"))
UNITS = ShownUnits("mm", "in", D("0.00254"))
VALUES = st.decimals(min_value="21.99", max_value="22.01", places=5)


def readings(*values: str) -> list[Reading]:
    return [Reading(f"place {number}", D(value)) for number, value in enumerate(values, start=1)]


def test_uncertainty_is_the_root_sum_square_of_its_parts() -> None:
    parts = (0.001 / 2 / math.sqrt(3), 0.001 / math.sqrt(3), 0.0008 / 2, 0.0004, 22 * 11.5e-6 * 0.5)
    expected = 2 * math.sqrt(sum(part**2 for part in parts))
    got = expanded_uncertainty(GAUGE, 22)
    assert 0 <= float(got) - expected < 1.1e-5  # rounded up to 0.01 µm


def test_repeating_a_reading_helps_only_its_repeatability() -> None:
    shaky = replace(GAUGE, repeatability_mm=D("0.01"))
    assert expanded_uncertainty(shaky, 22, readings_each=25) < expanded_uncertainty(shaky, 22) / 3
    with pytest.raises(ValueError):
        expanded_uncertainty(GAUGE, 22, readings_each=0)
    with pytest.raises(ValueError):
        expanded_uncertainty(GAUGE, 0)


@given(VALUES, st.decimals(min_value=0, max_value="0.002", places=5))
def test_a_larger_uncertainty_never_turns_unsure_into_in(value: Decimal, uncertainty: Decimal) -> None:
    if verdict(value, SIZE.lower_mm, SIZE.upper_mm, uncertainty) != "in":
        assert verdict(value, SIZE.lower_mm, SIZE.upper_mm, uncertainty * 2) != "in"


@given(VALUES)
def test_without_uncertainty_there_is_no_unsure(value: Decimal) -> None:
    assert (verdict(value, SIZE.lower_mm, SIZE.upper_mm, D(0)) == "in") == (SIZE.lower_mm <= value <= SIZE.upper_mm)


def test_limits_the_wrong_way_round_are_refused() -> None:
    with pytest.raises(ValueError):
        verdict(D(1), D(2), D(1), D(0))
    with pytest.raises(ValueError):
        verdict(D(1), D(0), D(2), D(-1))


def test_the_verdict_takes_the_worst_place() -> None:
    assert judge(readings("22.000", "22.001"), SIZE, D("0.0009")).verdict == "in"
    assert judge(readings("22.000", "22.0025"), SIZE, D("0.0009")).verdict == "unsure"
    assert judge(readings("22.000", "22.0055"), SIZE, D("0.0009")).verdict == "not yet"
    assert judge(readings("21.995", "22.0055"), SIZE, D("0.0009")).verdict == "out", (
        "what cannot be put back comes first"
    )
    with pytest.raises(ValueError):
        judge([], SIZE, D("0.0009"))


def test_a_hot_part_or_an_overdue_gauge_is_never_in() -> None:
    assert judge(readings("22"), SIZE, D("0.0009"), hot=True).verdict == "unsure"
    assert judge(readings("22"), SIZE, D("0.0009"), overdue=True).verdict == "unsure"


def test_parallelism_is_judged_too() -> None:
    out = judge(readings("21.9985", "22.0015"), SIZE, D("0.0009"), parallel_mm=D("0.002"))
    assert out.parallel == "out" and out.verdict == "out" and out.spread_mm == D("0.003")
    near = judge(readings("21.9985", "22.0015"), SIZE, D("0.0009"), parallel_mm=D("0.003"))
    assert near.parallel == "unsure" and near.verdict == "unsure"
    assert judge(readings("22"), SIZE, D("0.0009"), parallel_mm=D("0.002")).parallel is None


def test_what_counts_as_warm_is_warmer_than_the_room() -> None:
    assert growth(25, 1) == pytest.approx(0.29e-3, rel=0.01)
    assert is_hot(22, 23.0, 20.0, 0.006) and not is_hot(22, 21.0, 20.0, 0.006)
    assert not is_hot(22, 23.0, 23.0, 0.006), "a part at 23 °C in a room at 23 °C is not warm"
    assert is_hot(22, 26.0, 23.0, 0.006) and not is_hot(22, 20.0, 26.0, 0.006)


@pytest.mark.parametrize(
    ("part", "gauge", "room", "got"),
    [
        ("21", None, None, "99.99885"),
        ("20", None, None, "100"),
        ("23", "23", "23", "100"),
        ("23", None, "23", "100"),
        ("24", "23", "21", "99.99885"),
        ("22", "23", None, "100.00115"),
    ],
)
def test_only_the_difference_of_part_and_gauge_is_taken_out(
    part: str, gauge: str | None, room: str | None, got: str
) -> None:
    made = corrected(
        Reading("middle", D("100")), D(part), None if gauge is None else D(gauge), None if room is None else D(room)
    )
    assert made.value_mm == D(got)


def test_a_degree_nobody_took_is_part_of_the_uncertainty() -> None:
    assert temperature_u(taken=True, rise_c=9) == 0.3 and temperature_u(taken=False) == 0.5
    assert temperature_u(taken=False, rise_c=6) == pytest.approx(math.sqrt(0.25 + 36 / 3))
    calm, warm = (
        expanded_uncertainty(GAUGE, 22, temperature_u_c=temperature_u(taken=False, rise_c=rise)) for rise in (0, 6)
    )
    assert warm > calm + D("0.0005")


def test_a_form_is_judged_by_its_worst_reading() -> None:
    assert judge_zone(readings("0.001", "0.0015"), D("0.002"), D("0.0005")) == "in"
    assert judge_zone(readings("0.001", "0.0016"), D("0.002"), D("0.0005")) == "unsure"
    assert judge_zone(readings("0.001", "0.0026"), D("0.002"), D("0.0005")) == "out"
    assert judge_zone(readings("0.001", "0.0025"), D("0.002"), D("0.0005")) == "unsure"
    assert judge_zone(readings("0.001"), D("0.002"), D("0.0005"), overdue=True) == "unsure"
    with pytest.raises(ValueError):
        judge_zone([], D("0.002"), D("0.0005"))


def test_the_goal_is_the_middle_of_the_zone_in_what_remains() -> None:
    lower = Size(D(22), D("0.010"), D(0))
    assert lower.goal_mm == D("21.995") and lower.zone_depths(D("0.1")) == (D("0.095"), D("0.105"))
    assert judge(readings("22.02"), lower, D("0.001")).remaining_mm == D("0.025")
    assert judge(readings("22.02"), lower, D("0.001"), goal_mm=D("22")).remaining_mm == D("0.020")


@pytest.mark.parametrize(
    ("value", "held", "cut"),
    [
        ("22.0241", "0", NextCut("take", D("0.02286"), certain=True)),
        ("22.0241", "0.004", NextCut("take", D("0.01778"))),
        ("22.0041", "0.003", NextCut("spark out")),
        ("22.0005", "0", NextCut("nothing")),
        ("21.995", "0", NextCut("nothing")),
        ("22.0023", "0", NextCut("take", D("0.00254"), certain=True)),
        ("21.9975", "0", NextCut("nothing")),
    ],
)
def test_one_number_for_one_cut(value: str, held: str, cut: NextCut) -> None:
    made = next_cut(judge(readings(value), SIZE, D("0.0009")), SIZE, D(22), D("0.00254"), held_back_mm=D(held))
    assert made == cut and made.amount_mm % D("0.00254") == 0


def test_a_zone_that_a_dial_cannot_split_is_said() -> None:
    fine = Size(D(22), D("0.0005"), D("0.0005"))
    judged = judge(readings("22.0019"), fine, D("0.0002"))
    assert judged.over and next_cut(judged, fine, D(22), D("0.00254")) == NextCut("nothing")
    assert "cannot be split" in sentence(judged, NextCut("nothing"), UNITS)
    wide = Size(D(22), D("0.002"), D("0.0005"))
    judged = judge(readings("22.0011"), wide, D("0.0002"))
    assert next_cut(judged, wide, wide.goal_mm, D("0.00254")).amount_mm == D("0.00254")


@given(
    st.decimals(min_value="21.98", max_value="22.05", places=4),
    st.decimals(min_value="0.0001", max_value="0.002", places=4),
)
def test_a_cut_never_passes_the_goal_and_a_certain_one_ends_in(value: Decimal, u: Decimal) -> None:
    judged = judge([Reading("p", value)], SIZE, u)
    cut = next_cut(judged, SIZE, D(22), D("0.00254"))
    if cut.what == "take" and judged.over and cut.amount_mm > D("0.00254"):
        assert value - cut.amount_mm >= 22
    if cut.certain:
        for truth in (value - u, value + u):
            assert SIZE.lower_mm <= truth - cut.amount_mm <= SIZE.upper_mm


@pytest.mark.parametrize(
    ("value", "uncertainty", "says"),
    [
        ("22.0041", "0.0009", "Not there yet: 22.0041 mm ± 0.0009 mm. Take 1 tenth more, then spark out."),
        ("22.0005", "0.0009", "In: 22.0005 mm ± 0.0009 mm. Nothing more to take."),
        ("21.9950", "0.0009", "Under size: place 1 is 21.995 mm. It cannot be put back; stop and tell the lead."),
        (
            "22.0000",
            "0.0040",
            "Unsure: with ± 0.004 mm this gauge could call nothing in. Do not cut; measure with a better one.",
        ),
        (
            "22.0023",
            "0.0009",
            "Unsure: 22.0023 mm ± 0.0009 mm (0.9 tenths over the middle of the zone). "
            "Measure better; or take 1 tenth: then it is in whichever end of ± is true.",
        ),
        (
            "21.9975",
            "0.0009",
            "Unsure: 21.9975 mm ± 0.0009 mm. Do not cut: measure better, with another gauge or more readings.",
        ),
    ],
)
def test_one_plain_sentence(value: str, uncertainty: str, says: str) -> None:
    judged = judge(readings(value), SIZE, D(uncertainty))
    assert sentence(judged, next_cut(judged, SIZE, D(22), UNITS.graduation_mm), UNITS) == says


def test_the_sentence_says_why_in_is_held_back() -> None:
    assert "warm" in sentence(judge(readings("22"), SIZE, D("0.0009"), hot=True), NextCut("nothing"), UNITS)
    assert "calibration" in sentence(judge(readings("22"), SIZE, D("0.0009"), overdue=True), NextCut("nothing"), UNITS)
    tilted = judge(readings("21.9985", "22.0015"), SIZE, D("0.0009"), parallel_mm=D("0.002"))
    assert "Not parallel" in sentence(tilted, NextCut("nothing"), UNITS, parallel_mm=D("0.002"))


@pytest.mark.parametrize(
    ("values", "u", "graduation", "goal", "held", "wanted"),
    [
        (("22.009",), "0.001", "0.002", "22", "0", ("take", "0.008", True)),
        (("22.009",), "0.001", "0.002", "22", "0.003", ("take", "0.006", True)),
        (("22.009", "22.005"), "0.001", "0.002", "22", "0", ("take", "0.008", False)),
        (("22.0045",), "0.001", "0.003", "22", "0", ("take", "0.003", True)),
        (("22.0045",), "0.001", "0.0045", "22", "0", ("take", "0.0045", True)),
        (("22.005",), "0.001", "0.008", "22", "0", ("take", "0.008", False)),
        (("22.005",), "0.001", "0.0081", "22", "0", ("nothing", "0", False)),
        (("22.005",), "0.001", "0.008", "22", "0.001", ("spark out", "0", False)),
        (("22.005",), "0.001", "0.008", "22", "0.0005", ("nothing", "0", False)),
        (("22.0035",), "0.001", "0.002", "22", "0", ("take", "0.004", True)),
        (("22.0025",), "0.001", "0.002", "22", "0", ("take", "0.002", True)),
        (("22.004",), "0.001", "0.002", "22.002", "0", ("take", "0.002", True)),
        (("22.003",), "0.001", "0.005", "22", "0", ("take", "0.005", True)),
        (("22.003",), "0.001", "0.0051", "22", "0", ("nothing", "0", False)),
        (("22.0035", "21.9992"), "0.001", "0.002", "22", "0", ("nothing", "0", False)),
        (("22.0035", "22.0015"), "0.001", "0.002", "22", "0", ("take", "0.002", True)),
        (("22.000",), "0.001", "0.002", "22", "0", ("nothing", "0", False)),
        (("21.990",), "0.001", "0.002", "22", "0", ("nothing", "0", False)),
    ],
)
def test_the_next_cut_is_whole_graduations_and_said_once(
    values: tuple[str, ...], u: str, graduation: str, goal: str, held: str, wanted: tuple[str, str, bool]
) -> None:
    made = next_cut(judge(readings(*values), SIZE, D(u)), SIZE, D(goal), D(graduation), held_back_mm=D(held))
    assert (made.what, made.amount_mm, made.certain) == (wanted[0], D(wanted[1]), wanted[2])


@pytest.mark.parametrize(
    ("value", "u", "word"),
    [
        ("21.998", "0.001", "in"),
        ("21.99799", "0.001", "unsure"),
        ("22.002", "0.001", "in"),
        ("22.00201", "0.001", "unsure"),
        ("21.996", "0.001", "unsure"),
        ("21.99599", "0.001", "out"),
        ("22.004", "0.001", "unsure"),
        ("22.00401", "0.001", "out"),
    ],
)
def test_a_value_is_guarded_by_all_of_u_on_both_sides(value: str, u: str, word: str) -> None:
    assert verdict(D(value), SIZE.lower_mm, SIZE.upper_mm, D(u)) == word


def test_at_the_very_limit_it_is_not_over_not_under_and_not_hopeless() -> None:
    at = judge(readings("22.004", "21.996"), SIZE, D("0.001"))
    assert not at.over and not at.under and not at.hopeless
    assert judge(readings("22.00401"), SIZE, D("0.001")).over and judge(readings("21.99599"), SIZE, D("0.001")).under
    assert not judge(readings("22"), SIZE, D("0.003")).hopeless and judge(readings("22"), SIZE, D("0.0031")).hopeless


def test_uncertainty_is_the_root_of_its_squares() -> None:
    def u(length: float = 22.0, **more: float) -> float:
        return float(expanded_uncertainty(GAUGE, length, **more))  # type: ignore[arg-type]

    parts = (0.0005 / math.sqrt(3), 0.001 / math.sqrt(3), 0.0004)
    for count, warm in ((1, 0.3), (4, 0.3), (1, 3.0), (9, 0.1)):
        wanted = 2 * math.sqrt(sum(part**2 for part in parts) + 0.0004**2 / count + (22e0 * 11.5e-6 * warm) ** 2)
        assert u(readings_each=count, temperature_u_c=warm) == pytest.approx(wanted, abs=1.1e-5), (count, warm)
    assert u(0.5) > 0
    for wrong in ({"length": 0.0}, {"length": -1.0}, {"readings_each": 0}):
        with pytest.raises(ValueError, match="must be"):
            u(**wrong)


def test_a_part_is_warm_from_more_than_a_tenth_of_the_tolerance() -> None:
    width = 10 * growth(22.0, 3.0)
    assert (
        not is_hot(22.0, 23.0, 20.0, width) and is_hot(22.0, 23.001, 20.0, width) and not is_hot(22.0, 23.0, 23.0, 1e-9)
    )


def test_limits_may_meet_and_a_spread_on_the_line_is_in() -> None:
    assert verdict(D(22), D(22), D(22), D(0)) == "in" and verdict(D("22.0001"), D(22), D(22), D(0)) == "out"
    assert parallel_decision(D("0.002"), D("0.0028"), D("0.001")) == "in", "the guard of U = 1 µm is 0.8 µm"
    assert parallel_decision(D("0.002"), D("0.0027"), D("0.001")) == "unsure"
    assert parallel_decision(D("0.0036"), D("0.0028"), D("0.001")) == "unsure"
    assert parallel_decision(D("0.0037"), D("0.0028"), D("0.001")) == "out"


@given(
    values=st.lists(st.decimals("21.99", "22.02", places=4), min_size=1, max_size=3),
    u=st.decimals("0", "0.004", places=4),
    graduation=st.sampled_from([D("0.0005"), D("0.001"), D("0.00254"), D("0.01")]),
)
def test_the_cut_of_an_unsure_size_is_the_nearest_to_the_goal_of_all_that_are_certain(
    values: list[Decimal], u: Decimal, graduation: Decimal
) -> None:
    judged = judge([Reading("here", value) for value in values], SIZE, u)
    if judged.under or judged.over or judged.verdict == "in":
        return
    high, low = max(values), min(values)
    certain = [
        step * graduation
        for step in range(1, 200)
        if high + u - step * graduation <= SIZE.upper_mm and low - u - step * graduation >= SIZE.lower_mm
    ]
    made = next_cut(judged, SIZE, D(22), graduation)
    if not certain:
        assert made == NextCut("nothing")
        return
    nearest = min(certain, key=lambda amount: (abs((high + low) / 2 - amount - D(22)), amount))
    assert made == NextCut("take", nearest, certain=True)

"""What a gauge was found to do: judged by its own figures, kept for good, told in words."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_shop_things import TOOL
from zesty_lark.core.things.gauge import (
    GaugeFolding,
    check_gauge_entry,
    check_words,
    judged_direction,
    judged_repeat,
    judged_zero,
)
from zesty_lark.core.things.kinds import loaded_entry
from zesty_lark.core.things.log import Said, ThingEntry, ThingError, ThingNote, ThingUndone, said_of

NOW = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
um = st.floats(-1000, 1000, allow_nan=False)


def entry(what: Said, number: int = 1) -> ThingEntry:
    return ThingEntry(entry_id=f"gauge-{number:03d}", at=NOW + timedelta(minutes=number), what=what, seq=number)


@given(st.lists(um, min_size=2, max_size=9))
def test_lifts_repeat_well_within_two_steps_and_the_stated_repeatability(lifts: list[float]) -> None:
    allowed = float(2 * TOOL.resolution_mm + TOOL.repeatability_mm) * 1000
    check = judged_repeat(TOOL, lifts)
    assert check.allowed_um == pytest.approx(allowed) and check.range_um == max(lifts) - min(lifts)
    if abs(check.range_um - allowed) > 1e-6:
        assert check.good is (check.range_um < allowed)


def test_a_zero_is_good_within_a_step_and_the_stated_error() -> None:
    allowed = float(TOOL.resolution_mm + TOOL.error_limit_mm) * 1000
    for shown, good in ((allowed, True), (-allowed, True), (allowed + 0.01, False), (-allowed - 0.01, False)):
        check = judged_zero(TOOL, shown)
        assert check.good is good
        assert f"{shown:+.2f} µm" in check_words(check) and ("clean it" in check_words(check)) is not good


def test_a_lift_has_to_move_the_reading_by_a_micrometre_and_up() -> None:
    for before, lifted in ((0.0, 0.99), (5.0, 4.01)):
        with pytest.raises(ThingError, match="hardly moved"):
            judged_direction(before, lifted)
    for before, lifted, good in ((1.0, 2.0, True), (5.0, 4.0, False)):
        check = judged_direction(before, lifted)
        assert (check.good, "rises" in check_words(check)) == (good, good)


def test_the_newest_check_of_a_kind_counts_and_none_is_taken_back() -> None:
    fold = GaugeFolding(None)
    assert fold.state().latest("zero") is None
    said = [judged_zero(TOOL, 0), judged_repeat(TOOL, [0, 90]), judged_zero(TOOL, 90)]
    for number, each in enumerate(said, start=1):
        fold.add(entry(each, number))
    fold.add(entry(ThingNote(), 4))
    state = fold.state()
    assert len(state.checks) == 3 and state == GaugeFolding(None, fold.entries).state()
    assert [state.latest(kind)[1] for kind in ("zero", "repeat")] == [said[2], said[1]]  # type: ignore[index,arg-type]
    with pytest.raises(ThingError, match="check it again"):
        check_gauge_entry(entry(ThingUndone(supersedes="gauge-003"), 5), state)


def test_what_a_check_said_is_read_as_it_was_written() -> None:
    for check in (judged_zero(TOOL, 0.25), judged_repeat(TOOL, [0.1, 0.3]), judged_direction(0, 5)):
        assert loaded_entry("gauge", check.kind, said_of(check)) == check
    with pytest.raises(ValueError, match="no such entry of a gauge"):
        loaded_entry("gauge", "dressed", {})

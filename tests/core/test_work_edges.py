"""The work model at its edges: what is just enough, just too much, nothing at all, or of the other kind."""

from dataclasses import replace
from decimal import Decimal

import pytest

from tests.core.worklog import BEGIN, BRIEF, UNITS, Log, entry, plan, size, spec, started, zone
from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.work.ahead import ahead
from zesty_lark.core.work.behind import behind
from zesty_lark.core.work.cautions import FIRST_AFTER_DRESS, cautions_at
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.job_state import PieceSize, Shortfall
from zesty_lark.core.work.learned import MOST, WARM_SHARE, cut_ratio_of
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.observing import observed
from zesty_lark.core.work.rules import addressed, check_entry
from zesty_lark.core.work.run import proof_of
from zesty_lark.core.work.setups import SetUp

D = Decimal
STEP, CROSSFEED = D("0.01"), D("12.7")
GAP = Shortfall(BEGIN, 1, D("0.03"), D("0.024"), ((STEP, CROSSFEED),) * 3)


def test_a_run_tells_of_one_wipe_when_its_passes_were_alike_and_it_got_less_than_was_asked() -> None:
    found = cut_ratio_of(GAP, 12.7)
    assert found is not None and 0.05 < found < 1
    for shortfall in (
        replace(GAP, passes=GAP.passes[:2]),
        replace(GAP, passes=(*GAP.passes[:2], (D("0.02"), CROSSFEED))),
        replace(GAP, passes=(*GAP.passes[:2], (STEP, D("6")))),
        replace(GAP, passes=((STEP, None),) * 3),
        replace(GAP, got_mm=D(0)),
        replace(GAP, got_mm=D("0.0301")),
        replace(GAP, passes=((STEP, D("1")),) * 3),
        replace(GAP, got_mm=D("0.0001")),
    ):
        assert cut_ratio_of(shortfall, 12.7) is None, shortfall
    assert cut_ratio_of(replace(GAP, passes=((D(0), CROSSFEED), *GAP.passes)), 12.7) == found, "a first pass of no feed"
    nearly = cut_ratio_of(replace(GAP, got_mm=D("0.03")), 12.7)
    assert nearly is None or nearly <= MOST


def test_a_run_whose_part_grew_by_over_a_quarter_of_what_comes_short_tells_of_heat() -> None:
    short = GAP.asked_mm - GAP.got_mm
    assert GAP.short_mm == short == D("0.006")
    assert cut_ratio_of(replace(GAP, grown_mm=WARM_SHARE * short), 12.7) is not None
    assert cut_ratio_of(replace(GAP, grown_mm=WARM_SHARE * short + D("0.0001")), 12.7) is None


@pytest.mark.parametrize(("per_feed", "fed"), [("-1", "0.02"), ("1", "-0.02"), ("-0.5", "0.04"), ("2", "-0.01")])
def test_how_far_is_fed_for_a_size_follows_from_what_it_changes_by_for_each_length(per_feed: str, fed: str) -> None:
    own = PieceSize(D("22.1"), True, D("22.08"), D(per_feed))
    assert own.feed_to(D("22.08")) == own.asked_mm == D(fed)


@pytest.mark.parametrize(
    ("grows", "least", "greatest", "under", "over"),
    [
        (False, "9.99", "10.01", False, False),
        (False, "9.988", "10", False, False),
        (False, "9.9879", "10", True, False),
        (False, "10", "10.0101", False, True),
        (True, "9.99", "10.012", False, False),
        (True, "9.99", "10.0121", True, False),
        (True, "9.9899", "10", False, True),
    ],
)
def test_what_is_surely_under_is_past_the_limit_by_u_and_what_is_over_may_still_be_ground(
    grows: bool, least: str, greatest: str, under: bool, over: bool
) -> None:
    """10 ± 0.01, U 0.002; of a slot that grows the upper limit is the one that cannot be put back."""
    asked = Characteristic("width", "size", (1, 2), Size(D(10), D("0.01"), D("0.01")))
    log = Log()
    made = log.measure(1, least, greatest)
    assert isinstance(made, Measured)
    proof = proof_of(replace(made, uncertainty_mm=D("0.002")), asked, None, grows=grows)
    assert (proof.under, proof.over, proof.tries) == (under, over, 1)
    assert proof_of(made, asked, proof).tries == 2
    free = proof_of(made, None, None)
    assert (free.under, free.over) == (False, False)


def test_what_is_proved_after_the_last_surface_is_asked_one_by_one_and_not_listed_behind_itself() -> None:
    of = spec(
        size("thickness"), zone("flat", (1,), "0.003"), zone("parallel", (2, 1), "0.002"),
        came={1: FaceState.CLEANED, 2: FaceState.PROVEN},
    )  # fmt: skip
    log = Log(of)
    log.measure(2, "22", verdict="in")
    assert log.now.at is None and (log.next, next_act(log.now).characteristic) == ("prove", "flat")
    assert behind(log.now, UNITS) == ["Measure parallel", "Sign off"]
    log.measure(1, "0.009", of="flat", verdict="out")
    assert next_act(log.now).characteristic == "parallel" and behind(log.now, UNITS) == ["Measure flat", "Sign off"]
    log.measure(1, "0.001", of="parallel", verdict="in")
    assert log.next == "sign_off" and behind(log.now, UNITS) == ["Measure flat"]
    log.add(Kind.WAIVED, None, characteristic="flat", note="It does no harm.")
    log.add(Kind.SIGNED_OFF, None)
    assert behind(log.now, UNITS) == []


def test_no_more_is_looked_ahead_than_is_asked() -> None:
    log = started("0.02", "0.02", "0.005")
    assert [len(ahead(log.now, BEGIN, D("0.00254"), most)) for most in (0, 1, 3)] == [0, 1, 3]
    assert len(ahead(log.now, BEGIN, D("0.00254"))) == 4


def test_the_first_pass_after_a_dress_is_washed_before() -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "0.02", "dress", "0.02", "dress", spark_outs=0))
    run, what = log.run(), Next("pass", 1, (1,))
    said = [
        [each.words for each in cautions_at(what, replace(run, done=done), log.now)] for done in range(4)
    ]  # fmt: skip
    assert said == [[], [], [FIRST_AFTER_DRESS], []]
    assert cautions_at(what, None, log.now) == () == cautions_at(what, Log().run(), log.now)


def test_a_blank_that_is_put_in_is_set_as_the_last_pass_that_was_done_else_as_the_next() -> None:
    made = plan(1, "0.02", "0.01", spark_outs=0)
    first, second = made.steps
    made = replace(made, steps=(replace(first, crossfeed_mm=D(3)), replace(second, crossfeed_mm=D(5))))
    for done, crossfeed in ((0, 3), (1, 3), (2, 5)):
        found = observed(made, done, "uneven", "left", fed=True, before=0, only_clean=False, most_mm=D(1))
        assert found.steps[done].kind == "spark-out" and found.steps[done].crossfeed_mm == crossfeed


def test_what_is_not_on_the_list_is_not_ticked_off() -> None:
    log = started("0.02")
    for item, answer in (("blown off", ""), ("wiped", "yes"), ("rock", ""), ("rock", "sings")):
        with pytest.raises(LogError, match="not on the list"):
            log.add(Kind.PREPARED, item=item, answer=answer)
    for item, answer in (("wiped", ""), ("rock", "pivots")):
        log.add(Kind.PREPARED, item=item, answer=answer)
    with pytest.raises(LogError, match="no plan yet"):
        Log().add(Kind.PREPARED, item="wiped", answer="")


def test_a_stop_of_another_name_is_told_by_it() -> None:
    log = started("0.02")
    log.add(Kind.HALTED, seen="other", note="Smoke.")
    with pytest.raises(LogError, match="It is stopped: something else"):
        log.add(Kind.PASS, reading_mm=D("0.12"))
    odd = replace(log.entries[-1], seen="smell of fish")
    log.entries[-1] = odd
    with pytest.raises(LogError, match="It is stopped: smell of fish"):
        log.add(Kind.PASS, reading_mm=D("0.12"))


def test_a_surface_without_a_set_up_that_is_ground_again_comes_next_in_its_own() -> None:
    log = Log(spec(came={1: FaceState.CLEANED, 3: FaceState.CLEANED}))
    log.add(Kind.REROUTED, 5, change="grind", note="It came out wrong.")
    assert [each.key for each in log.now.setups] == ["5", "1", "2"] and log.now.setups[0].down == 3
    skip = entry(Kind.REROUTED, 9, change="skip", setup="2", surface=1, note="x")
    log.entries.append(skip)
    assert [bool(setup.left_out) for setup in log.now.setups] == [False, False, True]


def test_a_size_without_its_unit_and_an_angle_s_u_in_seconds() -> None:
    assert (UNITS.size(D("22")), UNITS.size_number(D("22"))) == ("22.000 mm", "22.000")
    made = Log().measure(1, "30.5")
    assert isinstance(made, Measured) and replace(made, uncertainty_mm=D("0.001")).u_arcsec == pytest.approx(3.6)
    assert BRIEF.wanted.surfaces[1].number == 1


def test_a_run_is_worked_from_one_screen_and_the_other_is_told_whose_it_is() -> None:
    log = started("0.02", "0.02")
    log.entries[-1] = replace(log.entries[-1], screen="screen-1")
    for by, whose in (("bryn", "another of your own screens"), ("isa", "bryn’s screen")):
        other = replace(entry(Kind.PASS, 9, surface=1, reading_mm=D("0.12")), by=by, screen="screen-2")
        with pytest.raises(LogError, match=f"worked from {whose}"):
            check_entry(addressed(other, log.now), log.now)


def test_what_is_not_ready_comes_next_where_nothing_else_is_left() -> None:
    log = Log(spec(setups=(SetUp("2", (2,), 1),)))
    assert next_act(log.now) == Next("plan", 2, (1,), "")


def test_the_dial_s_word_is_that_of_its_unit() -> None:
    assert (UNITS.dial_word, replace(UNITS, dial_unit="mm").dial_word) == ("thou", "mm")

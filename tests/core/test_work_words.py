"""Small things of the work model that others rest on: what is said, what is warned of, what a measurement leaves."""

from dataclasses import replace
from datetime import timedelta

import pytest

from tests.core.worklog import BEGIN, BRIEF, CAME, PAIR, SIDES, UNITS, D, Log, plan, size, spec, started, zone
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.work.cautions import (
    BLOCKS,
    DIAMOND,
    FIRST_AFTER_DRESS,
    HANDWHEELS,
    HIGH,
    IN_LINE,
    LIFT,
    PUSH,
    STILL,
    WIPE,
    cautions_at,
)
from zesty_lark.core.work.entries import CautionWaived, Measured, Rerouted, SignedOff
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.folding import stand
from zesty_lark.core.work.halting import STOPS
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.learned import time_told
from zesty_lark.core.work.looking import felt_wrong, prepared
from zesty_lark.core.work.machine_acts import Halted, Observed, Placed
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import Next
from zesty_lark.core.work.observing import observed
from zesty_lark.core.work.plans import PlanSteps
from zesty_lark.core.work.preparing import not_waivable
from zesty_lark.core.work.rules import check_entry
from zesty_lark.core.work.run import proof_of
from zesty_lark.core.work.summary import next_words
from zesty_lark.core.work.telling import step_words, tell
from zesty_lark.core.work.wheel_use import Pass, WheelFacts, WheelUse

STOOD = stand(BRIEF, [])
WHEEL = WheelFacts(180.0, 12.0, 3000.0, 10.0, 50.0, 0.3)


def words(act: str, job_state: JobState = STOOD, run: object = None) -> list[str]:
    return [each.words for each in cautions_at(Next(act), run, job_state)]  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("act", "told"),
    [
        ("place", [STILL, WIPE]),
        ("turn", [STILL, LIFT, PUSH]),
        ("blocks", [STILL, BLOCKS]),
        ("touch_off", [HIGH, IN_LINE]),
        ("dress", [DIAMOND]),
        ("chamfer", [DIAMOND]),
        ("no_feed", [HANDWHEELS]),
        ("pass", []),
        ("measure", []),
        ("halted", []),
    ],
)
def test_each_act_warns_of_its_own(act: str, told: list[str]) -> None:
    assert words(act) == told
    assert words("place", replace(STOOD, up=("1", 1, 1))) == [STILL, LIFT, WIPE], "what lies there is lifted off"


def test_what_stopped_the_wheel_says_what_comes_first() -> None:
    for seen in ("moved", "of another version"):
        stopped = replace(STOOD, halted=Halted(entry_id="halted-01", at=BEGIN, surface=2, seen=seen))
        assert words("halted", stopped) == [STOPS.get(seen, STOPS["other"]).first]


def test_only_the_pass_right_after_a_dress_is_warned_of() -> None:
    run = replace(STOOD.runs[2], plan=plan(2, "dress", "0.01", "0.01"))
    for done, told in ((0, []), (1, [FIRST_AFTER_DRESS]), (2, [])):
        assert words("pass", run=replace(run, done=done)) == told
    assert words("pass", run=replace(run, plan=None, done=1)) == []


def test_a_wheel_is_worn_from_a_third_of_its_face_on() -> None:
    for front, worn in ((0.0, False), (3.99, False), (4.0 - 1e-12, True), (4.0, True), (6.0, True)):
        assert WheelUse(front_mm=front).is_worn(WHEEL) is worn, front


def test_the_table_s_time_is_that_of_dresses_and_passes_of_all_kinds() -> None:
    made = plan(2, "dress", "touch off", "0.01", "no feed", "cool", "measure", spark_outs=2)
    each = replace(made, steps=tuple(replace(step, minutes=2.0**step.number) for step in made.steps))
    counted = ("dress", "rough", "no feed", "spark-out")
    assert each.table_minutes == sum(2.0**step.number for step in each.steps if step.kind in counted)


def test_surfaces_and_set_ups_are_named_also_where_the_print_has_none() -> None:
    assert (STOOD.named(1), STOOD.named(9), STOOD.titled(9)) == ("face 1", "face 9", "Face 9")
    assert (UNITS.held("1"), UNITS.held("of old")) == ("face 1", "of old")
    assert UNITS.held("3+4") == "face 3 and 4"


def test_only_a_caution_of_a_set_up_of_the_route_is_released() -> None:
    for setup, item, why in (("1", "stroke", ""), ("1", " ", "Which caution"), ("9", "stroke", "no such set-up")):
        refused = not_waivable(CautionWaived(entry_id="released-1", at=BEGIN, setup=setup, item=item, note="n"), STOOD)
        assert refused.startswith(why) if why != "no such set-up" else why in refused
        assert bool(refused) is bool(why)


def test_what_is_proved_next_is_named() -> None:
    assert next_words(Next("prove", characteristic="width", pieces=(1,)), STOOD) == "Measure width"
    several = stand(spec(size("thickness"), zone("flat", (2,), "0.002"), pieces=3), [])
    assert next_words(Next("prove", characteristic="flat", pieces=(2, 3)), several) == "Measure flat, pieces 2–3"


def test_a_halt_is_told_with_what_was_read_where_it_was() -> None:
    halted = Halted(entry_id="halted-01", at=BEGIN, surface=2, seen="moved")
    assert tell(halted, UNITS).startswith("Stopped: ") and ", collar at" not in tell(halted, UNITS)
    assert " W." not in tell(halted, UNITS)
    full = tell(replace(halted, reading_mm=D("0.0254"), power_w=D("640"), note="At the end stop."), UNITS)
    assert ", collar at 1.0 thou, 640 W. At the end stop." in full
    assert (
        tell(Observed(entry_id="seen-0001", at=BEGIN, surface=2, seen="of another version"), UNITS)
        == "of another version."
    )


def measured(*mm: str, u: str = "0.001") -> Measured:
    readings = tuple(Reading(f"Place {number}", D(each)) for number, each in enumerate(mm, start=1))
    return Measured(
        entry_id="measured-1", at=BEGIN + timedelta(hours=1), by="bryn", surface=2, readings=readings,
        uncertainty_mm=D(u), verdict="in",
    )  # fmt: skip


@pytest.mark.parametrize(
    ("mm", "under", "over"),
    [
        ("21.9961", False, False),
        ("21.996", False, False),
        ("21.9959", True, False),
        ("22.003", False, False),
        ("22.0031", False, True),
    ],
)
def test_a_size_is_under_once_u_does_not_save_it_and_over_by_its_greatest(mm: str, under: bool, over: bool) -> None:
    proof = proof_of(measured(mm), size("thickness"), None)
    assert (proof.under, proof.over) == (under, over)
    both = proof_of(measured("21.99", "22.01"), size("thickness"), None)
    assert both.under and both.over and (both.least_mm, both.greatest_mm) == (D("21.99"), D("22.01"))
    assert not proof_of(measured("9"), None, None).under and not proof_of(measured("99"), None, None).over


def test_a_size_that_grows_is_spoilt_when_it_is_too_wide() -> None:
    for mm, under, over in (("22.0041", True, False), ("22.004", False, False), ("21.9969", False, True)):
        proof = proof_of(measured(mm), size("thickness"), None, grows=True)
        assert (proof.under, proof.over) == (under, over), mm


def test_a_measurement_s_middle_and_spread() -> None:
    two = measured("21.990", "22.010", "22.001")
    assert (two.middle_mm, two.spread_mm) == (D("22.000"), D("0.020"))


def test_what_a_pass_grinds_away_is_a_block() -> None:
    assert Pass(0.02, 4.0, 250.0, 80.0, 50.0).volume_mm3 == pytest.approx(80.0)
    assert [Pass(0.02, crossfeed, 250.0, 80.0, 50.0).strokes for crossfeed in (4.0, 12.5, 50.0, 90.0)] == [13, 4, 1, 1]


def test_a_plan_s_steps_are_told_with_their_figures() -> None:
    (step,) = [each for each in plan(2, "chamfer", spark_outs=0).steps]
    told = {amount: step_words(replace(step, amount=amount), UNITS) for amount in (D("1.27"), None)}
    assert told[D("1.27")].endswith("edge, 50 thou") and told[None].endswith("edge, 0 thou")
    again = Rerouted(entry_id="again-001", at=BEGIN, change="grind", surface=2, note="It came out wrong.")
    assert tell(again, UNITS) == "Face 2 is to be ground again: It came out wrong."


def test_spark_outs_are_counted_from_one_to_fifty() -> None:
    for count, taken in ((0, False), (1, True), (50, True), (51, False)):
        log = started("0.02")
        log.add(Kind.PASS, reading_mm=D("0.12"))
        if taken:
            log.add(Kind.SPARK_OUT, count=count)
        else:
            with pytest.raises(LogError, match="between 1 and 50"):
                log.add(Kind.SPARK_OUT, count=count)


def test_only_where_there_are_several_pieces_is_the_unproved_one_named() -> None:
    for pieces, which in ((1, "Thickness: not measured"), (2, "Thickness of piece 1: not measured")):
        ground = stand(spec(pieces=pieces), [])
        with pytest.raises(LogError, match=which):
            check_entry(SignedOff(entry_id="signed-01", at=BEGIN, by="pell"), replace(ground, at=None))


def test_what_came_loose_is_met_by_the_wheel_anew() -> None:
    for seen, known in (("moved", False), ("squeal", True)):
        log = started("0.02", "0.02")
        log.add(Kind.PASS, reading_mm=D("0.12"))
        log.measure(1, "22.24", "22.24")
        assert log.now.touches_chuck_mm is not None
        log.add(Kind.HALTED, seen=seen)
        log.add(Kind.WENT_ON, note="Set up again.")
        assert (log.now.touches_chuck_mm is not None) is known, seen


def test_what_was_felt_holds_until_the_load_comes_off() -> None:
    log = started("0.02")
    log.add(Kind.PREPARED, item="pushed", answer="moves")
    assert [each.words for each in felt_wrong(log.now, log.run())] and "pushed" in prepared(log.now, log.run())
    log.add(Kind.PREPARED, item="pushed", answer="holds")
    assert not felt_wrong(log.now, log.run()), "what is said later counts"
    log.add(Kind.LEFT, note="lunch")
    assert prepared(log.now, log.run()) == {}


def test_a_set_up_taken_first_comes_before_all_others() -> None:
    log = Log(spec(setups=(*PAIR, *SIDES)))
    log.add(Kind.REROUTED, None, change="first", setup="6", note="The vise is busy.")
    assert [setup.key for setup in log.now.setups] == ["6", "1", "2", "3+4", "5"]
    log.add(Kind.REROUTED, None, change="skip", setup="6", note="After all not.")
    assert log.now.setups[0].left_out == "After all not."
    log.add(Kind.REROUTED, None, change="first", setup="6", note="Yes.")
    assert [(each.key, each.left_out) for each in log.now.setups][:2] == [("6", ""), ("1", "")]


def test_sparks_that_died_stay_died_until_the_next_feed() -> None:
    log = started("0.02", "0.02")
    log.add(Kind.PASS, reading_mm=D("0.12"))
    making = log.run
    log.add(Kind.OBSERVED, seen="died")
    log.add(Kind.OBSERVED, seen="clean")
    assert making().seen == (("died", ""), ("clean", "")) and making().clean is True
    log.add(Kind.OBSERVED, seen="dull")
    assert making().clean is True, "only what is said of the face changes that"
    log.add(Kind.OBSERVED, seen="patch", side="front")
    assert making().clean is False


def test_a_surface_that_nobody_worked_yet_belongs_to_its_set_up() -> None:
    now = stand(spec(setups=(*PAIR, SIDES[0])), [])
    assert [now.runs[surface].place for surface in (1, 2, 3, 4)] == [
        ("1", 1, 1), ("2", 1, 2), ("3+4", 1, 3), ("3+4", 1, 4),
    ]  # fmt: skip
    assert now.runs[6].place == ("6", 1, 6), "in no set-up: one of its own"


def test_a_touch_off_tells_the_height_over_the_chuck_only_where_the_piece_s_is_known() -> None:
    log = started("0.02", "0.02")
    assert log.now.touches_chuck_mm is None, "nobody has measured it as it came"
    log.measure(1, "22.262", "22.262")
    log.add(Kind.TOUCHED_OFF, reading_mm=D("0.2"))
    assert log.now.touches_chuck_mm == D("0.2") + D("22.262")
    log.add(Kind.PASS, reading_mm=D("0.22"))
    log.add(Kind.TOUCHED_OFF, reading_mm=D("0.17"))
    assert log.now.touches_chuck_mm == D("22.462"), "what was fed since is not measured"
    log.measure(1, "22.24", "22.24")
    log.add(Kind.TOUCHED_OFF, reading_mm=D("0.3"))
    assert log.now.touches_chuck_mm == D("0.3") + D("22.24")


def test_what_is_seen_of_the_face_changes_the_plan_only_where_it_has_to_be_clean() -> None:
    made = plan(1, "0.02", "0.02")

    def then(seen: str, done: int, *, only_clean: bool) -> PlanSteps:
        return observed(made, done, seen, "front", fed=True, before=0, only_clean=only_clean, most_mm=made.stock_mm + 1)

    for seen, done in (("patch", 2), ("clean", 1)):
        assert then(seen, done, only_clean=False) == made != then(seen, done, only_clean=True)


def test_where_the_sparks_have_died_no_blank_is_added() -> None:
    for seen, then in ((("clean",), "spark-out"), (("clean", "died"), "measure"), (("died", "clean"), "measure")):
        log = Log()
        log.add(Kind.PLANNED, plan=plan(1, "0.02", until_clean=True))
        log.add(Kind.PLACED)
        log.add(Kind.TOUCHED_OFF, reading_mm=D("0.1"))
        log.add(Kind.PASS, reading_mm=D("0.12"))
        for each in seen:
            log.add(Kind.OBSERVED, seen=each)
        log.add(Kind.SPARK_OUT)
        assert log.next == then, seen


def test_only_what_hands_do_tells_how_long_they_take() -> None:
    log = started("0.02")
    log.add(Kind.PASS, reading_mm=D("0.12"))
    before = log.now
    later = before.history[-1].at + timedelta(minutes=4)
    assert time_told(replace(measured("22.2"), at=later, surface=1), before) == ("measure", 4.0)
    for other in (
        Observed(entry_id="seen-0001", at=later, surface=1, seen="clean"),
        Halted(entry_id="halted-01", at=later, surface=1, seen="moved"),
    ):
        assert time_told(other, before) is None


def test_the_collar_stands_at_what_was_set_and_fed() -> None:
    log = started("0.02", "0.02")
    assert log.run().reading_mm == D("0.1")
    log.add(Kind.PASS, reading_mm=D("0.1213"))
    assert log.run().reading_mm == D("0.1213") and log.run().depth_mm == D("0.0213")
    log.add(Kind.TOUCHED_OFF, reading_mm=D("0.3"))
    assert log.run().reading_mm == D("0.3"), "the same depth at another reading"
    again = Log()
    assert not again.run().touched_off
    again.add(Kind.PLANNED, plan=plan(1, "0.02"))
    assert not again.run().touched_off, "a plan from a touch-off still to come"


@pytest.mark.parametrize("pieces", [1, 2])
def test_what_a_measurement_tells_of_the_cut_before_it(pieces: int) -> None:
    log = Log(spec(pieces=pieces))
    log.add(Kind.PLANNED, plan=plan(1, "0.02", "0.02", "0.02"))
    log.add(Kind.PLACED, pieces=tuple(range(1, pieces + 1)))
    log.add(Kind.TOUCHED_OFF, reading_mm=D("0.1"))
    for piece in range(1, pieces + 1):
        log.measure(1, "22.262", piece=piece)
    assert not log.now.shortfalls, "nothing was fed"
    for reading, size_mm in (("0.12", "22.244"), ("0.14", "22.2235")):
        log.add(Kind.PASS, reading_mm=D(reading))
        log.measure(1, size_mm)
    first, second = log.now.shortfalls
    assert (first.asked_mm, first.got_mm, second.got_mm) == (D("0.02"), D("0.018"), D("0.0205"))
    assert (first.fresh, second.fresh) == (True, False), "the touch-off's own error is in the first only"
    area = CAME["width"] * CAME["length"]
    assert [each.volume_mm3 for each in (first, second)] == [each.got_mm * area * pieces for each in (first, second)]


def test_where_the_wheel_is_met_is_known_of_measured_pieces_on_the_magnet() -> None:
    log = started(of=spec(setups=(*PAIR, *SIDES)))
    log.measure(1, "22.262")
    now = log.now
    assert now.touches_chuck_mm is not None
    assert now.touch_reading_mm(now.runs[2]) == now.touches_chuck_mm - D("22.262")
    assert now.touch_reading_mm(now.runs[5]) is None, "nobody has measured how long it is"
    assert replace(now, touches_chuck_mm=None).touch_reading_mm(now.runs[2]) is None


def test_how_long_it_took_to_put_a_part_up_goes_by_how_it_is_held_and_what_lay_there() -> None:
    for holder, up, told in (
        ("magnet", False, "place"),
        ("Angle plate P1", False, "fixture"),
        ("magnet", True, "flip"),
    ):
        log = started("0.02") if up else Log()
        if not up:
            log.add(Kind.PLANNED, plan=plan(1, "0.02", holder=holder))
        before = log.now
        at = before.history[-1].at + timedelta(minutes=3)
        placed = Placed(entry_id="placed-001", at=at, surface=1)
        assert time_told(placed, before) == (told, 3.0)
        assert time_told(replace(placed, at=before.history[-1].at), before) is None

"""At the machine: what is seen and heard, stops, who works the run, the wheel's use, power, what runs teach."""

import math
import random
from dataclasses import replace
from datetime import timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.worklog import BEGIN, BRIEF, D, Log, plan, spec, started
from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.process.evaluate import evaluate
from zesty_lark.core.process.power_watch import PassPower, Spindle, dullness_of, watch_power
from zesty_lark.core.things.shop import Wheel
from zesty_lark.core.wheel.wear import strokes_to_dress
from zesty_lark.core.work.ahead import ahead
from zesty_lark.core.work.cautions import HANDS_IN, cautions_at
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.halting import STOPS
from zesty_lark.core.work.learned import time_told, usual_cut_ratio, usual_time
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.observing import MOST_SPARK_OUTS_OPEN, OBSERVATIONS, dress_like
from zesty_lark.core.work.rules import HeldError
from zesty_lark.core.work.short_of import SizeFigures, short_of
from zesty_lark.core.work.time_left import time_left
from zesty_lark.core.work.wheel_use import Pass, WheelFacts, WheelUse, wheel_facts

WHEEL = WheelFacts(180.0, 12.7, 3000.0, 8.0, 500.0, 0.37)
LYING = {face: (88.0, 54.0) for face in range(1, 7)}
FOLLOWED = replace(BRIEF, wheel=WHEEL, lying_mm=LYING, spare_mm={1: D("0.03")})


def running(*sizes: str, surface: int = 1, until_clean: bool = False, stock: str | None = None, **more: object) -> Log:
    """A log with a face planned, up and touched off; a word among the sizes is a step of that kind."""
    log = Log(more.pop("of", FOLLOWED))  # type: ignore[arg-type]
    made = plan(surface, *sizes, spark_outs=0)
    fine = tuple(replace(step, kind="finish") if step.step_mm == D("0.005") else step for step in made.steps)
    stock_mm = made.stock_mm if stock is None else D(stock)
    made = replace(made, steps=fine, until_clean=until_clean, stock_mm=stock_mm)
    log.add(Kind.PLANNED, surface, plan=made)
    if fine[0].kind == "dress":
        log.add(Kind.DRESSED, surface, amount_mm=D("0.02"))
    log.add(Kind.PLACED, surface)
    log.add(Kind.TOUCHED_OFF, surface, reading_mm=D(0))
    return log


def see(log: Log, what: str, side: str = "", surface: int = 1) -> None:
    log.add(Kind.OBSERVED, surface, seen=what, side=side)


def feed(log: Log, surface: int = 1) -> None:
    reading = log.run(surface).next_reading_mm
    assert reading is not None
    log.add(Kind.PASS, surface, reading_mm=reading)


def left(log: Log, surface: int = 1) -> list[str]:
    run = log.run(surface)
    assert run.plan is not None
    return [step.kind for step in run.plan.steps[run.done :]]


def test_a_dull_sound_puts_a_dress_before_the_next_feed_once() -> None:
    log = running("dress", "0.02", "0.02", "spark-out")
    feed(log)
    see(log, "dull")
    assert log.next == "dress" and left(log) == ["dress", "rough", "spark-out"]
    see(log, "dull")
    assert left(log) == ["dress", "rough", "spark-out"], "one dress answers for both"
    log.add(Kind.DRESSED, amount_mm=D("0.02"))
    assert log.next == "pass" and log.run().next_reading_mm == D("0.06"), (
        "0.04 deep, and a dress of 0.02 moved the collar"
    )


def test_another_dress_is_like_the_last_or_else_like_the_next() -> None:
    made = plan(1, "dress", "0.02", "dress", "0.005")
    kinds = iter(("rough", "fine"))
    of_kinds = tuple(replace(step, what=next(kinds)) if step.kind == "dress" else step for step in made.steps)
    made = replace(made, steps=of_kinds)
    assert [dress_like(made, done).what for done in range(5)] == ["rough", "rough", "rough", "fine", "fine"]
    assert dress_like(plan(1, "0.02"), 0).what == "general", "without any, the usual one"


def test_uneven_sparks_before_the_first_feed_ask_for_the_high_side() -> None:
    log = running("no feed", "0.02", "spark-out")
    see(log, "uneven", "back")
    assert left(log) == ["touch off", "no feed", "no feed", "rough", "spark-out"]
    assert log.next == "touch_off" and "at the back" in (log.run().next_step.what)  # type: ignore[union-attr]


def test_uneven_sparks_later_ask_for_a_pass_without_feed_and_then_for_a_measurement() -> None:
    log = running("0.02", "0.02", "spark-out", "measure")
    feed(log)
    see(log, "uneven", "left")
    assert left(log) == ["spark-out", "rough", "spark-out", "measure"]
    log.add(Kind.SPARK_OUT)
    see(log, "uneven", "left")
    assert log.next == "measure" and "on the left" in (log.run().next_step.what)  # type: ignore[union-attr]


def test_sparks_that_died_end_the_blanks_and_in_a_feed_ask_to_measure() -> None:
    log = running("0.02", "0.02", "spark-out", "spark-out", "spark-out", "measure")
    feed(log)
    see(log, "died")
    assert log.next == "measure", "less is cut than the collar says"
    log = running("0.02", "spark-out", "spark-out", "spark-out", "measure")
    feed(log)
    log.add(Kind.SPARK_OUT)
    see(log, "died")
    assert log.next == "measure" and left(log) == ["measure"]


def test_a_reference_that_is_clean_is_not_roughed_further_and_one_with_a_patch_goes_on() -> None:
    log = running("0.02", "dress", "0.02", "dress", "spark-out", "measure")
    feed(log)
    see(log, "clean")
    assert left(log) == ["dress", "spark-out", "measure"] and log.run().clean is True
    log = running("0.02", "spark-out", "measure")
    feed(log)
    log.add(Kind.SPARK_OUT)
    see(log, "patch", "middle")
    assert left(log) == ["rough", "spark-out", "measure"] and log.run().clean is False
    feed(log)
    log.add(Kind.SPARK_OUT)
    see(log, "patch", "middle")
    assert left(log) == ["measure"], "its own share and what its opposite can spare are used: no third pass"


def test_a_face_that_ends_on_a_size_keeps_its_plan_whatever_is_clean() -> None:
    log = running("0.02", "0.02", "spark-out", surface=1)
    before = left(log)
    assert before == ["rough", "rough", "spark-out"]
    of = replace(spec(came={1: FaceState.CLEANED}), wheel=WHEEL, lying_mm=LYING)
    log = running("0.02", "0.02", "spark-out", surface=2, of=of)
    feed(log, 2)
    see(log, "clean", surface=2)
    assert left(log, 2) == ["rough", "spark-out"] and log.run(2).clean is True


def test_until_clean_repeats_its_pass_until_it_is_said_or_the_stock_is_used() -> None:
    log = running(
        "no feed", "0.02", "spark-out", "dress", "0.005", "spark-out", "measure", until_clean=True, stock="0.2"
    )
    log.add(Kind.SPARK_OUT)
    for _ in range(4):
        assert log.next == "pass"
        feed(log)
    see(log, "clean")
    assert log.next == "spark-out"
    for _ in range(3):
        log.add(Kind.SPARK_OUT)
        assert log.next == "spark-out"
    see(log, "died")
    assert left(log) == ["dress", "finish", "spark-out", "measure"]
    log = running("0.02", "spark-out", "dress", "0.005", "measure", until_clean=True, stock="0.07")
    while log.next == "pass":
        feed(log)
    assert log.run().depth_mm == D("0.06") and log.next == "measure", "0.065 is all that leaves its finish"


def test_blanks_until_the_sparks_die_end_by_themselves() -> None:
    log = running("0.02", "spark-out", "measure", until_clean=True, stock="0.03")
    feed(log)
    see(log, "clean")
    count = 0
    while log.next == "spark-out":
        log.add(Kind.SPARK_OUT)
        count += 1
    assert count == MOST_SPARK_OUTS_OPEN


def test_until_clean_dresses_when_the_front_has_walked_a_third_of_the_face() -> None:
    log = running("0.02", "spark-out", until_clean=True, stock="5")
    fed = 0
    while log.next == "pass" and fed < 200:
        feed(log)
        fed += 1
    assert log.next == "dress" and 1 < fed < 200
    assert log.now.wheel_use.is_worn(WHEEL)


def test_what_cannot_have_been_seen_is_refused() -> None:
    log = running("0.02")
    for what, side in (("smoke", ""), ("uneven", ""), ("uneven", "middle"), ("clean", "left"), ("patch", "")):
        with pytest.raises(LogError):
            see(log, what, side)
    assert set(OBSERVATIONS) == {"uneven", "died", "clean", "patch", "dull"}


@pytest.mark.parametrize("seen", sorted(STOPS))
def test_a_stop_freezes_the_plan_until_it_is_gone_on_from_with_a_reason(seen: str) -> None:
    log = running("0.02", "0.02", "spark-out")
    feed(log)
    log.add(Kind.HALTED, seen=seen, reading_mm=D("0.02"), power_w=D("812.5"))
    assert log.next == "halted"
    for kind, more in (
        (Kind.PASS, {"reading_mm": D("0.04")}),
        (Kind.SPARK_OUT, {}),
        (Kind.DRESSED, {}),
        (Kind.TOUCHED_OFF, {"reading_mm": D(0)}),
        (Kind.OBSERVED, {"seen": "clean"}),
        (Kind.HALTED, {"seen": seen}),
        (Kind.WENT_ON, {"note": "  "}),
    ):
        with pytest.raises(LogError):
            log.add(kind, **more)
    log.add(Kind.NOTE, None, note="Looked at it.")
    log.add(Kind.WENT_ON, note="Wheel washed.")
    expected = {"colour": "dress", "squeal": "dress", "moved": "place", "crash": "place"}.get(seen, "pass")
    assert log.next == expected
    if seen == "moved":
        log.add(Kind.PLACED)
        assert log.next == "touch_off", "its zero is lost"


def test_a_stop_can_be_taken_back_like_anything_else_and_needs_a_known_condition() -> None:
    log = running("0.02")
    with pytest.raises(LogError, match="stopped for"):
        log.add(Kind.HALTED, seen="rain")
    log.add(Kind.HALTED, seen="other")
    log.undo()
    assert log.next == "pass"
    with pytest.raises(LogError, match="not stopped"):
        log.add(Kind.WENT_ON, note="why")


def test_a_run_is_worked_from_one_screen_until_another_takes_it_over() -> None:
    log = running("0.02", "0.02", "0.02", "spark-out")
    log.add(Kind.PASS, reading_mm=D("0.02"), screen="aaaa")
    with pytest.raises(HeldError, match="your own screens"):
        log.add(Kind.PASS, reading_mm=D("0.04"), screen="bbbb")
    log.add(Kind.HALTED, seen="other", screen="bbbb")
    with pytest.raises(HeldError):
        log.add(Kind.WENT_ON, note="well", screen="bbbb")
    log.add(Kind.TAKEN_OVER, screen="bbbb")
    log.add(Kind.WENT_ON, note="well", screen="bbbb")
    log.add(Kind.PASS, reading_mm=D("0.04"), screen="bbbb")
    with pytest.raises(HeldError):
        log.add(Kind.PASS, reading_mm=D("0.06"), screen="aaaa")
    with pytest.raises(HeldError):
        log.add(Kind.UNDONE, None, supersedes=log.now.undoable.entry_id, screen="aaaa")  # type: ignore[union-attr]
    log.add(Kind.NOTE, None, note="from anywhere", screen="aaaa")
    log.add(Kind.LEFT, note="lunch", screen="bbbb")
    assert log.now.held is None


def test_cautions_are_those_of_the_step_and_hands_are_asked_about() -> None:
    log = Log(FOLLOWED)
    log.add(Kind.PLANNED, plan=plan(1, "dress", "place", "turn", "blocks", "touch off", "no feed", "0.02"))
    told = {}
    for act, kind, more in (
        ("dress", Kind.DRESSED, {}),
        ("place", Kind.PLACED, {}),
        ("turn", Kind.DONE, {"step": 3}),
        ("blocks", Kind.DONE, {"step": 4}),
        ("touch_off", Kind.TOUCHED_OFF, {"reading_mm": D(0)}),
        ("no_feed", Kind.SPARK_OUT, {}),
        ("pass", Kind.PASS, {"reading_mm": D("0.02")}),
    ):
        assert log.next == act
        told[act] = cautions_at(next_act(log.now), log.run(), log.now)
        log.add(kind, **more)
    assert {act for act, said in told.items() if any(each.confirm for each in said)} == set(HANDS_IN)
    assert told["pass"] == (), "no caution where none applies"
    assert "lift" not in " ".join(each.words for each in told["place"]), "nothing is up yet"


@given(
    depth=st.floats(0.001, 0.05),
    crossfeed=st.floats(0.3, 8.0),
    table=st.floats(80, 350),
    along=st.floats(20, 300),
    passes=st.integers(1, 6),
)
def test_the_worn_front_walks_as_the_strokes_to_dress_say(
    depth: float, crossfeed: float, table: float, along: float, passes: int
) -> None:
    use, made = WheelUse(), Pass(depth, crossfeed, table, along, 54.0)
    assert Pass(depth, crossfeed, table, along, crossfeed / 3).strokes == 1
    for _ in range(passes):
        use = use.after(made, D(repr(depth)), WHEEL)
    assert use.strokes == passes * math.ceil(54.0 / crossfeed - 1e-9)
    assert 0 < use.front_mm <= WHEEL.width_mm and use.deepest_mm == D(repr(depth))
    further = use.after(made, D(repr(depth)), WHEEL).volume_mm3_mm - use.volume_mm3_mm
    assert use.strokes_to_volume(further, made, WHEEL) == made.strokes, "V' walks as a pass makes it walk"
    assert use.strokes_to_volume(-further, made, WHEEL) == 0
    remaining = use.strokes_to_dress(made, WHEEL)
    assert (remaining == 0) == use.is_worn(WHEEL) or remaining * crossfeed < WHEEL.width_mm
    fresh = WheelUse().strokes_to_dress(made, replace(WHEEL, g_ratio=8.0))
    least, most = (
        strokes_to_dress(
            wheel_diameter_mm=180, wheel_width_mm=12.7, crossfeed_mm=crossfeed, work_length_mm=along, g_ratio=8 * times
        )
        for times in (0.5, 4.0)
    )
    assert least <= fresh <= most, "G follows the chip between a half and four times its grade"


def test_a_wheel_is_followed_by_its_grade_and_a_dress_takes_the_deepest_cut_and_a_little_more() -> None:
    wheel = Wheel("W", "A 46 H 8 V", 46, "H", D(180), D("12.7"), D("31.75"), 3600)
    assert wheel_facts(wheel, 3000) == WheelFacts(180.0, 12.7, 3000.0, 8.0, 500.0, 0.37)
    log = running("dress", "0.02", "0.03", "spark-out")
    feed(log)
    feed(log)
    use = log.now.wheel_use
    assert use.deepest_mm == D("0.03") and use.dress_mm(D("0.00254")) == D("0.08128"), "0.08 in whole graduations"
    log.add(Kind.DRESSED, amount_mm=D("0.08"))
    assert log.now.wheel_use == WheelUse(dress="general")


SPINDLE = Spindle(180.0, 3000.0, "water", 60.0)


def powered(
    dull: float, volume: float, *, depth: float = 0.01, crossfeed: float = 3.0, table: float = 300.0
) -> PassPower:
    """A pass as a meter would see it with a wheel so dull."""
    told = evaluate(
        wheel_diameter_mm=180, wheel_rpm=3000, table_mm_s=table, depth_mm=depth, crossfeed_mm=crossfeed,
        edge_width_mm=0.5, sharpness=dull, coolant="water",
    )  # fmt: skip
    return PassPower(told.power_w + 60.0, depth, crossfeed, table, 0.5, volume)


@given(dull=st.floats(0.3, 8.0), depth=st.floats(0.002, 0.05), crossfeed=st.floats(0.5, 6.0))
def test_power_tells_the_dullness_it_came_from(dull: float, depth: float, crossfeed: float) -> None:
    assert dullness_of(powered(dull, 10.0, depth=depth, crossfeed=crossfeed), SPINDLE) == pytest.approx(dull, rel=1e-9)


def test_power_that_rises_is_warned_of_before_the_burn_and_moves_the_strokes_to_dress() -> None:
    def watch(times: float, passes: int) -> object:
        seen = [powered(0.8 * (1 + times * 40 * n / 500), 40.0 * n) for n in range(1, passes + 1)]
        return watch_power(seen, SPINDLE, fresh=0.8, reference_mm3_mm=500.0, limit_c=600.0)

    as_it_should = watch(1.0, 5)
    loads = watch(8.0, 5)
    assert as_it_should.state == "well" and as_it_should.dullness == pytest.approx(as_it_should.expected, rel=0.02)  # type: ignore[attr-defined]
    assert loads.state != "well" and loads.volume_left_mm3_mm < as_it_should.volume_left_mm3_mm  # type: ignore[attr-defined]
    states = [watch(8.0, passes).state for passes in range(1, 60)]  # type: ignore[attr-defined]
    assert states.index("rising") < states.index("caution") < states.index("stop"), "warned before it burns"
    assert watch_power([], SPINDLE, fresh=0.8, reference_mm3_mm=500.0, limit_c=390.0) is None
    idle = [PassPower(65.0, 0.01, 3.0, 300.0, 0.5, 10.0)]
    assert watch_power(idle, SPINDLE, fresh=0.8, reference_mm3_mm=500.0, limit_c=390.0) is None, "that is only idling"


def test_the_meter_reaches_the_standing_with_each_pass_and_a_dress_begins_it_anew() -> None:
    log = running("0.02", "0.02", "spark-out", "dress")
    log.add(Kind.PASS, reading_mm=D("0.02"), power_w=D("400"))
    log.add(Kind.PASS, reading_mm=D("0.04"), power_w=D("450"))
    log.add(Kind.SPARK_OUT, power_w=D("75"))
    assert [power.power_w for power in log.now.powers] == [400.0, 450.0] and log.now.idle_w == 75.0
    log.add(Kind.DRESSED, amount_mm=D("0.02"))
    assert log.now.powers == ()


def test_what_comes_is_what_the_same_presses_then_lead_to() -> None:
    log = running("no feed", "0.02", "dress", "0.02", "spark-out", "measure")
    job_states = ahead(log.now, BEGIN, D("0.00254"))
    coming = [next_act(each).act for each in job_states]
    assert coming == ["pass", "dress", "pass", "spark-out", "measure"]
    log.add(Kind.SPARK_OUT)
    for state in job_states[1:]:
        if log.next == "dress":
            log.add(Kind.DRESSED, amount_mm=log.now.wheel_use.dress_mm(D("0.00254")))
        elif log.next == "spark-out":
            log.add(Kind.SPARK_OUT)
        else:
            feed(log)
        assert log.run().next_reading_mm == state.runs[1].next_reading_mm and log.next == next_act(state).act
    assert ahead(log.now, BEGIN, D("0.00254")) == [], "nobody knows what a measurement will say"


def test_time_left_is_a_range_that_shrinks_with_every_step() -> None:
    log = running("0.02", "0.02", "spark-out", "measure")
    times = {"measure": usual_time([2.0, 3.0, 4.0, 8.0], 3.0)}
    before = time_left(log.run(), times)
    assert before.low < before.likely < before.high and before.likely == pytest.approx(3.5)
    feed(log)
    log.add(Kind.SPARK_OUT)
    assert time_left(log.run(), times).likely <= before.likely
    assert time_left(Log(FOLLOWED).run(), times).likely == 0


def test_times_are_told_from_act_to_act_and_breaks_are_not() -> None:
    log = started("0.02", "0.02", "0.005")
    kinds = [(each.kind, time_told(each, before(log, each))) for each in log.entries]
    assert kinds[1] == (Kind.PLACED, ("place", 1.0)) and kinds[2] == (Kind.TOUCHED_OFF, ("touch_off", 1.0))
    log.add(Kind.PASS, reading_mm=D("0.12"))
    entry = log.measure(1, "22.2")
    assert time_told(entry, before(log, entry)) == ("measure", 1.0)
    assert time_told(replace(entry, at=entry.at + timedelta(hours=2)), before(log, entry)) is None
    assert time_told(replace(entry, read_in_at=BEGIN), before(log, entry)) is None, "that was lived elsewhere"
    usual = usual_time([], 4.0)
    assert (usual.minutes, usual.low, usual.high, usual.runs) == (4.0, 3.0, 5.0, 0)
    assert usual_time([3.0] * 9 + [50.0], 4.0).minutes == 3.0, "one long one changes nothing"


def before(log: Log, entry: object) -> object:
    """Where it stood before an entry."""
    earlier = Log(log.spec)
    earlier.entries = log.entries[: log.entries.index(entry)]  # type: ignore[arg-type]
    return earlier.now


@settings(max_examples=25)
@given(backlash=st.floats(2.0, 15.0), wear=st.floats(0.5, 4.0), seed=st.integers(0, 10_000))
def test_backlash_wear_and_springs_are_told_apart(backlash: float, wear: float, seed: int) -> None:
    dice = random.Random(seed)
    runs = []
    for number in range(24):
        volume, fresh, held = dice.uniform(200, 4000), number % 2 == 0, dice.uniform(0, 0.004)
        asked = dice.uniform(0.05, 0.3)
        lost = (backlash * fresh + wear * volume / 1000 + dice.gauss(0, 0.3)) / 1000
        runs.append(SizeFigures(asked, asked - held - lost, held, volume, fresh))
    told = short_of(runs, wheel_diameter_mm=180, wheel_width_mm=12.7)
    assert told.backlash is not None and told.wear is not None and told.wear.told and told.backlash.told
    assert abs(told.backlash.value - backlash) < 7 * told.backlash.error + 1e-6
    assert abs(told.wear.value - wear) < 7 * told.wear.error + 1e-6
    assert told.grinding_ratio == pytest.approx(1000 / (told.wear.value / 1000 * math.pi * 180 * 12.7))
    for cause in (told.backlash, told.wear):
        assert f"{cause.value:.2f} ± {2 * cause.error:.2f} µm" in cause.words or (
            f"{cause.value:.1f} ± {2 * cause.error:.1f} µm" in cause.words
        )


def test_what_is_not_told_is_said_with_how_sure_that_is() -> None:
    dice = random.Random(4)
    runs = [
        SizeFigures(0.1, 0.098 + dice.gauss(0, 0.001), 0.001, dice.uniform(200, 4000), number % 2 == 0)
        for number in range(12)
    ]
    told = short_of(runs, wheel_diameter_mm=180, wheel_width_mm=12.7)
    assert told.wear is not None and told.backlash is not None and not told.wear.told and not told.backlash.told
    assert f"({told.wear.value:.2f} ± {2 * told.wear.error:.2f} µm a cm³)" in told.wear.words
    assert f"({told.backlash.value:.1f} ± {2 * told.backlash.error:.1f} µm)" in told.backlash.words


def test_nothing_is_told_of_few_runs_or_of_runs_that_do_not_differ() -> None:
    same = [SizeFigures(0.1, 0.098, 0.001, 1000.0, False)] * 3
    assert short_of(same, wheel_diameter_mm=180, wheel_width_mm=12.7).wear is None
    told = short_of(same * 3, wheel_diameter_mm=180, wheel_width_mm=12.7)
    assert told.wear is None and told.backlash is None
    assert short_of([], wheel_diameter_mm=180, wheel_width_mm=12.7).runs == 0


def test_time_left_adds_hands_as_learned_and_the_table_give_or_take_a_tenth() -> None:
    log = running("0.02", "spark-out", "cool", "measure")
    run = log.run()
    assert run.plan is not None
    minutes = {"rough": 2.0, "spark-out": 1.0, "cool": 4.0, "measure": 9.0}
    timed = tuple(replace(step, minutes=minutes[step.kind]) for step in run.plan.steps)
    run = replace(run, plan=replace(run.plan, steps=timed))
    told = time_left(run, {"measure": usual_time([2.0, 4.0, 6.0, 8.0], 3.0)})
    hands = usual_time([2.0, 4.0, 6.0, 8.0], 3.0)
    assert (hands.low, hands.minutes, hands.high) == (3.5, 5.0, 6.5)
    assert told.low == pytest.approx(3.5 + 0.9 * 3 + 0.75 * 4)
    assert told.likely == pytest.approx(5 + 3 + 4) and told.table == pytest.approx(3)
    assert told.high == pytest.approx(6.5 + 1.1 * 3 + 1.25 * 4)
    unknown = time_left(run, {})
    assert unknown.likely == pytest.approx(9 + 3 + 4) and unknown.low == pytest.approx(0.75 * 13 + 0.9 * 3 - 0.75 * 0)


def test_few_runs_give_a_wide_range_and_say_so() -> None:
    few = usual_time([4.0, 5.0], 3.0)
    assert (few.minutes, few.low, few.high, few.runs) == (4.5, 0.75 * 4.5, 1.25 * 4.5, 2)
    assert "few runs" in few.sure and "nobody" in usual_time([], 3.0).sure
    assert (
        usual_time([4.0, 4.1, 4.0, 4.2], 3.0).sure == "firm"
        and "scattered" in usual_time([1.0, 4.0, 8.0, 20.0], 3.0).sure
    )
    assert usual_cut_ratio([0.6, 0.62, 0.6, 0.61], 0.5).sure == "firm"
    assert "scattered" in usual_cut_ratio([0.3, 0.9, 0.6, 0.61], 0.5).sure
    assert "nobody" in usual_cut_ratio([], 0.5).sure


@pytest.mark.parametrize(("minutes", "told"), [(0.049, False), (0.05, True), (60.0, True), (60.01, False)])
def test_what_took_no_time_or_had_a_break_in_it_teaches_nothing(minutes: float, told: bool) -> None:
    log = started("0.02", "0.02", "0.005")
    log.add(Kind.PASS, reading_mm=D("0.12"))
    entry = log.measure(1, "22.2")
    late = replace(entry, at=log.entries[-2].at + timedelta(minutes=minutes))
    assert (time_told(late, before(log, entry)) is not None) == told  # type: ignore[arg-type]


def test_the_volume_left_ends_where_the_contact_reaches_three_quarters_of_the_limit() -> None:
    seen = [powered(0.8 + 0.004 * volume, volume) for volume in (50.0, 100.0, 150.0)]
    told = watch_power(seen, SPINDLE, fresh=0.8, reference_mm3_mm=500.0, limit_c=800.0)
    assert told is not None and told.volume_left_mm3_mm is not None
    assert told.dullness == pytest.approx(1.4, rel=1e-6), "the line through the fresh wheel"
    at_the_end = 0.8 + 0.004 * (150.0 + told.volume_left_mm3_mm)
    last = seen[-1]
    reached = evaluate(
        wheel_diameter_mm=180, wheel_rpm=3000, table_mm_s=last.table_mm_s, depth_mm=last.depth_mm,
        crossfeed_mm=last.crossfeed_mm, edge_width_mm=last.edge_mm, sharpness=at_the_end, coolant="water",
    )  # fmt: skip
    assert told.volume_left_mm3_mm > 0 and reached.surface_temperature_c == pytest.approx(600.0, abs=0.5)


def test_the_error_of_a_cause_is_that_of_least_squares() -> None:
    volumes, lost = [500.0, 1000.0, 2000.0, 3000.0, 4000.0], [1.1, 1.9, 4.2, 5.8, 8.1]
    runs = [SizeFigures(0.1, 0.1 - one / 1000, 0.0, volume, False) for volume, one in zip(volumes, lost, strict=True)]
    told = short_of(runs, wheel_diameter_mm=180, wheel_width_mm=12.7)
    x = [each / 1000 for each in volumes]
    slope = sum(a * b for a, b in zip(x, lost, strict=True)) / sum(a * a for a in x)
    rest = sum((b - slope * a) ** 2 for a, b in zip(x, lost, strict=True)) / (len(x) - 1)
    error = math.sqrt(rest / sum(a * a for a in x))
    assert told.wear is not None and told.backlash is None
    assert told.wear.value == pytest.approx(slope, rel=1e-6) and told.wear.error == pytest.approx(error, rel=1e-6)
    assert f"{slope:.2f} ± {2 * error:.2f} µm" in told.wear.words and "3.5 cm³" in told.wear.words


@pytest.mark.parametrize(("held_um", "told"), [(0.05, False), (0.1, False), (0.2, True), (0.9, True)])
def test_springs_are_told_where_they_held_something_back(held_um: float, told: bool) -> None:
    runs = [SizeFigures(0.1, 0.099, held_um / 1000, 1000.0, False)] * 2
    assert short_of(runs, wheel_diameter_mm=180, wheel_width_mm=12.7).springs.told == told


def test_a_touch_off_to_come_is_taken_to_be_at_nothing_where_nobody_knows_better() -> None:
    log = Log(FOLLOWED)
    log.add(Kind.PLANNED, plan=plan(1, "touch off", "0.02"))
    job_states = ahead(log.now, BEGIN, D("0.00254"))
    assert [next_act(state).act for state in job_states] == ["touch_off"], "what it wants looked at is not known ahead"
    log.add(Kind.PLACED)
    job_states = ahead(log.now, BEGIN, D("0.00254"))
    assert [next_act(state).act for state in job_states][:1] == ["pass"]
    assert job_states[0].runs[1].reading_mm == 0 and job_states[0].runs[1].next_reading_mm == D("0.02")


@pytest.mark.parametrize(
    ("front", "volume", "fresh"), [(0.0, 0.0, True), (0.1, 0.1, True), (0.11, 0, False), (0, 0.11, False)]
)
def test_a_wheel_is_as_it_was_dressed_for_a_tenth_of_its_use(front: float, volume: float, fresh: bool) -> None:
    facts = FOLLOWED.wheel
    assert facts is not None
    use = WheelUse("coarse", front_mm=front * facts.width_mm / 3, volume_mm3_mm=volume * facts.dulls_mm3_mm)
    assert use.is_as_dressed(facts) is fresh

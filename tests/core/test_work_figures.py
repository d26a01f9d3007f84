"""Figures that the work model tells: what comes short and why, how long hands take and how sure that is, a wheel."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal
from math import pi, sqrt

import pytest

from tests.core.worklog import BRIEF, PAIR, SIDES, UNITS, Log, entry, plan, spec, started
from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.part.prints import CharacteristicKind
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.folding import Folding, stand
from zesty_lark.core.work.job_state import is_ready, needed_by
from zesty_lark.core.work.learned import CutRatio, Times, time_told, usual_time
from zesty_lark.core.work.machine_rules import MOST_DRESS_MM, LogError, may_grind
from zesty_lark.core.work.plans import PlanStep
from zesty_lark.core.work.rules import addressed
from zesty_lark.core.work.short_of import SizeFigures, WarmAndCold, heat_told, short_of
from zesty_lark.core.work.summary import summary_of
from zesty_lark.core.work.telling import step_words, tell
from zesty_lark.core.work.time_left import time_left
from zesty_lark.core.work.wheel_use import Pass, WheelFacts, WheelUse

D = Decimal
WHEEL = WheelFacts(180.0, 12.0, 3000.0, 10.0, 50.0, 0.3)


@pytest.mark.parametrize(
    ("back_um", "value", "error", "told", "times"),
    [
        ((2.3,), 2.3, 2.3, False, "once"),
        ((2.0, 4.0), 3.0, 1.0, True, "2 times"),
        ((1.0, 5.0, 0.0), 2.0, 1.5275252, False, "3 times"),
        ((-2.0, -4.0), -3.0, 1.0, False, "2 times"),
    ],
)
def test_heat_is_what_comes_back_when_the_part_is_cold(
    back_um: tuple[float, ...], value: float, error: float, told: bool, times: str
) -> None:
    """The mean, its standard error s/√n, and told when it is over twice that, from two readings on."""
    found = heat_told([WarmAndCold(22.0 + each / 1000, 22.0) for each in back_um])
    assert found.name == "heat" and found.value == pytest.approx(value) and found.error == pytest.approx(error)
    assert found.told is told and f"{times}: {value:.1f} µm" in found.words


def test_without_a_size_read_twice_there_is_no_heat_to_tell() -> None:
    none = heat_told([])
    assert (none.name, none.value, none.error, none.told) == ("heat", 0.0, 0.0, False) and "yet" in none.words


def run(short_um: float, volume_cm3: float, *, fresh: bool, held_um: float = 1.0) -> SizeFigures:
    got = 0.05 - (short_um + held_um) / 1000
    return SizeFigures(0.05, got, held_um / 1000, volume_cm3 * 1000, fresh)


def told_of(*runs: SizeFigures) -> object:
    return short_of(runs, wheel_diameter_mm=180.0, wheel_width_mm=12.0)


def test_backlash_and_wear_are_told_apart_and_wear_gives_the_grinding_ratio() -> None:
    """Short by 2 µm a touch-off and 3 µm a cm³, exactly: both are told, and G = V/(Δr·π·d·b)."""
    runs = [run(2.0 * fresh + 3.0 * volume, volume, fresh=bool(fresh)) for fresh, volume in
            ((1, 0.5), (0, 1.0), (1, 2.0), (0, 0.25), (1, 1.5))]  # fmt: skip
    found = short_of(runs, wheel_diameter_mm=180.0, wheel_width_mm=12.0)
    assert found.runs == 5 and found.backlash is not None and found.wear is not None
    assert found.backlash.value == pytest.approx(2.0) and found.wear.value == pytest.approx(3.0)
    assert found.grinding_ratio == pytest.approx(1000 / (0.003 * pi * 180 * 12))
    assert found.springs.value == pytest.approx(1.0) and found.springs.told
    assert short_of(runs[:3], wheel_diameter_mm=180.0, wheel_width_mm=12.0).wear is None, "too few to tell"


def test_runs_that_all_began_with_a_touch_off_tell_backlash_and_no_wear_without_volume() -> None:
    runs = [run(short, 1.0, fresh=True) for short in (1.9, 2.0, 2.1, 2.0)]
    found = short_of(runs, wheel_diameter_mm=180.0, wheel_width_mm=12.0)
    assert found.backlash is not None and found.backlash.value == pytest.approx(2.0)
    assert found.backlash.error == pytest.approx(sqrt((0.01 + 0.01) / 3 / 4)) and found.backlash.told
    assert found.wear is None and found.grinding_ratio is None
    never = short_of([run(2.0, 1.0, fresh=False)] * 4, wheel_diameter_mm=180.0, wheel_width_mm=12.0)
    assert (never.backlash, never.wear, never.grinding_ratio) == (None, None, None)


def test_wear_is_told_from_volumes_that_differ_by_little() -> None:
    runs = [run(3.0 * volume, volume, fresh=False) for volume in (0.1, 0.2, 0.4, 0.8)]
    found = short_of(runs, wheel_diameter_mm=180.0, wheel_width_mm=12.0)
    assert found.wear is not None and found.wear.value == pytest.approx(3.0) and found.wear.told


def test_what_gains_with_the_volume_is_no_wear_and_gives_no_ratio() -> None:
    runs = [run(-3.0 * volume, volume, fresh=False) for volume in (0.5, 1.0, 2.0, 4.0)]
    found = short_of(runs, wheel_diameter_mm=180.0, wheel_width_mm=12.0)
    assert found.wear is not None and found.wear.value == pytest.approx(-3.0)
    assert not found.wear.told and found.grinding_ratio is None


def test_no_run_holds_nothing_back() -> None:
    none = short_of([], wheel_diameter_mm=180.0, wheel_width_mm=12.0).springs
    assert (none.value, none.error, none.told, none.words) == (0.0, 0.0, False, "No run yet.")
    little = short_of([run(1.0, 1.0, fresh=True, held_um=0.1)], wheel_diameter_mm=180.0, wheel_width_mm=12.0)
    assert not little.springs.told and little.springs.value == pytest.approx(0.1)


@pytest.mark.parametrize(
    ("known", "sure"),
    [
        (CutRatio(0.6, 0), "nobody"), (CutRatio(0.6, 3, 0.5, 0.7), "few"), (CutRatio(0.6, 4, 0.45, 0.75), "firm"),
        (CutRatio(0.6, 4, 0.45, 0.76), "scattered"), (CutRatio(0.6, 4, None, 0.9), "firm"),
        (CutRatio(0.6, 4, 0.2, None), "firm"), (Times(4.0, 3.0, 5.0, 4), "firm"),
        (Times(4.0, 3.0, 5.1, 9), "scattered"),
        (Times(4.0, 1.0, 9.0, 3), "few"), (Times(4.0, 3.0, 5.0, 0), "nobody"),
    ],
)  # fmt: skip
def test_how_sure_a_figure_is_comes_from_its_runs_and_their_spread(known: CutRatio | Times, sure: str) -> None:
    assert known.sure.startswith(sure)


def test_a_time_is_the_median_of_the_last_ten_with_a_quarter_each_way_while_they_are_few() -> None:
    assert usual_time([], 4.0) == Times(4.0, 3.0, 5.0, 0)
    assert usual_time([2.0], 4.0) == Times(2.0, 1.5, 2.5, 1)
    assert usual_time([2.0, 8.0, 3.0], 4.0) == Times(3.0, 2.0, 8.0, 3)
    assert usual_time([3.0, 3.1, 2.9], 4.0) == Times(3.0, 2.25, 3.75, 3)
    assert usual_time([1.0, 2.0, 3.0, 4.0, 5.0], 9.0) == Times(3.0, 2.0, 4.0, 5)
    assert usual_time([1.0] * 10 + [99.0], 9.0) == Times(1.0, 1.0, 1.0, 10)


def test_a_worn_front_walks_to_a_third_of_the_face_and_no_further_counts() -> None:
    made = Pass(0.01, 4.0, 200.0, 88.0, 54.0)
    fresh = WheelUse()
    walks = fresh._walks(made, WHEEL)
    assert walks > 0 and fresh._spreads(made, WHEEL) == made.volume_mm3 / 4.0
    strokes = fresh.strokes_to_dress(made, WHEEL)
    assert strokes * walks <= 4.0 < (strokes + 1) * walks
    assert [WheelUse(front_mm=each).strokes_to_dress(made, WHEEL) for each in (4.0, 9.0)] == [0, 0]
    assert WheelUse(front_mm=4.0).is_worn(WHEEL) and not WheelUse(front_mm=3.99).is_worn(WHEEL)
    wide = WheelUse(front_mm=5.0)
    assert wide._spreads(made, WHEEL) == pytest.approx(made.volume_mm3 / 5.3), "over the front, where that is wider"
    assert wide._walks(made, WHEEL) < walks
    assert fresh.strokes_to_volume(2.5 * fresh._spreads(made, WHEEL), made, WHEEL) == int(2.5 * made.strokes)
    assert fresh.strokes_to_volume(0.0, made, WHEEL) == 0


@pytest.mark.parametrize(
    ("holder", "is_flip", "minutes"), [("magnet", False, 4.0), ("magnet", True, 1.0), ("Angle plate A1", True, 8.0)]
)
def test_putting_a_part_up_takes_as_long_as_what_holds_it_asks(holder: str, is_flip: bool, minutes: float) -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "place", "0.02", spark_outs=0, holder=holder))
    times = {"place": Times(4.0, 4.0, 4.0, 5), "flip": Times(1.0, 1.0, 1.0, 5), "fixture": Times(8.0, 8.0, 8.0, 5)}
    assert time_left(log.run(), times, is_flip=is_flip).likely == minutes


def test_what_is_up_runs_until_the_part_is_signed_off() -> None:
    log = started("0.02")
    told = summary_of(log.now)
    assert told.running and told.up == 1 and told.words == "Face 1, pass 1 of 1" and told.finished_at is None
    log.add(Kind.PASS, reading_mm=D("0.12"))
    assert summary_of(log.now).words == "Face 1: spark out"
    assert not summary_of(Log().now).running and summary_of(Log().now).last_at is None


@pytest.mark.parametrize(
    ("name", "kind", "value", "words"),
    [
        ("angle of slot", "angle", "30.5", "30°30'00\""), ("tilt", "angle", "30.5", "30°30'00\""),
        ("flat", "flat", "0.0041", "4.10 µm"), ("flat width", "size", "7.5", "7.500 mm"),
        ("angle height", "size", "7.5", "7.500 mm"), ("step", "size", "7.5", "7.500 mm"),
    ],
)  # fmt: skip
def test_a_measurement_is_told_in_what_it_is_of_whatever_it_is_called(
    name: str, kind: CharacteristicKind, value: str, words: str
) -> None:
    told = tell(
        entry(Kind.MEASURED, characteristic=name, readings=(Reading("p", D(value)),), uncertainty_mm=D("0.001"),
              instrument="G1", note="part still warm", verdict="unsure"),
        replace(UNITS, kinds={name: kind}),
    )  # fmt: skip
    assert told.startswith(f"Measured {name} at 1 place with G1: {words}, each ± ")
    assert told.endswith(" (part still warm); unsure.")


def test_a_step_without_settings_says_none() -> None:
    rough = PlanStep(1, "rough", D("0.0254"), D("0.0254"), D("12.7"), D(350))
    assert step_words(rough, UNITS) == "Feed 1.0 thou; 500 thou across, table 69 ft/min"
    for crossfeed, table in ((None, D(350)), (D("12.7"), None), (None, None)):
        assert step_words(PlanStep(1, "spark-out", D(0), D(0), crossfeed, table), UNITS) == "Spark-out, no feed;"


def test_a_spark_out_alone_is_told_as_such_and_what_nobody_knows_by_its_own_name() -> None:
    spark_out = plan(1, spark_outs=1)
    assert tell(entry(Kind.PLANNED, plan=spark_out, surface=1), UNITS) == "Planned face 1: 1 pass of spark-out only."
    told = {
        Kind.PREPARED: ({"item": "blown off"}, "Blown off."),
        Kind.OBSERVED: ({"seen": "smoke", "side": "left"}, "smoke on the left."),
        Kind.HALTED: ({"seen": "smell", "note": "Burnt.", "power_w": D(900)}, "Stopped: smell, 900 W. Burnt."),
    }
    for kind, (given, words) in told.items():
        assert tell(entry(kind, surface=1, **given), UNITS) == words


@pytest.mark.parametrize(
    ("surface", "states", "ready", "why"),
    [
        (1, {2: FaceState.RAW}, False, "Face 2 must be stable"),
        (1, {2: FaceState.STABLE}, True, ""),
        (2, {1: FaceState.STABLE}, False, "Face 1 is the reference"),
        (2, {1: FaceState.CLEANED}, True, ""),
        (3, {1: FaceState.STABLE}, False, "Face 1 comes first: face 3 is to be square"),
        (3, {1: FaceState.CLEANED, 5: FaceState.RAW}, True, ""),
        (5, {1: FaceState.CLEANED, 3: FaceState.CLEANED}, True, ""),
        (5, {1: FaceState.CLEANED, 3: FaceState.STABLE}, False, "Face 3 is the reference"),
    ],
)
def test_a_surface_is_ready_when_what_it_stands_on_and_is_square_to_has_come_far_enough(
    surface: int, states: dict[int, FaceState], ready: bool, why: str
) -> None:
    of = spec(setups=(*PAIR, *SIDES), came=states)
    job_state, asked = Log(of).now, of.wanted.surfaces[surface]
    assert is_ready(asked, job_state.states) is ready
    if ready:
        may_grind(surface, job_state)
        return
    with pytest.raises(LogError, match=why):
        may_grind(surface, job_state)


def test_what_comes_before_a_surface_holds_it_back_where_the_part_has_it() -> None:
    known = BRIEF.wanted.surfaces
    after = replace(known[2], after=(4, 99))
    of = spec(came={1: FaceState.CLEANED})
    of = replace(of, wanted=replace(of.wanted, surfaces={**known, 2: after}))
    assert needed_by(after) == {1, 4, 99} and needed_by(known[3]) == {1} and needed_by(known[1]) == set()
    with pytest.raises(LogError, match="Face 4 comes first: face 2 is ground after it"):
        may_grind(2, Log(of).now)
    assert not is_ready(after, Log(of).now.states)
    done = replace(of, start_states={**of.start_states, 4: FaceState.CLEANED})
    may_grind(2, Log(done).now)
    assert is_ready(after, Log(done).now.states)


def test_what_was_taken_off_the_chuck_takes_the_wheel_s_height_with_it() -> None:
    for kind, more in ((Kind.LEFT, {"note": "In a hurry."}), (Kind.HALTED, {"seen": "moved"})):
        log = started("0.02")
        log.add(Kind.PASS, reading_mm=D("0.12"))
        log.add(Kind.SPARK_OUT)
        log.measure(1, "22.24")
        assert log.now.touches_chuck_mm is not None
        log.add(kind, **more)
        if kind is Kind.HALTED:
            log.add(Kind.WENT_ON, note="Put up anew.")
        assert log.now.touches_chuck_mm is None and log.now.up is None


def test_only_the_pieces_of_a_load_are_said_to_be_done_with_it() -> None:
    log = started("0.02")
    log.add(Kind.PASS, reading_mm=D("0.12"))
    log.add(Kind.SPARK_OUT)
    with pytest.raises(LogError, match="done already"):
        log.add(Kind.SURFACE_DONE, pieces=(9,))
    with pytest.raises(LogError, match="Measure face 1 first: it has been cut since it was last measured"):
        log.add(Kind.SURFACE_DONE)
    log.measure(1, "22.24")
    log.add(Kind.SURFACE_DONE, pieces=(1,))
    with pytest.raises(LogError, match="done already"):
        log.add(Kind.SURFACE_DONE)


def test_a_dress_takes_off_no_more_than_a_wheel_can_lose_at_once() -> None:
    for amount in (MOST_DRESS_MM, D(0)):
        started("0.02").add(Kind.DRESSED, amount_mm=amount)
    for amount in (MOST_DRESS_MM + D("0.0001"), D("-0.0001")):
        with pytest.raises(LogError):
            started("0.02").add(Kind.DRESSED, amount_mm=amount)


def test_a_time_is_told_to_the_thousandth_of_a_minute_between_the_shortest_and_the_longest() -> None:
    log = started("0.02")
    log.add(Kind.PASS, reading_mm=D("0.12"))
    cut = log.entries[-1]
    for seconds, told in ((100, 1.667), (3, 0.05), (2.9, None), (3600, 60.0), (3601, None)):
        size = replace(entry(Kind.MEASURED, 9, surface=1), at=cut.at + timedelta(seconds=seconds))
        assert time_told(size, log.now) == (None if told is None else ("measure", told))


def test_a_step_that_is_not_the_next_one_is_not_skipped_and_a_route_without_the_set_up_stays() -> None:
    log = started("0.02", "dress", "0.02")
    odd = [
        addressed(entry(Kind.SKIPPED, 20, surface=1, step=3, note="x"), log.now),
        entry(Kind.REROUTED, 21, change="skip", setup="9", note="x"),
        entry(Kind.REROUTED, 22, change="grind", surface=None, note="x"),
    ]
    assert log.now.last_seq == 3 and Folding(log.spec).last_seq == 0 and Log().run().passes_done == 0
    assert stand(log.spec, [*log.entries, *odd]).runs[1] == log.run()
    assert stand(log.spec, [*log.entries, *odd]).setups == log.now.setups


def test_where_it_stands_is_worked_out_once_and_what_was_walked_is_not_walked_again() -> None:
    log = started("0.02")
    growing = Folding(log.spec, log.entries)
    stands, fold = growing.state(), growing._fold
    assert growing.state() is stands
    growing.add(entry(Kind.NOTE, 20, note="x"))
    assert growing._fold is fold and growing.state() is not stands
    growing.add(entry(Kind.UNDONE, 21, supersedes="entry-3"))
    assert growing._fold is not fold and not growing.state().runs[1].touched_off

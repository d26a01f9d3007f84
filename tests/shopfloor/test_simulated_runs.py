"""Whole runs on the simulated grinder by following the screen alone; what is learned of it held against its truth."""

import random
from dataclasses import replace

import pytest

from tests import SEARCHES
from tests.shopfloor.hands import D, Hands, job_of
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.process.power_watch import PowerWatch, Spindle, watch_power
from zesty_lark.core.simulated.truth import Truth, seeded
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.learned import cut_ratio_of
from zesty_lark.core.work.machine_acts import Observed
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.observing import numbered
from zesty_lark.core.work.plans import PASSES, PlanStep, PlanSteps
from zesty_lark.core.work.short_of import ShortOf, SizeFigures, WarmAndCold, heat_told, short_of
from zesty_lark.core.work.time_left import whole_range
from zesty_lark.shopfloor.measuring import rise_of

PRINTS = (Size(D(22), D("0.003"), D("0.003")), Size(D(22), D("0.008"), D(0)), Size(D(22), D(0), D("0.01")))
"""Both sides, and one side only below and above."""
RUNS, OF_WHICH = 25, 24
MOST_RUNS = 100 if SEARCHES else 25
MOST_ACTS = 90


@pytest.mark.parametrize("first", range(0, MOST_RUNS, RUNS))
def test_following_the_screen_alone_ends_in_tolerance_and_never_goes_round(first: int) -> None:
    good = 0
    for seed in range(first, first + RUNS):
        size = PRINTS[seed % len(PRINTS)]
        hands = Hands(job_of(size), seed)
        hands.work((1, 2))
        least, most = hands.true_mm(2)
        good += size.lower_mm <= D(repr(least)) and D(repr(most)) <= size.upper_mm
        assert len(hands.acts) <= MOST_ACTS, f"seed {seed} went round: {hands.acts}"
    assert good >= OF_WHICH, f"{good} of {RUNS}"


def test_what_is_written_down_may_be_wrong_and_the_size_is_met_all_the_same() -> None:
    """Cut ratios from 0.3 to 0.75 where 0.6 is written down, a chuck 5 µm out, much stock and little."""
    for seed in range(MOST_RUNS // 2):
        dice, size = random.Random(seed * 7 + 1), PRINTS[seed % len(PRINTS)]
        truth = replace(seeded(seed), eta=dice.uniform(0.3, 0.75), chuck_lean_um=dice.choice((0.5, 5.0)))
        hands = Hands(job_of(size, came=str(round(22 + dice.uniform(0.06, 0.5), 3))), seed, truth=truth)
        hands.work((1, 2))
        least, most = (D(repr(each)) for each in hands.true_mm(2))
        assert size.lower_mm <= least and most <= size.upper_mm, f"seed {seed}: {least} to {most}"


def test_four_faces_of_five_take_as_long_as_their_first_plan_s_range_says() -> None:
    """With stops, dresses and all that is planned anew after them."""
    inside, faces = 0, 0
    for seed in range(10 * MOST_RUNS // RUNS):
        hands = Hands(job_of(PRINTS[seed % len(PRINTS)]), seed)
        for face in (1, 2):
            hands.work((face,))
            begun, plan = hands.first[face]
            time, took = whole_range(plan), hands.grinder.minutes - begun
            inside += time.low <= took <= time.high
            faces += 1
            assert time.high < 2 * time.low + 10, "a range that says something"
    assert inside >= 0.8 * faces, f"{inside} of {faces}"


def test_a_part_counts_as_warm_once_it_was_ground_and_while_it_is_up() -> None:
    seen: set[tuple[bool, bool]] = set()

    class Watched(Hands):
        def act(self, what: Next, job_state: JobState) -> None:
            for run in job_state.runs.values():
                if run.plan is not None:
                    ground, up = bool(run.fed), job_state.is_up(run)
                    done = [
                        step.kind for step in run.plan.steps[: run.done] if step.kind == "cool" or step.kind in PASSES
                    ]
                    cooled = bool(done) and done[-1] == "cool"
                    seen.add((ground, up))
                    assert rise_of(run, job_state) == (float(run.plan.rise_c) if ground and up and not cooled else 0.0)
                    assert run.plan.rise_c > 0
            super().act(what, job_state)

    Watched(job_of(PRINTS[0]), 2).work((1, 2))
    assert seen == {(False, False), (False, True), (True, True), (True, False)}


def test_a_wheel_that_loads_is_told_by_its_power_and_one_that_does_not_is_left_alone() -> None:
    def told(loads: float) -> PowerWatch | None:
        hands = Hands(job_of(PRINTS[0], came="22.5"), 5, truth=replace(EVEN, g_ratio=8.0, dulls_mm3_mm=500.0))
        hands.grinder.faults.loads = loads
        hands.own = [
            trial("dress", "place", "touch off", *["0.0102"] * 12, *SPARK_OUTS, "measure", crossfeed="1", keeps=False)
        ]
        follow(hands)
        now = hands.now
        return watch_power(
            now.powers, Spindle(180.0, 3000.0, "water", now.idle_w), fresh=0.8, reference_mm3_mm=500.0, limit_c=390.0
        )

    usual, loaded = told(1.0), told(8.0)
    assert usual is not None and loaded is not None
    assert usual.dullness == pytest.approx(usual.expected, rel=0.25)
    assert loaded.dullness > 1.25 * loaded.expected and loaded.state != "well"
    assert loaded.volume_left_mm3_mm is not None and usual.volume_left_mm3_mm is not None
    assert loaded.volume_left_mm3_mm < usual.volume_left_mm3_mm, "it is to be dressed sooner"


def test_what_is_heard_changes_the_rest_of_the_run_and_it_still_ends_in_tolerance() -> None:
    hands = Hands(job_of(PRINTS[0]), 11)
    said = set()

    def say(_: JobState) -> None:
        run = hands.now.at
        if run is None or run.plan is None or not run.fed or hands.seen is None:
            return
        if hands.seen.side and "uneven" not in said:
            said.add("uneven")
            hands.log(Observed, run.surface, seen="uneven", side=hands.seen.side)
        elif run.done > 6 and "dull" not in said:
            said.add("dull")
            hands.log(Observed, run.surface, seen="dull")

    hands.after_pass = say
    hands.work((1, 2))
    least, most = hands.true_mm(2)
    assert said >= {"dull"} and PRINTS[0].lower_mm <= D(repr(least)) and D(repr(most)) <= PRINTS[0].upper_mm
    assert hands.acts.count("dress") > 4


def trial(*steps: str, crossfeed: str, keeps: bool = True) -> PlanSteps:
    """A plan to be tried on a reference: feeds [mm], a word in their place is a step of that kind."""
    made = []
    for step in steps:
        kind = step if step[0].isalpha() else "rough"
        fed = D(0) if step[0].isalpha() else D(step)
        made.append(PlanStep(0, kind, fed, D(0), D(crossfeed), D(200)))  # type: ignore[arg-type]
    return PlanSteps(0, 1, "custom", D(5), D(0), numbered(made), keeps)


def follow(hands: Hands) -> None:
    """Do what is asked until the last plan to be tried was measured; there is coolant enough to keep the part cold."""

    def keeps_cold(_: JobState) -> None:
        hands.grinder.lump.warm_c = 0.0

    hands.after_pass = keeps_cold
    while hands.own or not hands.now.runs[1].proofs:
        hands.act(next_act(hands.now), hands.now)


SPARK_OUTS = ("spark-out",) * 8
EVEN = Truth(surface_um=2.0, chuck_lean_um=0.0, seats_um=0.0, gauge_um=0.05)


@pytest.mark.parametrize("eta", [0.45, 0.6, 0.75])
def test_the_cut_ratio_that_a_run_teaches_is_the_hidden_one(eta: float) -> None:
    hands = Hands(job_of(PRINTS[0]), 3, truth=replace(EVEN, eta=eta, g_ratio=1e6))
    hands.own = [
        trial("place", "touch off", "0.02", "0.02", *SPARK_OUTS, "cool", "measure", crossfeed="3", keeps=False),
        trial(*["0.0127"] * 5, "cool", "measure", crossfeed="12"),
    ]
    follow(hands)
    learned = cut_ratio_of(hands.now.shortfalls[-1], 12.7)
    assert learned == pytest.approx(eta, abs=0.03)


def told_of(truth: Truth, *, careless: bool) -> ShortOf:
    """What many runs tell of a grinder: half of them begin with a touch-off, and they differ in what is ground."""
    hands = Hands(job_of(PRINTS[0], came="24.5"), 8, truth=truth)
    hands.own = [trial("place", "touch off", "0.02", *SPARK_OUTS, "cool", "measure", crossfeed="3", keeps=False)]
    for number in range(14):
        first = ("touch off",) if number % 2 else ()
        feeds = ["0.0254"] * (2 + number % 5)
        hands.own.append(trial(*first, *feeds, *SPARK_OUTS, "cool", "measure", crossfeed="10", keeps=not first))
    hands.careless = careless
    follow(hands)
    shortfalls = hands.now.shortfalls[1:]
    assert len(shortfalls) == 14 and {each.fresh for each in shortfalls} == {True, False}
    figures = [
        SizeFigures(
            float(shortfall.asked_mm),
            float(shortfall.got_mm),
            float(shortfall.held_back_mm),
            float(shortfall.volume_mm3),
            shortfall.fresh,
        )
        for shortfall in shortfalls
    ]
    return short_of(figures, wheel_diameter_mm=180, wheel_width_mm=12.7)


def test_the_backlash_that_runs_tell_is_the_hidden_one() -> None:
    told = told_of(replace(EVEN, backlash_mm=0.012, g_ratio=200.0), careless=True)
    assert told.backlash is not None and told.backlash.told
    assert told.backlash.value == pytest.approx(12.0, abs=2.6), "give or take a graduation of the collar"
    careful = told_of(replace(EVEN, backlash_mm=0.012, g_ratio=200.0), careless=False)
    assert careful.backlash is not None and not careful.backlash.told, "who comes from above loses nothing"


def test_the_wear_that_runs_tell_is_the_hidden_one() -> None:
    told = told_of(replace(EVEN, g_ratio=5.0), careless=False)
    assert told.wear is not None and told.wear.told and told.grinding_ratio is not None
    assert 0.5 * 5.0 * 0.7 <= told.grinding_ratio <= 4 * 5.0, "G follows the chip; the last stroke cuts beside the part"
    hardly = told_of(replace(EVEN, g_ratio=100.0), careless=False)
    assert hardly.wear is not None and hardly.wear.value < told.wear.value / 4


def test_what_comes_back_when_it_is_cold_is_told_as_heat() -> None:
    hands = Hands(job_of(PRINTS[0]), 6, truth=replace(EVEN, gauge_um=0.02))
    made = hands.grinder
    pairs = []
    for _ in range(4):
        made.place(1)
        made.touch_off()
        for _ in range(3):
            made.turn_to(made.collar_mm + 0.02)
            made.run_pass(10.0, 350.0)
        warm_c = made.lump.warm_c
        warm = made.measure_mm(0.5, 0.5)
        made.wait(60.0)
        pairs.append(WarmAndCold(warm, made.measure_mm(0.5, 0.5)))
        grown = (22.2 * 11.5e-3 + 0.15) * warm_c
        assert (pairs[-1].warm_mm - pairs[-1].cold_mm) * 1000 == pytest.approx(grown, rel=0.3)
    told = heat_told(pairs)
    assert told.told and told.value > 0 and "4 times" in told.words
    assert not heat_told([]).told and not heat_told(pairs[:1]).told

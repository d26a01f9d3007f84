"""What the simulated grinder is told and says, and the clock of a part that cools."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

import pytest
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import job_of
from tests.store.test_learning import Bench
from zesty_lark.core.work.entries import PassFed, SparkedOut
from zesty_lark.core.work.next_act import Next
from zesty_lark.core.work.plans import PlanStep, PlanSteps
from zesty_lark.core.work.standing import Standing
from zesty_lark.shopfloor import simulation
from zesty_lark.shopfloor.cooling import clock_of
from zesty_lark.shopfloor.measuring import rise_of
from zesty_lark.store import shoplog

D = Decimal
GAUGE = "Bench comparator B1"


def with_a_wait(plan: PlanSteps) -> PlanSteps:
    """A plan with a wait at its end, in which the part cools."""
    number = len(plan.steps) + 1
    return replace(plan, steps=(*plan.steps, PlanStep(number, "cool", D(0), plan.steps[-1].depth_mm, amount=D(7))))


def test_a_warm_part_cools_from_its_last_pass_unless_its_plan_let_it(demo: Session) -> None:
    bench = Bench(demo)
    now = shoplog.standing_of(demo, bench.job)
    asked, flat = now.brief.wanted.named("thickness"), now.brief.wanted.named("flat")
    assert asked is not None and flat is not None
    clock = clock_of(bench.job, now, asked)
    last = next(each for each in reversed(now.history) if isinstance(each, PassFed | SparkedOut))
    assert (
        clock is not None and clock.since == last.at and clock.rise_c == 1.23 and clock_of(bench.job, now, flat) is None
    )
    at = last.at + timedelta(hours=1)
    elsewhere = PassFed(entry_id="cool-00001", at=at, surface=1, reading_mm=D(1))
    other = clock_of(bench.job, replace(now, history=(*now.history, elsewhere)), asked)
    assert other is not None and other.since == last.at
    later = clock_of(bench.job, replace(now, history=(*now.history, replace(elsewhere, surface=2))), asked)
    assert later is not None and later.since == at
    run = now.runs[2]
    assert rise_of(run, now) == 1.23 and rise_of(replace(run, fed=False), now) == 0.0
    assert rise_of(replace(run, plan=None), now) == 0.0 and rise_of(run, replace(now, up=None)) == 0.0
    assert run.plan is not None
    cool = len(run.plan.steps)
    cooled = replace(run, plan=with_a_wait(run.plan), done=cool + 1)
    assert rise_of(cooled, now) == 0.0 and rise_of(replace(cooled, skipped=(cool + 1,)), now) == 1.23
    cold = replace(now, runs={**now.runs, 2: cooled})
    assert clock_of(bench.job, cold, asked) is None
    none = replace(now, history=())
    assert clock_of(bench.job, none, asked) is None


@pytest.mark.parametrize(
    ("act", "answer", "words"),
    [
        ("place", "", "The simulated grinder has done it."),
        ("touch_off", "0.1", "The simulated grinder touched off, collar at 0.1 mm."),
        ("touch_off", "", "The simulated grinder touched off."),
        ("pass", "clean=0.5 side=left died=0 power=412.4", "ran it: 50 % clean, more sparks on the left, 412 W."),
        ("pass", "clean=0.996 side=none died=0 power=412.6", "ran it: clean all over, sparks even, 413 W."),
        ("blank", "clean=0.995 side=left died=1 power=90", "ran it: 100 % clean, the sparks died, 90 W."),
        ("no_feed", "clean=much", "The simulated grinder ran it."),
        ("no_feed", "", "The simulated grinder ran it."),
        ("pass", "odd clean=1 side=none died=0 power=1", "ran it: clean all over, sparks even, 1 W."),
    ],
)
def test_what_the_simulated_grinder_answers_is_said_in_words(act: str, answer: str, words: str) -> None:
    assert simulation._seen(Next(act, 2, (1,)), answer).endswith(words)  # type: ignore[arg-type]


def test_the_simulated_grinder_is_told_what_lies_under_the_wheel_and_what_hands_do(demo: Session) -> None:
    job, standing = job_of(demo, "TR-101")
    run = standing.runs[2]
    assert run.plan is not None
    part = "part TR-101 88.3100000 54.2600000 22.2620000"

    def lines(act: str, now: Standing = standing, **more: object) -> list[str]:
        of = replace(run, **more)  # type: ignore[arg-type]
        return simulation._lines(job, now, Next(act, 2, (1,)), of)  # type: ignore[arg-type]

    assert lines("place") == [part, "place 2"] and lines("place", pieces=()) == [part, "place 2"]
    assert standing.touch_reading_mm(run) is None and lines("touch_off") == [part, "touch", "ring 0"]
    size = replace(standing.pieces[1].sizes["thickness"], measured=True, mm=D("22.2"), by_collar_mm=D("22.2"))
    pieces = {1: replace(standing.pieces[1], sizes={**standing.pieces[1].sizes, "thickness": size})}
    known = replace(standing, touches_chuck_mm=D("22.4"), pieces=pieces)
    assert known.touch_reading_mm(run) == D("0.2") and lines("touch_off", known) == [part, "touch"]
    blank = next(number for number, step in enumerate(run.plan.steps) if step.kind == "blank")
    assert lines("blank", done=blank) == [part, "pass 0.8000000 300.0000000"]
    assert lines("pass")[1].startswith("collar 0.1") and lines("pass")[2] == "pass 0.8000000 300.0000000"
    dress = next(number for number, step in enumerate(run.plan.steps) if step.kind == "dress")
    over = len(run.plan.steps)
    assert lines("dress", done=dress)[0].split()[2] == run.plan.steps[dress].what
    assert lines("dress", done=over)[0].split()[2] == "general"
    waits = with_a_wait(run.plan)
    assert lines("cool", done=over, plan=waits) == ["wait 7"]
    assert lines("turn", done=over, plan=waits) == lines("chamfer", done=over) == lines("cool", done=over) == ["wait 2"]
    for act, done in (("pass", over), ("measure", 0), ("plan", 0)):
        with pytest.raises(simulation.SimulationError, match="nothing for a grinder"):
            lines(act, done=done)


def test_a_slot_is_told_as_what_it_is_to_the_wheel(demo: Session) -> None:
    job, standing = job_of(demo, "TR-114")
    told, face = simulation._part(job, standing, standing.runs[7])
    word, name, along, across, deep, _, volume = told.split()
    assert (word, name, face) == ("formed", "TR-114/7", 1) and D(along) > D(across) == 18
    assert D(deep) > 0 and D(volume) > 0

"""What the simulated grinder is told and says, the clock of a part that cools, and its wheel's dress and face."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import job_of
from tests.store.test_learning import LaidOut
from zesty_lark.core.measure.sensors import Sensor
from zesty_lark.core.work.entries import Undone
from zesty_lark.core.work.halting import FIRST_ACT, STOPS
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Halted, PassFed, SparkedOut
from zesty_lark.core.work.next_act import Next
from zesty_lark.core.work.plans import PlanStep, PlanSteps
from zesty_lark.shopfloor import simulation, wall, wheels
from zesty_lark.shopfloor.cooling import clock_of
from zesty_lark.shopfloor.measuring import rise_of
from zesty_lark.shopfloor.wall import wall_of
from zesty_lark.store import job_states, shop, shoplog
from zesty_lark.store.models import MachineRow, SensorRow
from zesty_lark.store.shoplog import Draft

D = Decimal


def with_a_wait(plan: PlanSteps) -> PlanSteps:
    """A plan with a wait at its end, in which the part cools."""
    number = len(plan.steps) + 1
    return replace(plan, steps=(*plan.steps, PlanStep(number, "cool", D(0), plan.steps[-1].depth_mm, amount=D(7))))


def test_a_warm_part_cools_from_its_last_pass_unless_its_plan_let_it(demo: Session) -> None:
    laid_out = LaidOut(demo)
    now = job_states.state_of(demo, laid_out.job)
    asked, flat = now.spec.wanted.named("thickness"), now.spec.wanted.named("flat")
    assert asked is not None and flat is not None
    clock = clock_of(laid_out.job, now, asked)
    last = next(entry for entry in reversed(now.history) if isinstance(entry, PassFed | SparkedOut))
    assert (
        clock is not None
        and clock.since == last.at
        and clock.rise_c == 2.24
        and clock_of(laid_out.job, now, flat) is None
    )
    at = last.at + timedelta(hours=1)
    elsewhere = PassFed(entry_id="cool-00001", at=at, surface=1, reading_mm=D(1))
    other = clock_of(laid_out.job, replace(now, history=(*now.history, elsewhere)), asked)
    assert other is not None and other.since == last.at
    later = clock_of(laid_out.job, replace(now, history=(*now.history, replace(elsewhere, surface=2))), asked)
    assert later is not None and later.since == at
    run = now.runs[2]
    assert rise_of(run, now) == 2.24 and rise_of(replace(run, fed=False), now) == 0.0
    assert rise_of(replace(run, plan=None), now) == 0.0 and rise_of(run, replace(now, up=None)) == 0.0
    assert run.plan is not None
    cool = len(run.plan.steps)
    cooled = replace(run, plan=with_a_wait(run.plan), done=cool + 1)
    assert rise_of(cooled, now) == 0.0 and rise_of(replace(cooled, skipped=(cool + 1,)), now) == 2.24
    cold = replace(now, runs={**now.runs, 2: cooled})
    assert clock_of(laid_out.job, cold, asked) is None
    none = replace(now, history=())
    assert clock_of(laid_out.job, none, asked) is None


@pytest.mark.parametrize(
    ("act", "answer", "words"),
    [
        ("place", "", "The simulated grinder has done it."),
        ("touch_off", "0.1", "The simulated grinder touched off, collar at 0.1 mm."),
        ("touch_off", "", "The simulated grinder touched off."),
        ("pass", "clean=0.9 side=left died=0 power=412.4", "ran it: 90 % clean, more sparks on the left, 412 W."),
        ("pass", "clean=0.996 side=none died=0 power=412.6", "ran it: clean all over, sparks even, 413 W."),
        ("spark-out", "clean=0.995 side=left died=1 power=90", "ran it: 100 % clean, the sparks died, 90 W."),
        ("no_feed", "clean=much", "The simulated grinder ran it."),
        ("no_feed", "", "The simulated grinder ran it."),
        ("pass", "odd clean=1 side=none died=0 power=1", "ran it: clean all over, sparks even, 1 W."),
    ],
)
def test_what_the_simulated_grinder_answers_is_said_in_words(act: str, answer: str, words: str) -> None:
    assert simulation._seen(Next(act, 2, (1,)), answer).endswith(words)  # type: ignore[arg-type]


def test_the_simulated_grinder_is_told_what_lies_under_the_wheel_and_what_hands_do(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-101")
    run = job_state.runs[2]
    assert run.plan is not None
    part = "part TR-101 88.3100000 54.2600000 22.2620000"

    def lines(act: str, now: JobState = job_state, **more: object) -> list[str]:
        of = replace(run, **more)  # type: ignore[arg-type]
        return simulation._lines(job, now, Next(act, 2, (1,)), of)  # type: ignore[arg-type]

    assert lines("place") == [part, "place 2"] and lines("place", pieces=()) == [part, "place 2"]
    assert job_state.touch_reading_mm(run) is None and lines("touch_off") == [part, "touch", "ring 0"]
    size = replace(job_state.pieces[1].sizes["thickness"], measured=True, mm=D("22.2"), by_collar_mm=D("22.2"))
    pieces = {1: replace(job_state.pieces[1], sizes={**job_state.pieces[1].sizes, "thickness": size})}
    known = replace(job_state, touches_chuck_mm=D("22.4"), pieces=pieces)
    assert known.touch_reading_mm(run) == D("0.2") and lines("touch_off", known) == [part, "touch"]
    spark_out = next(number for number, step in enumerate(run.plan.steps) if step.kind == "spark-out")
    assert lines("spark-out", done=spark_out) == [part, "pass 0.8000000 300.0000000"]
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
    job, job_state = job_of(demo, "TR-114")
    told, face = simulation._part(job, job_state, job_state.runs[7])
    word, name, along, across, deep, _, volume = told.split()
    assert (word, name, face) == ("formed", "TR-114/7", 1) and D(along) > D(across) == 18
    assert D(deep) > 0 and D(volume) > 0


class Wire:
    """A line to a simulated grinder that answers as it is told."""

    def __init__(self, *answers: str) -> None:
        self.answers, self.sent = list(answers), list[str]()

    def __enter__(self) -> "Wire":
        return self

    def __exit__(self, *_error: object) -> None:
        return None

    def makefile(self, _mode: str) -> "Wire":
        return self

    def write(self, line: bytes) -> None:
        self.sent.append(line.decode())

    def flush(self) -> None:
        return None

    def readline(self, _most: int) -> bytes:
        return self.answers.pop(0).encode()


@pytest.fixture
def readout(demo: Session) -> Sensor:
    found = shop.by_name(demo, SensorRow, "Readout R1")
    assert found is not None
    return found.to_core()


def test_an_act_is_asked_for_line_by_line_and_the_last_answer_is_what_was_seen(
    demo: Session, readout: Sensor, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-101")
    wire, asked = Wire("ok\n", "ok\n", "ok clean=0.25 side=back died=0 power=300\n"), list[object]()
    monkeypatch.setattr(simulation.socket, "create_connection", lambda *where: asked.append(where) or wire)
    told = simulation.do_next(readout, job, job_state, Next("pass", 2, (1,)))
    assert told == "The simulated grinder ran it: 25 % clean, more sparks at the back, 300 W."
    assert asked == [(("127.0.0.1", 8422), 5.0)]
    assert [each.split()[0] for each in wire.sent] == ["part", "collar", "pass"]
    assert all(each.endswith("\n") and each.count("\n") == 1 for each in wire.sent)


@pytest.mark.parametrize(
    ("answers", "says"),
    [
        (("no wheel guard open\n",), "The simulated grinder: wheel guard open."),
        (("",), "The simulated grinder: no answer."),
        (("ok\n", "no room\n"), "The simulated grinder: room."),
    ],
)
def test_what_the_simulated_grinder_refuses_is_said_as_it_says_it(
    demo: Session, readout: Sensor, monkeypatch: pytest.MonkeyPatch, answers: tuple[str, ...], says: str
) -> None:
    job, job_state = job_of(demo, "TR-101")
    monkeypatch.setattr(simulation.socket, "create_connection", lambda *_where: Wire(*answers))
    with pytest.raises(simulation.SimulationError) as error:
        simulation.do_next(readout, job, job_state, Next("place", 2, (1,)))
    assert str(error.value) == says


def test_a_simulated_grinder_that_is_not_there_says_how_to_start_it(
    demo: Session, readout: Sensor, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-101")

    def away(*_where: object) -> None:
        raise OSError("refused")

    monkeypatch.setattr(simulation.socket, "create_connection", away)
    with pytest.raises(simulation.SimulationError, match="Start it with"):
        simulation.do_next(readout, job, job_state, Next("place", 2, (1,)))
    with pytest.raises(simulation.SimulationError, match="nothing for a grinder"):
        simulation.do_next(readout, job, job_state, Next("sign_off"))


def test_a_clock_s_moments_come_after_the_last_pass_and_a_little_warmth_has_one_too(demo: Session) -> None:
    laid_out = LaidOut(demo)
    now = job_states.state_of(demo, laid_out.job)
    asked, run = now.spec.wanted.named("thickness"), now.runs[2]
    assert asked is not None and run.plan is not None
    for rise in (D("0.5"), D(8)):
        warm = replace(now, runs={**now.runs, 2: replace(run, plan=replace(run.plan, rise_c=rise))})
        clock = clock_of(laid_out.job, warm, asked)
        assert clock is not None and clock.rise_c == float(rise)
        assert all(moment == clock.since + timedelta(seconds=wait.wait_s) for wait, moment in clock.ready)
        assert (max(wait.wait_s for wait, _ in clock.ready) > 0) is (rise == 8)


def test_a_dress_follows_what_its_job_asks_and_how_deep_it_cut_to_a_millimetre_at_most(demo: Session) -> None:
    job, job_state = job_of(demo, "TR-101")
    wheel = wheels.on_rack(demo, job.wheel)
    deep = replace(job_state, wheel_use=replace(job_state.wheel_use, deepest_mm=D(3)))
    one = replace(job_state, wheel_use=replace(job_state.wheel_use, deepest_mm=D(1)))
    assert wheels.dress_for(job, deep, "fine") == wheels.dress_for(job, one, "fine")
    assert wheels.dress_for(job, one, "fine") != wheels.dress_for(job, job_state, "fine")
    assert wheels._asked_for(job_state) == "rough" and wheels._asked_for(None) is None
    run = job_state.runs[2]
    for at in (None, replace(run, plan=None), replace(run, done=99)):
        assert wheels._asked_for(replace(job_state, at=at)) is None
    made = wheels.dressing(demo, wheel, job.machine, "fine", diamond_mm=0.5)
    assert (made.kind, made.diamond_mm, made.deepest_mm) == ("fine", 0.5, job_state.wheel_use.deepest_mm)


def test_a_face_is_told_of_a_wheel_whose_job_has_a_pass_to_come(demo: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    job, job_state = job_of(demo, "TR-101")
    wheel = wheels.on_rack(demo, job.wheel)
    found = wheels.face_now(demo, wheel)
    run = job_state.runs[2]
    assert found is not None and run.plan is not None
    step = next(each for each in run.plan.steps[run.done :] if each.kind in ("rough", "finish"))
    assert found.depth_mm == float(step.step_mm)
    assert wheels.face_now(demo, replace(wheel, busy=None)) is None
    for now in (
        replace(job_state, spec=replace(job_state.spec, wheel=None)), replace(job_state, at=None),
        replace(job_state, at=replace(run, plan=None)), replace(job_state, at=replace(run, done=99)),
    ):  # fmt: skip
        monkeypatch.setattr(wheels.job_states, "state_of", lambda _session, _job, now=now: now)
        assert wheels.face_now(demo, wheel) is None


def test_a_wall_shows_what_runs_what_comes_next_and_the_first_safe_act_of_a_stop(demo: Session) -> None:
    laid_out = LaidOut(demo)
    shown = {row.name: wall_of(demo, row) for row in shop.listed(demo, MachineRow)}
    mine = shown["No. 1, inch dial"]
    assert mine is not None and (mine.job, mine.stop, mine.words) == (laid_out.job, None, "Face 2, pass 6 of 19")
    assert mine.run == mine.job_state.runs[2] and mine.first == FIRST_ACT and mine.beside.left is not None
    for number, seen in enumerate(("moved", "other", "smell of fish")):
        stopped = Halted(
            entry_id=f"stop-{number:04d}", at=laid_out.at, by="bryn", surface=2, seen=seen, note="Looked at."
        )
        if seen in STOPS:
            shoplog.append(demo, laid_out.job, laid_out.who, Draft(stopped))
            halted = wall_of(demo, laid_out.job.machine)
            assert halted is not None and halted.stop is STOPS[seen] and halted.first == STOPS[seen].first
            assert halted.next.act == "halted"
            laid_out.log(Undone, supersedes=stopped.entry_id)
    demo.execute(text("update job_summary set running = 0, up = null"))
    demo.expire_all()
    assert wall_of(demo, laid_out.job.machine) is None


def test_a_job_up_without_anything_to_grind_has_no_run_on_the_wall(
    demo: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-101")
    monkeypatch.setattr(wall, "next_act", lambda _state: Next("prove", None, (1,), "flat"))
    shown = wall_of(demo, job.machine)
    assert shown is not None and shown.run is None and shown.words == "Measure flat"
    odd = replace(job_state, halted=Halted(entry_id="stop-00001", at=job_state.history[-1].at, surface=2, seen="fish"))
    monkeypatch.setattr(wall.job_states, "state_of", lambda _session, _job: odd)
    stopped = wall_of(demo, job.machine)
    assert stopped is not None and stopped.stop is STOPS["other"]

"""The fold: the log decides what the collar should read, what is left, and what comes next."""

from collections.abc import Sequence
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.worklog import BEGIN, BRIEF, UNITS, D, Log, entry, plan, size, spec, started, zone
from zesty_lark.core.calc import answer
from zesty_lark.core.part.faces import ALL_FACES, FaceError, FaceState, corner_faces
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading, Size
from zesty_lark.core.part.surfaces.block_face import pair_stock
from zesty_lark.core.part.surfaces.part import AXES, Block, PairSize, Sharing
from zesty_lark.core.squaring.remaining import ends_at, stock_on
from zesty_lark.core.things.log import in_force
from zesty_lark.core.work.behind import behind
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.folding import stand
from zesty_lark.core.work.job_state import Shortfall
from zesty_lark.core.work.learned import CutRatio, cut_ratio_of, usual_cut_ratio
from zesty_lark.core.work.machine_rules import LogError, may_grind
from zesty_lark.core.work.making import PieceMaking
from zesty_lark.core.work.plans import PlanStep, PlanSteps
from zesty_lark.core.work.rules import check_entry
from zesty_lark.core.work.telling import tell


def test_what_is_left_is_the_stock_less_what_was_fed() -> None:
    log = started("0.02", "0.02", "0.005")
    assert log.run().left_mm == D("0.046")
    log.add(Kind.PASS, reading_mm=D("0.12"))
    assert log.run().left_mm == D("0.026") and log.run(2).left_mm is None


@pytest.mark.parametrize(
    ("amount", "words"),
    [
        (None, "Dressed the wheel; touch off again before the next pass."),
        (D("0.0254"), "Dressed the wheel, 1.0 thou off its radius; the collar readings move by as much."),
    ],
)
def test_a_dress_tells_what_it_does_to_the_collar(amount: object, words: str) -> None:
    assert tell(entry(Kind.DRESSED, surface=1, amount_mm=amount), UNITS) == words


@pytest.mark.parametrize("kind", [Kind.TAKEN_IN, Kind.AMENDED, Kind.HANDED_OVER])
def test_what_was_taken_in_changed_or_handed_over_is_logged_whatever_is_under_way(kind: Kind) -> None:
    for log in (Log(), started("0.02", "0.02")):
        before = log.next
        log.add(kind)
        assert log.next == before


def test_the_whole_story_of_a_pair() -> None:
    log = Log()
    acts: Sequence[tuple[str, Kind, int, dict[str, object]]] = (
        ("plan", Kind.PLANNED, 1, {"plan": plan(1, "0.02", "0.026")}),
        ("place", Kind.PLACED, 1, {}),
        ("touch_off", Kind.TOUCHED_OFF, 1, {"reading_mm": D(0)}),
        ("pass", Kind.PASS, 1, {"reading_mm": D("0.02")}),
        ("pass", Kind.PASS, 1, {"reading_mm": D("0.046")}),
        ("spark-out", Kind.SPARK_OUT, 1, {"count": 1}),
    )
    for act, kind, face, more in acts:
        assert log.next == act
        log.add(kind, face, **more)
    assert log.next == "measure"
    log.measure(1, "22.217", "22.215")
    assert log.next == "close"
    log.add(Kind.SURFACE_DONE, 1)
    assert log.now.states[1] is FaceState.CLEANED and log.next == "plan" and log.now.surface == 2
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2"))
    assert log.next == "place"
    log.add(Kind.PLACED, 2)
    log.add(Kind.TOUCHED_OFF, 2, reading_mm=D(0))
    log.add(Kind.PASS, 2, reading_mm=D("0.2"))
    log.add(Kind.SPARK_OUT, 2, count=1)
    log.measure(2, "22.0172", verdict="not yet")
    assert log.next == "plan"
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.0152", keeps=True))
    assert log.run(2).next_reading_mm == D("0.2152"), "wheel height is kept: the collar carries on"
    log.add(Kind.PASS, 2, reading_mm=D("0.2152"))
    log.add(Kind.SPARK_OUT, 2, count=1)
    log.measure(2, "22.001", verdict="in")
    log.add(Kind.SURFACE_DONE, 2)
    assert log.next == "sign_off"
    log.add(Kind.SIGNED_OFF, None)
    assert log.next == "finished" and log.now.states[2] is FaceState.PROVEN and log.now.up is None
    assert [(shortfall.asked_mm, shortfall.got_mm) for shortfall in log.now.shortfalls] == [
        (D("0.046"), D("0.045")),
        (D("0.2"), D("0.1998")),
        (D("0.0152"), D("0.0162")),
    ]
    assert all(tell(entry, UNITS) for entry in log.entries)


def test_undo_takes_back_and_undoing_the_undo_restores() -> None:
    log = started()
    done = log.add(Kind.PASS, reading_mm=D("0.12"))
    undo = log.add(Kind.UNDONE, supersedes=done.entry_id)
    assert log.run().depth_mm == 0 and log.run().done == 0
    redo = replace(undo, entry_id="redo", supersedes=undo.entry_id)
    assert stand(BRIEF, [*log.entries, redo]).runs[1].depth_mm == D("0.02")
    assert done in in_force([*log.entries, redo])


def test_only_the_last_act_can_be_undone() -> None:
    log = started()
    first = log.add(Kind.PASS, reading_mm=D("0.12"))
    log.add(Kind.PASS, reading_mm=D("0.14"))
    with pytest.raises(LogError, match="no longer the last"):
        log.add(Kind.UNDONE, supersedes=first.entry_id)


def test_a_dress_of_known_depth_moves_the_readings_that_follow() -> None:
    log = started()
    log.add(Kind.PASS, reading_mm=D("0.12"))
    log.add(Kind.DRESSED, amount_mm=D("0.03"))
    assert log.run().next_reading_mm == D("0.17") and log.run().done == 1


def test_a_dress_of_unknown_depth_asks_for_a_new_touch_off() -> None:
    log = started()
    log.add(Kind.PASS, reading_mm=D("0.12"))
    log.add(Kind.DRESSED)
    assert log.next == "touch_off"
    log.add(Kind.TOUCHED_OFF, reading_mm=D(0))
    assert log.run().next_reading_mm == D("0.02"), "what is still to go counts from the new zero"
    assert log.asked() == D("0.02")


@pytest.mark.parametrize(("amount", "reading"), [(D("0.03"), D("0.15")), (None, None)])
def test_a_dress_logged_for_another_face_is_a_dress_of_the_same_wheel(amount: D | None, reading: D | None) -> None:
    """Whoever dresses while face 1 is up and names face 2 has moved face 1's zero all the same."""
    log = started()
    log.add(Kind.DRESSED, 2, amount_mm=amount)
    assert log.run().touched_off == (amount is not None)
    if reading is not None:
        assert log.run().next_reading_mm == reading
    else:
        with pytest.raises(LogError, match="Touch off first"):
            log.add(Kind.PASS, reading_mm=D("0.12"))


def test_going_straight_to_a_later_reading_counts_the_passes_between() -> None:
    log = started()
    log.add(Kind.PASS, reading_mm=D("0.14"))
    assert log.run().done == 2
    log.undo()
    log.add(Kind.PASS, reading_mm=D("0.13"))
    assert log.run().done == 1 and log.run().next_reading_mm == D("0.14")


@pytest.mark.parametrize(("reading", "says"), [("0.1", "go down"), ("0.146", "past the plan"), ("0.05", "go down")])
def test_a_pass_that_cannot_be_is_refused(reading: str, says: str) -> None:
    with pytest.raises(LogError, match=says):
        started().add(Kind.PASS, reading_mm=D(reading))


def test_a_finished_reference_is_never_ground_again() -> None:
    log = started()
    log.add(Kind.PASS, reading_mm=D("0.145"))
    log.add(Kind.SPARK_OUT, count=1)
    log.measure(1, "22.22")
    log.add(Kind.SURFACE_DONE)
    for kind, more in ((Kind.PLACED, {}), (Kind.PLANNED, {"plan": plan(1, "0.01")})):
        with pytest.raises(LogError, match="never ground again"):
            log.add(kind, 1, **more)


@pytest.mark.parametrize(
    ("kind", "more", "says"),
    [
        (Kind.PASS, {"reading_mm": D("0.02")}, "no plan"),
        (Kind.SURFACE_DONE, {}, "Measure face 1"),
        (Kind.NOTE, {"note": "  "}, "nothing in the note"),
        (Kind.MEASURED, {"readings": ()}, "At least one"),
        (Kind.DRESSED, {"amount_mm": D(9)}, "between 0 and 5"),
        (Kind.SIGNED_OFF, {}, "not done yet"),
        (Kind.PLANNED, {"plan": plan(1, spark_outs=0)}, "at least one pass"),
        (Kind.PLACED, {"surface": 2}, "comes first"),
        (Kind.PLACED, {"surface": 9}, "Which surface"),
        (Kind.MEASURED, {"readings": (Reading("p", D(0)),)}, "more than 0"),
        (Kind.DONE, {"step": 1}, "not what the plan"),
        (Kind.SKIPPED, {"step": 1, "note": "late"}, "not what the plan"),
        (Kind.WAIVED, {"characteristic": "flat", "note": "x"}, "does not ask"),
        (Kind.WAIVED, {"note": " ", "characteristic": "thickness"}, "Why is"),
        (Kind.MEASURED, {"readings": (Reading("p", D(1)),), "characteristic": "flat"}, "does not ask"),
    ],
)
def test_entries_that_cannot_be_are_refused_in_words(kind: Kind, more: dict[str, object], says: str) -> None:
    with pytest.raises(LogError, match=says):
        Log().add(kind, **({"surface": 1} | more))  # type: ignore[arg-type]


def test_a_deviation_may_be_nothing_but_not_less() -> None:
    log = Log(spec(size("thickness"), zone("flat", (2, 1), "0.002")))
    log.measure(2, "0", verdict="in", of="flat")
    with pytest.raises(LogError, match="more than 0"):
        log.measure(2, "-0.001", of="flat")


def test_a_face_is_to_size_only_when_it_is_in() -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "0.02"))
    log.measure(1, "22.2")
    log.add(Kind.SURFACE_DONE, 1)
    log.measure(2, "22.02", verdict="out")
    with pytest.raises(LogError, match="not proved"):
        log.add(Kind.SURFACE_DONE, 2)


@pytest.mark.parametrize(
    ("value", "verdict", "act"),
    [
        ("22.02", "not yet", "plan"),
        ("22.02", "out", "plan"),
        ("22.0035", "unsure", "measure_again"),
        ("22.0", "in", "close"),
        ("21.99", "out", "stopped"),
        ("22.0", "out", "lead"),
    ],
)
def test_what_a_verdict_leads_to(value: str, verdict: str, act: str) -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "0.02"))
    log.measure(1, "22.2")
    log.add(Kind.SURFACE_DONE, 1)
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2"))
    log.measure(2, value, verdict=verdict)
    assert log.next == act


def test_cut_again_nothing_that_was_told_of_its_faces_holds() -> None:
    log = Log(
        spec(
            size("thickness"),
            zone("flat", (2, 1), "0.002"),
            zone("square", (3, 4), "0.005"),
            came={1: FaceState.CLEANED},
        )
    )
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2", "0.05"))
    log.add(Kind.PLACED, 2)
    log.add(Kind.TOUCHED_OFF, 2, reading_mm=D(0))
    log.add(Kind.PASS, 2, reading_mm=D("0.2"))
    log.measure(2, "22.062", verdict="not yet")
    log.measure(2, "0.001", verdict="in", of="flat")
    log.measure(3, "0.001", verdict="in", of="square")
    log.add(Kind.PASS, 2, reading_mm=D("0.25"))
    assert log.now.pieces[1].verdicts == {"square": "in"} and log.run(2).proofs == {}


def test_nothing_but_a_note_follows_a_sign_off() -> None:
    log = Log()
    log.measure(1, "22.2")
    log.add(Kind.SURFACE_DONE, 1)
    log.measure(2, "22", verdict="in")
    log.add(Kind.SURFACE_DONE, 2)
    log.measure(2, "22.01", verdict="not yet")
    with pytest.raises(LogError, match="Thickness: not yet"):
        log.add(Kind.SIGNED_OFF, None)
    log.measure(2, "22", verdict="in")
    log.add(Kind.SIGNED_OFF, None)
    log.add(Kind.NOTE, None, note="Packed.")
    with pytest.raises(LogError, match="signed off"):
        log.measure(2, "22", verdict="in")
    assert log.now.undoable is None or log.now.undoable.kind is Kind.NOTE


@given(st.lists(st.integers(1, 40), min_size=1, max_size=12), st.data())
def test_undoing_everything_leads_back_to_the_start(sizes: list[int], data: st.DataObject) -> None:
    log = started(*(str(D("0.00254") * size) for size in sizes))
    passes = data.draw(st.integers(0, len(sizes)))
    before = log.now
    for _ in range(passes):
        log.add(Kind.PASS, reading_mm=log.run().next_reading_mm)
    assert log.asked() == sum((D("0.00254") * size for size in sizes[:passes]), D(0))
    for _ in range(passes):
        undoable = log.now.undoable
        assert undoable is not None
        log.add(Kind.UNDONE, supersedes=undoable.entry_id)
    assert replace(log.now, last_seq=0) == replace(before, last_seq=0)


def test_what_is_left_comes_from_the_measurement_less_what_will_spark_out() -> None:
    log = started("0.02", "0.02")
    pair = pair_stock(
        Block(
            {axis: PairSize(D(22), D("0.003"), D("0.003"), D("22.262"), D("22.214")) for axis in AXES},
            {face: D("0.041") if face == 1 else D("0.036") for face in ALL_FACES},
            (1, 3, 4),
        ),
        "thickness",
        Sharing(D("0.005")),
    )
    goal = ends_at(pair, reference=True)
    assert goal == D("22.216") and stock_on(log.run(), log.now, goal) == D("0.046")
    log.add(Kind.PASS, reading_mm=D("0.12"))
    assert stock_on(log.run(), log.now, goal) == D("0.026")
    assert log.run().held_back_mm == D("0.008"), "one wipe at a cut ratio of 0.6 leaves 0.4 of it"
    log.measure(1, "22.250")
    assert stock_on(log.run(), log.now, goal) == D("0.026")


def test_what_springs_hold_back_follows_each_pass_with_its_own_crossfeed() -> None:
    """As the calculation has it, pass by pass; a new zero lets it go."""
    log = Log()
    wide, fine = (
        PlanStep(1, "rough", D("0.02"), D("0.02"), D("11.4"), D(300)),
        PlanStep(2, "finish", D("0.005"), D("0.025"), D("3.15"), D(300)),
    )
    spark_out = PlanStep(3, "spark-out", D(0), D("0.025"), D("3.15"), D(300))
    log.add(Kind.PLANNED, plan=PlanSteps(7, 1, "light", D("0.03"), D("0.005"), (wide, fine, spark_out), False))
    log.add(Kind.PLACED)
    log.add(Kind.TOUCHED_OFF, reading_mm=D(0))
    seen = []
    for kind, more in (
        (Kind.PASS, {"reading_mm": D("0.02")}),
        (Kind.PASS, {"reading_mm": D("0.025")}),
        (Kind.SPARK_OUT, {"count": 1}),
    ):
        log.add(kind, **more)  # type: ignore[arg-type]
        seen.append(float(log.run().held_back_mm))
    told = answer(
        "pass.left",
        {
            "cut_ratio": 0.6,
            "wheel_width_mm": 12.7,
            "passes": [
                {"step_mm": 0.02, "crossfeed_mm": 11.4},
                {"step_mm": 0.005, "crossfeed_mm": 3.15},
                {"step_mm": 0, "crossfeed_mm": 3.15},
            ],
        },
    )
    assert seen == pytest.approx([each / 1000 for each in told["left_um"]], abs=1e-7)
    log.add(Kind.TOUCHED_OFF, reading_mm=D("0.025"))
    assert log.run().held_back_mm == 0


def everything() -> Log:
    log = Log()
    log.add(
        Kind.PLANNED,
        plan=plan(
            1,
            "dress",
            "place",
            "turn",
            "blocks",
            "touch off",
            "no feed",
            "0.02",
            "dress",
            "0.02",
            "spark-out",
            "cool",
            "measure",
            spark_outs=0,
        ),
    )
    return log


def test_everything_a_plan_asks_for_comes_in_its_order_and_is_logged() -> None:
    log = everything()
    acts: list[tuple[str, Kind, dict[str, object]]] = [
        ("dress", Kind.DRESSED, {"amount_mm": D("0.02")}),
        ("place", Kind.PLACED, {}),
        ("turn", Kind.DONE, {"step": 3}),
        ("blocks", Kind.DONE, {"step": 4}),
        ("touch_off", Kind.TOUCHED_OFF, {"reading_mm": D(0)}),
        ("no_feed", Kind.SPARK_OUT, {"count": 1}),
        ("pass", Kind.PASS, {"reading_mm": D("0.02")}),
        ("dress", Kind.DRESSED, {"amount_mm": D("0.01")}),
        ("pass", Kind.PASS, {"reading_mm": D("0.05")}),
        ("spark-out", Kind.SPARK_OUT, {"count": 1}),
        ("cool", Kind.DONE, {"step": 11}),
    ]
    for act, kind, more in acts:
        assert log.next == act
        log.add(kind, **more)  # type: ignore[arg-type]
    assert log.next == "measure" and log.run().cutting_over and not log.run(2).cutting_over, "no plan, nothing over"
    log.measure(1, "22.22")
    assert log.next == "close"


@pytest.mark.parametrize(
    ("before", "kind", "more", "says"),
    [
        (0, Kind.PLACED, {}, ""),
        (1, Kind.PASS, {"reading_mm": D("0.02")}, "not up"),
        (2, Kind.TOUCHED_OFF, {"reading_mm": D(0)}, "asks for the part to be turned"),
        (5, Kind.PASS, {"reading_mm": D("0.02")}, "asks for a first pass without feed"),
        (6, Kind.PASS, {"reading_mm": D("0.04")}, "past where the plan asks for a dress"),
        (7, Kind.PASS, {"reading_mm": D("0.04")}, "asks for a dress"),
        (9, Kind.PASS, {"reading_mm": D("0.06")}, "asks for a spark-out"),
        (3, Kind.DONE, {"step": 3}, "not what the plan asks"),
        (6, Kind.SKIPPED, {"step": 7, "note": "why not"}, "cannot be skipped"),
        (7, Kind.SKIPPED, {"step": 8, "note": " "}, "Why is it skipped"),
    ],
)
def test_nothing_a_figure_rests_on_is_passed_over_in_silence(
    before: int, kind: Kind, more: dict[str, object], says: str
) -> None:
    log = everything()
    done: list[tuple[Kind, dict[str, object]]] = [
        (Kind.DRESSED, {"amount_mm": D(0)}),
        (Kind.PLACED, {}),
        (Kind.DONE, {"step": 3}),
        (Kind.DONE, {"step": 4}),
        (Kind.TOUCHED_OFF, {"reading_mm": D(0)}),
        (Kind.SPARK_OUT, {"count": 1}),
        (Kind.PASS, {"reading_mm": D("0.02")}),
        (Kind.DRESSED, {"amount_mm": D(0)}),
        (Kind.PASS, {"reading_mm": D("0.04")}),
    ]
    for act, fields in done[:before]:
        log.add(act, **fields)  # type: ignore[arg-type]
    if not says:
        log.add(kind, **more)  # type: ignore[arg-type]
        assert log.next == "dress", "put up before the wheel is dressed: the dress is still asked for"
        return
    with pytest.raises(LogError, match=says):
        log.add(kind, **more)  # type: ignore[arg-type]


def test_a_step_is_skipped_with_its_reason_and_taken_back_like_anything() -> None:
    log = everything()
    log.add(Kind.SKIPPED, step=1, note="dressed for the last job")
    assert log.next == "place" and log.run().skipped == (1,) and log.run().done == 1
    assert "dressed for the last job" in tell(log.entries[-1], UNITS)
    log.undo()
    assert log.next == "dress" and log.run().skipped == ()


def test_a_part_put_up_again_needs_its_zero_again() -> None:
    log = started()
    log.add(Kind.PASS, reading_mm=D("0.12"))
    log.add(Kind.PLACED)
    assert log.next == "touch_off"
    with pytest.raises(LogError, match="Touch off first"):
        log.add(Kind.PASS, reading_mm=D("0.14"))
    with pytest.raises(LogError, match="Touch off first"):
        log.add(Kind.SPARK_OUT, count=1)


def test_the_wheel_s_height_is_kept_over_a_flip_and_moves_with_a_dress() -> None:
    """At 22.22 over the chuck and 8 µm still to spark out, the new face is met 8 µm above the last reading."""
    log = started("0.02", "0.02")
    log.add(Kind.PASS, reading_mm=D("0.12"))
    log.measure(1, "22.22")
    assert log.now.touch_reading_mm(log.now.at) == D("0.112")
    log.add(Kind.SURFACE_DONE, 1)
    log.add(Kind.PLANNED, 2, plan=plan(2, "dress", "0.02"))
    log.add(Kind.DRESSED, 2, amount_mm=D("0.03"))
    assert log.now.touch_reading_mm(log.now.at) == D("0.142")
    log.add(Kind.PLACED, 2)
    log.add(Kind.TOUCHED_OFF, 2, reading_mm=D("0.1425"))
    assert log.now.touches_chuck_mm == D("22.3625"), "what was found at the touch-off counts from there on"
    log.add(Kind.PASS, 2, reading_mm=D("0.1625"))
    assert log.now.touch_reading_mm(log.run(2)) is None, "it has been cut since it was measured"
    log.add(Kind.DRESSED, 2)
    assert log.now.touches_chuck_mm is None, "a dress of unknown depth loses it"


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"holder": "magnet"}, "does not hold this material"),
        ({"holder": "Vise", "hold_safety": D("3.9")}, "no release for that"),
    ],
)
def test_a_plan_that_does_not_hold_is_not_logged(more: dict[str, object], says: str) -> None:
    log = Log(spec(pulled=False))
    with pytest.raises(LogError, match=says):
        log.add(Kind.PLANNED, plan=plan(1, "0.02", **more))
    log.add(Kind.PLANNED, plan=plan(1, "0.02", holder="Vise", hold_safety=D("4")))


@pytest.mark.parametrize("kind", [Kind.PLANNED, Kind.PLACED, Kind.TOUCHED_OFF, Kind.PASS, Kind.SPARK_OUT])
def test_a_wheel_that_must_not_run_stops_every_act_of_it(kind: Kind) -> None:
    log = started()
    log.add(Kind.PASS, reading_mm=D("0.12"))
    stopped = stand(replace(BRIEF, stops=("W3: 4000 rpm is over the marked 3600 rpm.",)), log.entries)
    fields: dict[Kind, dict[str, object]] = {
        Kind.PLANNED: {"plan": plan(1, "0.02"), "pieces": (1,)},
        Kind.TOUCHED_OFF: {"reading_mm": D(0)},
        Kind.PASS: {"reading_mm": D("0.14")},
    }
    made = entry(kind, 9, surface=1, setup="1", load=1, **fields.get(kind, {}))
    check_entry(made, log.now)
    with pytest.raises(LogError, match="over the marked"):
        check_entry(made, stopped)


def test_neither_a_set_up_that_stops_nor_what_was_felt_lets_the_wheel_touch() -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "0.02"))
    log.add(Kind.PLACED)
    touch = entry(Kind.TOUCHED_OFF, 9, surface=1, setup="1", load=1, reading_mm=D(0))
    check_entry(touch, log.now)
    with pytest.raises(LogError, match="It overhangs the magnet"):
        check_entry(touch, stand(replace(BRIEF, set_up_stops={"1": "It overhangs the magnet."}), log.entries))
    log.add(Kind.PREPARED, 1, item="rock", answer="rocks 1")
    with pytest.raises(LogError, match="Rocks on front left"):
        check_entry(touch, log.now)
    log.add(Kind.PREPARED, 1, item="rock", answer="pivots")
    check_entry(touch, log.now)


def test_sign_off_wants_every_characteristic_or_a_waiver_by_name() -> None:
    log = Log(
        spec(
            size("thickness"), size("width"), zone("flat", (2, 1), "0.002"), zone("parallel", (2, 1), "0.003"), pieces=1
        )
    )
    log.measure(1, "22.2")
    log.add(Kind.SURFACE_DONE, 1)
    log.measure(2, "22", "22.0001", verdict="in")
    log.add(Kind.SURFACE_DONE, 2)

    def refused(says: str) -> None:
        with pytest.raises(LogError, match=says):
            log.add(Kind.SIGNED_OFF)

    refused("Width: not measured")
    log.measure(2, "54", verdict="unsure", of="width")
    refused("Width: unsure")
    assert log.next == "prove"
    log.add(Kind.WAIVED, characteristic="width", note="it is only a cover")
    refused("Flat: not measured")
    log.measure(2, "0.001", verdict="in", of="flat")
    assert log.now.pieces[1].verdicts == {"thickness": "in", "parallel": "in", "width": "unsure", "flat": "in"}
    again = entry(Kind.REROUTED, 90, change="grind", surface=2, note="It is marked.")
    assert set(stand(log.spec, [*log.entries, again]).pieces[1].verdicts) == {"width"}, (
        "nothing told of its faces holds"
    )
    assert log.next == "sign_off" and log.now.pieces[1].outcome(log.spec.wanted) == "in"
    log.add(Kind.SIGNED_OFF)


def test_after_three_measurements_without_an_answer_the_lead_decides() -> None:
    log = Log()
    log.measure(1, "22.2")
    log.add(Kind.SURFACE_DONE, 1)
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2"))
    for act in ("measure_again", "measure_again", "lead"):
        log.measure(2, "22.0025", verdict="unsure")
        assert log.next == act


@pytest.mark.parametrize(
    ("passes", "got", "eta"),
    [
        ([("0", "11.4"), ("0.02", "11.4"), ("0.02", "11.4"), ("0.02", "11.4")], "0.05", True),
        ([("0.02", "11.4")] * 2, "0.03", False),
        ([("0.02", "11.4"), ("0.01", "11.4"), ("0.02", "11.4")], "0.04", False),
        ([("0.02", "3")] * 3, "0.059", False),
        ([("0.02", "11.4")] * 3, "0.061", False),
        ([("0.02", "11.4")] * 3 + [("0", "11.4")], "0.055", False),
    ],
)
def test_only_a_run_that_tells_teaches_the_cut_ratio(passes: list[tuple[str, str]], got: str, eta: bool) -> None:
    asked = sum((D(step) for step, _ in passes), D(0))
    shortfall = Shortfall(BEGIN, 1, asked, D(got), tuple((D(step), D(crossfeed)) for step, crossfeed in passes))
    found = cut_ratio_of(shortfall, 12.7)
    assert (found is not None) == eta
    if found is not None:
        assert answer("pass.sparkout", {"step_mm": 0.02, "steps": 3, "cut_ratio": found, "spark_passes": 0})[
            "left_mm"
        ] == (pytest.approx(0.01, abs=1e-6))
    two = cut_ratio_of(replace(shortfall, passes=tuple((step, D("6.35")) for step, _ in shortfall.passes)), 12.7)
    assert found is None or (two is not None and two < found), "two wipes a pass tell too: each takes less"
    assert usual_cut_ratio([0.5, 0.6, 0.7], 0.9) == CutRatio(0.6, 3, 0.5, 0.7) and usual_cut_ratio([], 0.9) == CutRatio(
        0.9, 0
    )


def test_a_size_of_the_block_is_ground_over_the_other_two_and_any_other_over_nothing() -> None:
    piece = PieceMaking.taken_in(1, {"thickness": D(22), "width": D(54), "length": D(88), "slot": D(8)}, {})
    areas = {name: piece.area_mm2(name) for name in ("thickness", "width", "length", "slot")}
    assert areas == {"thickness": D(54) * 88, "width": D(22) * 88, "length": D(22) * 54, "slot": D(0)}


def test_faces_come_in_their_order_and_not_on_what_is_not_ready() -> None:
    assert corner_faces("2-5-6") == (2, 5, 6)
    with pytest.raises(FaceError):
        corner_faces("1-2-3")
    sides = spec(came={2: FaceState.RAW, 5: FaceState.CLEANED})
    for face, says in (
        (1, "2 must be stable"),
        (2, "1 is the reference"),
        (3, "1 comes first"),
        (6, "4 is the reference"),
    ):
        with pytest.raises(LogError, match=says):
            may_grind(face, stand(sides, []))
    ready = stand(spec(came={1: FaceState.CLEANED, 2: FaceState.TO_SIZE, 3: FaceState.CLEANED}), [])
    may_grind(4, ready)
    may_grind(5, ready)
    for face, says in ((1, "never ground again"), (2, "to size already"), (3, "never ground again")):
        with pytest.raises(LogError, match=says):
            may_grind(face, ready)


def test_a_wheel_is_chamfered_before_the_part_is_up_but_a_part_is_turned_on_the_chuck() -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "chamfer", "place", "turn", "touch off", "0.02"))
    assert not log.run().fed
    log.add(Kind.DONE, step=1)
    log.add(Kind.PLACED)
    log.add(Kind.LEFT, note="another job")
    with pytest.raises(LogError, match="not up"):
        log.add(Kind.DONE, step=3)
    log.add(Kind.PLACED)
    log.add(Kind.DONE, step=3)
    log.add(Kind.TOUCHED_OFF, reading_mm=D(0))
    log.add(Kind.PASS, reading_mm=D("0.02"))
    assert log.run().fed
    log.add(Kind.PLANNED, plan=plan(1, "0.02", keeps=True))
    assert not log.run().fed


@pytest.mark.parametrize("more", [{"setup": "2", "load": 1}, {"setup": "1", "load": 2}])
def test_a_plan_is_for_the_set_up_and_load_that_come_next(more: dict[str, object]) -> None:
    log = Log()
    with pytest.raises(LogError, match="not what comes next"):
        check_entry(entry(Kind.PLANNED, 9, surface=1, plan=plan(1, "0.02"), pieces=(1,), **more), log.now)
    check_entry(entry(Kind.PLANNED, 9, surface=1, plan=plan(1, "0.02"), pieces=(1,), setup="1", load=1), log.now)


def test_no_verdict_on_an_angle_comes_from_lengths() -> None:
    angle = Characteristic("angle 3-1", "angle", (3, 1), Size(D("17.5"), D("0.1"), D("0.1")))
    log = Log(spec(size("thickness"), angle, came={1: FaceState.CLEANED}))
    with pytest.raises(LogError, match="waive angle 3-1 by name"):
        log.measure(3, "17.5", verdict="in", of="angle 3-1")
    log.add(Kind.WAIVED, characteristic="angle 3-1", note="Measured on the sine bar.")
    assert "angle 3-1" not in log.now.pieces[1].unproved(log.spec.wanted)


def test_the_list_behind_the_next_act_goes_on_to_the_sign_off() -> None:
    """Steps that are alike are one line; then the other faces, what is measured by itself, and the sign-off."""
    log = started("0.02", "0.02", "0.02", of=spec(size("thickness"), zone("parallel", (2, 1), "0.003")))
    said = behind(log.now, UNITS)
    assert said[0].startswith("2 × Feed ") and said[1].startswith("Spark-out, no feed")
    assert said[2:] == ["Face 2", "Measure parallel", "Sign off"]
    log.add(Kind.PASS, reading_mm=D("0.12"))
    assert not behind(log.now, UNITS)[0].startswith("2 ×"), "one is done"
    assert behind(Log().now, UNITS) == ["Face 2", "Sign off"], "nothing is planned yet: face 1 comes next"

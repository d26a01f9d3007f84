"""Several pieces, several loads, six faces: what comes next, whose size is what, and what leaves the route."""

from decimal import Decimal

import pytest

from tests.core.worklog import PAIR, SIDES, UNITS, D, Log, plan, size, spec, zone
from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.part.sizes import Reading, growth
from zesty_lark.core.squaring.remaining import keeps_wheel_height, stock_on
from zesty_lark.core.work.entry import Kind
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.next_act import Next, next_act
from zesty_lark.core.work.telling import numbers, tell

BATCH = spec(pieces=4, came={1: FaceState.CLEANED}, heights=("22.20", "22.25", "22.21", "22.10"))


def ground(*heights: str, of: object = BATCH, pieces: tuple[int, ...] = (1, 2, 3, 4)) -> Log:
    """Face 2 of a load ground and each piece measured."""
    log = Log(of)  # type: ignore[arg-type]
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2", "0.05"), pieces=pieces)
    log.add(Kind.PLACED, 2)
    log.add(Kind.TOUCHED_OFF, 2, reading_mm=D(0))
    log.add(Kind.PASS, 2, reading_mm=D("0.2"))
    log.add(Kind.PASS, 2, reading_mm=D("0.25"))
    log.add(Kind.SPARK_OUT, 2)
    for number, height in zip(pieces, heights, strict=False):
        verdict = "in" if abs(D(height) - 22) <= D("0.002") else "not yet" if D(height) > 22 else "out"
        log.measure(2, height, verdict=verdict, piece=number)
    return log


def by_collar(log: Log) -> list[Decimal]:
    return [piece.sizes["thickness"].by_collar_mm for piece in log.now.pieces.values()]


def test_one_collar_cuts_the_highest_first_and_a_lower_one_only_from_its_own_height() -> None:
    log = ground()
    log.undo()
    log.undo()
    assert by_collar(log) == [D("22.05"), D("22.05"), D("22.05"), D("22.05")], (
        "0.2 off the highest, and the others down to it"
    )
    log.undo()
    assert by_collar(log) == [D("22.20"), D("22.25"), D("22.21"), D("22.10")]
    log.add(Kind.PASS, 2, reading_mm=D("0.1"))
    assert by_collar(log) == [D("22.15"), D("22.15"), D("22.15"), D("22.10")]


def test_each_piece_is_measured_then_the_good_ones_go_and_the_others_are_taken_further() -> None:
    log = ground()
    assert next_act(log.now) == Next("measure", 2, (1,), "thickness")
    log = ground("22.001", "22.0052", "22.0", "21.9")
    assert next_act(log.now) == Next("close", 2, (1, 3), "thickness"), "what is in is let go of first"
    with pytest.raises(LogError, match="of piece 2 is not proved"):
        log.add(Kind.SURFACE_DONE, 2, pieces=(1, 2))
    log.add(Kind.SURFACE_DONE, 2, pieces=(1, 3))
    assert next_act(log.now) == Next("plan", 2, (2,), "thickness") and log.run(2).pieces == (2, 4)
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.003", keeps=True), pieces=(2,))
    log.add(Kind.PASS, 2, reading_mm=D("0.253"))
    log.add(Kind.SPARK_OUT, 2)
    assert by_collar(log)[:2] == [D("22.001"), D("22.0022")], "what is done is not cut with the others"
    log.measure(2, "22.0005", verdict="in", piece=2)
    log.measure(2, "21.9", verdict="out", piece=4)
    log.add(Kind.SURFACE_DONE, 2, pieces=(2,))
    log.measure(2, "21.9", verdict="out", piece=4)
    assert next_act(log.now) == Next("stopped", 2, (4,), "thickness")
    log.add(Kind.ENDED, piece=4, end="scrapped", note="The zero was lost.")
    assert log.now.live == (1, 2, 3) and next_act(log.now).act == "sign_off"
    assert [piece.outcome(BATCH.wanted) for piece in log.now.pieces.values()] == ["in", "in", "in", "scrapped"]
    with pytest.raises(LogError, match="Piece 4 is scrapped"):
        log.measure(2, "22", piece=4)
    log.add(Kind.SIGNED_OFF, None)


def test_a_second_load_follows_the_first_and_its_high_spot_is_predicted() -> None:
    log = ground("22.0", "22.0005", pieces=(1, 2))
    log.add(Kind.SURFACE_DONE, 2)
    assert log.now.at is not None and (log.now.at.load, log.now.at.pieces) == (2, (3, 4))
    assert log.now.touch_reading_mm(log.now.at) is None, "pieces 3 and 4 were not measured here"
    log.measure(2, "22.2", piece=3)
    log.measure(2, "22.1", piece=4)
    touch = log.now.touch_reading_mm(log.run(2))
    chuck = log.now.touches_chuck_mm
    assert touch is not None and chuck is not None and touch == chuck - D("22.2"), "the wheel meets the highest first"
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2"), pieces=(3, 4))
    assert log.run(2).load == 2 and next_act(log.now).act == "place"
    log.add(Kind.PLACED, 2)
    assert log.now.up == ("2", 2, 2)


def test_a_load_is_made_of_pieces_that_are_under_way() -> None:
    log = Log(BATCH)
    for pieces, says in (((1, 9), "Which pieces"), ((), None)):
        if says:
            with pytest.raises(LogError, match=says):
                log.add(Kind.PLANNED, 2, plan=plan(2, "0.1"), pieces=pieces)
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.1"))
    assert log.run(2).pieces == (1, 2, 3, 4), "nothing said: all that are next"


BLOCK = spec(
    size("thickness"),
    size("width"),
    size("length"),
    zone("square", (3, 4, 5, 6, 1), "0.005"),
    setups=(*PAIR, *SIDES),
    came={1: FaceState.CLEANED, 2: FaceState.TO_SIZE},
)


def clean(log: Log, face: int) -> None:
    log.add(Kind.PLANNED, face, plan=plan(face, "0.05", holder="Angle plate A1"))
    log.add(Kind.PLACED, face)
    log.add(Kind.TOUCHED_OFF, face, reading_mm=D(0))
    log.add(Kind.PASS, face, reading_mm=D("0.05"))
    log.add(Kind.SPARK_OUT, face)


def test_both_faces_of_one_clamping_then_the_sides_that_stand_on_them() -> None:
    log = Log(BLOCK)
    assert next_act(log.now) == Next("plan", 3, (1,))
    clean(log, 3)
    assert next_act(log.now).act == "close", "clean all over in the plate: nothing to measure yet"
    log.add(Kind.SURFACE_DONE, 3)
    assert next_act(log.now) == Next("plan", 4, (1,)) and log.now.at is not None and log.now.at.place == ("3+4", 1, 4)
    clean(log, 4)
    log.add(Kind.SURFACE_DONE, 4)
    assert log.now.touches_chuck_mm is None, "in a fixture the wheel's height tells nothing of the size"
    assert log.now.pieces[1].sizes["width"].by_collar_mm == D("54.21")
    for face, axis, value in ((5, "width", "54.01"), (6, "length", "88.01")):
        assert next_act(log.now) == Next("plan", face, (1,))
        clean(log, face)
        assert next_act(log.now) == Next("measure", face, (1,), axis)
        log.measure(face, value, verdict="in", of=axis)
        log.add(Kind.SURFACE_DONE, face)
    assert next_act(log.now) == Next("prove", None, (1,), "thickness")
    log.measure(2, "22", verdict="in")
    assert next_act(log.now) == Next("prove", None, (1,), "square")
    log.measure(3, "0.004", verdict="in", of="square")
    assert next_act(log.now).act == "sign_off"


def test_a_set_up_is_skipped_or_taken_first_and_a_face_ground_again_each_with_a_reason() -> None:
    log = Log(BLOCK)
    for change, asked, more in (
        ("skip", "Why is the set-up skipped", {"setup": "3+4"}),
        ("first", "Why does this set-up come first", {"setup": "6"}),
        ("grind", "Why is face 2 ground again", {}),
    ):
        with pytest.raises(LogError, match=f"{asked}. The reason goes into the record"):
            log.add(Kind.REROUTED, 2, change=change, note=" ", **more)
    with pytest.raises(LogError, match="no such set-up"):
        log.add(Kind.REROUTED, None, change="skip", setup="9", note="why")
    with pytest.raises(LogError, match="Face 5 needs face 3, which is made there"):
        log.add(Kind.REROUTED, None, change="skip", setup="3+4", note="The sides came ground.")
    for key in ("5", "6", "3+4"):
        log.add(Kind.REROUTED, None, change="skip", setup=key, note="The sides came ground.")
    assert log.now.surface is None and log.now.setup("3+4").left_out == "The sides came ground."  # type: ignore[union-attr]
    for what, more in ((None, {"change": "first", "setup": "6"}), (6, {"change": "grind"})):
        with pytest.raises(LogError, match="Face 6 needs face 4, whose set-up is left out: take that one first"):
            log.add(Kind.REROUTED, what, note="The end is wanted tonight.", **more)
    log.add(Kind.REROUTED, None, change="first", setup="3+4", note="The end is wanted tonight.")
    log.add(Kind.REROUTED, None, change="first", setup="6", note="The end is wanted tonight.")
    assert log.now.surface == 3, "what is ready comes before what is not"
    log.undo()
    log.undo()
    log.add(Kind.REROUTED, 3, change="grind", note="It is out of square after all.")
    assert log.now.setup("3+4").left_out == "" and log.now.surface == 3  # type: ignore[union-attr]
    assert "ground again: It is out" in tell(log.entries[-1], UNITS)
    for _ in range(4):
        log.undo()
    assert log.now.surface == 3 and log.now.setups == BLOCK.setups


def test_a_face_that_came_out_wrong_is_ground_again() -> None:
    log = ground("22.001", "22.0", "22.0", "22.0")
    log.add(Kind.SURFACE_DONE, 2)
    assert next_act(log.now).act == "sign_off"
    log.add(Kind.REROUTED, 2, change="grind", pieces=(2,), note="Burnt at one end.")
    assert next_act(log.now) == Next("plan", 2, (2,)) and log.now.at is not None and log.now.at.load == 2
    assert "thickness" not in log.now.pieces[2].verdicts and log.now.pieces[1].verdicts["thickness"] == "in"
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.001"), pieces=(2,))
    assert log.now.state(2) is FaceState.STABLE


def test_a_surface_without_a_set_up_gets_one_of_its_own() -> None:
    log = Log(spec(came={1: FaceState.CLEANED, 2: FaceState.TO_SIZE}))
    log.add(Kind.REROUTED, 4, change="grind", note="The end is to be clean.")
    assert log.now.at is not None and log.now.at.place == ("4", 1, 4)


def test_a_load_that_is_left_needs_its_zero_again() -> None:
    log = ground()
    log.undo()
    with pytest.raises(LogError, match="Why is it taken off"):
        log.add(Kind.LEFT, 2)
    log.add(Kind.LEFT, 2, note="A hot job came in.")
    assert log.now.up is None and next_act(log.now).act == "place" and log.now.touches_chuck_mm is None
    with pytest.raises(LogError, match="not up"):
        log.add(Kind.LEFT, 2, note="again")
    log.add(Kind.PLACED, 2)
    assert next_act(log.now).act == "touch_off"


def test_what_is_waived_or_passed_needs_no_verdict() -> None:
    log = ground("22.004", "22.0", "22.0", "22.0")
    log.add(Kind.WAIVED, characteristic="thickness", piece=1, note="It is shimmed.")
    assert next_act(log.now) == Next("close", 2, (1, 2, 3, 4), "thickness")
    log.add(Kind.SURFACE_DONE, 2)
    assert log.now.unproved() == [] and log.now.pieces[1].outcome(BATCH.wanted) == "in"
    with pytest.raises(LogError, match="no piece 7"):
        log.add(Kind.ENDED, piece=7, end="passed", note="x")
    with pytest.raises(LogError, match="Why is piece 2 passed"):
        log.add(Kind.ENDED, piece=2, end="passed", note="")


def test_readings_of_several_pieces_learn_only_from_what_was_fed_off_them() -> None:
    log = ground("22.001", "22.0", "22.0", "22.0")
    gaps = {gap.piece: gap for gap in log.now.shortfalls}
    assert {number: gap.asked_mm for number, gap in gaps.items()} == {
        1: D("0.2"),
        2: D("0.25"),
        3: D("0.21"),
        4: D("0.1"),
    }
    assert len(gaps[2].passes) == 3 and all(gaps[number].passes == () for number in (1, 3, 4)), (
        "only the highest met every pass"
    )
    assert gaps[1].got_mm == D("0.199") and gaps[1].short_mm == D("0.001")


def test_piece_numbers_are_written_short() -> None:
    assert numbers((1, 2, 3, 7)) == "1–3, 7" and numbers((5,)) == "5" and numbers((2, 1)) == "1–2" and numbers(()) == ""
    log = ground("22.0")
    assert tell(log.entries[0], UNITS, 4).endswith(" Pieces 1–4.") and tell(log.entries[-1], UNITS, 4).endswith(
        " Piece 1."
    )
    assert not tell(log.entries[0], UNITS).endswith("Pieces 1–4.")


def test_a_reading_of_a_size_tells_of_parallel_only_where_the_print_asks_it_of_these_faces() -> None:
    log = Log(spec(size("thickness"), size("width"), zone("parallel", (2, 1), "0.003"), came={1: FaceState.CLEANED}))
    log.add(
        Kind.MEASURED,
        2,
        readings=(Reading("a", D(54)), Reading("b", D("54.01"))),
        uncertainty_mm=D("0.001"),
        verdict="in",
        characteristic="width",
        piece=1,
    )
    assert "parallel" not in log.now.pieces[1].verdicts
    log.measure(2, "22.001", "21.995", verdict="out")
    assert log.now.pieces[1].verdicts["parallel"] == "out" and log.now.pieces[1].outcome(log.spec.wanted) == "out"
    assert log.now.pieces[1].verdicts["thickness"] == "out", "its least is under the size"
    log.measure(2, "22.0019", "21.9981", verdict="out")
    told = log.now.pieces[1].verdicts
    assert told["parallel"] != "in" and told["thickness"] == "in", "out only for being out of parallel"


def test_what_is_done_of_the_route_counts_a_surface_once_no_piece_wants_it() -> None:
    log = ground("22.0", "22.0", "22.0", "22.0")
    assert log.now.progress == (1, 2), "face 1 came clean"
    log.add(Kind.SURFACE_DONE, 2, pieces=(1, 2, 3))
    assert log.now.progress == (1, 2)
    log.add(Kind.ENDED, piece=4, end="scrapped", note="Burnt.")
    assert log.now.progress == (2, 2)


def test_a_gap_says_how_much_larger_the_part_was_as_warm_as_it_was_planned() -> None:
    log = Log(spec(came={1: FaceState.CLEANED}))
    log.measure(2, "22.262")
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2", rise_c=D(10)))
    log.add(Kind.PLACED, 2)
    log.add(Kind.TOUCHED_OFF, 2, reading_mm=D(0))
    log.add(Kind.PASS, 2, reading_mm=D("0.2"))
    log.measure(2, "22.07", verdict="not yet")
    assert float(log.now.shortfalls[-1].grown_mm) == pytest.approx(growth(22.262, 10), abs=1e-4)


def test_of_two_pieces_each_is_proved_by_its_number() -> None:
    log = Log(spec(pieces=2, came={1: FaceState.CLEANED}))
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.1"))
    with pytest.raises(LogError, match="Measure face 2 of piece 1 first"):
        log.add(Kind.SURFACE_DONE, 2)
    log.measure(2, "22.1", verdict="not yet")
    with pytest.raises(LogError, match="Face 2 of piece 1 is not proved to size: its last verdict is not yet"):
        log.add(Kind.SURFACE_DONE, 2)


def test_the_print_says_what_is_a_zone_what_a_face_ends_on_and_what_is_about_it() -> None:
    wanted = BLOCK.wanted
    zones = {characteristic.name: characteristic.is_zone for characteristic in wanted.characteristics}
    assert zones == {"thickness": False, "width": False, "length": False, "square": True}
    assert wanted.ends_on(1) is None and wanted.ends_on(2) == size("thickness") == wanted.size_of(1)
    assert [each.name for each in wanted.about(5)] == ["width", "square"] and wanted.named("flat") is None
    assert wanted.named("square").allowed_mm == D("0.005")  # type: ignore[union-attr]


def test_the_wheel_s_height_is_only_kept_for_what_is_up_zeroed_and_planned() -> None:
    log = Log(BATCH)
    assert not keeps_wheel_height(log.run(2), log.now)
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2", "0.05"))
    assert not keeps_wheel_height(log.run(2), log.now)
    log.add(Kind.PLACED, 2)
    assert not keeps_wheel_height(log.run(2), log.now)
    log.add(Kind.TOUCHED_OFF, 2, reading_mm=D(0))
    assert keeps_wheel_height(log.run(2), log.now)
    log.add(Kind.DRESSED, 2)
    assert not keeps_wheel_height(log.run(2), log.now)
    assert stock_on(log.run(2), log.now, D(22)) == D("0.25"), "the highest of the load"


def a_reference_ground(*measured: int) -> Log:
    """The reference of a load of four, its plan run out, and some of the pieces measured."""
    log = Log(spec(pieces=4))
    log.add(Kind.PLANNED, plan=plan(1, "0.02"), pieces=(1, 2, 3, 4))
    log.add(Kind.PLACED)
    log.add(Kind.TOUCHED_OFF, reading_mm=D(0))
    log.add(Kind.PASS, reading_mm=D("0.02"))
    log.add(Kind.SPARK_OUT)
    for number in measured:
        log.measure(1, "22.18", piece=number)
    return log


def test_a_reference_is_done_on_the_pieces_that_were_measured_or_seen_clean_and_on_no_other() -> None:
    log = a_reference_ground(1, 2, 4)
    assert next_act(log.now) == Next("measure", 1, (3,), "thickness")
    with pytest.raises(LogError, match="Measure piece 3 too"):
        log.add(Kind.SURFACE_DONE)
    seen = a_reference_ground(1, 2, 4)
    seen.add(Kind.OBSERVED, seen="clean")
    log.measure(1, "22.19", piece=3)
    for each in (log, seen):
        assert next_act(each.now).act == "close"
        each.add(Kind.SURFACE_DONE)
        assert all(piece.states[1] is FaceState.CLEANED for piece in each.now.pieces.values())

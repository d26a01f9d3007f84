"""The fold: the log decides what the collar should read, what is left, and what comes next."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.core.faces import ALL_FACES, FaceError, FaceState, corner_faces, may_grind, pair_order, set_up_for
from zesty_lark.core.measure.thickness import Reading, Size
from zesty_lark.core.shoplog.entries import Entry, Kind, PlanStep, PlanSteps, in_force
from zesty_lark.core.shoplog.remaining import goal_thickness, still_to_spark, stock_on
from zesty_lark.core.shoplog.rules import LogError, check_entry, next_act
from zesty_lark.core.shoplog.standing import Brief, Standing, stand
from zesty_lark.core.shoplog.telling import Tongue, tell
from zesty_lark.core.stock import split

D = Decimal
BEGIN = datetime(2026, 3, 2, 8, tzinfo=UTC)
BRIEF = Brief(1, {face: FaceState.STABLE for face in ALL_FACES}, D("22.262"), D("21.997"))
TONGUE = Tongue("mm", "in", D("0.00254"))


def steps(*sizes: str) -> tuple[PlanStep, ...]:
    depth, made = D(0), []
    for number, size in enumerate(sizes, start=1):
        depth += D(size)
        made.append(PlanStep(number, D(size), depth, "rough"))
    return tuple(made)


def plan(face: int, *sizes: str, keeps: bool = False, blanks: int = 1) -> PlanSteps:
    made = steps(*sizes)
    stock = sum((step.step_mm for step in made), D(0)) + D("0.001")
    return PlanSteps(7, face, "light", stock, D("0.001"), made, blanks, keeps, D("0.4"), D(350), 12.5)


class Log:
    """Entries one after another, each checked before it is added."""

    def __init__(self) -> None:
        self.entries: list[Entry] = []

    def add(self, kind: Kind, face: int | None = 1, **more: object) -> Entry:
        number = len(self.entries) + 1
        entry = Entry(number, f"entry-{number}", kind, BEGIN + timedelta(minutes=number), "bryn", face=face,
                      **more)  # type: ignore[arg-type]
        check_entry(entry, self.now, BRIEF.reference)
        self.entries.append(entry)
        return entry

    @property
    def now(self) -> Standing:
        return stand(BRIEF, self.entries)

    @property
    def next(self) -> str:
        return next_act(self.now, BRIEF.reference).act

    def measure(self, face: int, *values: str, verdict: str | None = None) -> Entry:
        return self.add(Kind.MEASURED, face, readings=tuple(Reading(f"p{n}", D(v)) for n, v in enumerate(values)),
                        uncertainty_mm=D("0.001"), verdict=verdict)


def started(*sizes: str) -> Log:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, *(sizes or ("0.02", "0.02", "0.005"))))
    log.add(Kind.PLACED)
    log.add(Kind.TOUCHED_OFF, reading_mm=D("0.1"))
    return log


def test_the_whole_story_of_a_pair() -> None:
    log = Log()
    acts: Sequence[tuple[str, Kind, int, dict[str, object]]] = (
        ("plan", Kind.PLANNED, 1, {"plan": plan(1, "0.02", "0.026")}), ("place", Kind.PLACED, 1, {}),
        ("touch_off", Kind.TOUCHED_OFF, 1, {"reading_mm": D(0)}), ("pass", Kind.PASS, 1, {"reading_mm": D("0.02")}),
        ("pass", Kind.PASS, 1, {"reading_mm": D("0.046")}), ("spark_out", Kind.SPARK_OUT, 1, {"count": 1}),
    )
    for act, kind, face, more in acts:
        assert log.next == act
        log.add(kind, face, **more)
    assert log.next == "measure"
    log.measure(1, "22.217", "22.215")
    assert log.next == "close"
    log.add(Kind.FACE_DONE, 1)
    assert log.now.states[1] is FaceState.CLEANED and log.next == "plan" and log.now.face == 2
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2"))
    assert log.next == "place"
    log.add(Kind.PLACED, 2)
    log.add(Kind.TOUCHED_OFF, 2, reading_mm=D(0))
    log.add(Kind.PASS, 2, reading_mm=D("0.2"))
    log.add(Kind.SPARK_OUT, 2, count=1)
    log.measure(2, "22.0172", verdict="out")
    assert log.next == "plan"
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.0152", keeps=True))
    assert log.now.faces[2].next_reading_mm == D("0.2152"), "wheel height is kept: the collar carries on"
    log.add(Kind.PASS, 2, reading_mm=D("0.2152"))
    log.add(Kind.SPARK_OUT, 2, count=1)
    log.measure(2, "22.001", verdict="in")
    log.add(Kind.FACE_DONE, 2)
    assert log.next == "sign_off"
    log.add(Kind.SIGNED_OFF, None)
    assert log.next == "finished" and log.now.states[2] is FaceState.PROVEN and log.now.up is None
    assert [(gap.asked_mm, gap.got_mm) for gap in log.now.gaps] == [
        (D("0.046"), D("0.045")), (D("0.2"), D("0.1998")), (D("0.0152"), D("0.0162"))]
    assert all(tell(entry, TONGUE) for entry in log.entries)


def test_undo_takes_back_and_undoing_the_undo_restores() -> None:
    log = started()
    done = log.add(Kind.PASS, reading_mm=D("0.12"))
    undo = log.add(Kind.UNDONE, supersedes=done.entry_id)
    assert log.now.faces[1].depth_mm == 0 and log.now.faces[1].done == 0
    redo = replace(undo, entry_id="redo", supersedes=undo.entry_id)
    assert stand(BRIEF, [*log.entries, redo]).faces[1].depth_mm == D("0.02")
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
    assert log.now.faces[1].next_reading_mm == D("0.17") and log.now.faces[1].done == 1


def test_a_dress_of_unknown_depth_asks_for_a_new_touch_off() -> None:
    log = started()
    log.add(Kind.PASS, reading_mm=D("0.12"))
    log.add(Kind.DRESSED)
    assert log.next == "touch_off"
    log.add(Kind.TOUCHED_OFF, reading_mm=D(0))
    assert log.now.faces[1].next_reading_mm == D("0.02"), "what is still to go counts from the new zero"
    assert log.now.asked_since_mm == D("0.02")


def test_going_straight_to_a_later_reading_counts_the_passes_between() -> None:
    log = started()
    log.add(Kind.PASS, reading_mm=D("0.14"))
    assert log.now.faces[1].done == 2
    log.add(Kind.UNDONE, supersedes=log.now.undoable.entry_id)  # type: ignore[union-attr]
    log.add(Kind.PASS, reading_mm=D("0.13"))
    assert log.now.faces[1].done == 1 and log.now.faces[1].next_reading_mm == D("0.14")


@pytest.mark.parametrize(("reading", "says"), [("0.1", "go down"), ("0.146", "past the plan"), ("0.05", "go down")])
def test_a_pass_that_cannot_be_is_refused(reading: str, says: str) -> None:
    with pytest.raises(LogError, match=says):
        started().add(Kind.PASS, reading_mm=D(reading))


def test_a_finished_reference_is_never_ground_again() -> None:
    log = started()
    log.add(Kind.PASS, reading_mm=D("0.145"))
    log.add(Kind.SPARK_OUT, count=1)
    log.measure(1, "22.22")
    log.add(Kind.FACE_DONE)
    for kind, more in ((Kind.PLACED, {}), (Kind.PLANNED, {"plan": plan(1, "0.01")})):
        with pytest.raises(LogError, match="never ground again"):
            log.add(kind, 1, **more)


@pytest.mark.parametrize(("kind", "more", "says"), [
    (Kind.PASS, {"reading_mm": D("0.02")}, "no plan"), (Kind.FACE_DONE, {}, "Measure face 1"),
    (Kind.NOTE, {"note": "  "}, "nothing in the note"), (Kind.MEASURED, {"readings": ()}, "At least one"),
    (Kind.DRESSED, {"amount_mm": D(9)}, "between 0 and 5"), (Kind.SIGNED_OFF, {}, "not done yet"),
    (Kind.PLANNED, {"plan": plan(1, blanks=0)}, "at least one pass"), (Kind.PLACED, {"face": 2}, "comes first"),
    (Kind.PLACED, {"face": None}, "Which face"), (Kind.MEASURED, {"readings": (Reading("p", D(0)),)}, "more than 0"),
])
def test_entries_that_cannot_be_are_refused_in_words(kind: Kind, more: dict[str, object], says: str) -> None:
    with pytest.raises(LogError, match=says):
        Log().add(kind, **({"face": 1} | more))  # type: ignore[arg-type]


def test_a_face_is_to_size_only_when_it_is_in() -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "0.02"))
    log.measure(1, "22.2")
    log.add(Kind.FACE_DONE, 1)
    log.measure(2, "22.02", verdict="out")
    with pytest.raises(LogError, match="not proved"):
        log.add(Kind.FACE_DONE, 2)


@pytest.mark.parametrize(("value", "verdict", "act"), [
    ("22.02", "out", "plan"), ("22.0035", "unsure", "measure_again"), ("22.0", "in", "close"),
    ("21.99", "out", "stopped"),
])
def test_what_a_verdict_leads_to(value: str, verdict: str, act: str) -> None:
    log = Log()
    log.add(Kind.PLANNED, plan=plan(1, "0.02"))
    log.measure(1, "22.2")
    log.add(Kind.FACE_DONE, 1)
    log.add(Kind.PLANNED, 2, plan=plan(2, "0.2"))
    log.measure(2, value, verdict=verdict)
    assert log.next == act


def test_nothing_but_a_note_follows_a_sign_off() -> None:
    log = Log()
    log.measure(1, "22.2")
    log.add(Kind.FACE_DONE, 1)
    log.measure(2, "22", verdict="in")
    log.add(Kind.FACE_DONE, 2)
    log.measure(2, "22.01", verdict="out")
    with pytest.raises(LogError, match="last measurement"):
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
        log.add(Kind.PASS, reading_mm=log.now.faces[1].next_reading_mm)
    assert log.now.asked_since_mm == sum((D("0.00254") * size for size in sizes[:passes]), D(0))
    for _ in range(passes):
        undoable = log.now.undoable
        assert undoable is not None
        log.add(Kind.UNDONE, supersedes=undoable.entry_id)
    assert replace(log.now, last_seq=0) == replace(before, last_seq=0)


def test_what_is_left_comes_from_the_measurement_less_what_will_spark_out() -> None:
    log = started("0.02", "0.02")
    shares = split(measured_max_mm=D("22.262"), measured_min_mm=D("22.214"), target_mm=D(22), tol_minus_mm=D("0.003"),
                   tol_plus_mm=D("0.003"), first_cleanup_mm=D("0.041"), second_cleanup_mm=D("0.036"),
                   min_skin_mm=D("0.005"))
    goal = goal_thickness(1, 1, Size(D(22), D("0.003"), D("0.003")), shares)
    assert goal == D("22.216") and stock_on(log.now.faces[1], log.now, goal) == D("0.046")
    log.add(Kind.PASS, reading_mm=D("0.12"))
    assert stock_on(log.now.faces[1], log.now, goal) == D("0.026")
    log.measure(1, "22.250")
    held = still_to_spark(log.now.faces[1], 0.6, D("12.7"), D("12.7"))
    assert held == D("0.008"), "one pass at a cut ratio of 0.6 leaves 0.4 of it"
    assert stock_on(log.now.faces[1], log.now, goal, held) == D("0.026")


def test_the_order_of_a_pair_and_its_guards() -> None:
    assert [(step.up, step.down) for step in pair_order(2)] == [(2, 1), (1, 2)]
    assert set_up_for(1, 2).down == 2
    assert corner_faces("2-5-6") == (2, 5, 6)
    for wrong in (lambda: corner_faces("1-2-3"), lambda: set_up_for(3, 1), lambda: pair_order(9)):
        with pytest.raises(FaceError):
            wrong()
    states = {1: FaceState.STABLE, 2: FaceState.RAW}
    with pytest.raises(FaceError, match="must be stable"):
        may_grind(1, 1, states)
    with pytest.raises(FaceError, match="to size already"):
        may_grind(2, 1, {1: FaceState.CLEANED, 2: FaceState.TO_SIZE})

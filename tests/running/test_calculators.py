"""What takes long has a process of its own, with limits; nobody's thread waits, and its answer is there for all."""

import multiprocessing
import os
import signal
import socket
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.running import calculators, questions
from zesty_lark.running.calculators import Calculators, calculate
from zesty_lark.shopfloor.long_work import READING, Crowded, Limits, Lost, Question, StillWorking, TooLong

FORK = multiprocessing.get_context("fork")


class Desk:
    """One calculator, put back when it dies, and two workers that ask it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.asked, self.answered = socket.socketpair(socket.AF_UNIX, socket.SOCK_DGRAM)
        self.workers = [Calculators(self.asked, folder) for _ in range(2)]
        self.start()

    def start(self) -> None:
        self.seconds = getattr(self, "seconds", 3600.0)
        self.process = FORK.Process(target=calculate, args=(self.answered, self.folder), daemon=True)
        self.process.start()

    def question(self, function: Callable[..., Any], *given: Any) -> Question:
        return Question(function, given, limits=Limits(self.seconds, 900 * 1024 * 1024))

    def run(self, worker: int, function: Callable[..., Any], *given: Any, by: str = "1") -> Any:
        return self.workers[worker].run(self.question(function, *given), by)

    def ask(self, worker: int, function: Callable[..., Any], *given: Any, by: str = "1") -> Any:
        """Ask as a page does that comes again by itself."""
        while True:
            try:
                return self.run(worker, function, *given, by=by)
            except StillWorking:
                continue

    def stop(self) -> None:
        self.process.kill()
        self.process.join()
        self.asked.close()
        self.answered.close()


@pytest.fixture
def desk(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Desk]:
    monkeypatch.setattr(calculators, "PATIENCE_SECONDS", 0.02)
    made = Desk(tmp_path / "answers")
    yield made
    made.stop()


def marked(path: str, value: int) -> int:
    """Leave a mark for every time it is worked out."""
    with open(path, "a", encoding="ascii") as marks:
        marks.write("x")
    return value * 2


def waits_for(path: str) -> str:
    Path(f"{path}.begun").touch()
    while not Path(path).exists():
        time.sleep(0.01)
    return "done"


def noted(path: str, words: str) -> str:
    with open(path, "a", encoding="ascii") as notes:
        notes.write(words)
    return words


def sized(count: int) -> int:
    return len(bytearray(count))


def forever() -> None:
    while True:
        pass


def greedy() -> int:
    return len(bytearray(8 * 1024**3))


def refuses() -> None:
    raise InputError("stock_mm", "stock_mm must be something else")


def test_an_answer_is_worked_out_once_for_all_who_ask(desk: Desk, tmp_path: Path) -> None:
    marks = str(tmp_path / "marks")
    assert [desk.ask(worker, marked, marks, 21) for worker in (0, 1, 0, 1)] == [42] * 4
    assert Path(marks).read_text() == "x"
    assert desk.workers[1].at_hand(desk.question(marked, marks, 21))
    assert not desk.workers[1].at_hand(desk.question(marked, marks, 22))


def test_whoever_asks_is_told_that_it_is_on_its_way_and_may_leave(desk: Desk, tmp_path: Path) -> None:
    gate = str(tmp_path / "gate")
    for worker in (0, 1, 0):
        with pytest.raises(StillWorking) as told:
            desk.run(worker, waits_for, gate)
        assert told.value.most_seconds == 3600
    Path(gate).touch()
    assert desk.ask(1, waits_for, gate) == "done"


def test_a_calculator_that_takes_too_long_is_ended_and_that_is_said(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(calculators, "PATIENCE_SECONDS", 600.0)
    desk = Desk(tmp_path / "answers")
    desk.seconds = 0.3
    try:
        with pytest.raises(TooLong, match="longer than is allowed"):
            desk.ask(0, forever)
        desk.process.join()
        assert desk.process.exitcode == -signal.SIGALRM
        with pytest.raises(TooLong):
            desk.ask(1, forever)
        desk.start()
        assert desk.ask(1, marked, str(tmp_path / "marks"), 1) == 2, "the next one works"
    finally:
        desk.stop()


def test_a_calculator_that_takes_too_much_memory_says_so_and_lives_on(desk: Desk, tmp_path: Path) -> None:
    with pytest.raises(TooLong, match="memory"):
        desk.ask(0, greedy)
    assert desk.process.is_alive() and desk.ask(0, marked, str(tmp_path / "marks"), 1) == 2


def test_a_calculator_killed_with_a_question_in_its_hand_is_told_of(
    desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(calculators, "PATIENCE_SECONDS", 600.0)
    got: list[BaseException] = []

    def asks() -> None:
        try:
            desk.ask(0, waits_for, str(tmp_path / "never"))
        except BaseException as error:
            got.append(error)

    asking = threading.Thread(target=asks, daemon=True)
    asking.start()
    while not (tmp_path / "never.begun").exists():
        time.sleep(0.01)
    assert desk.process.pid is not None
    os.kill(desk.process.pid, signal.SIGKILL)
    asking.join(600)
    assert isinstance(got[0], TooLong)


def test_what_a_calculation_refuses_is_refused_whole(desk: Desk) -> None:
    for worker in (0, 1):
        with pytest.raises(InputError) as told:
            desk.ask(worker, refuses)
        assert (told.value.field, str(told.value)) == ("stock_mm", "stock_mm must be something else")


def test_old_answers_go(desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    desk.stop()
    monkeypatch.setattr(questions, "ANSWERS_KEPT", 5)
    fresh = Desk(desk.folder)
    try:
        for number in range(12):
            assert fresh.ask(0, marked, str(tmp_path / "marks"), number) == 2 * number
            assert len([path for path in desk.folder.iterdir() if len(path.name) == 64]) == min(number + 1, 5)
    finally:
        fresh.stop()


def test_when_all_are_busy_nobody_waits_to_ask(desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """More questions than the bell's queue holds: each asker is told at once, and all are answered in the end."""
    monkeypatch.setattr(calculators, "PATIENCE_SECONDS", 0.001)
    gate = str(tmp_path / "gate")
    with pytest.raises(StillWorking):
        desk.run(0, waits_for, gate)
    for number in range(400):
        with pytest.raises(StillWorking):
            desk.run(number % 2, marked, gate + "s", number, by=str(number))
    Path(gate).touch()
    assert desk.ask(0, waits_for, gate) == "done"
    assert [desk.ask(1, marked, gate + "s", number) for number in (1, 399)] == [2, 798]


def test_each_person_has_one_answered_at_a_time_and_turns_are_fair(
    desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Twelve of one person's keep nobody else out; the place in the line is told."""
    monkeypatch.setattr(calculators, "PATIENCE_SECONDS", 0.001)
    gate, done = str(tmp_path / "gate"), str(tmp_path / "done")
    with pytest.raises(StillWorking):
        desk.run(0, waits_for, gate, by="7")
    while not Path(f"{gate}.begun").exists():
        time.sleep(0.01)
    for number in range(12):
        with pytest.raises(StillWorking) as told:
            desk.run(0, noted, done, f"7-{number} ", by="7")
        assert told.value.ahead == number + 1
    second = FORK.Process(target=calculate, args=(desk.answered, desk.folder), daemon=True)
    second.start()
    try:
        assert desk.ask(1, noted, done, "8 ", by="8") == "8 ", "another has a turn though twelve were asked before"
        with pytest.raises(StillWorking) as told:
            desk.run(1, noted, done, "7-11 ", by="7")
        assert told.value.ahead == 12 and Path(done).read_text() == "8 "
        Path(gate).touch()
        assert [desk.ask(1, noted, done, f"7-{number} ", by="7") for number in (11, 0)] == ["7-11 ", "7-0 "]
    finally:
        second.kill()
        second.join()
    assert Path(done).read_text().split() == ["8", *(f"7-{number}" for number in range(12))]


def test_too_many_questions_of_one_person_are_refused_in_words(desk: Desk, tmp_path: Path) -> None:
    desk.process.kill()
    desk.process.join()
    for number in range(questions.MOST_WAITING):
        with pytest.raises(StillWorking):
            desk.run(0, marked, str(tmp_path / "marks"), number, by="7")
    with pytest.raises(Crowded, match="40 of your questions"):
        desk.run(0, marked, str(tmp_path / "marks"), 1000, by="7")
    with pytest.raises(StillWorking):
        desk.run(0, marked, str(tmp_path / "marks"), 1000, by="8")


def test_of_one_person_one_thread_waits_and_the_others_are_told_at_once(
    desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """However many somebody asks at once, the server's threads are there for others."""
    monkeypatch.setattr(calculators, "PATIENCE_SECONDS", 600.0)
    gate, got = str(tmp_path / "gate"), list[object]()
    waiting = threading.Thread(target=lambda: got.append(desk.ask(0, waits_for, gate, by="7")), daemon=True)
    waiting.start()
    while not Path(f"{gate}.begun").exists():
        time.sleep(0.01)
    for number in range(5):
        with pytest.raises(StillWorking):
            desk.run(0, marked, str(tmp_path / "marks"), number, by="7")
    Path(gate).touch()
    waiting.join(600)
    assert got == ["done"] and desk.ask(0, marked, str(tmp_path / "marks"), 9, by="7") == 18


def test_what_was_sent_is_asked_for_again_by_its_key(desk: Desk, tmp_path: Path) -> None:
    gate = str(tmp_path / "gate")
    with pytest.raises(StillWorking) as told:
        desk.run(0, waits_for, gate)
    key = told.value.key
    with pytest.raises(StillWorking) as again:
        desk.workers[1].again(key)
    assert (again.value.key, again.value.most_seconds) == (key, READING.seconds)
    Path(gate).touch()
    assert desk.ask(0, waits_for, gate) == "done" and desk.workers[1].again(key) == "done"
    with pytest.raises(Lost, match="Choose the file again"):
        desk.workers[1].again("0" * 64)


def test_what_one_question_may_take_is_no_limit_for_the_next(desk: Desk) -> None:
    small = Question(bytearray, (300 * 1024**2,), limits=Limits(3600.0, 50 * 1024**2))
    with pytest.raises(TooLong, match="memory"):
        while True:
            try:
                desk.workers[0].run(small, "1")
            except StillWorking:
                continue
    assert desk.ask(0, sized, 300 * 1024**2) == 300 * 1024**2


def test_a_large_question_is_laid_down_whole(desk: Desk) -> None:
    assert desk.ask(0, len, b"x" * 3_000_000) == 3_000_000


def test_what_was_given_up_may_be_asked_again_later(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(calculators, "GIVEN_UP_SECONDS", -1.0)
    for _ in range(2):
        with pytest.raises(TooLong):
            desk.ask(0, greedy)
    assert not desk.workers[0].at_hand(desk.question(greedy))

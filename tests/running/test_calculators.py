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

from zesty_lark.core.quantities import InputError
from zesty_lark.running import calculators
from zesty_lark.running.calculators import Calculators, calculate
from zesty_lark.shopfloor.long_work import StillWorking, TooLong

FORK = multiprocessing.get_context("fork")


class Desk:
    """One calculator, put back when it dies, and two workers that ask it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.asked, self.answered = socket.socketpair(socket.AF_UNIX, socket.SOCK_DGRAM)
        self.workers = [Calculators(self.asked, folder) for _ in range(2)]
        self.start()

    def start(self) -> None:
        self.process = FORK.Process(target=calculate, args=(self.answered, self.folder), daemon=True)
        self.process.start()

    def ask(self, worker: int, function: Callable[..., Any], *given: Any) -> Any:
        """Ask as a page does that comes again by itself."""
        while True:
            try:
                return self.workers[worker].run(function, given, {})
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
    monkeypatch.setattr(calculators, "MOST_SECONDS", 3600)
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
    assert desk.workers[1].at_hand(marked, (marks, 21)) and not desk.workers[1].at_hand(marked, (marks, 22))


def test_whoever_asks_is_told_that_it_is_on_its_way_and_may_leave(desk: Desk, tmp_path: Path) -> None:
    gate = str(tmp_path / "gate")
    for worker in (0, 1, 0):
        with pytest.raises(StillWorking) as told:
            desk.workers[worker].run(waits_for, (gate,), {})
        assert told.value.most_seconds == 3600
    Path(gate).touch()
    assert desk.ask(1, waits_for, gate) == "done"


def test_a_calculator_that_takes_too_long_is_ended_and_that_is_said(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(calculators, "PATIENCE_SECONDS", 600.0)
    monkeypatch.setattr(calculators, "MOST_SECONDS", 0.3)
    desk = Desk(tmp_path / "answers")
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

    asking = threading.Thread(target=asks)
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
    monkeypatch.setattr(calculators, "ANSWERS_KEPT", 5)
    fresh = Desk(desk.folder)
    for number in range(12):
        assert fresh.ask(0, marked, str(tmp_path / "marks"), number) == 2 * number
    assert len(list(desk.folder.iterdir())) <= 6
    fresh.stop()


def test_when_all_are_busy_nobody_waits_to_ask(desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """More questions than the queue holds: each asker is told at once, and all are answered in the end."""
    monkeypatch.setattr(calculators, "PATIENCE_SECONDS", 0.001)
    gate = str(tmp_path / "gate")
    for number in range(400):
        with pytest.raises(StillWorking):
            desk.workers[number % 2].run(
                waits_for if number == 0 else marked, (gate,) if number == 0 else (gate + "s", number), {}
            )
    Path(gate).touch()
    assert desk.ask(0, waits_for, gate) == "done"
    assert [desk.ask(1, marked, gate + "s", number) for number in (1, 399)] == [2, 798]


def test_a_large_question_is_laid_down_whole(desk: Desk) -> None:
    assert desk.ask(0, len, b"x" * 3_000_000) == 3_000_000


def test_what_was_given_up_may_be_asked_again_later(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(calculators, "GIVEN_UP_SECONDS", -1.0)
    for _ in range(2):
        with pytest.raises(TooLong):
            desk.ask(0, greedy)
    assert not desk.workers[0].at_hand(greedy, ())

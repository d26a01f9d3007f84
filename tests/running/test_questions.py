"""Whose turn it is: of each person one at a time, and who has asked for less before who has asked for more."""

import os
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_lark.running.questions import Questions, Waiting, in_turn

people = st.sampled_from(["1", "2", "3"])


@given(st.lists(st.tuples(people, st.integers(0, 9)), max_size=20), st.lists(people, max_size=3))
def test_turns_are_fair(asked: list[tuple[str, int]], at_work: list[str]) -> None:
    waiting = [Waiting(f"{number:064x}", person, float(since)) for number, (person, since) in enumerate(asked)]
    turns = in_turn(waiting, at_work)
    assert sorted(turns, key=lambda each: each.key) == sorted(waiting, key=lambda each: each.key)
    for person in "123":
        own = [turn.since for turn in turns if turn.person == person]
        assert own == sorted(own), "one's own come in the order in which they were asked"
    for place, each in enumerate(turns):
        had = at_work.count(each.person) + sum(other.person == each.person for other in turns[:place])
        for later in turns[place + 1 :]:
            others = at_work.count(later.person) + sum(other.person == later.person for other in turns[:place])
            assert had <= others, "nobody has a second one before another's first"


def test_who_has_one_at_work_waits_and_others_are_taken(tmp_path: Path) -> None:
    there = Questions(tmp_path / "answers")
    one, two, other = (f"{number:064x}" for number in range(3))
    for key, person in ((one, "7"), (two, "7"), (other, "8")):
        there.lay_down(key, person, b"asked")
        os.utime(tmp_path / "answers" / f"{key}.{person}.asked", (0, int(key, 16)))
    assert there.ahead_of(two) == 2 and there.of_person("7") == 2 and there.waits(one)
    first, second = there.take(), there.take()
    assert first and second and (first[0], second[0]) == (one, other) and there.take() is None
    assert there.begun(one) and not there.waits(one)
    there.lay(one, ("done", 1))
    third = there.take()
    assert third and third[0] == two and there.answer(one) and there.begun(one) is None


def test_a_question_that_two_ask_is_worked_out_once(tmp_path: Path) -> None:
    there, key = Questions(tmp_path), "a" * 64
    for person in ("7", "8", "7"):
        there.lay_down(key, person, b"asked")
    assert there.take() and there.take() is None, "somebody has it in hand"
    there.lay(key, ("done", 1))
    assert there.take() is None and not there.waits(key)


def test_what_a_dead_process_had_in_hand_keeps_nobody_out(tmp_path: Path) -> None:
    there, key = Questions(tmp_path), "a" * 64
    pid = os.fork()
    if pid == 0:
        os._exit(0)
    os.waitid(os.P_PID, pid, os.WEXITED | os.WNOWAIT)
    (tmp_path / f"{key}.7.{pid}.begun").touch()
    for _ in range(2):  # dead, and then buried
        begun = there.begun(key)
        assert begun is not None and not begun[1]
        if pid:
            os.waitpid(pid, 0)
            pid = 0
    there.lay_down("b" * 64, "7", b"asked")
    assert there.take()


@pytest.mark.parametrize("name", ["nothing.asked", "a.b.c", f"{'a' * 64}.x.asked", f"{'a' * 64}.1.x.begun"])
def test_other_files_are_no_questions(tmp_path: Path, name: str) -> None:
    (tmp_path / name).touch()
    there = Questions(tmp_path)
    assert there.take() is None and there.of_person("1") == 0

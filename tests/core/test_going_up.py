"""What may go up on a chuck: one load, on a chuck that is not ground itself, in a fixture that holds no other."""

from dataclasses import replace

import pytest

from zesty_lark.core.work.going_up import AnotherUp, Claims, check_goes_up
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.on_machine import OnMachine

EMPTY = OnMachine("TR-1", "No. 1", "W1", "W1", "", None)
FREE = Claims("", "Sine plate 100", None)


def test_a_load_goes_up_on_an_empty_chuck_and_again_on_its_own() -> None:
    check_goes_up(EMPTY, FREE, "")
    check_goes_up(replace(EMPTY, up="TR-1"), FREE, "")


def test_another_load_comes_off_by_name_only() -> None:
    for said in ("", "TR-3", "TR-1"):
        with pytest.raises(AnotherUp, match="TR-2 is up on No. 1") as told:
            check_goes_up(replace(EMPTY, up="TR-2"), FREE, said)
        assert told.value.job == "TR-2"
    check_goes_up(replace(EMPTY, up="TR-2"), FREE, "TR-2")


def test_nothing_goes_up_on_a_chuck_that_is_ground_or_in_a_fixture_that_holds_another() -> None:
    with pytest.raises(LogError, match="is being ground"):
        check_goes_up(EMPTY, replace(FREE, chuck_ground="Chuck A is being ground itself."), "")
    with pytest.raises(LogError, match="Sine plate 100 holds TR-2 on No. 2. Take that off first"):
        check_goes_up(EMPTY, replace(FREE, held_in_it=("TR-2", "No. 2")), "TR-2")

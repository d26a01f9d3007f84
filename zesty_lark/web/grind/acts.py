"""What a press at the machine asks for: read from what was posted, and handed to the act it names."""

from collections.abc import Callable
from decimal import Decimal, InvalidOperation
from typing import get_args

from flask import request

from zesty_lark.core.quantities.units import LengthError, parse_length
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.witnesses import Witness
from zesty_lark.shopfloor.acts import machine
from zesty_lark.shopfloor.acts.acting import NO_ID, Acting
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store.models import Job
from zesty_lark.store.shoplog import Appended

ANY_TIME = ("note", "halt", "take_over")
"""What is logged whatever the screen had seen: a note, a stop, a takeover."""


class WrongEntry(LogError):
    """What was typed cannot be read; the message is for beside the field."""


def press(act: str, acting: Acting) -> Appended:
    """Do what a press asks for.

    Raises
    ------
    LogError
        If it is nothing this page logs, what was typed cannot be read, or it cannot be as things stand.
    """
    if act not in _PRESSES:
        raise WrongEntry("That is not something this page logs.")
    if not acting.entry_id:
        raise WrongEntry(NO_ID)
    return _PRESSES[act](acting)


def _surface() -> int:
    return request.form.get("surface", 0, type=int)


def _text(name: str) -> str:
    return request.form.get(name, "").strip()


def _ticked(name: str) -> bool:
    return bool(request.form.get(name))


def _stopped() -> bool:
    return _ticked("stopped")


def _number(name: str) -> int:
    return request.form.get(name, 0, type=int)


def _length(name: str, job: Job, empty: str = "") -> Decimal:
    """Read a collar length: a bare number is thou on an inch dial, mm on a metric one."""
    typed = _text(name) or empty
    bare = typed.replace(".", "", 1).isdigit()
    unit = as_unit(job.machine.dial_unit)
    try:
        return parse_length(f"{typed} thou" if bare and unit == "in" else typed, unit)
    except LengthError as error:
        raise WrongEntry(str(error)) from error


def _power() -> Decimal | None:
    """The most that the power meter showed since the last press, as the page heard it [W]."""
    typed = _text("power_w")
    try:
        return Decimal(typed) if typed else None
    except InvalidOperation as error:
        raise WrongEntry(machine.NO_POWER) from error


def _readout() -> Decimal | None:
    """What the readout showed when the button was pressed [mm]; ``None`` where none did, or nobody could read it."""
    try:
        shown = Decimal(_text("readout_mm")[:30])
    except InvalidOperation:
        return None
    return shown if shown.is_finite() else None


def _sure() -> tuple[Witness, ...]:
    """What was asked about, and is so all the same."""
    said = request.form.getlist("sure")
    return tuple(each for each in get_args(Witness) if each in said)


def _feed(acting: Acting) -> Appended:
    name, field = ("shown_mm", "other_reading") if _text("other_reading") else ("reading_mm", "reading")
    read = {name: _length(field, acting.job)}
    return machine.feed(acting, surface=_surface(), power_w=_power(), readout_mm=_readout(), sure=_sure(), **read)


def _dress(acting: Acting) -> Appended:
    amount = _length("amount", acting.job) if _text("amount") else None
    return machine.dress(acting, surface=_surface(), amount_mm=amount)


def _halt(acting: Acting) -> Appended:
    return machine.halt(acting, surface=_surface(), what=_text("what"), reason=_text("note"), power_w=_power())


_PRESSES: dict[str, Callable[[Acting], Appended]] = {
    "place": lambda acting: machine.put_up(
        acting, surface=_surface(), stopped=_stopped(), takes_off=_text("takes_off")[:40]
    ),
    "touch_off": lambda acting: machine.touch_off(
        acting, surface=_surface(), reading_mm=_length("reading", acting.job, empty="0")
    ),
    "pass": _feed,
    "spark_out": lambda acting: machine.spark_out(acting, surface=_surface(), power_w=_power(), sure=_sure()),
    "dressed": _dress,
    "done": lambda acting: machine.do_step(acting, surface=_surface(), step=_number("step"), stopped=_stopped()),
    "skip": lambda acting: machine.skip_step(acting, surface=_surface(), step=_number("step"), reason=_text("reason")),
    "leave": lambda acting: machine.take_off(acting, surface=_surface(), reason=_text("reason")),
    "close": lambda acting: machine.close_surface(acting, surface=_surface()),
    "note": lambda acting: machine.note(acting, note=_text("note")),
    "undo": lambda acting: machine.undo(acting, supersedes=_text("supersedes")),
    "observe": lambda acting: machine.observe(acting, surface=_surface(), what=_text("what"), side=_text("side")),
    "halt": _halt,
    "go_on": lambda acting: machine.go_on(
        acting, surface=_surface(), reason=_text("reason"), looked=_ticked("looked"), no_crash=_ticked("no_crash")
    ),
    "take_over": lambda acting: machine.take_over(acting, surface=_surface()),
}

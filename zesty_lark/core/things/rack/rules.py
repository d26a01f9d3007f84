"""What may be logged of a wheel as it stands, by whatever path it comes."""

import math
from datetime import datetime, timedelta
from decimal import Decimal

from zesty_lark.core.things.log import ThingEntry, ThingError, ThingNote, ThingUndone, check_undone
from zesty_lark.core.things.rack.entries import (
    BalanceTrial,
    Checked,
    FoundOn,
    PutOut,
    RackDress,
    ShapedWheel,
    TakenDown,
    WheelPrinted,
)
from zesty_lark.core.things.rack.fold import WheelState
from zesty_lark.core.wheel.mounting import Mounted, age_stop, speed_stops

RUN_UP = timedelta(minutes=1)
"""How long a wheel runs at full speed before it touches anything, nobody in line with it."""


def check_rack_entry(
    entry: ThingEntry,
    now: WheelState,
    wheel: Mounted,
    rpm: float | None,
    *,
    radius_left_mm: Decimal | None = None,
    has_flange: bool = True,
    spindle: str | None = None,
) -> None:
    """Refuse what cannot be.

    Parameters
    ----------
    entry : ThingEntry
    now : WheelState
    wheel : Mounted
        As its safety is checked.
    rpm : float or None
        Of the machine that the entry names [rpm].
    radius_left_mm : Decimal or None
        Until it is worn down to its least diameter [mm].
    has_flange : bool
        Whether somebody has set down which flange it is on.
    spindle : str or None
        The wheel that is on that machine now.

    Raises
    ------
    ThingError
        With the sentence.
    """
    what = entry.what
    if isinstance(what, ThingNote):
        return
    if isinstance(what, ThingUndone):
        check_undone(what, now.history)
        return
    if now.scrapped:
        raise ThingError(f"{wheel.name} is out of use: {now.scrapped.rstrip('.')}. Nothing more is done with it.")
    if isinstance(what, PutOut):
        if not entry.note:
            raise ThingError("Say why it is put out of use.")
        return
    if isinstance(what, TakenDown):
        if not now.known:
            raise ThingError(f"{wheel.name} is on no machine.")
        return
    if rpm is not None:
        stops = speed_stops(wheel, rpm)
        if stops:
            raise ThingError(stops[0])
    if isinstance(what, Checked | FoundOn):
        _check_goes_on(entry, wheel, spindle)
    if isinstance(what, FoundOn):
        _check_found(entry, now)
        return
    if isinstance(what, Checked):
        if what.step == "flanges" and what.good and not has_flange:
            raise ThingError(f"{wheel.name} has no flange set down: say in the shop which it is on, then tighten it.")
        _check_step(entry, what, now)
        return
    _check_turning(entry, now, wheel, radius_left_mm)


def _check_goes_on(entry: ThingEntry, wheel: Mounted, spindle: str | None) -> None:
    """A spindle carries one wheel, and none whose bond is past its day."""
    if spindle not in (None, wheel.name):
        raise ThingError(f"{spindle} is on {entry.machine}. Take it off there first.")
    too_old = age_stop(wheel, entry.at.date())
    if too_old:
        raise ThingError(too_old)


def _check_found(entry: ThingEntry, now: WheelState) -> None:
    if now.history:
        raise ThingError("Something of it is logged already: its mounting goes step by step.")
    if entry.machine is None:
        raise ThingError("On which machine?")
    if not entry.note:
        raise ThingError("Who mounted, rang and trued it, and when? That goes into its record.")


def run_up_left_s(now: WheelState, at: datetime) -> int:
    """Return how long a wheel has still to run at full speed: a minute from when the guard was closed [s]."""
    closed = next((entry.at for entry in reversed(now.history) if _is_step(entry, "guard")), None)
    return 0 if closed is None else max(0, math.ceil((RUN_UP - (at - closed)).total_seconds()))


def _check_time(entry: ThingEntry, now: WheelState) -> None:
    left = run_up_left_s(now, entry.at)
    if left:
        raise ThingError(f"The minute at full speed is not over: {left} s more, standing out of its plane.")


def _is_step(entry: ThingEntry, step: str) -> bool:
    return isinstance(entry.what, Checked) and entry.what.step == step


def _check_step(entry: ThingEntry, what: Checked, now: WheelState) -> None:
    due = now.next_step
    if due is None:
        raise ThingError("Every step of its mounting is done. Take it off first to mount it anew.")
    if what.step != due.key:
        raise ThingError(f"First: {due.name.lower()}. The steps go in their order.")
    if entry.machine is None:
        raise ThingError("On which machine?")
    if now.machine is not None and entry.machine != now.machine:
        raise ThingError(f"It is on {now.machine}. Take it off there first.")
    if what.step == "run_up" and what.good:
        _check_time(entry, now)
    if what.step in ("balance", "dress") and what.good:
        if due.may_skip and entry.note:
            return
        raise ThingError(
            "Balance it, or say why this wheel is left without."
            if due.may_skip
            else "The dress itself is what is logged."
        )
    if not what.good and not due.bad_ends:
        raise ThingError("Put it right first, then say that it is done.")


def _check_turning(entry: ThingEntry, now: WheelState, wheel: Mounted, radius_left_mm: Decimal | None) -> None:
    """Balancing, dressing and shaping are for a wheel that is on and was trued."""
    what = entry.what
    if isinstance(what, BalanceTrial) and "true" not in now.done:
        raise ThingError("True it round first: a wheel that is out of round balances wrongly.")
    if isinstance(what, RackDress | ShapedWheel) and not entry.of_job and "run_up" not in now.done:
        raise ThingError(f"{wheel.name} is not on a machine with its run-up done: mount it first.")
    if isinstance(what, ShapedWheel) and what.shape == "relief" and not wheel.side_work:
        raise ThingError(
            f"Its maker does not allow work on the side of {wheel.name}, or nobody has set down that he does. "
            "Nobody can release that."
        )
    if isinstance(what, RackDress) and not entry.of_job and now.next_step is not None and now.next_step.key != "dress":
        raise ThingError(f"First: {now.next_step.name.lower()}. Then it is dressed.")
    if isinstance(what, WheelPrinted) and not now.dress and not now.shape:
        raise ThingError("Dress it first: the print is of a dressed corner.")
    amount = getattr(what, "amount_mm", None)
    if amount is not None and radius_left_mm is not None and amount > radius_left_mm:
        raise ThingError(
            f"Only {radius_left_mm.normalize():f} mm of its radius are left to its least diameter: it is worn out."
        )

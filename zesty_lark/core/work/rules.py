"""What may be logged now, and why not."""

from collections.abc import Callable
from dataclasses import fields, replace
from typing import Any, TypeVar

from zesty_lark.core.part.faces import FINISHED, FaceState
from zesty_lark.core.part.sizes import Verdict
from zesty_lark.core.work.entries import (
    CautionWaived,
    Ended,
    Measured,
    Noted,
    Rerouted,
    SignedOff,
    Undone,
    Waived,
    ZeroLost,
)
from zesty_lark.core.work.entry import AtMachine, Entry, Kind
from zesty_lark.core.work.fold import BY_HAND
from zesty_lark.core.work.halting import STOPS
from zesty_lark.core.work.job_state import JobState, needed_by
from zesty_lark.core.work.machine_acts import (
    Dressed,
    Observed,
    PassFed,
    Placed,
    Planned,
    SparkedOut,
    StepDone,
    StepSkipped,
    SurfaceDone,
    TakenOver,
    TouchedOff,
)
from zesty_lark.core.work.machine_rules import AT_MACHINE, LogError, reason, refuse
from zesty_lark.core.work.preparing import not_waivable
from zesty_lark.core.work.setups import SetUp

FROZEN = (Planned, Placed, TouchedOff, PassFed, SparkedOut, Dressed, StepDone, StepSkipped, SurfaceDone, Observed)
"""What waits while the work stands still for a stop."""
NEEDS_WHEEL = (TouchedOff, PassFed, SparkedOut, Dressed)
"""What is done with the wheel that the job is planned with, and with no other."""


class HeldError(LogError):
    """The run is worked from another screen; it can be taken over."""


AnyEntry = TypeVar("AnyEntry", bound=Entry)


def addressed(entry: AnyEntry, job_state: JobState) -> AnyEntry:
    """Return an entry with its set-up and load filled in, where its sender only named the surface: what is at work
    there."""
    if not isinstance(entry, AtMachine | Measured) or entry.setup:
        return entry
    run = None if entry.surface is None else job_state.runs.get(entry.surface)
    if run is None:
        return entry
    more: dict[str, Any] = {"setup": run.setup, "load": run.load}
    if "pieces" in {field.name for field in fields(entry)} and not getattr(entry, "pieces", ()):
        more["pieces"] = run.pieces
    return replace(entry, **more)


def with_asked_and_got(entry: AnyEntry, job_state: JobState) -> AnyEntry:
    """Keep asked against got with a measurement of the size of what is up, that follows a cut."""
    if not isinstance(entry, Measured) or not entry.readings or entry.surface is None:
        return entry
    surface, piece = job_state.spec.wanted.surfaces.get(entry.surface), job_state.pieces.get(entry.piece)
    if surface is None or piece is None or surface.size != entry.characteristic:
        return entry
    size = piece.sizes[surface.size]
    if not size.asked_mm:
        return entry
    return replace(
        entry, asked_mm=size.asked_mm, got_mm=size.feed_to(surface.furthest((entry.greatest_mm, entry.least_mm)))
    )


def check_entry(entry: Entry, job_state: JobState) -> None:
    """Pass silently when ``entry`` may be logged as things stand.

    Raises
    ------
    LogError
        If it may not; the message is a plain sentence.
    """
    if job_state.signed_off and entry.kind is not Kind.NOTE:
        raise LogError("This part is signed off; its record is closed. A note can still be added.")
    if isinstance(entry, Planned | Placed | TouchedOff | PassFed | SparkedOut) and job_state.spec.stops:
        raise LogError(job_state.spec.stops[0])
    if job_state.on is not None and isinstance(entry, NEEDS_WHEEL):
        refuse(job_state.on.wheel_stop)
    if isinstance(entry, ZeroLost):
        raise LogError("That the zero is lost is told by the machine.")
    if job_state.halted is not None and isinstance(entry, FROZEN):
        raise LogError(f"It is stopped: {_stopped_for(job_state.halted.seen)}. Go on first, with a reason.")
    if isinstance(entry, (*BY_HAND, Undone)) and not isinstance(entry, TakenOver):
        _not_held_elsewhere(entry, job_state)
    if isinstance(entry, AtMachine):
        if entry.surface not in job_state.runs:
            raise LogError(f"Which surface is meant? The print has no {entry.surface}.")
        run = job_state.runs[entry.surface]
        if not isinstance(entry, Planned) and entry.place != run.place:
            raise LogError(f"Surface {entry.surface} is at work in another set-up or load now.")
        AT_MACHINE[type(entry)](entry, job_state, run)
    elif type(entry) in _OTHERS:
        _OTHERS[type(entry)](entry, job_state)


def _stopped_for(seen: str) -> str:
    return STOPS[seen].words.lower() if seen in STOPS else seen


def _not_held_elsewhere(entry: Entry, job_state: JobState) -> None:
    if job_state.held is not None and job_state.held_elsewhere(entry.screen):
        whose = "another of your own screens" if job_state.held[0] == entry.by else f"{job_state.held[0]}’s screen"
        raise HeldError(f"This run is worked from {whose}. Take it over first to log it here.")


def _check_caution_waived(entry: CautionWaived, job_state: JobState) -> None:
    refuse(not_waivable(entry, job_state))
    reason(entry, "Why is it waived?")


def _check_note(entry: Noted, job_state: JobState) -> None:
    if not entry.note.strip():
        raise LogError("There is nothing in the note yet.")


def _check_undo(entry: Undone, job_state: JobState) -> None:
    if job_state.undoable is None or entry.supersedes != job_state.undoable.entry_id:
        raise LogError("That entry is no longer the last one, so it cannot be undone from here.")


def _check_measured(entry: Measured, job_state: JobState) -> None:
    if not entry.readings:
        raise LogError("At least one reading is needed.")
    _piece(entry.piece, job_state)
    wanted = job_state.spec.wanted
    asked = wanted.named(entry.characteristic)
    if asked is None and not (
        entry.surface in wanted.surfaces and wanted.surfaces[entry.surface].size == entry.characteristic
    ):
        raise LogError(f"The print does not ask for “{entry.characteristic}”.")
    if asked is not None and asked.kind == "angle" and not entry.how:
        raise LogError(
            "Readings here are lengths, and their uncertainty too: no verdict on an angle comes from them. A lead can "
            f"waive {asked.name} by name."
        )
    is_size = asked is None or asked.kind == "size"
    if any(reading.value_mm < 0 or (reading.value_mm == 0 and is_size) for reading in entry.readings):
        raise LogError("A size is more than 0.")


def _piece(number: int, job_state: JobState) -> None:
    piece = job_state.pieces.get(number)
    if piece is None:
        raise LogError(f"There is no piece {number}: this job has {len(job_state.pieces)}.")
    if piece.end is not None:
        raise LogError(f"Piece {number} is {piece.end}: nothing more is done with it.")


def _check_waived(entry: Waived, job_state: JobState) -> None:
    if job_state.spec.wanted.named(entry.characteristic) is None:
        raise LogError(f"The print does not ask for “{entry.characteristic}”.")
    if entry.piece is not None:
        _piece(entry.piece, job_state)
    reason(entry, f"Why is {entry.characteristic} waived?")


def _check_ended(entry: Ended, job_state: JobState) -> None:
    _piece(entry.piece, job_state)
    reason(entry, f"Why is piece {entry.piece} {entry.end}?")


def _check_rerouted(entry: Rerouted, job_state: JobState) -> None:
    if entry.change == "grind":
        if entry.surface not in job_state.spec.wanted.surfaces:
            raise LogError("Which surface is to be ground? The print has none of that number.")
        if job_state.states.get(entry.surface) is FaceState.AS_IT_IS:
            raise LogError(f"{job_state.titled(entry.surface)} stays as it is: its take-in says what it is for.")
        for number in entry.pieces:
            _piece(number, job_state)
        reason(entry, f"Why is {job_state.named(entry.surface)} ground again?")
        _stands_on_what_is_made((entry.surface,), job_state)
        return
    setup = job_state.setup(entry.setup)
    if setup is None:
        raise LogError("The route has no such set-up.")
    reason(entry, "Why is the set-up skipped?" if entry.change == "skip" else "Why does this set-up come first?")
    if entry.change == "skip":
        _nothing_stands_on(setup, job_state)
    else:
        _stands_on_what_is_made(setup.up, job_state)


def _nothing_stands_on(setup: SetUp, job_state: JobState) -> None:
    """A set-up is only skipped when nothing that is still to be ground needs what it makes."""
    surfaces = job_state.spec.wanted.surfaces
    missing = {up for up in setup.up if any(job_state.pieces[number].wants(surfaces[up]) for number in job_state.live)}
    for other in job_state.setups:
        for up in other.up if other.key != setup.key and not other.left_out else ():
            needs = missing & needed_by(surfaces[up])
            if needs and any(job_state.pieces[number].wants(surfaces[up]) for number in job_state.live):
                raise LogError(
                    f"{job_state.titled(up)} needs {job_state.named(min(needs))}, which is made there: skip the set-up "
                    f"of {job_state.named(up)} first."
                )


def _stands_on_what_is_made(surfaces: tuple[int, ...], job_state: JobState) -> None:
    """What is taken in hand again needs what it stands on: made already, or by a set-up that is not left out."""
    wanted = job_state.spec.wanted.surfaces
    comes = {up for setup in job_state.setups if not setup.left_out for up in setup.up} | set(surfaces)
    for surface in surfaces:
        needs = (needed_by(wanted[surface]) & set(wanted)) - comes
        missing = {need for need in needs if job_state.state(need) not in FINISHED}
        if missing:
            raise LogError(
                f"{job_state.titled(surface)} needs {job_state.named(min(missing))}, whose set-up is left out: "
                "take that one first."
            )


def _check_sign_off(entry: SignedOff, job_state: JobState) -> None:
    if job_state.at is not None:
        raise LogError(f"{job_state.titled(job_state.at.surface)} is not done yet; the part cannot be signed off.")
    for number, name in job_state.unproved():
        word: Verdict | str = job_state.pieces[number].verdicts.get(name, "not measured")
        which = f" of piece {number}" if len(job_state.pieces) > 1 else ""
        raise LogError(
            f"{name.capitalize()}{which}: {word}. Every characteristic on the print needs an “in”, or a lead waives "
            "it by name."
        )


_OTHERS: dict[type[Entry], Callable[[Any, JobState], None]] = {
    Noted: _check_note,
    Undone: _check_undo,
    Measured: _check_measured,
    Waived: _check_waived,
    CautionWaived: _check_caution_waived,
    Ended: _check_ended,
    Rerouted: _check_rerouted,
    SignedOff: _check_sign_off,
}

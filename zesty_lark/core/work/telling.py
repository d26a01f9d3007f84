"""The story of a job: each entry as a sentence, in the print's unit and the dial's."""

from collections.abc import Callable, Sequence
from decimal import Decimal
from typing import Any

from zesty_lark.core.part.prints import THICKNESS
from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.work.entries import (
    Amended,
    CautionWaived,
    Ended,
    HandedOver,
    Measured,
    Noted,
    Rerouted,
    SignedOff,
    TakenIn,
    Undone,
    Waived,
    ZeroLost,
)
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.halting import STOPS
from zesty_lark.core.work.machine_acts import (
    Dressed,
    Halted,
    LeftMachine,
    Observed,
    PassFed,
    Placed,
    Planned,
    Prepared,
    SparkedOut,
    StepDone,
    StepSkipped,
    SurfaceDone,
    TakenOver,
    TouchedOff,
    WentOn,
)
from zesty_lark.core.work.observing import OBSERVATIONS, SIDES
from zesty_lark.core.work.plans import METHODS, PASSES, PlanStep
from zesty_lark.core.work.preparing import ITEMS


def numbers(pieces: Sequence[int]) -> str:
    """Write piece numbers short: ``1–4, 7``."""
    runs: list[list[int]] = []
    for number in sorted(pieces):
        if runs and number == runs[-1][-1] + 1:
            runs[-1].append(number)
        else:
            runs.append([number])
    return ", ".join(str(run[0]) if len(run) == 1 else f"{run[0]}–{run[-1]}" for run in runs)


def pieces_words(pieces: Sequence[int]) -> str:
    """Write which pieces are meant: ``piece 6``, ``pieces 1–4, 7``."""
    return f"piece{'' if len(pieces) == 1 else 's'} {numbers(pieces)}"


def tell(entry: Entry, units: ShownUnits, of: int = 1) -> str:
    """Return what happened as a sentence; ``of`` is how many pieces the job has."""
    return _TELLERS[type(entry)](entry, units) + _which(entry, of)


def _which(entry: Entry, of: int) -> str:
    """Which pieces it was about, where there are several."""
    piece, pieces = getattr(entry, "piece", None), getattr(entry, "pieces", ())
    if of == 1 or not (piece or pieces):
        return ""
    return f" {pieces_words((piece,) if piece else pieces).capitalize()}."


def _planned(entry: Planned, units: ShownUnits) -> str:
    plan = entry.plan
    name = METHODS[plan.method].lower()
    spark_outs = len(plan.of_kind("spark-out"))
    if not plan.passes:
        return f"Planned {units.named(entry.surface)}: {_passes(spark_outs)} of spark-out only."
    carried = ", wheel height kept" if plan.keeps_wheel_height else ""
    why = f" Released because: {plan.reason}" if plan.reason else ""
    return (
        f"Planned {units.named(entry.surface)}, {name}: {_passes(len(plan.passes))} to take "
        f"{units.small(plan.stock_mm)}, {_passes(spark_outs)} of spark-out{carried}.{why}"
    )


def _passes(count: int) -> str:
    return "1 pass" if count == 1 else f"{count} passes"


def _dressed(entry: Dressed, units: ShownUnits) -> str:
    if entry.amount_mm is None:
        return "Dressed the wheel; touch off again before the next pass."
    return f"Dressed the wheel, {units.small(entry.amount_mm)} off its radius; the collar readings move by as much."


def _measured(entry: Measured, units: ShownUnits) -> str:
    places = "1 place" if len(entry.readings) == 1 else f"{len(entry.readings)} places"
    what = "" if entry.characteristic == THICKNESS else f"{entry.characteristic} at "
    text = f"Measured {what}{places} with {entry.instrument}: "

    def write(value: Decimal) -> str:
        return units.value(entry.characteristic, value)

    text += (
        write(entry.greatest_mm)
        if entry.least_mm == entry.greatest_mm
        else (f"{write(entry.least_mm)} to {write(entry.greatest_mm)}")
    )
    text += f", each ± {write(entry.uncertainty_mm)}"
    if entry.note:
        text += f" ({entry.note})"
    if entry.verdict:
        text += f"; {entry.verdict}"
    return text + "."


def step_words(step: PlanStep, units: ShownUnits) -> str:
    """Say what a step of a plan asks for."""
    amount = "" if step.amount is None else f"{step.amount.normalize():f}"
    across = (
        ""
        if step.crossfeed_mm is None or step.table_mm_s is None
        else f"{_across(step, step.crossfeed_mm, units)}, table {units.table(step.table_mm_s)}"
    )
    if step.kind in PASSES:
        return f"{brief_step_words(step, units)}; {across}".strip()
    return {
        "dress": f"Dress the wheel, {step.what}",
        "chamfer": f"Chamfer the wheel’s leading edge, {units.across(step.amount or 0)}",
        "place": f"Put {step.what} on its end, the part left clamped"
        if step.amount
        else f"Put the part up: {step.what}",
        "turn": f"Turn the part {amount}° to the travel",
        "blocks": f"Place blocks {step.what}",
        "touch off": "Touch off on the high spot",
        "cool": f"Let it cool {amount} min under the coolant",
        "measure": f"Measure {step.what}",
    }[step.kind].strip()


def brief_step_words(step: PlanStep, units: ShownUnits) -> str:
    """Say what a step of a plan asks for; of a pass only what is fed."""
    match step.kind:
        case "no feed":
            return "A first pass without feed"
        case "spark-out":
            return "Spark-out, no feed"
        case "rough" | "finish":
            return f"Feed {units.collar(step.step_mm)}"
    return step_words(step, units)


def _across(step: PlanStep, crossfeed_mm: Decimal, units: ShownUnits) -> str:
    return f"no crossfeed, {step.amount:.0f} strokes" if step.plunged else f"{units.across(crossfeed_mm)} across"


def _done(entry: StepDone, units: ShownUnits) -> str:
    return f"{entry.note.rstrip('.')}: done." if entry.note else f"Step {entry.step} of the plan done."


def _rerouted(entry: Rerouted, units: ShownUnits) -> str:
    return {
        "skip": f"Skipped the set-up of {units.held(entry.setup)}: ",
        "first": f"Took the set-up of {units.held(entry.setup)} first: ",
        "grind": f"{units.titled(entry.surface or 0)} is to be ground again: ",
    }[entry.change] + entry.note


def _prepared(entry: Prepared, units: ShownUnits) -> str:
    item = ITEMS.get(entry.item)
    answer = None if item is None else item.answer(entry.answer)
    said = entry.item.capitalize() if item is None else item.words
    return said + (f": {answer.words.lower()}." if answer else ".") + (f" {entry.note}" if entry.note else "")


def _observed(entry: Observed, units: ShownUnits) -> str:
    what = OBSERVATIONS.get(entry.seen)
    said = entry.seen if what is None else what.words
    return f"{said}{' ' + SIDES.get(entry.side, entry.side) if entry.side else ''}."


def _halted(entry: Halted, units: ShownUnits) -> str:
    what = STOPS.get(entry.seen)
    at = "" if entry.reading_mm is None else f", collar at {units.collar(entry.reading_mm)}"
    power = "" if entry.power_w is None else f", {entry.power_w:.0f} W"
    note = f" {entry.note}" if entry.note else ""
    return f"Stopped: {entry.seen if what is None else what.words.lower()}{at}{power}.{note}"


def _pass(entry: PassFed, units: ShownUnits) -> str:
    power = "" if entry.power_w is None else f", {entry.power_w:.0f} W at the most"
    return f"Pass down to {units.collar(entry.reading_mm)}{power}."


_TELLERS: dict[type[Entry], Callable[[Any, ShownUnits], str]] = {
    TakenIn: lambda entry, units: "Took the part in." + (f" {entry.note}" if entry.note else ""),
    Amended: lambda entry, units: f"Changed the take-in: {entry.note}",
    HandedOver: lambda entry, units: f"Handed the job over: {entry.note}",
    Planned: _planned,
    Placed: lambda entry, units: f"{units.titled(entry.surface)} up on the chuck.",
    Prepared: _prepared,
    CautionWaived: lambda entry, units: (
        f"Waived the caution “{entry.item}” at the set-up of {units.held(entry.setup)}: {entry.note}"
    ),
    TouchedOff: lambda entry, units: (
        f"Touched off on {units.named(entry.surface)}; collar at {units.collar(entry.reading_mm)}."
    ),
    PassFed: _pass,
    Observed: _observed,
    Halted: _halted,
    WentOn: lambda entry, units: f"Goes on: {entry.note}",
    TakenOver: lambda entry, units: "Taken over on another screen.",
    SparkedOut: lambda entry, units: f"Spark-out, {_passes(entry.count)}.",
    Dressed: _dressed,
    StepDone: _done,
    StepSkipped: lambda entry, units: f"Skipped step {entry.step} of the plan: {entry.note}",
    LeftMachine: lambda entry, units: (
        f"Took {units.named(entry.surface)} off the chuck before it was done: {entry.note}"
    ),
    Rerouted: _rerouted,
    Waived: lambda entry, units: f"Waived {entry.characteristic}: {entry.note}",
    Ended: lambda entry, units: f"{entry.end.capitalize()}: {entry.note}",
    Noted: lambda entry, units: f"Note: {entry.note}",
    Measured: _measured,
    SurfaceDone: lambda entry, units: f"{units.titled(entry.surface)} done.",
    Undone: lambda entry, units: "Took back the entry before.",
    ZeroLost: lambda entry, units: f"The zero is lost: {entry.note}",
    SignedOff: lambda entry, units: "Signed the part off." + (f" {entry.note}" if entry.note else ""),
}

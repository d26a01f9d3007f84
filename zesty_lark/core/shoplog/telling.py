"""The story of a job: each entry as a sentence, in the print's unit and the dial's."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

from zesty_lark.core.route.choices import SCHOOLS
from zesty_lark.core.shoplog.entries import THICKNESS, Entry, Kind, PlanStep
from zesty_lark.core.units import (
    Unit,
    crossfeed_text,
    dial_text,
    fine_text,
    other_unit,
    size_text,
    small_text,
    speed_text,
    step_text,
)

__all__ = ["Tongue", "step_words", "tell"]

SIZES = ("thickness", "width", "length")
UM_A_MM = 1000.0


@dataclass(frozen=True)
class Tongue:
    """The units a story is told in: the print's for sizes and form, the dial's with its graduation [mm] for the machine."""

    print_unit: Unit
    dial_unit: Unit
    graduation_mm: Decimal

    def size(self, mm: Decimal) -> str:
        """Write a size for the print."""
        return size_text(mm, self.print_unit, with_unit=True)

    def small(self, mm: Decimal) -> str:
        """Write a small amount in the dial's unit."""
        return small_text(mm, self.dial_unit)

    def collar(self, mm: Decimal) -> str:
        """Write a collar reading."""
        return step_text(mm, self.dial_unit, self.graduation_mm)

    @property
    def dial_word(self) -> str:
        """What the dial is read in."""
        return "thou" if self.dial_unit == "in" else "mm"

    @property
    def switched(self) -> "Tongue":
        """The other system for everything."""
        return Tongue(other_unit(self.print_unit), other_unit(self.dial_unit), self.graduation_mm)

    def across(self, mm: Decimal | float) -> str:
        """Write a crossfeed."""
        return crossfeed_text(Decimal(str(mm)), self.dial_unit)

    def table(self, mm_s: Decimal | float) -> str:
        """Write a table speed."""
        return speed_text(Decimal(str(mm_s)), self.dial_unit)

    def fine(self, um: float) -> str:
        """Write micrometres of form or roughness, as the print has them."""
        return fine_text(float(um), self.print_unit)

    def collar_number(self, mm: Decimal) -> str:
        """Write a collar reading without its unit."""
        return dial_text(mm, self.dial_unit, self.graduation_mm)


def tell(entry: Entry, tongue: Tongue) -> str:
    """Return what happened as a sentence."""
    return _TELLERS[entry.kind](entry, tongue)


def _planned(entry: Entry, tongue: Tongue) -> str:
    plan = entry.plan
    assert plan is not None
    name = SCHOOLS[plan.school].lower()
    blanks = len(plan.of_kind("blank"))
    if not plan.passes:
        return f"Planned face {entry.face}: {_passes(blanks)} of spark-out only."
    carried = ", wheel height kept" if plan.keeps_wheel_height else ""
    why = f" Released because: {plan.reason}" if plan.reason else ""
    return (f"Planned face {entry.face}, {name}: {_passes(len(plan.passes))} to take {tongue.small(plan.stock_mm)}, "
            f"{_passes(blanks)} of spark-out{carried}.{why}")


def _passes(count: int) -> str:
    return "1 pass" if count == 1 else f"{count} passes"


def _dressed(entry: Entry, tongue: Tongue) -> str:
    if entry.amount_mm is None:
        return "Dressed the wheel; touch off again before the next pass."
    return f"Dressed the wheel, {tongue.small(entry.amount_mm)} off its radius; the collar readings move by as much."


def _measured(entry: Entry, tongue: Tongue) -> str:
    places = "1 place" if len(entry.readings) == 1 else f"{len(entry.readings)} places"
    what = "" if entry.characteristic == THICKNESS else f"{entry.characteristic} at "
    text = f"Measured {what}{places} with {entry.instrument}: "
    write = tongue.size if entry.characteristic in SIZES else lambda mm: tongue.fine(float(mm) * UM_A_MM)
    text += write(entry.greatest_mm) if entry.least_mm == entry.greatest_mm else (
        f"{write(entry.least_mm)} to {write(entry.greatest_mm)}")
    if entry.uncertainty_mm is not None:
        text += f", each ± {write(entry.uncertainty_mm)}"
    if entry.note:
        text += f" ({entry.note})"
    if entry.verdict:
        text += f"; {entry.verdict}"
    return text + "."


def step_words(step: PlanStep, tongue: Tongue) -> str:
    """Say what a step of a plan asks for."""
    amount = "" if step.amount is None else f"{step.amount.normalize():f}"
    across = "" if step.crossfeed_mm is None or step.table_mm_s is None else (
        f"{tongue.across(step.crossfeed_mm)} across, table {tongue.table(step.table_mm_s)}")
    return {
        "dress": f"Dress the wheel, {step.what}",
        "chamfer": f"Chamfer the wheel’s leading edge, {tongue.across(step.amount or 0)}",
        "place": f"Put the part up: {step.what}", "turn": f"Turn the part {amount}° to the travel",
        "blocks": f"Place blocks {step.what}", "touch off": "Touch off on the high spot",
        "no feed": f"A first pass without feed; {across}", "rough": f"Feed {tongue.collar(step.step_mm)}; {across}",
        "finish": f"Feed {tongue.collar(step.step_mm)}; {across}", "blank": f"A blank pass, no feed; {across}",
        "cool": f"Let it cool {amount} min under the coolant", "measure": f"Measure {step.what}",
    }[step.kind].strip()


def _done(entry: Entry, tongue: Tongue) -> str:
    return f"{entry.note.rstrip('.')}: done." if entry.note else f"Step {entry.step} of the plan done."


def _skipped(entry: Entry, tongue: Tongue) -> str:
    return f"Skipped step {entry.step} of the plan: {entry.note}"


def _face_done(entry: Entry, tongue: Tongue) -> str:
    return f"Face {entry.face} done."


_TELLERS: dict[Kind, Callable[[Entry, Tongue], str]] = {
    Kind.TAKEN_IN: lambda entry, tongue: "Took the part in." + (f" {entry.note}" if entry.note else ""),
    Kind.AMENDED: lambda entry, tongue: f"Changed the take-in: {entry.note}",
    Kind.HANDED_OVER: lambda entry, tongue: f"Handed the job over: {entry.note}",
    Kind.PLANNED: _planned,
    Kind.PLACED: lambda entry, tongue: f"Face {entry.face} up on the chuck.",
    Kind.TOUCHED_OFF: lambda entry, tongue: (
        f"Touched off on face {entry.face}; collar at {tongue.collar(entry.reading_mm or Decimal(0))}."),
    Kind.PASS: lambda entry, tongue: f"Pass down to {tongue.collar(entry.reading_mm or Decimal(0))}.",
    Kind.SPARK_OUT: lambda entry, tongue: f"Spark-out, {_passes(entry.count or 1)}.",
    Kind.DRESSED: _dressed,
    Kind.DONE: _done,
    Kind.SKIPPED: _skipped,
    Kind.WAIVED: lambda entry, tongue: f"Waived {entry.characteristic}: {entry.note}",
    Kind.NOTE: lambda entry, tongue: f"Note: {entry.note}",
    Kind.MEASURED: _measured,
    Kind.FACE_DONE: _face_done,
    Kind.UNDONE: lambda entry, tongue: "Took back the entry before.",
    Kind.SIGNED_OFF: lambda entry, tongue: "Signed the part off." + (f" {entry.note}" if entry.note else ""),
}

"""The story of a job: each entry as a sentence, in the print's unit and the dial's."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

from zesty_lark.core.route.choices import HABITS
from zesty_lark.core.shoplog.entries import Entry, Kind
from zesty_lark.core.units import Unit, dial_text, size_text, small_text, step_text

__all__ = ["Tongue", "tell"]


@dataclass(frozen=True)
class Tongue:
    """The units a story is told in: the print's, and the dial's with its graduation [mm]."""

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

    def collar_number(self, mm: Decimal) -> str:
        """Write a collar reading without its unit."""
        return dial_text(mm, self.dial_unit, self.graduation_mm)


def tell(entry: Entry, tongue: Tongue) -> str:
    """Return what happened as a sentence."""
    return _TELLERS[entry.kind](entry, tongue)


def _planned(entry: Entry, tongue: Tongue) -> str:
    plan = entry.plan
    assert plan is not None
    name = HABITS[plan.school].lower()
    if not plan.steps:
        return f"Planned face {entry.face}: {_passes(plan.spark_passes)} of spark-out only."
    carried = ", wheel height kept" if plan.keeps_wheel_height else ""
    return (f"Planned face {entry.face}, {name}: {_passes(len(plan.steps))} to take {tongue.small(plan.stock_mm)}, "
            f"then {_passes(plan.spark_passes)} of spark-out{carried}.")


def _passes(count: int) -> str:
    return "1 pass" if count == 1 else f"{count} passes"


def _dressed(entry: Entry, tongue: Tongue) -> str:
    if entry.amount_mm is None:
        return "Dressed the wheel; touch off again before the next pass."
    return f"Dressed the wheel, {tongue.small(entry.amount_mm)} off its radius; the collar readings move by as much."


def _measured(entry: Entry, tongue: Tongue) -> str:
    places = "1 place" if len(entry.readings) == 1 else f"{len(entry.readings)} places"
    text = f"Measured {places} with {entry.instrument}: "
    text += tongue.size(entry.greatest_mm) if entry.least_mm == entry.greatest_mm else (
        f"{tongue.size(entry.least_mm)} to {tongue.size(entry.greatest_mm)}")
    if entry.uncertainty_mm is not None:
        text += f", each ± {tongue.size(entry.uncertainty_mm)}"
    if entry.note:
        text += f" ({entry.note})"
    if entry.verdict:
        text += f"; {entry.verdict}"
    return text + "."


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
    Kind.NOTE: lambda entry, tongue: f"Note: {entry.note}",
    Kind.MEASURED: _measured,
    Kind.FACE_DONE: _face_done,
    Kind.UNDONE: lambda entry, tongue: "Took back the entry before.",
    Kind.SIGNED_OFF: lambda entry, tongue: "Signed the part off." + (f" {entry.note}" if entry.note else ""),
}

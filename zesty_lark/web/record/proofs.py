"""What the print asks, what was measured of it, and what that proves: for the record and for the report."""

from dataclasses import dataclass

from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.work.entries import Measured, Waived
from zesty_lark.web.shared import guard
from zesty_lark.web.shared.wording import units


@dataclass(frozen=True)
class Proved:
    """A characteristic of the print and how it stands on each piece."""

    asked: Characteristic
    words: str
    verdicts: dict[int, str]
    measured: dict[int, Measured]
    waived: dict[int, Waived]

    def figures(self, number: int, words: ShownUnits) -> tuple[str, str]:
        """What was measured on a piece, and its U, in the units of the print; an angle in degrees."""
        entry = self.measured.get(number)
        if entry is None:
            return "–", "–"
        if self.asked.kind == "angle":
            return dms_text(float(entry.greatest_mm)), f"{float(entry.uncertainty_mm) * 3600:.1f}″"
        if self.asked.is_zone:
            return words.fine(entry.um), words.fine(entry.u_um)
        return (
            f"{words.size_number(entry.least_mm)} to {words.size(entry.greatest_mm)}",
            words.size_number(entry.uncertainty_mm),
        )

    @property
    def unproved(self) -> list[int]:
        """The pieces on which it has no "in" and was not waived."""
        return [number for number, verdict in self.verdicts.items() if verdict != "in" and number not in self.waived]


def proofs() -> list[Proved]:
    """Every characteristic of the print, and the verdict on it of each piece that no lead has ended."""
    job_state = guard.job_state()
    measured: dict[tuple[str, int], Measured] = {
        (entry.characteristic, entry.piece): entry
        for entry in job_state.history
        if isinstance(entry, Measured) and entry.verdict
    }
    return [
        Proved(
            characteristic,
            _asked(characteristic),
            {
                number: job_state.pieces[number].verdicts.get(characteristic.name, "not measured")
                for number in job_state.live
            },
            {
                number: measured[characteristic.name, number]
                for number in job_state.live
                if (characteristic.name, number) in measured
                and characteristic.name in job_state.pieces[number].verdicts
            },
            {
                number: piece.waived[characteristic.name]
                for number, piece in job_state.pieces.items()
                if characteristic.name in piece.waived
            },
        )
        for characteristic in job_state.spec.wanted.characteristics
    ]


def _asked(asked: Characteristic) -> str:
    """What the print asks of a characteristic, in its words."""
    words, limits = units(guard.job()), asked.limits
    if asked.kind == "angle":
        return (
            f"{limits.target_mm.normalize():f}°  −{limits.tol_minus_mm.normalize():f}°  "
            f"+{limits.tol_plus_mm.normalize():f}°"
        )
    if asked.is_zone:
        return f"within {words.fine(micrometres(asked.allowed_mm))}"
    return f"{words.size(limits.target_mm)}  −{words.size(limits.tol_minus_mm)}  +{words.size(limits.tol_plus_mm)}"

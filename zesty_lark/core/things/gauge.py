"""A gauge's log: what it was found to do. Lengths are in µm."""

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from annotated_types import Ge, Le, MaxLen, MinLen
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.measure.repeat import repeatability
from zesty_lark.core.quantities.kept_types import STRICT
from zesty_lark.core.quantities.numbers import NonNegative
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.things.log import Folding, Said, ThingEntry, ThingError, ThingNote

Reading = Annotated[float, Ge(-1e9), Le(1e9)]
Lifts = Annotated[list[Reading], MinLen(2), MaxLen(100)]
CheckKind = Literal["repeat", "zero", "direction"]
LIFTED_UM = 1.0
"""A lift has to move the reading by this much to tell its direction [µm]."""


@checked(frozen=True, kw_only=True, config=STRICT)
class GaugeChecked(Said):
    """A gauge was checked: the same point lifted and replaced, its zero, which way it reads; what was read, how far it
    might be off, and whether it was good."""

    kind: ClassVar[str] = "check"
    check: CheckKind
    readings_um: Annotated[tuple[Reading, ...], MinLen(1), MaxLen(100)]
    allowed_um: NonNegative | None = None
    good: bool

    @property
    def range_um(self) -> float:
        """From the least to the greatest reading."""
        return max(self.readings_um) - min(self.readings_um)


GAUGE_ENTRIES: tuple[type[Said], ...] = (GaugeChecked, ThingNote)


@dataclass(frozen=True)
class GaugeState:
    """What a gauge was found to do: its checks, oldest first."""

    checks: tuple[ThingEntry, ...] = ()

    @property
    def in_doubt(self) -> bool:
        """Whether it did not repeat when that was looked at last: until five good lifts nothing it says proves
        anything."""
        last = self.latest("repeat")
        return last is not None and not last[1].good

    def latest(self, kind: CheckKind) -> tuple[ThingEntry, GaugeChecked] | None:
        """Return the newest check of a kind, and what it said."""
        for entry in reversed(self.checks):
            if isinstance(entry.what, GaugeChecked) and entry.what.check == kind:
                return entry, entry.what
        return None


class GaugeFolding(Folding[ThingEntry, None, GaugeState]):
    """A gauge's log, folded as it grows."""

    def _begin(self) -> None:
        self._checks: list[ThingEntry] = []

    def _take(self, entry: ThingEntry) -> None:
        if isinstance(entry.what, GaugeChecked):
            self._checks.append(entry)

    def _stood(self) -> GaugeState:
        return GaugeState(tuple(self._checks))


def check_gauge_entry(entry: ThingEntry, _now: GaugeState) -> None:
    """Refuse what cannot be: what a gauge was found to do is never taken back, it is checked again.

    Raises
    ------
    ThingError
    """
    if not isinstance(entry.what, GAUGE_ENTRIES):
        raise ThingError("What a gauge was found to do stays; check it again.")


def judged_repeat(gauge: Instrument, readings_um: list[float]) -> GaugeChecked:
    """Judge lifts of the same point: their range may be twice the resolution plus the stated repeatability."""
    made = repeatability(
        readings_um=readings_um,
        resolution_um=micrometres(gauge.resolution_mm),
        stated_um=micrometres(gauge.repeatability_mm),
    )
    return GaugeChecked(check="repeat", readings_um=tuple(readings_um), allowed_um=made.allowed_um, good=made.good)


def judged_direction(before_um: float, lifted_um: float) -> GaugeChecked:
    """Judge a lift of the probe: the reading has to rise.

    Raises
    ------
    ThingError
        If it hardly moved: that tells nothing.
    """
    if abs(lifted_um - before_um) < LIFTED_UM:
        raise ThingError("The reading hardly moved: lift the probe further.")
    return GaugeChecked(check="direction", readings_um=(before_um, lifted_um), good=lifted_um > before_um)


def judged_zero(gauge: Instrument, shown_um: float) -> GaugeChecked:
    """Judge what a gauge shows where it has to show nothing, at its setting master or with its anvils closed: a step
    and its stated error are allowed."""
    allowed = micrometres(gauge.resolution_mm) + micrometres(gauge.error_limit_mm)
    good = abs(shown_um) <= allowed * (1 + 1e-9)
    return GaugeChecked(check="zero", readings_um=(shown_um,), allowed_um=allowed, good=good)


def check_words(check: GaugeChecked) -> str:
    """Return what a check told, in words."""
    allowed = 0.0 if check.allowed_um is None else check.allowed_um
    match check.check, check.good:
        case "repeat", True:
            return f"Range {check.range_um:.2f} µm of {allowed:.2f} allowed: it can be measured."
        case "repeat", False:
            return (
                f"Range {check.range_um:.2f} µm, {allowed:.2f} allowed: clean granite, part and anvils, check the "
                "stand, and try again. Nothing measured means anything yet."
            )
        case "direction", True:
            return "It rises when the probe is lifted."
        case "direction", False:
            return "It falls when the probe is lifted: turn “falls” over where the gauge is kept."
        case _, True:
            return f"Zero within {check.readings_um[0]:+.2f} µm, {allowed:.2f} allowed."
    shown = f"{check.readings_um[0]:+.2f} µm"
    return f"It shows {shown} at zero, {allowed:.2f} allowed: clean it, set it again, and try again."

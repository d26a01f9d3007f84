"""A wheel's log and where the wheel stands by it."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from zesty_lark.core.things.log import Folding, ThingEntry
from zesty_lark.core.things.rack.fold import WheelState, after
from zesty_lark.core.things.rack.mounting_steps import MOUNTING, MountingStep
from zesty_lark.core.wheel.balance import permissible


@dataclass(frozen=True)
class WheelSpec:
    """What the fold has to know beside the log.

    Attributes
    ----------
    steps : tuple of MountingStep
        What mounting this wheel takes.
    mass_g : float or None
        Of the wheel and its flange [g].
    rpm : mapping of machine to float
        The speeds of the shop's machines [rpm].
    """

    steps: tuple[MountingStep, ...] = MOUNTING
    mass_g: float | None = None
    rpm: Mapping[str, float] = field(default_factory=dict)

    def most_gmm(self, machine: str | None) -> float | None:
        """The unbalance that may be left on a machine [g·mm]; ``None`` when its mass or the speed is not known."""
        rpm = self.rpm.get(machine or "")
        return None if self.mass_g is None or rpm is None else permissible(mass_g=self.mass_g, wheel_rpm=rpm).most_gmm


class WheelFolding(Folding[ThingEntry, WheelSpec, WheelState]):
    """A wheel's log, folded as it grows: by the speed of the machine that it was last logged on."""

    def _begin(self) -> None:
        machine = next((entry.machine for entry in reversed(self.entries) if entry.machine is not None), None)
        self._most = self.spec.most_gmm(machine)
        self._now = WheelState(steps=self.spec.steps)

    def _take(self, entry: ThingEntry) -> None:
        self._now = after(self._now, entry, self._most)

    def _turns_back(self, entry: ThingEntry) -> bool:
        moved = entry.machine is not None and self.spec.most_gmm(entry.machine) != self._most
        return moved or super()._turns_back(entry)

    def _stood(self) -> WheelState:
        return replace(self._now, history=tuple(self.history))

"""A wheel's log and where the wheel stands: folded as it grows, each entry walked once, unless one takes something
back or the wheel comes to a machine of another speed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from zesty_lark.core.things.rack.entries import RackEntry, RackUndone
from zesty_lark.core.things.rack.fold import WheelState, after, holds
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


class WheelFolding:
    """A wheel's log, folded as it grows."""

    def __init__(self, spec: WheelSpec, entries: Sequence[RackEntry] = ()) -> None:
        self.spec = spec
        self.entries = list(entries)
        self._begin()

    def _begin(self) -> None:
        """Walk all of it: by the speed of the machine that it was last logged on."""
        self._machine = next((each.machine for each in reversed(self.entries) if each.machine is not None), None)
        self._most = self.spec.most_gmm(self._machine)
        self._history = holds(self.entries)
        self._now = WheelState(steps=self.spec.steps)
        for entry in self._history:
            self._now = after(self._now, entry, self._most)

    @property
    def last_seq(self) -> int:
        """The number of the newest entry; 0 for an empty log."""
        return self.entries[-1].seq if self.entries else 0

    def add(self, entry: RackEntry) -> None:
        """Add the entry that was logged next."""
        self.entries.append(entry)
        moved = entry.machine is not None and self.spec.most_gmm(entry.machine) != self._most
        if moved or isinstance(entry.what, RackUndone):
            self._begin()
        else:
            self._machine = entry.machine or self._machine
            self._history.append(entry)
            self._now = after(self._now, entry, self._most)

    def state(self) -> WheelState:
        """Return where the wheel stands now."""
        return replace(self._now, history=tuple(self._history))

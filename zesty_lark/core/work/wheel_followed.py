"""The wheel while the fold walks the log: what it has done since its last dress, and what a power meter saw of it."""

from dataclasses import replace
from decimal import Decimal

from zesty_lark.core.process.power_watch import PassPower
from zesty_lark.core.work.job_state import JobSpec
from zesty_lark.core.work.machine_acts import PassFed
from zesty_lark.core.work.wheel_use import Pass, WheelUse


class WheelFollowed:
    """The one wheel of a job, on its way through the log."""

    def __init__(self, spec: JobSpec) -> None:
        self.spec = spec
        self.use = WheelUse()
        self.powers: list[PassPower] = []
        self.idle_w = 0.0

    def cut(
        self,
        entry: PassFed,
        fed: tuple[Decimal, Decimal | None],
        table_mm_s: Decimal | None,
        *,
        took_mm: float,
        load: int,
    ) -> None:
        """It has cut what a pass takes of what was asked and left [mm], over a load of so many pieces."""
        facts, lying = self.spec.wheel, self.spec.lying_mm.get(entry.surface)
        if facts is None or lying is None or fed[1] is None or table_mm_s is None or took_mm <= 0:
            return
        made = Pass(took_mm, float(fed[1]), float(table_mm_s), lying[0] * max(1, load), lying[1])
        edge = self.use.edge_mm(facts)
        self.use = self.use.after(made, fed[0], facts)
        if entry.power_w is not None:
            volume = self.use.volume_mm3_mm
            power = PassPower(float(entry.power_w), took_mm, made.crossfeed_mm, made.table_mm_s, edge, volume)
            self.powers.append(power)

    def idles(self, power_w: Decimal | None) -> None:
        """In a pass without feed the meter showed this at the most [W]."""
        if power_w is not None:
            self.idle_w = float(power_w) if not self.idle_w else min(self.idle_w, float(power_w))

    def chamfered(self, chamfer_mm: Decimal | None) -> None:
        """Its leading edge was chamfered."""
        self.use = replace(self.use, chamfer_mm=float(chamfer_mm or 0))

    def dressed(self, kind: str) -> None:
        """It was dressed."""
        self.use, self.powers = WheelUse(dress=kind or "general"), []

    @property
    def is_worn(self) -> bool:
        """Whether its front has reached a third of its face."""
        return self.spec.wheel is not None and self.use.is_worn(self.spec.wheel)

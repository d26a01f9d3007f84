"""A run worked out once, and kept for the next who looks at it: the decision, and the chances of a way."""

from dataclasses import dataclass
from functools import lru_cache

from zesty_lark.core.landing.asked import Act, Run
from zesty_lark.core.landing.choose import chances_of
from zesty_lark.core.landing.decide import Decision, decide
from zesty_lark.core.landing.follow import follow
from zesty_lark.core.landing.worth import Chances

KEPT = 256


@dataclass(frozen=True)
class Landed:
    """What to do next; the greatest size as it should be cold and the cut ratio, each with its standard uncertainty
    [mm]; and how deep the wheel is set [mm]."""

    decision: Decision
    size_mm: float
    size_u_mm: float
    cut_ratio: float
    cut_ratio_u: float
    depth_mm: float

    @property
    def to_mm(self) -> float:
        """How deep the next stop is [mm]."""
        return max((act.to_mm for act in self.decision.acts if act.to_mm is not None), default=self.depth_mm)


@lru_cache(maxsize=KEPT)
def landed(run: Run) -> Landed:
    """Estimate a run and decide what comes next."""
    now = follow(run)
    greatest, ratio = now.cloud.size.max(axis=0), now.cloud.cut_ratio
    return Landed(
        decide(run, now),
        float(greatest.mean()),
        float(greatest.std()),
        float(ratio.mean()),
        float(ratio.std()),
        now.settings * run.setting_mm,
    )


@lru_cache(maxsize=KEPT)
def chances_until(run: Run, acts: tuple[Act, ...]) -> Chances:
    """Return what some acts come to, measured after them."""
    return chances_of(run, follow(run), acts)

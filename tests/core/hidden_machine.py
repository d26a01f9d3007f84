"""A grinder whose true figures its adviser is not told: what ``run.next`` is judged on."""

import math
import random
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from zesty_lark.core.calc import answer

MOST_CALLS = 40
DIALS = (0.001, 0.00127, 0.002, 0.00254, 0.005, 0.01, 0.0127, 0.02, 0.0254)


@dataclass
class HiddenMachine:
    """One part on one grinder; ``more`` are the faults beyond those the adviser reckons with."""

    dice: random.Random
    asked: dict[str, Any]
    more: bool = False
    true: dict[str, float] = field(default_factory=dict)
    acts: list[dict[str, Any]] = field(default_factory=list)
    stops: int = 0

    def __post_init__(self) -> None:
        dice, asked = self.dice, self.asked
        u, taper = asked["measure_u_mm"], asked["greatest_mm"] - asked["least_mm"]
        self.high = asked["greatest_mm"] + dice.gauss(0, u / 2)
        self.low = self.high - taper
        self.taper = taper
        self.cut_ratio = self.true.get("cut_ratio") or dice.uniform(0.3, 0.8)
        self.heat, self.wears = math.exp(dice.uniform(-0.69, 0.69)), math.exp(dice.uniform(-0.69, 0.69))
        self.force = dice.uniform(0, 0.0005)
        self.met = self.high + max(-0.009, min(0.009, dice.gauss(0, 0.003)))
        self.jumps = dice.random() < 0.2
        self.bias = dice.uniform(-1, 1) * u
        self.warm = self.worn = self.stays = self.dial = 0.0
        self.depth = 0.0
        self.dulled, self.dulls = 0.0, dice.uniform(0.1, 0.35) if self.more else 0.0
        self.grows = dice.uniform(0, 0.001) if self.more else 0.0
        self.dirt = 1 / 50

    def _figures(self, kind: str) -> Mapping[str, float]:
        figures: Mapping[str, float] = self.asked[kind]
        return figures

    def feed(self, kind: str, to: float, blank: bool) -> None:
        """One pass, or one without feed."""
        figures, dice = self._figures(kind), self.dice
        if to != self.depth:
            self.dial = dice.gauss(0, self.asked["graduation_mm"] / 10)
            self.stays = dice.uniform(0, 0.0025) if self.jumps and dice.random() < 1 / 8 else 0.0
            self.stays = min(self.stays, to - self.depth)
        self.depth = to
        self.warm = self.warm * self.asked["rise_kept"] + figures["rise_c"] * self.heat * (0.3 if blank else 1)
        larger = 11.5e-6 * self.asked["goal_mm"] * self.warm
        wheel = self.met - to + self.worn + self.dial + self.stays
        if self.more:  # the spindle grows down as it warms, and the taper drifts
            self.met -= self.grows * 0.05
            self.taper += dice.gauss(0, 0.00005)
        wipes = max(1, math.floor(self.asked["wheel_width_mm"] / figures["crossfeed_mm"] + 1e-9))
        share = 1 - (1 - self.cut_ratio * (1 - self.dulled)) ** wipes
        took = share * max(0.0, self.high + larger - wheel - self.force)
        self.high -= took
        self.low = min(self.low, self.low - share * max(0.0, self.low + larger - wheel + self.taper - self.force))
        self.worn += figures["wear_mm"] * self.wears * took / figures["step_mm"]
        self.dulled += 0.1 * (self.dulls - self.dulled)

    def act(self, act: dict[str, Any]) -> None:
        """Do what is advised."""
        name, done = act["act"], dict(act)
        if name in ("pass", "spark_out"):
            self.feed(act["kind"], act["to_mm"], name == "spark_out")
        elif name == "dress":
            half = self.asked["graduation_mm"] / 2
            self.met += self.dice.gauss(0, 0.0015) + self.dice.uniform(-half, half)
            self.dulled = 0.0
        elif name == "cool":
            self.warm = 0.0
        elif name == "approach":
            self.stays = 0.0
        elif name == "measured":
            done |= self.read()
        self.acts.append(done)

    def read(self) -> dict[str, float]:
        """One reading: the gauge's own error, what is new each time, and dirt now and then."""
        u = self.asked["measure_u_mm"]
        dirt = self.dice.uniform(0.003, 0.010) if self.dice.random() < self.dirt else 0.0
        warm = 11.5e-6 * self.asked["goal_mm"] * self.warm
        both = sorted(
            each + warm + self.bias + dirt + self.dice.gauss(0, 0.7 * u)
            for each in (self.high, min(self.low, self.high))
        )
        return {"greatest_mm": round(both[1], 6), "least_mm": round(both[0], 6)}

    def run(self) -> dict[str, Any]:
        """Do only what is advised until it ends; return the last answer with the chances that were told on the way."""
        told: list[tuple[float, float, bool, bool]] = []
        for _ in range(MOST_CALLS):
            answered = answer("run.next", self.asked | {"acts": self.acts})
            if told:
                told[-1] = (*told[-1][:2], answered["end"] == "in", told[-1][3])
            if answered["end"] is not None:
                return answered | {"told": told}
            for act in answered["acts"]:
                self.act(act)
            if any(act["act"] in ("pass", "spark_out") for act in answered["acts"]):
                told.append((answered["chance_in"], answered["chance_under"], False, self.under))
            self.stops += 1
        return {"end": None, "told": told}

    @property
    def under(self) -> bool:
        """Whether it is truly under the lower limit."""
        return self.low < self.asked["lower_mm"]

    @property
    def is_in(self) -> bool:
        """Whether it is truly inside the limits."""
        return self.asked["lower_mm"] <= self.low and self.high <= self.asked["upper_mm"]


def job(dice: random.Random, *, more: bool = False) -> HiddenMachine:
    """Return an ordinary job on an ordinary grinder."""
    zone = dice.uniform(0.004, 0.02)
    graduation = dice.choice([each for each in DIALS if each / 5 <= zone / 3])
    setting = next(graduation / parts for parts in (1, 2, 5) if graduation / parts <= zone / 3)
    goal = dice.uniform(8, 60)
    side = dice.choice((0.0, 0.5, 1.0))
    lower = goal - zone * side
    stock, taper = math.exp(dice.uniform(math.log(0.02), math.log(0.3))), dice.uniform(0, 0.002)
    middle = lower + zone / 2
    asked = {
        "goal_mm": round(middle, 6),
        "lower_mm": round(lower, 6),
        "upper_mm": round(lower + zone, 6),
        "greatest_mm": round(middle + stock, 6),
        "least_mm": round(middle + stock - taper, 6),
        "graduation_mm": graduation,
        "setting_mm": setting,
        "wheel_width_mm": 12.7,
        "rough": {
            "step_mm": max(setting, dice.choice((0.0127, 0.0254, 0.02))),
            "crossfeed_mm": dice.uniform(1, 8),
            "rise_c": dice.uniform(0, 3),
            "wear_mm": dice.uniform(0, 0.002),
        },
        "finish": {
            "step_mm": max(setting, dice.choice((0.00508, 0.005, 0.00254))),
            "crossfeed_mm": dice.uniform(1, 4),
            "rise_c": dice.uniform(0, 1),
            "wear_mm": dice.uniform(0, 0.0004),
        },
        "rise_kept": 0.7,
        "measure_u_mm": round(max(0.0002, zone * dice.uniform(0.03, 0.08)), 6),
        "prior": {"cut_ratio": 0.6, "cut_ratio_u": 0.12},
    }
    return HiddenMachine(dice, asked, more)

"""Whole runs, following what the screens ask for and nothing else, on a grinder and a gauge that have truths of their
own."""

import random
from collections import Counter
from dataclasses import dataclass, field, replace
from decimal import Decimal

import pytest

from tests.core.test_route import BLOCK, MEANS, SHARING, SHOP
from tests.core.worklog import entry, spec
from zesty_lark.core.measure.next_cut import next_cut
from zesty_lark.core.measure.thickness import Gauge, expanded_uncertainty, judge, temperature_u
from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading, Size
from zesty_lark.core.part.surfaces.block_face import pair_stock
from zesty_lark.core.part.surfaces.part import PairSize
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.planned import plan_route
from zesty_lark.core.squaring.release import Situation, plan_steps
from zesty_lark.core.squaring.remaining import ends_at, keeps_wheel_height, stock_on
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.entry import Entry, Kind
from zesty_lark.core.work.folding import stand
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import Planned
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.plans import FEEDS
from zesty_lark.core.work.rules import addressed, check_entry

D = Decimal
GRADUATION = D("0.00254")
GAUGE = Gauge(D("0.001"), D("0.001"), D("0.0008"), D("0.0004"))
PLACES = ("front left", "front right", "middle", "back left", "back right")
MOST_ACTS = 400


@dataclass
class Grinder:
    """The truth: thickness [mm], what the springs hold back, the share a pass really takes, how fast the wheel
    wears."""

    chance: random.Random
    thickness: float
    left: float = 0.0
    wheel_lost: float = 0.0
    eta: float = 0.6
    wear: float = 0.0

    def cut(self, step: float, overlaps: int) -> None:
        asked = step * (1 - self.wear) + self.left
        self.left = asked * (1 - self.eta) ** overlaps
        self.thickness -= asked - self.left

    def read(self, offset: float) -> list[Decimal]:
        """Five places of a face, by a gauge with an error of its own and scatter, to its resolution."""
        return [
            (
                D(repr(self.thickness + offset - self.chance.uniform(0, 0.0006) + self.chance.gauss(0, 0.0004)))
                / D("0.001")
            ).quantize(D(1))
            * D("0.001")
            for _ in PLACES
        ]


@dataclass
class Run:
    """One run of the second face from a plan to an answer."""

    size: Size
    seed: int
    entries: list[Entry] = field(default_factory=list)

    def __post_init__(self) -> None:
        chance = random.Random(self.seed)
        self.block = replace(
            BLOCK,
            sizes={
                **BLOCK.sizes,
                "thickness": PairSize(
                    self.size.target_mm, self.size.tol_minus_mm, self.size.tol_plus_mm, D("22.262"), D("22.214")
                ),
            },
        )
        self.pair = pair_stock(self.block, "thickness", SHARING["thickness"])
        self.spec = spec(
            Characteristic("thickness", "size", (2, 1), self.size), came={1: FaceState.CLEANED}, heights=("22.216",)
        )
        self.grinder = Grinder(chance, 22.216, eta=chance.uniform(0.45, 0.75), wear=chance.uniform(0, 0.03))
        self.gauge_off = chance.gauss(0, 0.0006)
        self.choice = RouteChoices()

    @property
    def now(self) -> JobState:
        return stand(self.spec, self.entries)

    def log(self, kind: Kind, **more: object) -> None:
        made = addressed(entry(kind, len(self.entries) + 1, surface=2, **more), self.now)
        check_entry(made, self.now)
        self.entries.append(made)

    def to_the_end(self) -> str:
        """Follow the screens; return how it ended."""
        for _ in range(MOST_ACTS):
            act = next_act(self.now).act
            if act in ("close", "stopped", "lead"):
                return {"close": "in", "stopped": "under", "lead": "lead"}[act]
            if act == "measure_again" and self._cut_offered() == "take":
                act = "plan"
            self._do(act)
        return "loops"

    def _do(self, act: str) -> None:
        face = self.now.runs[2]
        step = face.next_step
        if act == "plan":
            self._plan()
        elif act in ("measure", "measure_again"):
            self._measure()
        elif act == "pass":
            assert step is not None
            self.log(Kind.PASS, reading_mm=face.next_reading_mm)
            self.grinder.cut(float(step.step_mm), max(1, int(12.7 / float(step.crossfeed_mm or 12.7))))
        elif act in ("no_feed", "spark-out"):
            assert step is not None
            self.log(Kind.SPARK_OUT, count=1)
            self.grinder.cut(0.0, max(1, int(12.7 / float(step.crossfeed_mm or 12.7))))
        elif act == "touch_off":
            self.log(Kind.TOUCHED_OFF, reading_mm=D(0))
            self.grinder.left = 0.0
        elif act == "dress":
            self.log(Kind.DRESSED, amount_mm=D("0.02"))
        elif act == "place":
            self.log(Kind.PLACED)
        else:
            assert step is not None
            self.log(Kind.DONE, step=step.number)

    def _judged(self):  # type: ignore[no-untyped-def]
        last = next(each for each in reversed(self.entries) if isinstance(each, Measured))
        return judge(last.readings, self.size, last.uncertainty_mm, goal_mm=self.pair.ends_at_mm)

    def _cut(self):  # type: ignore[no-untyped-def]
        face = self.now.runs[2]
        return next_cut(
            self._judged(), self.size, ends_at(self.pair, reference=False), GRADUATION, held_back_mm=face.held_back_mm
        )

    def _cut_offered(self) -> str:
        return str(self._cut().what)

    def _plan(self) -> None:
        now = self.now
        face = now.runs[2]
        goes_on = keeps_wheel_height(face, now)
        left = self._cut().amount_mm if face.proofs else stock_on(face, now, ends_at(self.pair, reference=False))
        made = plan_route(
            self.block,
            self.choice,
            MEANS,
            SHOP,
            sharing=SHARING,
            done=(1,),
            left_mm={2: left},
            carries_on=(2,) if goes_on else (),
        ).faces[2]
        steps = plan_steps(
            made,
            Situation(
                GRADUATION,
                self.size.width_mm,
                carries_on=goes_on,
                is_up=now.surface_up == 2,
                stops_once_more=float(self.size.width_mm) <= 0.006,
                finish_dressed=made.plan is not None and now.dressed == made.plan.finish_dress,
                held_back_mm=face.held_back_mm,
            ),
        )
        self.log(Kind.PLANNED, plan=steps)

    def _measure(self) -> None:
        face, values = self.now.runs[2], self.grinder.read(self.gauge_off)
        plan = face.plan
        cooled = plan is None or any(step.kind == "cool" for step in plan.steps[: face.done])
        rise = 0.0 if cooled or plan is None else float(plan.rise_c)
        u = expanded_uncertainty(GAUGE, 22, temperature_u_c=temperature_u(taken=False, rise_c=rise))
        readings = tuple(Reading(place, value) for place, value in zip(PLACES, values, strict=True))
        verdict = judge(readings, self.size, u, goal_mm=self.pair.ends_at_mm).verdict
        self.log(Kind.MEASURED, readings=readings, uncertainty_mm=u, verdict=verdict)


ZONES = {"22 ±0.005": ("0.005", "0.005"), "22 +0/−0.010": ("0.010", "0"), "22 +0.010/−0": ("0", "0.010")}


@pytest.mark.parametrize("zone", ZONES)
def test_following_the_screens_ends_in_the_zone_and_never_loops(zone: str) -> None:
    """Forty runs each: as many end "in" whichever side the tolerance lies on, none loops, and what is called in is
    in."""
    size = Size(D(22), *(D(each) for each in ZONES[zone]))
    ends: Counter[str] = Counter()
    for seed in range(40):
        run = Run(size, seed)
        end = run.to_the_end()
        ends[end] += 1
        if end == "in":
            assert float(size.lower_mm) - 1e-4 <= run.grinder.thickness <= float(size.upper_mm) + 1e-4, seed
        asked = [each.plan.stock_mm for each in run.entries if isinstance(each, Planned)]
        assert asked == sorted(asked, reverse=True), "each plan has less to take than the one before"
    assert ends["loops"] == 0 and ends["under"] == 0 and ends["in"] >= 38, ends


def test_a_tight_zone_ends_too_and_says_when_it_has_no_answer() -> None:
    ends = Counter(Run(Size(D(22), D("0.003"), D("0.003")), seed).to_the_end() for seed in range(20))
    assert ends["loops"] == 0 and ends["under"] == 0 and ends["in"] >= 10 and ends["in"] + ends["lead"] == 20, ends


def test_every_run_does_what_its_plan_rests_on() -> None:
    """The first pass has no feed, a stop comes before the size, and a wheel is dressed before the finish."""
    run = Run(Size(D(22), D("0.005"), D("0.005")), 3)
    run.to_the_end()
    kinds = [entry.kind for entry in run.entries]
    first = kinds.index(Kind.PASS)
    assert kinds[first - 1] is Kind.SPARK_OUT and kinds[first - 2] is Kind.TOUCHED_OFF and Kind.DRESSED in kinds[:first]
    measured = kinds.index(Kind.MEASURED)
    stop = stand(run.spec, run.entries[: measured + 1]).runs[2]
    assert stop.next_step is not None and any(
        step.kind in FEEDS for step in (stop.plan.steps[stop.done :] if stop.plan else ())
    )
    seen = run.entries[measured]
    assert isinstance(seen, Measured)
    assert seen.greatest_mm - D(22) > D("0.02") and Kind.DRESSED in kinds[measured:]

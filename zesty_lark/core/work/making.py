"""A piece and a run while the fold walks the log."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import ROUND_DOWN, Decimal

from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.part.prints import SIZES
from zesty_lark.core.part.sizes import Verdict, growth
from zesty_lark.core.part.surfaces.surface import Surface
from zesty_lark.core.process.springs import kept_share, overlaps_of, still_left
from zesty_lark.core.quantities.units import SMALLEST_MM
from zesty_lark.core.work.entries import Measured, PieceEnd, Waived
from zesty_lark.core.work.entry import Place
from zesty_lark.core.work.job_state import JobSpec, PieceSize, PieceState, is_ready, is_wanted
from zesty_lark.core.work.observing import after_step, dress_like, observed, put_in
from zesty_lark.core.work.plans import PlanStep, PlanSteps
from zesty_lark.core.work.run import NOTHING, Proof, Run


@dataclass
class PieceMaking:
    """One piece on its way through the log."""

    number: int
    states: dict[int, FaceState]
    sizes: dict[str, PieceSize]
    done: set[int] = field(default_factory=set)
    verdicts: dict[str, Verdict] = field(default_factory=dict)
    waived: dict[str, Waived] = field(default_factory=dict)
    end: PieceEnd | None = None

    @classmethod
    def taken_in(cls, number: int, sizes: Mapping[str, Decimal], states: Mapping[int, FaceState]) -> "PieceMaking":
        """A piece as it came in."""
        return cls(number, dict(states), {name: PieceSize(mm, False, mm) for name, mm in sizes.items()})

    def wants(self, surface: Surface) -> bool:
        """Whether a surface is still to be ground."""
        return self.end is None and surface.number not in self.done and is_wanted(surface, self.states)

    def ready_for(self, surface: Surface) -> bool:
        """Whether a surface can be ground now."""
        return is_ready(surface, self.states)

    def cut(self, surface: Surface, to_mm: Decimal) -> None:
        """The wheel went to where the size would be this [mm]; where it is past that already, nothing came off."""
        known = self.sizes[surface.size]
        now = (max if surface.grows else min)(known.by_collar_mm, to_mm)
        self.sizes[surface.size] = PieceSize(known.mm, known.measured, now, surface.per_feed)

    def area_mm2(self, size: str) -> Decimal:
        """The face over which a size of the block is ground: the product of the other two [mm²]; of others none."""
        area = Decimal(1)
        for name in SIZES:
            area *= Decimal(1) if name == size or name not in self.sizes else self.sizes[name].mm
        return area if size in SIZES else NOTHING

    def measured(self, surface: Surface, entry: Measured) -> None:
        """What was measured counts from now on: the place with the most on."""
        mm = surface.furthest((entry.greatest_mm, entry.least_mm))
        self.sizes[surface.size] = PieceSize(mm, True, mm, surface.per_feed)

    def frozen(self) -> PieceState:
        """It as it stands."""
        return PieceState(
            self.number,
            dict(self.states),
            frozenset(self.done),
            dict(self.sizes),
            dict(self.verdicts),
            dict(self.waived),
            self.end,
        )


@dataclass
class RunMaking:
    """A load with one surface up, on its way through the log."""

    place: Place
    plan: PlanSteps | None = None
    touched_off: bool = False
    offset: Decimal = NOTHING
    depth: Decimal = NOTHING
    done: int = 0
    left: float = 0.0
    fed: bool = False
    proofs: dict[int, Proof] = field(default_factory=dict)
    skipped: list[int] = field(default_factory=list)
    dressed_at: list[Decimal] = field(default_factory=list)
    measured_at: list[Decimal] = field(default_factory=list)
    fed_since: Decimal = NOTHING
    passes: list[tuple[Decimal, Decimal | None]] = field(default_factory=list)
    told: bool = False
    seen: list[tuple[str, str]] = field(default_factory=list)
    clean: bool | None = None
    died: bool = False
    fresh: bool = False
    asks: tuple[str, ...] = ()

    def begin(self, plan: PlanSteps) -> None:
        """A plan starts from where the wheel stands, or from a touch-off still to come."""
        if plan.keeps_wheel_height:
            self.offset += self.depth
        else:
            self.touched_off, self.left = False, 0.0
        self.plan, self.depth, self.done, self.fed = plan, NOTHING, 0, False
        self.told, self.proofs = self.told or bool(self.proofs), {}
        self.skipped, self.dressed_at, self.measured_at = [], [], []
        self.seen, self.clean, self.died = [], None, False

    def advance(self, *kinds: str) -> PlanStep | None:
        """Go past the next step if it is of one of these kinds; return it."""
        if self.plan is not None and self.done < len(self.plan.steps) and self.plan.steps[self.done].kind in kinds:
            self.done += 1
            return self.plan.steps[self.done - 1]
        return None

    def observe(self, seen: str, side: str, *, only_clean: bool, spare_mm: Decimal) -> None:
        """Something was seen or heard: what is left of the plan follows it."""
        if self.plan is None:
            return
        before = sum(each == seen for each, _ in self.seen)
        self.seen.append((seen, side))
        if seen in ("clean", "patch"):
            self.clean = seen == "clean"
        self.died = self.died or seen == "died"
        self.plan = observed(
            self.plan,
            self.done,
            seen,
            side,
            fed=self.fed,
            before=before,
            only_clean=only_clean or self.plan.until_clean,
            most_mm=self.plan.stock_mm + spare_mm,
        )

    def follow(self) -> None:
        """After a pass: where the plan has no fixed end, there may be another."""
        if self.plan is not None:
            self.plan = after_step(
                self.plan, self.done, clean=bool(self.clean), died=self.died, most_mm=self.plan.stock_mm
            )

    def dress_next(self) -> None:
        """A dress comes before anything else of the plan."""
        if self.plan is not None and (self.done >= len(self.plan.steps) or self.plan.steps[self.done].kind != "dress"):
            self.plan = put_in(self.plan, self.done, dress_like(self.plan, self.done))

    def crossfeed(self) -> Decimal | None:
        """The crossfeed of the pass that comes next, else of the one before."""
        steps = self.plan.steps if self.plan else ()
        return next(
            (
                step.crossfeed_mm
                for step in (*steps[self.done :], *reversed(steps[: self.done]))
                if step.crossfeed_mm is not None
            ),
            None,
        )

    def settings(self) -> Decimal | None:
        """The table speed of the pass that comes next, else of the one before [mm/s]."""
        steps = self.plan.steps if self.plan else ()
        near = (*steps[self.done :], *reversed(steps[: self.done]))
        return next((step.table_mm_s for step in near if step.table_mm_s is not None), None)

    def feed(self, reading_mm: Decimal, spec: JobSpec) -> Decimal:
        """Go down to a reading; return by how much [mm]."""
        depth = reading_mm - self.offset
        step = depth - self.depth
        self._wipe(step, spec)
        self.fed_since += step
        self.depth, self.fed, self.died = depth, True, False
        return step

    def spark_out(self, spec: JobSpec) -> None:
        """A pass without feed."""
        self._wipe(NOTHING, spec)

    def _wipe(self, step: Decimal, spec: JobSpec) -> None:
        """The springs follow each pass with its own crossfeed; what was measured before it counts no longer."""
        if self.told or self.proofs:
            self.told, self.proofs, self.passes, self.fed_since = False, {}, [], NOTHING
        crossfeed = self.crossfeed()
        overlaps = 1 if crossfeed is None else overlaps_of(spec.wheel_width_mm, float(crossfeed))
        self.left = still_left(self.left, float(step), kept_share(spec.cut_ratio, overlaps))
        self.passes.append((step, crossfeed))

    @property
    def held_back(self) -> Decimal:
        """What the springs still hold back [mm]."""
        return Decimal(repr(round(self.left, 9))).quantize(SMALLEST_MM, ROUND_DOWN)

    def grown(self, size_mm: Decimal) -> Decimal:
        """How much larger a size is while it is ground, as warm as the plan has it [mm]."""
        if self.plan is None:
            return NOTHING
        return Decimal(repr(round(growth(float(size_mm), float(self.plan.rise_c)), 7)))

    def frozen(self, pieces: tuple[int, ...]) -> Run:
        """It as it stands."""
        setup, load, surface = self.place
        return Run(
            setup,
            load,
            surface,
            pieces,
            self.plan,
            self.touched_off,
            self.offset,
            self.depth,
            self.done,
            self.held_back,
            self.fed,
            dict(self.proofs),
            tuple(self.skipped),
            tuple(self.dressed_at),
            tuple(self.measured_at),
            tuple(self.seen),
            self.clean,
            self.asks,
        )

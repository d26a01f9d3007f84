"""What is done at the machine, an entry type for each act."""

from dataclasses import dataclass
from decimal import Decimal

from zesty_lark.core.work.entry import AtMachine, Kind
from zesty_lark.core.work.plans import PlanSteps


@dataclass(frozen=True, kw_only=True)
class Planned(AtMachine):
    """A plan was released for a load, which is made by it: ``pieces`` are put up together."""

    kind = Kind.PLANNED
    plan: PlanSteps
    pieces: tuple[int, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Placed(AtMachine):
    """The load is up, this surface uppermost; ``asks`` is what its set-up wants looked at before the wheel touches."""

    kind = Kind.PLACED
    asks: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class TouchedOff(AtMachine):
    """The wheel met the highest piece of the load with the collar at this reading."""

    kind = Kind.TOUCHED_OFF
    reading_mm: Decimal


@dataclass(frozen=True, kw_only=True)
class PassFed(AtMachine):
    """A pass with the collar fed down to this reading, and the most that a power meter showed in it [W]."""

    kind = Kind.PASS
    reading_mm: Decimal
    power_w: Decimal | None = None


@dataclass(frozen=True, kw_only=True)
class SparkedOut(AtMachine):
    """Passes without feed, and the most that a power meter showed in them [W]."""

    kind = Kind.SPARK_OUT
    count: int = 1
    power_w: Decimal | None = None


@dataclass(frozen=True, kw_only=True)
class Dressed(AtMachine):
    """The wheel was dressed; what came off its radius, ``None`` when nobody knows."""

    kind = Kind.DRESSED
    amount_mm: Decimal | None = None


@dataclass(frozen=True, kw_only=True)
class StepDone(AtMachine):
    """A step of the plan that is only said to be done."""

    kind = Kind.DONE
    step: int


@dataclass(frozen=True, kw_only=True)
class StepSkipped(AtMachine):
    """A step of the plan that was not done; the note says why."""

    kind = Kind.SKIPPED
    step: int


@dataclass(frozen=True, kw_only=True)
class SurfaceDone(AtMachine):
    """The surface is done on these pieces; without any, on all of the load."""

    kind = Kind.SURFACE_DONE
    pieces: tuple[int, ...] = ()


class LeftMachine(AtMachine):
    """The load was taken off before it was done; the note says why."""

    kind = Kind.LEFT


@dataclass(frozen=True, kw_only=True)
class Prepared(AtMachine):
    """Something of the list before the touch-off was done, and what was felt or seen where that is asked; ``pieces``
    are those it was done to, without any all of the load."""

    kind = Kind.PREPARED
    item: str
    answer: str = ""
    pieces: tuple[int, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Observed(AtMachine):
    """What eyes and ears told at the machine, and on which side of the face."""

    kind = Kind.OBSERVED
    seen: str
    side: str = ""


@dataclass(frozen=True, kw_only=True)
class Halted(AtMachine):
    """A stop condition was seen: what, where the collar stood, and what the power meter showed [W]."""

    kind = Kind.HALTED
    seen: str
    reading_mm: Decimal | None = None
    power_w: Decimal | None = None


class WentOn(AtMachine):
    """After a stop the work goes on; the note says why it may."""

    kind = Kind.WENT_ON


class TakenOver(AtMachine):
    """The run is worked from another screen from now on."""

    kind = Kind.TAKEN_OVER

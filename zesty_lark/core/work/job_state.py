"""Where the work stands: everything the screens show of a job, derived from its log.

``fold`` works it out.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal
from itertools import islice

from zesty_lark.core.part.faces import AT_SIZE, FINISHED, FaceState
from zesty_lark.core.part.prints import Print
from zesty_lark.core.part.sizes import Verdict
from zesty_lark.core.part.surfaces.surface import FED, Surface
from zesty_lark.core.process.power_watch import PassPower
from zesty_lark.core.quantities.units import SMALLEST_MM
from zesty_lark.core.work.entries import PieceEnd, Waived
from zesty_lark.core.work.entry import Entry, Kind, Place
from zesty_lark.core.work.machine_acts import Halted
from zesty_lark.core.work.on_machine import OnMachine
from zesty_lark.core.work.plans import MAGNET
from zesty_lark.core.work.run import NOTHING, Run
from zesty_lark.core.work.setups import SetUp
from zesty_lark.core.work.wheel_use import WheelFacts, WheelUse

FIXED = frozenset({Kind.TAKEN_IN, Kind.AMENDED, Kind.HANDED_OVER, Kind.SIGNED_OFF, Kind.ZERO_LOST})
"""What undo never takes back."""


@dataclass(frozen=True)
class JobSpec:
    """What the fold and the rules need to know beside the log.

    Attributes
    ----------
    wanted : Print
    pieces : mapping of piece to mapping of size to Decimal
        The greatest of each size of each piece as it was taken in [mm].
    start_states : mapping of surface to FaceState
        How the surfaces came in.
    setups : tuple of SetUp
        The route.
    cut_ratio, wheel_width_mm : float
        η of one wipe on this machine, and the wheel's width [mm]: what a pass leaves to the springs.
    stops : tuple of str
        Why nothing may be planned, touched off or ground as things are: the wheel's speed, the wheel for this material.
    pulled : bool
        Whether a magnet holds this material at all.
    set_up_stops : mapping of set-up to str
        Why a set-up, as it was laid out, is not to be run.
    spare_mm : mapping of surface to Decimal
        How much more than its own share of the stock a reference may give until it is clean [mm]: what its opposite
        can do without.
    wheel : WheelFacts or None
        The wheel, where its use is to be followed.
    lying_mm : mapping of surface to (float, float)
        How long a piece lies along the travel and across it with a surface up [mm].
    """

    wanted: Print
    pieces: Mapping[int, Mapping[str, Decimal]]
    start_states: Mapping[int, FaceState]
    setups: tuple[SetUp, ...]
    cut_ratio: float = 0.6
    wheel_width_mm: float = 12.7
    stops: tuple[str, ...] = ()
    pulled: bool = True
    set_up_stops: Mapping[str, str] = field(default_factory=dict)
    spare_mm: Mapping[int, Decimal] = field(default_factory=dict)
    wheel: WheelFacts | None = None
    lying_mm: Mapping[int, tuple[float, float]] = field(default_factory=dict)


@dataclass(frozen=True)
class Shortfall:
    """Asked against got since the measurement before [mm], and the passes that were asked for: step and crossfeed each
    [mm]; what the springs held back then [mm], what came off the load [mm³], whether it began with a touch-off, and by
    how much the part was larger while it was ground, as warm as its plan has it [mm]."""

    at: datetime
    surface: int
    asked_mm: Decimal
    got_mm: Decimal
    passes: tuple[tuple[Decimal, Decimal | None], ...] = ()
    piece: int = 1
    held_back_mm: Decimal = NOTHING
    volume_mm3: Decimal = NOTHING
    fresh: bool = False
    grown_mm: Decimal = NOTHING

    @property
    def short_mm(self) -> Decimal:
        """What was asked and not got [mm]."""
        return self.asked_mm - self.got_mm


@dataclass(frozen=True)
class PieceSize:
    """A size of a piece: that with the most on as last measured, whether it was since it was taken in, the same as the
    collar has it with what was fed since [mm], and what it changes by for each length fed."""

    mm: Decimal
    measured: bool
    by_collar_mm: Decimal
    per_feed: Decimal = FED

    @property
    def asked_mm(self) -> Decimal:
        """What was fed off it since it was measured [mm]."""
        return self.feed_to(self.by_collar_mm)

    def feed_to(self, mm: Decimal) -> Decimal:
        """Return how much feed lies between what was measured and another size [mm]."""
        if self.per_feed == FED:
            return self.mm - mm
        return ((mm - self.mm) / self.per_feed).quantize(SMALLEST_MM)


def is_wanted(surface: Surface, states: Mapping[int, FaceState]) -> bool:
    """Whether a surface is to be ground as it is: a reference until it is clean, the other until it is to size."""
    return states[surface.number] not in (FINISHED if surface.reference else AT_SIZE)


def needed_by(surface: Surface) -> set[int]:
    """The surfaces that are finished before one is ground: what it stands on, is square to, or comes after."""
    on = () if surface.reference else (surface.opposite,)
    return {*surface.after, *on, *(() if surface.square_to is None else (surface.square_to,))}


def is_ready(surface: Surface, states: Mapping[int, FaceState]) -> bool:
    """Whether what a surface stands on, and what it is to be square to, have come far enough."""
    if any(states[each] not in FINISHED for each in needed_by(surface) if each in states):
        return False
    return not surface.reference or surface.square_to is not None or states[surface.opposite] is not FaceState.RAW


@dataclass(frozen=True)
class PieceState:
    """Where one piece stands.

    Attributes
    ----------
    states : mapping of surface to FaceState
    done : frozenset of int
        The surfaces that were declared done.
    sizes : mapping of size to PieceSize
    verdicts : mapping of characteristic to Verdict
        Those in force.
    waived : mapping of characteristic to Waived
    end : {"scrapped", "passed"} or None
        How a lead ended it.
    """

    number: int
    states: Mapping[int, FaceState]
    done: frozenset[int]
    sizes: Mapping[str, PieceSize]
    verdicts: Mapping[str, Verdict]
    waived: Mapping[str, Waived]
    end: PieceEnd | None = None

    def wants(self, surface: Surface) -> bool:
        """Whether a surface is still to be ground."""
        return self.end is None and surface.number not in self.done and is_wanted(surface, self.states)

    def ready_for(self, surface: Surface) -> bool:
        """Whether a surface can be ground now."""
        return is_ready(surface, self.states)

    def unproved(self, wanted: Print) -> list[str]:
        """The characteristics that neither have an "in" nor were waived, in the print's order; none for an ended
        piece."""
        if self.end is not None:
            return []
        return [
            characteristic.name
            for characteristic in wanted.characteristics
            if self.verdicts.get(characteristic.name) != "in" and characteristic.name not in self.waived
        ]

    def outcome(self, wanted: Print) -> str:
        """How it stands in a word: scrapped, passed, in, out, or "" while it is under way."""
        if self.end is not None:
            return self.end
        if "out" in {self.verdicts.get(name) for name in self.unproved(wanted)}:
            return "out"
        return "" if self.unproved(wanted) else "in"


@dataclass(frozen=True)
class JobState:
    """Where the job stands.

    Attributes
    ----------
    spec : JobSpec
    pieces : mapping of piece to PieceState
    setups : tuple of SetUp
        The route as it is now, what the log changed in it included.
    runs : mapping of surface to Run
        The run of each surface that is at work or came last; one that is still to come has no plan.
    up : Place or None
        What is up on the machine.
    at : Run or None
        The run that is at work or comes next; ``None`` when every surface is done.
    touches_chuck_mm : Decimal or None
        The collar's reading at which the wheel would touch the chuck; ``None`` when the wheel was changed, dressed by
        an unknown amount, or never measured under [mm].
    dressed : str
        Which dress the wheel has had as its plan asked, while no roughing pass has been run since; else empty.
    shortfalls : tuple of Shortfall
        Asked against got, oldest first.
    history : tuple of Entry
        The entries in force.
    last_seq : int
        The newest entry, in force or not; 0 for an empty log.
    signed_off : Entry or None
    halted : Halted or None
        The stop that the work stands still for, until it is gone on from with a reason.
    held : tuple of (str, str) or None
        Who works the run, and on which screen; ``None`` when nobody does.
    wheel_use : WheelUse
        What the wheel has done since its last dress.
    powers : tuple of PassPower
        The passes since then as a power meter saw them.
    idle_w : float
        The least the meter showed in a pass without feed [W].
    on : OnMachine or None
        What its machine knows; ``None`` where that was not asked.
    """

    spec: JobSpec
    pieces: Mapping[int, PieceState]
    setups: tuple[SetUp, ...]
    runs: Mapping[int, Run]
    up: Place | None
    at: Run | None
    touches_chuck_mm: Decimal | None
    dressed: str
    shortfalls: tuple[Shortfall, ...]
    history: tuple[Entry, ...]
    last_seq: int
    signed_off: Entry | None
    halted: Halted | None = None
    held: tuple[str, str] | None = None
    wheel_use: WheelUse = WheelUse()
    powers: tuple[PassPower, ...] = ()
    idle_w: float = 0.0
    on: OnMachine | None = field(default=None, compare=False)

    @property
    def undoable(self) -> Entry | None:
        """The entry that undo takes back; ``None`` when there is none, or the part is signed off."""
        return next(iter(self.undoables(1)), None)

    def undoables(self, most: int) -> tuple[Entry, ...]:
        """Return what one undo after another takes back, the next first."""
        if self.history and self.history[-1].kind is Kind.SIGNED_OFF:
            return ()
        return tuple(islice((entry for entry in reversed(self.history) if entry.kind not in FIXED), most))

    def held_elsewhere(self, screen: str) -> bool:
        """Whether the run is worked from another screen than this one."""
        return self.held is not None and bool(screen) and self.held[1] != screen

    def named(self, surface: int) -> str:
        """Return what a surface is called in a sentence."""
        known = self.spec.wanted.surfaces.get(surface)
        return f"face {surface}" if known is None else known.name

    def titled(self, surface: int) -> str:
        """Return what a surface is called at the beginning of one."""
        name = self.named(surface)
        return name[:1].upper() + name[1:]

    @property
    def surface(self) -> int | None:
        """The surface at work."""
        return None if self.at is None else self.at.surface

    @property
    def surface_up(self) -> int | None:
        """The surface that is up on the machine."""
        return None if self.up is None else self.up[2]

    def is_up(self, run: Run) -> bool:
        """Whether a run's load is up on the machine, its surface uppermost: by the log, and by the machine where it was
        asked."""
        return self.up == run.place and (self.on is None or self.on.is_up)

    @property
    def live(self) -> tuple[int, ...]:
        """The pieces that no lead has ended."""
        return tuple(number for number, piece in self.pieces.items() if piece.end is None)

    def state(self, surface: int) -> FaceState:
        """How far a surface has come on the piece that is furthest behind."""
        order = list(FaceState)
        numbers = self.live or tuple(self.pieces)
        return min((self.pieces[number].states[surface] for number in numbers), key=order.index)

    @property
    def states(self) -> dict[int, FaceState]:
        """The state of each surface."""
        return {surface: self.state(surface) for surface in self.spec.wanted.surfaces}

    def setup(self, key: str) -> SetUp | None:
        """Return a set-up of the route by its key."""
        return next((each for each in self.setups if each.key == key), None)

    def on_magnet(self, run: Run) -> bool:
        """Whether a run's pieces stand on the magnet itself."""
        setup = self.setup(run.setup)
        held = (setup is None or setup.on_magnet) and (run.plan is None or run.plan.holder == MAGNET)
        return held and self.spec.wanted.surfaces[run.surface].is_height

    def highest(self, run: Run) -> PieceSize | None:
        """Return the size, over what it stands on, of the piece that the wheel meets first; by the collar."""
        surface = self.spec.wanted.surfaces[run.surface]
        sizes = [self.pieces[number].sizes[surface.size] for number in run.pieces]
        return max(sizes, key=lambda each: each.by_collar_mm * -surface.per_feed, default=None)

    def touch_reading_mm(self, run: Run) -> Decimal | None:
        """The collar's reading at which the wheel meets the highest piece of a run; ``None`` when that is not known."""
        highest = self.highest(run)
        if self.touches_chuck_mm is None or highest is None or not self.on_magnet(run):
            return None
        return self.touches_chuck_mm - highest.mm if highest.measured and not highest.asked_mm else None

    @property
    def progress(self) -> tuple[int, int]:
        """How many of the route's surfaces are done, and how many there are."""
        surfaces = [surface for setup in self.setups if not setup.left_out for surface in setup.up]
        asked = self.spec.wanted.surfaces
        done = [
            surface
            for surface in surfaces
            if all(not self.pieces[number].wants(asked[surface]) for number in self.live)
        ]
        return len(done), len(surfaces)

    def unproved(self) -> list[tuple[int, str]]:
        """The pieces and characteristics that still need a verdict, in order."""
        return [(number, name) for number, piece in self.pieces.items() for name in piece.unproved(self.spec.wanted)]

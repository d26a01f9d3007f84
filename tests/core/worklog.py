"""A log for tests: entries one after another, each checked before it is added."""

from collections.abc import Sequence
from dataclasses import fields, replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Any

from zesty_lark.core.part.faces import ALL_FACES, AXIS, OPPOSITE, FaceState
from zesty_lark.core.part.prints import Characteristic, Print
from zesty_lark.core.part.shown_units import ShownUnits
from zesty_lark.core.part.sizes import Reading, Size
from zesty_lark.core.part.surfaces.block_face import block_surfaces
from zesty_lark.core.work.entries import ENTRY_TYPES
from zesty_lark.core.work.entry import Entry, Kind
from zesty_lark.core.work.folding import stand
from zesty_lark.core.work.job_state import JobSpec, JobState
from zesty_lark.core.work.next_act import next_act
from zesty_lark.core.work.plans import PlanStep, PlanSteps
from zesty_lark.core.work.rules import addressed, check_entry
from zesty_lark.core.work.run import Run
from zesty_lark.core.work.setups import SetUp

D = Decimal
BEGIN = datetime(2026, 3, 2, 8, tzinfo=UTC)
SIZE = Size(D(22), D("0.003"), D("0.003"))
SIZES = {"thickness": SIZE, "width": Size(D(54), D("0.05"), D("0.05")), "length": Size(D(88), D("0.05"), D("0.05"))}
CAME = {"thickness": D("22.262"), "width": D("54.26"), "length": D("88.31")}
UNITS = ShownUnits(
    "mm", "in", D("0.00254"), kinds={"parallel": "parallel", "square": "square", "flat": "flat", "finish": "finish"}
)
PAIR = (SetUp("1", (1,), 2), SetUp("2", (2,), 1))
SIDES = (SetUp("3+4", (3, 4), 5, on_magnet=False), SetUp("5", (5,), 3), SetUp("6", (6,), 4))


def zone(name: str, surfaces: tuple[int, ...], allowed: str) -> Characteristic:
    """Something that only has an upper limit."""
    return Characteristic(name, name, surfaces, Size(D(0), D(0), D(allowed)))  # type: ignore[arg-type]


def size(axis: str, references: Sequence[int] = (1, 3, 4)) -> Characteristic:
    """A size of the block, from its reference to the other side."""
    reference = next(face for face in references if AXIS[face] == axis)
    return Characteristic(axis, "size", (OPPOSITE[reference], reference), SIZES[axis])


def spec(
    *characteristics: Characteristic,
    pieces: int = 1,
    setups: tuple[SetUp, ...] = PAIR,
    came: dict[int, FaceState] | None = None,
    heights: Sequence[str] = (),
    **more: Any,
) -> JobSpec:
    """A job of a block like the thrust pad; heights are the pieces' thicknesses as they came."""
    sizes = {
        number: CAME | ({"thickness": D(heights[number - 1])} if heights else {}) for number in range(1, pieces + 1)
    }
    return JobSpec(
        Print(block_surfaces((1, 3, 4)), characteristics or (size("thickness"),)),
        sizes,
        {face: FaceState.STABLE for face in ALL_FACES} | (came or {}),
        setups,
        **more,
    )


BRIEF = spec()


def steps(*sizes: str) -> tuple[PlanStep, ...]:
    """Feeds of these sizes; a word in their place is a step of that kind."""
    depth, made = D(0), []
    for number, each in enumerate(sizes, start=1):
        word = each[0].isalpha()
        depth += D(0) if word else D(each)
        made.append(
            PlanStep(
                number,
                each if word else "rough",
                D(0) if word else D(each),
                depth,  # type: ignore[arg-type]
                D("12.7"),
                D(350),
            )
        )
    return tuple(made)


def plan(surface: int, *sizes: str, keeps: bool = False, spark_outs: int = 1, **more: Any) -> PlanSteps:
    """A plan of these feeds, and spark-outs after them."""
    made = steps(*sizes, *["spark-out"] * spark_outs)
    stock = sum((step.step_mm for step in made), D(0)) + D("0.001")
    return PlanSteps(7, surface, "light", stock, D("0.001"), made, keeps, **more)


def entry(kind: Kind, number: int = 1, **more: Any) -> Entry:
    """An entry of a kind; of what is given it takes what its kind has."""
    known = {field.name for field in fields(ENTRY_TYPES[kind])}
    given = {name: value for name, value in more.items() if name in known}
    return ENTRY_TYPES[kind](
        entry_id=f"entry-{number}", at=BEGIN + timedelta(minutes=number), by="bryn", seq=number, **given
    )


class Log:
    """Entries one after another, each checked before it is added."""

    def __init__(self, of: JobSpec = BRIEF) -> None:
        self.entries: list[Entry] = []
        self.spec = of

    def add(self, kind: Kind, surface: int | None = 1, **more: Any) -> Entry:
        """Add an entry, or refuse it."""
        made = addressed(entry(kind, len(self.entries) + 1, surface=surface, **more), self.now)
        check_entry(made, self.now)
        self.entries.append(made)
        return made

    @property
    def now(self) -> JobState:
        """Where it stands."""
        return stand(self.spec, self.entries)

    @property
    def next(self) -> str:
        """What comes next."""
        return next_act(self.now).act

    def run(self, surface: int = 1) -> Run:
        """The run of a surface."""
        return self.now.runs[surface]

    def asked(self, surface: int = 1) -> Decimal:
        """What was fed down off the highest piece of a surface's run since it was measured."""
        highest = self.now.highest(self.run(surface))
        assert highest is not None
        return highest.asked_mm

    def measure(
        self, surface: int, *values: str, verdict: str | None = None, of: str = "thickness", piece: int = 1
    ) -> Entry:
        """Log a measurement."""
        return self.add(
            Kind.MEASURED,
            surface,
            readings=tuple(Reading(f"p{n}", D(v)) for n, v in enumerate(values)),
            uncertainty_mm=D("0.001"),
            verdict=verdict,
            characteristic=of,
            piece=piece,
        )

    def undo(self) -> None:
        """Take the last act back."""
        last = self.now.undoable
        assert last is not None
        self.add(Kind.UNDONE, None, supersedes=last.entry_id)

    def in_seq(self) -> list[Entry]:
        """The entries, numbered."""
        return [replace(each, seq=number) for number, each in enumerate(self.entries, start=1)]


def started(*sizes: str, of: JobSpec = BRIEF) -> Log:
    """A log with face 1 planned, up and touched off."""
    log = Log(of)
    log.add(Kind.PLANNED, plan=plan(1, *(sizes or ("0.02", "0.02", "0.005"))))
    log.add(Kind.PLACED)
    log.add(Kind.TOUCHED_OFF, reading_mm=D("0.1"))
    return log

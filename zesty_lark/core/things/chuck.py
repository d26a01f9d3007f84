"""A chuck's log: the grinding of the chuck itself, step after step, each grinding with its number of passes."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal, get_args

from annotated_types import Ge
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.quantities.kept_types import STRICT
from zesty_lark.core.things.log import Folding, Said, ThingEntry, ThingError, ThingNote, ThingUndone, check_undone

StepName = Literal[
    "fence off",
    "cleaned",
    "reseated",
    "film",
    "magnet on",
    "dress",
    "pass",
    "spark-out",
    "mapped",
    "fence on",
    "fence ground",
]
STEP_NAMES: tuple[StepName, ...] = get_args(StepName)
OPENING: tuple[StepName, ...] = ("fence off", "cleaned", "reseated", "film", "magnet on")
CLOSING: tuple[StepName, ...] = ("spark-out", "mapped", "fence on", "fence ground")
Film = Literal["full", "partly", ""]


@checked(frozen=True, kw_only=True, config=STRICT)
class ChuckStepDone(Said):
    """A step of grinding the chuck was done; ``answer`` is how the film showed the contact, ``passes`` how many light
    cuts this grinding takes."""

    kind: ClassVar[str] = "step"
    step: StepName
    answer: Film = ""
    passes: Annotated[int, Ge(1)]


CHUCK_ENTRIES: tuple[type[Said], ...] = (ChuckStepDone, ThingNote, ThingUndone)


@dataclass(frozen=True)
class ChuckStep:
    """A step of grinding a chuck: its name in the log, and what is done."""

    name: StepName
    words: str


CHUCK_STEPS: dict[StepName, ChuckStep] = {
    each.name: each
    for each in (
        ChuckStep("fence off", "Take the fence off."),
        ChuckStep("cleaned", "Clean the chuck's body and the table; stone both, feel for burrs."),
        ChuckStep("reseated", "Seat the chuck again and bolt it down evenly."),
        ChuckStep("film", "Check the contact with a marking film: full contact under all the holding points."),
        ChuckStep("magnet on", "Switch the magnet on, as it is when it holds."),
        ChuckStep("dress", "Dress the wheel: mixed iron and brass load it, so before every pass."),
        ChuckStep("pass", "One light cut over the whole chuck, coolant on."),
        ChuckStep("spark-out", "Spark out: passes without feed until the sparks die."),
        ChuckStep("mapped", "Map it again, in the machine's frame."),
        ChuckStep("fence on", "Fit the fence again."),
        ChuckStep("fence ground", "Grind the fence in place, last."),
    )
}


@dataclass(frozen=True)
class ChuckGrinding:
    """Where the grinding of a chuck stands.

    Attributes
    ----------
    number : int
        The first that is logged is 1.
    passes : int
        Light cuts that it takes.
    done : tuple of ThingEntry
        Its steps that hold, oldest first.
    """

    number: int
    passes: int
    done: tuple[ThingEntry, ...] = ()

    @property
    def steps(self) -> list[ChuckStepDone]:
        """What was done, oldest first."""
        return [entry.what for entry in self.done if isinstance(entry.what, ChuckStepDone)]

    @property
    def passes_done(self) -> int:
        """How many of its passes are done."""
        return sum(step.step == "pass" for step in self.steps)

    @property
    def held_up(self) -> str:
        """Why it does not go on as usual; empty when it does."""
        return "The film showed part contact only: seat it again." if self._film == "partly" else ""

    @property
    def _film(self) -> str:
        return next((step.answer for step in reversed(self.steps) if step.step == "film"), "")

    @property
    def next(self) -> ChuckStep | None:
        """The step that comes next, every pass with its own dress before it; ``None`` when it is finished."""
        done = [step.step for step in self.steps]
        if self._film == "partly":
            last = len(done) - done[::-1].index("film")
            return CHUCK_STEPS[_first_missing(OPENING[1:4], done[last:]) or "film"]
        opening = _first_missing(OPENING, done)
        if opening:
            return CHUCK_STEPS[opening]
        if self.passes_done < self.passes:
            return CHUCK_STEPS["dress" if done.count("dress") <= self.passes_done else "pass"]
        closing = _first_missing(CLOSING, done)
        return CHUCK_STEPS[closing] if closing else None


def _first_missing(order: Sequence[StepName], done: Sequence[StepName]) -> StepName | None:
    return next((name for name in order if name not in done), None)


@dataclass(frozen=True)
class ChuckState:
    """Where a chuck stands: its newest grinding, ``None`` when it was never ground here, and what holds of its log,
    oldest first."""

    grinding: ChuckGrinding | None = None
    history: tuple[ThingEntry, ...] = ()

    def after_step(self, passes: int) -> ChuckGrinding:
        """Return the grinding that the next step belongs to: the one that is going on, else a new one with so many
        passes."""
        if self.grinding is not None and self.grinding.next is not None:
            return self.grinding
        return ChuckGrinding(1 if self.grinding is None else self.grinding.number + 1, passes)

    def being_ground(self, name: str) -> str:
        """Why nothing goes up on the chuck, by its name, while it is ground itself; empty when it may."""
        due = None if self.grinding is None else self.grinding.next
        return "" if due is None else f"{name} is being ground itself: {due.words} Finish that first."


class ChuckFolding(Folding[ThingEntry, None, ChuckState]):
    """A chuck's log, folded as it grows."""

    def _begin(self) -> None:
        self._now = ChuckState()

    def _take(self, entry: ThingEntry) -> None:
        if isinstance(entry.what, ChuckStepDone):
            going = self._now.after_step(entry.what.passes)
            self._now = ChuckState(ChuckGrinding(going.number, going.passes, (*going.done, entry)))

    def _stood(self) -> ChuckState:
        return ChuckState(self._now.grinding, tuple(self.history))


def check_chuck_entry(entry: ThingEntry, now: ChuckState) -> None:
    """Refuse what cannot be.

    Raises
    ------
    ThingError
        If another step comes first, the film's answer is missing, or something else than the last step is taken back.
    """
    what = entry.what
    if isinstance(what, ThingUndone):
        check_undone(what, now.history)
    if not isinstance(what, ChuckStepDone):
        return
    due = now.after_step(what.passes).next
    if due is None or what.step != due.name:
        raise ThingError(f"First: {due.words}" if due else "This grinding is finished.")
    if what.step == "film" and not what.answer:
        raise ThingError("Did the film show full contact under all the holding points, or partly?")

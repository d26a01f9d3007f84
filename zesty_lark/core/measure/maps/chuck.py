"""A chuck's maps over the years, and the job of grinding the chuck itself."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

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
LIGHT_CUT_UM = 2.5
"""A light cut on a chuck [µm]: own estimate, a tenth."""
CLEAN_UP_UM = 2.5
"""What is taken beyond the range, so that the last low place is surely clean [µm]: own estimate."""
SOON = timedelta(days=60)
YEAR = timedelta(days=365)


@dataclass(frozen=True)
class MapInTime:
    """A map of a chuck in use: when it was taken and its range [µm]."""

    at: datetime
    range_um: float


@dataclass(frozen=True)
class Outlook:
    """Whether a chuck is to be ground.

    Attributes
    ----------
    due : bool
        Its range is over its limit.
    soon : bool
        At the rate of its last maps it will be, within two months.
    range_um, limit_um : float
    um_a_year : float or None
        How fast the range grows; ``None`` from one map.
    due_on : datetime or None
        When the limit is reached at that rate.
    take_um : float
        How much the grinding takes: the range, and a little beyond it.
    passes : int
        Light cuts that is.
    words : str
    """

    due: bool
    soon: bool
    range_um: float
    limit_um: float
    um_a_year: float | None
    due_on: datetime | None
    take_um: float
    passes: int
    words: str


def passes_for(take_um: float, cut_um: float = LIGHT_CUT_UM) -> int:
    """Return how many light cuts a depth takes."""
    return max(1, math.ceil(take_um / cut_um - 1e-9))


def outlook(maps: Sequence[MapInTime], limit_um: float, now: datetime) -> Outlook:
    """Tell when a chuck is to be ground, and how much that takes.

    Parameters
    ----------
    maps : sequence of MapInTime
        In use, oldest first, at least one; a grinding in between makes the range fall, and only what came after the
        last fall tells the rate.
    limit_um : float
        Its limit [µm].
    """
    if not maps:
        raise ValueError("at least one map is needed")
    newest, rate = maps[-1], _rate(maps)
    take = newest.range_um + CLEAN_UP_UM
    due = newest.range_um > limit_um
    at: datetime | None = None
    if not due and rate is not None and rate > 0:
        at = newest.at + YEAR * ((limit_um - newest.range_um) / rate)
    soon = at is not None and at - now <= SOON
    return Outlook(
        due,
        soon,
        newest.range_um,
        limit_um,
        rate,
        at,
        take,
        passes_for(take),
        _words(newest.range_um, limit_um, at, rate),
    )


def _rate(maps: Sequence[MapInTime]) -> float | None:
    """How fast the range grows since the chuck was last ground, by least squares [µm a year]."""
    since = list(maps)
    for number in range(len(since) - 1, 0, -1):
        if since[number].range_um < since[number - 1].range_um * 0.7:
            since = since[number:]
            break
    years = [(each.at - since[0].at) / YEAR for each in since]
    mean = sum(years) / len(years)
    spread = sum((year - mean) ** 2 for year in years)
    if len(since) < 2 or spread == 0:
        return None
    return sum((year - mean) * each.range_um for year, each in zip(years, since, strict=True)) / spread


def _words(range_um: float, limit_um: float, at: datetime | None, rate: float | None) -> str:
    state = f"Its map ranges over {range_um:.1f} µm; its limit is {limit_um:.1f}."
    if range_um > limit_um:
        return f"{state} It is due for grinding."
    if at is not None and rate is not None:
        return f"{state} At {rate:.1f} µm a year the limit is reached about {at:%B %Y}."
    return state if rate is None else f"{state} It is not getting worse."


@dataclass(frozen=True)
class ChuckStep:
    """A step of grinding a chuck: its name in the log, and what is done."""

    name: StepName
    words: str


CHUCK_STEPS: tuple[ChuckStep, ...] = (
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
_WORDS = {step.name: step for step in CHUCK_STEPS}


class ChuckJobError(ValueError):
    """A step that cannot be now; the message says why."""


@dataclass(frozen=True)
class ChuckAct:
    """Something done while grinding a chuck, and the answer where one is asked: "full" or "partly" of the film; the
    time."""

    step: StepName
    at: datetime
    answer: str = ""


@dataclass(frozen=True)
class ChuckGrinding:
    """Where the grinding of a chuck stands: the step that comes next, ``None`` when it is finished, and how many of its
    passes are done."""

    next: ChuckStep | None
    passes: int
    passes_done: int
    held_up: str = ""


def grinding_now(acts: Sequence[ChuckAct], passes: int) -> ChuckGrinding:
    """Return where a grinding stands after what was done; every pass has its own dress before it."""
    order: list[StepName] = ["fence off", "cleaned", "reseated", "film", "magnet on"]
    done = [act.step for act in acts]
    film = next((act.answer for act in reversed(acts) if act.step == "film"), "")
    ground = done.count("pass")
    if film == "partly":
        last = max(number for number, act in enumerate(acts) if act.step == "film")
        again = {act.step for act in acts[last + 1 :]}
        missing: StepName = "cleaned" if "cleaned" not in again else "reseated" if "reseated" not in again else "film"
        return ChuckGrinding(_WORDS[missing], passes, ground, "The film showed part contact only: seat it again.")
    for name in order:
        if name not in done:
            return ChuckGrinding(_WORDS[name], passes, ground)
    if ground < passes:
        return ChuckGrinding(_WORDS["dress" if done.count("dress") <= ground else "pass"], passes, ground)
    closing: list[StepName] = ["spark-out", "mapped", "fence on", "fence ground"]
    for name in closing:
        if name not in done:
            return ChuckGrinding(_WORDS[name], passes, ground)
    return ChuckGrinding(None, passes, ground)


def check_act(act: ChuckAct, stands: ChuckGrinding) -> None:
    """Refuse what is not next.

    Raises
    ------
    ChuckJobError
        If another step comes first, or the film's answer is missing.
    """
    if stands.next is None:
        raise ChuckJobError("This grinding is finished.")
    if act.step != stands.next.name:
        raise ChuckJobError(f"First: {stands.next.words}")
    if act.step == "film" and act.answer not in ("full", "partly"):
        raise ChuckJobError("Did the film show full contact under all the holding points, or partly?")

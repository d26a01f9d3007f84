"""Which of the shop's own wheels suits a job: each against the advice, best first, with what speaks against it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import MaxLen, MinLen

from zesty_lark.core.quantities.numbers import Hardness, InputError, Positive, Rpm, Share
from zesty_lark.core.wheel.choosing import Contact, WheelAdvice, Work, choose_wheel
from zesty_lark.core.wheel.marking import ABRASIVES, Marking, marking
from zesty_lark.core.wheel.mounting import Mounted, mounting_stops

GRIT_WEIGHT, STRUCTURE_WEIGHT, UNKNOWN_WEIGHT, ABRASIVE_WEIGHT = 2.0, 0.25, 1.0, 3.0
WORN_WEIGHT, NEARLY_WORN = 0.5, 0.1
GOOD = 1.0
LETTERS = {name: letter for letter, name in ABRASIVES.items()}
BOND_LETTERS = {"vitrified": "V", "resin": "B"}


@dataclass(frozen=True)
class RackWheel:
    """A wheel on the rack: its name and marking, diameter [mm], what it is marked with [rpm] [m/s], whether its maker
    allows work on its side, whether it was put out of use, and what is left of it."""

    name: Annotated[str, MinLen(1), MaxLen(80)]
    marking: Annotated[str, MinLen(1), MaxLen(40)]
    diameter_mm: Positive
    max_rpm: Rpm | None = None
    max_m_s: Positive | None = None
    side_work: bool = False
    scrapped: bool = False
    share_left: Share | None = None


@dataclass(frozen=True)
class RankedWheel:
    """A wheel against the advice: how far off it is (0 is as advised), whether it suits, what is as advised and what is
    not, and why it is refused."""

    name: str
    off: float
    suits: bool
    reasons: list[str]
    refused: list[str]


@dataclass(frozen=True)
class Ranked:
    """The advice, the marking that would be as advised, and the shop's wheels, those that may run first, the nearest
    first."""

    advice: WheelAdvice
    better: str
    wheels: list[RankedWheel]


def rank_wheels(
    *,
    material: str,
    wheel_rpm: Rpm,
    wheels: Annotated[Sequence[RackWheel], MaxLen(200)],
    work: Work = "flat",
    contact: Contact = "usual",
    hardness_hrc: Hardness | None = None,
    coolant: Literal["dry", "mist", "water", "oil"] | None = None,
) -> Ranked:
    """Rank the shop's wheels for a job.

    Parameters
    ----------
    material, work, contact, hardness_hrc, coolant
        As ``wheel.choose`` takes them.
    wheel_rpm : float
        The spindle: a wheel over its mark is refused [rpm].
    wheels : sequence of RackWheel
        What is on the rack.

    Raises
    ------
    InputError
        If the material is not known here.

    Notes
    -----
    How far off: a letter of grade counts 1, a doubling of the grit 2, four steps of structure 1, another abrasive 3,
    what the marking does not say 1, being nearly worn out a half. An own measure; it only orders what the reasons say.
    """
    advice = choose_wheel(material=material, work=work, contact=contact, hardness_hrc=hardness_hrc, coolant=coolant)
    found = [_ranked(wheel, advice, _refused(wheel, material, wheel_rpm, work)) for wheel in wheels]
    return Ranked(advice, better_marking(advice), sorted(found, key=lambda each: (bool(each.refused), each.off)))


def better_marking(advice: WheelAdvice) -> str:
    """Write the marking that would be as advised; empty where the material is declined."""
    if advice.abrasive is None:
        return ""
    grade = "" if advice.grade_from is None else _range(advice.grade_from, advice.grade_to)
    structure = "" if advice.structure is None else str(advice.structure)
    parts = (
        LETTERS[advice.abrasive],
        _range(advice.grit_from, advice.grit_to),
        grade,
        structure,
        "" if advice.bond is None else BOND_LETTERS[advice.bond],
    )
    return " ".join(part for part in parts if part)


def _range(first: object, last: object) -> str:
    return str(first) if first == last or last is None else f"{first}-{last}"


def _refused(wheel: RackWheel, material: str, rpm: float, work: Work) -> list[str]:
    mounted = Mounted(
        wheel.name, wheel.marking, wheel.diameter_mm, wheel.max_rpm, wheel.max_m_s, scrapped=wheel.scrapped
    )
    refused = mounting_stops(mounted, rpm, material)
    if work in ("side", "slot") and not wheel.side_work:
        refused.append(f"Its maker does not allow work on the side of {wheel.name}, or nobody has said that he does.")
    return refused


def _ranked(wheel: RackWheel, advice: WheelAdvice, refused: list[str]) -> RankedWheel:
    try:
        says = marking(text=wheel.marking)
    except InputError as error:
        return RankedWheel(wheel.name, math.inf, False, [], [*refused, str(error)])
    if advice.abrasive is None:
        return RankedWheel(wheel.name, math.inf, False, [], refused)
    told = [_abrasive(says, advice), _grade(says, advice), _grit(says, advice), _structure(says, advice)]
    if wheel.share_left is not None and wheel.share_left < NEARLY_WORN:
        told.append((WORN_WEIGHT, "It is nearly worn out: slower at its edge, and soon at its flange."))
    off = sum(each for each, _ in told)
    reasons = [words for _, words in told if words]
    return RankedWheel(wheel.name, off, not refused and off <= GOOD, reasons, refused)


def _abrasive(says: Marking, advice: WheelAdvice) -> tuple[float, str]:
    if says.abrasive_name == advice.abrasive:
        return 0.0, ""
    return ABRASIVE_WEIGHT, f"It is {says.abrasive_name}; {advice.abrasive} is advised."


def _grade(says: Marking, advice: WheelAdvice) -> tuple[float, str]:
    if advice.grade_from is None or advice.grade_to is None:
        return 0.0, ""
    if says.grade is None:
        return UNKNOWN_WEIGHT, "Its marking does not say how hard it is."
    harder, softer = ord(says.grade) - ord(advice.grade_to), ord(advice.grade_from) - ord(says.grade)
    if harder > 0:
        return harder, f"{_letters(harder)} harder: dull grains stay in, rub and heat; lighter cuts, sooner dressed."
    if softer > 0:
        return softer, f"{_letters(softer)} softer: it stays sharp, and wears and loses its shape sooner."
    return 0.0, f"Grade {says.grade} is as advised."


def _letters(count: int) -> str:
    return "One letter" if count == 1 else f"{count} letters"


def _grit(says: Marking, advice: WheelAdvice) -> tuple[float, str]:
    if advice.grit_from is None or advice.grit_to is None:
        return 0.0, ""
    if says.grit is None:
        return UNKNOWN_WEIGHT, "Its marking does not say which grit."
    if says.grit > advice.grit_to:
        return GRIT_WEIGHT * math.log2(says.grit / advice.grit_to), (
            f"{says.grit} is finer: a better finish and corner, less stock at a time, and it loads sooner."
        )
    if says.grit < advice.grit_from:
        return GRIT_WEIGHT * math.log2(advice.grit_from / says.grit), (
            f"{says.grit} is coarser: it takes stock coolly, and leaves a rougher face unless dressed fine."
        )
    return 0.0, f"{says.grit} grit is as advised."


def _structure(says: Marking, advice: WheelAdvice) -> tuple[float, str]:
    if advice.structure is None:
        return 0.0, ""
    if says.structure is None:
        return STRUCTURE_WEIGHT, "Its marking does not say how open it is."
    closer = advice.structure - says.structure
    if closer > 1:
        return STRUCTURE_WEIGHT * closer, "It is closer: less room for chips and coolant."
    return STRUCTURE_WEIGHT * max(-closer, 0), ""

"""What a machine's runs have taught: cut ratios by wheel and kind of work, why sizes came up short, how long hands
take."""

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from zesty_lark.core.squaring.handling import USUAL
from zesty_lark.core.work.learned import TIMED, WORK_KINDS, CutRatio, Times, WorkKind
from zesty_lark.core.work.short_of import Cause, ShortOf, heat_told, short_of
from zesty_lark.store import learning
from zesty_lark.store.models import MachineRow, WheelRow


@dataclass(frozen=True)
class OfWheel:
    """What is known of one wheel on a machine."""

    wheel: WheelRow
    ratios: Mapping[WorkKind, CutRatio]
    short: ShortOf


@dataclass(frozen=True)
class Taught:
    """What is known of a machine; times with what they are called; what came back when parts were cold."""

    wheels: list[OfWheel]
    times: list[tuple[str, Times]]
    kinds: Mapping[WorkKind, str]
    heat: Cause


def taught_of(session: Session, machine: MachineRow) -> Taught:
    """Return what a machine's runs have taught."""
    wheels = [
        OfWheel(
            wheel,
            learning.cut_ratios(session, machine, wheel),
            short_of(
                learning.size_runs(session, machine, wheel),
                wheel_diameter_mm=float(wheel.diameter_mm),
                wheel_width_mm=float(wheel.width_mm),
            ),
        )
        for wheel in learning.wheels_of(session, machine)
    ]
    times = learning.times(session, machine, USUAL)
    heat = heat_told(learning.warm_and_cold(session, machine))
    return Taught(wheels, [(TIMED[act], times[act]) for act in TIMED], WORK_KINDS, heat)

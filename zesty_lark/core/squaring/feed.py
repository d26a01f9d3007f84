"""How a surface is fed, as the planner is asked: its dial's graduation as a depth, η, and whether it is plunged."""

from dataclasses import replace
from decimal import ROUND_DOWN, Decimal

from zesty_lark.core.part.surfaces import feeding_of, kind_of, surfaces_of
from zesty_lark.core.part.surfaces.part import Block
from zesty_lark.core.planning.means import MachineIn
from zesty_lark.core.planning.problem import FINISH_OVERLAP
from zesty_lark.core.quantities.numbers import InputError

KEPT = Decimal("0.000000001")


def graduation_of(block: Block, surface: int, machine: MachineIn) -> Decimal:
    """Return the graduation of the dial that feeds a surface [mm]."""
    across = feeding_of(block, surface).dial == "across"
    return (machine.cross_dial_mm or machine.crossfeed_graduation_mm) if across else machine.downfeed_graduation_mm


def depth_graduation(block: Block, surface: int, machine: MachineIn) -> Decimal:
    """Return how deep a graduation of its dial goes under a surface [mm]."""
    deep = feeding_of(block, surface).depth_per_feed
    graduation = graduation_of(block, surface, machine)
    return graduation if deep == 1 else (graduation * deep).quantize(KEPT)


def feed_as(
    block: Block, surface: int, stock_mm: Decimal, *, machine: MachineIn, wheel_mm: float
) -> tuple[MachineIn, Decimal, Decimal]:
    """Return machine, stock and tolerance [mm] as a plan of a surface is asked with them: in depths under its face.

    Parameters
    ----------
    stock_mm : Decimal
        What is to be fed at its dial [mm].
    wheel_mm : float
        The wheel's width [mm].

    Raises
    ------
    InputError
        If a graduation of the dial is more than the size's tolerance.
    """
    size, feeding = kind_of(block, surface).size_of(block, surface), feeding_of(block, surface)
    rate = abs(surfaces_of(block)[surface].per_feed)
    graduation = graduation_of(block, surface, machine)
    if graduation * rate > size.tolerance_mm:
        raise InputError(
            "machine", f"a graduation of the dial changes the size by {graduation * rate:.4f} mm, more than its "
            f"tolerance of {size.tolerance_mm:f}: choose the other way of grinding it, or a finer dial"
        )  # fmt: skip
    if feeding.plunged:
        machine = _plunged(machine, wheel_mm)
    if feeding.depth_per_feed == 1 and feeding.dial == "down" and feeding.cut_ratio is None:
        return machine, stock_mm, (size.tolerance_mm / rate).quantize(KEPT) if rate != 1 else size.tolerance_mm
    deep = depth_graduation(block, surface, machine)
    whole = (stock_mm / graduation).to_integral_value(ROUND_DOWN)
    most = None if machine.downfeed_max_mm is None else max(machine.downfeed_max_mm, deep)
    asked = replace(
        machine, downfeed_graduation_mm=deep, downfeed_max_mm=most, cut_ratio=feeding.cut_ratio or machine.cut_ratio
    )
    return asked, whole * deep, (size.tolerance_mm / rate * feeding.depth_per_feed).quantize(KEPT)


def _plunged(machine: MachineIn, wheel_mm: float) -> MachineIn:
    """The machine with one crossfeed, so narrow that a pass goes over every place as often as a finish asks for: there
    it stands for as many strokes without any."""
    if machine.crossfeed_steps_mm:
        wiped = [each for each in machine.crossfeed_steps_mm if float(each) <= wheel_mm / FINISH_OVERLAP]
        only = max(wiped, default=min(machine.crossfeed_steps_mm))
        return replace(machine, crossfeed_min_mm=only, crossfeed_max_mm=only)
    step = machine.crossfeed_graduation_mm
    narrow = (Decimal(repr(wheel_mm / FINISH_OVERLAP)) / step).to_integral_value(ROUND_DOWN) * step
    only = max(min(narrow, machine.crossfeed_max_mm), machine.crossfeed_min_mm)
    return replace(machine, crossfeed_min_mm=only, crossfeed_max_mm=only)

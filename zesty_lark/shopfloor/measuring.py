"""A measurement before it is logged: which surface it is of, its uncertainty, and the verdict."""

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal

from zesty_lark.core.angles_slots.block_sets import BlockSet
from zesty_lark.core.measure.budget import Budget
from zesty_lark.core.measure.comparison import Comparison, Wrung, comparison_budget, wring
from zesty_lark.core.measure.thickness import Gauge, form_budget, size_budget, temperature_u
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Reading, Verdict, judge_zone
from zesty_lark.core.quantities.plausible import Doubt, doubt_against
from zesty_lark.core.quantities.units import small_text
from zesty_lark.core.work.entries import PART_WARM, Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.plans import PASSES
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor.stock import judged
from zesty_lark.shopfloor.units import shown_units
from zesty_lark.store.models import InstrumentRow, Job


@dataclass(frozen=True)
class Tool:
    """What is measured with: a gauge, and where it reads deviations the blocks it was set to and its tip's angle
    [°]."""

    gauge: InstrumentRow
    blocks: BlockSet | None = None
    tip_deg: float = 0.0

    @property
    def compares(self) -> bool:
        """Whether sizes are compared against a stack."""
        return self.blocks is not None and self.gauge.reads == "deviations"


@dataclass(frozen=True)
class Taken:
    """Readings as they were taken, with the part's temperature, the gauge's and the room's [°C] where somebody took
    them; deviations from the stack [mm] where a size was compared against one."""

    characteristic: str
    piece: int
    readings: tuple[Reading, ...]
    part_c: Decimal | None = None
    gauge_c: Decimal | None = None
    room_c: Decimal | None = None
    warm: bool = False


@dataclass(frozen=True)
class Amiss:
    """What is wrong with a measurement before it is judged: of which field, of which of its readings, in words; a
    ``doubt`` is asked about, and answered for where somebody is sure."""

    field: str
    why: str
    reading: int | None = None
    doubt: Doubt | None = None


def amiss(job: Job, job_state: JobState, tool: Tool, taken: Taken, *, sure: Collection[int] = ()) -> list[Amiss]:
    """Return what is wrong with readings as they were taken: none at all, off by a slip, out of the gauge's reach, half
    a pair of temperatures. ``sure``: the places in their order, from 0, that somebody has looked at again."""
    asked = characteristic_of(job_state, taken.characteristic)
    found = [] if taken.readings else [Amiss("readings", "At least one reading is needed.", 0)]
    if is_length(asked):
        found += _sizes_amiss(job, job_state, tool.gauge, taken, asked=asked, sure=sure)
        if tool.gauge.reads == "deviations" and tool.blocks is None:
            found.append(Amiss("blocks", f"{tool.gauge.name} reads deviations: which blocks was it set to?"))
    if taken.part_c is not None and taken.gauge_c is None and taken.room_c is None:
        why = "How warm is the gauge, or the room it lies in? Only the difference to the part counts."
        found.append(Amiss("gauge_c", why))
    return found


def is_length(asked: Characteristic) -> bool:
    """Whether a characteristic is a length with two limits."""
    return asked.kind in ("size", "position")


def _sizes_amiss(
    job: Job, job_state: JobState, gauge: InstrumentRow, taken: Taken, *, asked: Characteristic, sure: Collection[int]
) -> Iterator[Amiss]:
    units, sizes = shown_units(job), list(enumerate(reading.value_mm for reading in taken.readings))
    if gauge.reads == "deviations":
        travel = gauge.to_core().travel_mm
        words = small_text(travel, units.print_unit)
        why = f"{gauge.name} shows {words} at most: type what it shows over the stack, with its sign."
        yield from (Amiss("readings", why, place) for place, mm in sizes if abs(mm) > travel)
        return
    known, grows = job_state.pieces[taken.piece].sizes.get(asked.name), _grows(job_state, asked)
    came, expected = job_state.spec.pieces[taken.piece].get(asked.name), asked.limits.upper_mm
    if came is not None and known is not None and not grows:
        expected = max(came, expected)
    for place, mm in sizes:
        doubt = doubt_against(mm, expected)
        if doubt and place not in sure:
            yield Amiss("readings", f"This looks like {doubt.slip}.", place, doubt)
        elif not grows and mm > expected and place not in sure:
            said = f"The part was taken in at {units.size(expected)} at most; it cannot have grown."
            yield Amiss("readings", f"{said} Clean it and read again.", place)
        elif not gauge.least_mm <= mm <= gauge.most_mm:
            yield Amiss("readings", f"{gauge.name} does not reach {units.size(mm)}.", place)


def _grows(job_state: JobState, asked: Characteristic) -> bool:
    """Whether it becomes more as it is ground, as a slot's width does."""
    surface = job_state.spec.wanted.surfaces.get(asked.surfaces[0])
    return surface is not None and surface.size == asked.name and surface.grows


def characteristic_of(job_state: JobState, name: str) -> Characteristic:
    """Return a characteristic by its name; the size of what is at work, or the first of the print, when there is
    none."""
    wanted = job_state.spec.wanted
    found = wanted.named(name)
    if found is None and job_state.at is not None:
        found = wanted.size_of(job_state.at.surface)
    return found or wanted.characteristics[0]


def surface_of(job_state: JobState, asked: Characteristic) -> int:
    """Return the surface a measurement of a characteristic is of: the one at work where it bounds that size."""
    at = job_state.at
    if at is not None and asked.kind == "size" and job_state.spec.wanted.surfaces[at.surface].size == asked.name:
        return at.surface
    return asked.surfaces[0]


def due(job_state: JobState, piece: int) -> list[str]:
    """Return the characteristics of a piece that can be proved now: not proved yet, and every surface they relate is
    done."""
    here, asked = job_state.pieces[piece], job_state.spec.wanted.surfaces
    return [
        characteristic.name
        for characteristic in job_state.spec.wanted.characteristics
        if characteristic.name in here.unproved(job_state.spec.wanted)
        and not any(here.wants(asked[surface]) for surface in characteristic.surfaces if surface in asked)
    ]


def stack_for(asked: Characteristic, blocks: BlockSet) -> Wrung:
    """Return the stack that a size is compared against: of the middle of its zone, or the nearest to it.

    Raises
    ------
    InputError
        If the set makes none.
    """
    return wring(asked.limits.goal_mm, blocks)


def budget_for(
    job_state: JobState,
    asked: Characteristic,
    tool: Tool,
    *,
    at: datetime,
    taken_c: bool,
    deviations: tuple[Decimal, ...] = (),
    length_mm: float | None = None,
) -> Budget:
    """Return the uncertainty of a characteristic measured with a tool, contribution by contribution.

    Parameters
    ----------
    taken_c : bool
        Whether the part's temperature is taken.
    deviations : tuple of Decimal
        From the stack, where it is compared [mm].
    length_mm : float, optional
        What was measured; what the print asks without [mm].
    """
    gauge = Gauge.of(tool.gauge.to_core(), at.date())
    if asked.kind not in ("size", "position"):
        return form_budget(gauge)
    rise = rise_of(job_state.runs[surface_of(job_state, asked)], job_state) if asked.kind == "size" else 0.0
    u_c = temperature_u(taken=taken_c, rise_c=rise)
    if tool.compares and tool.blocks is not None:
        stack = stack_for(asked, tool.blocks)
        how = Comparison(stack.sum_mm, tool.tip_deg)
        return comparison_budget(gauge, how, stack.u_um, deviations, temperature_u_c=u_c)
    length = float(asked.limits.target_mm) if length_mm is None else length_mm
    return size_budget(gauge, max(length, 1.0), temperature_u_c=u_c)


def measurement(
    job: Job, job_state: JobState, tool: Tool | InstrumentRow, taken: Taken, *, entry_id: str, at: datetime
) -> Measured:
    """Return the entry of a measurement, with its uncertainty and its verdict."""
    tool = tool if isinstance(tool, Tool) else Tool(tool)
    asked = characteristic_of(job_state, taken.characteristic)
    deviations = tuple(reading.value_mm for reading in taken.readings)
    readings, how = _as_sizes(asked, tool, taken)
    budget = budget_for(
        job_state,
        asked,
        tool,
        at=at,
        taken_c=taken.part_c is not None,
        deviations=deviations,
        length_mm=float(max(reading.value_mm for reading in readings)),
    )
    entry = Measured(
        entry_id=entry_id,
        at=at,
        surface=surface_of(job_state, asked),
        characteristic=asked.name,
        piece=taken.piece,
        readings=readings,
        instrument=tool.gauge.name,
        part_c=taken.part_c,
        gauge_c=taken.gauge_c,
        room_c=taken.room_c,
        note=PART_WARM if taken.warm else "",
        uncertainty_mm=budget.expanded_mm,
        how=how,
    )
    return replace(entry, verdict=verdict_on(job, job_state, entry, asked, overdue=_overdue(tool, at)))


def _as_sizes(asked: Characteristic, tool: Tool, taken: Taken) -> tuple[tuple[Reading, ...], str]:
    """The readings as sizes, and how they were come by."""
    if not tool.compares or tool.blocks is None or asked.kind not in ("size", "position"):
        return taken.readings, ""
    stack = stack_for(asked, tool.blocks)
    how = Comparison(stack.sum_mm, tool.tip_deg)
    sizes = tuple(Reading(reading.place, how.size_of(reading.value_mm)) for reading in taken.readings)
    tip = f"; tip at {tool.tip_deg:g}°" if tool.tip_deg else ""
    return sizes, f"against {stack.words}{tip}"[:200]


def _overdue(tool: Tool, at: datetime) -> bool:
    """Whether the gauge, or the blocks it was set to, are past their date."""
    late = at.date() > tool.gauge.due_on
    return late or (tool.compares and tool.blocks is not None and at.date() > tool.blocks.due_on)


def verdict_on(
    job: Job, job_state: JobState, entry: Measured, asked: Characteristic, *, overdue: bool
) -> Verdict | None:
    """The verdict on what was measured; a size that was only measured to see what is left for the other side has
    none."""
    if asked.is_zone:
        return judge_zone(entry.readings, asked.allowed_mm, entry.uncertainty_mm, overdue=overdue)
    surface = job_state.spec.wanted.surfaces[entry.surface or 0]
    if surface.size != asked.name:
        return judged(job, entry, asked, overdue=overdue).verdict
    return None if surface.reference else judged(job, entry, asked, overdue=overdue).verdict


def rise_of(run: Run, job_state: JobState) -> float:
    """How much warmer the part may still be than its surroundings: what its plan predicts, unless it was left to cool
    [K]."""
    if run.plan is None or not run.fed or not job_state.is_up(run):
        return 0.0
    done = [step.kind for step in run.plan.steps[: run.done] if step.number not in run.skipped]
    since = [kind for kind in done if kind == "cool" or kind in PASSES]
    return 0.0 if since and since[-1] == "cool" else float(run.plan.rise_c)

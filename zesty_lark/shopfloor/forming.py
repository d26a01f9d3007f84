"""Angles, radii and slots as they were measured, into the job's log."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from decimal import ROUND_UP, Decimal
from typing import Literal

from zesty_lark.core.measure.angles import (
    MeasuredAngle,
    MeasuredRadius,
    SlotWidths,
    angle_by_rolls,
    angle_on_sine_plate,
    radius_by_chord,
    radius_by_leaves,
    radius_by_rolls,
    slot_widths,
)
from zesty_lark.core.measure.thickness import Gauge, reading_u_um
from zesty_lark.core.part.prints import SIZES, Characteristic
from zesty_lark.core.part.sizes import Reading, Verdict, verdict
from zesty_lark.core.part.surfaces import surfaces_of
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import SMALLEST_MM
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.shopfloor.stock import judged
from zesty_lark.store.models import InstrumentRow, Job

Found = MeasuredAngle | MeasuredRadius | SlotWidths
ShapeName = Literal["angle", "radius", "slot"]
USUAL_STACK_U_UM = Decimal("0.2")
"""U of a stack that nobody gave [µm]: own estimate."""
MAY_BE_EMPTY = frozenset({"stack_u_um"})
SLOT_PLACES = {
    "front_top_mm": "front top",
    "front_bottom_mm": "front bottom",
    "back_top_mm": "back top",
    "back_bottom_mm": "back bottom",
}


@dataclass(frozen=True)
class Way:
    """A way of measuring a shape: how it is said, what it reads, and what works it out from that and U of a reading
    [µm]."""

    words: str
    reads: tuple[str, ...]
    work_out: Callable[[Mapping[str, Decimal], float], Found]


@dataclass(frozen=True)
class Shape:
    """A kind of shape: what it is called, what of the print it can prove, and its ways."""

    title: str
    kinds: tuple[str, ...]
    ways: Mapping[str, Way]


def _floats(read: Mapping[str, Decimal], names: Sequence[str]) -> dict[str, float]:
    return {name: float(read[name]) for name in names}


def _by_rolls(shape: Literal["corner", "vee"]) -> Callable[[Mapping[str, Decimal], float], Found]:
    return lambda read, u_um: angle_by_rolls(**_floats(read, ROLLS), shape=shape, u_um=u_um)


def _on_sine_plate(read: Mapping[str, Decimal], u_um: float) -> Found:
    stack = read.get("stack_u_um") or USUAL_STACK_U_UM
    return angle_on_sine_plate(**_floats(read, SINE[:-1]), stack_u_um=float(stack), u_um=u_um)


def _slot(read: Mapping[str, Decimal], u_um: float) -> Found:
    goes = {place: read[name] for name, place in SLOT_PLACES.items()}
    return slot_widths(goes_mm=goes, step_mm=read["step_mm"], block_u_mm=read["block_u_um"] / 1000)


ROLLS = ("small_mm", "large_mm", "over_small_mm", "over_large_mm")
SINE = ("set_deg", "rise_um", "over_mm", "centres_mm", "stack_u_um")
OUTSIDE, CHORD, LEAVES = ("roll_mm", "over_rolls_mm"), ("chord_mm", "height_mm"), ("under_mm", "over_mm", "leaf_um")
SHAPES: Mapping[ShapeName, Shape] = {
    "angle": Shape(
        "Angle",
        ("angle",),
        {
            "corner": Way("two rolls in a corner", ROLLS, _by_rolls("corner")),
            "vee": Way("two rolls in a vee", ROLLS, _by_rolls("vee")),
            "sine": Way("on the sine plate", SINE, _on_sine_plate),
        },
    ),
    "radius": Shape(
        "Radius",
        ("size", "position"),
        {
            "rolls": Way(
                "outside radius between two rolls",
                OUTSIDE,
                lambda read, u_um: radius_by_rolls(**_floats(read, OUTSIDE), u_um=u_um),
            ),
            "chord": Way(
                "a chord and its height", CHORD, lambda read, u_um: radius_by_chord(**_floats(read, CHORD), u_um=u_um)
            ),
            "leaves": Way(
                "a radius gauge, by its light", LEAVES, lambda read, u_um: radius_by_leaves(**_floats(read, LEAVES))
            ),
        },
    ),
    "slot": Shape(
        "Slot",
        ("size", "position"),
        {"": Way("blocks that go at four places", (*SLOT_PLACES, "step_mm", "block_u_um"), _slot)},
    ),
}


def shape_found(shape: ShapeName, way: str, read: Mapping[str, Decimal], gauge: InstrumentRow, *, today: date) -> Found:
    """Return what the readings of a way come to.

    Raises
    ------
    InputError
        If there is no such way, or a reading is missing or cannot be; it names the field.
    """
    how = SHAPES[shape].ways.get(way)
    if how is None:
        raise InputError("way", "There is no such way of measuring it.")
    for name in how.reads:
        if name not in read and name not in MAY_BE_EMPTY:
            raise InputError(name, "Which reading?")
    return how.work_out(read, reading_u_um(Gauge.of(gauge.to_core(), today)))


def provable(job_state: JobState, shape: ShapeName) -> list[Characteristic]:
    """Return what of the print a shape can prove: angles; sizes beside the block's own three."""
    kinds = SHAPES[shape].kinds
    return [
        characteristic
        for characteristic in job_state.spec.wanted.characteristics
        if characteristic.kind in kinds and (characteristic.kind != "size" or characteristic.name not in SIZES)
    ]


@dataclass(frozen=True)
class Shaped:
    """What was found of a piece on its way into the log: of which characteristic, with what and how."""

    asked: Characteristic
    found: Found
    gauge: InstrumentRow
    piece: int
    how: str
    left_mm: Decimal | None = None
    """The slot's left wall from its datum, where a position is told [mm]."""

    @property
    def readings(self) -> tuple[Reading, ...]:
        """An angle [°], a radius, a slot's width at its four places, or where its middle is [mm]."""
        if isinstance(self.found, SlotWidths) and self.left_mm is not None:
            return (Reading("middle", (self.left_mm + self.found.mean_mm / 2).quantize(SMALLEST_MM)),)
        if isinstance(self.found, SlotWidths):
            return tuple(Reading(place, width) for place, width in self.found.widths_mm.items())
        if isinstance(self.found, MeasuredAngle):
            return (Reading("angle", _exact(self.found.angle_deg)),)
        return (Reading("radius", _exact(self.found.radius_mm)),)

    @property
    def uncertainty(self) -> Decimal:
        """U, k = 2, in the unit of the readings."""
        if isinstance(self.found, SlotWidths):
            return self.found.u_mm
        u = self.found.u_deg if isinstance(self.found, MeasuredAngle) else self.found.u_mm
        return Decimal(repr(u)).quantize(SMALLEST_MM, ROUND_UP)


def _exact(value: float) -> Decimal:
    return Decimal(repr(value)).quantize(SMALLEST_MM)


def shape_entry(job: Job, shaped: Shaped, *, entry_id: str, at: datetime) -> Measured:
    """Return the log's entry of an angle, a radius or a slot; of an angle readings, limits and U are in degrees. A size
    that is still being ground is not yet what it has to be, not out."""
    limits, u, readings = shaped.asked.limits, shaped.uncertainty, shaped.readings
    told = {verdict(reading.value_mm, limits.lower_mm, limits.upper_mm, u) for reading in readings}
    late = at.date() > shaped.gauge.due_on
    word: Verdict = "out" if "out" in told else "unsure" if "unsure" in told or late else "in"
    entry = Measured(
        entry_id=entry_id,
        at=at,
        surface=shaped.asked.surfaces[0],
        characteristic=shaped.asked.name,
        piece=shaped.piece,
        readings=readings,
        instrument=shaped.gauge.name,
        uncertainty_mm=u,
        verdict=word,
        how=shaped.how[:200],
    )
    surface = surfaces_of(job.part.block()).get(shaped.asked.surfaces[0])
    if shaped.asked.kind != "size" or surface is None or surface.size != shaped.asked.name:
        return entry
    return replace(entry, verdict=judged(job, entry, shaped.asked, overdue=late).verdict)


def left_wall_mm(job_state: JobState, position: Characteristic) -> Decimal | None:
    """Return where a slot's left wall was last measured to be, from its datum [mm]; ``None`` while it was not."""
    size = job_state.spec.wanted.surfaces[position.surfaces[1]].size
    measured = (entry for entry in reversed(job_state.history) if isinstance(entry, Measured))
    newest = next((each for each in measured if each.characteristic == size), None)
    return None if newest is None else newest.middle_mm

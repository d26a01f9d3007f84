"""The set-up of a slot, an angle or an edge: its figures from the named calculations, drawn as it stands on the
machine, with what to look out for."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from zesty_lark.core.angles_slots.answers import (
    KICKS,
    Answer,
    block_choice,
    edge_answer,
    mitre_answer,
    radius_answer,
    sine_answer,
    slot_answer,
    two_angles_answer,
)
from zesty_lark.core.angles_slots.block_sets import BlockSet
from zesty_lark.core.angles_slots.rolls import roll_corner
from zesty_lark.core.angles_slots.sine import sine_setting
from zesty_lark.core.part.faces import AXIS
from zesty_lark.core.part.surfaces.features import EdgeBreak, Incline, LeadIns, Radius, Slot
from zesty_lark.core.part.surfaces.formed import Formed
from zesty_lark.core.part.surfaces.formed_face import features_formed
from zesty_lark.core.part.surfaces.incline import incline_normal
from zesty_lark.core.part.surfaces.lead_ins import AIM_ROLL_MM, corner_included_deg
from zesty_lark.core.part.surfaces.part import AXES, Block, PairSize
from zesty_lark.core.part.surfaces.slot import TILT_DEG, aim_of, slot_axes
from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.setup.forming.set_ups_drawn import (
    corner_drawn,
    incline_drawn,
    plate_clearance,
    side_slot_drawn,
    tilted_slot_drawn,
)
from zesty_lark.core.things.shop import Fixture, Wheel
from zesty_lark.core.wheel.shaping import relief

SEAT_LIFT_UM, ROLL_MM = 2.0, 10.0
"""What grit under one end does to a slot is shown for so much [µm]; an angle is read with a roll of so much [mm]."""
USUAL_CENTRES_MM = 127.0


@dataclass(frozen=True)
class AtMachine:
    """What a set-up is made with: its fixture where it has one, the shop's blocks, the wheel, and the graduation of the
    dial that feeds [mm]."""

    fixture: Fixture | None
    blocks: BlockSet | None
    wheel: Wheel
    graduation_mm: Decimal

    @property
    def centres_mm(self) -> float:
        """How far the plate's rolls are apart [mm]."""
        found = None if self.fixture is None else self.fixture.centres_mm
        return USUAL_CENTRES_MM if found is None else float(found)


def set_up_answer(block: Block, surface: int, at: AtMachine) -> Answer:
    """Return how a surface of a feature is set up.

    Raises
    ------
    KeyError
        If it belongs to no feature.
    InputError
        If it cannot be: no stack reaches the angle.
    """
    own: dict[str, PairSize] = {axis: block.sizes[axis] for axis in AXES}
    for feature, formed in features_formed(block.features, own):
        made = next((each for each in formed if each.surface.number == surface), None)
        if made is not None:
            told = _WAYS[feature.kind](feature, made, block, at)
            stops = [*([made.stop] if made.stop else []), *told.stops]
            notes = [*([made.note] if made.note else []), *told.cautions]
            return replace(told, stops=list(dict.fromkeys(stops)), cautions=list(dict.fromkeys(notes)))
    raise KeyError(surface)


def _sizes(block: Block) -> dict[str, float]:
    return {axis: float(block.sizes[axis].goal_mm) for axis in AXES}


def _incline(incline: Incline, made: Formed, block: Block, at: AtMachine) -> Answer:
    sizes = _sizes(block)
    long, high = sizes[AXIS[incline.falls_to]], float(incline.height_mm)
    roll = roll_corner(diameter_mm=ROLL_MM, included_deg=90 + incline.angle_deg)
    read = (f"Over a {ROLL_MM:g} mm roll at the high end", f"{high + roll.reading_mm:.4f} mm when it is to size")
    steps = list(made.holding.steps)
    if incline.across_deg:
        top = None if at.fixture is None else at.fixture.top_centres_mm
        told = two_angles_answer(
            normal=incline_normal(incline), base_mm=at.centres_mm, top_mm=float(top or USUAL_CENTRES_MM)
        )
        return replace(told, steps=steps, cautions=[*told.cautions, *made.holding.cautions])
    told = sine_answer(angle_deg=incline.angle_deg, centres_mm=at.centres_mm, blocks=at.blocks)
    stack = told.value_mm or 0.0
    clear = plate_clearance(
        centres_mm=at.centres_mm,
        angle_deg=incline.angle_deg,
        long_mm=long,
        high_edge_mm=high,
        wheel_diameter_mm=float(at.wheel.diameter_mm),
    )
    over = clear.face_over_end_mm
    room = f"{over:.2f} mm under the face" if over >= 0 else f"{-over:.2f} mm over the face"
    figures = [*told.told, ("The plate's upper end stands", room), read]
    cautions = list(told.cautions)
    if clear.may_overrun_mm is not None:
        cautions.insert(
            0,
            f"The plate's upper end stands {-over:.2f} mm over the face: the wheel may run {clear.may_overrun_mm:.1f} "
            "mm past it there, no more. Set the stop, or raise the part on a parallel.",
        )
    drawn = incline_drawn(
        centres_mm=at.centres_mm,
        angle_deg=incline.angle_deg,
        stack_mm=stack,
        part_mm=(long, high),
        wheel_diameter_mm=float(at.wheel.diameter_mm),
    )
    title = "On the plate, from the front: the part at its upper end, the face level"
    return Answer(told.figure, figures, [(title, drawn)], steps, cautions)


@dataclass(frozen=True)
class _InSlot:
    """What a slot's set-ups share: its figures, the part across and high, its walls as aimed, its depth and the wheel
    [mm]; the wall's side, and what stops it."""

    slot: Slot
    made: Formed
    told: Answer
    part_mm: tuple[float, float]
    walls_mm: tuple[float, float]
    wheel_mm: float
    stops: list[str]

    @property
    def side(self) -> str:
        """Floor, left or right."""
        return self.made.surface.part

    @property
    def depth_mm(self) -> float:
        """As the print has it [mm]."""
        return float(self.slot.depth_mm)


MEASURED = ("Measure at four places", "front and back, top and bottom: taper and bell mouth told apart; plan again")


def _slot(slot: Slot, made: Formed, block: Block, at: AtMachine) -> Answer:
    run, across = slot_axes(slot)
    sizes, aim = _sizes(block), aim_of(slot)
    told = slot_answer(
        left_mm=slot.left_now_mm,
        right_mm=slot.right_now_mm,
        centre_mm=slot.centre_mm,
        width_mm=slot.width_mm + (slot.width_plus_mm - slot.width_minus_mm) / 2,
        depth_mm=float(slot.depth_mm),
        graduation_mm=at.graduation_mm,
        wheel_mm=float(at.wheel.width_mm),
        lift_um=SEAT_LIFT_UM,
        span_mm=sizes[run],
        long_mm=sizes[run],
    )
    here = _InSlot(
        slot,
        made,
        told,
        (sizes[across], sizes[AXIS[slot.on_face]]),
        (float(aim.left_mm), float(aim.right_mm)),
        float(at.wheel.width_mm),
        [] if slot.keep or not made.stop else list(told.stops),
    )
    if here.side == "floor":
        return _slot_floor(here)
    return _slot_tilted(here, at) if slot.way == "tilted" else _slot_by_side(here, at)


def _slot_floor(here: _InSlot) -> Answer:
    slot, held = here.slot, here.made.holding
    if here.wheel_mm > float(slot.right_now_mm - slot.left_now_mm):
        here.stops.append(f"The wheel is {here.wheel_mm:g} mm wide: it has no room in the slot.")
    figure, told = f"{slot.depth_mm.normalize():f} mm deep", [*here.told.told[:2], MEASURED]
    return Answer(figure, told, here.told.drawings[:1], list(held.steps), list(held.cautions), here.stops)


def _slot_tilted(here: _InSlot, at: AtMachine) -> Answer:
    plate = sine_answer(angle_deg=TILT_DEG, centres_mm=at.centres_mm, blocks=at.blocks)
    setting = sine_setting(centres_mm=at.centres_mm, angle_deg=TILT_DEG, **block_choice(at.blocks))
    mouth = 2 * 1000 * here.depth_mm * math.tan(math.radians(abs(setting.error_arcsec) / 3600))
    bell = ("The stack's error opens the mouth by", f"{mouth:.3f} µm: twice the error over the depth")
    drawn = tilted_slot_drawn(
        centres_mm=at.centres_mm,
        stack_mm=setting.stack_mm,
        part_mm=here.part_mm,
        slot_mm=here.walls_mm,
        depth_mm=here.depth_mm,
        wheel_mm=here.wheel_mm,
        side=here.side,
    )
    title = f"The {here.side} wall, from the front: tilted 45°, the wheel's face along it"
    return Answer(
        plate.figure,
        [*plate.told[:2], *here.told.told, bell, MEASURED],
        [(title, drawn), *here.told.drawings],
        list(here.made.holding.steps),
        [*here.made.holding.cautions, *plate.cautions],
        here.stops,
    )


def _slot_by_side(here: _InSlot, at: AtMachine) -> Answer:
    undercut = float(here.slot.undercut_mm)
    land = relief(wheel_width_mm=here.wheel_mm, slot_depth_mm=here.depth_mm, undercut_mm=undercut, corner_mm=0.0)
    said = f"{land.land_mm:g} mm, then dished {land.dish_mm:.2f} mm; its point goes {undercut:g} mm deep"
    drawn = side_slot_drawn(
        part_mm=here.part_mm,
        slot_mm=here.walls_mm,
        depth_mm=here.depth_mm,
        undercut_mm=undercut,
        wheel_mm=here.wheel_mm,
        side=here.side,
    )
    stops = here.stops + ([] if land.may else [land.why])
    if not at.wheel.side_work:
        stops.append(f"{at.wheel.name}’s maker does not allow work on its side: take another wheel, or tilt the part.")
    return Answer(
        here.told.figure,
        [*here.told.told, ("Land at the corner", said), MEASURED],
        [(f"The {here.side} wall, from the front", drawn), *here.told.drawings],
        list(here.made.holding.steps),
        list(here.made.holding.cautions),
        stops,
    )


def _lead_ins(pair: LeadIns, made: Formed, block: Block, at: AtMachine) -> Answer:
    told = mitre_answer(floor_deg=pair.floor_deg, wall_deg=pair.wall_deg)
    plate = sine_answer(angle_deg=pair.floor_deg, centres_mm=at.centres_mm, blocks=at.blocks)
    roll = roll_corner(diameter_mm=AIM_ROLL_MM, included_deg=corner_included_deg(pair))
    figures = [
        *told.told,
        ("Stack for the tilt", plate.figure),
        ("Wrung, large to small", plate.told[1][1]),
        (f"A {AIM_ROLL_MM:g} mm roll in the corner", f"{roll.reading_mm:.4f} mm from the corner"),
        ("Floor, under the microscope", f"{pair.floor_long_mm.normalize():f} mm long"),
        ("Wall, under the microscope", f"{pair.wall_long_mm.normalize():f} mm long"),
        ("Between floor and wall", dms_text(corner_included_deg(pair))),
    ]
    drawings = [
        ("The corner as it is", corner_drawn(pair.floor_deg, pair.wall_deg, tilted=False)),
        ("Tilted: the floor level", corner_drawn(pair.floor_deg, pair.wall_deg, tilted=True)),
        (
            "Turned in plan: the wall along the travel",
            corner_drawn(pair.floor_deg, pair.wall_deg, tilted=True, turn=True),
        ),
        *told.drawings,
    ]
    left = f"{made.stock_mm.normalize():f} mm at the dial to take on this one"
    return Answer(told.figure, [*figures, ("Left", left)], drawings, told.steps, list(plate.cautions))


def _radius(radius: Radius, made: Formed, block: Block, at: AtMachine) -> Answer:
    centre = 0.0 if at.fixture is None else float(at.fixture.seat_mm)
    told = radius_answer(radius_mm=float(radius.radius_mm), sweep_deg=90.0, allow_um=radius.peak_um, centre_mm=centre)
    return replace(told, steps=list(made.holding.steps), cautions=[*made.holding.cautions[:1], KICKS])


def _edge(edge: EdgeBreak, made: Formed, block: Block, at: AtMachine) -> Answer:
    told = edge_answer(flat_mm=float(edge.flat_mm))
    return replace(told, steps=list(made.holding.steps), cautions=list(made.holding.cautions))


_WAYS: dict[str, Callable[[Any, Formed, Block, AtMachine], Answer]] = {
    "slot": _slot,
    "incline": _incline,
    "lead_ins": _lead_ins,
    "radius": _radius,
    "edge": _edge,
}

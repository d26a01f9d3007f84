"""A slot: its floor first, then its walls, each with its own stock; both aim at one width and one position."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from zesty_lark.core.angles_slots.slot_ways import SIDE_ETA
from zesty_lark.core.angles_slots.slots import SlotPlan, slot_plan
from zesty_lark.core.part.faces import AXIS, OPPOSITE
from zesty_lark.core.part.surfaces.features import Slot
from zesty_lark.core.part.surfaces.formed import FORMED, Asked, Feeding, Formed, Holding, sized
from zesty_lark.core.part.surfaces.on_block import Drawn, Frame, Point
from zesty_lark.core.part.surfaces.part import AXES, Lying, PairSize
from zesty_lark.core.part.surfaces.surface import Surface

SLOT_ASKS = {
    "on_face": "Open on",
    "datum": "Datum side, along it",
    "width_mm": "Width",
    "width_minus_mm": "Width −",
    "width_plus_mm": "Width +",
    "centre_mm": "Centre from the datum",
    "position_tol_mm": "Position ±",
    "left_now_mm": "Left wall now, from the datum",
    "right_now_mm": "Right wall now, from the datum",
    "depth_mm": "Depth",
    "depth_tol_mm": "Depth ±",
    "depth_now_mm": "Depth now",
    "undercut_mm": "Undercut at the corners",
    "keep": "If both cannot be, keep",
    "way": "Its walls with",
}
"""What taking one in asks, in this order, and what each is called."""

TILT_DEG = 45.0
COS = Decimal(repr(round(math.cos(math.radians(TILT_DEG)), 9)))
HALF = Decimal("0.5")
TURN = "The turn is the risk: the outer sides parallel and checked, stoned and wiped, both settings on one place."
CREEP = "Creep up to the first spark in the finest steps the dial has."


@dataclass(frozen=True)
class Aim:
    """Where a slot's walls are ground to: its centre and width [mm], each wall's stock, and why not yet."""

    planned: SlotPlan
    centre_mm: Decimal
    width_mm: Decimal
    stop: str = ""
    note: str = ""

    @property
    def left_mm(self) -> Decimal:
        """The left wall from the datum [mm]."""
        return self.centre_mm - self.width_mm / 2

    @property
    def right_mm(self) -> Decimal:
        """The right wall from the datum [mm]."""
        return self.centre_mm + self.width_mm / 2


def aim_of(slot: Slot) -> Aim:
    """Return where a slot's walls go; where width and position cannot both be, what was decided to keep says it."""
    width = slot.width_mm + (slot.width_plus_mm - slot.width_minus_mm) / 2
    made = slot_plan(
        datum_to_left_mm=slot.left_now_mm, datum_to_right_mm=slot.right_now_mm, centre_mm=slot.centre_mm, width_mm=width
    )
    if made.possible:
        return Aim(made, slot.centre_mm, width)
    if made.total_mm < 0:
        return Aim(made, slot.centre_mm, width, f"{made.why} It goes to the lead before a wheel is touched.")
    if not slot.keep:
        return Aim(made, slot.centre_mm, width, f"Decide at take-in before cutting. {made.why}")
    if slot.keep == "position":
        wide = width + made.best_width_error_mm
        note = f"Decided: kept in position, {made.best_width_error_mm.normalize():f} mm too wide."
        return Aim(made, slot.centre_mm, wide, note=note)
    off = made.best_position_error_mm * (-1 if made.left_stock_mm < 0 else 1)
    note = f"Decided: kept in width, {abs(off).normalize():f} mm off position."
    return Aim(made, slot.centre_mm + off, width, note=note)


def slot_axes(slot: Slot) -> tuple[str, str]:
    """Return the size a slot runs along, and the size that its datum side bounds."""
    up, across = AXIS[slot.on_face], AXIS[slot.datum]
    return next(axis for axis in AXES if axis not in (up, across)), across


def slot_wrong(slot: Slot, sizes: Mapping[str, PairSize]) -> dict[str, str]:
    """Return what of a slot does not go with its block, by field, in words."""
    if AXIS[slot.on_face] == AXIS[slot.datum]:
        return {"datum": f"Face {slot.datum} is no side of face {slot.on_face}."}
    _, across = slot_axes(slot)
    wide, high = sizes[across].target_mm, sizes[AXIS[slot.on_face]].target_mm
    said = {}
    if slot.right_now_mm >= wide:
        said["right_now_mm"] = f"The part is only {wide.normalize():f} mm across there."
    if slot.centre_mm + slot.width_mm / 2 >= wide or slot.centre_mm <= slot.width_mm / 2:
        said["centre_mm"] = "The slot would break out of the part's side."
    if max(slot.depth_mm, slot.depth_now_mm) >= high:
        said["depth_mm"] = f"The part is only {high.normalize():f} mm deep there."
    if slot.depth_tol_mm >= slot.depth_mm:
        said["depth_tol_mm"] = "The tolerance leaves nothing of the depth."
    return said


def slot_surfaces(slot: Slot, first: int, sizes: Mapping[str, PairSize]) -> list[Formed]:
    """Return a slot's floor and walls, numbered from ``first``."""
    aim = aim_of(slot)
    run, across = slot_axes(slot)
    length, depth = float(sizes[run].goal_mm), float(slot.depth_mm)
    others = (slot.on_face, slot.datum, OPPOSITE[slot.datum])
    floor = _floor(slot, first, others, Lying(length, float(slot.width_mm), float(sizes[AXIS[slot.on_face]].goal_mm)))
    lying = Lying(length, depth, float(sizes[across].goal_mm))
    walls = [
        _wall(slot, aim, "left", first + 1, after=(*others, first), lying=lying),
        _wall(slot, aim, "right", first + 2, after=(*others, first, first + 1), lying=lying),
    ]
    return [floor, *walls]


def _floor(slot: Slot, number: int, others: tuple[int, ...], lying: Lying) -> Formed:
    name = f"{slot.name} depth"
    surface = Surface(
        number, name, OPPOSITE[slot.on_face], kind=FORMED, words=f"{slot.name}, floor", part="floor",
        per_feed=Decimal(1),
        after=others[:1],
    )  # fmt: skip
    size = sized(slot.depth_mm, slot.depth_tol_mm, slot.depth_tol_mm, slot.depth_now_mm)
    held = Holding(
        "",
        "The floor with the wheel's face, the wheel narrower than the slot and clear of both walls.",
        "the chuck's flatness",
        ("Clear of both walls by hand, before the table runs.",),
        (),
        ("indicated", "pushed", "room"),
    )
    asked = Asked(name, "size", (number, slot.on_face), slot.depth_mm, slot.depth_tol_mm, slot.depth_tol_mm)
    return Formed(
        surface, size, slot.depth_mm, lying, Feeding(), held, (asked,), str(number), left_alone=size.is_in_as_it_came
    )


def _wall(slot: Slot, aim: Aim, side: str, number: int, *, after: tuple[int, ...], lying: Lying) -> Formed:
    tilted = slot.way == "tilted"
    rate, left = (COS if tilted else Decimal(1)), side == "left"
    feeding = (
        Feeding("down", COS, plunged=True)
        if tilted
        else Feeding("across", Decimal(1), plunged=True, cut_ratio=SIDE_ETA, side_work=True)
    )
    name = f"{slot.name} left" if left else f"{slot.name} width"
    surface = Surface(
        number, name, OPPOSITE[slot.on_face], kind=FORMED, words=f"{slot.name}, {side} wall", part=side,
        per_feed=-rate if left else rate, after=after,
    )  # fmt: skip
    half = (slot.width_minus_mm + slot.width_plus_mm) / 2
    room = max(slot.position_tol_mm - half / 2, slot.position_tol_mm / 2)
    if left:
        size, goal = sized(aim.left_mm, room, room, slot.left_now_mm), aim.left_mm
        asked = [Asked(name, "size", (number, slot.datum), aim.left_mm, room, room)]
    else:
        now = slot.right_now_mm - min(aim.left_mm, slot.left_now_mm)
        size, goal = sized(slot.width_mm, slot.width_minus_mm, slot.width_plus_mm, now), aim.width_mm
        tol = slot.position_tol_mm
        asked = [
            Asked(name, "size", (number, number - 1), slot.width_mm, slot.width_minus_mm, slot.width_plus_mm),
            Asked(f"{slot.name} position", "position", (number, number - 1, slot.datum), slot.centre_mm, tol, tol),
        ]
    stock = aim.planned.left_stock_mm if left else aim.planned.right_stock_mm
    ready = surface.to_feed(size.measured_max_mm, goal) <= 0
    return Formed(
        surface, size, goal, lying, feeding, _held(slot, side, tilted), tuple(asked), str(number), aim.stop,
        aim.note, left_alone=ready and not aim.stop and stock <= 0,
    )  # fmt: skip


def _held(slot: Slot, side: str, tilted: bool) -> Holding:
    if tilted:
        which = "the datum side" if side == "left" else "turned 180°, the other side"
        return Holding(
            "sine_plate",
            f"Tilted 45°, wheel dressed to 45°: the {side} wall with the wheel's face; {which} to the stop.",
            "the plate's angle, and the turn",
            (
                "Both outer sides proven parallel.",
                "Wheel dressed to 45°, tried on the slot's mouth.",
                f"Stack for 45° under the plate; {which} to the plate's stop, so that the {side} wall looks up.",
            ),
            (TURN, CREEP),
            ("outer sides", "wheel shape", "stack", "foil", "angle back", "indicated", "room"),
        )
    return Holding(
        "",
        f"The {side} wall with the relieved side of the wheel; the part indicated along the travel.",
        "the wheel's side, and how the part is indicated",
        (
            "Part indicated along the travel.",
            "Wheel relieved; its point reaches into the undercut.",
            "Room beside the wheel seen, both ends.",
        ),
        ("Only a wheel whose maker allows work on its side; guard closed, stand aside, local rules first.", CREEP),
    )


def slot_drawn(slot: Slot, frame: Frame) -> list[Drawn]:
    """Return a slot's edges on its block: its walls at the open face, its profile at both ends."""
    run, _ = slot_axes(slot)
    first, last = (face for face, axis in AXIS.items() if axis == run)
    aim, long = aim_of(slot), frame.sizes[run]
    left, right, deep = float(aim.left_mm), float(aim.right_mm), float(slot.depth_mm)
    up, datum = f"face{slot.on_face}", f"face{slot.datum}"

    def at(wall: float, down: float, along: float) -> Point:
        return frame.at(**{up: down, datum: wall, f"face{first}": along})

    lines = [
        Drawn(slot.name, (at(wall, 0, 0), at(wall, 0, long)), (slot.on_face,), words=slot.name if wall == left else "")
        for wall in (left, right)
    ]
    for end, along in ((first, 0.0), (last, long)):
        profile = (at(left, 0, along), at(left, deep, along), at(right, deep, along), at(right, 0, along))
        lines.append(Drawn(slot.name, profile, (end,)))
    return lines

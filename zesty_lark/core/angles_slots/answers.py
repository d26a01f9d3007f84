"""Quick answers at the bench: from what is asked to figures in words, steps, cautions and drawings.

What each comes to is the named calculation's; here it is put together, and drawn from the same vectors.
"""

from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any, Literal

from zesty_lark.core.angles_slots.block_sets import BlockSet
from zesty_lark.core.angles_slots.compound import Normal, hinges, mitre, mitre_steps
from zesty_lark.core.angles_slots.drawn import (
    Outline,
    arc_drawn,
    break_drawn,
    corner_roll_drawn,
    mitre_drawn,
    sine_drawn,
    slot_drawn,
    two_angles_drawn,
    vee_roll_drawn,
)
from zesty_lark.core.angles_slots.radii import arc, edge_break
from zesty_lark.core.angles_slots.rolls import roll_corner, roll_vee
from zesty_lark.core.angles_slots.sine import sine_checked, sine_setting
from zesty_lark.core.angles_slots.slot_ways import slot_ways
from zesty_lark.core.angles_slots.slots import slot_flip_taper, slot_plan
from zesty_lark.core.quantities.angles import dms_text
from zesty_lark.core.quantities.numbers import InputError

CLEAN = (
    "Stone and wipe rolls, plate and blocks; clamp the plate, then look whether a thin foil still goes under a roll. "
    "Clear guard, plate's end and clamps by hand, the wheel still, before the table runs."
)
SIGNS = "Signs are what goes wrong: hold the part as it is drawn first, and turn it as it is drawn second."
SIDE_WORK = (
    "Work on a wheel's side only where its maker allows it; guard closed, stand aside, local rules first. Creep up to "
    "the first spark in the finest steps the dial has."
)
KICKS = "Run the table clear before the fixture comes off: with the magnet off it can kick up into the wheel."


@dataclass(frozen=True)
class Answer:
    """What comes out: the figure that matters, the others beside their names, drawings with their titles, steps in
    order, cautions, and what stops it."""

    figure: str
    told: list[tuple[str, str]]
    drawings: list[tuple[str, list[Outline]]]
    steps: list[str] = field(default_factory=list)
    cautions: list[str] = field(default_factory=list)
    stops: list[str] = field(default_factory=list)
    value_mm: float | None = None
    """The figure as a number, where it is a length [mm]."""


def _within(name: str, angle_deg: float, most: float) -> None:
    if not 0 < angle_deg < most:
        raise InputError(name, f"This has to be an angle over 0° and under {most:g}°.")


def block_choice(blocks: BlockSet | None) -> dict[str, Any]:
    """The blocks that a stack is made from, as the calculation takes them: the shop's own, or the usual 88."""
    return {"set": "metric88"} if blocks is None else {"blocks": list(blocks.usable), "unit": blocks.unit}


def sine_answer(
    *, angle_deg: float, centres_mm: float, blocks: BlockSet | None, rise_um: float | None = None, over_mm: float = 0.0
) -> Answer:
    """A face at an angle [°] on a sine plate [mm], from the shop's own blocks, or the usual 88 without any; and what it
    stands at, where it was checked back [µm] over a length [mm]."""
    _within("angle", angle_deg, 90)
    made = sine_setting(centres_mm=centres_mm, angle_deg=angle_deg, **block_choice(blocks))
    wrung = " + ".join(f"{block.normalize():f}" for block in made.stack.blocks)
    told = [
        ("Stack wanted", f"{made.height_mm:.5f} mm"),
        ("Wrung, large to small", f"{wrung} {made.stack.unit}"),
        ("Comes to", f"{made.stack_mm:.5f} mm, {made.error_um:+.2f} µm"),
        ("The angle then", f"{made.set_words}, {made.error_arcsec:+.2f}″"),
    ]
    if made.complement_mm is not None:
        told.append(("From the other side", f"{made.complement_mm:.5f} mm: only on a face proven square"))
    stands = 90 - made.set_deg if made.from_other_side else made.set_deg
    if rise_um is not None:
        back = sine_checked(centres_mm=centres_mm, angle_deg=angle_deg, rise_um=rise_um, over_mm=over_mm)
        told.append(("Checked back, it stands at", f"{back.stands_words}, {back.off_arcsec:+.2f}″"))
        told.append(("Change the stack by", f"{back.change_mm:+.5f} mm"))
    cautions = [CLEAN]
    if made.from_other_side:
        cautions.insert(0, f"Over 60° the complement, {90 - angle_deg:g}°, is set from the other side.")
    drawn = sine_drawn(centres_mm, stands, made.stack_mm)
    figure = f"{made.stack_mm:.4f} mm"
    return Answer(figure, told, [("The plate on its stack", drawn)], cautions=cautions, value_mm=made.stack_mm)


def two_angles_answer(*, normal: Normal, base_mm: float, top_mm: float) -> Answer:
    """A face at two angles on a compound sine plate, centre distances [mm]."""
    nx, ny, nz = normal.nx, normal.ny, normal.nz
    if nz <= 0:
        raise InputError("nz", "The face has to look up: its normal's z over 0.")
    made = hinges(nx=nx, ny=ny, nz=nz, base_centres_mm=base_mm, top_centres_mm=top_mm)
    told = [
        ("Base hinge", f"{dms_text(made.base_deg)}: {'front' if made.base_deg < 0 else 'back'} goes up"),
        ("Its stack", f"{made.base_stack_mm:.5f} mm"),
        ("Top hinge", f"{dms_text(made.top_deg)}: {'left' if made.top_deg > 0 else 'right'} goes up"),
        ("The top's stack", f"{made.top_stack_mm:.5f} mm"),
    ]
    drawings = [
        ("As it lies, from the front right", two_angles_drawn(nx, ny, nz, turn=False)),
        ("As the hinges set it: the face level", two_angles_drawn(nx, ny, nz, turn=True)),
    ]
    figure = f"{made.base_stack_mm:.4f}, {made.top_stack_mm:.4f} mm"
    return Answer(figure, told, drawings, cautions=[SIGNS, CLEAN])


def mitre_answer(*, floor_deg: float, wall_deg: float) -> Answer:
    """Two lead-in chamfers that meet in a corner [°]."""
    _within("floor", floor_deg, 90)
    _within("wall", wall_deg, 90)
    made = mitre(floor_deg=floor_deg, wall_deg=wall_deg)
    before, after = mitre_drawn(floor_deg, wall_deg)
    told = [
        ("Tilt", dms_text(made.tilt_deg)),
        ("Turn in plan", dms_text(made.rotate_deg)),
        ("Wheel's side", made.wheel_dms),
        ("Dresser, from the other side", made.dresser_dms),
    ]
    drawings = [("In plan, before the tilt", before), ("In plan, tilted and turned; the wheel from its end", after)]
    return Answer(made.wheel_dms, told, drawings, steps=mitre_steps(made))


def slot_answer(
    *,
    left_mm: Decimal,
    right_mm: Decimal,
    centre_mm: Decimal,
    width_mm: Decimal,
    depth_mm: float,
    graduation_mm: Decimal,
    wheel_mm: float,
    lift_um: float,
    span_mm: float,
    long_mm: float,
) -> Answer:
    """A slot's walls from one datum, as they are and as the print wants them; the dial, the wheel, and dirt under one
    end of the seat [mm] [µm]."""
    made = slot_plan(datum_to_left_mm=left_mm, datum_to_right_mm=right_mm, centre_mm=centre_mm, width_mm=width_mm)
    left, right = made.left_stock_mm.normalize(), made.right_stock_mm.normalize()
    told = [("Left wall", f"{left:+f} mm"), ("Right wall", f"{right:+f} mm")]

    def drawn(centre: Decimal, width: Decimal) -> list[Outline]:
        return slot_drawn(float(left_mm), float(right_mm), float(centre), float(width), depth_mm=depth_mm)

    drawings = [("As it is, and where the print wants it", drawn(centre_mm, width_mm))]
    if not made.possible:
        told += [
            ("Keep the width", f"{made.best_position_error_mm.normalize():f} mm off position"),
            ("Keep the position", f"{made.best_width_error_mm.normalize():f} mm too wide"),
        ]
        toward = 1 if made.right_stock_mm < made.left_stock_mm else -1
        drawings += [
            ("Kept in width", drawn(centre_mm + toward * made.best_position_error_mm, width_mm)),
            ("Kept in position", drawn(centre_mm, width_mm + made.best_width_error_mm)),
        ]
    for side, stock in (("Left", made.left_stock_mm), ("Right", made.right_stock_mm)):
        if stock > 0:
            told += _wall(side, stock, graduation_mm, float(right_mm - left_mm), wheel_mm=wheel_mm)
    taper = slot_flip_taper(
        seat_lift_mm=lift_um / 1000, seat_span_mm=span_mm, wall_length_mm=long_mm, wall_depth_mm=depth_mm
    )
    along, deep = 1000 * taper.along_mm, 1000 * taper.depth_mm
    told.append(("Dirt in one of two settings", f"{along:.2f} µm of taper along, {deep:.2f} over the depth"))
    stops = [] if made.possible else [f"Decide before cutting. {made.why}"]
    return Answer(f"{made.total_mm.normalize():f} mm in all", told, drawings, cautions=[SIDE_WORK], stops=stops)


def _wall(
    side: str, stock_mm: Decimal, graduation_mm: Decimal, room_mm: float, *, wheel_mm: float
) -> list[tuple[str, str]]:
    ways = slot_ways(stock_mm=stock_mm, graduation_mm=graduation_mm, slot_width_mm=room_mm, wheel_width_mm=wheel_mm)
    told = []
    for name, way in (("wheel's side", ways.side), ("tilted 45°", ways.tilted)):
        dial = f"{way.steps} × {way.step_mm.normalize():f} at the dial, {way.at_dial_mm.normalize():f} in all"
        told.append((f"{side}, {name}", f"{dial}, then {way.spark_passes} passes without feed"))
    if not ways.has_room:
        told.append((f"{side}, room", f"this wheel has none: {ways.widest_wheel_mm:.2f} mm wide at the most"))
    return told


def roll_answer(
    *, where: Literal["corner", "vee"], diameter_mm: float, included_deg: float, reading_mm: float | None
) -> Answer:
    """A roll in a corner or a vee [mm] [°], and what is left to take by what was read."""
    _within("included", included_deg, 180)
    if where == "vee":
        vee = roll_vee(diameter_mm=diameter_mm, included_deg=included_deg)
        wanted, drawn = vee.top_above_vertex_mm, vee_roll_drawn(diameter_mm, included_deg)
        told = [("Top over the vertex", f"{wanted:.5f} mm"), ("Centre over it", f"{vee.centre_above_vertex_mm:.5f} mm")]
    else:
        corner = roll_corner(diameter_mm=diameter_mm, included_deg=included_deg)
        wanted, drawn = corner.reading_mm, corner_roll_drawn(diameter_mm, included_deg)
        told = [
            ("Far side from the vertex", f"{wanted:.5f} mm"),
            ("Tangent from the vertex", f"{corner.from_vertex_along_mm:.5f} mm"),
        ]
    if reading_mm is not None:
        told.append(("Left to take", f"{wanted - reading_mm:+.5f} mm: what the reading lacks"))
    return Answer(f"{wanted:.4f} mm", told, [("The roll where it lies", drawn)])


def radius_answer(*, radius_mm: float, sweep_deg: float, allow_um: float, centre_mm: float) -> Answer:
    """An outside radius swung on a fixture whose centre stands so high over the magnet [mm] [°] [µm]."""
    if not 0 < sweep_deg <= 360:
        raise InputError("sweep", "This has to be a sweep over 0° and up to 360°.")
    made = arc(radius_mm=radius_mm, sweep_deg=sweep_deg, allow_mm=allow_um / 1000)
    told = [
        ("Wheel's height over the magnet", f"{centre_mm + radius_mm:.4f} mm: the centre and the radius"),
        ("Each step", dms_text(made.step_deg)),
        ("Peaks left on the part", f"{1000 * made.peak_mm:.2f} µm"),
    ]
    shown = min(sweep_deg, 180.0)
    drawn = arc_drawn(radius_mm, shown, max(1, round(made.steps * shown / sweep_deg)))
    title = "Flats are tangents, peaks stand between them"
    return Answer(f"{made.steps} steps", told, [(title, drawn)], cautions=[KICKS])


def edge_answer(*, flat_mm: float) -> Answer:
    """A 90° edge broken at 45° to a flat [mm]."""
    down = flat_mm / 2
    made = edge_break(downfeed_mm=down)
    told = [("Below the sharp corner", f"{down:.4f} mm"), ("Off each face", f"{made.off_each_face_mm:.4f} mm")]
    return Answer(f"down {down:.3f} mm", told, [("The edge up in a vee, from its end", break_drawn(down))])

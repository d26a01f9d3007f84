"""Set-ups for angles and slots as they are drawn, seen from the front: the plate on its stack, the part as it lies
there, the wheel where it cuts. Points in millimetres from the same vectors that the numbers come from."""

import math
from dataclasses import dataclass

from zesty_lark.core.angles_slots.compound import mitre
from zesty_lark.core.angles_slots.drawn import Outline, turned

Point = tuple[float, float]
Solid = tuple[float, float, float]
ROLL_SHARE, PLATE_SHARE, BEYOND_SHARE = 0.1, 0.12, 0.14
END_MM = 1.0
"""The part ends so far before the plate's upper end [mm]."""
ISO = (math.cos(math.radians(30)), math.sin(math.radians(30)))
STOP_SHARE, CLAMP_SHARE = 0.6, 0.75
"""Stop and clamp end under the face: so high of the part's high edge."""
RELIEF_DEG = 2.0
CLEAR_FLANK = 1.1
"""The wheel's other flank rises so much steeper than the floor, and clears it."""
TILT_DEG = 45.0


@dataclass(frozen=True)
class Clearance:
    """How the wheel clears a sine plate: the face over the plate's upper end [mm] (negative: the end stands higher),
    and how far the wheel may run past the face there; ``None`` as far as one likes."""

    face_over_end_mm: float
    may_overrun_mm: float | None

    @property
    def is_clear(self) -> bool:
        """Whether the wheel clears the plate's end wherever it runs."""
        return self.face_over_end_mm >= 0


def _turn(points: list[Point], deg: float, about: Point = (0.0, 0.0)) -> list[Point]:
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    x0, y0 = about
    return [(x0 + (x - x0) * c - (y - y0) * s, y0 + (x - x0) * s + (y - y0) * c) for x, y in points]


def _box(x: float, y: float, wide: float, high: float) -> list[Point]:
    return [(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)]


def plate_clearance(
    *, centres_mm: float, angle_deg: float, long_mm: float, high_edge_mm: float, wheel_diameter_mm: float
) -> Clearance:
    """Tell how the wheel clears the upper end of a sine plate.

    Parameters
    ----------
    centres_mm, angle_deg : float
        Of the plate's rolls [mm], and what it stands at [°].
    long_mm, high_edge_mm : float
        The part down the slope, its foot flush with the plate's upper end, and its height at the high edge, which lies
        at the lower end [mm].
    wheel_diameter_mm : float
        The wheel's [mm].

    Notes
    -----
    The face lies level at its high edge's place: (x sin a + y cos a) there, less the same of the plate's end. Where the
    end stands h over the face, a wheel of radius R comes within √(2Rh − h²) of it.
    """
    a = math.radians(angle_deg)
    end = centres_mm * (1 + BEYOND_SHARE)
    low = end - END_MM - long_mm
    over = low * math.sin(a) + high_edge_mm * math.cos(a) - end * math.sin(a)
    if over >= 0:
        return Clearance(over, None)
    high, radius = -over, wheel_diameter_mm / 2
    gap = END_MM * math.cos(a) + max(high_edge_mm - long_mm * math.tan(a), 0.0) * math.sin(a)
    return Clearance(over, max(gap - math.sqrt(max(2 * radius * high - high * high, 0.0)), 0.0))


def _plate(centres_mm: float, angle_deg: float, stack_mm: float) -> tuple[list[Outline], Point, float]:
    """A plate on its stack; where its lower roll's centre is, and how thick it is."""
    radius, thick, beyond = centres_mm * ROLL_SHARE, centres_mm * PLATE_SHARE, centres_mm * BEYOND_SHARE
    near = (0.0, radius)
    far = (centres_mm * math.cos(math.radians(angle_deg)), radius + stack_mm)
    flat = _box(-beyond, radius, centres_mm + 2 * beyond, thick)
    wide = radius * 0.8
    made = [
        Outline("table", [(-beyond * 1.6, 0.0), (centres_mm + beyond * 1.6, 0.0)], closed=False),
        Outline("stack", _box(far[0] - wide, 0.0, 2 * wide, stack_mm), words=f"{stack_mm:.4f}"),
        Outline("tool", _turn(flat, angle_deg, near)),
        Outline("tool", [near], radius=radius),
        Outline("tool", [far], radius=radius),
    ]
    return made, near, thick


def incline_drawn(
    *, centres_mm: float, angle_deg: float, stack_mm: float, part_mm: tuple[float, float], wheel_diameter_mm: float
) -> list[Outline]:
    """Draw an inclined face on its sine plate: the part, ``part_mm`` long down the slope and high at its high edge
    [mm], its foot flush with the plate's upper end; its face lies level under the wheel."""
    made, near, thick = _plate(centres_mm, angle_deg, stack_mm)
    long, high = part_mm
    left, foot = centres_mm * (1 + BEYOND_SHARE) - END_MM - long, near[1] + thick
    low = max(high - long * math.tan(math.radians(angle_deg)), 0.0)
    profile = [(left, foot), (left + long, foot), (left + long, foot + low), (left, foot + high)]
    lying = _turn(profile, angle_deg, near)
    stop = _turn(_box(left - 4.0, foot, 4.0, high * STOP_SHARE), angle_deg, near)
    clamp = _turn(_box(left - 9.0, foot, 5.0, high * CLAMP_SHARE), angle_deg, near)
    level, radius = lying[3][1], wheel_diameter_mm / 2
    middle = (lying[3][0] + lying[2][0]) / 2
    part_arc = [
        (middle + radius * math.sin(turn), level + radius - radius * math.cos(turn))
        for turn in (math.radians(each) for each in range(-24, 25, 3))
    ]
    return [
        *made,
        Outline("tool", stop),
        Outline("tool", clamp, words="clamp"),
        Outline("part", lying),
        Outline("face", [lying[3], lying[2]], closed=False, words="level"),
        Outline("wheel", part_arc, closed=False, words="wheel"),
    ]


def _slotted(across_mm: float, high_mm: float, slot_mm: tuple[float, float], depth_mm: float) -> list[Point]:
    """A part's end with its slot, from its lower left corner."""
    left, right = slot_mm
    return [
        (0.0, 0.0), (across_mm, 0.0), (across_mm, high_mm), (right, high_mm), (right, high_mm - depth_mm),
        (left, high_mm - depth_mm), (left, high_mm), (0.0, high_mm),
    ]  # fmt: skip


def tilted_slot_drawn(
    *,
    centres_mm: float,
    stack_mm: float,
    part_mm: tuple[float, float],
    slot_mm: tuple[float, float],
    depth_mm: float,
    wheel_mm: float,
    side: str,
) -> list[Outline]:
    """Draw a slot's wall tilted to 45° on its plate, the wheel's 45° face along it.

    ``part_mm`` is what it is across and high, ``slot_mm`` its walls from the datum [mm]. The wall that is ground looks
    up: the left one with the datum side to the stop at the lower end, the right one with the part turned round.
    """
    made, near, thick = _plate(centres_mm, TILT_DEG, stack_mm)
    across, high = part_mm
    left, right = slot_mm if side == "left" else (across - slot_mm[1], across - slot_mm[0])
    shift, foot = centres_mm * (1 + BEYOND_SHARE) - END_MM - across, near[1] + thick

    def at(points: list[Point]) -> list[Point]:
        return _turn([(x + shift, y + foot) for x, y in points], TILT_DEG, near)

    lying = at(_slotted(across, high, (left, right), depth_mm))
    bottom, top = at([(left, high - depth_mm), (left, high)])
    over, edge = max(y for _, y in lying) + depth_mm, top[0] + max(wheel_mm, bottom[0] - top[0])
    flank = (edge, bottom[1] + (edge - bottom[0]) * CLEAR_FLANK)
    wheel = [top, bottom, flank, (edge, over), (top[0], over)]
    return [
        *made,
        Outline("tool", at([(-4.0, 0.0), (0.0, 0.0), (0.0, high * 0.6), (-4.0, high * 0.6)])),
        Outline("part", lying),
        Outline("wheel", wheel),
        Outline("cut", [bottom, top], closed=False, words=f"{side} wall"),
    ]


def side_slot_drawn(
    *,
    part_mm: tuple[float, float],
    slot_mm: tuple[float, float],
    depth_mm: float,
    undercut_mm: float,
    wheel_mm: float,
    side: str,
) -> list[Outline]:
    """Draw a slot's wall under the relieved side of the wheel, its point reaching into the undercut [mm]."""
    across, high = part_mm
    left, right = slot_mm
    floor, sign = high - depth_mm, 1.0 if side == "left" else -1.0
    wall = left if side == "left" else right
    tip = floor - undercut_mm * 0.6
    lean = math.tan(math.radians(RELIEF_DEG)) * (high + depth_mm - tip)
    top = high + depth_mm
    wheel = [
        (wall, tip), (wall + sign * lean, top), (wall + sign * wheel_mm, top), (wall + sign * wheel_mm, tip),
    ]  # fmt: skip
    corner = [
        (wall, floor), (wall, floor - undercut_mm), (wall + sign * undercut_mm, floor - undercut_mm),
        (wall + sign * undercut_mm, floor),
    ]  # fmt: skip
    return [
        Outline("table", [(-10.0, 0.0), (across + 10.0, 0.0)], closed=False),
        Outline("part", _slotted(across, high, slot_mm, depth_mm)),
        Outline("ground", corner, words="undercut"),
        Outline("wheel", wheel, words="wheel, relieved"),
        Outline("cut", [(wall, floor), (wall, high)], closed=False, words=f"{side} wall"),
    ]


def corner_drawn(floor_deg: float, wall_deg: float, *, tilted: bool, turn: bool = False) -> list[Outline]:
    """Draw the two chamfers of a corner in space, from the front right and above: as they are, tilted so that the
    floor's lies level, and turned in plan so that the wall's lies along the travel."""
    return [
        Outline(role, [_seen(each) for each in ring], words=words)
        for role, ring, words in corner_in_space(floor_deg, wall_deg, tilted=tilted, turn=turn)
    ]


def corner_in_space(
    floor_deg: float, wall_deg: float, *, tilted: bool, turn: bool
) -> list[tuple[str, list[Solid], str]]:
    """Return the floor's and the wall's chamfer as rings of points [mm]: the corner's line first in both."""
    a, b = math.radians(floor_deg), math.radians(wall_deg)
    long, wide, high = 60.0, 30.0, 24.0

    def on_floor(x: float, y: float) -> Solid:
        return x, y, x * math.tan(a)

    begin, end = on_floor(0.0, 0.0), on_floor(long * math.cos(b), long * math.sin(b))
    floor = [
        begin,
        end,
        on_floor(end[0] - wide * math.sin(b), end[1] + wide * math.cos(b)),
        on_floor(-wide * math.sin(b), wide * math.cos(b)),
    ]
    wall = [begin, end, (end[0], end[1], end[2] + high), (begin[0], begin[1], begin[2] + high)]
    made = mitre(floor_deg=floor_deg, wall_deg=wall_deg)

    def set_up(point: Solid) -> Solid:
        if not tilted:
            return point
        x, y, z = turned(point, 0.0, floor_deg)
        if not turn:
            return x, y, z
        spin = math.radians(-made.rotate_deg)
        return x * math.cos(spin) - y * math.sin(spin), x * math.sin(spin) + y * math.cos(spin), z

    words = ("floor, level" if tilted else f"floor, {floor_deg:g}°", "wall, along the travel" if turn else "wall")
    return [("part", [set_up(each) for each in wall], words[1]), ("face", [set_up(each) for each in floor], words[0])]


def _seen(point: Solid) -> Point:
    x, y, z = point
    return (x + y) * ISO[0], (y - x) * ISO[1] + z

"""Angles, slots and radii as they are drawn: points in millimetres from the same vectors that the numbers come from.

A drawing is a list of outlines, each with the part it plays; views are from the front, up is up, unless they say so.
"""

import math
from dataclasses import dataclass

from zesty_lark.core.angles_slots.compound import hinges, mitre

Point = tuple[float, float]
Solid = tuple[float, float, float]
ROLL_SHARE, PLATE_SHARE, SIDE_SHARE = 0.1, 0.12, 0.14
BLOCK: Solid = (60.0, 40.0, 24.0)
"""The block that stands for a part in views of two angles [mm]."""
ISO = (math.cos(math.radians(30)), math.sin(math.radians(30)))


@dataclass(frozen=True)
class Outline:
    """One outline: the part it plays, its points, whether it is closed; a circle has its radius and one point."""

    role: str
    points: list[Point]
    closed: bool = True
    radius: float = 0.0
    words: str = ""


def _turn(points: list[Point], deg: float, about: Point = (0.0, 0.0)) -> list[Point]:
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    x0, y0 = about
    return [(x0 + (x - x0) * c - (y - y0) * s, y0 + (x - x0) * s + (y - y0) * c) for x, y in points]


def _box(x: float, y: float, wide: float, high: float) -> list[Point]:
    return [(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)]


def sine_drawn(centres_mm: float, angle_deg: float, stack_mm: float, *, part_mm: Point = (70.0, 25.0)) -> list[Outline]:
    """Draw a sine plate on its stack with a part on it, and the level that the wheel grinds.

    ``angle_deg`` is what the plate stands at, ``stack_mm`` the stack under its far roll.
    """
    radius = centres_mm * ROLL_SHARE
    near, far = (0.0, radius), (centres_mm * math.cos(math.radians(angle_deg)), radius + stack_mm)
    thick, beyond = centres_mm * PLATE_SHARE, centres_mm * SIDE_SHARE
    flat = _box(-beyond, radius, centres_mm + 2 * beyond, thick)
    along, high = part_mm
    left = (centres_mm - along) / 2
    part = _box(left, radius + thick, along, high)
    plate, lying = _turn(flat, angle_deg, near), _turn(part, angle_deg, near)
    cut = max(y for _, y in lying) - high * math.sin(math.radians(angle_deg)) * 0.5
    stop = _box(left - 4.0, radius + thick, 4.0, high * 0.7)
    wide, right = radius * 0.8, max(x for x, _ in lying)
    return [
        Outline("table", [(-beyond * 1.6, 0.0), (centres_mm + beyond * 1.6, 0.0)], closed=False),
        Outline("stack", _box(far[0] - wide, 0.0, 2 * wide, stack_mm)),
        Outline("tool", plate),
        Outline("tool", [near], radius=radius),
        Outline("tool", [far], radius=radius),
        Outline("tool", _turn(stop, angle_deg, near)),
        Outline("part", lying),
        Outline("cut", [(lying[0][0] - 10, cut), (right + 10, cut)], closed=False, words="ground level"),
    ]  # fmt: skip


def turned(point: Solid, base_deg: float, top_deg: float) -> Solid:
    """Return a point after R = Rx(base)·Ry(top)."""
    x, y, z = point
    b, a = math.radians(top_deg), math.radians(base_deg)
    x, z = x * math.cos(b) + z * math.sin(b), -x * math.sin(b) + z * math.cos(b)
    y, z = y * math.cos(a) - z * math.sin(a), y * math.sin(a) + z * math.cos(a)
    return x, y, z


def _seen(point: Solid) -> Point:
    """A point seen from the front right and above: x to the right, y to the back, z up."""
    x, y, z = point
    return (x + y) * ISO[0], (y - x) * ISO[1] + z


def _corners(nx: float, ny: float, nz: float) -> tuple[list[Solid], list[Solid]]:
    """A block's foot, and its top as a face with that normal cuts it, at the corners front left, front right, back
    right, back left."""
    along, across, high = BLOCK
    foot = [(0.0, 0.0, 0.0), (along, 0.0, 0.0), (along, across, 0.0), (0.0, across, 0.0)]
    tops = [high - (nx * (x - along / 2) + ny * (y - across / 2)) / nz for x, y, _ in foot]
    lowest = min(tops)
    lift = max(8.0 - lowest, 0.0)
    return foot, [(x, y, z + lift) for (x, y, _), z in zip(foot, tops, strict=True)]


def two_angles_drawn(nx: float, ny: float, nz: float, *, turn: bool) -> list[Outline]:
    """Draw a block with a face of that normal from the front right and above; with ``turn`` as the hinges set it, its
    face level."""
    foot, top = _corners(nx, ny, nz)
    if turn:
        made = hinges(nx=nx, ny=ny, nz=nz, base_centres_mm=100, top_centres_mm=100)
        foot = [turned(each, made.base_deg, made.top_deg) for each in foot]
        top = [turned(each, made.base_deg, made.top_deg) for each in top]
    sides = [(0, 1), (1, 2), (2, 3), (3, 0)]
    walls = [[foot[a], foot[b], top[b], top[a]] for a, b in sides]
    behind = sorted(walls, key=lambda wall: -sum(y - x for x, y, _ in wall))
    found = [Outline("part", [_seen(each) for each in wall]) for wall in behind]
    return [*found, Outline("face", [_seen(each) for each in top], words="level" if turn else "the face")]


def wall_after_tilt(floor_deg: float, wall_deg: float) -> Solid:
    """Return the wall's normal after the part was tilted by the floor's angle about y."""
    b = math.radians(wall_deg)
    return turned((-math.sin(b), math.cos(b), 0.0), 0.0, floor_deg)


def mitre_drawn(floor_deg: float, wall_deg: float) -> tuple[list[Outline], list[Outline]]:
    """Draw two lead-in chamfers in plan, before the tilt and after it and the rotation; the wheel's side stands on the
    line at its angle."""
    made = mitre(floor_deg=floor_deg, wall_deg=wall_deg)

    def plan(line_deg: float, words: str) -> list[Outline]:
        far = (80.0 * math.cos(math.radians(line_deg)), 80.0 * math.sin(math.radians(line_deg)))
        return [
            Outline("part", [(-30.0, -6.0), (90.0, -6.0), (90.0, 62.0), (-30.0, 62.0)]),
            Outline("ground", [(-30.0, 0.0), (90.0, 0.0)], closed=False, words="travel"),
            Outline("face", [(0.0, 0.0), far], closed=False, words=words),
        ]

    before = plan(wall_deg, f"wall, {wall_deg:g}°")
    nx, ny, _ = wall_after_tilt(floor_deg, wall_deg)
    left = math.degrees(math.atan2(-nx, ny)) - made.rotate_deg
    after = plan(left, "wall, along the travel")
    lean = math.tan(math.radians(made.wheel_deg))
    after.append(
        Outline(
            "wheel", [(20.0, 26.0), (20.0 + 30.0 * lean, 56.0), (50.0 + 30.0 * lean, 56.0), (50.0, 26.0)], words="wheel"
        )
    )
    return before, after


def slot_drawn(left_mm: float, right_mm: float, centre_mm: float, width_mm: float, *, depth_mm: float) -> list[Outline]:
    """Draw a slot's section: its walls as they are, and where the print wants them; distances from the datum at the
    left."""
    far = max(right_mm, centre_mm + width_mm / 2) + 0.4 * width_mm
    foot = -depth_mm * 0.6
    now = [
        (0.0, foot),
        (far, foot),
        (far, depth_mm),
        (right_mm, depth_mm),
        (right_mm, 0.0),
        (left_mm, 0.0),
        (left_mm, depth_mm),
        (0.0, depth_mm),
    ]
    wanted = [centre_mm - width_mm / 2, centre_mm + width_mm / 2]
    return [
        Outline("part", now),
        *(Outline("cut", [(x, -depth_mm * 0.1), (x, depth_mm * 1.15)], closed=False, words=words)
          for x, words in zip(wanted, ("wanted", "wanted"), strict=True)),
        Outline("ground", [(centre_mm, foot), (centre_mm, depth_mm * 1.25)], closed=False, words="centre"),
    ]  # fmt: skip


def corner_roll_drawn(diameter_mm: float, included_deg: float) -> list[Outline]:
    """Draw a roll in the corner of two faces."""
    half = math.radians(included_deg) / 2
    radius = diameter_mm / 2
    along = radius / math.tan(half)
    long = along + 1.6 * radius
    other, far = (long * math.cos(2 * half), long * math.sin(2 * half)), along + radius
    return [
        Outline("part", [(0.0, 0.0), (long, 0.0), (long, -0.5 * radius), (-0.4 * radius, -0.5 * radius), other]),
        Outline("tool", [(along, radius)], radius=radius),
        Outline("cut", [(along, 0.0), (along, radius)], closed=False, words="tangent"),
        Outline("ground", [(far, -0.5 * radius), (far, 2 * radius)], closed=False, words="read here"),
    ]  # fmt: skip


def vee_roll_drawn(diameter_mm: float, included_deg: float) -> list[Outline]:
    """Draw a roll in a vee."""
    half, radius = math.radians(included_deg) / 2, diameter_mm / 2
    centre = radius / math.sin(half)
    high = centre + 0.5 * radius
    wide = high * math.tan(half)
    return [
        Outline("part", [(-wide - radius, high), (-wide, high), (0.0, 0.0), (wide, high), (wide + radius, high),
                         (wide + radius, -0.8 * radius), (-wide - radius, -0.8 * radius)]),
        Outline("tool", [(0.0, centre)], radius=radius),
        Outline("ground", [(-wide, centre + radius), (wide, centre + radius)], closed=False, words="read here"),
    ]  # fmt: skip


def arc_drawn(radius_mm: float, sweep_deg: float, steps: int) -> list[Outline]:
    """Draw a radius swung in steps about its centre: flats are tangents, peaks stand between them."""
    step = math.radians(sweep_deg) / steps
    begin = math.pi / 2 - math.radians(sweep_deg) / 2
    out = radius_mm / math.cos(step / 2)

    def at(turn: float, far: float) -> Point:
        return far * math.cos(turn), far * math.sin(turn)

    flats = [
        at(begin, radius_mm),
        *(at(begin + (number + 0.5) * step, out) for number in range(steps)),
        at(begin + steps * step, radius_mm),
    ]
    true = [at(begin + number * math.radians(sweep_deg) / 90, radius_mm) for number in range(91)]
    return [
        Outline("part", [(0.0, 0.0), *flats]),
        Outline("cut", true, closed=False, words="true radius"),
        Outline("ground", [(-radius_mm, radius_mm), (radius_mm, radius_mm)], closed=False, words="wheel height"),
        Outline("tool", [(0.0, 0.0)], radius=max(radius_mm * 0.04, 0.3)),
    ]  # fmt: skip


def break_drawn(downfeed_mm: float) -> list[Outline]:
    """Draw a 90° edge up in a vee, broken by a downfeed below its sharp corner."""
    side = max(5 * downfeed_mm, 1.0)
    foot, down = -side, -downfeed_mm
    return [
        Outline("part", [(down, down), (-down, down), (side, foot), (-side, foot)]),
        Outline("face", [(down, down), (0.0, 0.0), (-down, down)], closed=False, words="sharp corner"),
        Outline("ground", [(-side, down), (side, down)], closed=False, words="ground level"),
    ]

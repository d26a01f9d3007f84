"""Two lead-in chamfers that meet in a corner: tilted and turned, both are cut in one set-up, the wall's first."""

import math
from collections.abc import Mapping
from decimal import Decimal

from zesty_lark.core.angles_slots.compound import mitre, mitre_steps
from zesty_lark.core.angles_slots.rolls import roll_corner
from zesty_lark.core.part.faces import AXIS, OPPOSITE
from zesty_lark.core.part.surfaces.features import LeadIns
from zesty_lark.core.part.surfaces.formed import FORMED, Asked, Feeding, Formed, Holding, sized
from zesty_lark.core.part.surfaces.on_block import Drawn, Frame
from zesty_lark.core.part.surfaces.part import Lying, PairSize
from zesty_lark.core.part.surfaces.surface import Surface

LEAD_INS_ASKS = {
    "on_face": "Floor",
    "wall_face": "Wall along",
    "end": "At the end",
    "floor_deg": "Floor’s angle",
    "wall_deg": "Wall’s angle",
    "angle_tol_deg": "Angles ±",
    "floor_long_mm": "Long on the floor",
    "wall_long_mm": "Long on the wall",
    "long_tol_mm": "Long ±",
    "floor_now_mm": "Floor’s now",
    "wall_now_mm": "Wall’s now",
}
"""What taking one in asks, in this order, and what each is called."""

KEPT = Decimal("0.000000001")
AIM_ROLL_MM = 3.0
"""The roll that the corner is read with [mm]."""


def lead_ins_wrong(pair: LeadIns, sizes: Mapping[str, PairSize]) -> dict[str, str]:
    """Return what of two lead-ins does not go with their block, by field, in words."""
    if len({AXIS[pair.on_face], AXIS[pair.wall_face], AXIS[pair.end]}) < 3:
        return {"wall_face": "Floor, wall and end are faces of three different pairs: they meet in a corner."}
    said = {}
    if pair.floor_long_mm >= sizes[AXIS[pair.end]].target_mm:
        said["floor_long_mm"] = "The lead-in is longer than the part."
    if pair.wall_long_mm >= sizes[AXIS[pair.end]].target_mm:
        said["wall_long_mm"] = "The lead-in is longer than the part."
    for now in ("floor_now_mm", "wall_now_mm"):
        wanted = getattr(pair, now.replace("now", "long"))
        if getattr(pair, now) > wanted + pair.long_tol_mm:
            said[now] = "It is longer already than the print allows."
    return said


def corner_included_deg(pair: LeadIns) -> float:
    """Return the angle between floor and wall chamfer in the corner [°]: the wall's leans back by the wheel's angle."""
    return 90 + mitre(floor_deg=pair.floor_deg, wall_deg=pair.wall_deg).wheel_deg


def lead_in_surfaces(pair: LeadIns, first: int, sizes: Mapping[str, PairSize]) -> list[Formed]:
    """Return the wall's chamfer and the floor's, numbered from ``first`` in the order they are finished."""
    made = mitre(floor_deg=pair.floor_deg, wall_deg=pair.wall_deg)
    lean = math.cos(math.radians(made.wheel_deg))
    sin_wall, sin_floor = (math.sin(math.radians(each)) for each in (pair.wall_deg, pair.floor_deg))
    held = _held(pair)
    after = (pair.on_face, pair.wall_face, pair.end)
    under = OPPOSITE[pair.on_face]
    wall = _chamfer(
        pair, "wall", first, Decimal(repr(lean / sin_wall)), held=held, after=after, under=under,
        feeding=Feeding("across", Decimal(repr(round(lean, 9))), plunged=True),
    )  # fmt: skip
    floor = _chamfer(
        pair, "floor", first + 1, Decimal(repr(1 / sin_floor)), held=held, after=(*after, first), under=under,
        feeding=Feeding(),
    )  # fmt: skip
    return [wall, floor]


def _chamfer(
    pair: LeadIns,
    which: str,
    number: int,
    rate: Decimal,
    *,
    held: Holding,
    after: tuple[int, ...],
    under: int,
    feeding: Feeding,
) -> Formed:
    wall = which == "wall"
    long, now = (pair.wall_long_mm, pair.wall_now_mm) if wall else (pair.floor_long_mm, pair.floor_now_mm)
    other = pair.floor_long_mm if wall else pair.wall_long_mm
    degrees = Decimal(repr(pair.wall_deg if wall else pair.floor_deg))
    name, tol, angle_tol = f"{pair.name} {which}", pair.long_tol_mm, Decimal(repr(pair.angle_tol_deg))
    surface = Surface(
        number, name, under, kind=FORMED, words=f"{pair.name}, {which}", per_feed=rate.quantize(KEPT), after=after
    )
    size = sized(long, min(tol, long - Decimal("0.0001")), tol, now)
    to = pair.wall_face if wall else pair.on_face
    asked = (
        Asked(name, "size", (number, to), long, size.tol_minus_mm, tol),
        Asked(f"{name} °", "angle", (number, to), degrees, angle_tol, angle_tol),
    )
    sides = sorted((float(long), float(other)), reverse=True)
    lying = Lying(sides[0], sides[1], 20.0)
    group = f"{number}+{number + 1}" if wall else f"{number - 1}+{number}"
    left_alone = now >= size.target_mm - size.tol_minus_mm
    return Formed(surface, size, long, lying, feeding, held, asked, group, left_alone=left_alone)


def _held(pair: LeadIns) -> Holding:
    made = mitre(floor_deg=pair.floor_deg, wall_deg=pair.wall_deg)
    roll = roll_corner(diameter_mm=AIM_ROLL_MM, included_deg=corner_included_deg(pair))
    return Holding(
        "sine_plate",
        f"Tilted {pair.floor_deg:g}°, turned {made.rotate_deg:.3f}° in plan, the wheel's side at {made.wheel_dms}: the "
        "floor's chamfer lies level, the wall's along the travel.",
        "the plate's stack, the turn in plan, and the wheel's side",
        tuple(mitre_steps(made)[:3]),
        (
            *mitre_steps(made)[3:7],
            f"A {AIM_ROLL_MM:g} mm roll in the corner reads {roll.reading_mm:.4f} mm from the corner when both are "
            "where the print has them: what the reading lacks is left to take.",
            "The corner stays sharp: a hard, fine wheel, 80 to 150 K; rough it before hardening if there is much.",
        ),
        ("stack", "foil", "angle back", "turned in plan", "wheel shape", "room"),
    )


def lead_ins_drawn(pair: LeadIns, frame: Frame) -> list[Drawn]:
    """Return two lead-ins' outlines: the floor's falls to the end, the wall's turns away from its side."""
    up, wall, end = f"face{pair.on_face}", f"face{pair.wall_face}", f"face{pair.end}"
    floor_long, wall_long = float(pair.floor_long_mm), float(pair.wall_long_mm)
    drop = floor_long * math.tan(math.radians(pair.floor_deg))
    aside = wall_long * math.tan(math.radians(pair.wall_deg))
    wide = frame.sizes[AXIS[pair.wall_face]]
    floor = (
        frame.at(**{up: 0, wall: 0, end: floor_long}),
        frame.at(**{up: 0, wall: wide, end: floor_long}),
        frame.at(**{up: drop, wall: wide, end: 0}),
        frame.at(**{up: drop, wall: 0, end: 0}),
    )
    beside = (
        frame.at(**{up: 0, wall: 0, end: wall_long}),
        frame.at(**{up: 0, wall: aside, end: 0}),
        frame.at(**{up: drop, wall: aside, end: 0}),
    )
    return [
        Drawn(pair.name, floor, (pair.on_face, pair.end), closed=True, words=pair.name),
        Drawn(pair.name, beside, (pair.on_face, pair.wall_face, pair.end)),
    ]

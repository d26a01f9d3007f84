"""What is ground at an edge between two faces: an outside radius, swung; and a break at 45°."""

import math
from collections.abc import Mapping
from decimal import Decimal

from zesty_lark.core.angles_slots.radii import arc
from zesty_lark.core.part.faces import AXIS, OPPOSITE
from zesty_lark.core.part.surfaces.features import EdgeBreak, Radius
from zesty_lark.core.part.surfaces.formed import FORMED, PLAIN, Asked, Feeding, Formed, Holding, sized
from zesty_lark.core.part.surfaces.on_block import Drawn, Frame, Point, third
from zesty_lark.core.part.surfaces.part import AXES, Lying, PairSize
from zesty_lark.core.part.surfaces.surface import RADIUS, Surface

RADIUS_ASKS = {
    "on_face": "Between",
    "to_face": "and",
    "radius_mm": "Radius",
    "radius_minus_mm": "Radius −",
    "radius_plus_mm": "Radius +",
    "radius_now_mm": "From its centre now",
    "peak_um": "Peaks at most, µm",
}
"""What taking one in asks, in this order, and what each is called."""
BREAK_ASKS = {
    "on_face": "Between",
    "to_face": "and",
    "flat_mm": "Flat",
    "flat_tol_mm": "Flat ±",
    "flat_now_mm": "Flat now",
}
"""What taking one in asks, in this order, and what each is called."""
ARC_PARTS = 8

QUARTER_DEG = 90.0
KICKS = "Run the table clear past the wheel's back before the fixture comes off: with the magnet off it can kick up."


def edge_wrong(edge: Radius | EdgeBreak, sizes: Mapping[str, PairSize]) -> dict[str, str]:
    """Return what of an edge does not go with its block, by field, in words."""
    if AXIS[edge.on_face] == AXIS[edge.to_face]:
        return {"to_face": f"Faces {edge.on_face} and {edge.to_face} have no edge in common."}
    room = min(sizes[AXIS[edge.on_face]].target_mm, sizes[AXIS[edge.to_face]].target_mm)
    if isinstance(edge, Radius):
        said = {}
        if edge.radius_mm >= room:
            said["radius_mm"] = "The radius is larger than the part."
        if edge.radius_minus_mm >= edge.radius_mm:
            said["radius_minus_mm"] = "The tolerance leaves nothing of the radius."
        if edge.radius_now_mm < edge.radius_mm - edge.radius_minus_mm:
            said["radius_now_mm"] = "It is smaller already than the print allows."
        return said
    said = {}
    if edge.flat_mm >= room:
        said["flat_mm"] = "The flat is larger than the part."
    if edge.flat_tol_mm >= edge.flat_mm:
        said["flat_tol_mm"] = "The tolerance leaves nothing of the flat."
    if edge.flat_now_mm > edge.flat_mm + edge.flat_tol_mm:
        said["flat_now_mm"] = "It is wider already than the print allows."
    return said


def _run_mm(edge: Radius | EdgeBreak, sizes: Mapping[str, PairSize]) -> float:
    """How long an edge is [mm]."""
    run = next(axis for axis in AXES if axis not in (AXIS[edge.on_face], AXIS[edge.to_face]))
    return float(sizes[run].goal_mm)


def radius_surfaces(radius: Radius, number: int, sizes: Mapping[str, PairSize]) -> list[Formed]:
    """Return an outside radius as a surface: its size is how far it stands from the fixture's centre."""
    name, minus, plus = f"{radius.name} radius", radius.radius_minus_mm, radius.radius_plus_mm
    swing = arc(radius_mm=float(radius.radius_mm), sweep_deg=QUARTER_DEG, allow_mm=radius.peak_um / 1000)
    surface = Surface(
        number,
        name,
        OPPOSITE[radius.on_face],
        kind=FORMED,
        words=radius.name,
        part=RADIUS,
        after=(radius.on_face, radius.to_face),
    )
    held = Holding(
        "spin_fixture",
        f"Swung about the fixture's centre: the wheel {radius.radius_mm.normalize():f} mm over it, {swing.steps} steps "
        f"of {swing.step_deg:.2f}°, peaks {1000 * swing.peak_mm:.2f} µm.",
        "the fixture's centre and the wheel's height",
        (
            "The fixture's centre height known; the part's edge set to it with an indicator.",
            f"The stop at each end of {QUARTER_DEG:g}°, swung by hand once, the wheel still.",
        ),
        (f"Each pass is a whole swing: {swing.steps} steps, or steadily.", KICKS),
        ("indicated", "swing", "room"),
    )
    asked = Asked(name, "size", (number, radius.to_face), radius.radius_mm, minus, plus)
    around = math.pi / 2 * float(radius.radius_mm)
    return [
        Formed(
            surface,
            sized(radius.radius_mm, minus, plus, radius.radius_now_mm),
            radius.radius_mm + (plus - minus) / 2,
            Lying(_run_mm(radius, sizes), around, float(sizes[AXIS[radius.on_face]].goal_mm)),
            PLAIN,
            held,
            (asked,),
            str(number),
            left_alone=radius.radius_now_mm <= radius.radius_mm + plus,
        )
    ]


def break_surfaces(edge: EdgeBreak, number: int, sizes: Mapping[str, PairSize]) -> list[Formed]:
    """Return an edge break as a surface: its flat grows by twice what is fed down."""
    name = f"{edge.name} flat"
    surface = Surface(
        number, name, OPPOSITE[edge.on_face], kind=FORMED, words=edge.name, per_feed=Decimal(2),
        after=(edge.on_face, edge.to_face),
    )  # fmt: skip
    held = Holding(
        "vee_block",
        "In a vee block, the edge up: the flat lies level at 45°.",
        "the vee block",
        ("Both faces wiped and bedded in the vee; the clamp below the edge.", "The edge indicated along the travel."),
        ("A downfeed below the sharp corner leaves a flat twice as wide.",),
        ("vee", "indicated", "room"),
    )
    asked = Asked(name, "size", (number, edge.to_face), edge.flat_mm, edge.flat_tol_mm, edge.flat_tol_mm)
    return [
        Formed(
            surface,
            sized(edge.flat_mm, edge.flat_tol_mm, edge.flat_tol_mm, edge.flat_now_mm),
            edge.flat_mm,
            Lying(_run_mm(edge, sizes), float(edge.flat_mm), float(sizes[AXIS[edge.on_face]].goal_mm)),
            Feeding(plunged=True),
            held,
            (asked,),
            str(number),
            left_alone=edge.flat_now_mm >= edge.flat_mm - edge.flat_tol_mm,
        )
    ]


def radius_drawn(radius: Radius, frame: Frame) -> list[Drawn]:
    """Return a radius' ends and where it begins on its two faces."""
    one, other = third(radius.on_face, radius.to_face)
    r, long = float(radius.radius_mm), frame.sizes[AXIS[one]]
    up, side = f"face{radius.on_face}", f"face{radius.to_face}"

    def at(turn: float, along: float) -> Point:
        return frame.at(**{up: r - r * math.cos(turn), side: r - r * math.sin(turn), f"face{one}": along})

    turns = [number * math.pi / 2 / ARC_PARTS for number in range(ARC_PARTS + 1)]
    lines = [
        Drawn(radius.name, (at(0, 0), at(0, long)), (radius.on_face,), words=radius.name),
        Drawn(radius.name, (at(math.pi / 2, 0), at(math.pi / 2, long)), (radius.to_face,)),
    ]
    ends = ((one, 0.0), (other, long))
    return lines + [Drawn(radius.name, tuple(at(turn, along) for turn in turns), (end,)) for end, along in ends]


def break_drawn(edge: EdgeBreak, frame: Frame) -> list[Drawn]:
    """Return an edge break's flat."""
    one, other = third(edge.on_face, edge.to_face)
    off, long = float(edge.flat_mm) / math.sqrt(2), frame.sizes[AXIS[one]]
    up, side, begin = f"face{edge.on_face}", f"face{edge.to_face}", f"face{one}"
    ring = (
        frame.at(**{up: 0, side: off, begin: 0}),
        frame.at(**{up: 0, side: off, begin: long}),
        frame.at(**{up: off, side: 0, begin: long}),
        frame.at(**{up: off, side: 0, begin: 0}),
    )
    return [Drawn(edge.name, ring, (edge.on_face, edge.to_face), closed=True, words=edge.name)]

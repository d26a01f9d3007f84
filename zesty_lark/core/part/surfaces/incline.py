"""An inclined face: on a sine plate at its angle, or at two on a compound one, so that it lies level."""

from collections.abc import Mapping
from decimal import Decimal

from zesty_lark.core.angles_slots.compound import Normal, face_normal
from zesty_lark.core.part.faces import AXIS, OPPOSITE
from zesty_lark.core.part.surfaces.features import Incline
from zesty_lark.core.part.surfaces.formed import FORMED, Asked, Feeding, Formed, Holding, sized
from zesty_lark.core.part.surfaces.on_block import Drawn, Frame, Point, third
from zesty_lark.core.part.surfaces.part import AXES, Lying, PairSize
from zesty_lark.core.part.surfaces.surface import Surface
from zesty_lark.core.quantities.angles import dms_text

INCLINE_ASKS = {
    "on_face": "Falls from",
    "falls_to": "towards",
    "angle_deg": "Angle",
    "angle_tol_deg": "Angle ±",
    "across_deg": "Second angle, across",
    "height_mm": "Height at its high edge",
    "height_minus_mm": "Height −",
    "height_plus_mm": "Height +",
    "height_now_mm": "Height now",
}
"""What taking one in asks, in this order, and what each is called."""

KEPT = Decimal("0.000000001")


def incline_normal(incline: Incline) -> Normal:
    """Return its unit normal in a frame whose x points to where it falls, z up from the part."""
    return face_normal(along_deg=-incline.angle_deg, across_deg=incline.across_deg)


def incline_wrong(incline: Incline, sizes: Mapping[str, PairSize]) -> dict[str, str]:
    """Return what of an inclined face does not go with its block, by field, in words."""
    if AXIS[incline.on_face] == AXIS[incline.falls_to]:
        return {"falls_to": f"Face {incline.on_face} does not fall to face {incline.falls_to}."}
    high = sizes[AXIS[incline.on_face]]
    said = {}
    if incline.height_now_mm > high.measured_max_mm:
        said["height_now_mm"] = f"The part is only {high.measured_max_mm.normalize():f} mm high there."
    if incline.height_minus_mm >= incline.height_mm:
        said["height_minus_mm"] = "The tolerance leaves nothing of the height."
    if incline.height_now_mm < incline.height_mm - incline.height_minus_mm:
        said["height_now_mm"] = "It is lower already than the print allows."
    return said


def incline_surfaces(incline: Incline, number: int, sizes: Mapping[str, PairSize]) -> list[Formed]:
    """Return an inclined face as a surface."""
    nz = Decimal(repr(incline_normal(incline).nz))
    name = f"{incline.name} height"
    under = OPPOSITE[incline.on_face]
    surface = Surface(
        number, name, under, kind=FORMED, words=incline.name, per_feed=(-1 / nz).quantize(KEPT),
        after=(incline.on_face, incline.falls_to, OPPOSITE[incline.falls_to]),
    )  # fmt: skip
    slope = float(sizes[AXIS[incline.falls_to]].goal_mm) / float(nz)
    third = next(axis for axis in AXES if axis not in (AXIS[incline.on_face], AXIS[incline.falls_to]))
    sides = sorted((slope, float(sizes[third].goal_mm)), reverse=True)
    minus, plus = incline.height_minus_mm, incline.height_plus_mm
    goal = incline.height_mm + (plus - minus) / 2
    angle, tol = Decimal(repr(incline.angle_deg)), Decimal(repr(incline.angle_tol_deg))
    asked = [
        Asked(name, "size", (number, under), incline.height_mm, minus, plus),
        Asked(f"{incline.name} angle", "angle", (number, under), angle, tol, tol),
    ]
    if incline.across_deg:
        second = Decimal(repr(abs(incline.across_deg)))
        asked.append(Asked(f"{incline.name} across", "angle", (number, under), second, tol, tol))
    return [
        Formed(
            surface,
            sized(incline.height_mm, minus, plus, incline.height_now_mm),
            goal,
            Lying(sides[0], sides[1], float(sizes[AXIS[incline.on_face]].goal_mm)),
            Feeding(),
            _held(incline),
            tuple(asked),
            str(number),
            left_alone=incline.height_now_mm <= incline.height_mm + plus,
        )
    ]


def _held(incline: Incline) -> Holding:
    two = bool(incline.across_deg)
    plate = "compound sine plate" if two else "sine plate"
    angle = dms_text(incline.angle_deg) + (f" and {dms_text(abs(incline.across_deg))}" if two else "")
    return Holding(
        "compound_plate" if two else "sine_plate",
        f"On the {plate} at {angle}, its lower end to the stop: the face lies level under the wheel.",
        f"the {plate} and its stack",
        (
            "Rolls, plate and blocks stoned and wiped; stack wrung large to small.",
            f"Face {incline.falls_to} up the slope, the part against the plate's own stop, clamped.",
            "A thin foil goes under no roll; the plate's fence indicated along the travel.",
            "Stack checked back: an indicator over the level face of a master reads zero end to end.",
        ),
        ("Guard, the plate's end and the clamps cleared by hand, the wheel still, before the table runs.",),
        ("stack", "foil", "indicated", "angle back", "room"),
    )


def incline_drawn(incline: Incline, frame: Frame) -> list[Drawn]:
    """Return an inclined face's four corners: where its plane meets the block's sides, down to the foot at most."""
    normal = incline_normal(incline)
    up, low = incline.on_face, incline.falls_to
    high_side = OPPOSITE[low]
    one, other = third(up, low)
    long, wide = frame.sizes[AXIS[low]], frame.sizes[AXIS[one]]
    whole, top = frame.sizes[AXIS[up]], float(incline.height_mm)

    def corner(along: float, across: float) -> Point:
        height = top - (normal.nx * along + normal.ny * across) / normal.nz
        down = whole - min(max(height, 0.0), whole)
        return frame.at(**{f"face{up}": down, f"face{high_side}": along, f"face{one}": across})

    ring = (corner(0, 0), corner(long, 0), corner(long, wide), corner(0, wide))
    return [Drawn(incline.name, ring, (up, one, other, low, high_side), closed=True, words=incline.name)]

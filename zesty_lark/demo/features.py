"""The keyway of the guide shoe, and the angles of the index wedge, as their prints give them."""

from decimal import Decimal

from zesty_lark.core.part.surfaces.features import EdgeBreak, Incline, LeadIns, Radius, Slot

D = Decimal
GUIDE_SHOE = (
    Slot(
        name="keyway",
        on_face=1,
        datum=3,
        centre_mm=D("30"),
        position_tol_mm=D("0.02"),
        width_mm=D("18"),
        width_minus_mm=D("0"),
        width_plus_mm=D("0.018"),
        left_now_mm=D("21.06"),
        right_now_mm=D("38.98"),
        depth_mm=D("8"),
        depth_tol_mm=D("0.05"),
        depth_now_mm=D("7.9"),
        undercut_mm=D("0.5"),
    ),
)
INDEX_WEDGE = (
    Incline(
        name="wedge",
        on_face=2,
        falls_to=6,
        angle_deg=17.5,
        angle_tol_deg=0.01,
        height_mm=D("24.5"),
        height_minus_mm=D("0.02"),
        height_plus_mm=D("0.02"),
        height_now_mm=D("24.58"),
    ),
    LeadIns(
        name="lead-in",
        on_face=1,
        wall_face=3,
        end=4,
        floor_deg=22.0,
        wall_deg=14.0,
        angle_tol_deg=0.05,
        floor_long_mm=D("6"),
        wall_long_mm=D("8"),
        long_tol_mm=D("0.2"),
        floor_now_mm=D("5.7"),
        wall_now_mm=D("7.4"),
    ),
    Radius(
        name="nose",
        on_face=1,
        to_face=6,
        radius_mm=D("1.5"),
        radius_minus_mm=D("0.01"),
        radius_plus_mm=D("0.01"),
        radius_now_mm=D("1.53"),
    ),
    EdgeBreak(name="edge", on_face=1, to_face=5, flat_mm=D("0.5"), flat_tol_mm=D("0.05"), flat_now_mm=D("0.3")),
)
